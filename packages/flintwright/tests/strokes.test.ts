// The ink of strokes at their corners, against the shape that two meeting stripes have.
import { describe, expect, test } from '@jest/globals';
import { line, openMap, picture, pixels, setSheet, settled, useStage } from './harness.ts';
import type { Page } from 'playwright-core';
import { isNear, sheetOf, view } from './sheets.ts';

const stage = useStage();
/** Half the width of the part of the page that is looked at, around the middle of the map. */
const half = 80;

/** The corners of a square and of a triangle with a sharp top (40°), in CSS pixels around the middle of the map. */
const shapes: Record<string, [number, number][]> = {
  square: [
    [-40, -40],
    [40, -40],
    [40, 40],
    [-40, 40],
  ],
  triangle: [
    [0, -60],
    [60 * Math.tan(Math.PI / 9) * 1.6, 36],
    [-60 * Math.tan(Math.PI / 9) * 1.6, 36],
  ],
};

const turned = (ring: [number, number][], degrees: number) => {
  const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
  return ring.map(([x, y]): [number, number] => [c * x - s * y, s * x + c * y]);
};

/** How far places lie outside a convex ring, whose corners run clockwise on the screen: the largest distance from its sides. */
function outside(ring: [number, number][], x: number, y: number): number {
  return Math.max(
    ...ring.map(([ax, ay], i) => {
      const [bx, by] = ring[(i + 1) % ring.length];
      return ((by - ay) * (x - ax) - (bx - ax) * (y - ay)) / Math.hypot(bx - ax, by - ay);
    }),
  );
}

/** Ink of every device pixel around the middle, 0 to 1, row by row. */
async function inks(): Promise<{ width: number; ink: number[] }> {
  const { width, height, rgba } = await picture(stage, {
    ...{ x: 400 - half, y: 300 - half },
    ...{ width: half * 2, height: half * 2 },
  });
  return { width, ink: Array.from({ length: width * height }, (_, i) => 1 - rgba[i * 4] / 255) };
}

describe('mitered corners', () => {
  test.each([
    [1, 'square', 1],
    [1.5, 'square', 1],
    [2, 'square', 1],
    [1, 'square', 0.5],
    [1, 'triangle', 0.5],
    [2, 'triangle', 1],
  ])('end at their tips: pixel ratio %s, %s, opacity %s', async (ratio, shape, opacity) => {
    const context = await stage.browser.newContext({ deviceScaleFactor: ratio, viewport: { width: 800, height: 600 } });
    (stage as { page: Page }).page = await context.newPage();
    await openMap(stage, { sheet: 1, background: '#ffffff', layers: [] }, { center: [0, 0], zoom: 10 });
    const ring = turned(shapes[shape], 17);
    const corners = await stage.page.evaluate(
      (places) => places.map(([x, y]) => window.map.toPlace([400 + x, 300 + y])!),
      ring,
    );
    const polygon = { type: 'Polygon', coordinates: [[...corners, corners[0]]] };
    await setSheet(
      stage,
      sheetOf([{ type: 'Feature', properties: {}, geometry: polygon }], {
        stroke: { color: '#000000', width: 1, join: 'miter', opacity },
      }),
    );
    await settled(stage);
    const { width, ink } = await inks();
    let beyond = 0;
    // Ink around each corner, and how much of the shape lies there.
    const [seen, wanted] = [ring.map(() => 0), ring.map(() => 0)];
    for (let i = 0; i < ink.length; i++) {
      const [x, y] = [(i % width) + 0.5, Math.floor(i / width) + 0.5].map((v) => v / ratio - half);
      // The edge fades over one device pixel; coordinates in tiles are whole and move it by up to a fifth of one.
      if (outside(ring, x, y) > 0.5 + 0.7 / ratio) beyond = Math.max(beyond, ink[i]);
      const corner = ring.findIndex(([cx, cy]) => Math.hypot(x - cx, y - cy) < 4);
      if (corner < 0) continue;
      seen[corner] += ink[i] / opacity;
      for (let k = 0; k < 256; k++) {
        const [u, v] = [x + ((k % 16) - 7.5) / 16 / ratio, y + (Math.floor(k / 16) - 7.5) / 16 / ratio];
        if (Math.abs(outside(ring, u, v)) <= 0.5) wanted[corner] += 1 / 256;
      }
    }
    expect(beyond).toBeLessThan(0.03);
    // Where a corner is sharp, the rounding of places to those of a tile moves its tip by more.
    for (const [i, area] of wanted.entries())
      expect(Math.abs(seen[i] / area - 1)).toBeLessThan(shape === 'square' ? 0.02 : 0.06);
    await context.close();
  });
});

const red: [number, number, number] = [255, 0, 0];

/** Which of some pixels of a column show ink of a color, and which of them a press answers with the feature of a layer. */
async function column(x: number, from: number, to: number, within: number) {
  const at = Array.from({ length: to - from }, (_, i): [number, number] => [x, from + i]);
  const seen = (await pixels(stage, ...at)).map((color) => isNear(color, red, 100));
  const picked = await stage.page.evaluate(
    ([places, within]) =>
      places.map((place) => window.map.pick([place[0] + 0.5, place[1] + 0.5], { within }).length > 0),
    [at, within] as const,
  );
  return { seen, picked };
}

describe('presses on strokes', () => {
  // A degree of the equator is 111.3 km and 22.8 pixels.
  test.each([
    ['in pixels', { width: 24 }],
    ['wider than fingers', { width: 140 }],
    ['in meters', { width: '300000m' }],
    [
      'between two zoom levels',
      {
        width: {
          by: 'zoom',
          ramp: [
            [5, 10],
            [6, 60],
          ],
        },
      },
    ],
    ['beside the line, to its right', { width: 16, offset: 40 }],
    ['beside the line, to its left', { width: 16, offset: -40 }],
    ['two strokes, of which one lies beside', [{ width: 6 }, { width: 10, offset: 30 }]],
  ])('answer where the ink is: %s', async (_what, stroke) => {
    const strokes = [stroke].flat().map((one) => ({ color: '#ff0000', cap: 'butt', ...one }));
    for (const more of [{}, { tilt: 50 }, { surface: 'globe' }]) {
      const { surface, ...turned } = { surface: 'EPSG:3857', ...more };
      const path = line([
        [-30, 0],
        [30, 0],
      ]);
      await openMap(stage, sheetOf([path], { stroke: strokes }, { view: { surface } }), {
        ...view,
        zoom: 5.5,
        ...turned,
      });
      await settled(stage);
      const { seen, picked } = await column(420, 150, 450, 0);
      expect(seen.filter(Boolean).length).toBeGreaterThan(8);
      // On the sphere and under a tilt the width of a stroke itself is true to a pixel.
      const wrong = seen.flatMap((ink, i) => (ink === picked[i] ? [] : [i]));
      const edges = seen.flatMap((ink, i) => (i && ink !== seen[i - 1] ? [i] : []));
      expect(wrong.filter((i) => edges.every((edge) => Math.abs(edge - i) > 2))).toEqual([]);
    }
  });
});

test('roads of a network open into each other; the one that is seen answers first', async () => {
  const strokes = (color: string, width: number) => [
    { color: '#000000', width: width + 12 },
    { color, width },
  ];
  const sheet = (network?: string) => ({
    ...sheetOf(
      [
        line(
          [
            [0, 0],
            [0, -10],
          ],
          { c: 'lane' },
        ),
        line(
          [
            [-10, 0],
            [10, 0],
          ],
          { c: 'main' },
        ),
      ],
      {},
    ),
    layers: ['lane', 'main'].map((c) => ({
      id: c,
      of: 'd',
      where: `c = '${c}'`,
      ...(network ? { network } : {}),
      stroke: strokes(c === 'lane' ? '#00ff00' : '#ff0000', c === 'lane' ? 20 : 30),
    })),
  });
  // Where the casing of the main road crosses the lane, 15 to 21 pixels below its middle.
  const mouth: [number, number] = [400, 318];
  const first = () => stage.page.evaluate((at) => window.map.pick(at).map(({ layer }) => layer), mouth);
  await openMap(stage, sheet() as never, view);
  await settled(stage);
  expect(await pixels(stage, mouth)).toEqual([[0, 0, 0]]);
  expect(await first()).toEqual(['main', 'lane']);
  await setSheet(stage, sheet('roads') as never);
  await settled(stage);
  expect(await pixels(stage, mouth, [400, 300])).toEqual([[0, 255, 0], red]);
  expect(await first()).toEqual(['lane', 'main']);
  const fault = await stage.page.evaluate(() => {
    try {
      window.map.layers.change('main', { mark: { shape: 'disc' } });
    } catch (error) {
      return (error as { message: string }).message;
    }
  });
  expect(fault).toMatch(/layer "main" of the network "roads" draws more than plain strokes and labels/);
});
