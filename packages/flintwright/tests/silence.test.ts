// Nothing stays undrawn in silence: each of these once gave a white page, an empty console or a layer without its points.
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { box, collection, openMap, pixels, point, settled, setSheet, useStage } from './harness.ts';

const stage = useStage();
const beds = collection(
  box(-3, -3, 6, { name: 'Bed', kind: 'silt' }, 1),
  box(5, 5, 2, { name: 'Sill', kind: 'sand' }, 2),
);
const sheet: Sheet = {
  sheet: 1,
  title: 'Beds',
  background: '#ffffff',
  data: { beds: { features: beds } },
  layers: [{ id: 'beds', of: 'beds', fill: '#5fa8a0' }],
};

const codes = () => stage.page.evaluate(() => window.faults.map(({ code }) => code));
const faults = () =>
  stage.page.evaluate(() => window.faults.map(({ code, message, hint }) => ({ code, message, hint })));

let server: Server;
let host = '';
const asked: string[] = [];
let answer: (path: string) => [number, string | Buffer, string?] = () => [404, ''];
beforeAll(async () => {
  server = createServer((request, response) => {
    asked.push(request.url ?? '');
    const [status, body, type = 'application/json'] = answer(request.url ?? '');
    response.writeHead(status, { 'content-type': type, 'access-control-allow-origin': '*' }).end(body);
  });
  await new Promise<void>((resolve) => server.listen(0, 'localhost', resolve));
  host = `localhost:${(server.address() as AddressInfo).port}`;
});
afterAll(() => new Promise((resolve) => server.close(resolve)));

/** Tiles of a data entry at the test's own server. */
const tiled = (more: object = {}): Sheet => ({
  sheet: 1,
  data: { base: { tiles: `http://${host}/{z}/{x}/{y}.mvt`, ...more } },
  layers: [{ id: 'land', of: 'base/land', fill: '#5fa8a0' }],
});

describe('faults are seen', () => {
  test('one that no listener stopped stands in the console, once, with code, place and hint', async () => {
    await openMap(stage, { ...sheet, layers: [...sheet.layers, { id: 'lost', of: 'beds', mark: { icon: 'ancor' } }] });
    await settled(stage);
    await setSheet(stage, { ...sheet, layers: [{ id: 'lost', of: 'beds', mark: { icon: 'ancor' } }] });
    await settled(stage);
    expect(stage.written).toEqual([expect.stringMatching(/^Flintwright, [a-z.]+: .*ancor.*\$\.layers\[1\].*anchor/)]);
    await stage.page.evaluate(() => {
      window.map.addEventListener('fault', (event) => event.preventDefault());
      window.map.flag({ data: 'beds', key: '1' }, 'crowned');
    });
    await stage.page.waitForFunction(() => window.faults.some(({ code }) => code === 'flag.state'));
    expect(stage.written).toHaveLength(1);
  });

  test('a container without a height says so there at once, and recovers', async () => {
    const { page } = stage;
    await page.goto(`${stage.base}/test/`);
    await page.waitForFunction(() => 'flintwright' in window);
    await page.evaluate((given: unknown) => {
      document.querySelector<HTMLElement>('#map')!.style.height = '0';
      window.map = window.flintwright.createMap('#map', { sheet: given as Sheet, view: { center: [0, 0], zoom: 5 } });
    }, sheet as unknown);
    const notice = page.locator('.flint-notice');
    await notice.waitFor();
    expect(await notice.innerText()).toMatch(/800 × 0 pixels[^]*Give it a width and a height/);
    const shown = (await notice.boundingBox())!;
    expect([shown.y >= 0, shown.height > 40]).toEqual([true, true]);
    await page.evaluate(() => (document.querySelector<HTMLElement>('#map')!.style.height = '600px'));
    await notice.waitFor({ state: 'detached' });
    await settled(stage);
    const [middle] = await pixels(stage, [400, 300]);
    expect(middle).toEqual([0x5f, 0xa8, 0xa0]);
  });

  test('tiles that are all missing are one fault, and the entry is not ready', async () => {
    answer = () => [404, ''];
    await openMap(stage, tiled());
    await settled(stage);
    expect(await faults()).toEqual([
      {
        code: 'tiles.missing',
        message: expect.stringContaining('tiles of "base"'),
        hint: expect.stringContaining('{z}'),
      },
    ]);
    expect(await stage.page.evaluate(() => window.map.dataState('base'))).toBe('empty');
  });

  test('tiles that fail alike are one fault with a count, and one card', async () => {
    answer = () => [200, 'no tile at all', 'application/octet-stream'];
    await openMap(stage, tiled());
    await settled(stage);
    await stage.page.waitForFunction(() => window.faults.length > 0);
    const [first, ...others] = await faults();
    expect(others).toEqual([]);
    expect(first.message).toMatch(/^\d+ tiles of "base" failed alike, the first so: /);
    expect(await stage.page.locator('.flint-notice li').count()).toBe(1);
  });

  test('every call of a removed map is refused alike', async () => {
    await openMap(stage, sheet);
    await settled(stage);
    const refused = await stage.page.evaluate(async () => {
      const { map } = window;
      const marker = map.markers.add({ at: [0, 0] });
      map.remove();
      const calls: Record<string, () => unknown> = {
        move: () => map.move({ zoom: 3 }),
        frame: () => map.frame('beds'),
        home: () => map.home(),
        toPixel: () => map.toPixel([0, 0]),
        toPlace: () => map.toPlace([0, 0]),
        setSheet: () => map.setSheet({ sheet: 1, layers: [] }),
        setSurface: () => map.setSurface('globe'),
        setPalette: () => map.setPalette({}),
        edit: () => map.edit('beds', {}),
        pick: () => map.pick([0, 0]),
        flag: () => map.flag({ data: 'beds', key: '1' }, 'hover'),
        select: () => map.select(),
        popup: () => map.popup({ at: [0, 0], text: 'Hi' }),
        popupFor: () => map.popupFor('beds', () => undefined),
        legend: () => map.legend(),
        keepClear: () => map.keepClear(document.body),
        clusterFeatures: () => map.clusterFeatures('beds', 0),
        picture: () => map.picture(),
        settled: () => map.settled(),
        layersAll: () => map.layers.all,
        layersAdd: () => map.layers.add({ id: 'x', of: 'beds', fill: '#000' }),
        layersChange: () => map.layers.change('beds', { opacity: 1 }),
        markersAdd: () => map.markers.add({ at: [0, 0] }),
        markersClear: () => map.markers.clear(),
        bookmarksKeep: () => map.bookmarks.keep('a', { zoom: 1 }),
        bookmarksGo: () => map.bookmarks.go('a'),
      };
      const out: Record<string, string> = {};
      for (const [name, call] of Object.entries(calls)) {
        try {
          await call();
          out[name] = 'taken';
        } catch (error) {
          out[name] = (error as { code: string }).code;
        }
      }
      marker.remove();
      map.remove();
      return out;
    });
    expect(Object.values(refused)).toEqual(Object.keys(refused).map(() => 'map.removed'));
  });
});

describe('what a sheet or a call names and the data do not have is told when they have come', () => {
  test('attributes in filters, scales and labels, with the nearest spelling', async () => {
    await openMap(stage, {
      ...sheet,
      layers: [
        { id: 'right', of: 'beds', fill: '#5fa8a0', where: "kind = 'silt'", label: { text: 'name' } },
        { id: 'wrong', of: 'beds', where: "kindd = 'silt'", fill: '#5fa8a0' },
        {
          id: 'scaled',
          of: 'beds',
          fill: {
            color: {
              by: 'depth',
              ramp: [
                [0, '#fff'],
                [9, '#000'],
              ],
            },
          },
        },
      ],
    });
    await settled(stage);
    expect(await faults()).toEqual([
      { code: 'sheet.attribute', message: expect.stringContaining('"wrong"'), hint: 'Did you mean "kind"?' },
      { code: 'sheet.attribute', message: expect.stringContaining('"depth"'), hint: 'They have: name, kind.' },
    ]);
  });

  test('cells that are to be colors and are none are counted, also for a layer that is added later', async () => {
    await openMap(stage, { ...sheet, layers: [{ id: 'beds', of: 'beds', fill: { color: { is: 'kind' } } }] });
    await settled(stage);
    expect(await faults()).toMatchObject([
      { code: 'warn.colour', message: expect.stringContaining('of layer "beds" ha') },
    ]);
    await stage.page.evaluate(() => {
      window.map.layers.add({ id: 'more', of: 'beds', stroke: { color: { is: 'name' } } });
    });
    await settled(stage);
    const [, second, ...rest] = await faults();
    expect([second, rest]).toMatchObject([{ code: 'warn.colour', message: expect.stringContaining('"name"') }, []]);
  });

  test('features that are flagged or selected and are not there', async () => {
    const looks = { selected: { fill: '#d98a2b' } };
    await openMap(stage, { ...sheet, layers: [{ id: 'beds', of: 'beds', fill: '#5fa8a0', states: looks }] });
    await settled(stage);
    await stage.page.evaluate(() => {
      window.map.flag({ data: 'beds', key: '1' }, 'selected');
      window.map.flag({ data: 'beds', key: '9' }, 'selected');
    });
    await stage.page.waitForFunction(() => window.faults.length > 0);
    expect(await faults()).toEqual([
      { code: 'flag.missing', message: expect.stringContaining('"9"'), hint: expect.stringContaining('data.beds.id') },
    ]);
  });

  test('a center far from all data, and the other way round in them', async () => {
    await openMap(
      stage,
      { ...sheet, data: { beds: { features: collection(box(40, 10, 2)) } } },
      { center: [11, 41], zoom: 7 },
    );
    await settled(stage);
    expect(await faults()).toEqual([
      {
        code: 'view.swapped',
        message: expect.stringContaining('[40, 10, 42, 12]'),
        hint: expect.stringContaining('[41, 11]'),
      },
    ]);
    await openMap(stage, sheet, { center: [90, 60], zoom: 7 });
    await settled(stage);
    expect(await codes()).toEqual(['view.outside']);
    await openMap(stage, sheet, { center: [2, 4], zoom: 7 });
    await settled(stage);
    expect(await codes()).toEqual([]);
  });

  test('a host of forHost that no request goes to', async () => {
    answer = () => [200, JSON.stringify(beds)];
    await stage.page.goto(`${stage.base}/test/`);
    await stage.page.waitForFunction(() => 'flintwright' in window);
    const told = await stage.page.evaluate(
      async ([given, right]) => {
        const { createMap, forHost } = window.flintwright;
        const hooks = [
          forHost(right as string, { query: { key: 'k' } }),
          forHost('tiles.exmple', { query: { key: 'k' } }),
        ];
        const map = createMap('#map', {
          sheet: given as Sheet,
          request: (plan) => hooks.forEach((hook) => void hook(plan)),
        });
        const told: string[] = [];
        map.addEventListener('fault', ({ detail }) => told.push(`${detail.code} ${detail.message} ${detail.hint}`));
        await map.settled();
        return told;
      },
      [{ ...sheet, data: { beds: { features: `http://${host}/beds.geojson` } } }, host] as unknown[],
    );
    expect(told).toEqual([
      expect.stringMatching(/^request.host .*"tiles\.exmple".*Requests went to: localhost:\d+\.$/),
    ]);
    expect(asked.at(-1)).toBe('/beds.geojson?key=k');
  });

  test('a faulty expression of a popup, with the rest of the sheet', async () => {
    const found = await stage.page.goto(`${stage.base}/test/`).then(() =>
      stage.page
        .waitForFunction(() => 'flintwright' in window)
        .then(() =>
          stage.page.evaluate(
            (given: unknown) => window.flintwright.checkSheet(given as Sheet).map(({ code, at }) => [code, at]),
            {
              ...sheet,
              layers: [{ ...sheet.layers[0], popup: { title: 'name (', lines: { Kind: { is: ') kind' } } } }],
            } as unknown,
          ),
        ),
    );
    expect(found).toEqual([
      [expect.stringMatching(/^cql2/), expect.stringContaining('$.layers[0].popup.title')],
      [expect.stringMatching(/^cql2/), expect.stringContaining('$.layers[0].popup.lines.Kind.is')],
    ]);
  });
});

describe('a sheet by its address', () => {
  test('takes the place of another, gives its name to the map, and a missing one leaves all as it was', async () => {
    answer = (path) =>
      path === '/other.sheet.json' ? [200, JSON.stringify({ ...sheet, title: 'Other beds' })] : [404, ''];
    await openMap(stage, `http://${host}/other.sheet.json`);
    await settled(stage);
    const label = () => stage.page.locator('canvas').getAttribute('aria-label');
    expect(await label()).toBe('Other beds');
    const after = await stage.page.evaluate(async (base) => {
      await window.map.setSheet(`${base}/none.sheet.json`);
      const kept = window.map.sheet.title;
      await window.map.setSheet(`${base}/other.sheet.json`);
      return [kept, window.map.sheet.title];
    }, `http://${host}`);
    expect(after).toEqual(['Other beds', 'Other beds']);
    expect(await codes()).toEqual(['request.status']);
  });
});

describe('restyling', () => {
  test('keeps what it does not name', async () => {
    await openMap(stage, {
      ...sheet,
      layers: [
        {
          id: 'beds',
          of: 'beds',
          fill: { color: '#5fa8a0', opacity: 0.5 },
          stroke: [
            { name: 'casing', color: '#000000', width: 6 },
            { color: '#ffffff', width: 2, dash: [4, 2] },
          ],
          label: { text: 'name', color: '#112233' },
          states: { hover: { stroke: { color: '#d98a2b', width: 4 } } },
        },
      ],
    });
    await settled(stage);
    const layers = await stage.page.evaluate(() => {
      const { layers } = window.map;
      const out: unknown[] = [];
      const take = () => out.push(structuredClone(layers.find('beds')));
      layers.change('beds', { stroke: { width: 3 } });
      layers.change('beds', { fill: '#ff0000', label: { size: 14 } });
      take();
      layers.change('beds', { stroke: [{ name: 'casing', width: 8 }] });
      layers.change('beds', { stroke: { dash: null }, states: { hover: { stroke: { width: 9 } } } });
      take();
      layers.change('beds', { stroke: [null], fill: { opacity: null }, label: null });
      take();
      return out;
    });
    const casing = { name: 'casing', color: '#000000', width: 6 };
    const top = { color: '#ffffff', width: 3, dash: [4, 2] };
    const { dash: _, ...plain } = top;
    const label = { text: 'name', color: '#112233', size: 14 };
    const fill = { color: '#ff0000', opacity: 0.5 };
    expect(layers).toEqual([
      expect.objectContaining({ fill, label, stroke: [casing, top] }),
      expect.objectContaining({
        fill,
        stroke: [{ ...casing, width: 8 }, plain],
        states: { hover: { stroke: { color: '#d98a2b', width: 9 } } },
      }),
      { id: 'beds', of: 'beds', fill: { color: '#ff0000' }, stroke: [plain], states: expect.anything() },
    ]);
  });
});

describe('framing and moving', () => {
  const far = collection(point(-20, 0, { kind: 'a' }), point(0, 0, { kind: 'b' }), point(2, 2, { kind: 'b' }));
  const points: Sheet = { sheet: 1, data: { p: { features: far } }, layers: [{ id: 'p', of: 'p', mark: { size: 6 } }] };

  test('frame(layer) follows its filters; bounds may be given as four numbers', async () => {
    await openMap(stage, points);
    await settled(stage);
    const centres = await stage.page.evaluate(async () => {
      const { map } = window;
      const at = () => map.view.center.map((v) => Math.round(v * 10) / 10);
      const out: unknown[] = [];
      const framed = async (target: Parameters<typeof map.frame>[0]) => {
        const { arrived } = await map.frame(target, { duration: 0 });
        out.push([arrived, ...at()]);
      };
      await framed('p');
      map.layers.filter('p', "kind = 'b'");
      await framed('p');
      map.layers.filter('p', ({ kind }) => kind === 'a');
      await framed('p');
      await framed([10, 20, 14, 24]);
      map.layers.filter('p', () => false);
      out.push(await map.frame('p').catch((error: { code: string }) => error.code));
      return out;
    });
    expect(centres).toEqual([[true, -9, 1], [true, 1, 1], [true, -20, 0], [true, 12, 22], 'frame.filtered']);
  });

  test('a movement says whether it arrived; an aborted one rejects', async () => {
    await openMap(stage, points);
    await settled(stage);
    const ends = await stage.page.evaluate(async () => {
      const { map } = window;
      const first = map.move({ zoom: 9 }, { duration: 5000 });
      const second = map.move({ zoom: 6 }, { duration: 60 });
      const abort = new AbortController();
      const out: unknown[] = [await first, map.destination.zoom, await second];
      const third = map.move({ zoom: 9 }, { duration: 5000, signal: abort.signal });
      abort.abort();
      out.push(
        await third.then(
          () => 'arrived',
          (error: Error) => error.name,
        ),
      );
      return out;
    });
    expect(ends).toEqual([{ arrived: false }, 6, { arrived: true }, 'AbortError']);
  });

  test('wheel, pinch, double press and keys at the limits leave the map where it is, and it settles', async () => {
    const { page } = stage;
    await openMap(stage, points, { center: [3, 4], zoom: 6 }, { limits: { zoom: [4, 6] } });
    await settled(stage);
    const before = await page.evaluate(() => window.map.view);
    await page.mouse.move(650, 120);
    for (let i = 0; i < 4; i++) await page.mouse.wheel(0, -240);
    await settled(stage);
    await page.mouse.dblclick(120, 500);
    await settled(stage);
    await page.locator('canvas').focus();
    for (let i = 0; i < 3; i++) await page.keyboard.press('+');
    await settled(stage);
    const after = await page.evaluate(() => window.map.view);
    expect(after.zoom).toBe(6);
    expect(after.center[0]).toBeCloseTo(before.center[0], 6);
    expect(after.center[1]).toBeCloseTo(before.center[1], 6);
  });

  test('five quick presses of + are five levels', async () => {
    const { page } = stage;
    await openMap(stage, points, { center: [0, 0], zoom: 3 });
    await settled(stage);
    await page.locator('canvas').focus();
    for (let i = 0; i < 5; i++) await page.keyboard.press('+');
    await settled(stage);
    expect(await page.evaluate(() => window.map.view.zoom)).toBe(8);
  });

  test('quick presses of arrows add up, and with those of other keys', async () => {
    const { page } = stage;
    const after = async (keys: string[], slowly: boolean) => {
      await page.evaluate(() => window.map.move({ center: [0, 0], zoom: 6, bearing: 0 }));
      await settled(stage);
      for (const key of keys) {
        await page.keyboard.press(key);
        if (slowly) await settled(stage);
      }
      await settled(stage);
      const { center, zoom, bearing } = await page.evaluate(() => window.map.view);
      return [...center, zoom, bearing].map((v) => Math.round(v * 1e6) / 1e6);
    };
    await openMap(stage, points, { center: [0, 0], zoom: 6 });
    await settled(stage);
    await page.locator('canvas').focus();
    for (const keys of [
      ['ArrowRight', 'ArrowRight', 'ArrowRight', 'ArrowUp'],
      ['+', 'ArrowRight', 'ArrowDown', 'Shift+ArrowLeft', 'ArrowLeft'],
    ])
      expect(await after(keys, false)).toEqual(await after(keys, true));
  });
});
