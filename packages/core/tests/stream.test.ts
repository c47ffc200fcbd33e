// Files read and written in parts: the same features, warnings and places as when they are read whole.
import { describe, expect, test } from '@jest/globals';
import { unzipSync } from 'fflate';
import { Fault, getCrs, gzip } from '@flintwright/core';
import {
  PartWriter,
  readFeatureFile,
  streamedFormats,
  streamFeatureFile,
  type StreamOptions,
  writeFeatureFile,
  type FeatureFile,
  type FileFeature,
  type FileLayer,
} from '@flintwright/core/files';
import { randomFrom } from './sample-random.ts';

const encode = (text: string) => new TextEncoder().encode(text);
const random = randomFrom(404);

/** A file in pieces of any size. */
async function* pieces(bytes: Uint8Array, most: number): AsyncGenerator<Uint8Array> {
  for (let at = 0; at < bytes.length;) {
    const size = 1 + Math.floor(random() * most);
    yield bytes.subarray(at, at + size);
    at += size;
    await Promise.resolve();
  }
}

async function inParts(
  name: string,
  bytes: Uint8Array,
  options: StreamOptions = {},
  most = 9000,
): Promise<FeatureFile[]> {
  const out: FeatureFile[] = [];
  for await (const part of streamFeatureFile(name, pieces(bytes, most), { partBytes: 20_000, ...options }))
    out.push(part);
  return out;
}

const count = 3000;
const features = Array.from({ length: count }, (_, i): FileFeature => ({
  type: 'Feature',
  geometry: { type: 'Point', coordinates: [-31 + i / 1000, 44 + random()] },
  properties: { name: `"${i}, [{\n}] \\" ü`, n: i, kind: i % 3 ? 'buoy' : 'light' },
}));
const layer: FileLayer = { name: 'marks', features, crs: getCrs('OGC:CRS84'), crsSource: '' };
const written = async (ending: string) => (await writeFeatureFile([layer], `marks.${ending}`)).bytes;

describe('read in parts', () => {
  test('these formats are', () =>
    expect(streamedFormats).toEqual([
      'Shapefile',
      'GeoJSON',
      'GeoJSON lines',
      'GeoJSON text sequence',
      'well-known text',
      'CSV',
    ]));

  test.each(['geojson', 'geojsonl', 'geojsons', 'csv', 'wkt'])(
    '.%s is the same, whatever the pieces',
    async (ending) => {
      const bytes = await written(ending);
      const whole = (await readFeatureFile({ name: `marks.${ending}`, bytes })).layers[0];
      for (const packed of [bytes, gzip(bytes)]) {
        const parts = await inParts(`marks.${ending}${packed === bytes ? '' : '.gz'}`, packed);
        expect(parts.length).toBeGreaterThan(1);
        expect(parts.flatMap(({ layers }) => layers[0].features)).toEqual(whole.features);
        expect(new Set(parts.map(({ layers }) => layers[0].crs?.id))).toEqual(new Set([whole.crs?.id]));
      }
    },
  );

  test('other formats, small files and UTF-16 come as one part', async () => {
    expect(await inParts('marks.gpx', await written('gpx'))).toHaveLength(1);
    expect(await inParts('a.csv', encode('lon,lat\n1,2\n'))).toHaveLength(1);
    const wide = new Uint8Array(
      new Uint16Array([...`\uFEFFlon;lat\n${'1;2\n'.repeat(40_000)}`].map((c) => c.charCodeAt(0))).buffer,
    );
    expect((await inParts('wide.csv', wide))[0].layers[0].features).toHaveLength(40_000);
  });

  describe('a loose shapefile', () => {
    const parts = async (siblings: Record<string, Uint8Array>, shp: Uint8Array) => {
      const streams = Object.fromEntries(Object.entries(siblings).map(([ending, own]) => [ending, pieces(own, 700)]));
      const out: FeatureFile[] = [];
      const options = { partBytes: 20_000, siblings: streams };
      for await (const part of streamFeatureFile('marks.shp', pieces(shp, 9000), options)) out.push(part);
      return out;
    };
    const loose = async () => {
      const files = unzipSync(await written('zip'));
      const { shp, ...siblings } = Object.fromEntries(
        Object.entries(files).map(([path, own]) => [path.slice(-3), Uint8Array.from(own)]),
      );
      return { shp, siblings };
    };

    test('is the same as read whole, with its table, whatever the pieces', async () => {
      const { shp, siblings } = await loose();
      const whole = await readFeatureFile({ name: 'marks.shp', bytes: shp, siblings });
      const read = await parts(siblings, shp);
      expect(read.length).toBeGreaterThan(1);
      expect(read.flatMap(({ layers }) => layers[0].features)).toEqual(whole.layers[0].features);
      expect(whole.layers[0].features).toHaveLength(count);
      expect(read[0].layers[0].crs?.id).toBe(whole.layers[0].crs?.id);
      // What is missing for all is told once.
      const bare = await parts({}, shp);
      const codes = bare.map(({ warnings }) => warnings.map(({ code }) => code));
      expect(codes[0]).toEqual(expect.arrayContaining(['mended.no-shx', 'mended.no-dbf', 'mended.no-prj']));
      expect(codes.slice(1).flat()).toEqual([]);
    });

    test('faults stand at their byte of the whole file; rows too many and too few are told', async () => {
      const { shp, siblings } = await loose();
      await expect(parts(siblings, shp.subarray(0, -40))).rejects.toMatchObject({
        code: 'shapefile.cut',
        at: `marks.shp, byte ${shp.length - 40} of ${shp.length}`,
      });
      const broken = shp.slice();
      new DataView(broken.buffer).setInt32(100 + 28 * 2000 + 4, 1 << 29);
      await expect(parts(siblings, broken)).rejects.toMatchObject({
        code: 'shapefile.record',
        at: `marks.shp, byte ${100 + 28 * 2000}`,
      });
      for (const [rows, code] of [
        [count + 1, 'shapefile.rows'],
        [count - 1, 'shapefile.rows'],
      ] as const) {
        const table = siblings['dbf'].slice();
        new DataView(table.buffer).setUint32(4, rows, true);
        await expect(parts({ ...siblings, dbf: table }, shp)).rejects.toMatchObject({ code });
      }
      await expect(parts({ ...siblings, dbf: siblings['dbf'].slice(0, -500) }, shp)).rejects.toMatchObject({
        code: 'dbf.cut',
      });
    });
  });

  test('a collection laid out over many lines, with members before and behind its features', async () => {
    const text = JSON.stringify({ type: 'FeatureCollection', title: '"features":[', features, more: [1] }, null, 2);
    const parts = await inParts('a.geojson', encode(text));
    expect(parts.flatMap(({ layers }) => layers[0].features)).toHaveLength(count);
    expect(parts.length).toBeGreaterThan(1);
  });

  test('places of warnings and faults count from the beginning of the file', async () => {
    const lines = features.map((feature) => JSON.stringify(feature));
    const ring = [
      [0, 0],
      [0, 1],
      [1, 1],
      [1, 0],
    ];
    const open = { type: 'Feature', geometry: { type: 'Polygon', coordinates: [ring] }, properties: {} };
    lines[2500] = JSON.stringify(open);
    const told = (await inParts('a.geojsonl', encode(lines.join('\n')))).flatMap(({ warnings }) => warnings);
    expect(told.map(({ code, places }) => [code, places[0]])).toContainEqual([
      'mended.open-ring',
      expect.stringMatching(/^line 2501/),
    ]);
    lines[2700] = '{"type":';
    await expect(inParts('a.geojsonl', encode(lines.join('\n')), { strict: true })).rejects.toMatchObject({
      code: 'json.syntax',
      at: expect.stringContaining('line 2701'),
    });
    // Otherwise one broken record is passed over and reported.
    const lenient = await inParts('a.geojsonl', encode(lines.join('\n')));
    expect(lenient.flatMap(({ layers }) => layers.flatMap((one) => one.features))).toHaveLength(features.length - 1);
    expect(lenient.flatMap(({ warnings }) => warnings.filter(({ code }) => code === 'skipped.record'))).toMatchObject([
      { count: 1, places: [expect.stringMatching(/^line 2701: the text is not JSON/)] },
    ]);
    const rows = ['lon,lat,name', ...features.map((_, i) => `${i / 100},44,"a\nb"`)];
    rows[2000] = 'here,44,x';
    // Every row but the last ones runs over two lines.
    await expect(inParts('a.csv', encode(rows.join('\n')), { strict: true })).rejects.toMatchObject({
      code: 'table.angle',
      at: expect.stringContaining('line 4000'),
    });
  });

  test.each<[string, string, string]>([
    [
      'later.geojsonl',
      `${'{"type":"Point","coordinates":[1,2]}\n'.repeat(4000)}{"type":"Point","coordinates":[641000,4942000]}\n`,
      'file.unsteady',
    ],
    [
      'behind.geojson',
      `{"type":"FeatureCollection","features":[${'{"type":"Point","coordinates":[1,2]},'.repeat(4000)}{"type":"Point","coordinates":[1,2]}],"crs":{"properties":{"name":"EPSG:32625"}}}`,
      'file.unsteady',
    ],
    [
      'cut.geojson',
      `{"type":"FeatureCollection","features":[${'{"type":"Point","coordinates":[1,2]},'.repeat(4000)}`,
      'json.syntax',
    ],
  ])('%s: what contradicts the beginning, or breaks off, is refused', async (name, text, code) => {
    await expect(inParts(name, encode(text))).rejects.toMatchObject({ code });
  });

  test('gzip that ends too early is told', async () => {
    const packed = gzip(await written('geojsonl'));
    await expect(inParts('a.geojsonl.gz', packed.slice(0, packed.length - 400))).rejects.toMatchObject({
      code: 'gzip.corrupt',
    });
  });
});

describe('written in parts', () => {
  test.each(['geojson', 'geojsonl', 'geojsons', 'csv', 'wkt'])('.%s has the same features', async (ending) => {
    const writer = new PartWriter(`marks.${ending}`);
    const pieces: Uint8Array[] = [];
    for (const part of [features.slice(0, 0), features.slice(0, 10), features.slice(10, 10), features.slice(10, 40)])
      if (ending !== 'csv' || part.length) pieces.push(await writer.add({ ...layer, features: part }));
    pieces.push(writer.end());
    const bytes = new Uint8Array(await new Blob(pieces as Uint8Array<ArrayBuffer>[]).arrayBuffer());
    const whole = (await writeFeatureFile([{ ...layer, features: features.slice(0, 40) }], `marks.${ending}`)).bytes;
    const read = async (of: Uint8Array) =>
      (await readFeatureFile({ name: `marks.${ending}`, bytes: of })).layers[0].features;
    expect(await read(bytes)).toEqual(await read(whole));
  });

  test('a table whose columns change, and formats that are written whole, are refused', async () => {
    const writer = new PartWriter('a.csv');
    await writer.add(layer);
    const other = { ...layer, features: [{ ...features[0], properties: { depth: 3 } }] };
    await expect(writer.add(other)).rejects.toMatchObject({ code: 'file.unsteady' });
    expect(() => new PartWriter('a.gpkg')).toThrow(Fault);
  });
});
