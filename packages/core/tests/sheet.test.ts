import { describe, expect, test } from '@jest/globals';
import { checkSheet, findScheme, readGeoJson, readSheet, SheetFault, type SheetLayer } from '@flintwright/core';
import { findColor, Portrayer, stepOf, selectFeatures } from '@flintwright/core/internal';

const people = readGeoJson({
  type: 'FeatureCollection',
  features: [
    { name: 'Ama', age: 30, home: null },
    { name: 'Béa', age: 41.5, home: 'Tamvoril' },
    { name: 'cyn', home: 'Hallow Quay', ok: true },
  ].map((properties, i) => ({
    type: 'Feature',
    id: i,
    properties,
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
  })),
});

const sheet = (...layers: object[]) => ({
  sheet: 1,
  palette: { sea: '#b7d3d6' },
  data: { a: { features: 'a.geojson' }, t: { tiles: 't.pmtiles' } },
  layers,
});

describe('sheets', () => {
  const faulty: [string, object | string, string, string, string][] = [
    ['no JSON', '{"sheet": 1,', 'sheet.json', '$', 'JSON'],
    ['wrong version', { sheet: 2, layers: [] }, 'sheet.version', '$.sheet', 'Write'],
    ['misspelt key', sheet({ id: 'x', of: 'a', fil: '#fff' }), 'sheet.key', '$.layers[0]', '"fill"'],
    ['missing key', sheet({ id: 'x', fill: '#fff' }), 'sheet.missing', '$.layers[0]', 'Add'],
    ['no color', sheet({ id: 'x', of: 'a', fill: '#ggg' }), 'sheet.value', '$.layers[0].fill', 'Write'],
    ['palette name', sheet({ id: 'x', of: 'a', fill: '@see' }), 'sheet.value', '$.layers[0].fill', '"@sea"'],
    [
      'opacity of 255',
      sheet({ id: 'x', of: 'a', fill: { color: 'red', opacity: 128 } }),
      'sheet.value',
      '$.layers[0].fill.opacity',
      '0.5',
    ],
    ['unknown data', sheet({ id: 'x', of: 'b', fill: 'red' }), 'sheet.data', '$.layers[0].of', 'a, t'],
    ['tiles without layer', sheet({ id: 'x', of: 't', fill: 'red' }), 'sheet.of', '$.layers[0].of', 't/'],
    [
      'bad filter',
      sheet({ id: 'x', of: 'a', where: "k == 'v'", fill: 'red' }),
      'cql2.syntax',
      '$.layers[0].where (1:4)',
      'one =',
    ],
    [
      'twice the id',
      sheet({ id: 'x', of: 'a', fill: 'red' }, { id: 'x', of: 'a', fill: 'red' }),
      'sheet.layer.twice',
      '$.layers[1].id',
      'unique id',
    ],
    ['word', sheet({ id: 'x', of: 'a', stroke: { cap: 'rund' } }), 'sheet.word', '$.layers[0].stroke.cap', '"round"'],
    ['nothing to draw', sheet({ id: 'x', of: 'a' }), 'sheet.layer.empty', '$.layers[0]', 'fill'],
    [
      'two scales',
      sheet({ id: 'x', of: 'a', fill: { color: { by: 'k', ramp: [[0, 'red']], categories: {} } } }),
      'sheet.scale',
      '$.layers[0].fill.color',
      'one of them',
    ],
    [
      'classes',
      sheet({ id: 'x', of: 'a', fill: { color: { by: 'k', classes: { breaks: [1, 2], values: ['red'] } } } }),
      'sheet.classes',
      '$.layers[0].fill.color.classes.values',
      'one value for each class',
    ],
    [
      'falling breaks',
      sheet({ id: 'x', of: 'a', fill: { color: { by: 'k', classes: { breaks: [3, 2], scheme: 'Blues' } } } }),
      'sheet.order',
      '$.layers[0].fill.color.classes.breaks[1]',
      'ascending',
    ],
    [
      'scheme',
      sheet({ id: 'x', of: 'a', fill: { color: { by: 'k', classes: { breaks: [3], scheme: 'Bluse' } } } }),
      'sheet.scheme',
      '$.layers[0].fill.color.classes.scheme',
      '"Blues"',
    ],
    [
      'width',
      sheet({ id: 'x', of: 'a', stroke: { width: '6 km' } }),
      'sheet.value',
      '$.layers[0].stroke.width',
      'Write',
    ],
    [
      'unreachable',
      sheet({
        id: 'x',
        of: 'a',
        rules: [
          { otherwise: true, fill: 'red' },
          { where: 'a = 1', fill: 'red' },
        ],
      }),
      'sheet.rule',
      '$.layers[0].rules[0]',
      'last',
    ],
    [
      'an extrusion by its old key',
      sheet({ id: 'x', of: 'a', extrusion: { top: 9, base: 2 } }),
      'sheet.key',
      '$.layers[0].extrusion',
      'It is called "bottom".',
    ],
    [
      'levels that none follows',
      {
        ...sheet(),
        data: { a: { tiles: 'a/{z}/{x}/{y}', zooms: [1e9, 4] } },
        layers: [{ id: 'x', of: 'a/b', fill: 'red' }],
      },
      'sheet.levels',
      '$.data.a.zooms',
      'first not above',
    ],
    ['swapped center', { ...sheet(), view: { center: [44.62, -131] } }, 'sheet.center', '$.view.center', 'swapped'],
  ];
  test.each(faulty)('%s is found, placed, and can be mended', (_, raw, code, at, hint) => {
    const found = checkSheet(raw);
    expect(found.map((fault) => fault.toJSON())).toEqual([
      expect.objectContaining({ code, at, hint: expect.stringContaining(hint) }),
    ]);
  });

  test('all faults come at once', () => {
    const raw = sheet(
      { id: 'x', of: 'b', fill: 'nocolour', stroke: { width: -1, capp: 'x' } },
      { id: 'y', of: 'a', where: '(', fill: 'red' },
    );
    expect(checkSheet(raw).map((fault) => fault.at)).toEqual(
      expect.arrayContaining(['$.layers[0].stroke', '$.layers[1].where (1:2)']),
    );
    expect(() => readSheet(raw)).toThrow(SheetFault);
  });
});

/** The appearance rows of all features in a layer over one step, as arrays of texels. */
function rowsOf(layer: Partial<SheetLayer>, zoom = 12, states?: (feature: number) => string) {
  const compiled = readSheet({
    sheet: 1,
    palette: {},
    data: { a: { features: '' } },
    layers: [{ id: 'l', of: 'a', ...layer }],
  }).layers[0];
  const features = selectFeatures(compiled, people);
  const rows = new Portrayer(compiled, people, stepOf(compiled, zoom), () => 0).rows(features, states);
  return {
    features: [...features],
    texel: (row: number, t: number) =>
      [...rows.slice((row * compiled.texels + t) * 4, (row * compiled.texels + t) * 4 + 4)].map(
        (v) => Math.round(v * 1000) / 1000,
      ),
  };
}

describe('portrayal', () => {
  test('rules take features in turn; values at both ends of the zoom step', () => {
    const { features, texel } = rowsOf({
      rules: [
        { where: 'age > 40', fill: '#f00' },
        {
          where: 'age > 20',
          zoom: [10, 13],
          fill: {
            color: '#00f',
            opacity: {
              by: 'zoom',
              ramp: [
                [12, 0.5],
                [13, 1],
              ],
            },
          },
        },
      ],
    });
    expect(features).toEqual([0, 1]);
    expect([texel(0, 0), texel(0, 1)]).toEqual([
      [0, 0, 0.5, 0.5],
      [0, 0, 1, 1],
    ]);
    expect([texel(1, 0), texel(1, 1)]).toEqual([
      [1, 0, 0, 1],
      [1, 0, 0, 1],
    ]);
    expect(rowsOf({ rules: [{ where: 'age > 20', zoom: [10, 13], fill: '#00f' }] }, 13).texel(0, 0)).toEqual([
      0, 0, 0, 0,
    ]);
  });

  test('scales: classes, categories and ramps; what is missing stays visible', () => {
    const grey = findColor('#98a1a5')!.map((v) => Math.round(v * 1000) / 1000);
    const classes = rowsOf({ fill: { color: { by: 'age', classes: { breaks: [35], values: ['#000', '#fff'] } } } });
    expect([0, 1, 2].map((row) => classes.texel(row, 0))).toEqual([[0, 0, 0, 1], [1, 1, 1, 1], grey]);
    const categories = rowsOf({ fill: { color: { by: 'home', categories: { Tamvoril: '#fff' }, other: '#000' } } });
    expect([0, 1, 2].map((row) => categories.texel(row, 0)[0])).toEqual([0, 1, 0]);
    const ramp = rowsOf({
      fill: {
        color: {
          by: 'age',
          ramp: [
            [30, '#000'],
            [53, '#fff'],
          ],
          space: 'rgb',
        },
      },
    });
    expect(ramp.texel(1, 0)[0]).toBeCloseTo(0.5, 2);
    // Halfway between black and white in CIE Lab is L* 50: sRGB 119.
    const perceptual = rowsOf({
      fill: {
        color: {
          by: 'age',
          ramp: [
            [30, '#000'],
            [53, '#fff'],
          ],
        },
      },
    });
    expect(perceptual.texel(1, 0)[0]).toBeCloseTo(119 / 255, 2);
    expect(findScheme('Blues', 4)).toHaveLength(4);
  });

  test('strokes: meters are marked, states change the topmost of a list, several states add up', () => {
    const stroke = [
      { color: '#000', width: 4 },
      { color: '#fff', width: '6m', cap: 'square', join: 'bevel' },
    ] as const;
    const states = { hover: { stroke: { width: 9 } }, selected: { stroke: { color: '#f00' } } };
    const plain = rowsOf({ stroke, states });
    expect(plain.texel(0, 6)).toEqual([6, 6, 0, 2 + 8 + 16]);
    const hovered = rowsOf({ stroke, states }, 12, (feature) => (feature === 0 ? 'hover+selected' : ''));
    // Strokes of a feature in a state carry 256: they are drawn above their neighbors.
    expect([hovered.texel(0, 2), hovered.texel(0, 6), hovered.texel(0, 4)]).toEqual([
      [4, 4, 0, 5 + 256],
      [9, 9, 0, 10 + 256],
      [1, 0, 0, 1],
    ]);
    expect(hovered.texel(1, 6)).toEqual([6, 6, 0, 26]);
  });
});
