import { expect, test } from '@jest/globals';
import { findScheme, readGeoJson, readSheet, type Sheet } from '@flintwright/core';
import {
  compileScale,
  compileSheet,
  compileTree,
  cssColors,
  Portrayer,
  selectFeatures,
} from '@flintwright/core/internal';
import { selfContained } from '@flintwright/core/internal/values';
import { sheet } from './sample-sheets.ts';

test('a sheet made self-contained compiles to the same layers, without a parser and without schemes', () => {
  const raw = sheet([
    { where: "kind = 'a'", fill: { color: { by: 'n * 2', classes: { breaks: [5], scheme: 'Blues' } } } },
    {
      rules: [
        { where: "name LIKE 'x%'", label: { text: "concat(name, ' ', area())" } },
        { otherwise: true, mark: { color: { by: 'kind', categories: ['a', 'b'], scheme: 'Set2' } } },
      ],
    },
    {
      label: { text: { by: 'kind', categories: { a: 'one', b: 'two' } } },
      states: { hover: { label: { text: 'name' } } },
    },
  ]);
  const [ours, theirs] = [
    readSheet(raw),
    compileSheet(
      JSON.parse(JSON.stringify(selfContained(raw, findScheme))) as Sheet,
      (fault) => {
        throw fault;
      },
      { values: { colors: cssColors, expression: compileTree, scale: compileScale } },
    ),
  ];
  expect(theirs.layers.map(({ signature }) => signature)).toEqual(ours.layers.map(({ signature }) => signature));
  const block = readGeoJson({
    type: 'FeatureCollection',
    features: [
      {
        type: 'Feature',
        properties: { kind: 'a', n: 1, name: 'xy' },
        geometry: {
          type: 'Polygon',
          coordinates: [
            [
              [0, 0],
              [1, 0],
              [1, 1],
              [0, 0],
            ],
          ],
        },
      },
    ],
  });
  for (const [i, layer] of ours.layers.entries()) {
    const rows = (l: typeof layer) => [...new Portrayer(l, block, [0, 25], () => 0).rows(selectFeatures(l, block))];
    expect(rows(theirs.layers[i])).toEqual(rows(layer));
  }
});
