// What a sheet may say besides: colors by night, clusters in a dress, popups with a form, pictures over a place.
import { describe, expect, test } from '@jest/globals';
import { checkSheet, readSheet, type Sheet } from '@flintwright/core';
import { sheet } from './sample-sheets.ts';

const faults = (given: Sheet) => checkSheet(given).map(({ code, at, hint }) => [code, at, hint]);

describe('colors by night', () => {
  test('have the names of the palette', () => {
    expect(faults(sheet([{ fill: '@sea' }], { dark: { sea: '#102030' } }))).toEqual([]);
    expect(faults(sheet([{ fill: '@sea' }], { dark: { see: '#102030', ink: 'no color' } }))).toEqual([
      ['sheet.dark', '$.dark.see', 'Did you mean "sea"?'],
      ['sheet.colour', '$.dark.ink', expect.any(String)],
    ]);
  });
});

describe('clusters in a dress', () => {
  const clustered = (clusters: object, cluster: object | null = {}) =>
    sheet([{ mark: { size: 9 }, clusters }], {
      data: { a: { features: 'a.geojson', ...(cluster ? { cluster } : {}) } },
    });

  test('are a layer of their own, whose values go by what a cluster has', () => {
    const look = readSheet(
      clustered({
        mark: {
          size: {
            by: 'count',
            ramp: [
              [2, 20],
              [99, 60],
            ],
          },
        },
        label: { text: 'count' },
      }),
    ).layers[0].clusterLook!;
    expect(look.properties).toEqual(['count']);
    expect([look.hasMark, look.hasLabel]).toEqual([true, true]);
    expect(look.rules[0].symbols.label!.sides).toEqual(['on']);
  });

  test('need points that come together, and sound values', () => {
    expect(faults(clustered({ mark: { size: 9 } }, null))).toEqual([
      ['sheet.clusters', '$.layers[0].clusters', expect.stringContaining('"cluster"')],
    ]);
    expect(faults(clustered({ mark: { color: 'wite' } }))).toEqual([
      ['sheet.value', '$.layers[0].clusters.mark.color', 'Did you mean "white"?'],
    ]);
    expect(faults(clustered({ label: { text: 'count' } }))[0][1]).toBe('$.layers[0].clusters');
  });
});

describe('popups', () => {
  test('are read with the sheet, each expression at its place', () => {
    const popup = {
      title: 'name',
      text: '1 +',
      image: 'photo',
      lines: { Yield: { is: 'tonnes', unit: 't' }, Page: 'a b' },
    };
    expect(faults(sheet([{ fill: '#fff', popup }])).map(([, at]) => String(at).replace(/ \(.*/, ''))).toEqual([
      '$.layers[0].popup.text',
      '$.layers[0].popup.lines.Page',
    ]);
    const odd = { lines: { Yield: { is: 'tonnes', dgits: 2 } } };
    expect(faults(sheet([{ fill: '#fff', popup: odd }]))[0][2]).toContain('digits');
  });
});

describe('credits', () => {
  const credited = (credit: unknown) =>
    faults(sheet([{ fill: '#fff' }], { data: { a: { features: 'a.geojson', credit } } }));

  test('are a text, a text with a link, or several; anything else is told with its right form', () => {
    for (const credit of [
      'Reach Office',
      { text: 'Reach Office' },
      [{ text: 'Reach ' }, { text: 'Office', href: 'https://reach.example' }],
    ])
      expect(credited(credit)).toEqual([]);
    expect(credited({ text: 'Reach Office', hrf: 'https://reach.example' })[0]).toEqual([
      expect.any(String),
      '$.data.a.credit',
      'Did you mean "href"?',
    ]);
    expect(credited(7)[0][1]).toBe('$.data.a.credit');
    expect(credited({ href: 'https://reach.example' })[0][1]).toBe('$.data.a.credit');
  });
});

describe('labels', () => {
  const labelOf = (layer: object) => readSheet(sheet([layer])).layers[0].rules[0].symbols.label!;

  test('beside a mark are tried on eight sides, clear of it, unless the sheet says where they stand', () => {
    const { sides, reach } = labelOf({ mark: { size: 20 }, label: { text: 'name', size: 10 } });
    expect(sides.slice(0, 3)).toEqual(['above-right', 'right', 'below-right']);
    expect([sides.length, sides.includes('on'), reach]).toEqual([8, false, 14]);
    expect(labelOf({ mark: { size: 20 }, label: { text: 'name', distance: 9 } }).reach).toBe(19);
    expect(labelOf({ mark: { size: 20 }, label: { text: 'name', side: 'below' } }).sides).toEqual(['below']);
    expect(labelOf({ label: { text: 'name', side: ['on', 'left'], distance: 0 } })).toMatchObject({
      sides: ['on', 'left'],
      reach: 0,
    });
    expect(labelOf({ label: { text: 'name' } }).sides).toEqual(['on']);
    // The keys of old are named with what they are called now.
    const hints = checkSheet(sheet([{ label: { text: 'name', anchor: 'left', offset: [0, 1] } }]));
    expect(hints.map(({ hint }) => hint)).toEqual([
      'It is called "side", which says where the text stands: an anchor "left" is a side "right".',
      'It is called "distance", in CSS pixels from the mark or the place.',
    ]);
    expect(labelOf({ label: { text: 'name', along: true } }).repeat).toBe(400);
  });
});
