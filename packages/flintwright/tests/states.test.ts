import { describe, expect, test } from '@jest/globals';
import { box, openMap, pixels, settled, useStage } from './harness.ts';
import { isNear, sheetOf, view } from './sheets.ts';

const stage = useStage();

describe('states', () => {
  test('ten thousand polygons: the highlight is always exactly the one beneath, and leaving clears it', async () => {
    const { page } = stage;
    // Features without ids; what tells them apart is where they stand in the data.
    const cells = Array.from({ length: 10000 }, (_, i) =>
      box(-16 + (i % 100) * 0.32, -12 + Math.floor(i / 100) * 0.24, 0.22, { i }),
    );
    await openMap(stage, sheetOf(cells, { fill: '#cccccc', states: { hover: { fill: { color: '#ff0000' } } } }), view);
    await settled(stage);
    const places = [
      [120, 150],
      [122, 150],
      [333, 222],
      [401, 333],
      [650, 480],
      [398, 301],
    ];
    for (const [x, y] of places) {
      await page.mouse.move(x, y);
      await settled(stage);
      const expected = await page.evaluate(([px, py]) => window.map.pick([px, py])[0]?.properties['i'] ?? null, [x, y]);
      const shot = await page.screenshot();
      const red = await page.evaluate(async (data) => {
        const image = await createImageBitmap(new Blob([Uint8Array.from(atob(data), (c) => c.charCodeAt(0))]));
        const context = new OffscreenCanvas(image.width, image.height).getContext('2d')!;
        context.drawImage(image, 0, 0);
        const { data: all } = context.getImageData(0, 0, image.width, image.height);
        const found = new Set<number>();
        for (let k = 0; k < all.length; k += 4) {
          if (all[k] < 250 || all[k + 1] > 5) continue;
          const at = window.map.pick([(k / 4) % image.width, Math.floor(k / 4 / image.width)], { within: 0 })[0];
          if (at) found.add(at.properties['i'] as number);
        }
        return [...found];
      }, shot.toString('base64'));
      expect(red).toEqual(expected === null ? [] : [expected]);
    }
    // The map moves beneath a pointer that stands still.
    await page.mouse.move(400, 300);
    await page.evaluate(() => window.map.move({ center: [3, 2] }));
    await settled(stage);
    const [under] = await pixels(stage, [400, 300]);
    const there = await page.evaluate(() => window.map.pick([400, 300], { within: 0 }).length);
    expect(isNear(under, [255, 0, 0])).toBe(there > 0);
    await page.mouse.move(400, 300);
    await page.evaluate(() => document.querySelector('canvas')!.dispatchEvent(new PointerEvent('pointerleave')));
    await settled(stage);
    expect(isNear((await pixels(stage, [400, 300]))[0], [255, 0, 0])).toBe(false);
  });

  test.each([
    ['plain', {}],
    ['dashed, with a casing', { dash: [40, 2] }],
  ])(
    'the stroke of a feature in a state lies above those of its neighbors, tile borders aside: %s',
    async (_, more) => {
      const { page } = stage;
      // Four squares that share their borders; the third and fourth are drawn after the first. The middle of the map is a corner of tiles.
      const squares = [box(-6, 0, 6, {}, 1), box(0, 0, 6, {}, 2), box(-6, -6, 6, {}, 3), box(0, -6, 6, {}, 4)];
      await openMap(
        stage,
        sheetOf(squares, {
          fill: '#cccccc',
          stroke: [{ color: '#0000ff', width: 12, ...more }],
          states: { hover: { stroke: [{ color: '#ff0000', width: 12, cap: 'butt' }] } },
        }),
        view,
      );
      await settled(stage);
      const border: [number, number][] = [
        [330, 300],
        [400, 240],
        [330, 297],
        [330, 303],
        [397, 240],
        [403, 240],
      ];
      expect((await pixels(stage, ...border)).every((seen) => isNear(seen, [0, 0, 255]))).toBe(true);
      await page.mouse.move(330, 240);
      await settled(stage);
      expect((await pixels(stage, ...border)).map((seen) => isNear(seen, [255, 0, 0]))).toEqual(border.map(() => true));
      await page.mouse.move(700, 580);
      await settled(stage);
      expect((await pixels(stage, ...border)).every((seen) => isNear(seen, [0, 0, 255]))).toBe(true);
    },
  );

  test('selection: one, several, or none, from the sheet alone; labels and defaults have states too', async () => {
    const { page } = stage;
    const boxes = [box(-9, 1, 8, { n: 'one' }, 1), box(1, -9, 8, { n: 'two' }, 2)];
    const keys = () => page.evaluate(() => window.map.selection.map(({ key }) => key));
    const press = async (x: number, y: number) => {
      await page.mouse.click(x, y);
      await settled(stage);
    };
    await openMap(stage, sheetOf(boxes, { fill: '#cccccc', select: 'one' }), view);
    await page.evaluate(() => {
      Object.assign(window, { changes: [] });
      window.map.addEventListener('selectionchange', (event) =>
        (window as unknown as { changes: number[] }).changes.push((event as CustomEvent<unknown[]>).detail.length),
      );
    });
    await settled(stage);
    await press(300, 200);
    expect(await keys()).toEqual(['1']);
    // A sheet that says nothing of the state still shows it: an amber rim.
    expect(isNear((await pixels(stage, [195, 200]))[0], [0xd9, 0x8a, 0x2b], 30)).toBe(true);
    await press(500, 400);
    expect(await keys()).toEqual(['2']);
    // Twice in a row would be a double press.
    await page.waitForTimeout(500);
    await press(500, 400);
    expect(await keys()).toEqual([]);
    await press(300, 200);
    await press(600, 100);
    expect(await keys()).toEqual([]);
    expect(await page.evaluate(() => (window as unknown as { changes: number[] }).changes)).toEqual([1, 1, 0, 1, 0]);

    await openMap(
      stage,
      sheetOf(boxes, {
        fill: '#ffffff',
        label: { text: 'n', size: 30, color: '#0000ff', weight: 800 },
        states: { selected: { label: { color: '#ff0000' } } },
        select: 'several',
      }),
      view,
    );
    await settled(stage);
    await press(300, 215);
    await press(500, 415);
    expect(await keys()).toEqual(['1', '2']);
    const around = await pixels(
      stage,
      ...Array.from({ length: 1200 }, (_, i): [number, number] => [260 + (i % 60), 190 + Math.floor(i / 60)]),
    );
    expect(around.some((c) => isNear(c, [255, 0, 0], 40))).toBe(true);
    expect(around.some((c) => isNear(c, [0, 0, 255], 40))).toBe(false);
    await page.evaluate(() => window.map.select());
    await settled(stage);
    expect(await keys()).toEqual([]);
  });
});
