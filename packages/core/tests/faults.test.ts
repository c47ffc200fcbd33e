// Bad input, of every kind the core takes: each is refused with a code, what came, where, and a hint; and nothing is thrown that is
// no fault.
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  areaOf,
  assertSound,
  checkSheet,
  ClusterIndex,
  compileCql2,
  ellipsoid,
  Fault,
  getCrs,
  getSurface,
  makeCrs,
  parseCql2,
  pointsOfTable,
  readCrs,
  readGeoJson,
  readOgcTiles,
  readSld,
  readTable,
  readTile,
  readTileMatrixSet,
  readWmts,
  shapeOfGeometry,
  transformGeoJson,
} from '@flintwright/core';

/** The fault that a call ends with. */
function faultOf(work: () => unknown): Fault {
  try {
    work();
  } catch (error) {
    expect(error).toBeInstanceOf(Fault);
    return error as Fault;
  }
  throw new Error('nothing was refused');
}

/** A message says what came, and a hint is a sentence that says what to do. */
function expectWhole(fault: Fault, code: string, says: string): void {
  expect(fault.code).toBe(code);
  expect(`${fault.message} | ${fault.hint} | ${fault.at ?? ''}`).toContain(says);
  expect(fault.message.length).toBeGreaterThan(8);
  expect(fault.hint).toMatch(/^\S.*[.?]$/s);
}

const wgs84 = ellipsoid(6378137, 298.257223563);
const capabilities = (contents: string) =>
  `<Capabilities xmlns="http://www.opengis.net/wmts/1.0" xmlns:ows="http://www.opengis.net/ows/1.1"><Contents>${contents}</Contents></Capabilities>`;
const layerNamed = (name: string) => `<Layer><ows:Identifier>${name}</ows:Identifier></Layer>`;
const point = (coordinates: unknown) => ({ type: 'Point', coordinates });

describe('what is refused, and how', () => {
  test.each<[string, () => unknown, string]>([
    ['crs.unknown', () => getCrs('EPSG:32699'), 'EPSG:32699'],
    ['crs.parameter', () => makeCrs({ ...getCrs('EPSG:32631').definition, parameters: { lat0: 91 } }), 'lat0'],
    ['crs.parameter', () => makeCrs({ ...getCrs('EPSG:32631').definition, parameters: { lon0: NaN } }), 'finite'],
    [
      'crs.parameter',
      () => makeCrs({ id: 'own', method: 'albers', ellipsoid: wgs84, parameters: { lat1: 30, lat2: -30 } } as never),
      'own',
    ],
    ['ellipsoid.form', () => ellipsoid(-1, 298), '-1'],
    ['ellipsoid.form', () => ellipsoid(6378137, 0.5), 'above 1'],
    [
      'crs.domain',
      () => transformGeoJson(point([200, 95]), { from: getCrs('EPSG:4326'), to: getCrs('EPSG:3857') }),
      'longitude',
    ],
    [
      'crs.coordinates',
      () => transformGeoJson(point(['a', 1]), { from: getCrs('EPSG:4326'), to: getCrs('EPSG:3857') }),
      '"a"',
    ],
    ['wmts.form', () => readWmts('<Atlas/>'), 'Atlas'],
    ['wmts.choice', () => readWmts(capabilities('')), 'no layers'],
    ['wmts.choice', () => readWmts(capabilities(layerNamed('chart') + layerNamed('relief'))), 'chart, relief'],
    ['wmts.choice', () => readWmts(capabilities(layerNamed('chart')), { layer: 'charts' }), '"charts"'],
    ['wmts.sets', () => readWmts(capabilities(layerNamed('chart'))), 'tile matrix set'],
    ['xml.syntax', () => readWmts('<Capabilities><Contents></Capabilities>'), '1:39'],
    ['ogctiles.form', () => readOgcTiles({ links: [] } as never, 'https://tiles.invalid/'), 'rel "item"'],
    ['clusters.places', () => ClusterIndex.build([1, 2, 3]), '3 numbers'],
    ['shape.form', () => shapeOfGeometry({ type: 'Ring', coordinates: [] }), 'Ring'],
    ['shape.form', () => shapeOfGeometry({ type: 'Polygon', coordinates: [[[0, 0]]] }), 'Polygon'],
    ['table.place', () => pointsOfTable(readTable('name,berths\na,1'), 't'), 'name, berths'],
    [
      'block.offsets',
      () => assertSound({ ...readGeoJson(point([0, 0])), ringStarts: Uint32Array.of(0, 9) }),
      'ringStarts',
    ],
    ['surface.unknown', () => getSurface('glob'), 'globe'],
    ['grid.form', () => readTileMatrixSet({ crs: 'EPSG:3857', tileMatrices: [{}] }), 'tileMatrices[0]'],
    ['sld.form', () => readSld('<StyledLayerDescriptor/>'), 'line 1'],
  ])('%s', (code, work, says) => {
    expectWhole(faultOf(work), code, says);
  });

  test.each<[string, string, string]>([
    ["kinds = 'a' AND", 'cql2.syntax', '1:'],
    ["frobnicate(kind) = 'a'", 'cql2.function', 'frobnicate'],
    ["format(tonnes, 'a', 'b', 'c', 'd') = 'a'", 'cql2.function', 'format'],
    ["caseii(kind) = 'A'", 'cql2.function', 'casei'],
    ["casei(5) = 'a'", 'cql2.type', 'number'],
    ["S_INTERSECTS(geometry, 'here')", 'cql2.type', 'text'],
    ["kind LIKE 'a%' + 5", 'cql2', ''],
    ['tonnes BETWEEN 1 AND', 'cql2.syntax', ''],
    ["DATE('2031-02-30') = seen", 'cql2.time', '2031-02-30'],
  ])('the expression %s', (text, code, says) => {
    const fault = faultOf(() => compileCql2(text));
    expect(fault.code.startsWith(code)).toBe(true);
    expectWhole(fault, fault.code, says);
  });

  const sheet = (layer: object, rest: object = {}) => ({
    sheet: 1,
    data: { a: { features: 'a.geojson' }, t: { tiles: 't.pmtiles' }, i: { images: 'https://host/{z}/{x}/{y}.png' } },
    layers: [{ id: 'l', of: 'a', ...layer }],
    ...rest,
  });
  test.each<[string, object, string, string]>([
    [
      'sheet.background',
      sheet({ fill: '#fff' }, { background: { by: 'kind', categories: { a: '#fff' }, other: '#000' } }),
      '$.background',
      'attributes',
    ],
    ['sheet.colour', sheet({ fill: '#fff' }, { palette: { water: 'blu' } }), '$.palette.water', 'blu'],
    ['sheet.type', sheet({ fill: { color: '#fff', opacity: 'half' } }), '$.layers[0].fill.opacity', '"half"'],
    [
      'sheet.classes.tiles',
      sheet({
        of: 't/beds',
        fill: { color: { by: 'tonnes', classes: { count: 4, method: 'quantile', scheme: 'YlGnBu' } } },
      }),
      '$.layers[0].fill.color',
      'breaks',
    ],
    [
      'sheet.gradient.tiles',
      sheet({
        of: 't/roads',
        stroke: {
          width: 3,
          gradient: {
            ramp: [
              [0, '#fff'],
              [1, '#000'],
            ],
          },
        },
      }),
      '$.layers[0]',
      'features',
    ],
    [
      'sheet.stroke',
      sheet({
        stroke: {
          dash: [4, 2],
          gradient: {
            ramp: [
              [0, '#fff'],
              [1, '#000'],
            ],
          },
        },
      }),
      '$.layers[0].stroke',
      'Keep one',
    ],
    [
      'sheet.heat',
      sheet({
        heat: {
          scheme: 'YlOrBr',
          ramp: [
            [0, '#fff'],
            [1, '#000'],
          ],
        },
      }),
      '$.layers[0].heat',
      'Keep one',
    ],
    ['sheet.image', sheet({ image: {} }), '$.layers[0]', 'no pictures'],
    ['sheet.image', sheet({ of: 'i', fill: '#fff' }), '$.layers[0]', 'holds pictures'],
    ['sheet.zoom', sheet({ fill: '#fff', zoom: [9, 9] }), '$.layers[0].zoom', 'from 9 to 9'],
    [
      'sheet.rule',
      sheet({
        rules: [
          { otherwise: true, fill: '#fff' },
          { where: "kind = 'a'", fill: '#000' },
        ],
      }),
      '$.layers[0].rules',
      'otherwise',
    ],
    ['cql2.filter', sheet({ where: 'tonnes + 1', fill: '#fff' }), '$.layers[0].where', "kind = 'pier'"],
    ['sheet.key', sheet({ fil: '#fff' }), '$.layers[0]', 'fill'],
    ['sheet.layer.empty', sheet({}), '$.layers[0]', 'has no symbol'],
  ])('%s in a sheet', (code, given, at, says) => {
    const faults = checkSheet(given);
    const fault = faults.find((one) => one.code === code);
    expect({ code, found: faults.map((one) => `${one.code} ${one.at ?? ''}`) }).toEqual({
      code,
      found: expect.arrayContaining([expect.stringContaining(`${code} ${at}`)]) as unknown as string[],
    });
    expectWhole(fault!, code, says);
  });
});

describe('noise', () => {
  // Whatever bytes or texts come: they are read, or refused as a fault; never a type error from within.
  const readers: Record<string, (text: string) => unknown> = {
    CQL2: (text) => parseCql2(text),
    'a system': (text) => readCrs(text),
    capabilities: (text) => readWmts(text),
    'a style': (text) => readSld(text),
    GeoJSON: (text) => readGeoJson(text),
    'a table': (text) => pointsOfTable(readTable(text), 't'),
    'a sheet': (text) => checkSheet(text),
  };
  const scraps = fc
    .array(
      fc.oneof(
        fc.string({ maxLength: 6 }),
        fc.constantFrom(
          'POINT',
          '(',
          ')',
          '[',
          ']',
          '{',
          '}',
          '"',
          "'",
          '<',
          '>',
          '</a>',
          ',',
          ':',
          '=',
          'AND',
          'NOT',
          '1',
          '-0.5',
          'PROJCS[',
          'GEOGCRS["x"',
          '"type"',
          '"Feature"',
          '"coordinates"',
          'null',
          'lon,lat\n',
          '\n',
          ' ',
          '&lt;',
          '<?xml version="1.0"?>',
          'BBOX(1,2,3,4)',
        ),
      ),
      { maxLength: 14 },
    )
    .map((parts) => parts.join(''));

  test.each(Object.keys(readers))('is read or refused by the reader of %s', (name) => {
    fc.assert(
      fc.property(scraps, (text) => {
        try {
          readers[name](text);
        } catch (error) {
          expect(error).toBeInstanceOf(Fault);
          expect((error as Fault).hint.length).toBeGreaterThan(0);
        }
      }),
      { numRuns: 400, seed: 41 },
    );
  });

  test('JSON of any form is a sheet, or has faults that say where', () => {
    fc.assert(
      fc.property(fc.jsonValue(), fc.jsonValue(), (one, two) => {
        const given = {
          sheet: 1,
          data: { a: { features: one } },
          layers: [{ id: 'l', of: 'a', fill: two, label: one, rules: two }],
        };
        for (const fault of checkSheet(given)) expect(fault.at).toMatch(/^\$/);
      }),
      { numRuns: 400, seed: 42 },
    );
  });

  test('bytes are a tile or a fault', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 120 }), (bytes) => {
        try {
          readTile(bytes);
        } catch (error) {
          expect(error).toBeInstanceOf(Fault);
        }
      }),
      { numRuns: 400, seed: 43 },
    );
    // Wire type 6 does not exist (Protocol Buffers encoding).
    expect(faultOf(() => readTile(Uint8Array.of(0x1e, 1, 2))).code).toBe('mvt.wire');
  });

  test('an area that is no polygon is nothing', () => {
    expect(areaOf(shapeOfGeometry(point([1, 2])))).toBe(0);
  });
});
