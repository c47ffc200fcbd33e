import { describe, expect, test } from '@jest/globals';
import { box, collection, faultsOf, openMap, pixels, settled, useStage } from './harness.ts';
import { isNear, sheetOf, view } from './sheets.ts';

const stage = useStage();

describe('scales and joins', () => {
  test('class limits are found in the data; a joined table colors its features; what is missing is seen', async () => {
    const features = Array.from({ length: 5 }, (_, i) => box(-12 + 5 * i, -2, 4, { code: `c${i}` }, i + 1));
    await openMap(
      stage,
      sheetOf(
        features,
        {
          title: 'Boxes',
          fill: {
            color: { by: 'n', unit: 't', classes: { method: 'quantile', count: 2, values: ['#00ff00', '#0000ff'] } },
          },
        },
        {
          data: {
            d: {
              features: collection(...features),
              join: {
                table: [
                  { key: 'c0', n: 1 },
                  { key: 'c1', n: 2 },
                  { key: 'c2', n: 30 },
                  { key: 'c3', n: 40 },
                  { key: 'x', n: 5 },
                ],
                match: ['code', 'key'],
              },
            },
          },
        },
      ),
      view,
    );
    await settled(stage);
    const seen = await pixels(
      stage,
      ...[0, 1, 2, 3, 4].map((i): [number, number] => [400 + Math.round((-10 + 5 * i) * 22.76), 300]),
    );
    expect(seen).toEqual([
      [0, 255, 0],
      [0, 255, 0],
      [0, 0, 255],
      [0, 0, 255],
      [0x98, 0xa1, 0xa5],
    ]);
    expect(await stage.page.evaluate(() => window.map.joinReport('d'))).toMatchObject({
      matched: 4,
      featuresAlone: ['c4'],
      rowsAlone: ['x'],
    });
    // The limit between 2 and 30 that halves the four numbers; what has no row stands beside the classes.
    const legend = await stage.page.evaluate(async () => {
      const legend = window.map.legend();
      await legend.ready;
      return [legend.element.textContent, legend.entries[0].items.map(({ label }) => label)];
    });
    expect(legend).toEqual(['LegendBoxes, t11640no value', ['1 – 16 t', '16 – 40 t', 'no value']]);
  });

  test('a join that meets nothing, and classes without numbers, say so', async () => {
    const data = (join: object) => ({ d: { features: collection(box(0, 0, 4, { code: 'a', word: 'x' }, 1)), join } });
    const classes = { fill: { color: { by: 'word', classes: { method: 'equal', count: 3, scheme: 'Blues' } } } };
    await openMap(stage, sheetOf([], classes, { data: data({ table: [{ key: 'b' }], match: ['code', 'key'] }) }), view);
    await stage.page.waitForFunction(() => window.faults.length > 0);
    // The shapes stay, without what the table was to bring.
    expect((await faultsOf(stage))[0]).toEqual({ code: 'join.none', hint: expect.stringContaining('same keys') });
    await openMap(stage, sheetOf([], classes, { data: data({ table: [{ key: 'a' }], match: ['code', 'kye'] }) }), view);
    await stage.page.waitForFunction(() => window.faults.length > 0);
    expect((await faultsOf(stage))[0]).toEqual({ code: 'join.column', hint: 'Did you mean "key"?' });
    await openMap(stage, sheetOf([], classes, { data: data({ table: [{ key: 'a' }], match: ['code', 'key'] }) }), view);
    await stage.page.waitForFunction(() => window.faults.length > 0);
    expect(await faultsOf(stage)).toEqual([{ code: 'classes.none', hint: expect.stringContaining('quotes') }]);
  });

  test('filters and values by area hold for whole features, however the tiles cut them', async () => {
    const big = box(-30, -20, 40, { k: 'big' }, 1);
    const small = box(12, -4, 4, { k: 'small' }, 2);
    await openMap(
      stage,
      sheetOf([big, small], {
        where: 'area() > 1e12',
        fill: {
          color: {
            by: 'area()',
            ramp: [
              [1e12, '#ff0000'],
              [2e12, '#00ff00'],
            ],
          },
        },
      }),
      view,
    );
    await settled(stage);
    const [inside, gone] = await pixels(stage, [300, 300], [400 + Math.round(14 * 22.76), 320]);
    expect([inside, isNear(inside, [0, 255, 0])]).toEqual([inside, true]);
    expect(gone).toEqual([255, 255, 255]);
  });
});
