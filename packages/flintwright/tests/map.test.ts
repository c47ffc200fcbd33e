import { once } from 'node:events';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import type { Page } from 'playwright-core';
import type { Sheet } from 'flintwright';
import { faultsOf, openMap, pixels, settled as settledOn, useStage } from './harness.ts';

const stage = useStage();
let bad: Server;
let badBase: string;
let page: Page;
let base: string;
beforeEach(() => {
  ({ page, base } = stage);
});

beforeAll(async () => {
  // A server with every bad habit.
  let stutters = 0;
  bad = createServer((request, response) => {
    response.setHeader('Access-Control-Allow-Origin', '*');
    response.setHeader('Access-Control-Allow-Headers', '*');
    const path = request.url!;
    if (request.method === 'OPTIONS') response.writeHead(204).end();
    else if (path.startsWith('/html')) response.setHeader('content-type', 'text/html').end('<html>not here</html>');
    else if (path.startsWith('/empty')) response.end();
    else if (path.startsWith('/500')) response.writeHead(500).end();
    else if (path.startsWith('/garbage')) response.end(Buffer.from([26, 200, 1, 7, 7, 7]));
    else if (path.startsWith('/stutter'))
      response.writeHead(stutters++ === 0 ? 503 : 204, { 'Retry-After': '0' }).end();
    else if (path.startsWith('/key')) response.writeHead(request.headers['x-key'] === 'open' ? 204 : 403).end();
    else response.writeHead(404).end();
  }).listen(0, 'localhost');
  await once(bad, 'listening');
  badBase = `http://localhost:${(bad.address() as AddressInfo).port}`;
});

afterAll(() => void bad.close());

/** A sheet of two squares, north-west red and south-east blue, around [0, 0]. */
const squares = (more: object = {}): Sheet => {
  const box = (id: number, kind: string, x: number, y: number) => ({
    type: 'Feature',
    id,
    properties: { kind, code: `c${id}`, value: id * 10 },
    geometry: {
      type: 'Polygon',
      coordinates: [
        [
          [x, y],
          [x + 8, y],
          [x + 8, y + 8],
          [x, y + 8],
          [x, y],
        ],
      ],
    },
  });
  return {
    sheet: 1,
    data: {
      boxes: { features: { type: 'FeatureCollection', features: [box(1, 'red', -9, 1), box(2, 'blue', 1, -9)] } },
    },
    background: '#ffffff',
    layers: [
      {
        id: 'boxes',
        of: 'boxes',
        fill: { color: { by: 'kind', categories: { red: '#ff0000', blue: '#0000ff' } } },
        states: { hover: { fill: { color: '#00ff00' } }, selected: { fill: { color: '#ffff00' } } },
        ...more,
      },
    ],
  } as Sheet;
};

const open = (sheet: Sheet | string, view?: object, options?: object) => openMap(stage, sheet, view, options);
const settled = () => settledOn(stage);
const view = () => page.evaluate(() => window.map.view);
const faults = () => faultsOf(stage);
const pixel = async (x: number, y: number) => (await pixels(stage, [x, y]))[0];

describe('a map of features', () => {
  test('draws, picks, hovers, flags, restyles without touching geometry, and lets go of everything', async () => {
    await open(squares());
    await settled();
    // At zoom 5 a degree is 22.8 pixels: the squares lie to the upper left and lower right of the middle.
    expect([await pixel(300, 200), await pixel(500, 400), await pixel(500, 200)]).toEqual([
      [255, 0, 0],
      [0, 0, 255],
      [255, 255, 255],
    ]);
    const picked = await page.evaluate(() => window.map.pick([300, 200]));
    expect(picked).toMatchObject([
      { layer: 'boxes', id: 1, key: '1', properties: { kind: 'red', code: 'c1', value: 10 } },
    ]);
    expect(await page.evaluate(() => window.map.pick([500, 200]))).toEqual([]);

    await page.mouse.move(300, 200);
    await settled();
    expect(await pixel(300, 200)).toEqual([0, 255, 0]);
    await page.mouse.move(500, 400);
    await settled();
    expect([await pixel(300, 200), await pixel(500, 400)]).toEqual([
      [255, 0, 0],
      [0, 255, 0],
    ]);
    await page.mouse.move(790, 20);
    await page.evaluate(() => window.map.flag({ data: 'boxes', from: '', key: '2' }, 'selected'));
    await settled();
    expect([await pixel(300, 200), await pixel(500, 400)]).toEqual([
      [255, 0, 0],
      [255, 255, 0],
    ]);

    const before = await page.evaluate(() => window.flintwright.liveCounts().geometryUploads);
    await page.evaluate(() =>
      window.map.layers.change('boxes', {
        fill: {
          color: {
            by: 'value',
            ramp: [
              [10, '#000000'],
              [20, '#808080'],
            ],
            space: 'rgb',
          },
        },
      }),
    );
    await settled();
    expect([await pixel(300, 200), await page.evaluate(() => window.flintwright.liveCounts().geometryUploads)]).toEqual(
      [[0, 0, 0], before],
    );

    await page.evaluate(() => window.map.remove());
    const { geometryUploads, ...counts } = await page.evaluate(() => window.flintwright.liveCounts());
    expect(geometryUploads).toBe(before);
    expect(Object.values(counts).every((n) => n === 0)).toBe(true);
    expect(await page.locator('#map').innerHTML()).toBe('');
  });

  test('layers are added, hidden, moved and removed at run time; overlays outlive a new sheet', async () => {
    await open(squares());
    await page.evaluate(() => {
      const ring = [
        [-5, -5],
        [5, -5],
        [5, 5],
        [-5, 5],
        [-5, -5],
      ];
      window.map.layers.add({
        id: 'mine',
        of: { features: { type: 'Polygon', coordinates: [ring] } },
        fill: '#00ffff',
      });
    });
    await settled();
    expect([await pixel(400, 300), await pixel(340, 240)]).toEqual([
      [0, 255, 255],
      [0, 255, 255],
    ]);
    // The option was called otherwise before; nothing is done to the layers.
    const oldOption = await page.evaluate(() => {
      try {
        window.map.layers.move('mine', { before: 'boxes' } as never);
        return undefined;
      } catch (error) {
        return (error as { hint: string }).hint;
      }
    });
    expect(oldOption).toBe('This option is called "below".');
    await page.evaluate(() => window.map.layers.move('mine', { below: 'boxes' }));
    await settled();
    expect([await pixel(400, 300), await pixel(340, 240)]).toEqual([
      [0, 255, 255],
      [255, 0, 0],
    ]);
    const next: object = { ...squares({ visible: false }), background: '#ff00ff' };
    await page.evaluate((sheet) => window.map.setSheet(sheet as Sheet), next);
    await settled();
    expect([await pixel(340, 240), await pixel(300, 150)]).toEqual([
      [0, 255, 255],
      [255, 0, 255],
    ]);
    await page.evaluate(() => window.map.layers.remove('mine'));
    await settled();
    expect(await pixel(400, 300)).toEqual([255, 0, 255]);
    const refused = await page.evaluate(() => {
      try {
        window.map.layers.hide('boxse');
      } catch (error) {
        return (error as { hint: string }).hint;
      }
    });
    expect(refused).toBe('Did you mean "boxes"?');
  });

  test('strokes have their width, dashes and ground meters; a clear stroke is not laid twice at its joins', async () => {
    const path = {
      type: 'LineString',
      coordinates: [
        [-10, 0],
        [0, 0],
        [0, -8],
      ],
    };
    await open({
      sheet: 1,
      background: '#fff',
      data: { l: { features: path } },
      layers: [{ id: 'l', of: 'l', stroke: { color: '#000', opacity: 0.5, width: 20, join: 'miter' } }],
    });
    await settled();
    const grey = await pixel(300, 300);
    expect(grey[0]).toBeGreaterThan(120);
    expect(grey[0]).toBeLessThan(135);
    // Along the join, inside and out, nothing is darker; the outer corner is filled by the miter.
    for (const [x, y] of [
      [399, 300],
      [400, 300],
      [404, 296],
      [396, 304],
      [408, 292],
      [400, 340],
    ])
      expect(await pixel(x, y)).toEqual(grey);
    expect([await pixel(300, 288), await pixel(412, 300)]).toEqual([
      [255, 255, 255],
      [255, 255, 255],
    ]);
    await page.evaluate(() => window.map.layers.change('l', { stroke: { opacity: 1, width: '100000m' } }));
    await settled();
    // 100 km at zoom 5 on the equator: 20.4 pixels.
    expect([await pixel(300, 291), await pixel(300, 288)]).toEqual([
      [0, 0, 0],
      [255, 255, 255],
    ]);
  });

  test('drag, wheel, keys and double press change the view as a hand expects', async () => {
    await open(squares());
    await settled();
    const under = () => page.evaluate(() => window.map.toPlace([500, 380])!);
    await page.mouse.move(400, 300);
    await page.mouse.down();
    const grabbed = await page.evaluate(() => window.map.toPlace([400, 300])!);
    await page.mouse.move(450, 330, { steps: 6 });
    await page.mouse.move(500, 380, { steps: 6 });
    // What was grabbed is still under the hand.
    const now = await under();
    expect([now[0], now[1]]).toEqual([expect.closeTo(grabbed[0], 6), expect.closeTo(grabbed[1], 6)]);
    await page.waitForTimeout(150);
    await page.mouse.up();
    await settled();
    expect((await page.evaluate(() => window.map.pick([400, 280])))[0]?.properties).toMatchObject({ kind: 'red' });
    expect([await pixel(400, 280), await pixel(500, 280)]).toEqual([
      [255, 0, 0],
      [255, 255, 255],
    ]);
    const hovered = await under();
    await page.mouse.wheel(0, -256);
    await page.waitForFunction(() => window.map.view.zoom > 5.799);
    await settled();
    expect((await under())[0]).toBeCloseTo(hovered[0], 4);
    expect((await view()).zoom).toBeCloseTo(5.8, 2);
    await page.locator('#map canvas').focus();
    await page.keyboard.press('Shift+ArrowRight');
    await page.waitForFunction(() => window.map.view.bearing === 20);
    await page.keyboard.press('-');
    await page.waitForFunction(() => window.map.view.zoom <= 5);
    await page.keyboard.press('Home');
    await page.waitForFunction(
      () => window.map.view.zoom === 5 && window.map.view.bearing === 0 && window.map.view.center[0] === 0,
    );
    await page.mouse.dblclick(400, 300);
    await page.waitForFunction(() => window.map.view.zoom === 6);
    await page.mouse.move(400, 300);
    await page.mouse.down({ button: 'right' });
    await page.mouse.move(450, 200, { steps: 5 });
    await page.mouse.up({ button: 'right' });
    expect(await view()).toMatchObject({ bearing: expect.closeTo(20, 0), tilt: expect.closeTo(35, 0) });
  });

  test('another pixel ratio without another size is followed, and followed again', async () => {
    await open(squares(), { center: [0, 0], zoom: 5 });
    await settled();
    const client = await page.context().newCDPSession(page);
    const { width, height } = page.viewportSize()!;
    const seen = () =>
      page.evaluate(async () => {
        for (let i = 0; i < 5; i++) await new Promise(requestAnimationFrame);
        const { width, clientWidth } = window.map.host.querySelector('canvas')!;
        return width / clientWidth;
      });
    for (const ratio of [2, 1.5]) {
      await client.send('Emulation.setDeviceMetricsOverride', {
        width,
        height,
        deviceScaleFactor: ratio,
        mobile: false,
      });
      await page.evaluate(() => window.map.move({ zoom: window.map.view.zoom + 0.1 }));
      expect(await seen()).toBe(ratio);
    }
    await client.send('Emulation.clearDeviceMetricsOverride');
  });

  test('two fingers zoom, turn and tilt; whole levels rest at whole levels', async () => {
    await open(squares(), { center: [0, 0], zoom: 5 }, { levels: 'whole' });
    await settled();
    const client = await page.context().newCDPSession(page);
    const touch = (type: 'touchStart' | 'touchMove' | 'touchEnd', ...points: [number, number][]) =>
      client.send('Input.dispatchTouchEvent', { type, touchPoints: points.map(([x, y], id) => ({ x, y, id })) });
    const slide = async (from: [number, number][], to: [number, number][]) => {
      await touch('touchStart', ...from);
      for (let t = 1; t <= 8; t++) {
        await touch(
          'touchMove',
          ...from.map(([x, y], i): [number, number] => [x + ((to[i][0] - x) * t) / 8, y + ((to[i][1] - y) * t) / 8]),
        );
      }
    };
    await slide(
      [
        [350, 300],
        [450, 300],
      ],
      [
        [260, 300],
        [540, 300],
      ],
    );
    const spread = await view();
    expect(spread.zoom).toBeGreaterThan(6.2);
    await touch('touchEnd');
    await page.waitForFunction(() => window.map.view.zoom === 6 || window.map.view.zoom === 7);
    await slide(
      [
        [300, 300],
        [500, 300],
      ],
      [
        [330, 230],
        [470, 370],
      ],
    );
    expect(Math.abs((await view()).bearing)).toBeGreaterThan(25);
    await touch('touchEnd');
    await page.evaluate(() => window.map.home({ duration: 0 }));
    await slide(
      [
        [350, 300],
        [450, 300],
      ],
      [
        [350, 200],
        [450, 200],
      ],
    );
    expect((await view()).tilt).toBeGreaterThan(20);
    await touch('touchEnd');
  });

  test('move, frame and home keep their promises; a signal stops a movement', async () => {
    await open(squares());
    await settled();
    const result = await page.evaluate(async () => {
      const { map } = window;
      await map.move({ center: { lon: 5, lat: -5 }, zoom: 6 }, { duration: 120, easing: 'linear' });
      const moved = map.view;
      await map.frame({ bounds: [-9, 1, -1, 9] }, { padding: 50, duration: 0 });
      const corner = map.toPixel([-1, 9]);
      await map.frame('boxes', { duration: 0 });
      const all = [map.toPixel([-9, 9]), map.toPixel([9, -9])];
      const controller = new AbortController();
      const stopped = map
        .move({ zoom: 12 }, { duration: 5000, signal: controller.signal })
        .catch((error: Error) => error.name);
      setTimeout(() => controller.abort(), 100);
      const name = await stopped;
      const between = map.view.zoom;
      await map.home({ duration: 0 });
      return { moved, corner, all, name, between, home: map.view };
    });
    expect(result.moved).toEqual({ center: [5, -5], zoom: 6, bearing: 0, tilt: 0 });
    expect(result.corner[1]).toBeCloseTo(50, 0);
    expect(Math.min(...result.all.flat())).toBeGreaterThan(20);
    expect(result).toMatchObject({ name: 'AbortError', home: { center: [0, 0], zoom: 5 } });
    expect(result.between).toBeLessThan(12);
  });

  test('markers and popups: pressed open, kept inside the map, closed by key and by a press elsewhere', async () => {
    await open({ ...squares({ popup: { title: 'kind', lines: { Code: 'code', Value: "format(value, '0.0 t')" } } }) });
    await page.evaluate(() =>
      window.map.markers.add({
        at: [8, 8],
        icon: 'anchor',
        color: '#c00',
        popup: { title: 'Here', text: '<b>not bold</b>' },
      }),
    );
    await settled();
    const tip = await page.evaluate(() => window.map.toPixel([8, 8]));
    expect((await pixel(Math.round(tip[0]) - 8, Math.round(tip[1]) - 17))[0]).toBeGreaterThan(180);
    await page.mouse.click(tip[0], tip[1] - 18);
    await page.waitForSelector('.flint-popup');
    expect(await page.locator('.flint-popup').innerText()).toContain('<b>not bold</b>');
    const box = (await page.locator('.flint-popup').boundingBox())!;
    expect(box.x >= 0 && box.y >= 0 && box.x + box.width <= 800 && box.y + box.height <= 600).toBe(true);
    await page.locator('.flint-popup button').focus();
    await page.keyboard.press('Escape');
    expect(await page.locator('.flint-popup').count()).toBe(0);
    await page.mouse.click(300, 200);
    await page.waitForSelector('.flint-popup');
    expect(await page.locator('.flint-popup').innerText()).toMatch(/red[\s\S]*Code[\s\S]*c1[\s\S]*Value[\s\S]*10\.0 t/);
    await page.mouse.click(700, 100);
    expect(await page.locator('.flint-popup').count()).toBe(0);
    const swapped = await page.evaluate(() => {
      try {
        window.map.markers.add({ at: [44.6, -131] });
      } catch (error) {
        return (error as { hint: string }).hint;
      }
    });
    expect(swapped).toContain('swapped');
  });
});

describe('a map of tiles', () => {
  test('the harbour: tiles, labels, picking through the base map, palettes without new geometry, no faults', async () => {
    await page.setViewportSize({ width: 1000, height: 700 });
    await page.goto(`${base}/harbour/?zoom=14`);
    await page.waitForFunction(() => typeof window.map?.settled === 'function');
    await settled();
    const labels = await page.evaluate(() => window.map.labelTexts);
    expect(labels).toEqual(expect.arrayContaining(['Hallow Quay', 'Tamvoril']));
    // The clusters of moorings would answer first.
    await page.evaluate(() => window.map.layers.hide('moorings'));
    await settled();
    const water = await page.evaluate(() => window.map.toPixel([-31.165, 44.6185]));
    await page.mouse.click(water[0], water[1]);
    expect(JSON.parse((await page.evaluate(() => document.body.dataset['pressed'])) ?? '[]')).toEqual(
      expect.arrayContaining([expect.objectContaining({ layer: 'depth' })]),
    );
    // A bed from GeoJSON lies over the tiles and answers first.
    const bed = await page.evaluate(async () => {
      const { features } = (await (await fetch('/beds.geojson')).json()) as {
        features: { properties: { code: string }; geometry: { coordinates: [number, number][][] } }[];
      };
      const ring = features[0].geometry.coordinates[0].slice(0, 4);
      const middle: [number, number] = [ring.reduce((s, p) => s + p[0], 0) / 4, ring.reduce((s, p) => s + p[1], 0) / 4];
      await window.map.move({ center: middle, zoom: 15 });
      await window.map.settled();
      return { code: features[0].properties.code, first: window.map.pick([500, 350])[0] };
    });
    expect(bed.first).toMatchObject({ layer: 'beds', properties: { code: bed.code } });
    const ground = await pixel(30, 690);
    // Another palette over the same data is appearance alone: no index buffer is filled again.
    await page.evaluate(() => {
      const gl = document.querySelector('canvas')!.getContext('webgl2')!;
      const fill = gl.bufferData.bind(gl) as (...args: unknown[]) => void;
      document.body.dataset['fills'] = '0';
      gl.bufferData = ((target: number, ...rest: unknown[]) => {
        if (target === gl.ELEMENT_ARRAY_BUFFER) document.body.dataset['fills'] = 'some';
        fill(target, ...rest);
      }) as never;
    });
    await page.evaluate(() => (window.map.colorScheme = 'dark'));
    await settled();
    expect((await pixel(30, 690))[0]).toBeLessThan(ground[0] / 2);
    expect(await page.evaluate(() => document.body.dataset['fills'])).toBe('0');
    // Another sheet has layers of its own.
    await page.locator('input[value=tide]').check();
    await page.waitForFunction(() => window.map.sheet.title?.includes('Tide'));
    await settled();
    expect((await pixel(30, 690))[0]).toBeGreaterThan(ground[0] / 2);
    expect(await page.locator('.flint-notice').count()).toBe(0);
    expect(await page.locator('.flint-credit').innerText()).toContain('Made-up data');
  });

  test('overzoomed and tilted, the ground stays whole: no hole anywhere', async () => {
    const sheet: Sheet = {
      sheet: 1,
      background: '#ff00ff',
      data: { r: { tiles: `${base}/reach.pmtiles` } },
      layers: [
        { id: 'depth', of: 'r/depth', fill: '#0000ff' },
        { id: 'land', of: 'r/land', fill: '#0000ff' },
      ],
    };
    await open(sheet, { center: [-31.18, 44.62], zoom: 16.5, bearing: 30, tilt: 55 });
    for (const zoom of [16.5, 13.2, 10.7]) {
      await page.evaluate((z) => window.map.move({ zoom: z }), zoom);
      await settled();
      const shot = await page.screenshot({ clip: { x: 0, y: 0, width: 800, height: 570 } });
      const odd = await page.evaluate(async (data) => {
        const image = await createImageBitmap(
          new Blob([Uint8Array.from(atob(data), (c) => c.charCodeAt(0))], { type: 'image/png' }),
        );
        const context = new OffscreenCanvas(image.width, image.height).getContext('2d')!;
        context.drawImage(image, 0, 0);
        const { data: seen } = context.getImageData(0, 0, image.width, image.height);
        let count = 0;
        for (let i = 0; i < seen.length; i += 4) if (seen[i] > 8) count++;
        return count;
      }, shot.toString('base64'));
      expect(odd).toBe(0);
    }
  });

  test('tiles by address and by TileJSON, with a key added to every request', async () => {
    await open(
      {
        sheet: 1,
        data: { r: { tiles: `${base}/tiles/reach.json` }, k: { tiles: `${badBase}/key/{z}/{x}/{y}` } },
        layers: [
          { id: 'land', of: 'r/land', fill: '#123456' },
          { id: 'k', of: 'k/any', fill: 'red' },
        ],
      },
      { center: [-31.3, 44.6], zoom: 8 },
    );
    await page.evaluate(() => window.map.remove());
    await page.evaluate(
      ([origin, key, secret]) => {
        window.faults = [];
        const data = { r: { tiles: `${origin}/tiles/reach.json` }, k: { tiles: `${key}/key/{z}/{x}/{y}` } };
        window.map = window.flintwright.createMap('#map', {
          sheet: {
            sheet: 1,
            data,
            layers: [
              { id: 'land', of: 'r/land', fill: '#123456' },
              { id: 'k', of: 'k/any', fill: 'red' },
            ],
          },
          view: { center: [-31.45, 44.6], zoom: 10 },
          request: (plan) => {
            if (plan.url.startsWith(key)) plan.headers['x-key'] = 'open';
            else plan.headers['Authorization'] = `Bearer ${secret}`;
          },
        });
        window.map.addEventListener('fault', (event) => window.faults.push((event as CustomEvent).detail));
      },
      [base, badBase, process.env['VITE_REACH_KEY']!],
    );
    await settled();
    // The keyed service has been let through, and says that it has nothing there.
    expect((await faults()).map(({ code }) => code)).toEqual(['tiles.missing']);
    expect(await pixel(400, 300)).toEqual([0x12, 0x34, 0x56]);
  });
});

describe('bad input', () => {
  test.each<[string, () => object, string]>([
    ['a missing archive', () => ({ tiles: `${base}/none.pmtiles` }), 'request.status'],
    ['a page instead of an archive', () => ({ tiles: `${badBase}/html.pmtiles` }), 'request.html'],
    ['an empty archive', () => ({ tiles: `${badBase}/empty.pmtiles` }), 'archive.magic'],
    ['a server at fault', () => ({ tiles: `${badBase}/500/{z}/{x}/{y}` }), 'request.status'],
    ['a refused key', () => ({ tiles: `${badBase}/key/{z}/{x}/{y}` }), 'request.refused'],
    ['a tile of garbage', () => ({ tiles: `${badBase}/garbage/{z}/{x}/{y}` }), 'mvt.truncated'],
    ['no server at all', () => ({ tiles: 'http://localhost:1/{z}/{x}/{y}' }), 'request.failed'],
    ['features that are no JSON', () => ({ features: `${badBase}/empty` }), 'file.empty'],
    ['swapped features', () => ({ features: { type: 'Point', coordinates: [44, -131] } }), 'geojson.swapped'],
    ['a layer that the tiles lack', () => ({ tiles: `${base}/reach.pmtiles` }), 'sheet.from'],
  ])('%s is a fault with a hint, and the rest of the map goes on', async (_, data, code) => {
    const sheet = squares();
    await open(
      {
        ...sheet,
        data: { ...sheet.data, broken: data() as never },
        layers: [...sheet.layers, { id: 'broken', of: 'features' in data() ? 'broken' : 'broken/nope', fill: 'red' }],
      },
      { center: [0, 0], zoom: 5 },
    );
    await page.waitForFunction(() => window.faults.length > 0);
    await settled();
    expect((await faults())[0]).toEqual({ code, hint: expect.stringMatching(/\S/) });
    expect(await pixel(300, 200)).toEqual([255, 0, 0]);
    expect(await page.locator('.flint-notice li').count()).toBeGreaterThan(0);
    await page.evaluate(() => window.map.remove());
    const { geometryUploads: _uploads, ...counts } = await page.evaluate(() => window.flintwright.liveCounts());
    expect(Object.values(counts).every((n) => n === 0)).toBe(true);
  });

  test('a stumbling server is asked again; missing tiles are one fault', async () => {
    await open({
      sheet: 1,
      data: { s: { tiles: `${badBase}/stutter/{z}/{x}/{y}` }, m: { tiles: `${badBase}/missing/{z}/{x}/{y}` } },
      layers: [
        { id: 's', of: 's/a', fill: 'red' },
        { id: 'm', of: 'm/a', fill: 'red' },
      ],
    });
    await settled();
    expect((await faults()).map(({ code }) => code)).toEqual(['tiles.missing', 'tiles.missing']);
  });

  test('no WebGL2, an element without size, a faulty sheet, and a map removed while loading', async () => {
    await page.goto(`${base}/test/`);
    await page.waitForFunction(() => 'flintwright' in window);
    const seen = await page.evaluate(async (given: unknown) => {
      const sheet = given as Sheet;
      const { createMap } = window.flintwright;
      const heard: string[] = [];
      const hear = (map: Window['map']) => (
        map.addEventListener('fault', (event) => heard.push((event as CustomEvent<{ code: string }>).detail.code)),
        map
      );
      const original = HTMLCanvasElement.prototype.getContext;
      HTMLCanvasElement.prototype.getContext = function (this: HTMLCanvasElement, kind: string, ...rest: unknown[]) {
        return kind === 'webgl2' ? null : (original as (...args: unknown[]) => unknown).call(this, kind, ...rest);
      } as never;
      const blind = hear(createMap('#map', { sheet }));
      // The first frame, which has the context made, waits a little for what has been asked for.
      while (!heard.length) await new Promise((resolve) => setTimeout(resolve, 20));
      blind.remove();
      HTMLCanvasElement.prototype.getContext = original;
      const host = document.querySelector<HTMLElement>('#map')!;
      host.hidden = true;
      const flat = hear(createMap(host, { sheet }));
      await new Promise((resolve) => setTimeout(resolve, 50));
      host.hidden = false;
      // The page tells the map of its new size with the next frames.
      await new Promise((resolve) => setTimeout(resolve, 150));
      await flat.settled();
      const appeared = flat.pick([300, 200]).length >= 0 && flat.lastFrame.calls > 0;
      flat.remove();
      const codes: string[] = [];
      for (const attempt of [
        () => createMap('#nowhere'),
        () => createMap('#map', { sheet: { ...sheet, layers: [{ id: 'x', of: 'gone', fill: 'red' }] } }),
        () => flat.move({ zoom: 3 }),
      ]) {
        try {
          void attempt();
        } catch (error) {
          codes.push((error as { code: string }).code);
        }
      }
      for (let i = 0; i < 5; i++) hear(createMap('#map', { sheet })).remove();
      const late = hear(createMap('#map', { sheet }));
      await new Promise((resolve) => setTimeout(resolve, 5 + Math.random() * 30));
      late.remove();
      await new Promise((resolve) => setTimeout(resolve, 100));
      const { geometryUploads: _uploads, ...counts } = window.flintwright.liveCounts();
      return { heard, appeared, codes, left: Object.entries(counts).filter(([, n]) => n !== 0) };
    }, squares() as unknown);
    expect(seen).toEqual({
      heard: ['gl.missing', 'host.size'],
      appeared: true,
      codes: ['host.missing', 'sheet.invalid', 'map.removed'],
      left: [],
    });
  });

  test('a lost graphics context comes back with everything on it', async () => {
    await open(squares());
    await settled();
    await page.evaluate(async () => {
      const gl = document.querySelector('canvas')!.getContext('webgl2')!;
      const lose = gl.getExtension('WEBGL_lose_context')!;
      lose.loseContext();
      await new Promise((resolve) => setTimeout(resolve, 100));
      lose.restoreContext();
      await new Promise((resolve) => setTimeout(resolve, 100));
      await window.map.settled();
    });
    expect(await pixel(300, 200)).toEqual([255, 0, 0]);
  });
});
