// What goes up to the graphics card and to the workers: all of it, however much there is, and no more often than is needed.
import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { collection, faultsOf, line, openMap, pixels, point, settled, useStage } from './harness.ts';
import { isNear, view } from './sheets.ts';

const stage = useStage();
const red = [255, 0, 0] as const;
const empty = { sheet: 1, background: '#ffffff', layers: [] } as unknown as Sheet;

/** Which of some places are not red. */
const missing = async (places: readonly (readonly [number, number])[]) => {
  const at = await stage.page.evaluate((all) => all.map((place) => window.map.toPixel([...place])), places);
  const colors = await pixels(stage, ...at.map(([x, y]): [number, number] => [Math.round(x), Math.round(y)]));
  return places.filter((_, i) => !isNear(colors[i], red));
};

describe('all boxes are drawn', () => {
  test('of one mark, two, three and more, which share texels', async () => {
    await openMap(stage, empty, view);
    const rows = [1, 2, 3, 4, 5, 6].map((amount) =>
      Array.from({ length: amount }, (_, i) => [i * 1.5 - 4, 4 - amount * 1.2] as const),
    );
    await stage.page.evaluate(
      (all: unknown) => {
        for (const [i, features] of (all as object[]).entries())
          window.map.layers.add({ id: `row${i}`, of: { features }, mark: { size: 16, color: '#ff0000' } } as never);
      },
      rows.map((row) => collection(...row.map(([lon, lat]) => point(lon, lat)))) as unknown,
    );
    await settled(stage);
    expect(await missing(rows.flat())).toEqual([]);
    expect(await faultsOf(stage)).toEqual([]);
  });

  test('of 200,000 marks, which go up slice by slice; states and changes of the sheet meanwhile hold', async () => {
    await openMap(stage, empty, view);
    // The last ones of what goes in a call, of a slice, and of all.
    const apart = [16_383, 16_384, 131_071, 131_072, 199_999];
    const places = apart.map((_, i) => [i * 2 - 4, 3] as const);
    await stage.page.evaluate(
      async ([apart, places]) => {
        const coordinates = new Float64Array(400_000).fill(-6);
        apart.forEach((index, i) => coordinates.set(places[i], index * 2));
        const ids = Float64Array.from({ length: 200_000 }, (_, i) => i);
        window.map.layers.add({
          id: 'many',
          of: { features: { coordinates, ids } },
          mark: { size: 6, color: '#0000ff' },
          states: { selected: { mark: { color: '#00ff00' } } },
        } as never);
        await new Promise((resolve) => {
          const look = () => (window.map.dataState('many') === 'loading' ? setTimeout(look) : resolve(undefined));
          look();
        });
        for (const id of apart) window.map.flag({ data: 'many', key: String(id) }, 'selected');
        await new Promise((resolve) => setTimeout(resolve, 30));
        window.map.layers.change('many', { states: { selected: { mark: { color: '#ff0000' } } } } as never);
      },
      [apart, places] as const,
    );
    await settled(stage);
    expect(await missing(places)).toEqual([]);
    expect(await faultsOf(stage)).toEqual([]);
  });

  test('of 9,000 lines in one tile', async () => {
    const lines = Array.from({ length: 9000 }, () => line([[-6, -3], [-6, 3]])); // prettier-ignore
    lines[8999] = line([[2, -3], [2, 3]]); // prettier-ignore
    lines[4500] = line([[4, -3], [4, 3]]); // prettier-ignore
    const layers = [{ id: 'l', of: 'l', stroke: { color: '#ff0000', width: 8 } }];
    const sheet = { ...empty, data: { l: { features: collection(...lines) } }, layers } as unknown as Sheet;
    await openMap(stage, sheet, view);
    await settled(stage);
    expect(await missing([[-6, 0], [2, 1], [4, 1]])).toEqual([]); // prettier-ignore
  });
});

test('whoever asks within the turn is told what holds after the change', async () => {
  await openMap(stage, empty, view);
  const told = await stage.page.evaluate(() => {
    const { map } = window;
    map.layers.add({ id: 'p', of: { features: { type: 'Point', coordinates: [0, 0] } }, mark: { size: 4 } } as never);
    return map.dataState('p');
  });
  expect(told).toBe('loading');
});

test('changes of one turn go to each worker as one sheet', async () => {
  const { page } = stage;
  await openMap(stage, empty, view);
  await settled(stage);
  const counts = await page.evaluate(async () => {
    const sheets = new Map<Worker, number>();
    const { postMessage } = Worker.prototype;
    Worker.prototype.postMessage = function (this: Worker, message: { sheet?: unknown }, ...rest: unknown[]) {
      if (message.sheet) sheets.set(this, (sheets.get(this) ?? 0) + 1);
      return Reflect.apply(postMessage, this, [message, ...rest]);
    } as typeof postMessage;
    for (let i = 0; i < 6; i++) {
      const features = { type: 'Point' as const, coordinates: [i * 2 - 5, 0] };
      window.map.layers.add({ id: `l${i}`, of: { features }, mark: { size: 20, color: '#0000ff' } } as never);
      window.map.layers.change(`l${i}`, { mark: { color: '#ff0000' } } as never);
    }
    await window.map.settled();
    return [...sheets.values()];
  });
  expect(counts.length).toBeGreaterThan(0);
  expect(Math.max(...counts)).toBe(1);
  expect(await missing([-5, -3, -1, 1, 3, 5].map((lon) => [lon, 0] as const))).toEqual([]);
});
