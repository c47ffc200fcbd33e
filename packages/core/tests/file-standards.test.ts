// What files of open standards may hold beside places and attributes: kept where the format has a place for it, and reported where it has not.
import { describe, expect, test } from '@jest/globals';
import {
  crsByCode,
  inSystem,
  readFeatureFile,
  writeFeatureFile,
  type FeatureFile,
  type FileFeature,
  type FileLayer,
} from '@flintwright/core/files';
import { initSqlite, layerOf } from './sample-files.ts';
import { schemaFaults } from './sample-xml-schemas.ts';

const feature = (
  type: string,
  coordinates: unknown,
  properties: Readonly<Record<string, unknown>> = {},
  id?: string | number,
) =>
  ({
    type: 'Feature',
    ...(id === undefined ? {} : { id }),
    geometry: { type, coordinates },
    properties,
  }) as FileFeature;
const bytesOf = (text: string) => new TextEncoder().encode(text);
const textOf = (bytes: Uint8Array) => new TextDecoder().decode(bytes);
const read = (name: string, content: string | Uint8Array) =>
  readFeatureFile({ name, bytes: typeof content === 'string' ? bytesOf(content) : content });
const codes = ({ warnings }: Pick<FeatureFile, 'warnings'>) => warnings.map(({ code }) => code);
const hex = (text: string) => Uint8Array.from(text.match(/../g)!.map((pair) => parseInt(pair, 16)));

describe('shapefiles', () => {
  test('a name with .shp gives the files that belong together, one set a kind; .zip gives an archive', async () => {
    const points = [feature('Point', [1, 2], { n: 1 })];
    const one = await writeFeatureFile([layerOf(points)], 'out/x.shp');
    expect(one.files.map(({ name }) => name)).toEqual([
      'out/x.shp',
      'out/x.shx',
      'out/x.dbf',
      'out/x.cpg',
      'out/x.prj',
    ]);
    expect(one.bytes).toBe(one.files[0].bytes);
    const line = feature('LineString', [
      [1, 2],
      [3, 4],
    ]);
    const several = await writeFeatureFile([layerOf([...points, line])], 'x.shp');
    expect(several.files.map(({ name }) => name).filter((name) => /shp$/.test(name))).toEqual([
      'x_points.shp',
      'x_lines.shp',
    ]);
    expect(codes(several)).toContain('mended.kinds');
    const packed = await writeFeatureFile([layerOf(points)], 'x.zip');
    expect([packed.files.length, String.fromCharCode(...packed.bytes.subarray(0, 2))]).toEqual([1, 'PK']);
  });

  test('numbers keep their digits in 20 characters, are rounded with a word, or become texts with one', async () => {
    const through = async (...values: number[]) => {
      const { files, warnings } = await writeFeatureFile(
        [layerOf(values.map((v) => feature('Point', [1, 2], { v })))],
        'x.shp',
      );
      const siblings = Object.fromEntries(files.slice(1).map(({ name, bytes }) => [name.slice(2), bytes]));
      const { layers } = await readFeatureFile({ name: 'x.shp', bytes: files[0].bytes, siblings });
      return [layers[0].features.map(({ properties }) => properties['v']), codes({ warnings })];
    };
    expect(await through(0.1, -2.25, 1e15, 2 ** 53)).toEqual([[0.1, -2.25, 1e15, 2 ** 53], []]);
    expect(await through(-0.000012, 1e-17)).toEqual([[-0.000012, 1e-17], []]);
    expect(await through(-0.000012, 1.5e-17)).toEqual([['-0.000012', '1.5e-17'], ['mended.number-text']]);
    expect(await through(123456.7890123457, 0.5)).toEqual([
      [123456.7890123457, 0.5].map((v) => expect.closeTo(v, 9)),
      [],
    ]);
    expect(await through(123456.7890123457, 0.1234567890123457)).toEqual([
      [expect.closeTo(123456.7890123457, 9), expect.closeTo(0.1234567890123457, 12)],
      ['mended.digits'],
    ]);
    expect(await through(1e21, 1)).toEqual([['1e+21', '1'], ['mended.number-text']]);
  });

  test('heights of some positions only are filled up with a word; measures are reported', async () => {
    const mixed = [feature('Point', [1, 2, 3]), feature('Point', [1, 2])];
    expect(codes(await writeFeatureFile([layerOf(mixed)], 'x.zip'))).toContain('changed.height');
    const { files } = await writeFeatureFile([layerOf([mixed[0]])], 'x.shp');
    const shp = files[0].bytes.slice();
    expect(codes(await read('x.shp', shp))).not.toContain('skipped.measure');
    new DataView(shp.buffer).setFloat64(shp.length - 8, 12.5, true);
    expect(codes(await read('x.shp', shp))).toContain('skipped.measure');
  });
});

describe('GPX 1.1', () => {
  const document = `<?xml version="1.0"?><gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1" xmlns:y="urn:y">
    <metadata><name>Shore</name><author><name>A. B.</name><email id="a" domain="b.example"/></author>
      <copyright author="A. B."><year>2026</year></copyright><link href="https://a.example/"><text>Page</text></link>
      <time>2026-05-14T06:55:00Z</time><keywords>one, two</keywords></metadata>
    <wpt lat="44.5" lon="-31"><ele>3</ele><time>2026-05-14T06:55:00Z</time><name>007</name><link href="https://a.example/1"/>
      <link href="https://a.example/2"><text>Two</text></link><sat>4</sat>
      <extensions><y:code>007</y:code><y:depth>2.5</y:depth><y:depth>3</y:depth></extensions></wpt>
    <rte><name>Round</name><number>3</number>
      <rtept lat="44.5" lon="-31"><name>Start</name></rtept><rtept lat="44.6" lon="-31.1"><desc>bell</desc></rtept></rte>
    <trk><trkseg><trkpt lat="44" lon="-31"><time>2026-05-14T06:55:00Z</time><extensions><y:hr>90</y:hr></extensions></trkpt>
      <trkpt lat="44.1" lon="-31"><time>2026-05-14T06:58:00Z</time><extensions><y:hr>95</y:hr></extensions></trkpt></trkseg></trk>
  </gpx>`;

  test('metadata, links, routes with the names of their points, and what points have come back, also by way of GeoJSON', async () => {
    const first = await read('a.gpx', document);
    expect(first.warnings).toEqual([]);
    const [waypoints, routes, tracks] = first.layers;
    expect(waypoints.features[0].properties).toEqual({
      time: '2026-05-14T06:55:00Z',
      name: '007',
      sat: 4,
      link: 'https://a.example/1',
      links: [{ href: 'https://a.example/1' }, { href: 'https://a.example/2', text: 'Two' }],
      code: '007',
      depth: 2.5,
      depth_2: 3,
    });
    expect(routes.features[0].properties).toEqual({
      name: 'Round',
      number: 3,
      point_name: [['Start', null]],
      point_desc: [[null, 'bell']],
    });
    expect(tracks.features[0].properties).toMatchObject({ point_hr: [[90, 95]], begin: '2026-05-14T06:55:00Z' });
    expect(waypoints.foreign).toMatchObject({
      metadata: { author: { email: 'a@b.example' }, links: [{ text: 'Page' }] },
    });
    const again = await writeFeatureFile(first.layers, 'b.gpx');
    expect(again.warnings).toEqual([]);
    expect(schemaFaults('gpx', textOf(again.bytes))).toEqual([]);
    expect((await read('b.gpx', again.bytes)).layers).toEqual(first.layers);
    const json = await writeFeatureFile(first.layers, 'b.geojson');
    const back = await writeFeatureFile((await read('b.geojson', json.bytes)).layers, 'c.gpx');
    expect(textOf(back.bytes)).toMatch(/<metadata>[^]*Shore[^]*<rte>[^]*Start[^]*bell[^]*<trk>/);
    expect(schemaFaults('gpx', textOf(back.bytes))).toEqual([]);
  });

  test('what the schema does not allow stands in the extensions, with its type; longitudes are below 180', async () => {
    const odd = { time: 'noon', number: -1, sat: 2.5, name: ' x ', flag: true, list: [1], magvar: 360, fix: '4d' };
    const features = [
      feature('Point', [180, 1e-9, 1e-8], { ...odd, desc: 'd' }),
      feature('LineString', [
        [179, 0],
        [180, 1],
      ]),
    ];
    const { bytes, warnings } = await writeFeatureFile([layerOf(features)], 'x.gpx');
    expect(warnings).toEqual([]);
    expect(schemaFaults('gpx', textOf(bytes))).toEqual([]);
    const [points, tracks] = (await read('x.gpx', bytes)).layers;
    expect(points.features[0]).toEqual({
      type: 'Feature',
      geometry: { type: 'Point', coordinates: [-180, 1e-9, 1e-8] },
      properties: { ...odd, desc: 'd' },
    });
    const [, [end]] = (tracks.features[0].geometry as unknown as { coordinates: number[][] }).coordinates;
    expect(180 - end).toBeLessThan(2e-12);
  });
});

describe('KML 2.2', () => {
  test('times, tracks, visibility, modes of heights and ids are in their elements, and come back', async () => {
    const times = [['2026-05-14T06:55:00Z', '2026-05-14T06:55:30Z', '2026-05-14T06:58:39Z']];
    const features = [
      feature(
        'Point',
        [180, 2],
        { name: 'A', time: '2026-05', visibility: 0, address: 'Quay 1', phone: '12 34' },
        'a1',
      ),
      feature(
        'Point',
        [1, 2, 30],
        { begin: '2026', end: '2026-05-14', altitudeMode: 'relativeToGround', extrude: 1 },
        'b',
      ),
      feature(
        'LineString',
        [
          [1, 2, 3],
          [1, 2, 3],
          [1.5, 2, 4],
        ],
        { begin: times[0][0], end: times[0][2], times },
        'c',
      ),
      feature('Point', [1, 2], { time: 'noon', fill: 'red', stroke_width: 2 }, 'd'),
    ];
    const { bytes, warnings } = await writeFeatureFile([layerOf(features)], 'x.kml');
    expect(warnings).toEqual([]);
    const text = textOf(bytes);
    expect(schemaFaults('kml', text)).toEqual([]);
    expect(text).toMatch(/<TimeSpan>[^]*<gx:Track>[^]*<when>[^]*<gx:coord>1 2 3</);
    const { layers } = await read('x.kml', bytes);
    expect(layers[0].features).toEqual(features);
  });

  test('ids that are no names, or stand twice, become attributes', async () => {
    for (const ids of [
      [1, 2],
      ['a', 'a'],
      ['a b', 'c'],
    ]) {
      const { bytes, warnings } = await writeFeatureFile(
        [layerOf(ids.map((id) => feature('Point', [1, 2], {}, id)))],
        'x.kml',
      );
      expect(codes({ warnings })).toContain('mended.id');
      expect(schemaFaults('kml', textOf(bytes))).toEqual([]);
      const { layers } = await read('x.kml', bytes);
      expect(layers[0].features.map(({ properties }) => properties['id'])).toEqual(ids);
    }
  });
});

describe('GeoPackage', () => {
  test('three systems are always there; a plane without a name stays one; bytes, measures and taken names are reported', async () => {
    const { Database } = await initSqlite();
    const grid = await crsByCode('EPSG:32625');
    const { bytes } = await writeFeatureFile([inSystem(layerOf([feature('Point', [-31, 44.5])]), grid)], 'x.gpkg');
    const systems = new Database(bytes).exec('SELECT srs_id FROM gpkg_spatial_ref_sys ORDER BY 1')[0].values.flat();
    expect(systems).toEqual([-1, 0, 4326, 32625]);
    const plane: FileLayer = { ...layerOf([feature('Point', [12, 34])]), crs: undefined };
    const written = await writeFeatureFile([plane], 'x.gpkg');
    expect((await read('x.gpkg', written.bytes)).layers[0]).toMatchObject({ crs: undefined, planar: true });
    const database = new Database(written.bytes);
    database.run(`ALTER TABLE things ADD COLUMN picture BLOB;
      UPDATE things SET picture = x'0102',
        geom = x'475000010000000001D107000000000000000028400000000000004140000000000000F03F'`);
    const found = await read('x.gpkg', database.export());
    expect(found.warnings).toMatchObject([
      { code: 'skipped.blob', count: 1, places: ['things.picture'] },
      { code: 'skipped.measure', places: ['things, row 1'] },
    ]);
    const named = await writeFeatureFile(
      [layerOf([feature('Point', [1, 2], { fid: 1, GEOM: 2 })], 'gpkg_x'), layerOf([], 'Layer_gpkg_x')],
      'x.gpkg',
    );
    expect(named.warnings.find(({ code }) => code === 'mended.name')?.places).toEqual([
      'gpkg_x → layer_gpkg_x',
      'fid → fid_2',
      'GEOM → GEOM_2',
      'Layer_gpkg_x → Layer_gpkg_x_2',
    ]);
  });
});

describe('well-known text and binary', () => {
  const readText = async (text: string) => {
    const file = await read('x.wkt', text);
    return [file.layers[0].features[0].geometry, codes(file).filter((code) => code !== 'doubtful.far')];
  };
  test.each<[string, unknown, string[]]>([
    [
      'MULTIPOINT ((1 2), (3 4))',
      {
        type: 'MultiPoint',
        coordinates: [
          [1, 2],
          [3, 4],
        ],
      },
      [],
    ],
    [
      'MULTIPOINT (1 2, EMPTY, (3 4))',
      {
        type: 'MultiPoint',
        coordinates: [
          [1, 2],
          [3, 4],
        ],
      },
      [],
    ],
    [
      'MULTIPOLYGON (EMPTY, ((0 0, 1 0, 1 1, 0 0)))',
      {
        type: 'MultiPolygon',
        coordinates: [
          [
            [
              [0, 0],
              [1, 0],
              [1, 1],
              [0, 0],
            ],
          ],
        ],
      },
      [],
    ],
    ['MULTILINESTRING (EMPTY)', null, []],
    ['POINT ZM (1 2 3 4)', { type: 'Point', coordinates: [1, 2, 3] }, ['skipped.measure']],
    ['POINT M (1 2 4)', { type: 'Point', coordinates: [1, 2] }, ['skipped.measure']],
    [
      'TRIANGLE ((0 0, 1 0, 1 1, 0 0))',
      {
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
      [],
    ],
  ])('%s', async (text, geometry, told) => {
    expect(await readText(text)).toEqual([geometry, told]);
  });

  test('a point has one position', async () => {
    await expect(read('x.wkt', 'POINT (1 2, 3 4)')).rejects.toMatchObject({ code: 'wkt.geometry' });
  });

  // ISO 13249-3: a triangle of three corners as types 17, and as a member of 15 and 16.
  const corners =
    '0100000004000000' +
    [
      '00000000000000000000000000000000',
      '000000000000F03F0000000000000000',
      '000000000000F03F000000000000F03F',
      '00000000000000000000000000000000',
    ].join('');
  test.each([
    ['01110000', '', 'Polygon'],
    ['010F0000', '0100000001030000', 'MultiPolygon'],
    ['01100000', '0100000001110000', 'MultiPolygon'],
  ])('binary of type %s', async (type, member, wanted) => {
    const { layers } = await read('x.wkb', hex(`${type}00${member && `${member}00`}${corners.slice(0)}`));
    expect(layers[0].features[0].geometry).toMatchObject({ type: wanted });
  });

  test('heights are not invented: missing in binary, and left out with a word in text where some are missing', async () => {
    const line = feature('LineString', [
      [1, 2, 3],
      [4, 5],
    ]);
    const binary = await writeFeatureFile([layerOf([line])], 'x.wkb');
    expect((await read('x.wkb', binary.bytes)).layers[0].features[0].geometry).toEqual(line.geometry);
    const database = await writeFeatureFile([layerOf([line])], 'x.gpkg');
    expect((await read('x.gpkg', database.bytes)).layers[0].features[0].geometry).toEqual(line.geometry);
    const text = await writeFeatureFile([layerOf([line])], 'x.wkt');
    expect([textOf(text.bytes), codes(text)]).toEqual(['LINESTRING (1 2, 4 5)\n', ['skipped.height']]);
  });
});

describe('GeoJSON', () => {
  test('a box has heights where positions have them; a fourth number is reported; a broken record is passed over', async () => {
    const point = (coordinates: number[]) => ({
      type: 'Feature',
      properties: {},
      geometry: { type: 'Point', coordinates },
    });
    const boxed = { type: 'FeatureCollection', bbox: [0, 0, 9, 9], features: [point([1, 2, 3]), point([4, 5, 6])] };
    const { layers } = await read('x.geojson', JSON.stringify(boxed));
    const { bytes } = await writeFeatureFile(layers, 'y.geojson');
    expect((JSON.parse(textOf(bytes)) as { bbox: unknown }).bbox).toEqual([1, 2, 3, 4, 5, 6]);
    expect(codes(await read('x.geojson', JSON.stringify(point([1, 2, 3, 4]))))).toEqual(['skipped.coordinate']);
    const good = JSON.stringify(point([1, 2]));
    const file = await read('x.geojsons', `\u001e${good}\n\u001e{"type":\n\u001e${good}\n`);
    expect(file.layers[0].features).toHaveLength(2);
    expect(file.warnings).toMatchObject([
      { code: 'skipped.record', count: 1, places: [expect.stringMatching(/^record 2: /)] },
    ]);
    await expect(read('x.geojsons', '\u001e{"type":\n')).rejects.toMatchObject({ code: 'json.syntax' });
  });
});
