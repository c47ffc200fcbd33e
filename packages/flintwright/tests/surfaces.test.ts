// Every surface in the browser: what is drawn, picked and marked there; plans; grids; data in other systems; the projection room.
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import type { Sheet, SurfaceSpec } from 'flintwright';
import {
  box,
  collection,
  countPixels,
  faultsOf,
  openMap,
  pixels,
  point,
  setSheet,
  settled,
  useStage,
} from './harness.ts';

const stage = useStage();
const at = (lon: number, lat: number) =>
  stage.page.evaluate(([x, y]) => window.map.toPixel([x, y]), [lon, lat] as const);
const whole = ([x, y]: readonly number[]): [number, number] => [Math.round(x), Math.round(y)];
const red = [255, 0, 0] as const;

const sheetOn = (surface: SurfaceSpec | undefined, more: object = {}): Sheet => ({
  sheet: 1,
  background: '#ffffff',
  data: {
    b: { features: collection(box(-32, 44, 1, { name: 'Near' }, 1), box(-36, 44, 1, { name: 'West' }, 2)) },
    far: { features: collection(box(148, -46, 2, { name: 'Opposite' }, 3)) },
  },
  view: { ...(surface === undefined ? {} : { surface }), center: [-31.5, 44.5], zoom: 6.2 },
  layers: [
    {
      id: 'b',
      of: 'b',
      fill: { color: { by: 'name', categories: { Near: '#ff0000', West: '#0000ff' } } },
      label: { text: { is: 'name' } },
      states: { hover: { fill: { color: '#00ff00' } } },
      popup: { title: 'name' },
    },
    { id: 'far', of: 'far', fill: '#ff00ff', label: { text: { is: 'name' } } },
  ],
  ...more,
});

const surfaces: [string, SurfaceSpec][] = [
  ['web Mercator', 'EPSG:3857'],
  ['UTM', 'EPSG:32625'],
  ['degrees in equal steps', 'EPSG:4326'],
  ['polar equal-area', 'EPSG:3575'],
  ['Robinson, cut far away', { method: 'robinson', lon0: 20 }],
  ['Lambert conformal conic', { method: 'lambert-conformal-conic', lon0: -31, lat0: 45, lat1: 40, lat2: 50 }],
  ['orthographic', { method: 'orthographic', lon0: -20, lat0: 30 }],
  ['the globe', 'globe'],
];

describe('on every surface', () => {
  test.each(surfaces)(
    '%s: a press finds what is drawn there, markers stand where they belong',
    async (_name, surface) => {
      const { page } = stage;
      await openMap(stage, sheetOn(surface), {});
      await settled(stage);
      expect(await faultsOf(stage)).toEqual([]);
      // Clear of the label in the middle of the box.
      const [near, west] = [whole(await at(-31.2, 44.2)), whole(await at(-35.3, 44.85))];
      const [first, second, beside] = await pixels(stage, near, west, whole(await at(-33.5, 44.5)));
      expect([first, second, beside]).toEqual([[...red], [0, 0, 255], [255, 255, 255]]);
      const found = await page.evaluate(
        ([a, b]) => [a, b].map((p) => window.map.pick(p).map(({ properties }) => properties.name)),
        [near, west],
      );
      expect(found).toEqual([['Near'], ['West']]);
      // There and back, and what is picked is where it was put.
      const back = await page.evaluate((p) => window.map.toPlace(p), near);
      expect(back![0]).toBeCloseTo(-31.2, 1);
      expect(back![1]).toBeCloseTo(44.2, 1);
      const ring = await page.evaluate(
        (p) => (window.map.pick(p)[0].geometry as { coordinates: number[][][] }).coordinates[0],
        near,
      );
      // The piece of the tile that was pressed: within the square, and round the place.
      const lons = ring.map(([lon]) => lon);
      expect(Math.min(...lons)).toBeGreaterThan(-32.05);
      expect(Math.min(...lons)).toBeLessThan(-31.2);
      expect(Math.max(...lons)).toBeGreaterThan(-31.2);
      expect(Math.max(...lons)).toBeLessThan(-30.95);
      // Hover comes and goes.
      await page.mouse.move(...near);
      await settled(stage);
      expect((await pixels(stage, near))[0]).toEqual([0, 255, 0]);
      await page.mouse.move(...whole(await at(-33.5, 44.5)));
      await settled(stage);
      expect((await pixels(stage, near))[0]).toEqual([...red]);
      // A marker, pressed on its shard.
      await page.evaluate(() => void window.map.markers.add({ at: [-33.5, 43], title: 'Marked', color: '#123456' }));
      await settled(stage);
      const foot = await at(-33.5, 43);
      await page.mouse.click(foot[0], foot[1] - 18);
      expect(await page.locator('.flint-popup h2').textContent()).toBe('Marked');
      expect(await page.evaluate(() => [...window.map.labelTexts].sort())).toEqual(['Near', 'West']);
    },
  );

  test('the globe hides its far side, closes over the poles, turns under the hand, and fades into a plane', async () => {
    const { page } = stage;
    const ring = Array.from({ length: 25 }, (_, i) => [-180 + (i % 24) * 15, 80]);
    const cap = { type: 'Feature', properties: {}, geometry: { type: 'Polygon', coordinates: [ring] } };
    await openMap(
      stage,
      sheetOn('globe', {
        data: { ...sheetOn('globe').data, cap: { features: collection(cap) } },
        layers: [...sheetOn('globe').layers, { id: 'cap', of: 'cap', fill: '#00aa00' }],
        view: { surface: 'globe', center: [-31.5, 60], zoom: 2 },
      }),
      {},
    );
    await settled(stage);
    const [, , opposite] = await countPixels(stage, [255, 0, 0], [0, 0, 255], [255, 0, 255]);
    expect(opposite).toBe(0);
    expect(await page.evaluate(() => window.map.labelTexts.includes('Opposite'))).toBe(false);
    const [pole, rim] = await pixels(stage, whole(await at(0, 90)), [30, 30]);
    expect(pole).toEqual([0, 170, 0]);
    expect(rim).not.toEqual([255, 255, 255]);
    expect(await page.evaluate(() => window.map.toPlace([5, 5]))).toBeUndefined();
    // Dragged east by some pixels, what was under the pointer still is.
    const before = await page.evaluate(() => window.map.toPlace([420, 320]));
    await page.mouse.move(420, 320);
    await page.mouse.down();
    await page.mouse.move(360, 330, { steps: 5 });
    await page.waitForTimeout(120);
    await page.mouse.up();
    await settled(stage);
    const after = await at(...(before as [number, number]));
    expect(Math.hypot(after[0] - 360, after[1] - 330)).toBeLessThan(2);
    await page.evaluate(() => window.map.move({ center: [149, -45], zoom: 6 }));
    await settled(stage);
    expect((await pixels(stage, whole(await at(148.5, -44.4))))[0]).toEqual([255, 0, 255]);

    const ground = await page.evaluate(() => window.map.metresPerPixel);
    await page.evaluate(() => window.map.setSurface({ method: 'lambert-azimuthal', lon0: 149, lat0: -45 }));
    await settled(stage);
    expect(await page.evaluate(() => window.map.metresPerPixel)).toBeCloseTo(ground, -1);
    expect((await pixels(stage, whole(await at(148.5, -44.4))))[0]).toEqual([255, 0, 255]);
    // One that is not known is refused, and the map stays as it is.
    const refused = await page.evaluate(() =>
      window.map.setSurface('EPSG:1').then(
        () => 'taken',
        ({ code }: { code: string }) => [code, window.map.surface],
      ),
    );
    expect(refused).toEqual(['crs.unknown', expect.stringContaining('lambert-azimuthal')]);
    expect((await pixels(stage, whole(await at(148.5, -44.4))))[0]).toEqual([255, 0, 255]);
  });

  test('nothing streaks over the map where a surface is cut, and what lies beyond its circle is not drawn', async () => {
    const { page } = stage;
    const band = {
      type: 'Feature',
      properties: {},
      geometry: {
        type: 'Polygon',
        coordinates: [
          [
            [-50, 0],
            [-10, 0],
            [-10, 20],
            [-50, 20],
            [-50, 0],
          ],
        ],
      },
    };
    const sheet = (surface: SurfaceSpec): Sheet => ({
      sheet: 1,
      background: '#ffffff',
      data: { d: { features: collection(band) } },
      view: { surface, center: [150, 0], zoom: 0.6 },
      layers: [{ id: 'd', of: 'd', fill: '#ff0000', stroke: { color: '#0000ff', width: 2 } }],
    });
    await openMap(stage, sheet({ method: 'mollweide', lon0: 150 }), {});
    await settled(stage);
    // Half of it at either end of the map, white between.
    const seen = await pixels(stage, whole(await at(-12, 10)), whole(await at(-48, 10)), whole(await at(150, 10)));
    expect(seen).toEqual([[...red], [...red], [255, 255, 255]]);
    const [reds, blues] = await countPixels(stage, [255, 0, 0], [0, 0, 255]);
    // Outlines on three sides of each half: none along the cut.
    expect(blues).toBeLessThan(reds);
    await page.evaluate(() => window.map.setSurface({ method: 'orthographic', lon0: 150, lat0: 0 }));
    await settled(stage);
    expect((await countPixels(stage, [255, 0, 0]))[0]).toBe(0);
  });
});

describe('data in other systems', () => {
  test('features in meters land where they belong once their system is named, and say so until then', async () => {
    const { page } = stage;
    // 31.5° W, 44.5° N in UTM zone 25 N.
    const square = (crs?: object) => ({
      type: 'FeatureCollection',
      ...crs,
      features: [
        {
          type: 'Feature',
          properties: { name: 'UTM' },
          geometry: {
            type: 'Polygon',
            coordinates: [
              [
                [609000, 4920000],
                [629000, 4920000],
                [629000, 4940000],
                [609000, 4940000],
                [609000, 4920000],
              ],
            ],
          },
        },
      ],
    });
    const sheet = (data: object): Sheet =>
      ({ ...sheetOn(undefined), data: { b: data, far: sheetOn(undefined).data!['far'] } }) as Sheet;
    await openMap(stage, sheet({ features: square() }), { center: [-31.5, 44.5], zoom: 7 });
    await settled(stage);
    const [fault] = await faultsOf(stage);
    expect(fault.code).toBe('geojson.planar');
    expect(fault.hint).toContain('name the system as "crs"');
    await setSheet(stage, sheet({ features: square(), crs: 'EPSG:32625' }));
    await settled(stage);
    const found = await page.evaluate(() =>
      window.map.pick(window.map.toPixel([-31.5, 44.5])).map(({ properties }) => properties.name),
    );
    expect(found).toEqual(['UTM']);
    await setSheet(stage, sheet({ features: square(), crs: 'EPSG:3262' }));
    await settled(stage);
    expect((await faultsOf(stage)).pop()?.code).toBe('crs.unknown');
  });

  test('tiles of a service in another grid are warped onto the surface, rows from the south too', async () => {
    const png = (red: number) => {
      // One pixel suffices: the map stretches it.
      const table = {
        0: 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNkYPhfDwAChwGA60e6kgAAAABJRU5ErkJggg==',
        1: 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mP8z8BQDwAEhQGAhKmMIQAAAABJRU5ErkJggg==',
      };
      return Buffer.from(table[red as 0], 'base64');
    };
    const asked: string[] = [];
    const server = createServer((request, response) => {
      asked.push(request.url!);
      const [, , , row] = request.url!.split('/').map(Number);
      response.writeHead(200, { 'Access-Control-Allow-Origin': '*', 'Content-Type': 'image/png' });
      response.end(png(row % 2));
    });
    await new Promise<void>((resolve) => server.listen(0, 'localhost', resolve));
    const images = `http://localhost:${(server.address() as AddressInfo).port}/{z}/{x}/{y}`;
    try {
      for (const [rows, first] of [
        ['down', 0],
        ['up', 1],
      ] as const) {
        asked.length = 0;
        await openMap(
          stage,
          {
            sheet: 1,
            data: { i: { images, grid: 'WorldCRS84Quad', rows, zooms: [0, 3] } },
            view: { surface: 'globe', center: [10, 10], zoom: 3 },
            layers: [{ id: 'i', of: 'i', image: {} }],
          },
          {},
        );
        await settled(stage);
        expect(await faultsOf(stage)).toEqual([]);
        // Level 2 of the set has four rows of 45°; just north of the equator lies row 1 from the north, row 2 from the south.
        const levels = new Set(asked.map((url) => Number(url.split('/')[1])));
        const z = Math.max(...levels);
        const rowsAt = (lat: number) => Math.floor(((90 - lat) / 180) * 2 ** z);
        const colors = await pixels(stage, whole(await at(10, 12)), whole(await at(10, -6)));
        const expected = [12, -6].map((lat) => {
          const row = rows === 'down' ? rowsAt(lat) : 2 ** z - 1 - rowsAt(lat);
          return row % 2;
        });
        expect([rows, colors[0].join() !== colors[1].join()]).toEqual([rows, expected[0] !== expected[1]]);
        expect(first).toBeDefined();
      }
    } finally {
      server.close();
    }
  });
});

describe('the applications', () => {
  test('a plan in local meters: seats are taken and given back by pressing them', async () => {
    const { page } = stage;
    await page.setViewportSize({ width: 1280, height: 800 });
    await page.goto(`${stage.base}/terminal/`);
    await page.waitForFunction(() => window.map?.settled);
    await settled(stage);
    const { features } = JSON.parse(
      readFileSync(new URL('../../../demo/data/terminal/seats.geojson', import.meta.url), 'utf8'),
    ) as {
      features: { properties: { seat: string }; geometry: { coordinates: number[][][] } }[];
    };
    const seat = async (name: string) => {
      const [[x, y]] = features.find(({ properties }) => properties.seat === name)!.geometry.coordinates[0] as [
        number,
        number,
      ][];
      return at(x + 0.45, y + 0.5);
    };
    for (const name of ['C5', 'D2']) await page.mouse.click(...((await seat(name)) as [number, number]));
    await settled(stage);
    expect(await page.locator('.taken').textContent()).toBe('Taken: C5, D2');
    await page.mouse.click(...((await seat('C5')) as [number, number]));
    expect(await page.locator('.taken').textContent()).toBe('Taken: D2');
    // Meters in, meters out: the scale bar and places know nothing of degrees.
    expect(await page.evaluate(() => window.map.toPlace(window.map.toPixel([200, 95])))).toEqual([
      expect.closeTo(200, 3),
      expect.closeTo(95, 3),
    ]);
    expect(await page.locator('.flint-scale').innerText()).toMatch(/\d+ m/);
  });

  test('the projection room: projections, their parameters, circles, distortion, and a picture to keep', async () => {
    const { page } = stage;
    await page.setViewportSize({ width: 860, height: 560 });
    await page.goto(`${stage.base}/projections/`);
    await page.waitForFunction(() => window.map?.settled, undefined, { timeout: 60000 });
    await settled(stage);
    expect(await page.evaluate(() => window.map.surface)).toContain('robinson');
    await page.selectOption('#surface', 'Lambert azimuthal');
    await page.waitForFunction(() => window.map.surface.includes('lambert-azimuthal'));
    const slider = page.locator('.parameter', { hasText: 'Latitude of the center' }).locator('input');
    await slider.fill('60');
    await page.waitForFunction(() => window.map.surface.includes('"lat0":60'));
    await settled(stage);
    const before = await page.screenshot();
    await page.getByLabel('circles of 600 km').check();
    await settled(stage);
    expect((await page.screenshot()).equals(before)).toBe(false);
    await page.getByLabel('angles, bent').check();
    await settled(stage);
    await page.getByText('Angles, degrees off at most').waitFor();
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Save as PNG' }).click(),
    ]);
    const bytes = readFileSync((await download.path())!);
    expect(bytes.subarray(1, 4).toString()).toBe('PNG');
    expect(bytes.length).toBeGreaterThan(20000);
    expect(await page.evaluate(() => window.map.labelTexts.length)).toBeGreaterThan(3);
  });

  test('points keep their places: a city of the planet is where the globe and the plane put it', async () => {
    await openMap(
      stage,
      {
        sheet: 1,
        data: { p: { features: collection(point(100, 60, {}, 1)) } },
        view: { surface: 'globe', center: [100, 60], zoom: 4 },
        layers: [{ id: 'p', of: 'p', mark: { color: '#ff0000', size: 16 } }],
      },
      {},
    );
    await settled(stage);
    expect((await pixels(stage, [400, 300]))[0]).toEqual([...red]);
  });
});
