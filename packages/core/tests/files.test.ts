// Files of features: every format there and back, and what comes out of files that others wrote.
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { ArchiveWriter, getCrs, gzip, pyramid, readGeoJson, writeTile } from '@flintwright/core';
import {
  crsByCode,
  inSystem,
  readFeatureFile,
  simplified,
  writableFormats,
  writeFeatureFile,
  type FeatureFile,
  type FileFeature,
  type FileLayer,
  type StartEngine,
} from '@flintwright/core/files';

const bytes = (text: string) => new TextEncoder().encode(text);
export const read = (name: string, content: string | Uint8Array, siblings = {}): Promise<FeatureFile> =>
  readFeatureFile({ name, bytes: typeof content === 'string' ? bytes(content) : content, siblings });
const lonLat = getCrs('OGC:CRS84');
const layerOf = (features: readonly FileFeature[], name = 'things'): FileLayer => ({
  name,
  features,
  crs: lonLat,
  crsSource: 'the test',
});
const codes = ({ warnings }: FeatureFile) => warnings.map(({ code, count }) => `${code} ${count}`);

const ring = (x: number, y: number, r: number): number[][] => [
  [x - r, y - r],
  [x + r, y - r],
  [x + r, y + r],
  [x - r, y + r],
  [x - r, y - r],
];
const hole = (x: number, y: number, r: number) => ring(x, y, r).reverse();
const feature = (type: string, coordinates: unknown, properties: object = {}, id?: number) =>
  ({
    type: 'Feature',
    ...(id === undefined ? {} : { id }),
    geometry: { type, coordinates },
    properties,
  }) as FileFeature;

const place = fc
  .tuple(fc.integer({ min: -1700, max: 1700 }), fc.integer({ min: -800, max: 800 }))
  .map(([x, y]) => [x / 10, y / 10]);
const line = fc.uniqueArray(place, { minLength: 2, maxLength: 6, selector: String });
const area = fc.tuple(place, fc.integer({ min: 2, max: 9 })).map(([[x, y], r]) => [ring(x, y, r), hole(x, y, r / 2)]);
const shape = fc.oneof(
  place.map((at) => ['Point', at] as const),
  line.map((path) => ['LineString', path] as const),
  fc.array(line, { minLength: 2, maxLength: 3 }).map((lines) => ['MultiLineString', lines] as const),
  area.map((rings) => ['Polygon', rings] as const),
  fc.tuple(place, place).map(([[x, y]]) => ['MultiPolygon', [[ring(x, y, 1)], [ring(x + 5, y, 1)]]] as const),
);
const word = fc.stringMatching(/^[A-Za-zäøß日本 ]{0,8}[a-z]$/);
const things = fc.array(
  fc
    .tuple(shape, word, fc.integer({ min: -1e6, max: 1e6 }))
    .map(([[type, coordinates], name, berths]) =>
      feature(type, coordinates, { name: `n${name}`, berths: berths / 4 + 0.5 }),
    ),
  { minLength: 1, maxLength: 8 },
);
/** A shape whatever corner its rings begin at. */
const turned = (node: unknown): unknown => {
  const list = node as number[][];
  if (!Array.isArray(list) || typeof list[0] === 'number') return node;
  const closed =
    list.length > 3 &&
    Array.isArray(list[0]) &&
    typeof list[0][0] === 'number' &&
    String(list[0]) === String(list.at(-1));
  return closed ? list.slice(1).map(String).sort() : list.map(turned);
};
const shapes = ({ layers }: FeatureFile) =>
  layers.flatMap(({ features }) =>
    features.map(({ geometry }) => geometry && turned((geometry as unknown as { coordinates: unknown }).coordinates)),
  );

describe('there and back', () => {
  test.each(['geojson', 'geojsonl', 'geojsons', 'topojson', 'csv', 'kml', 'kmz', 'gpkg', 'wkt'])(
    '.%s',
    async (ending) => {
      await fc.assert(
        fc.asyncProperty(things, async (features) => {
          const { bytes: written } = await writeFeatureFile([layerOf(features)], `things.${ending}`);
          const back = await read(`things.${ending}`, written);
          // Places by chance may lie anywhere, and far apart.
          expect(back.warnings.filter(({ code }) => !/^doubtful\.(nought|far|jump)$/.test(code))).toEqual([]);
          expect(shapes(back)).toEqual(
            features.map(({ geometry }) => turned((geometry as unknown as { coordinates: unknown }).coordinates)),
          );
          const kept = back.layers[0].features.map(({ properties }) => properties);
          if (ending !== 'wkt') expect(kept).toEqual(features.map(({ properties }) => properties));
        }),
        { numRuns: ending === 'gpkg' ? 12 : 60 },
      );
    },
  );

  test('shapefiles: a set for each kind, in a grid, with all of the shapes, holes, heights and texts', async () => {
    await fc.assert(
      fc.asyncProperty(things, async (features) => {
        const { bytes: written } = await writeFeatureFile([layerOf(features)], 'things.zip');
        const back = await read('things.zip', written);
        const sorted = (list: readonly unknown[]) => list.map((item) => JSON.stringify(item)).sort();
        expect(sorted(shapes(back))).toEqual(
          sorted(features.map(({ geometry }) => turned((geometry as unknown as { coordinates: unknown }).coordinates))),
        );
        expect(sorted(back.layers.flatMap((layer) => layer.features.map(({ properties }) => properties)))).toEqual(
          sorted(features.map(({ properties }) => properties)),
        );
      }),
      { numRuns: 60 },
    );
    const grid = await crsByCode('EPSG:32625');
    const high = layerOf([
      feature('Polygon', [ring(-31, 44, 0.1).map((p, i) => [...p, i % 4])], {
        long_attribute_name: 'x',
        long_attribute_name_two: true,
        on: '2024-05-01',
      }),
    ]);
    const { bytes: written, warnings } = await writeFeatureFile([inSystem(high, grid)], 'high.zip');
    expect(warnings).toMatchObject([
      {
        code: 'mended.name',
        count: 2,
        places: ['long_attribute_name → long_attri', 'long_attribute_name_two → long_att_2'],
      },
    ]);
    const back = await read('high.zip', written);
    expect(back.layers[0]).toMatchObject({ crs: { id: 'EPSG:32625' }, crsSource: 'things.prj, as EPSG:32625' });
    const [{ geometry, properties }] = inSystem(back.layers[0], lonLat).features;
    expect(properties).toEqual({ long_attri: 'x', long_att_2: true, on: '2024-05-01' });
    const [first] = (geometry as unknown as { coordinates: number[][][] }).coordinates[0];
    expect(first).toEqual([expect.closeTo(-31.1, 9), expect.closeTo(43.9, 9), 0]);
  });

  test('GPX keeps heights, segments and times; areas become tracks, and the rest is told', async () => {
    const times = [
      ['2026-05-14T06:55:00Z', '2026-05-14T06:58:39Z'],
      ['2026-05-14T07:10:00Z', null],
    ];
    const track = feature(
      'MultiLineString',
      [
        [
          [-31.2, 44.6, 3.5],
          [-31.1, 44.6, 4],
        ],
        [
          [-31, 44.6, 0],
          [-30.9, 44.7, 1],
        ],
      ],
      { name: 'Shore', times, odd: 1 },
    );
    const source = layerOf([
      track,
      feature('Point', [-31, 44.5, 12], { name: 'Stop', desc: 'nests' }),
      feature('Polygon', [ring(-31, 44, 0.5)]),
    ]);
    const { bytes: written, warnings } = await writeFeatureFile([source], 'walk.gpx');
    expect(warnings.map(({ code }) => code)).toEqual(['mended.outline']);
    const { layers } = await read('walk.gpx', written);
    expect(layers.map(({ name, features }) => [name, features.length])).toEqual([
      ['waypoints', 1],
      ['tracks', 2],
    ]);
    expect(layers[0].features[0]).toMatchObject({
      geometry: { coordinates: [-31, 44.5, 12] },
      properties: { name: 'Stop', desc: 'nests' },
    });
    expect(layers[1].features[0]).toMatchObject({
      geometry: track.geometry,
      properties: { name: 'Shore', odd: 1, times, begin: '2026-05-14T06:55:00Z', end: '2026-05-14T07:10:00Z' },
    });
  });

  test('every format that is written is recognized by what it holds, whatever its name', async () => {
    for (const { endings, name } of writableFormats()) {
      const source = layerOf([
        feature(
          'LineString',
          [
            [1, 2],
            [3, 4],
          ],
          { name: 'A', a: 1 },
        ),
        feature(
          'LineString',
          [
            [1, 2],
            [5, 4],
          ],
          { name: 'B', a: 2 },
        ),
      ]);
      const { bytes: written } = await writeFeatureFile([source], `x.${endings[0] === 'shp' ? 'zip' : endings[0]}`);
      expect([name, (await read('nameless', written)).format]).toEqual([name, name]);
    }
  });
});

describe('what others write', () => {
  test('KML: folders, styles, shared styles, schemas, tracks, all geometries; links and overlays are told', async () => {
    const text = `<?xml version="1.0" encoding="UTF-8"?><kml xmlns="http://www.opengis.net/kml/2.2" xmlns:gx="urn:x"><Document>
      <Style id="a"><LineStyle><color>ff3c74d0</color><width>2</width></LineStyle><PolyStyle><color>803c74d0</color></PolyStyle></Style>
      <StyleMap id="m"><Pair><key>highlight</key><styleUrl>#b</styleUrl></Pair><Pair><key>normal</key><styleUrl>#a</styleUrl></Pair></StyleMap>
      <Schema id="s"><SimpleField name="depth" type="float"/><SimpleField name="code" type="string"/></Schema>
      <NetworkLink><Link><href>http://elsewhere.example/x.kml</href></Link></NetworkLink>
      <GroundOverlay><name>chart</name></GroundOverlay>
      <Folder><name>Birds</name><Folder><name>North</name>
        <Placemark id="p1"><name>Sands</name><styleUrl>#m</styleUrl><ExtendedData><SchemaData schemaUrl="#s"><SimpleData name="depth">2.5</SimpleData><SimpleData name="code">007</SimpleData></SchemaData></ExtendedData>
          <Polygon><outerBoundaryIs><LinearRing><coordinates>0,0 0,4 4,4 4,0 0,0</coordinates></LinearRing></outerBoundaryIs><innerBoundaryIs><LinearRing><coordinates>1,1 2,1 2,2 1,2 1,1</coordinates></LinearRing></innerBoundaryIs></Polygon></Placemark>
      </Folder></Folder>
      <Placemark><ExtendedData><Data name="n"><value>12</value></Data></ExtendedData><MultiGeometry><Point><coordinates> 1,2,3 </coordinates></Point><LineString><coordinates>1,2 , 3,4</coordinates></LineString></MultiGeometry></Placemark>
      <Placemark><gx:Track><when>2026-01-01T00:00:00Z</when><gx:coord>1 2 3</gx:coord><gx:coord>2 3 4</gx:coord></gx:Track></Placemark>
    </Document></kml>`;
    const file = await read(
      'z.kml',
      text.replace('3,4</coordinates></LineString>', '3,4 5,6</coordinates></LineString>'),
    );
    expect(codes(file)).toEqual(['skipped.link 1', 'skipped.overlay 1', 'mended.ring-order 2']);
    const [zone, many, track] = file.layers[0].features;
    expect(zone).toEqual({
      type: 'Feature',
      id: 'p1',
      geometry: {
        type: 'Polygon',
        coordinates: [
          [
            [0, 0],
            [4, 0],
            [4, 4],
            [0, 4],
            [0, 0],
          ],
          [
            [1, 1],
            [1, 2],
            [2, 2],
            [2, 1],
            [1, 1],
          ],
        ],
      },
      properties: {
        name: 'Sands',
        folder: 'Birds / North',
        depth: 2.5,
        code: '007',
        fill: '#d0743c80',
        stroke: '#d0743c',
        stroke_width: 2,
      },
    });
    expect(many.geometry).toMatchObject({
      type: 'GeometryCollection',
      geometries: [{ type: 'Point', coordinates: [1, 2, 3] }, { type: 'LineString' }],
    });
    expect(many.properties).toEqual({ n: 12, altitudeMode: 'clampToGround' });
    expect(track.geometry).toEqual({
      type: 'LineString',
      coordinates: [
        [1, 2, 3],
        [2, 3, 4],
      ],
    });
    expect(file.layers[0].look).toEqual({
      fill: { color: { is: 'fill' } },
      stroke: { color: { is: 'stroke' }, width: { is: 'stroke_width' } },
    });
  });

  test('TopoJSON: quantized arcs, followed backwards, shared (the example of its specification)', async () => {
    const file = await read(
      't.json',
      JSON.stringify({
        type: 'Topology',
        transform: { scale: [0.0005000500050005, 0.00010001000100010001], translate: [100, 0] },
        objects: {
          example: {
            type: 'GeometryCollection',
            geometries: [
              { type: 'Point', properties: { prop0: 'value0' }, coordinates: [4000, 5000] },
              { type: 'LineString', properties: { prop0: 'value0', prop1: 0 }, arcs: [0] },
              { type: 'Polygon', properties: { prop0: 'value0', prop1: { this: 'that' } }, arcs: [[1]] },
            ],
          },
        },
        arcs: [
          [
            [4000, 0],
            [1999, 9999],
            [2000, -9999],
            [2000, 9999],
          ],
          [
            [0, 0],
            [0, 9999],
            [2000, 0],
            [0, -9999],
            [-2000, 0],
          ],
        ],
      }),
    );
    const [point, path, polygon] = file.layers[0].features.map(
      ({ geometry }) => (geometry as unknown as { coordinates: number[] }).coordinates,
    );
    expect(file.format).toBe('TopoJSON');
    expect(point).toEqual([expect.closeTo(102, 2), expect.closeTo(0.5, 3)]);
    expect((path as unknown as number[][])[3]).toEqual([expect.closeTo(105, 2), expect.closeTo(1, 3)]);
    expect((polygon as unknown as number[][][])[0]).toHaveLength(5);
  });

  test('tables: separators, encodings, decimal commas, angles in any spelling, well-known text', async () => {
    const cp1252 = Uint8Array.from(
      'Station;Breite;Längengrad;Stand\r\nKøge;44°37\'12,5"N;31° 11\' 04" W;1,25\r\nB;N 44 30;W031 15.5;\r\nC;;;0,5;x\r\n',
      (c) => c.charCodeAt(0),
    );
    const file = await read('pegel.csv', cp1252);
    expect(codes(file)).toEqual(['mended.encoding 1', 'mended.long-row 1', 'doubtful.rows 1']);
    const known = await read('pegel.csv', new TextDecoder('windows-1252').decode(cp1252).replace('Breite', 'Latitude'));
    expect(
      known.layers[0].features.map(({ geometry, properties }) => [
        (geometry as unknown as { coordinates?: unknown } | null)?.coordinates,
        properties,
      ]),
    ).toEqual([
      [[expect.closeTo(-31.184444, 6), expect.closeTo(44.620139, 6)], { Station: 'Køge', Stand: 1.25 }],
      [[expect.closeTo(-31.258333, 6), 44.5], { Station: 'B' }],
      [undefined, { Station: 'C', Stand: 0.5 }],
    ]);
    expect(codes(known)).toEqual(['mended.long-row 1', 'doubtful.rows 1']);
    const utf16 = new Uint8Array(
      new Uint16Array([0xfeff, ...[...'x\ty\tn\n1.5\t2.5\té\n'].map((c) => c.charCodeAt(0))]).buffer,
    );
    expect((await read('t.tsv', utf16)).layers[0].features).toEqual([feature('Point', [1.5, 2.5], { n: 'é' })]);
    const wkt = await read('w.csv', 'id,the_geom\n7,"SRID=4326;MULTIPOINT ((1 2), (3 4))"\n8,POINT EMPTY\n');
    expect(wkt.layers[0]).toMatchObject({
      crs: { id: 'EPSG:4326' },
      features: [{ geometry: { type: 'MultiPoint' } }, { geometry: null }],
    });
    const pair = await read('p.csv', 'name|position\nA|44°37\'12"N 31°11\'04"W\nB|44.5, -31.25\n');
    expect(
      pair.layers[0].features.map(({ geometry }) => (geometry as unknown as { coordinates: unknown }).coordinates),
    ).toEqual([
      [expect.closeTo(-31.184444, 6), 44.62],
      [-31.25, 44.5],
    ]);
  });

  test('records of RFC 8142 over several lines, doubled separators; newline-delimited features', async () => {
    const rs = String.fromCharCode(0x1e);
    const one = JSON.stringify(feature('Point', [1, 2]), null, 2);
    expect((await read('a.geojsons', `${rs}${rs}${one}\n${rs}${one}\n`)).layers[0].features).toHaveLength(2);
    expect(
      (
        await read(
          'a.json',
          `${JSON.stringify(feature('Point', [1, 2]))}\n${JSON.stringify(feature('Point', [3, 4]))}\n`,
        )
      ).format,
    ).toBe('GeoJSON lines');
  });

  test('well-known text and binary of the standard, with heights, measures and codes', async () => {
    const text =
      'POINT ZM (1 2 3 4)\nLINESTRING M (0 0 5, 1 1 6)\nPOLYGON ((0 0, 4 0, 4 4, 0 4, 0 0), (1 1, 1 2, 2 2, 2 1, 1 1))\nGEOMETRYCOLLECTION (POINT (1 2), LINESTRING EMPTY)\n';
    const file = await read('x.wkt', text);
    expect(file.layers[0].features.map(({ geometry }) => JSON.stringify(geometry))).toEqual([
      '{"type":"Point","coordinates":[1,2,3]}',
      '{"type":"LineString","coordinates":[[0,0],[1,1]]}',
      '{"type":"Polygon","coordinates":[[[0,0],[4,0],[4,4],[0,4],[0,0]],[[1,1],[1,2],[2,2],[2,1],[1,1]]]}',
      '{"type":"GeometryCollection","geometries":[{"type":"Point","coordinates":[1,2]}]}',
    ]);
    // POINT (1 2), big-endian, as in OGC 06-103r4; and with a code in the flags.
    const standard = '00000000013FF00000000000004000000000000000';
    const coded = '0101000020E6100000000000000000F03F0000000000000040';
    const binary = await read('x.wkb', `${standard}\n${coded}\n`);
    expect(binary.layers[0]).toMatchObject({ crs: { id: 'EPSG:4326' } });
    expect(binary.layers[0].features.map(({ geometry }) => geometry)).toEqual([
      { type: 'Point', coordinates: [1, 2] },
      { type: 'Point', coordinates: [1, 2] },
    ]);
  });
});

/** The main file of a shapefile, its records given as bytes. */
function shapesOf(type: number, ...records: ArrayBuffer[]): Uint8Array {
  const size = records.reduce((sum, { byteLength }) => sum + 8 + byteLength, 100);
  const out = new DataView(new ArrayBuffer(size));
  out.setInt32(0, 9994);
  out.setInt32(24, size / 2);
  out.setInt32(28, 1000, true);
  out.setInt32(32, type, true);
  let at = 100;
  records.forEach((record, k) => {
    out.setInt32(at, k + 1);
    out.setInt32(at + 4, record.byteLength / 2);
    new Uint8Array(out.buffer).set(new Uint8Array(record), at + 8);
    at += 8 + record.byteLength;
  });
  return new Uint8Array(out.buffer);
}

/** A record of whole numbers and doubles, as the technical description lays it out. */
function record(...parts: readonly (readonly ['i' | 'd', ...number[]])[]): ArrayBuffer {
  const out = new DataView(
    new ArrayBuffer(parts.reduce((sum, [kind, ...list]) => sum + list.length * (kind === 'i' ? 4 : 8), 0)),
  );
  let at = 0;
  for (const [kind, ...list] of parts)
    for (const value of list) {
      if (kind === 'i') out.setInt32(at, value, true);
      else out.setFloat64(at, value, true);
      at += kind === 'i' ? 4 : 8;
    }
  return out.buffer;
}
const box = ['d', 0, 0, 9, 9] as const;
const geometriesOf = async (shapes: Uint8Array) =>
  (await read('s.shp', shapes)).layers[0].features.map(({ geometry }) => geometry);

describe('shapes of every type (the technical description of 1998)', () => {
  test('null shapes, points with heights and measures, points together', async () => {
    expect(
      await geometriesOf(
        shapesOf(
          11,
          record(['i', 0]),
          record(['i', 11], ['d', 1, 2, 3, 4]),
          record(['i', 21], ['d', 1, 2, 4]),
          record(['i', 8], box, ['i', 2], ['d', 1, 2, 3, 4]),
          // "No data" stands for a height that is not known.
          record(['i', 18], box, ['i', 2], ['d', 1, 2, 3, 4], ['d', 5, 6, 5, -1e39]),
        ),
      ),
    ).toEqual([
      null,
      { type: 'Point', coordinates: [1, 2, 3] },
      { type: 'Point', coordinates: [1, 2] },
      {
        type: 'MultiPoint',
        coordinates: [
          [1, 2],
          [3, 4],
        ],
      },
      {
        type: 'MultiPoint',
        coordinates: [
          [1, 2, 5],
          [3, 4],
        ],
      },
    ]);
  });

  test('lines in parts, with heights and measures', async () => {
    const places = ['d', 0, 0, 1, 1, 5, 5, 6, 6] as const;
    expect(
      await geometriesOf(
        shapesOf(
          13,
          record(['i', 3], box, ['i', 2, 4, 0, 2], places),
          record(['i', 13], box, ['i', 2, 4, 0, 2], places, ['d', 7, 9, 7, 8, 8, 9], ['d', 0, 1, 0, 0, 1, 1]),
          record(['i', 23], box, ['i', 1, 4, 0], places, ['d', 0, 1, 0, 0, 1, 1]),
        ),
      ),
    ).toEqual([
      {
        type: 'MultiLineString',
        coordinates: [
          [
            [0, 0],
            [1, 1],
          ],
          [
            [5, 5],
            [6, 6],
          ],
        ],
      },
      {
        type: 'MultiLineString',
        coordinates: [
          [
            [0, 0, 7],
            [1, 1, 8],
          ],
          [
            [5, 5, 8],
            [6, 6, 9],
          ],
        ],
      },
      {
        type: 'LineString',
        coordinates: [
          [0, 0],
          [1, 1],
          [5, 5],
          [6, 6],
        ],
      },
    ]);
  });

  test('areas: outer rings run clockwise, holes find the smallest ring round them, whatever the order; patches', async () => {
    const clockwise = (x: number, y: number, r: number) => [...ring(x, y, r)].reverse().flat();
    const hole = (x: number, y: number, r: number) => ring(x, y, r).flat();
    const rings = [hole(0, 0, 1), clockwise(0, 0, 8), hole(0, 0, 6), clockwise(0, 0, 3), clockwise(20, 0, 2)];
    const [area] = (await geometriesOf(
      shapesOf(5, record(['i', 5], box, ['i', 5, 25, 0, 5, 10, 15, 20], ['d', ...rings.flat()])),
    )) as unknown as { coordinates: number[][][][] }[];
    const widths = area.coordinates.map((polygon) =>
      polygon.map((r) => Math.max(...r.map(([x]) => x)) - Math.min(...r.map(([x]) => x))),
    );
    expect(widths).toEqual([[16, 12], [6, 2], [4]]);
    // A fan of three triangles round a place, and a strip of two.
    const fan = ['d', 0, 0, 1, 0, 1, 1, 0, 1, -1, 1] as const;
    const strip = ['d', 5, 0, 5, 1, 6, 0, 6, 1] as const;
    const heights = Array.from({ length: 11 }, (_, k) => k);
    const [patch] = (await geometriesOf(
      shapesOf(31, record(['i', 31], box, ['i', 2, 9, 0, 5], ['i', 1, 0], fan, strip, ['d', ...heights])),
    )) as unknown as { type: string; coordinates: unknown[] }[];
    expect([patch.type, patch.coordinates.length]).toEqual(['MultiPolygon', 5]);
  });
});

describe('tiles as features', () => {
  const square = readGeoJson(feature('Polygon', [ring(-31.2, 44.6, 0.05)], { name: 'Bed' }), { name: 'beds' });
  const tiles = [...pyramid([square], [0, 9])];
  const at = ([west, south, east, north]: number[]) => [west, south, east, north].map((v) => Math.round(v * 100) / 100);
  const extent = (file: FeatureFile) =>
    at(
      file.layers[0].features
        .flatMap(({ geometry }) => (geometry as unknown as { coordinates: number[][][] }).coordinates.flat())
        .reduce(
          (sum, [x, y]) => [Math.min(sum[0], x), Math.min(sum[1], y), Math.max(sum[2], x), Math.max(sum[3], y)],
          [180, 90, -180, -90],
        ),
    );
  const whole = [-31.25, 44.55, -31.15, 44.65];

  test('a single tile, by the address in its name', async () => {
    const { tile, blocks } = tiles[tiles.length - 1];
    const file = await read(`${tile.z}-${tile.x}-${tile.y}.mvt`, writeTile(blocks));
    expect([file.format, file.layers[0].name, file.layers[0].features[0].properties]).toEqual([
      'vector tile',
      'beds',
      { name: 'Bed' },
    ]);
  });

  test('an archive, and a database of tiles whose rows count from the south', async () => {
    const writer = new ArchiveWriter();
    const { default: start } = (await import('sql.js/dist/sql-wasm-inline.js' as string)) as unknown as {
      default: StartEngine;
    };
    const { Database } = await start();
    const database = new Database();
    database.run('CREATE TABLE metadata (name TEXT, value TEXT)');
    database.run('CREATE TABLE tiles (zoom_level INTEGER, tile_column INTEGER, tile_row INTEGER, tile_data BLOB)');
    database.run("INSERT INTO metadata VALUES ('format', 'pbf'), ('name', 'Beds')");
    for (const { tile, blocks } of tiles) {
      const packed = gzip(writeTile(blocks));
      writer.add(tile, packed);
      database.run('INSERT INTO tiles VALUES (?, ?, ?, ?)', [tile.z, tile.x, 2 ** tile.z - 1 - tile.y, packed]);
    }
    const { pieces } = writer.finish({ metadata: {}, bounds: [-32, 44, -31, 45] });
    const archive = await read('beds.pmtiles', new Uint8Array(Buffer.concat([...pieces])));
    const stored = await read('beds.mbtiles', database.export());
    database.close();
    expect([archive.format, stored.format]).toEqual(['PMTiles 3', 'MBTiles']);
    expect([extent(archive), extent(stored)]).toEqual([whole, whole]);
    const many = tiles.filter(({ tile }) => tile.z === 9).length;
    expect(stored.layers[0].features).toHaveLength(many);
    if (many > 1) expect(codes(stored)).toEqual(['doubtful.pieces 1']);
  });
});

describe('more of anything than a call takes arguments', () => {
  const most = 140_000;
  const along = Array.from({ length: most }, (_, i) => [i / 1e4, Math.sin(i) / 10, i % 9]);

  test.each(['zip', 'geojson', 'kml', 'wkt', 'gpx', 'topojson'])('.%s', async (ending) => {
    const one: FileFeature[] = [
      { type: 'Feature', geometry: { type: 'LineString', coordinates: along }, properties: { name: 'one' } },
    ];
    const { bytes } = await writeFeatureFile([layerOf(one)], `one.${ending}`);
    const back = await readFeatureFile({ name: `one.${ending}`, bytes });
    const { geometry } = back.layers[0].features[0];
    expect(geometry && 'coordinates' in geometry && geometry.coordinates.flat(2).length).toBeGreaterThan(most);
  });

  test.each(['zip', 'csv', 'gpkg'])('rows of .%s', async (ending) => {
    const rows = along.map(([x, y], i): FileFeature => ({
      type: 'Feature',
      geometry: { type: 'Point', coordinates: [x, y] },
      properties: { name: `Mark ${i}`, depth: i / 10 },
    }));
    const { bytes } = await writeFeatureFile([layerOf(rows)], `rows.${ending}`);
    const back = await readFeatureFile({ name: `rows.${ending}`, bytes });
    expect(back.layers[0].features).toHaveLength(most);
    expect(back.layers[0].features[most - 1].properties).toMatchObject({ name: `Mark ${most - 1}`, depth: 13999.9 });
  });
});

describe('simplifying', () => {
  test('shared borders stay shared, rings keep three corners, and nothing moves by more than was asked', async () => {
    const wiggle = Array.from({ length: 41 }, (_, i) => [i === 0 || i === 40 ? 0 : 0.0002 * Math.sin(i * 2), i / 400]);
    const left = [...wiggle, [-0.1, 0.1], [-0.1, 0], [...wiggle[0]]];
    const right = [...[...wiggle].reverse(), [0.1, 0], [0.1, 0.1], [...wiggle[40]]];
    const small = ring(1, 1, 0.0001);
    const out = simplified(
      layerOf([feature('Polygon', [left]), feature('Polygon', [right]), feature('Polygon', [small])]),
      60,
    );
    const [a, b, c] = out.features.map(
      ({ geometry }) => (geometry as unknown as { coordinates: number[][][] }).coordinates[0],
    );
    expect([a.length, b.length]).toEqual([5, 5]);
    expect(c.length).toBeGreaterThanOrEqual(4);
    const border = (r: number[][]) => r.map(String).filter((p) => wiggle.some((w) => String(w) === p));
    expect(new Set(border(a))).toEqual(new Set(border(b)));
    const fine = simplified(layerOf([feature('Polygon', [left])]), 1);
    expect(
      (fine.features[0].geometry as unknown as { coordinates: number[][][] }).coordinates[0].length,
    ).toBeGreaterThan(30);
  });
});
