import { describe, expect, test } from '@jest/globals';
import { openMap, pixels, point, settled, useStage } from './harness.ts';
import { clustered, view } from './sheets.ts';

const stage = useStage();

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
    // The slate of a hexagon, above its count.
    const seen = await pixels(stage, ...places.map(([x, y]): [number, number] => [Math.round(x), Math.round(y) - 9]));
    expect(seen.filter((colour) => !colour.every((v) => v < 90))).toEqual([]);
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
    // The single point is drawn as its layer says; a cluster is a slate cairn.
    const [x, y] = await at(0, 6);
    const [cx, cy] = await at(6, -3);
    const [single, core] = await pixels(stage, [Math.round(x), Math.round(y)], [Math.round(cx), Math.round(cy) - 9]);
    expect(single).toEqual([255, 0, 0]);
    expect(core.every((v) => v < 90)).toBe(true);
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
