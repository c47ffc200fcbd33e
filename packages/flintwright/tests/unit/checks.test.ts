import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { Fault } from '@flintwright/core';
import { checkOptions, valueText } from '../../src/base/check-options.js';
import { isPath } from '@flintwright/core/internal';
import { forHost } from '../../src/load/for-host.js';
import { HostsTried } from '../../src/load/request.js';
import { TileFaults } from '../../src/load/tile-faults.js';
import { safeAddress } from '../../src/overlay/safe-link.js';

const faultOf = (act: () => unknown): { code: string; message: string; hint: string } => {
  try {
    act();
  } catch (error) {
    return error as Fault;
  }
  throw new Error('nothing was refused');
};

describe('the options of a call', () => {
  const table = {
    duration: 'number',
    easing: 'text|function',
    signal: 'any',
    list: 'list',
    on: 'switch',
    more: 'object',
  };
  const check = (options: unknown) =>
    checkOptions('map.move', options, table, '{ duration: 600 }', { zoom: 'Put it first.' });

  test.each([
    [{}],
    [{ duration: 600 }],
    [{ duration: undefined, easing: 'linear' }],
    [{ easing: (t: number) => t, list: [], on: false, more: {} }],
    [{ signal: 7 }],
  ])('%j is fine', (options) => {
    expect(() => check(options)).not.toThrow();
  });

  test.each<[unknown, string, RegExp]>([
    ['fast', 'option.form', /expected an object, got "fast".*Write \{ duration: 600 \}/],
    [[600], 'option.form', /a list of 1/],
    [null, 'option.form', /null/],
    [() => 1, 'option.form', /a function/],
    [{ duraton: 600 }, 'option.unknown', /has no option "duraton".*Did you mean "duration"/],
    [{ quite: 1, other: 2 }, 'option.unknown', /Allowed: duration, easing, signal/],
    [{ zoom: 8 }, 'option.unknown', /Put it first/],
    [{ duration: '600' }, 'option.kind', /"duration" of map.move is "600".*Give a number/],
    [{ duration: NaN }, 'option.kind', /NaN/],
    [{ easing: 3 }, 'option.kind', /a text, or a function/],
    [{ list: {} }, 'option.kind', /an object.*a list/],
    [{ on: 1 }, 'option.kind', /true or false/],
    [{ more: [] }, 'option.kind', /a list of 0.*an object/],
    [{ constructor: 1 }, 'option.unknown', /constructor/],
  ])('%j is refused with %s', (options, code, says) => {
    const fault = faultOf(() => check(options));
    expect([fault.code, `${fault.message} ${fault.hint}`]).toEqual([code, expect.stringMatching(says)]);
  });

  test('values are shown short, and as they were written', () => {
    expect([undefined, 3, 'a', {}, [1, 2], 'x'.repeat(90)].map(valueText)).toEqual([
      'undefined',
      '3',
      '"a"',
      'an object',
      'a list of 2',
      `"${'x'.repeat(60)}…"`,
    ]);
  });
});

describe('path data (SVG 2, 9.3)', () => {
  test.each(['M0 0', 'm1.5-2L3 4z', ' M.5.5C1,2 3,4 5,6Z', 'M1e1 2a3 3 0 1 0 .01 0Z'])('%s is', (text) => {
    expect(isPath(text)).toBe(true);
  });
  test.each(['', 'L0 0', 'M', 'Mast', 'M0 0 B3 4', '<path d="M0 0"/>', '/icons/M0.svg', 'M0 0;'])(
    '%s is none',
    (text) => {
      expect(isPath(text)).toBe(false);
    },
  );
});

describe('an address that a link may lead to', () => {
  const base = 'https://page.example/app/';
  test.each([
    ['https://reach.example/a b', 'https://reach.example/a%20b'],
    ['beds/1', 'https://page.example/app/beds/1'],
    ['//reach.example/', 'https://reach.example/'],
    ['mailto:office@reach.example', 'mailto:office@reach.example'],
    ['tel:+3120', 'tel:+3120'],
  ])('%s', (address, whole) => {
    expect(safeAddress(address, base)).toBe(whole);
  });
  test.each([
    'javascript:alert(1)',
    ' JaVaScRiPt:alert(1)',
    'java\nscript:alert(1)',
    'data:text/html,x',
    'vbscript:x',
    'file:///etc',
    'https://[',
  ])('%j leads nowhere', (address) => {
    expect(safeAddress(address, base)).toBeUndefined();
  });
});

describe('tiles that fail', () => {
  beforeEach(() => {
    jest.useFakeTimers();
  });
  afterEach(() => {
    jest.useRealTimers();
  });
  const made = () => {
    const told: Fault[] = [];
    const faults = new TileFaults('base', { report: (fault: Fault) => told.push(fault) } as never);
    return { told, faults };
  };
  const fault = (code: string, at: string) =>
    new Fault(code, `tile ${at} was damaged`, 'Write it again.', `tile ${at}`);

  test('alike are one fault with a count; one alone is told as it is', () => {
    const { told, faults } = made();
    faults.failed(fault('mvt.truncated', '1/0/0'));
    faults.failed(fault('mvt.truncated', '1/0/1'));
    faults.failed(fault('request.status', '1/1/1'));
    faults.failed(fault('mvt.truncated', '1/1/0'));
    expect(told).toEqual([]);
    jest.advanceTimersByTime(500);
    expect(told.map(({ code, message, at }) => [code, message, at])).toEqual([
      ['mvt.truncated', '3 tiles of "base" failed alike, the first so: tile 1/0/0 was damaged', 'tile 1/0/0'],
      ['request.status', 'tile 1/1/1 was damaged', 'tile 1/1/1'],
    ]);
  });

  test('are told again only after one has come in between; and at once where nothing more is on its way', () => {
    const { told, faults } = made();
    const fail = () => {
      faults.failed(fault('request.status', '1/0/0'));
      faults.flush();
      return told.length;
    };
    expect([fail(), fail(), fail()]).toEqual([1, 1, 1]);
    faults.came();
    expect(fail()).toBe(2);
    faults.failed(fault('other.code', '1/0/0'));
    faults.remove();
    jest.advanceTimersByTime(5000);
    expect(told).toHaveLength(2);
  });
});

describe('hosts that keys are for', () => {
  const plan = (url: string) => ({ url, headers: {} as Record<string, string> });

  test('a host that requests go to is no fault, one that they never go to is one, once, with the nearest', async () => {
    const hosts = new HostsTried();
    const [right, wrong] = [
      forHost('tiles.example', { query: { key: 'open' } }),
      forHost('tile.example', { headers: { 'x-key': 'open' } }),
    ];
    const hook = hosts.noting((asked) => {
      void right(asked);
      void wrong(asked);
    });
    expect(hosts.faults()).toEqual([]);
    const first = plan('https://tiles.example/1/2/3');
    await hook(first);
    await hook(plan('https://sheets.example/a.json'));
    expect([first.url, first.headers]).toEqual(['https://tiles.example/1/2/3?key=open', {}]);
    const told = hosts.faults();
    expect(told.map(({ code, message, hint }) => [code, message, hint])).toEqual([
      ['request.host', expect.stringContaining('"tile.example"'), 'Did you mean "tiles.example"?'],
    ]);
    expect(hosts.faults()).toEqual([]);
  });

  test('a plan that a hook puts in the place of another counts with its own address', async () => {
    const hosts = new HostsTried();
    const hook = hosts.noting(async (asked) => {
      await forHost('nowhere.example', {})(asked);
      return plan('https://mirror.example/1/2/3');
    });
    await hook(plan('https://tiles.example/1/2/3'));
    expect(hosts.faults().map(({ hint }) => hint)).toEqual(['Requests went to: mirror.example.']);
  });

  test.each([
    'https://tiles.example',
    'tiles.example/v1',
    'tiles.example?x',
    'me@tiles.example',
    '',
    7 as unknown as string,
  ])('%j is refused', (host) => {
    expect(faultOf(() => forHost(host, {})).code).toBe('request.host');
  });
});

describe('where there is no page', () => {
  const globals = globalThis as Record<string, unknown>;
  const imitated = { document: { querySelector: () => ({}) }, HTMLElement: class {}, CSSStyleSheet: class {} };
  afterEach(() => Object.keys(imitated).forEach((name) => delete globals[name]));

  test.each([
    ['on a server', {}],
    ['in a page that is imitated', imitated],
  ])('%s createMap is one fault that says so, and the element is empty', async (_, page) => {
    const { createMap } = await import('../../src/index.js');
    Object.assign(globals, page);
    expect(faultOf(() => createMap('#map'))).toMatchObject({
      code: 'host.page',
      hint: expect.stringContaining('browser'),
    });
    const { FlintMapElement } = await import('../../src/element/flint-map.js');
    const element = Object.create(FlintMapElement.prototype) as InstanceType<typeof FlintMapElement>;
    element.connectedCallback();
    expect(element.map).toBeUndefined();
    element.disconnectedCallback();
  });
});
