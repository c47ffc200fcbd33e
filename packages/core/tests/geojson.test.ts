import { describe, expect, test } from '@jest/globals';
import { attributesOf, kindNames, readGeoJson, readGeoJsonLines, writeGeoJson } from '@flintwright/core';

// RFC 7946, section 1.5: its example collection.
const example = {
  type: 'FeatureCollection',
  features: [
    { type: 'Feature', geometry: { type: 'Point', coordinates: [102.0, 0.5] }, properties: { prop0: 'value0' } },
    {
      type: 'Feature',
      geometry: {
        type: 'LineString',
        coordinates: [
          [102.0, 0.0],
          [103.0, 1.0],
          [104.0, 0.0],
          [105.0, 1.0],
        ],
      },
      properties: { prop0: 'value0', prop1: 0.0 },
    },
    {
      type: 'Feature',
      geometry: {
        type: 'Polygon',
        coordinates: [
          [
            [100.0, 0.0],
            [101.0, 0.0],
            [101.0, 1.0],
            [100.0, 1.0],
            [100.0, 0.0],
          ],
        ],
      },
      properties: { prop0: 'value0', prop1: { this: 'that' } },
    },
  ],
};

const feature = (geometry: object | null, more: object = {}) => ({
  type: 'Feature',
  properties: {},
  geometry,
  ...more,
});

describe('GeoJSON', () => {
  test('the example of RFC 7946 comes back as it went in', () => {
    const block = readGeoJson(JSON.stringify(example));
    expect([...block.kinds].map((kind) => kindNames[kind])).toEqual(['point', 'line', 'polygon']);
    const back = writeGeoJson(block);
    expect(back.features.map((f) => f.geometry)).toEqual(example.features.map((f) => f.geometry));
    expect(attributesOf(block, 2)).toEqual({ prop0: 'value0', prop1: '{"this":"that"}' });
  });

  test('rings are turned, collections taken apart, features without geometry and ids kept', () => {
    const wrong = [
      [0, 0],
      [0, 1],
      [1, 1],
      [1, 0],
      [0, 0],
    ];
    const block = readGeoJson(
      {
        type: 'FeatureCollection',
        features: [
          feature({ type: 'MultiPolygon', coordinates: [[wrong], [wrong.map(([x, y]) => [x + 5, y])]] }, { id: 12 }),
          feature(null, { id: '34' }),
          feature(
            {
              type: 'GeometryCollection',
              geometries: [
                {
                  type: 'MultiPoint',
                  coordinates: [
                    [1, 2],
                    [3, 4],
                  ],
                },
                {
                  type: 'MultiLineString',
                  coordinates: [
                    [
                      [0, 0],
                      [1, 1],
                    ],
                  ],
                },
              ],
            },
            { properties: { code: 5 } },
          ),
        ],
      },
      { id: 'code' },
    );
    expect([...block.coords.slice(0, 4)]).toEqual([1, 0, 1, 1]);
    expect([...block.ids]).toEqual([12, 34, 5, 5]);
    expect([...block.kinds]).toEqual([3, 0, 1, 2]);
  });

  test('one feature a line, with or without record separators', () => {
    const text = [
      '\u001e{"type":"Feature","properties":{"a":1},"geometry":{"type":"Point","coordinates":[1,2]}}',
      '',
      '{"type":"Point","coordinates":[3,4]}\r',
      '',
    ].join('\n');
    expect([...readGeoJsonLines(text).coords]).toEqual([1, 2, 3, 4]);
    expect(() => readGeoJsonLines('{"type":"Point","coordinates":[3,4]}\n{"type":')).toThrow(
      expect.objectContaining({ code: 'geojson.json', at: 'line 2' }) as unknown as Error,
    );
  });

  test.each<[string, string, string, unknown]>([
    ['geojson.json', '', 'truncated', '{"type": "FeatureColl'],
    ['geojson.json', '', 'HTML', '<html><body>404</body></html>'],
    ['geojson.form', '$.type', 'RFC 7946', { type: 'Polgon', coordinates: [] }],
    ['geojson.form', '$.features', 'RFC 7946', { type: 'FeatureCollection' }],
    [
      'geojson.form',
      '$.features[1].geometry.coordinates',
      'RFC 7946',
      { type: 'FeatureCollection', features: [feature(null), feature({ type: 'Point', coordinates: ['a', 2] })] },
    ],
    ['geojson.form', '$.geometry.coordinates', 'RFC 7946', feature({ type: 'LineString', coordinates: [[1, 2]] })],
    [
      'geojson.form',
      '$.geometry.coordinates[0]',
      'RFC 7946',
      feature({
        type: 'Polygon',
        coordinates: [
          [
            [1, 2],
            [3, 4],
            [1, 2],
          ],
        ],
      }),
    ],
    [
      'geojson.swapped',
      '$.geometry.coordinates[1]',
      'swapped',
      feature({
        type: 'LineString',
        coordinates: [
          [31, 44],
          [44.6, -131.2],
        ],
      }),
    ],
    ['geojson.planar', '$.geometry.coordinates', 'meters', feature({ type: 'Point', coordinates: [500000, 4649776] })],
    ['geojson.form', '$', 'RFC 7946', 'null'],
  ])('%s at "%s" is refused with a hint', (code, at, hint, source) => {
    expect(() => readGeoJson(source as object)).toThrow(
      expect.objectContaining({ code, hint: expect.stringContaining(hint), ...(at ? { at } : {}) }) as unknown as Error,
    );
  });

  test('a plan in meters takes any number', () => {
    expect([...readGeoJson({ type: 'Point', coordinates: [500, 4649776] }, { space: 'plan' }).coords]).toEqual([
      500, 4649776,
    ]);
  });
});
