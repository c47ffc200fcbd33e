import { describe, expect, test } from '@jest/globals';
import { lintSheet, readSheet, type Fault, type Sheet, type SheetFault } from '@flintwright/core';
import { findColor } from '@flintwright/core/internal';
import { sheet } from './sample-sheets.ts';

/** The faults of a sheet with one layer. */
function faultsOfSheet(layer: object): readonly Fault[] {
  try {
    readSheet(sheet([layer]));
    return [];
  } catch (error) {
    return (error as SheetFault).faults;
  }
}

describe('warnings', () => {
  const cases: [string, Sheet, string[]][] = [
    [
      'a rule behind one that takes all',
      sheet([{ fill: '#fff', rules: [{ zoom: [0, 25] }, { where: 'k = 1' }] }]),
      ['unreachable $.layers[0].rules[1]'],
    ],
    [
      'a rule within earlier ones',
      sheet([
        {
          fill: '#fff',
          rules: [
            { where: 'n < 5' },
            { where: 'n >= 5 AND n < 9' },
            { where: 'n BETWEEN 2 AND 8' },
            { otherwise: true },
          ],
        },
      ]),
      ['unreachable $.layers[0].rules[2]'],
    ],
    [
      'categories taken already',
      sheet([
        { fill: '#fff', rules: [{ where: "k IN ('a', 'b')" }, { where: "k = 'a'" }, { where: "k IN ('b', 'c')" }] },
      ]),
      ['unreachable $.layers[0].rules[1]'],
    ],
    [
      'limits the wrong way round',
      sheet([{ fill: '#fff', rules: [{ where: 'n > 9 AND n < 5' }, { otherwise: true }] }]),
      ['unreachable $.layers[0].rules[0]'],
    ],
    [
      'zooms that miss the layer',
      sheet([{ fill: '#fff', zoom: [10, 25], rules: [{ zoom: [0, 8] }, { zoom: [8, 25] }] }]),
      ['unreachable $.layers[0].rules[0]'],
    ],
    [
      'a gap between ranges',
      sheet([{ fill: '#fff', rules: [{ where: 'n < 5' }, { where: 'n >= 7' }] }]),
      ['gap between 5 and 7'],
    ],
    [
      'a limit that both leave out',
      sheet([{ fill: '#fff', rules: [{ where: 'n < 5' }, { where: 'n > 5' }] }]),
      ['gap exactly 5'],
    ],
    [
      'a gap between zooms',
      sheet([{ fill: '#fff', rules: [{ zoom: [0, 8] }, { zoom: [9, 25] }] }]),
      ['gap between 8 and 9'],
    ],
    [
      'no gap where the rest is taken',
      sheet([{ fill: '#fff', rules: [{ where: 'n < 5' }, { where: 'n >= 7' }, { otherwise: true }] }]),
      [],
    ],
    ['alpha out of 255', sheet([{ fill: 'rgba(10, 20, 30, 128)' }, { fill: 'rgb(10 20 30 / 0.5)' }]), ['alpha 0.5']],
    [
      'text without contrast',
      sheet([
        { fill: '#ffffff', label: { text: 'n', color: '#f4f4f4' } },
        { label: { text: 'n', color: '#ffffff', halo: { color: '#eeeeee', width: 2 } } },
        { label: { text: 'n' } },
      ]),
      ['contrast $.layers[0].label', 'contrast $.layers[1].label'],
    ],
    [
      'data that nothing draws',
      sheet([{ fill: '#fff' }], { data: { a: { features: 'a.geojson' }, b: { features: 'b.geojson' } } }),
      ['unused $.data.b'],
    ],
  ];
  test.each(cases)('%s', (_, raw, wanted) => {
    const found = lintSheet(
      readSheet({ ...raw, data: raw.data && 'b' in raw.data ? raw.data : { a: { features: 'a.geojson' } } }),
    );
    expect(found.map(({ code, message, hint, at }) => ({ code, text: `${message} ${hint} ${at}` }))).toEqual(
      wanted.map((want) => {
        const [code, ...rest] = want.split(' ');
        return { code: `warn.${code}`, text: expect.stringContaining(rest.join(' ')) };
      }),
    );
  });

  test('a color that depends on the page is said not to be supported, and never to be no color', () => {
    for (const color of [
      'currentcolor',
      'CanvasText',
      'light-dark(red, blue)',
      'rgb(from var(--x) r g b)',
      'rgb(min(1, 2) 0 0)',
    ])
      expect(faultsOfSheet({ fill: color })).toMatchObject([
        { code: 'sheet.value', message: expect.stringContaining('is not supported in a sheet') },
      ]);
    expect(faultsOfSheet({ fill: 'teall' })).toMatchObject([
      { message: expect.stringContaining('is not a CSS color') },
    ]);
  });

  test('alpha beyond 1 counts as 1; both ways of writing colors are read', () => {
    expect(findColor('rgba(255, 0, 0, 128)')).toEqual([1, 0, 0, 1]);
    expect(findColor('rgb(255 0 0 / 50%)')).toEqual([0.5, 0, 0, 0.5]);
    expect([findColor('#ff000000'), findColor('hsl(120 100% 50%)'), findColor('rgb(1 2)')]).toEqual([
      [0, 0, 0, 0],
      [0, 1, 0, 1],
      undefined,
    ]);
  });
});
