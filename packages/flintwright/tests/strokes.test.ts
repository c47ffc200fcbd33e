// The ink of strokes at their corners, against the shape that two meeting stripes have.
import { describe, expect, test } from '@jest/globals';
import { openMap, setSheet, settled, useStage } from './harness.ts';
import type { Page } from 'playwright-core';
import { sheetOf } from './sheets.ts';

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
async function inks(page: Page): Promise<{ width: number; ink: number[] }> {
  const shot = await page.screenshot({
    clip: { x: 400 - half, y: 300 - half, width: half * 2, height: half * 2 },
  });
  return page.evaluate(async (data) => {
    const bytes = Uint8Array.from(atob(data), (c) => c.charCodeAt(0));
    const image = await createImageBitmap(new Blob([bytes], { type: 'image/png' }));
    const context = new OffscreenCanvas(image.width, image.height).getContext('2d')!;
    context.drawImage(image, 0, 0);
    const { data: rgba } = context.getImageData(0, 0, image.width, image.height);
    return { width: image.width, ink: Array.from({ length: rgba.length / 4 }, (_, i) => 1 - rgba[i * 4] / 255) };
  }, shot.toString('base64'));
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
    const { width, ink } = await inks(stage.page);
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
