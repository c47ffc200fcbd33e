// Features that an application holds in arrays, and files that a worker reads from their bytes.
import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { faultsOf, openMap, pixels, settled, useStage } from './harness.ts';
import { isNear, view } from './sheets.ts';

const stage = useStage();
const red = [255, 0, 0] as const;
const blue = [0, 0, 255] as const;

/** Makes a map of four points in arrays, two of a kind; `more` is put into the data entry. */
const openArrays = async (more: object = {}, layer: object = {}) => {
  const empty = { sheet: 1, background: '#ffffff', layers: [] } as unknown as Sheet;
  await openMap(stage, empty, view);
  await stage.page.evaluate(
    ([more, layer]) => {
      window.map.layers.add({
        id: 'l',
        of: {
          features: {
            coordinates: Float64Array.of(-8, 4, 8, 4, -8, -4, 8, -4),
            ids: Float64Array.of(1, 2, 3, 4),
            attributes: {
              kind: { categories: ['a', 'b'], codes: Uint8Array.of(0, 1, 0, 1) },
              weight: Float32Array.of(2, 4, NaN, 8),
              name: ['one', 'two', null, 'four'],
            },
          },
          ...more,
        },
        mark: { size: 24, color: { by: 'kind', categories: { a: '#ff0000', b: '#0000ff' } } },
        ...layer,
      } as never);
    },
    [more, layer] as const,
  );
  await settled(stage);
};
const colorAt = async (lon: number, lat: number) => {
  const [x, y] = await stage.page.evaluate(([a, b]) => window.map.toPixel([a, b]), [lon, lat] as const);
  return (await pixels(stage, [Math.round(x), Math.round(y)]))[0];
};

describe('features in arrays', () => {
  test('are drawn, picked, styled by their attributes, and handed back', async () => {
    await openArrays();
    const { page } = stage;
    for (const [lon, lat, color] of [
      [-8, 4, red],
      [8, 4, blue],
      [-8, -4, red],
      [8, -4, blue],
    ] as const)
      expect(isNear(await colorAt(lon, lat), color)).toBe(true);
    const picked = await page.evaluate(() => window.map.pick(window.map.toPixel([8, 4])));
    expect(picked.map(({ id, properties }) => [id, properties])).toEqual([[2, { kind: 'b', weight: 4, name: 'two' }]]);
    await page.evaluate(() => window.map.layers.change('l', { where: 'weight > 3' }));
    await settled(stage);
    expect(isNear(await colorAt(-8, 4), [255, 255, 255])).toBe(true);
    expect(isNear(await colorAt(8, -4), blue)).toBe(true);
    expect(await faultsOf(stage)).toEqual([]);
  });

  test('stay through another surface, edits, and a lost graphics context', async () => {
    await openArrays();
    const { page } = stage;
    await page.evaluate(() => window.map.setSurface('globe', { duration: 0 }));
    await settled(stage);
    expect(isNear(await colorAt(8, 4), blue)).toBe(true);
    await page.evaluate(() => window.map.setSurface('EPSG:3857', { duration: 0 }));
    await page.evaluate(() => window.map.edit('l', { move: { 1: [-4, 0] }, remove: ['2'] }));
    await settled(stage);
    expect(isNear(await colorAt(-4, 0), red)).toBe(true);
    expect(isNear(await colorAt(8, 4), [255, 255, 255])).toBe(true);
    await page.evaluate(async () => {
      const lose = document.querySelector('canvas')!.getContext('webgl2')!.getExtension('WEBGL_lose_context')!;
      lose.loseContext();
      await new Promise((resolve) => setTimeout(resolve, 60));
      lose.restoreContext();
      await new Promise((resolve) => setTimeout(resolve, 60));
    });
    await settled(stage);
    expect(isNear(await colorAt(-4, 0), red)).toBe(true);
    expect(isNear(await colorAt(-8, -4), red)).toBe(true);
  });

  test('are joined to a table, and classed by what it adds', async () => {
    const table = [
      { who: 'one', t: 1 },
      { who: 'two', t: 9 },
      { who: 'four', t: 2 },
    ];
    const classes = { breaks: [5], values: ['#ff0000', '#0000ff'] };
    await openArrays({ join: { table, match: ['name', 'who'] } }, { mark: { size: 24, color: { by: 't', classes } } });
    expect(isNear(await colorAt(-8, 4), red)).toBe(true);
    expect(isNear(await colorAt(8, 4), blue)).toBe(true);
    expect(isNear(await colorAt(8, -4), red)).toBe(true);
    expect(await stage.page.evaluate(() => window.map.joinReport('l')?.matched)).toBe(3);
  });

  test('that do not fit together are a fault, with its place', async () => {
    const empty = { sheet: 1, layers: [] } as unknown as Sheet;
    await openMap(stage, empty, view);
    await stage.page.evaluate(() =>
      window.map.layers.add({
        id: 'l',
        of: { features: { coordinates: Float64Array.of(44, -131) } },
        mark: { size: 9 },
      } as never),
    );
    await settled(stage);
    expect(await faultsOf(stage)).toEqual([
      expect.objectContaining({ code: 'columns.place', hint: expect.stringContaining('swapped') }),
    ]);
  });
});

describe('files that a worker cannot read as they are', () => {
  test.each([
    ['degrees in minutes', 'lon,lat,kind\n8°0\'0"W,4°0\'N,a\n"8°E","4°0\'0""S",b\n', 'text/csv', []],
    ['a swapped pair', JSON.stringify(point([4, -98])), 'application/geo+json', ['features']],
    ['decimal commas', 'kind;lon;lat\na;-8,0;4,0\nb;8,0;-4,0\n', 'text/csv', []],
  ])('%s: the readers of all formats have the same bytes', async (title, body, contentType, told) => {
    let asked = 0;
    await stage.page.route('**/made-up.*', (route) => {
      asked++;
      return route.fulfill({ body, contentType });
    });
    const ending = contentType === 'text/csv' ? 'csv' : 'geojson';
    const sheet = {
      sheet: 1,
      background: '#ffffff',
      data: { d: { features: `/made-up.${ending}` } },
      layers: [{ id: 'l', of: 'd', mark: { size: 24, color: '#ff0000' } }],
    } as unknown as Sheet;
    await openMap(stage, sheet, title === 'a swapped pair' ? { center: [-98, 4], zoom: 5 } : view);
    await settled(stage);
    // The file was fetched once, whoever read it in the end.
    expect(asked).toBe(1);
    const places = title === 'a swapped pair' ? [[-98, 4]] : [[-8, 4], [8, -4]]; // prettier-ignore
    for (const [lon, lat] of places) expect(isNear(await colorAt(lon, lat), red)).toBe(true);
    const codes = (await faultsOf(stage)).map(({ code }) => code.split('.')[0]);
    expect(codes).toEqual(expect.arrayContaining(told));
  });
});

/** A collection of one point. */
function point(coordinates: readonly number[]) {
  const geometry = { type: 'Point', coordinates };
  return { type: 'FeatureCollection', features: [{ type: 'Feature', properties: {}, geometry }] };
}
