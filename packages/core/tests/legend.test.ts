import { expect, test } from '@jest/globals';
import { legendOf, readSheet } from '@flintwright/core';
import { sheet } from './sample-sheets.ts';

test('the legend says what the sheet does, at a zoom', () => {
  const compiled = readSheet(
    sheet([
      {
        title: 'Beds',
        fill: {
          color: {
            by: 'tonnes',
            title: 'Yield',
            unit: 't',
            classes: { breaks: [5, 1200], values: ['#111', '#222', '#333'] },
          },
        },
        stroke: '@ink',
      },
      {
        title: 'Berths',
        zoom: [10, 25],
        mark: {
          shape: { by: 'kind', categories: { v: 'star', r: 'circle' } },
          color: { by: 'kind', categories: { v: '#f00', r: '#0f0' }, other: '#00f', names: { v: 'visitors' } },
        },
      },
      {
        title: 'Depth',
        fill: {
          color: {
            by: 'd',
            unit: 'm',
            ramp: [
              [0, '#ffffff'],
              [50, '@sea'],
            ],
          },
        },
      },
      {
        rules: [
          {
            where: 'n = 1',
            title: 'dashed',
            stroke: {
              color: '#123456',
              dash: [4, 2],
              width: {
                by: 'zoom',
                ramp: [
                  [10, 1],
                  [14, 5],
                ],
              },
            },
          },
          { otherwise: true, zoom: [0, 11], title: 'far', stroke: '#000' },
        ],
      },
      { title: 'hidden', visible: false, fill: '#fff' },
      { fill: '#eee' },
    ]),
  );
  const at = (zoom: number) =>
    legendOf(compiled, zoom).map(({ title, scale, items, ramp }) => [
      title,
      scale?.form,
      items.map(({ label }) => label),
      ramp?.ends,
    ]);
  expect(at(12)).toEqual([
    ['Beds', 'classes', ['under 5 t', '5 – 1,200 t', '1,200 t and more'], undefined],
    ['Berths', 'categories', ['visitors', 'r', 'other'], undefined],
    ['Depth', 'ramp', [], ['0 m', '50 m']],
    ['l3', undefined, ['dashed'], undefined],
  ]);
  expect(at(9).map(([title]) => title)).toEqual(['Beds', 'Depth', 'l3']);
  const [beds, berths, depth, lines] = legendOf(compiled, 12);
  expect(beds.items[1]).toEqual({
    label: '5 – 1,200 t',
    range: [5, 1200],
    swatch: { kind: 'area', fill: '#222', opacity: 1, strokes: [{ color: '#22303a', width: 1, dash: [] }] },
  });
  expect(berths.items.map(({ swatch }) => [swatch.mark!.icon, swatch.mark!.color])).toEqual([
    ['star', '#f00'],
    ['circle', '#0f0'],
    ['circle', '#00f'],
  ]);
  expect([depth.ramp!.colors[0], depth.ramp!.colors[8]]).toEqual(['rgb(255 255 255)', 'rgb(183 211 214)']);
  expect(lines.items[0].swatch.strokes).toEqual([{ color: '#123456', width: 3, dash: [4, 2] }]);
});

test('colors that a column gives are named as such', () => {
  const compiled = readSheet({
    sheet: 1,
    data: { a: { features: 'a.geojson' } },
    layers: [
      {
        id: 'z',
        title: 'Zones',
        of: 'a',
        fill: { color: { is: 'flag' } },
        stroke: { color: { is: 'edge' }, width: 1 },
      },
    ],
  });
  expect(legendOf(compiled, 10)[0].items.map(({ label }) => label)).toEqual([
    'Zones, colored by its own flag and edge',
  ]);
});
