// Malformed files: each is refused with its place or mended with a word, and nothing crashes, hangs or grows.
import { describe, expect, test } from '@jest/globals';
import { zipSync } from 'fflate';
import { Fault, getCrs, gzip } from '@flintwright/core';
import {
  crsByCode,
  inSystem,
  readFeatureFile,
  writeFeatureFile,
  type FileFeature,
  type FileLayer,
} from '@flintwright/core/files';
import { randomFrom } from './sample-random.ts';

const encode = (text: string) => new TextEncoder().encode(text);
const read = (name: string, content: string | Uint8Array, siblings = {}, options = {}) =>
  readFeatureFile(
    { name, bytes: typeof content === 'string' ? encode(content) : content, siblings },
    { strict: true, ...options },
  );

const ring = [
  [-31.2, 44.6],
  [-31.1, 44.6],
  [-31.1, 44.7],
  [-31.2, 44.6],
];
const feature = (type: string, coordinates: unknown, properties: object = { name: 'ø', n: 1.5 }) =>
  ({ type: 'Feature', geometry: { type, coordinates }, properties }) as FileFeature;
const areas: FileLayer = {
  name: 'areas',
  features: [feature('Polygon', [ring]), feature('Polygon', [ring])],
  crs: getCrs('OGC:CRS84'),
  crsSource: '',
};
const points: FileLayer = { ...areas, features: [feature('Point', [1, 2]), feature('Point', [3, 4, 5])] };
const written = async (name: string, layer = areas) => (await writeFeatureFile([layer], name)).bytes;
const { unzipSync } = await import('fflate');
const shapefile = unzipSync(await written('areas.zip'));
const part = (ending: string) => shapefile[`areas.${ending}`];
const changed = (bytes: Uint8Array, change: (view: DataView, copy: Uint8Array) => void) => {
  const copy = bytes.slice();
  change(new DataView(copy.buffer), copy);
  return copy;
};
const json = (geometry: object, more: object = {}) =>
  JSON.stringify({ type: 'Feature', geometry, properties: {}, ...more });
const kml = (inner: string) => `<kml xmlns="http://www.opengis.net/kml/2.2"><Document>\n${inner}</Document></kml>`;
const nested = (n: number) => '['.repeat(n) + ']'.repeat(n);

describe('is refused, with its place', () => {
  test.each<[string, () => Promise<unknown>, string, RegExp]>([
    ['nothing', () => read('a.geojson', ''), 'file.empty', /^a\.geojson$/],
    [
      'JSON cut short',
      () => read('a.geojson', '{"type":"FeatureCollection",\n"features":[{"type":"Feature"'),
      'json.syntax',
      /^a\.geojson/,
    ],
    [
      'a text for a number',
      () => read('a.geojson', json({ type: 'Point', coordinates: ['1', 2] })),
      'geojson.form',
      /geometry\.coordinates/,
    ],
    [
      'a ring of three',
      () =>
        read(
          'a.geojson',
          json({
            type: 'Polygon',
            coordinates: [
              [
                [0, 0],
                [1, 1],
                [0, 0],
              ],
            ],
          }),
        ),
      'read.ring',
      /\$\.geometry/,
    ],
    [
      'a line of one place',
      () =>
        read(
          'a.geojson',
          json({
            type: 'LineString',
            coordinates: [
              [0, 0],
              [0, 0],
            ],
          }),
        ),
      'read.line',
      /\$\.geometry/,
    ],
    [
      'a kind of geometry named constructor',
      () => read('a.geojson', json({ type: 'constructor', coordinates: [] })),
      'geojson.form',
      /type/,
    ],
    [
      'lists nested a thousand deep',
      () => read('a.geojson', `{"type":"Feature","properties":{"a":${nested(1000)}},"geometry":null}`),
      'json.depth',
      /character/,
    ],
    [
      'one bad line of many',
      () => read('a.geojsonl', `${json({ type: 'Point', coordinates: [1, 2] })}\n{"type":`),
      'json.syntax',
      /line 2/,
    ],
    [
      'an arc that is not there',
      () => read('t.topojson', '{"type":"Topology","arcs":[],"objects":{"a":{"type":"LineString","arcs":[3]}}}'),
      'topojson.form',
      /objects\.a/,
    ],
    ['a quote without end', () => read('a.csv', 'lon,lat,n\n1,2,"x\n3,4,y\n'), 'table.quotes', /line 2/],
    ['a place that is none', () => read('a.csv', 'lon;lat\n1;2\nx;4\n'), 'table.angle', /line 3/],
    ['a table of blanks', () => read('a.csv', ' \n\n'), 'table.empty', /a\.csv/],
    ['XML that breaks off', () => read('a.kml', '<kml><Document>\n<Placemark>'), 'xml.syntax', /a\.kml, 2:/],
    [
      'entities of its own',
      () =>
        read(
          'a.kml',
          '<!DOCTYPE kml [<!ENTITY a "x"><!ENTITY b SYSTEM "file:///etc/passwd">]><kml><Document><name>&b;</name></Document></kml>',
        ),
      'xml.entity',
      /a\.kml, 1:/,
    ],
    ['elements nested without end', () => read('a.kml', kml('<Folder>'.repeat(400))), 'xml.depth', /a\.kml/],
    [
      'a coordinate that is not a number',
      () => read('a.kml', kml('<Placemark><Point><coordinates>1,x</coordinates></Point></Placemark>')),
      'kml.coordinates',
      /line 2/,
    ],
    [
      'a waypoint without a latitude',
      () => read('a.gpx', '<gpx version="1.1">\n<wpt lon="3"/></gpx>'),
      'gpx.position',
      /line 2/,
    ],
    [
      'KMZ without a document',
      async () => read('a.kmz', zipSync({ 'x.kml.txt': encode('') })),
      'kml.archive',
      /a\.kmz/,
    ],
    ['an archive cut short', async () => read('a.zip', (await written('a.zip')).subarray(0, 300)), 'zip.cut', /a\.zip/],
    [
      'an archive with a flipped byte',
      async () =>
        read(
          'a.zip',
          changed(await written('a.zip'), (_, copy) => (copy[60] ^= 255)),
        ),
      'zip.corrupt',
      /a\.zip/,
    ],
    [
      'an archive that unpacks to more than is allowed',
      async () => read('b.zip', zipSync({ 'b.shp': new Uint8Array(5e6) }), {}, { unpacked: 1e6 }),
      'zip.large',
      /b\.zip/,
    ],
    [
      'an archive of something else',
      () => read('c.zip', zipSync({ 'readme.txt': encode('x') })),
      'file.format',
      /c\.zip/,
    ],
    ['shapes cut short', () => read('areas.shp', part('shp').subarray(0, 150)), 'shapefile.cut', /byte 150/],
    [
      'shapes of no known type',
      () =>
        read(
          'areas.shp',
          changed(part('shp'), (view) => view.setInt32(108, 99, true)),
        ),
      'shapefile.type',
      /record 1/,
    ],
    [
      'a record longer than its file',
      () =>
        read(
          'areas.shp',
          changed(part('shp'), (view) => view.setInt32(104, 1e6)),
        ),
      'shapefile.record',
      /byte 100/,
    ],
    [
      'points announced that are not there',
      () =>
        read(
          'areas.shp',
          changed(part('shp'), (view) => view.setInt32(148, 1e9, true)),
        ),
      'shapefile.cut',
      /record 1/,
    ],
    [
      'the table of another file',
      async () =>
        read('areas.shp', part('shp'), {
          dbf:
            unzipSync(await written('x.zip', { ...areas, features: [areas.features[0]] }))['areas.dbf'] ?? part('shx'),
        }),
      'shapefile.rows',
      /areas\.dbf/,
    ],
    [
      'a table that is none',
      () => read('areas.shp', part('shp'), { dbf: new Uint8Array(40) }),
      'dbf.header',
      /areas\.dbf/,
    ],
    [
      'well-known text with a stray sign',
      () => read('a.wkt', 'POINT (1 2)\nLINESTRING (1 2; 3 4)'),
      'wkt.geometry',
      /line 2, character 16/,
    ],
    [
      'well-known binary cut short',
      () => read('a.wkb', new Uint8Array([1, 2, 0, 0, 0, 255, 255, 0, 0, 0])),
      'wkb.geometry',
      /byte 9/,
    ],
    [
      'points that hold a line',
      () =>
        read('a.wkb', new Uint8Array([1, 4, 0, 0, 0, 1, 0, 0, 0, 1, 2, 0, 0, 0, 1, 0, 0, 0, ...new Uint8Array(16)])),
      'wkb.geometry',
      /byte 34/,
    ],
    [
      'a database cut short',
      async () => read('a.gpkg', (await written('a.gpkg')).subarray(0, 9000)),
      'sqlite.corrupt',
      /a\.gpkg/,
    ],
    [
      'a .prj that is none',
      () => read('areas.shp', part('shp'), { prj: encode('PROJCS["x",') }),
      'crs.wkt',
      /areas\.prj/,
    ],
    ['a tile without an address', () => read('a.mvt', new Uint8Array([26, 0])), 'tile.address', /a\.mvt/],
    ['an archive of tiles cut short', () => read('a.pmtiles', 'PMTiles\u0003'), 'archive.magic', /a\.pmtiles/],
  ])('%s', async (_what, work, code, at) => {
    const fault = await work().then(
      () => undefined,
      (error: unknown) => error,
    );
    expect(fault).toBeInstanceOf(Fault);
    expect({ code: (fault as Fault).code, at: (fault as Fault).at }).toEqual({
      code,
      at: expect.stringMatching(at) as unknown as string,
    });
    expect((fault as Fault).hint).not.toBe('');
  });

  test('a format that is not read is named as what it is, with a way out', async () => {
    const said = async (name: string, content: string | Uint8Array) =>
      read(name, content).then(
        () => 'read',
        (error: Fault) => `${error.message} ${error.hint}`,
      );
    expect(await said('a.geojson', '<!DOCTYPE html><html>')).toMatch(/HTML page.*login/);
    expect(await said('a.xlsx', zipSync({ 'xl/workbook.xml': encode('') }))).toMatch(/spreadsheet.*CSV/);
    expect(await said('a', new Uint8Array([0x49, 0x49, 0x2a, 0, 8]))).toMatch(/GeoTIFF.*bounds/);
    expect(
      await said('a.gml', '<?xml version="1.0"?><x:FeatureCollection xmlns:gml="http://www.opengis.net/gml">'),
    ).toMatch(/GML.*GeoJSON/);
    expect(await said('a.bin', new Uint8Array([250, 251, 252, 253, 0, 1]))).toMatch(/none of the formats.*Shapefile/);
  });
});

describe('is mended or told', () => {
  test.each<
    [
      string,
      () => Promise<{ warnings: readonly { code: string; count: number; hint: string; places: readonly string[] }[] }>,
      string[],
    ]
  >([
    [
      'rings the wrong way round, open, and with repeats',
      () =>
        read(
          'a.geojson',
          json({
            type: 'Polygon',
            coordinates: [
              [
                [0, 0],
                [0, 4],
                [4, 4],
                [4, 4],
                [4, 0],
              ],
            ],
          }),
        ),
      ['mended.repeated', 'mended.open-ring', 'mended.ring-order'],
    ],
    [
      'swapped pairs',
      () =>
        read(
          'a.geojson',
          json({
            type: 'MultiPoint',
            coordinates: [
              [44, -131],
              [45, -132],
            ],
          }),
        ),
      ['mended.swapped'],
    ],
    ['places at 0/0', () => read('a.csv', 'lon,lat\n0,0\n5,6\n'), ['doubtful.nought']],
    [
      'one place far from all others',
      () =>
        read(
          'a.csv',
          `lon,lat\n${Array.from({ length: 40 }, (_, i) => `${5 + i / 100},${6 + (i % 7) / 100}`).join('\n')}\n-5,-60\n`,
        ),
      ['doubtful.far'],
    ],
    ['meters without a system', () => read('a.csv', 'x,y\n500000,4940000\n'), ['doubtful.meters']],
    [
      'a system that does not fit its numbers',
      async () => read('a.csv', 'x,y\n-31,44\n', {}, { crs: await crsByCode('EPSG:32625') }),
      ['doubtful.system'],
    ],
    [
      'a system of another part of the world',
      async () => read('a.csv', 'x,y\n5000000,9900000\n', {}, { crs: await crsByCode('EPSG:28992') }),
      ['doubtful.system'],
    ],
    [
      'a text marked as UTF-8 that is none',
      () => read('a.csv', new Uint8Array([0xef, 0xbb, 0xbf, ...encode('lon,lat,n\n1,2,'), 0xe9, 10])),
      ['mended.byte-order-mark'],
    ],
    [
      'no .shx, .prj, .cpg and .dbf',
      () => read('areas.shp', part('shp')),
      ['mended.no-shx', 'mended.no-dbf', 'mended.no-prj'],
    ],
    [
      'an unknown code page',
      () =>
        read('areas.shp', part('shp'), {
          dbf: part('dbf'),
          shx: part('shx'),
          prj: part('prj'),
          cpg: encode('klingon'),
        }),
      ['mended.code-page'],
    ],
    [
      'no .cpg',
      () => read('areas.shp', part('shp'), { dbf: part('dbf'), shx: part('shx'), prj: part('prj') }),
      ['mended.no-cpg'],
    ],
    [
      'a deleted row',
      () =>
        read('areas.shp', part('shp'), {
          shx: part('shx'),
          prj: part('prj'),
          cpg: part('cpg'),
          dbf: changed(part('dbf'), (view, copy) => (copy[view.getUint16(8, true)] = 0x2a)),
        }),
      ['skipped.deleted'],
    ],
    [
      'an old datum without a shift',
      async () => read('a.csv', 'x,y\n304000,5400000\n', {}, { crs: await crsByCode('EPSG:2010') }),
      ['doubtful.datum'],
    ],
    ['columns of one name', () => read('a.csv', 'lon,lat,n,n\n1,2,3,4\n'), ['mended.column']],
  ])('%s', async (_what, work, codes) => {
    const { warnings } = await work();
    expect(warnings.map(({ code }) => code)).toEqual(codes);
    expect(warnings.every(({ count, places }) => count > 0 && places.length <= 5)).toBe(true);
    // A shift that is not known is reported with its size.
    for (const { code, hint } of warnings)
      if (code === 'doubtful.datum') expect(hint).toMatch(/off by up to [1-9]\d*00 m/);
  });

  test('texts of DOS, Windows and Asian code pages; gzip round any of the formats', async () => {
    const withText = (cpg: string, letters: number[]) =>
      read('areas.shp', part('shp'), {
        cpg: encode(cpg),
        dbf: changed(part('dbf'), (view, copy) => copy.set([...letters, 32], view.getUint16(8, true) + 1)),
      });
    const first = async (file: ReturnType<typeof withText>) => (await file).layers[0].features[0].properties['name'];
    expect(await first(withText('OEM 850', [0x9b]))).toBe('ø');
    expect(await first(withText('437', [0x84]))).toBe('ä');
    expect(await first(withText('ANSI 1251', [0xc6]))).toBe('Ж');
    expect(await first(withText('932', [0x93, 0xfa]).catch(() => withText('932', [0x93, 0xfa])))).toBe('日');
    const file = await read('walk.csv.gz', gzip(encode('lon,lat\n1,2\n')));
    expect([file.format, file.layers[0].name]).toEqual(['CSV', 'walk']);
  });

  test('features in another system are placed; one that nothing names asks for it', async () => {
    const file = await read('a.csv', 'x,y,n\n649639.796,4943852.267,1\n');
    expect(file.layers[0].crs).toBeUndefined();
    expect(() => inSystem(file.layers[0], getCrs('OGC:CRS84'))).toThrow(
      expect.objectContaining({ code: 'crs.missing' }) as unknown as Error,
    );
    const named = await read('a.csv', 'x,y,n\n649639.796,4943852.267,1\n', {}, { crs: await crsByCode('EPSG:32625') });
    expect(inSystem(named.layers[0], getCrs('OGC:CRS84')).features[0].geometry).toMatchObject({
      coordinates: [expect.closeTo(-31.1135, 3), expect.closeTo(44.6335, 2)],
    });
  });
});

test('a jump across the antimeridian is told with how it was read; what goes all round the world is none', async () => {
  const feature = (type: string, coordinates: unknown) => ({
    type: 'Feature',
    properties: {},
    geometry: { type, coordinates },
  });
  const features = [
    feature('LineString', [[170, 0], [-170, 5]]), // prettier-ignore
    feature('LineString', [[170, 0], [190, 5]]), // prettier-ignore
    feature('MultiPolygon', [[[[175, 0], [-175, 0], [-175, 5], [175, 0]]]]), // prettier-ignore
    feature('Polygon', [[[-180, -90], [180, -90], [180, 90], [-180, 90], [-180, -90]]]), // prettier-ignore
    feature('MultiPoint', [[170, 0], [-170, 5]]), // prettier-ignore
  ];
  const { warnings } = await read('a.geojson', encode(JSON.stringify({ type: 'FeatureCollection', features })));
  const told = warnings.filter(({ code }) => code === 'doubtful.jump');
  expect(told).toMatchObject([{ count: 2, places: ['feature 1', 'feature 3'] }]);
});

describe('mutated files', () => {
  const mutations = Number(process.env['FLINTWRIGHT_MUTATIONS'] ?? 150);
  test.each(['geojson', 'geojsonl', 'topojson', 'csv', 'kml', 'kmz', 'gpx', 'zip', 'gpkg', 'wkt', 'wkb', 'gazetteer'])(
    '.%s gives features or a Fault, in bounded time and memory',
    async (ending) => {
      const random = randomFrom(ending.length * 7919 + ending.charCodeAt(0));
      const sources = [await written(`x.${ending}`), await written(`x.${ending}`, points)];
      const many = ending === 'gpkg' ? Math.ceil(mutations / 10) : mutations;
      const before = process.memoryUsage().rss;
      let [slowest, faults] = [0, 0];
      for (let k = 0; k < many; k++) {
        const source = sources[k % 2];
        const cut = random() < 0.2 ? Math.floor(random() * source.length) : source.length;
        const copy = source.slice(0, Math.max(1, cut));
        for (let m = 0; m < 1 + Math.floor(random() * 4); m++)
          copy[Math.floor(random() * copy.length)] = Math.floor(random() * 256);
        const began = performance.now();
        try {
          await read(`x.${ending}`, copy);
        } catch (error) {
          faults++;
          if (!(error instanceof Fault)) throw new Error(`${ending} ${k}: ${String(error)}`, { cause: error });
        }
        slowest = Math.max(slowest, performance.now() - began);
      }
      const grown = (process.memoryUsage().rss - before) / 1e6;
      if (process.env['FLINTWRIGHT_MUTATIONS'])
        process.stdout.write(
          `${ending}: ${many} tried, ${faults} faults, slowest ${slowest.toFixed(0)} ms, grown ${grown.toFixed(0)} MB\n`,
        );
      expect(slowest).toBeLessThan(2000);
      expect(grown).toBeLessThan(512);
    },
    3600000,
  );
});
