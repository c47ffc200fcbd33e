import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { box, openMap, pixels, settled, useStage } from './harness.ts';
import { isNear, sheetOf, view } from './sheets.ts';

const stage = useStage();

const uploads = () => stage.page.evaluate(() => window.flintwright.liveCounts().geometryUploads);

/** Colors in the middle of the map, frame by frame, while it goes over into another sheet. */
const fadingInto = (next: unknown) =>
  stage.page.evaluate(async (next: unknown) => {
    const canvas = document.querySelector('canvas')!;
    const out: number[][] = [];
    window.map.setSheet(next as Sheet, { duration: 2000 });
    let over = false;
    const end = window.map.settled().then(() => (over = true));
    while (!over) {
      await new Promise((resolve) => requestAnimationFrame(resolve));
      const copy = new OffscreenCanvas(canvas.width, canvas.height).getContext('2d')!;
      copy.drawImage(canvas, 0, 0);
      out.push([...copy.getImageData(400, 300, 1, 1).data]);
    }
    await end;
    return out;
  }, next);

describe('live restyle', () => {
  test('a hundred thousand features from one scale to another: no geometry is built', async () => {
    const { page } = stage;
    await openMap(stage, { sheet: 1, layers: [] }, view);
    await page.evaluate(() => {
      const features = Array.from({ length: 100000 }, (_, i) => ({
        type: 'Feature',
        properties: { v: i % 100 },
        geometry: { type: 'Point', coordinates: [-16 + (i % 400) * 0.08, -12 + Math.floor(i / 400) * 0.096] },
      }));
      window.map.layers.add({
        id: 'many',
        of: { features: { type: 'FeatureCollection', features } },
        mark: {
          size: 3,
          color: {
            by: 'v',
            ramp: [
              [0, '#ffffff'],
              [100, '#000000'],
            ],
          },
        },
      });
    });
    await settled(stage);
    const before = await uploads();
    expect(before).toBeGreaterThan(0);
    await page.evaluate(() =>
      window.map.layers.change('many', {
        mark: { size: 3, color: { by: 'v', classes: { breaks: [50], values: ['#ff0000', '#ff0000'] } } },
      }),
    );
    await settled(stage);
    expect(await uploads()).toBe(before);
    const some = await pixels(stage, ...Array.from({ length: 40 }, (_, i): [number, number] => [380 + i, 300]));
    expect(some.some((c) => isNear(c, [255, 0, 0]))).toBe(true);
  });

  test('another sheet fades in; overlays and view stay; people who want less motion get it at once', async () => {
    const { page } = stage;
    const red = sheetOf([box(-9, -9, 18, {}, 1)], { fill: '#ff0000' });
    const blue = sheetOf([box(-9, -9, 18, {}, 1)], { fill: '#0000ff' });
    await openMap(stage, red, view);
    await settled(stage);
    const seen = await fadingInto(blue);
    // On the way both colors are there; in the end only the new one.
    expect(seen.some(([r, , b]) => r > 20 && b > 20)).toBe(true);
    expect((await pixels(stage, [400, 300]))[0]).toEqual([0, 0, 255]);
    const named = { ...blue, palette: { sea: '#0000ff' }, layers: [{ ...blue.layers[0], fill: '@sea' }] };
    await page.evaluate((next: unknown) => {
      window.map.setSheet(next as Sheet, { duration: 0 });
      window.map.setPalette({ sea: '#00ff00' }, { duration: 50 });
    }, named as unknown);
    await settled(stage);
    expect((await pixels(stage, [400, 300]))[0]).toEqual([0, 255, 0]);
    await page.emulateMedia({ reducedMotion: 'reduce' });
    await page.evaluate((next: unknown) => window.map.setSheet(next as Sheet, { duration: 5000 }), red as unknown);
    await settled(stage);
    expect((await pixels(stage, [400, 300]))[0]).toEqual([255, 0, 0]);
  });

  test('a background fades by itself, too', async () => {
    const ground = (background: string): Sheet => ({ sheet: 1, background, layers: [] });
    await openMap(stage, ground('#ff0000'), view);
    await settled(stage);
    const seen = await fadingInto(ground('#0000ff'));
    expect(seen.some(([r, , b]) => r > 20 && b > 20)).toBe(true);
    expect((await pixels(stage, [400, 300]))[0]).toEqual([0, 0, 255]);
  });

  test('a globe of mere background has the sky of the night as soon as it is night', async () => {
    const globe = { sheet: 1, background: '#88aabb', view: { surface: 'globe', zoom: 0.5 }, layers: [] } as Sheet;
    await openMap(stage, globe, { center: [0, 0], zoom: 0.5 }, { colorScheme: 'light' });
    await settled(stage);
    const sky = async () => (await pixels(stage, [4, 4]))[0];
    expect(Math.min(...(await sky()))).toBeGreaterThan(200);
    await stage.page.evaluate(() => (window.map.colorScheme = 'dark'));
    await settled(stage);
    expect(Math.max(...(await sky()))).toBeLessThan(60);
  });
});
