// Layers that are alike are drawn tile by tile; what is seen is what layer by layer would show.
import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { collection, openMap, settled, useStage } from './harness.ts';

const stage = useStage();

/** A seeded stream of numbers in [0, 1). */
function randomFrom(seed: number) {
  let state = seed;
  return () => (state = (state * 16807) % 2147483647) / 2147483647;
}

/** A sheet of chance: areas and lines over each other, across many tiles, of two sources. */
function sheetOf(seed: number): Sheet {
  const random = randomFrom(seed);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)];
  const color = () => `hsl(${Math.floor(random() * 360)} ${40 + Math.floor(random() * 60)}% 45%)`;
  const place = () => [random() * 34 - 17, random() * 24 - 12];
  const features = Array.from({ length: 40 }, (_, i) => {
    const [x, y] = place();
    const [w, h] = [1 + random() * 8, 1 + random() * 8];
    const ring = [
      [x, y],
      [x + w, y + random()],
      [x + w, y + h],
      [x, y + h],
      [x, y],
    ];
    const geometry =
      i % 2
        ? { type: 'Polygon', coordinates: [ring] }
        : { type: 'LineString', coordinates: Array.from({ length: 2 + (i % 5) }, place) };
    return { type: 'Feature', properties: { k: i % 3 }, geometry };
  });
  const layers = Array.from({ length: 9 }, (_, i) => {
    const line = (width: number) => ({ color: color(), width, ...(random() < 0.3 ? { dash: [3, 2] } : {}) });
    // Some have a casing.
    const stroke = () => (random() < 0.3 ? [line(9), line(4)] : line(1 + Math.floor(random() * 9)));
    const what = pick(['fill', 'fill', 'stroke', 'stroke', 'both', 'hatch']);
    return {
      id: `l${i}`,
      of: pick(['d', 'd', 'e']),
      ...(random() < 0.5 ? { where: `k = ${Math.floor(random() * 3)}` } : {}),
      ...(random() < 0.5 ? { opacity: 0.3 + random() * 0.6 } : {}),
      ...(what === 'fill' || what === 'both' ? { fill: color() } : {}),
      ...(what === 'hatch' ? { fill: { color: color(), hatch: {} } } : {}),
      ...(what === 'stroke' || what === 'both' ? { stroke: stroke() } : {}),
    };
  });
  return {
    sheet: 1,
    background: '#ffffff',
    data: {
      d: { features: collection(...(features as never[])) },
      e: { features: collection(...(features.slice(7, 23) as never[])) },
    },
    layers,
  } as unknown as Sheet;
}

/** The same sheet with a mark that nothing passes between its layers, so that none is drawn together with the next. */
const apart = (sheet: Sheet): Sheet => ({
  ...sheet,
  layers: (sheet.layers ?? []).flatMap((layer, i) => [
    layer,
    { id: `between${i}`, of: layer.of, where: 'k = 99', mark: { size: 9 } } as never,
  ]),
});

/** How many pixels of two pictures differ by more than a step. */
const differing = (one: Buffer, other: Buffer) =>
  stage.page.evaluate(
    async (texts) => {
      const [a, b] = await Promise.all(
        texts.map(async (text) => {
          const bytes = Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0));
          const image = await createImageBitmap(new Blob([bytes], { type: 'image/png' }));
          const context = new OffscreenCanvas(image.width, image.height).getContext('2d')!;
          context.drawImage(image, 0, 0);
          return context.getImageData(0, 0, image.width, image.height).data;
        }),
      );
      let [off, drawn] = [0, 0];
      for (let i = 0; i < a.length; i += 4) {
        if ([0, 1, 2].some((k) => Math.abs(a[i + k] - b[i + k]) > 1)) off++;
        if (a[i] + a[i + 1] + a[i + 2] < 740) drawn++;
      }
      return { off, drawn };
    },
    [one.toString('base64'), other.toString('base64')],
  );

describe('layers that are alike', () => {
  test.each<[number, { surface?: string; [key: string]: unknown }]>([
    [11, {}],
    [12, { zoom: 6.4, bearing: 30, tilt: 40 }],
    [13, { zoom: 4.7 }],
    [14, { surface: 'globe', zoom: 4.2 }],
  ])('drawn together or apart: the same picture (%i)', async (seed, { surface, ...view }) => {
    const sheet = sheetOf(seed);
    const shots: Buffer[] = [];
    const calls: number[] = [];
    for (const one of [sheet, apart(sheet)]) {
      await openMap(stage, one, { center: [0, 0], zoom: 5, ...view });
      if (surface) await stage.page.evaluate((id) => window.map.setSurface(id, { duration: 0 }), surface);
      await settled(stage);
      shots.push(await stage.page.screenshot());
      calls.push(await stage.page.evaluate(() => window.map.lastFrame.calls));
    }
    const { off, drawn } = await differing(shots[0], shots[1]);
    expect(drawn).toBeGreaterThan(40_000);
    expect(off).toBe(0);
    expect(calls.every((count) => count > 0)).toBe(true);
  });
});
