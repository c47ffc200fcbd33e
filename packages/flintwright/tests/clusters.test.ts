import { describe, expect, test } from '@jest/globals';
import type { Page } from 'playwright-core';
import { openMap, picture, pixels, point, settled, useStage } from './harness.ts';
import { clustered, isNear, view } from './sheets.ts';

const stage = useStage();
const chalk = [0xf7, 0xf5, 0xef];

describe('clusters', () => {
  test('all stand there, however many are in view', async () => {
    const { page } = stage;
    const spots = Array.from(
      { length: 176 },
      (_, i) => [(i % 16) * 2.1 - 15.7, Math.floor(i / 16) * 2.1 - 10.5] as const,
    );
    const features = spots.flatMap(([lon, lat], i) =>
      Array.from({ length: 2 + (i % 5) }, () => point(lon, lat, { k: 'a', n: i })),
    );
    await openMap(stage, clustered(features, { within: 20 }), view);
    await settled(stage);
    const places = await page.evaluate((all) => all.map(([x, y]) => window.map.toPixel([x, y])), spots);
    // The chalk of a core, above its count.
    const seen = await pixels(stage, ...places.map(([x, y]): [number, number] => [Math.round(x), Math.round(y) - 7]));
    expect(seen.filter((color) => !isNear(color, chalk))).toEqual([]);
    expect(seen).toHaveLength(176);
  });

  test('gather by pixels, open on a press, fan out where all share one place, and follow a filter', async () => {
    const { page } = stage;
    const near = [
      point(-5, 3, { k: 'a', n: 1 }, 1),
      point(-4.8, 3, { k: 'a', n: 2 }, 2),
      point(-4.9, 3.1, { k: 'b', n: 3 }, 3),
    ];
    const one = [4, 5, 6].map((id) => point(6, -3, { k: 'b', n: id }, id));
    await openMap(
      stage,
      clustered(
        [...near, ...one, point(0, 6, { k: 'a', n: 9 }, 9)],
        { share: 'k', sum: { n: 'n' } },
        { popup: { title: 'n' } },
      ),
      view,
    );
    await settled(stage);
    const at = (lon: number, lat: number) => page.evaluate(([x, y]) => window.map.toPixel([x, y]), [lon, lat]);
    // The single point is drawn as its layer says; a cluster has a core of chalk.
    const [x, y] = await at(0, 6);
    const [cx, cy] = await at(6, -3);
    const [single, core] = await pixels(stage, [Math.round(x), Math.round(y)], [Math.round(cx), Math.round(cy) - 7]);
    expect(single).toEqual([255, 0, 0]);
    expect(isNear(core, chalk)).toBe(true);
    expect(await page.evaluate(([px, py]) => window.map.pick([px, py])[0]?.properties, [x, y])).toEqual({
      k: 'a',
      n: 9,
    });

    // Three on one spot never come apart by zooming: they fan out, and each can be pressed.
    await page.mouse.click(cx, cy);
    await settled(stage);
    const fanned = await page.evaluate(
      ([px, py]) =>
        [0, 1, 2].map(
          (i) =>
            window.map.pick([
              px + 26 * Math.cos((i / 3) * 2 * Math.PI - Math.PI / 2),
              py + 26 * Math.sin((i / 3) * 2 * Math.PI - Math.PI / 2),
            ])[0]?.id,
        ),
      [cx, cy],
    );
    expect([...fanned].sort()).toEqual([4, 5, 6]);

    const presses = await page.evaluate(() => {
      const seen: { count: number; sums: Record<string, number>; shares: readonly number[] }[] = [];
      window.map.addEventListener('press', (event) => {
        const { cluster } = (event as CustomEvent).detail as { cluster?: { node: (typeof seen)[0] } };
        if (cluster) seen.push({ count: cluster.node.count, sums: cluster.node.sums, shares: cluster.node.shares });
      });
      return ((window as unknown as { seen: typeof seen }).seen = seen);
    });
    expect(presses).toEqual([]);
    const [nx, ny] = await at(-4.9, 3.03);
    await page.mouse.click(nx, ny);
    await settled(stage);
    expect(await page.evaluate(() => (window as unknown as { seen: unknown[] }).seen)).toEqual([
      { count: 3, sums: { n: 6 }, shares: [2, 1, 0] },
    ]);
    const { zoom, center } = await page.evaluate(() => window.map.view);
    expect(zoom).toBeGreaterThan(6);
    expect(Math.abs(center[0] + 4.9)).toBeLessThan(0.05);

    await page.evaluate(() => {
      window.map.layers.change('l', { where: "k = 'b'" });
      return window.map.move({ center: [0, 0], zoom: 5 });
    });
    await settled(stage);
    const left = await page.evaluate(async () => {
      const places: [number, number][] = [
        [-4.9, 3.1],
        [0, 6],
      ];
      return places.map((p) => window.map.pick(window.map.toPixel(p)).length);
    });
    expect(left).toEqual([1, 0]);
  });

  test.each([
    [1, 'light'],
    [1.5, 'light'],
    [2, 'dark'],
  ] as const)('have smooth edges and a rim divided by what they hold: pixel ratio %s, %s', async (ratio, scheme) => {
    const context = await stage.browser.newContext({ deviceScaleFactor: ratio, viewport: { width: 800, height: 600 } });
    (stage as { page: Page }).page = await context.newPage();
    // Three quarters of one kind.
    const members = Array.from({ length: 400 }, (_, i) => point(0, 0, { k: i % 4 ? 'a' : 'b' }));
    await openMap(stage, clustered(members, { share: 'k' }), view, { colorScheme: scheme });
    await settled(stage);
    const { width, height, rgba } = await picture(stage, { x: 370, y: 270, width: 60, height: 60 });
    let [covered, inCore] = [0, 0];
    const rim = { a: 0, b: 0 };
    for (let i = 0; i < width * height; i++) {
      const color = [...rgba.subarray(4 * i, 4 * i + 3)];
      const [x, y] = [(i % width) + 0.5 - width / 2, Math.floor(i / width) + 0.5 - height / 2].map((v) => v / ratio);
      const away = Math.hypot(x, y);
      const isRed = isNear(color, [255, 0, 0], 40);
      const isBlue = isNear(color, [0, 0, 255], 40);
      if (isRed) rim.a++;
      if (isBlue) rim.b++;
      // The first share begins at the top and runs clockwise.
      const turn = (Math.atan2(x, -y) / (2 * Math.PI) + 1) % 1;
      if (isRed) expect(turn).toBeLessThan(0.77);
      if (isBlue) expect(turn).toBeGreaterThan(0.73);
      if (isNear(color, scheme === 'dark' ? [0x22, 0x30, 0x3a] : chalk, 4) && away > 11 && away < 13) inCore++;
      // The share of a pixel that the outline covers: it is as dark in every case.
      if (away > 17) covered += Math.max(0, Math.min(1, (255 - color[1]) / (255 - (scheme === 'dark' ? 0x14 : 0x30))));
      else covered += 1;
    }
    expect(rim.b / (rim.a + rim.b)).toBeCloseTo(0.25, 1);
    expect(inCore).toBeGreaterThan(40);
    // A regular hexagon on a corner, whose corners are rounded off: the core of it, a border of six sides, and a circle.
    const radius = (26 + 6 * Math.log10(400)) / 2;
    const round = radius * 0.14;
    const corner = radius - (round * 2) / Math.sqrt(3);
    const area = 1.5 * Math.sqrt(3) * corner ** 2 + 6 * corner * round + Math.PI * round ** 2;
    expect(covered / ratio ** 2 / area).toBeCloseTo(1, 1);
    await context.close();
  });

  test('tiles cannot be clustered, and say so', async () => {
    const sheet = {
      sheet: 1,
      data: { t: { tiles: 'x.pmtiles', cluster: {} } },
      layers: [{ id: 'l', of: 't/a', mark: {} }],
    };
    await stage.page.goto(`${stage.base}/test/`);
    await stage.page.waitForFunction(() => 'flintwright' in window);
    const said = await stage.page.evaluate(
      (s) => window.flintwright.checkSheet(s).map(({ code, at }) => [code, at]),
      sheet,
    );
    expect(said).toContainEqual(['sheet.cluster', '$.data.t.cluster']);
  });
});
