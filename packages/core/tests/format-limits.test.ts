// What formats cannot hold is reported once per column; what is empty comes back empty; databases and tables with false or endless parts end.
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createRequire } from 'node:module';
import { describe, expect, test } from '@jest/globals';
import { getCrs } from '@flintwright/core';
import {
  readFeatureFile,
  writableFormats,
  writeFeatureFile,
  type FileFeature,
  type FileLayer,
} from '@flintwright/core/files';
import fc from 'fast-check';

interface Engine {
  readonly Database: new (bytes: Uint8Array) => { run(sql: string): void; export(): Uint8Array; close(): void };
}
const initSqlite = createRequire(import.meta.url)('sql.js') as () => Promise<Engine>;
const crs = getCrs('OGC:CRS84');
const layer = (features: readonly FileFeature[]): FileLayer => ({ name: 'x', features, crs, crsSource: '' });
const point = (properties: Record<string, unknown>, lon = 1): FileFeature => ({
  type: 'Feature',
  properties,
  geometry: { type: 'Point', coordinates: [lon, 2] },
});
const through = async (features: readonly FileFeature[], ending: string) => {
  const { bytes, warnings } = await writeFeatureFile([layer(features)], `x.${ending}`);
  const { layers } = await readFeatureFile({ name: `x.${ending}`, bytes });
  return { bytes, layers, warned: Object.fromEntries(warnings.map(({ code, places }) => [code, [...places]])) };
};
const endings = writableFormats()
  .map(({ endings: [ending] }) => (ending === 'shp' ? 'zip' : ending))
  .filter((ending) => ending !== 'gazetteer');

describe('what a format cannot hold', () => {
  const odd = [
    point({
      name: true,
      text: 'one\n  two\nthree',
      id: '12',
      blank: ' x ',
      empty: '',
      list: [1],
      mixed: 1,
      flag: false,
    }),
    point({ name: 'n', id: '13', mixed: 'z' }, 3),
  ];
  test.each([
    ['csv', ['boolean', 'number', 'blanks', 'empty', 'list', 'mixed']],
    ['tsv', ['boolean', 'number', 'blanks', 'empty', 'list', 'mixed']],
    ['kml', ['boolean', 'number', 'blanks', 'empty', 'list']],
    ['gpkg', ['mixed', 'list']],
    ['zip', ['mixed', 'blanks', 'empty', 'list']],
  ])('.%s: each change is reported once, with its column', async (ending, codes) => {
    const { warned } = await through(odd, ending);
    expect(
      Object.keys(warned)
        .filter((code) => code.startsWith('changed.'))
        .sort(),
    ).toEqual(codes.map((code) => `changed.${code}`).sort());
    expect(warned['changed.list']).toEqual(['list']);
    if (codes.includes('boolean')) expect(warned['changed.boolean']).toEqual(['name', 'flag']);
    const plain = await through([point({ name: 'a', n: 1.5 })], ending);
    expect(Object.keys(plain.warned).filter((code) => code.startsWith('changed.'))).toEqual([]);
  });

  test('KML keeps line breaks, blanks within lines and names of any type, however often it is converted', async () => {
    let features = [point({ name: true, description: 'one\n  two\r\nthree', note: 'a\n    b' })];
    for (let k = 0; k < 4; k++) features = [...(await through(features, 'kml')).layers[0].features];
    expect(features[0].properties).toEqual({ name: 'true', description: 'one\n  two\r\nthree', note: 'a\n    b' });
  });

  test.each(endings)('an empty collection as .%s comes back empty', async (ending) => {
    const { layers } = await through([], ending);
    expect(layers.map(({ features }) => features)).toEqual([[]]);
  });

  test('50 random collections through every pair of formats: nothing is lost but what is reported', async () => {
    const text = fc.string({
      unit: fc.constantFrom('a', 'é', '日', ' ', ',', '"', '\n', '<', '&', ';', '7'),
      minLength: 1,
      maxLength: 6,
    });
    const properties = fc.record(
      {
        name: text,
        count: fc.integer({ min: -1000, max: 1000 }),
        size: fc.double({ min: -1, max: 1, noNaN: true }).map((v) => Math.round(v * 1e4) / 1e4 + 0),
      },
      { requiredKeys: ['count'] },
    );
    const features = fc.array(fc.tuple(properties, fc.integer({ min: -170, max: 170 })), {
      minLength: 1,
      maxLength: 4,
    });
    const lossless = endings.filter((ending) => !['wkt', 'wkb', 'gpx', 'zip'].includes(ending));
    const seen = new Set<string>();
    const plainly = (list: readonly FileFeature[]) =>
      list.map(({ geometry, properties: own }) => [
        geometry?.type === 'Point' ? geometry.coordinates : undefined,
        own['count'],
        own['size'],
        String(own['name'] ?? '').trim(),
      ]);
    for (const drawn of fc.sample(features, { numRuns: 50, seed: 28 })) {
      const from = drawn.map(([own, lon]) => point(own, lon));
      for (const first of lossless) {
        const there = await through(from, first);
        Object.keys(there.warned).forEach((code) => seen.add(`${first} ${code}`));
        for (const second of lossless) {
          const back = await through(there.layers[0].features, second);
          expect([first, second, plainly(back.layers[0].features)]).toEqual([first, second, plainly(from)]);
        }
      }
    }
    expect(
      [...seen].map((one) => one.replace(/^\S+ /, '')).every((code) => /^(changed|skipped|mended)\./.test(code)),
    ).toBe(true);
  }, 120_000);
});

describe('databases and tables with false or endless parts', () => {
  const database = async (change: (run: (sql: string) => void) => void): Promise<Uint8Array> => {
    const { bytes } = await writeFeatureFile([layer([point({ n: 1 }), point({ n: 2 })])], 'x.gpkg');
    const { Database } = await initSqlite();
    const own = new Database(bytes);
    change((sql) => own.run(sql));
    const out = own.export();
    own.close();
    return out;
  };
  const read = (bytes: Uint8Array) => readFeatureFile({ name: 'x.gpkg', bytes });

  test.each([
    [
      'an endless view',
      'WITH RECURSIVE r(n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM r) SELECT n AS fid, NULL AS geom FROM r',
    ],
    [
      'an endless count',
      'SELECT count(*) AS fid, NULL AS geom FROM (WITH RECURSIVE r(n) AS (SELECT 1 UNION ALL SELECT n FROM r) SELECT * FROM r)',
    ],
    ['an enormous text', "SELECT printf('%.*c', 900000000, 'x') AS fid, geom FROM x"],
  ])('%s is left out and reported', async (_, select) => {
    const bytes = await database((run) => {
      run(`CREATE VIEW v AS ${select}`);
      run(`INSERT INTO gpkg_contents (table_name, data_type, identifier, srs_id) VALUES ('v', 'features', 'v', 4326)`);
      run(`INSERT INTO gpkg_geometry_columns VALUES ('v', 'geom', 'POINT', 4326, 0, 0)`);
    });
    const { layers, warnings } = await read(bytes);
    expect(layers.map(({ name, features }) => [name, features.length])).toEqual([['x', 2]]);
    expect(warnings.map(({ code, places }) => [code, places])).toEqual([['skipped.view', ['v']]]);
  });

  test('a view that chooses columns and rows is read; a column that is worked out is not', async () => {
    const bytes = await database((run) => {
      run('CREATE VIEW v AS SELECT fid, geom, n AS "number" FROM x WHERE n > 1');
      run(`INSERT INTO gpkg_contents (table_name, data_type, identifier, srs_id) VALUES ('v', 'features', 'v', 4326)`);
      run(`INSERT INTO gpkg_geometry_columns VALUES ('v', 'geom', 'POINT', 4326, 0, 0)`);
      run(`ALTER TABLE x ADD COLUMN huge TEXT GENERATED ALWAYS AS (printf('%.*c', 900000000, 'x')) VIRTUAL`);
    });
    const { layers } = await read(bytes);
    expect(layers.map(({ name, features }) => [name, features.map(({ properties }) => properties)])).toEqual([
      ['x', [{ n: 1 }, { n: 2 }]],
      ['v', [{ fid: 2, number: 2 }]],
    ]);
  });

  test('a table of a shapefile whose header is false, and a line without parts', async () => {
    const { bytes } = await writeFeatureFile([layer([point({ n: 1 }), point({ n: 2 })])], 'x.zip');
    const { unzipSync } = await import('fflate');
    const files = unzipSync(bytes);
    const siblings = { dbf: files['x.dbf'], shx: files['x.shx'], cpg: files['x.cpg'], prj: files['x.prj'] };
    const wide = files['x.dbf'].slice();
    // Bytes for rows of which the header says nothing.
    const longer = new Uint8Array(wide.length + 200);
    longer.set(wide);
    const found = await readFeatureFile({
      name: 'x.shp',
      bytes: files['x.shp'],
      siblings: { ...siblings, dbf: longer },
    });
    expect(found.warnings.map(({ code }) => code)).toContain('doubtful.dbf');
    const shp = new Uint8Array(100 + 8 + 44);
    const head = new DataView(shp.buffer);
    head.setInt32(0, 9994);
    head.setInt32(24, shp.length / 2);
    head.setInt32(32, 3, true);
    head.setInt32(100, 1);
    head.setInt32(104, 22);
    head.setInt32(108, 3, true);
    await expect(readFeatureFile({ name: 'p.shp', bytes: shp })).rejects.toThrow(/no parts/);
  });

  test('blanks without end within coordinates are read once', async () => {
    const far = ' '.repeat(4_000_000);
    const kml = `<kml><Placemark><LineString><coordinates>1,2${far}3 , 4${far}5,${far}6</coordinates></LineString></Placemark></kml>`;
    const { layers } = await readFeatureFile({ name: 'a.kml', bytes: new TextEncoder().encode(kml) });
    expect(layers[0].features[0].geometry).toEqual({
      type: 'LineString',
      coordinates: [
        [1, 2],
        [3, 4],
        [5, 6],
      ],
    });
  }, 5_000);
});

test('databases are read in place: the beginning of the file and its path are enough', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'in-place-'));
  try {
    const features = Array.from({ length: 30_000 }, (_, i) => ({
      type: 'Feature' as const,
      geometry: { type: 'Point' as const, coordinates: [-31 - i / 1e5, 44.6] as [number, number] },
      properties: { name: `Mark ${i} of the outer channel` },
    }));
    const layer = { name: 'marks', features, crs: getCrs('OGC:CRS84'), crsSource: 'the test' };
    const { bytes } = await writeFeatureFile([layer], 'marks.gpkg');
    expect(bytes.length).toBeGreaterThan(2 ** 21);
    expect(bytes.constructor.name).toBe('Uint8Array');
    const path = join(folder, 'marks.gpkg');
    writeFileSync(path, bytes);
    const { layers } = await readFeatureFile({ name: 'marks.gpkg', bytes: bytes.subarray(0, 2 ** 20), path });
    expect(layers[0].features).toHaveLength(features.length);
    expect(layers[0].features.at(-1)).toMatchObject({ properties: { name: 'Mark 29999 of the outer channel' } });
    // Reading leaves nothing beside the file and does not change it.
    expect(readdirSync(folder)).toEqual(['marks.gpkg']);
    expect(readFileSync(path).equals(bytes)).toBe(true);
  } finally {
    rmSync(folder, { recursive: true });
  }
});
