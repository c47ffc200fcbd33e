// What the command line says of sheets, filters and styles, as a user would meet it.
import { execFile } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, describe, expect, test } from '@jest/globals';

const bin = fileURLToPath(new URL('../bin/flintwright.js', import.meta.url));
const demo = fileURLToPath(new URL('../../../demo/data', import.meta.url));
const folder = mkdtempSync(join(tmpdir(), 'flintwright-'));
afterAll(() => rmSync(folder, { recursive: true }));

const run = (...args: string[]): Promise<{ readonly status: number; readonly out: string; readonly err: string }> =>
  new Promise((resolve) =>
    execFile(
      process.execPath,
      [bin, ...args],
      { maxBuffer: 1 << 26, env: { ...process.env, NO_COLOR: '1' } },
      (error, out, err) => resolve({ status: error ? Number(error.code) : 0, out, err }),
    ),
  );
const file = (name: string, content: unknown) => {
  const path = join(folder, name);
  writeFileSync(path, typeof content === 'string' ? content : JSON.stringify(content));
  return path;
};

describe('flintwright check on faulty sheets says what to do', () => {
  const beds = join(demo, 'beds.geojson');
  const table = join(demo, 'yield.csv');
  const reach = join(demo, 'reach.pmtiles');
  // Paths within a sheet are relative to it; these tests keep copies beside theirs.
  writeFileSync(join(folder, 'beds.geojson'), readFileSync(beds));
  writeFileSync(join(folder, 'yield.csv'), readFileSync(table));
  writeFileSync(join(folder, 'reach.pmtiles'), readFileSync(reach));
  const sheet = (layer: object, more: object = {}) => ({
    sheet: 1,
    data: { beds: { features: 'beds.geojson', join: { table: 'yield.csv', match: ['code', 'bed'] } } },
    layers: [{ id: 'beds', of: 'beds', ...layer }],
    ...more,
  });
  const tiles = { data: { reach: { tiles: 'reach.pmtiles' } } };
  const cases: [string, number, object | string, string[]][] = [
    [
      'opacity out of 255',
      1,
      sheet({ fill: { color: '#fff', opacity: 200 } }),
      ['200 is not a number from 0 (clear) to 1 (solid)', 'write 0.78 for 200 of 255'],
    ],
    ['a misspelt key', 1, sheet({ fil: '#fff' }), ['there is no key "fil" here', 'Did you mean "fill"?']],
    [
      'longitude and latitude swapped',
      1,
      sheet({ fill: '#fff' }, { view: { center: [44.62, -131.18] } }),
      ['latitude beyond ±90°', 'longitude, latitude'],
    ],
    [
      'a layer that no tile holds',
      1,
      sheet({ id: 'roads', of: 'reach/raods', stroke: '#000' }, tiles),
      ['no layer "raods"', 'Did you mean "reach/roads"?'],
    ],
    [
      'classes from tiles',
      1,
      sheet(
        { of: 'reach/depth', fill: { color: { by: 'above', classes: { method: 'natural', scheme: 'Blues' } } } },
        tiles,
      ),
      ['cannot be found in tiles', 'Give the limits as "breaks"'],
    ],
    [
      'a filter that gives no truth',
      1,
      sheet({ where: "'native'", fill: '#fff' }),
      ['gives a text, and nothing would ever pass it', 'Compare it with something'],
    ],
    [
      'a join without a partner',
      1,
      sheet(
        { fill: '#fff' },
        { data: { beds: { features: 'beds.geojson', join: { table: 'yield.csv', match: ['code', 'tenant'] } } } },
      ),
      ['no row of the table meets a feature', 'Tenant', 'OB-01'],
    ],
    [
      'a filter on an attribute that is not there',
      0,
      sheet({ where: "kynd = 'native'", fill: '#fff' }),
      ['no feature has it', 'Did you mean "kind"?', 'draws none of the 42 features', 'inspect beds.geojson --where'],
    ],
    [
      'a gap, and a rule out of reach',
      0,
      sheet({
        fill: '#fff',
        rules: [
          { where: 'tonnes < 20' },
          { where: 'tonnes > 20 AND tonnes < 60' },
          { where: 'tonnes BETWEEN 30 AND 40' },
        ],
      }),
      ['no rule of layer "beds" takes tonnes exactly 20', '"otherwise": true', 'nothing can reach rule 3'],
    ],
    [
      'alpha beyond 1, a pale label, an unknown icon',
      0,
      sheet({ fill: 'rgba(10, 20, 30, 99)', label: { text: 'name', color: '#101e2e', icon: { name: 'bouy' } } }),
      ['beyond 1', 'contrast of 1.', 'Did you mean "buoy"?'],
    ],
  ];

  test.each(cases)('%s', async (name, status, content, said) => {
    const path = file(`${name.replace(/\W+/g, '-')}.sheet.json`, content);
    const ran = await run('check', path);
    expect({ status: ran.status, missing: said.filter((text) => !ran.out.includes(text)) }).toEqual({
      status,
      missing: [],
    });
    const { faults, warnings } = JSON.parse((await run('check', path, '--json')).out) as {
      faults: { at: string }[];
      warnings: { at: string }[];
    };
    expect(faults.length > 0).toBe(status === 1);
    expect([...faults, ...warnings].every(({ at }) => at.startsWith('$'))).toBe(true);
  });

  test('a sound sheet with a join tells how the join went', async () => {
    const { status, out } = await run('check', file('sound.sheet.json', sheet({ fill: '#3d7f99' })));
    expect(status).toBe(0);
    expect(out).toContain('39 features joined to the table');
    expect(out).toContain('3 keys of features without a row: OB-14, OB-28, OB-42');
    expect(out).toContain('nothing wrong');
  });
});

describe('flintwright inspect --where', () => {
  test.each<[string, string[], string]>([
    ['features', [join(demo, 'beds.geojson'), '--where', "kind = 'native' AND area() > 15000"], 'of 42 features match'],
    ['a table', [join(demo, 'yield.csv'), '--where', 'tonnes > 60'], 'of 40 features match'],
    ['one tile', [join(demo, 'reach.pmtiles'), '--tile', '12/1693/1476', '--where', "kind = 'wood'"], 'features match'],
    ['the fullest tile of an archive', [join(demo, 'reach.pmtiles'), '--where', "class = 'trunk'"], 'tried on tile'],
    ['a misspelt attribute', [join(demo, 'beds.geojson'), '--where', "knd = 'native'"], 'did you mean "kind"?'],
  ])('%s', async (_, args, said) => {
    const { status, out } = await run('inspect', ...args);
    expect(status).toBe(0);
    expect(out).toContain(said);
  });

  test('as JSON, with the numbers of the features; a faulty filter is refused with its place', async () => {
    const { where } = JSON.parse(
      (await run('inspect', join(demo, 'beds.geojson'), '--where', "code IN ('OB-02', 'OB-40')", '--json')).out,
    ) as {
      where: { matches: number; indices: number[] }[];
    };
    expect(where).toEqual([expect.objectContaining({ features: 42, matches: 2, indices: [1, 39] })]);
    const bad = await run('inspect', join(demo, 'beds.geojson'), '--where', 'code == 3');
    expect([bad.status, bad.err]).toEqual([1, expect.stringMatching(/1:7[\s\S]*one =/)]);
    expect((await run('inspect', join(demo, 'beds.geojson'), '--where', '3 + 4')).err).toContain(
      'a filter gives true or false',
    );
  });
});

describe('flintwright convert', () => {
  test('a sheet to SLD and back; what is lost is listed', async () => {
    const sld = join(folder, 'chalk.sld');
    const there = await run('convert', join(demo, 'chalk.sheet.json'), '-o', sld);
    expect(there.status).toBe(0);
    expect(there.out).toContain('values that follow zoom are those at zoom 13.4');
    expect(readFileSync(sld, 'utf8')).toMatch(/^<\?xml[\s\S]*<StyledLayerDescriptor version="1\.1\.0"/);
    const back = join(folder, 'back.sheet.json');
    const answer = JSON.parse((await run('convert', sld, '-o', back, '--json')).out) as { lost: string[] };
    expect(answer.lost.every((line) => line.includes('icon'))).toBe(true);
    const { layers } = JSON.parse(readFileSync(back, 'utf8')) as { layers: { id: string }[] };
    expect(layers.map(({ id }) => id)).toContain('road-trunk');
  });

  test('features to another system and back, by code and by a file that describes it', async () => {
    const [utm, back, wkt] = ['utm.geojson', 'back.geojson', 'tm.wkt'].map((name) => join(folder, name));
    const beds = join(demo, 'beds.geojson');
    const there = await run('convert', beds, '-o', utm, '--to', 'EPSG:32625');
    expect(there.out).toContain('42 features from OGC:CRS84 to EPSG:32625');
    // The file names its own system.
    expect((await run('convert', utm, '-o', back)).status).toBe(0);
    const coordinates = (path: string) =>
      (
        JSON.parse(readFileSync(path, 'utf8')) as { features: { geometry: { coordinates: number[][][] } }[] }
      ).features.flatMap(({ geometry }) => geometry.coordinates.flat(2));
    const [before, after] = [coordinates(beds), coordinates(back)];
    expect(Math.max(...before.map((v, i) => Math.abs(v - after[i])))).toBeLessThan(1e-12);
    writeFileSync(
      wkt,
      'PROJCS["Reach",GEOGCS["WGS 84",DATUM["WGS_1984",SPHEROID["WGS 84",6378137,298.257223563]],PRIMEM["Greenwich",0],UNIT["degree",0.0174532925199433]],PROJECTION["Transverse_Mercator"],PARAMETER["latitude_of_origin",44.6],PARAMETER["central_meridian",-31.2],PARAMETER["scale_factor",1],PARAMETER["false_easting",0],PARAMETER["false_northing",0],UNIT["metre",1]]',
    );
    const local = await run('convert', beds, '-o', back, '--to', wkt, '--json');
    expect(JSON.parse(local.out)).toMatchObject({ to: 'Reach', features: 42 });
    expect(Math.max(...coordinates(back).map(Math.abs))).toBeLessThan(20000);
    const lost = await run('convert', utm, '-o', back, '--from', 'EPSG:4326', '--to', 'EPSG:3857');
    expect([lost.status, lost.err]).toEqual([
      1,
      expect.stringContaining('at $.features[0].geometry.coordinates[0][0]'),
    ]);
  });

  test('check knows surfaces, systems and grids', async () => {
    const file = join(folder, 'far.sheet.json');
    const data = {
      a: { features: { type: 'FeatureCollection', features: [] }, crs: 'EPSG:99999' },
      i: { images: '{z}/{x}/{y}', grid: 'WebMercatorQuat' },
    };
    writeFileSync(file, JSON.stringify({ sheet: 1, view: { surface: { method: 'robinsen' } }, data, layers: [] }));
    const { faults } = JSON.parse((await run('check', file, '--json')).out) as {
      faults: { code: string; at: string; hint: string }[];
    };
    expect(faults.map(({ code, at }) => [code, at])).toEqual([
      ['surface.method', '$.view.surface'],
      ['crs.unknown', '$.data.a.crs'],
      ['grid.unknown', '$.data.i.grid'],
    ]);
    expect(faults.map(({ hint }) => hint).join()).toContain('Did you mean "robinson"?');
  });

  test.each([
    [['a.sheet.json', '-o', 'b.sheet.json'], 2, 'cannot be turned'],
    [['a.sheet.json', '-o', 'b.sld', '--to', 'EPSG:3857'], 2, 'which holds no features'],
    [['none.geojson', '-o', 'b.geojson', '--to', 'EPSG:3857'], 1, 'there is no file'],
    [['a.sld', '-o', 'b.sld'], 2, 'Give a .sheet.json'],
    [['a.sheet.json', '-o', 'b.sld', '--zoom', 'x'], 2, 'no zoom level'],
    [['a.sheet.json'], 2, "required option '-o"],
    [['none.sld', '-o', 'b.sheet.json'], 1, 'there is no file'],
  ])('%j is refused', async (args, status, said) => {
    const ran = await run('convert', ...args);
    expect([ran.status, ran.err]).toEqual([status, expect.stringContaining(said)]);
  });
});
