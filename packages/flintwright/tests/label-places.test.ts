// Labels that come: beside their own marks, by a state alone, along every street close in; and a globe whose rim is whole.
import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { collection, countPixels, line, openMap, pixels, point, setSheet, settled, useStage } from './harness.ts';

const stage = useStage();
const texts = () => stage.page.evaluate(() => [...window.map.labelTexts].sort());

describe('labels of marked features', () => {
  const quays = collection(
    point(0, 0, { name: 'North Quay' }, 1),
    point(0.9, 0, { name: 'South Quay' }, 2),
    point(-3, 1, { name: 'Far Quay' }, 3),
  );
  const sheet = (label: object, more: object = {}): Sheet => ({
    sheet: 1,
    background: '#ffffff',
    data: { quays: { features: quays } },
    layers: [
      { id: 'quays', of: 'quays', mark: { size: 20, color: '#c5523a' }, ...{ label }, ...more },
    ] as Sheet['layers'],
  });

  test('stand beside their own mark by default, on whichever side is free', async () => {
    await openMap(stage, sheet({ text: 'name' }), { center: [0.4, 0], zoom: 6.2 });
    await settled(stage);
    expect(await texts()).toEqual(['Far Quay', 'North Quay', 'South Quay']);
  });

  test('in the middle of their own mark they are not blocked by it', async () => {
    await openMap(stage, sheet({ text: 'name', side: 'on' }), { center: [-1, 0], zoom: 7 });
    await settled(stage);
    expect(await texts()).toEqual(['Far Quay', 'North Quay', 'South Quay']);
  });

  test('of other features keep off a mark', async () => {
    const names = collection(point(0, 0.1, { name: 'On the mark' }, 1), point(4, 0, { name: 'Beside' }, 2));
    const label = { text: 'name', side: 'on' as const, priority: 9 };
    await openMap(
      stage,
      {
        ...sheet({ text: 'name' }),
        data: { quays: { features: quays }, names: { features: names } },
        layers: [{ id: 'names', of: 'names', label }, ...sheet({ text: 'name' }).layers],
      },
      { center: [0.4, 0], zoom: 6.2 },
    );
    await settled(stage);
    expect(await texts()).toEqual(['Beside', 'Far Quay', 'North Quay', 'South Quay']);
  });

  test('step aside for a dot where another of their places is free, and cross it where none is', async () => {
    const cities = collection(point(0, 0, {}, 1));
    const names = collection(point(0, 0.12, { name: 'Wide Upper Land' }, 2));
    const dotted = (side: string | string[]) =>
      ({
        sheet: 1,
        background: '#ffffff',
        data: { cities: { features: cities }, names: { features: names } },
        layers: [
          { id: 'cities', of: 'cities', mark: { shape: 'square', size: 7, color: '#ff0000' } },
          { id: 'names', of: 'names', label: { text: 'name', size: 15, halo: { color: '#ffffff', width: 2 }, side } },
        ],
      }) as unknown as Sheet;
    const red = async () => {
      await settled(stage);
      expect(await texts()).toEqual(['Wide Upper Land']);
      return (await countPixels(stage, [255, 0, 0]))[0];
    };
    await openMap(stage, dotted('on'), { center: [0.4, 0], zoom: 6.2 });
    const crossed = await red();
    await setSheet(stage, dotted(['on', 'above', 'below']));
    const clear = await red();
    expect(clear).toBeGreaterThan(12);
    expect(crossed).toBeLessThan(clear / 2);
  });

  test('come by a state alone, and hold no room before', async () => {
    const states = { hover: { label: { text: 'name', size: 14 } } };
    const base = sheet({}, { label: undefined, states });
    const [{ label: _, ...layer }] = base.layers;
    const other = collection(point(0.05, 0.4, { note: 'Beneath' }, 9));
    await openMap(
      stage,
      {
        ...base,
        data: { ...base.data, other: { features: other } },
        layers: [
          { id: 'other', of: 'other', label: { text: 'note' } },
          { id: 'clear', of: 'quays', label: { text: "'hidden'", opacity: 0, priority: 9 } },
          layer,
        ],
      },
      { center: [0.4, 0], zoom: 6.2 },
    );
    await settled(stage);
    expect(await texts()).toEqual(['Beneath']);
    await stage.page.mouse.move(...(await stage.page.evaluate(() => window.map.toPixel([-3, 1]))));
    await settled(stage);
    expect(await texts()).toContain('Far Quay');
  });
});

describe('labels along lines', () => {
  const streets = collection(
    line(
      [
        [-0.02, 0],
        [0.02, 0.001],
      ],
      { name: 'Rope Row' },
      1,
    ),
    line(
      [
        [-0.02, 0.003],
        [0.02, 0.004],
      ],
      { name: 'Hawser Yard' },
      2,
    ),
    line(
      [
        [0.001, -0.02],
        [0.001, 0.02],
      ],
      { name: 'Tar Lane' },
      3,
    ),
  );
  const sheet: Sheet = {
    sheet: 1,
    data: { streets: { features: streets } },
    layers: [{ id: 's', of: 'streets', stroke: '#888888', label: { text: 'name', along: true, repeat: 240 } }],
  };

  test.each([14, 16, 19])(
    'every street in view carries its name at zoom %i, repeated at the stated spacing',
    async (zoom) => {
      await openMap(stage, sheet, { center: [0.0012, 0.0004], zoom });
      await settled(stage);
      const found = await texts();
      const inView = zoom === 19 ? ['Rope Row', 'Tar Lane'] : ['Hawser Yard', 'Rope Row', 'Tar Lane'];
      expect([...new Set(found)]).toEqual(inView);
      // 800 pixels wide, a name every 240 to 480.
      if (zoom > 14) expect(found.filter((text) => text === 'Rope Row').length).toBeGreaterThanOrEqual(2);
      expect(found.length).toBeLessThanOrEqual(12);
    },
  );
});

describe('the rim of the globe', () => {
  const ring = (away: number) =>
    line(
      Array.from({ length: 181 }, (_, i) => {
        // A circle round [0, 0]: longitude and latitude of the place at a distance and direction from there.
        const [d, a] = [(away * Math.PI) / 180, (i / 90) * Math.PI];
        const lat = Math.asin(Math.sin(d) * Math.cos(a));
        const lon = Math.atan2(Math.sin(a) * Math.sin(d), Math.cos(d));
        return [(lon * 180) / Math.PI, (lat * 180) / Math.PI];
      }),
    );
  const globe = (features: object): Sheet => ({
    sheet: 1,
    background: '#ffffff',
    view: { surface: 'globe' },
    data: { rings: { features } },
    layers: [{ id: 'rings', of: 'rings', stroke: { color: '#000000', width: 2 } }],
  });

  test('lines close to it keep their width', async () => {
    await openMap(stage, globe(collection(ring(74))), { center: [0, 0], zoom: 3 });
    await settled(stage);
    const places = Array.from({ length: 72 }, (_, i) => {
      const [d, a] = [(74 * Math.PI) / 180, (i / 36) * Math.PI];
      return [
        (Math.atan2(Math.sin(a) * Math.sin(d), Math.cos(d)) * 180) / Math.PI,
        (Math.asin(Math.sin(d) * Math.cos(a)) * 180) / Math.PI,
      ] as [number, number];
    });
    const at = await stage.page.evaluate(
      (all) => all.map((place) => window.map.toPixel(place as [number, number]).map(Math.round) as [number, number]),
      places,
    );
    // Around each of the places there is a pixel of the line.
    const around = at.flatMap(([x, y]) =>
      [-1, 0, 1].flatMap((dx) => [-1, 0, 1].map((dy) => [x + dx, y + dy] as [number, number])),
    );
    const seen = await pixels(stage, ...around);
    const whole = at.map((_, i) => Math.min(...seen.slice(9 * i, 9 * i + 9).map(([r]) => r)));
    expect(whole.filter((dark) => dark > 150)).toEqual([]);
  });

  test('what lies beyond the horizon is not drawn', async () => {
    await openMap(stage, globe(collection(ring(100))), { center: [0, 0], zoom: 3 });
    await settled(stage);
    expect(await countPixels(stage, [0, 0, 0])).toEqual([0]);
  });

  test('symbols and labels fade before it', async () => {
    const far = [60, 70, 80, 88].map((lon) => point(lon, 0, { name: `at ${lon}` }, lon));
    await openMap(
      stage,
      {
        ...globe(collection(...far)),
        layers: [{ id: 'p', of: 'rings', mark: { size: 8, color: '#000000' }, label: { text: 'name', size: 10 } }],
      },
      { center: [0, 0], zoom: 3 },
    );
    await settled(stage);
    expect(await texts()).toEqual(['at 60']);
  });
});

test('the labels of the first picture are the same, whatever tile comes first', async () => {
  const { page } = stage;
  // The tiles come one after the other: as they lie in the archive, or the other way round.
  let turn = 1;
  await page.route('**/reach.pmtiles', async (route) => {
    const from = Number(/bytes=(\d+)/.exec(route.request().headers()['range'] ?? '')?.[1] ?? 0);
    if (from > 16384) await new Promise((resolve) => setTimeout(resolve, 700 + turn * ((from / 4e5) % 1) * 600));
    await route.continue();
  });
  const seen: string[][] = [];
  for (turn of [1, -1]) {
    await openMap(stage, { sheet: 1, layers: [] });
    await page.evaluate(async () => {
      window.map.remove();
      const sheet = (await (await fetch('/chalk.sheet.json')).json()) as Sheet;
      window.map = window.flintwright.createMap('#map', {
        sheet: { ...sheet, data: { reach: { tiles: new URL('/reach.pmtiles', location.href).href } } },
        view: { center: [-31.18, 44.62], zoom: 16.2 },
      });
    });
    await settled(stage);
    seen.push(await texts());
  }
  expect(seen[0].length).toBeGreaterThan(10);
  expect(seen[1]).toEqual(seen[0]);
});
