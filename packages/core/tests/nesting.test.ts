// Whatever is nested, chained or stretched without end is an answer or a fault with a code, by every reader; never the end of the stack.
import { describe, expect, test } from '@jest/globals';
import {
  compileCql2,
  Fault,
  getSurface,
  readCrs,
  readGeoJson,
  readSheet,
  readSld,
  readTable,
  SheetFault,
} from '@flintwright/core';
import { crsFromText, readFeatureFile } from '@flintwright/core/files';

const n = 20_000;
const nest = (open: string, close: string, inner = '') => open.repeat(n) + inner + close.repeat(n);
const grown = (wrap: (inner: unknown) => unknown, seed: unknown = 1) => {
  let value = seed;
  for (let i = 0; i < n; i++) value = wrap(value);
  return value;
};
const [lists, objects] = [grown((v) => [v]), grown((v) => ({ a: v }))];
const nots = grown((v) => ({ op: 'not', args: [v] }), { op: 'isNull', args: [{ property: 'a' }] });
const groups = grown((v) => ({ type: 'GeometryCollection', geometries: [v] }), { type: 'Point', coordinates: [1, 2] });
const feature = (geometry: unknown, properties: unknown = {}) => ({ type: 'Feature', geometry, properties });
const sheet = (where: unknown, more: object = {}) => ({
  sheet: 1,
  data: { d: { tiles: 'a.pmtiles' } },
  layers: [{ id: 'a', of: 'd/x', where, fill: '#fff' }],
  ...more,
});
const file = (name: string, text: string) => readFeatureFile({ name, bytes: new TextEncoder().encode(text) });

describe('a fault with a code, not the end of the stack', () => {
  test.each<[string, () => unknown, string | undefined]>([
    ['NOT NOT …', () => compileCql2(`${'NOT '.repeat(6000)}a`), 'cql2.depth'],
    ['--…1', () => compileCql2(`${'-'.repeat(9000)}1 = 1`), 'cql2.depth'],
    ['- - … 1', () => compileCql2(`${'- '.repeat(9000)}1 = 1`), 'cql2.depth'],
    [
      'NOTs in brackets',
      () => compileCql2(`${'NOT ('.repeat(150)}${'NOT '.repeat(150)}a${')'.repeat(150)}`),
      'cql2.depth',
    ],
    ['a + a + …', () => compileCql2(`a${'+a'.repeat(n)} = 1`), 'cql2.depth'],
    ['a ^ a ^ …', () => compileCql2(`a${'^a'.repeat(n)} = 1`), 'cql2.depth'],
    ['brackets', () => compileCql2(nest('(', ')', 'a')), 'cql2.depth'],
    ['functions', () => compileCql2(`${nest('upper(', ')', 'a')} = 'a'`), 'cql2.depth'],
    ['a filter as JSON', () => compileCql2(nots as never), 'cql2.depth'],
    ['a list for a filter', () => compileCql2(lists as never), 'cql2.depth'],
    ['a sheet that is lists', () => readSheet(lists), 'sheet.depth'],
    ['a sheet as text', () => readSheet(nest('[', ']')), 'sheet.depth'],
    ['a title', () => readSheet(sheet('a = 1', { title: objects })), 'sheet.depth'],
    ['a filter of a sheet', () => readSheet(sheet(nots)), 'sheet.depth'],
    ['a text filter of a sheet', () => readSheet(sheet(`${'NOT '.repeat(6000)}a`)), 'cql2.depth'],
    ['a surface', () => getSurface(objects as never), 'surface.form'],
    ['an attribute', () => readGeoJson(feature(null, { a: lists })), 'geojson.depth'],
    ['coordinates', () => readGeoJson(feature({ type: 'Polygon', coordinates: lists })), 'geojson.form'],
    ['geometry collections', () => readGeoJson(feature(groups)), 'geojson.form'],
    ['a type that is lists', () => readGeoJson({ type: lists }), 'geojson.form'],
    ['a cell of a table', () => readTable([{ a: objects }]), 'table.depth'],
    [
      'an attribute in a file',
      () => file('a.geojson', `{"type":"Feature","properties":{"a":${nest('[', ']')}},"geometry":null}`),
      'json.depth',
    ],
    [
      'geometry collections in a file',
      () => file('a.geojson', nest('{"type":"GeometryCollection","geometries":[', ']}')),
      'json.depth',
    ],
    ['well-known text', () => file('a.wkt', nest('GEOMETRYCOLLECTION (', ')', 'POINT (1 2)')), undefined],
    [
      'KML',
      () => file('a.kml', `<kml><Placemark>${nest('<MultiGeometry>', '</MultiGeometry>')}</Placemark></kml>`),
      'xml.depth',
    ],
    [
      'TopoJSON',
      () =>
        file(
          'a.topojson',
          `{"type":"Topology","arcs":[],"objects":{"a":${nest('{"type":"GeometryCollection","geometries":[', ']}')}}}`,
        ),
      undefined,
    ],
    ['a system as text', () => readCrs(nest('A[', ']', '1')), 'crs.wkt'],
    ['a system of a file', () => crsFromText(nest('GEOGCS["a",', ']', '1'), 'a'), 'crs.wkt'],
    ['a system as JSON', () => readCrs(`${'{"type":"BoundCRS","source_crs":'.repeat(n)}{}${'}'.repeat(n)}`), undefined],
    ['a style', () => readSld(nest('<a>', '</a>')), 'xml.depth'],
  ])('%s', async (_, work, code) => {
    const fault = await (async () => work())().then(
      () => undefined,
      (error: unknown) => error,
    );
    expect(fault).toBeInstanceOf(Fault);
    const [first] = fault instanceof SheetFault ? fault.faults : [fault as Fault];
    if (code !== undefined) expect(first.code).toBe(code);
    expect(String(first.message).length).toBeLessThan(400);
  });

  test('an SLD filter without its operand is not expressible, and says so', () => {
    const style = (filter: string) =>
      `<StyledLayerDescriptor version="1.1.0"><NamedLayer><Name>a</Name><UserStyle><FeatureTypeStyle><Rule><Filter>${filter}</Filter><PolygonSymbolizer/></Rule></FeatureTypeStyle></UserStyle></NamedLayer></StyledLayerDescriptor>`;
    for (const filter of ['<Not/>', '<And/>', `${'<Not>'.repeat(200)}${'</Not>'.repeat(200)}`])
      expect(() => readSld(style(filter))).not.toThrow(TypeError);
  });

  test('what is merely long or broad is read', () => {
    expect(compileCql2(`a = 1${' OR a = 1'.repeat(5000)}`).properties).toEqual(['a']);
    expect(compileCql2(`a${'+a'.repeat(100)} = 1`).properties).toEqual(['a']);
    expect(compileCql2(`a IN (${'1,'.repeat(50_000)}1)`).properties).toEqual(['a']);
    expect(
      compileCql2(`- -3 = a AND NOT NOT b = 1 AND 1 - -1 - -1 = 3 AND ${'a - -1 = 2 AND '.repeat(400)} NOT a = 7`)
        .properties,
    ).toEqual(['a', 'b']);
  });
});
