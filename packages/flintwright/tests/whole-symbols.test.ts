// Marks along lines and icons of patterns are drawn whole or not at all: at every scale, on every surface, across tiles.
import { describe, expect, test } from '@jest/globals';
import type { SheetView } from '@flintwright/core';
import type { Page } from 'playwright-core';
import { line, openMap, picture, settled, useStage } from './harness.ts';
import { sheetOf } from './sheets.ts';

const stage = useStage();

/** Patches of ink that do not touch the edge of the page: how many pixels each has. */
async function patches(): Promise<number[]> {
  const { width, height, rgba } = await picture(stage);
  const isInk = (i: number) => rgba[4 * i] > 150 && rgba[4 * i + 1] < 110;
  const seen = new Uint8Array(width * height);
  const sizes: number[] = [];
  for (let i = 0; i < seen.length; i++) {
    if (seen[i] || !isInk(i)) continue;
    const queue = [i];
    seen[i] = 1;
    let [count, touches] = [0, false];
    for (let at = queue.pop(); at !== undefined; at = queue.pop()) {
      const [x, y] = [at % width, Math.floor(at / width)];
      count++;
      touches ||= x < 2 || y < 2 || x > width - 3 || y > height - 3;
      for (const next of [x > 0 ? at - 1 : -1, x < width - 1 ? at + 1 : -1, at - width, at + width])
        if (next >= 0 && next < seen.length && !seen[next] && isInk(next)) {
          seen[next] = 1;
          queue.push(next);
        }
    }
    // A pixel between the halves of a bent mark may stand alone.
    if (!touches && count > 1) sizes.push(count);
  }
  return sizes;
}

/** A course with sharp corners and gentle bends, long enough to cross many tiles. */
const zigzag = Array.from({ length: 60 }, (_, i) => [-14 + i * 0.5, 3 * Math.sin(i * 1.9) + 4 * Math.cos(i / 9)]);
/** A shore with coves and points. */
const shore = Array.from({ length: 90 }, (_, i) => {
  const a = (i / 90) * 2 * Math.PI;
  const r = 7 + 1.6 * Math.sin(a * 9) + 0.8 * Math.sin(a * 23);
  return [r * Math.cos(a) * 1.3, r * Math.sin(a)];
});

const polygon = {
  type: 'Feature',
  properties: {},
  geometry: { type: 'Polygon', coordinates: [[...shore, shore[0]]] },
};
const subjects = {
  'marks along lines': sheetOf([line(zigzag)], {
    stroke: { color: '#ff0000', width: 18, marks: { icon: 'square', gap: 34 } },
  }),
  'marks along outlines': sheetOf([polygon], {
    stroke: { color: '#ff0000', width: 14, marks: { icon: 'circle', gap: 30 } },
  }),
  'icons of a pattern': sheetOf([polygon], {
    fill: { color: '#e8eef0', pattern: { icon: 'square', color: '#ff0000', size: 16, gap: 32, whole: true } },
  }),
};

interface Where {
  zoom: number;
  bearing?: number;
  surface?: SheetView['surface'];
}

const places: [string, number, Where][] = [
  ['at a whole zoom level', 1, { zoom: 5 }],
  ['at pixel ratio 1.5', 1.5, { zoom: 5.4 }],
  ['at pixel ratio 2', 2, { zoom: 6 }],
  ['turned', 1, { zoom: 5.3, bearing: 33 }],
  ['on a conic surface', 1, { zoom: 5, surface: 'EPSG:3035' }],
  ['on the globe', 1, { zoom: 5, surface: 'globe' }],
];

describe.each(Object.entries(subjects))('%s', (what, sheet) => {
  // On the globe each tile has a pattern of its own, which ends at its border.
  const where = places.filter(([name]) => name !== 'on the globe' || !what.includes('pattern'));
  test.each(where)('are whole %s', async (_where, ratio, { zoom, surface, ...more }: Where) => {
    const context = await stage.browser.newContext({ deviceScaleFactor: ratio, viewport: { width: 800, height: 600 } });
    (stage as { page: Page }).page = await context.newPage();
    await openMap(stage, surface ? { ...sheet, view: { surface } } : sheet, { center: [0.3, 0.2], zoom, ...more });
    await settled(stage);
    const sizes = (await patches()).sort((a, b) => a - b);
    expect(sizes.length).toBeGreaterThan(12);
    const usual = sizes[Math.floor(sizes.length / 2)];
    // Round corners and the grid of pixels take a little; where a line bends gently, so do its marks.
    expect(sizes.filter((size) => size < 0.7 * usual)).toEqual([]);
    await context.close();
  });
});
