// What goes wrong in an application is told with a code and a hint: thrown where a call is at fault, on the map and as an event
// where data are.
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { FlintMap, Sheet } from 'flintwright';
import { box, collection, faultsOf, openMap, point, settled, useStage } from './harness.ts';

const stage = useStage();
const sheet: Sheet = {
  sheet: 1,
  background: '#ffffff',
  palette: { water: '#88aacc' },
  bookmarks: { Harbour: { center: [1, 1], zoom: 6 } },
  data: {
    beds: { features: collection(box(-3, -3, 6, { name: 'Bed' })) },
    named: { features: collection(point(1, 1, { code: 'x' })), id: 'code' },
  },
  layers: [
    { id: 'beds', of: 'beds', fill: '#5fa8a0' },
    { id: 'named', of: 'named', mark: { size: 8 } },
  ],
};

/** What a call in the page throws, or rejects with. */
async function thrown(call: (map: FlintMap) => unknown): Promise<{ code: string; message: string; hint: string }> {
  return stage.page.evaluate(async (text) => {
    try {
      await (window as unknown as { calls: Record<string, (map: unknown) => unknown> }).calls[text](window.map);
    } catch (error) {
      const { code, message, hint } = error as { code: string; message: string; hint: string };
      return { code, message, hint };
    }
    throw new Error('nothing was refused');
  }, String(call));
}

describe('a call at fault throws, and changes nothing', () => {
  const calls: readonly (readonly [string, string, (map: FlintMap) => unknown])[] = [
    ['layer.unknown', 'beds', (map) => map.layers.change('bedz', { visible: false })],
    ['layer.data', 'beds', (map) => map.layers.feed('beds', { features: '' })],
    ['bookmark.unknown', 'Harbour', (map) => map.bookmarks.go('Harbor')],
    ['frame.empty', 'place', (map) => map.frame([])],
    ['place.swapped', 'swapped', (map) => map.move({ center: [44.6, -131.2] })],
    ['place.form', 'longitude', (map) => map.move({ center: 'here' as never })],
    ['edit.key', 'no feature', (map) => map.edit('named', { remove: ['y'] })],
    ['edit.point', 'put', (map) => map.edit('beds', { move: { '#0': [0, 0] } })],
    ['marker.icon', 'anchr', (map) => map.markers.add({ at: [0, 0], icon: 'anchr' })],
    ['marker.size', '0', (map) => map.markers.add({ at: [0, 0], size: 0 })],
    ['flag.key', 'ids', (map) => map.flag({ data: 'beds', from: '', key: undefined } as never, 'selected')],
    ['sheet.invalid', 'fil', (map) => map.setSheet({ sheet: 1, layers: [{ id: 'a', of: 'b', fil: 1 }] } as never)],
    ['surface.unknown', 'globe', (map) => map.setSurface('glob')],
    ['option.unknown', '"zoom"', (map) => map.move({ zom: 8 } as never)],
    ['option.unknown', 'second argument', (map) => map.move({ zoom: 8, duration: 300 } as never)],
    ['option.form', 'center: [longitude', (map) => map.move([1, 1] as never)],
    ['option.unknown', '"duration"', (map) => map.move({ zoom: 8 }, { durations: 300 } as never)],
    ['option.kind', 'a number', (map) => map.move({ zoom: 8 }, { duration: 'slow' } as never)],
    ['option.unknown', '"padding"', (map) => map.frame('beds', { paddings: 3 } as never)],
    ['frame.target', '[west, south, east, north]', (map) => map.frame(7 as never)],
    ['sheet.invalid', 'layers', (map) => map.setSheet({ sheet: 1 } as never)],
    ['sheet.invalid', 'layers', (map) => map.setSheet({ sheet: 1, layers: 7 } as never)],
    ['sheet.invalid', 'layers', (map) => map.setSheet({ sheet: 1, layers: [null] } as never)],
    ['option.form', 'expected a sheet, got 7', (map) => map.setSheet(7 as never)],
    ['option.form', 'expected a sheet, got null', (map) => map.setSheet(null as never)],
    ['view.number', '"12"', (map) => map.move({ zoom: '12' as never })],
    ['option.form', '"Hi"', (map) => map.popup('Hi' as never)],
    ['option.unknown', '"html"', (map) => map.popup({ at: [0, 0], htm: 'Hi' } as never)],
    ['popup.empty', 'title', (map) => map.popup({ at: [0, 0] })],
    ['option.form', 'a list of 2', (map) => map.markers.add([1, 1] as never)],
    ['option.unknown', '"icon"', (map) => map.markers.add({ at: [0, 0], icn: 'anchor' } as never)],
    ['option.kind', 'true or false', (map) => map.markers.add({ at: [0, 0], draggable: 'yes' } as never)],
    ['option.unknown', '"within"', (map) => map.pick([0, 0], { withn: 3 } as never)],
    ['option.unknown', '"remove"', (map) => map.edit('named', { remov: ['x'] } as never)],
    ['option.form', 'fill', (map) => map.layers.change('beds', 'red' as never)],
    ['palette.unknown', '"water"', (map) => map.setPalette({ watr: '#a9c3cc' })],
    ['option.unknown', '"center"', (map) => map.bookmarks.keep('Here', { centre: [0, 0] } as never)],
    ['option.unknown', '"title"', (map) => map.legend({ titel: 'Key' } as never)],
    ['option.kind', 'a function', (map) => map.popupFor('beds', { title: 'Bed' } as never)],
    ['host.taken', 'remove()', () => window.flintwright.createMap('#map')],
    ['host.missing', 'selector', () => window.flintwright.createMap('#mapp')],
    ['option.unknown', 'view: {', () => window.flintwright.createMap('#other', { center: [0, 0] } as never)],
    ['option.unknown', '"limits"', () => window.flintwright.createMap('#other', { limit: { zoom: [1, 2] } } as never)],
    ['request.host', 'without scheme', () => window.flintwright.forHost('https://tiles.example', {})],
    ['option.unknown', '"query"', () => window.flintwright.forHost('tiles.example', { querry: {} } as never)],
    ['option.unknown', '"parts"', (map) => new window.flintwright.Rail(map, { part: ['zoom'] } as never)],
    [
      'option.kind',
      'a function',
      (map) => new window.flintwright.Button(map, { label: 'Go', path: 'M0 0', press: 1 } as never),
    ],
  ];

  test('each with its code, what came, and a hint', async () => {
    await openMap(stage, sheet);
    await settled(stage);
    // Functions do not travel into the page under a policy without eval: they are put there as a script of the page's own.
    const list = calls.map(([, , call]) => `${JSON.stringify(String(call))}: ${String(call)}`).join(',\n');
    await stage.page.route('**/calls.js', (route) =>
      route.fulfill({ contentType: 'text/javascript', body: `window.calls = {${list}};` }),
    );
    await stage.page.addScriptTag({ url: `${stage.base}/calls.js` });
    await stage.page.evaluate(() =>
      document.body.append(Object.assign(document.createElement('div'), { id: 'other' })),
    );
    const before = await stage.page.evaluate(() => [window.map.view, window.map.sheet, window.map.markers.size]);
    const found: unknown[] = [];
    for (const [code, says, call] of calls) {
      const fault = await thrown(call);
      found.push([fault.code, `${fault.message} ${fault.hint}`.includes(says)]);
      expect(fault.hint).toMatch(/[.?]$/);
      expect([code, fault.code]).toEqual([code, code]);
    }
    expect(found).toEqual(calls.map(([code]) => [code, true]));
    expect(await stage.page.evaluate(() => [window.map.view, window.map.sheet, window.map.markers.size])).toEqual(
      before,
    );
  });
});

describe('handlers that change the map', () => {
  test('have their changes hold at once and told in order; a circle is refused, and the map goes on', async () => {
    await openMap(stage, sheet);
    await settled(stage);
    const { heard, circle, after } = await stage.page.evaluate(async () => {
      const { map } = window;
      const heard: string[] = [];
      const answer = () => {
        // A change within a change holds at once, for whoever asks.
        if (map.view.zoom === 6) void map.move({ zoom: 7 });
        heard.push(`first ${map.view.zoom}`);
      };
      const listen = (event: Event) => heard.push(`second ${(event as CustomEvent<{ zoom: number }>).detail.zoom}`);
      map.addEventListener('viewchange', answer);
      map.addEventListener('viewchange', listen);
      await map.move({ zoom: 6 });
      map.removeEventListener('viewchange', answer);
      map.removeEventListener('viewchange', listen);
      const restless = () => void map.move({ bearing: map.view.bearing + 1 });
      map.addEventListener('viewchange', restless);
      let circle = 'taken';
      try {
        await map.move({ zoom: 8 });
      } catch (error) {
        circle = (error as { code: string }).code;
      }
      map.removeEventListener('viewchange', restless);
      await map.move({ zoom: 9, bearing: 0 });
      await map.settled();
      return { heard, circle, after: [map.view.zoom, map.view.bearing] };
    });
    expect(heard).toEqual(['first 7', 'second 6', 'first 7', 'second 7']);
    expect([circle, after]).toEqual(['map.circle', [9, 0]]);
  });
});

describe('states that nothing shows are told of', () => {
  test('once each, with the nearest right name; those that show are not', async () => {
    const { page } = stage;
    const looks = { hover: { fill: { opacity: 1 } }, visited: { fill: '#d98a2b' } };
    await openMap(stage, {
      ...sheet,
      layers: [{ id: 'beds', of: 'beds', fill: '#5fa8a0', select: 'one', states: looks }, sheet.layers[1]],
    });
    await settled(stage);
    await page.evaluate(() => {
      const { map } = window;
      for (const state of ['visited', 'selected', 'hover']) map.flag({ data: 'beds', key: '#0' }, state);
      for (const state of ['visted', 'visted', 'crowned']) {
        map.flag({ data: 'beds', key: '#0' }, state);
        map.flag({ data: 'beds', key: '#1' }, state);
      }
      map.flag({ data: 'bed', key: '#0' }, 'visited');
      map.flag({ data: 'named', key: 'x' }, 'visited');
      // Set before there is a layer for it, in the same breath.
      map.flag({ data: 'named', key: 'x' }, 'found');
      map.layers.add({ id: 'finds', of: 'named', mark: { size: 8 }, states: { found: { mark: { size: 20 } } } });
    });
    await settled(stage);
    const told = await page.evaluate(() =>
      window.faults
        .filter(({ code }) => code !== 'flag.missing')
        .map(({ code, message, hint }) => [code, message, hint]),
    );
    expect(told).toEqual([
      ['flag.state', expect.stringContaining('"visted"'), 'Did you mean "visited"?'],
      ['flag.state', expect.stringContaining('"crowned"'), expect.stringContaining('"states": { "crowned"')],
      ['flag.data', expect.stringContaining('"bed"'), 'Did you mean "beds"?'],
      ['flag.state', expect.stringContaining('"named"'), expect.any(String)],
    ]);
  });
});

describe('data at fault are told of', () => {
  let server: Server;
  let host = '';
  const answers: Record<string, [number, string | Buffer, string?]> = {
    '/page.geojson': [200, '<!doctype html><title>Not here</title>'],
    '/none.json': [200, '{"tilejson":"3.0.0","tiles":[]}'],
    '/broken.pmtiles': [200, 'PMTiles no more'],
    '/gone.geojson': [404, 'gone'],
    '/table.csv': [200, 'name,berths\na,1\n'],
  };

  beforeAll(async () => {
    server = createServer((request, response) => {
      const [status, body, type = 'text/plain'] = answers[request.url ?? ''] ?? [404, ''];
      response.writeHead(status, { 'content-type': type, 'access-control-allow-origin': '*' });
      response.end(body);
    });
    await new Promise<void>((resolve) => server.listen(0, 'localhost', resolve));
    host = `http://localhost:${(server.address() as AddressInfo).port}`;
  });
  afterAll(() => new Promise((resolve) => server.close(resolve)));

  test.each<[string, string, object, object]>([
    ['file.format', 'login', { features: '/page.geojson' }, { fill: '#000000' }],
    ['tilejson.form', '"tiles"', { tiles: '/none.json' }, { of: 'd/x', fill: '#000000' }],
    ['request.range', 'range', { tiles: '/broken.pmtiles' }, { of: 'd/x', fill: '#000000' }],
    ['request.', '404', { features: '/gone.geojson' }, { fill: '#000000' }],
    ['table.place', 'lon', { features: '/table.csv' }, { mark: { size: 8 } }],
    ['images.address', '{z}', { images: '/{x}/{y}.png' }, { image: {} }],
    ['images.address', '{z}', { images: '/{z}/{x}.png' }, { image: {} }],
  ])('%s', async (code, says, data, layer) => {
    stage.expected = /./;
    const whole = Object.fromEntries(Object.entries(data).map(([key, path]) => [key, `${host}${String(path)}`]));
    await openMap(stage, {
      sheet: 1,
      data: { d: whole },
      layers: [{ id: 'l', of: 'd', ...layer }],
    } as unknown as Sheet);
    await stage.page.waitForFunction(() => window.faults.length > 0);
    const faults = await faultsOf(stage);
    const told = await stage.page.locator('.flint-notice').textContent();
    expect({ code, all: faults.map((fault) => fault.code) }).toEqual({
      code,
      all: expect.arrayContaining([expect.stringContaining(code)]) as unknown as string[],
    });
    // It stands on the map, too, in words that a person can act on.
    expect(told).toContain(says);
  });
});
