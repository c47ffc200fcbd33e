// The user's path with files of all kinds: look into them, turn them into others, join, cut.
import { spawn } from 'node:child_process';
import { existsSync, copyFileSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { unzipSync } from 'fflate';
import { bin, demo, runHere as run } from './command.ts';

const folder = mkdtempSync(join(tmpdir(), 'flintwright-'));
const sent = (name: string) => join(demo, 'files', name);
const out = (name: string) => join(folder, name);

afterAll(() => rmSync(folder, { recursive: true }));

interface Inspected {
  readonly format: string;
  readonly features: number;
  readonly kinds: Readonly<Record<string, number>>;
  readonly bounds: readonly number[];
  readonly crs: string;
  readonly crsSource: string;
  readonly fields: readonly { readonly name: string; readonly type: string; readonly samples: readonly string[] }[];
  readonly layers?: readonly Inspected[];
  readonly warnings: readonly { readonly code: string; readonly count: number; readonly places: readonly string[] }[];
  readonly verdict: string;
}
const inspect = async (path: string, ...more: string[]) =>
  JSON.parse((await run('inspect', path, '--json', ...more)).out) as Inspected;
const lines = (path: string) => readFileSync(path, 'utf8').trimEnd().split('\n');

describe('what the conservancy was sent', () => {
  test.each<[string, object, string[]]>([
    [
      'leases.zip',
      { format: 'Shapefile', kinds: { polygon: 17 }, crs: 'Tessary_Reach_Grid', crsSource: 'leases.prj' },
      [],
    ],
    ['zones.kmz', { format: 'KMZ', kinds: { polygon: 7 }, crs: 'OGC:CRS84' }, []],
    ['gauges.csv', { format: 'CSV', kinds: { point: 5, none: 1 } }, ['mended.encoding', 'doubtful.rows']],
  ])('%s', async (name, wanted, warnings) => {
    const said = await inspect(sent(name));
    expect(said).toMatchObject(wanted);
    expect(said.warnings.map(({ code }) => code)).toEqual(warnings);
    expect(said.bounds[0]).toBeGreaterThan(-31.4);
    expect(said.bounds[2]).toBeLessThan(-30.9);
    expect(said.bounds[1]).toBeGreaterThan(44.5);
    expect(said.verdict).toContain('It is ready');
  });

  test('layers of a walk and of a database; a look at them in words', async () => {
    const walk = await inspect(sent('survey.gpx'));
    expect(walk).toMatchObject({ features: 7, kinds: { point: 6, line: 1 }, crs: 'OGC:CRS84' });
    expect(walk.bounds[0]).toBeCloseTo(-31.245, 2);
    expect(walk.layers?.map(({ features, kinds }) => [features, kinds])).toEqual([
      [6, { point: 6 }],
      [1, { line: 1 }],
    ]);
    const said = (await run('inspect', sent('chart.gpkg'))).out;
    expect(said).toMatch(
      /GeoPackage[\s\S]*◆ marks {2}57 points[\s\S]*◆ mooring_lines {2}60 lines[\s\S]*system EPSG:4326[\s\S]*→ It is ready/,
    );
  });

  test('the verdict names the next step', async () => {
    expect((await inspect(join(demo, 'yield.csv'))).verdict).toContain('--join');
    expect((await inspect(join(demo, 'sightings.csv'))).verdict).toContain('flintwright tile');
    writeFileSync(out('meters.csv'), 'x,y\n500000,4940000\n500100,4940200\n');
    const meters = await inspect(out('meters.csv'));
    expect([meters.crs, meters.verdict]).toEqual([undefined, expect.stringContaining('--crs')]);
    expect((await inspect(out('meters.csv'), '--from', 'EPSG:32625')).bounds[0]).toBeCloseTo(-33, 3);
    const found = await run('inspect', '--crs', 'utm 25n wgs 84');
    expect(found.out).toMatch(/EPSG:32625 +WGS 84 \/ UTM zone 25N/);
  });
});

describe('flintwright convert', () => {
  test.each(['geojson', 'geojsonl', 'geojsons', 'topojson', 'csv', 'kml', 'kmz', 'gpkg', 'zip'])(
    'leases to .%s and back',
    async (ending) => {
      const there = await run('convert', sent('leases.zip'), '-o', out(`l.${ending}`));
      // Whether a lease was renewed is a boolean, which the formats of texts do not have.
      const changed = ['csv', 'kml', 'kmz'].includes(ending) ? /^! true and false became texts \(renewed\)\n.*$/ : /^$/;
      expect([there.status, there.err]).toEqual([0, expect.stringMatching(changed)]);
      expect(there.out).toMatch(/17 features from Tessary_Reach_Grid to/);
      // What cannot say its system is written in longitude and latitude, so that it lies in the same place.
      const [before, after] = [await inspect(sent('leases.zip')), await inspect(out(`l.${ending}`))];
      expect([after.features, after.kinds]).toEqual([17, { polygon: 17 }]);
      after.bounds.forEach((v, i) => expect(v).toBeCloseTo(before.bounds[i], 9));
    },
  );

  test('a join, a filter, attributes chosen and renamed, a grid to write in; what was not matched is told', async () => {
    const ran = await run(
      'convert',
      join(demo, 'beds.geojson'),
      '-o',
      out('beds.zip'),
      ...['--to', 'EPSG:32625', '--join', join(demo, 'yield.csv'), '--match', 'code=bed', '--where', 'tonnes > 20'],
      ...['--select', 'code,tonnes,tenant', '--rename', 'tenant=holder', '--rename', 'tonnes=t'],
    );
    expect(ran.status).toBe(0);
    expect(ran.err).toMatch(
      /features match no row of the table \(3×\) \(OB-14; OB-28; OB-42\)[\s\S]*rows of the table match no feature \(OB-77\)/,
    );
    const said = await inspect(out('beds.zip'));
    expect([said.crs, said.crsSource, said.fields.map(({ name }) => name)]).toEqual([
      'EPSG:32625',
      'beds.prj, as EPSG:32625',
      ['id', 'code', 't', 'holder'],
    ]);
    expect(
      Math.min(
        ...said.fields.filter(({ name }) => name === 't').map(({ samples }) => Number(samples[0].split(' ')[0])),
      ),
    ).toBeGreaterThan(20);
    // Loose files are read together as well.
    for (const [name, bytes] of Object.entries(unzipSync(readFileSync(out('beds.zip')))))
      writeFileSync(out(name), bytes);
    expect(await inspect(out('beds.shp'))).toMatchObject({ features: said.features, crs: 'EPSG:32625', warnings: [] });
  });

  test('standard streams; simpler shapes whose shared borders stay shared', async () => {
    const piped = await new Promise<string>((resolve, reject) => {
      const child = spawn(process.execPath, [bin, 'convert', '-', '-o', '-', '--as', 'csv'], {
        env: { ...process.env, NO_COLOR: '1' },
      });
      let text = '';
      child.stdout.on('data', (piece) => (text += String(piece)));
      child.on('close', () => resolve(text));
      child.on('error', reject);
      child.stdin.end(readFileSync(sent('survey.gpx')));
    });
    expect(piped).toMatch(/^wkt,layer,name,desc,sym,begin,end,times\r\n"?POINT Z \(/);
    await run('convert', join(demo, 'reach', 'land.geojson'), '-o', out('land.topojson'), '--simplify', '60');
    await run('convert', join(demo, 'reach', 'land.geojson'), '-o', out('whole.topojson'));
    expect(readFileSync(out('land.topojson')).length).toBeLessThan(0.4 * readFileSync(out('whole.topojson')).length);
    expect((await inspect(out('land.topojson'))).features).toBe((await inspect(out('whole.topojson'))).features);
  });

  test('what a format cannot hold is told; every digit of a number is kept', async () => {
    const ran = await run('convert', sent('leases.zip'), '-o', out('l.gpx'), '--json');
    const said = JSON.parse(ran.out) as { warnings: { code: string }[]; format: string; features: number };
    expect([said.format, said.features, said.warnings.map(({ code }) => code)]).toEqual([
      'GPX',
      17,
      ['mended.outline'],
    ]);
    writeFileSync(out('fine.csv'), 'lon,lat\n-31.123456789012345,44.00000000000001\n');
    await run('convert', out('fine.csv'), '-o', out('fine.geojson'));
    expect(readFileSync(out('fine.geojson'), 'utf8')).toContain('[-31.123456789012344,44.00000000000001]');
  });

  test('a shapefile is its files; those of an earlier one that do not fit are deleted, and reported', async () => {
    writeFileSync(out('two.csv'), 'lon,lat,n\n-31,44,1\n');
    writeFileSync(out('two.sbn'), 'an index');
    const { warnings, written } = JSON.parse(
      (await run('convert', out('two.csv'), '-o', out('two.shp'), '--json')).out,
    ) as { warnings: { code: string; places: string[] }[]; written: string[] };
    expect(written).toEqual(['shp', 'shx', 'dbf', 'cpg', 'prj'].map((ending) => out(`two.${ending}`)));
    expect(warnings).toMatchObject([{ code: 'mended.stale', places: ['two.sbn'] }]);
    expect(existsSync(out('two.sbn'))).toBe(false);
    expect(JSON.parse((await run('inspect', out('two.shp'), '--json')).out)).toMatchObject({ features: 1 });
    const stream = await run('convert', out('two.csv'), '-o', '-', '--as', 'shp');
    expect([stream.status, stream.err]).toEqual([2, expect.stringContaining('--as zip')]);
  });

  test('from a shapefile in a grid and a table to tiles', async () => {
    copyFileSync(sent('leases.zip'), out('leases.zip'));
    writeFileSync(out('rents.csv'), 'lease;rent\nSB-101;120,50\nSB-102;80,25\n');
    await run(
      'convert',
      out('leases.zip'),
      '-o',
      out('rented.geojson'),
      '--join',
      out('rents.csv'),
      '--match',
      'lease=lease',
    );
    expect(lines(out('rented.geojson'))[0]).toContain('"rent":120.5');
    const cut = await run(
      'tile',
      out('rented.geojson'),
      sent('chart.gpkg'),
      '-o',
      out('map.pmtiles'),
      '--zooms',
      '0-11',
    );
    expect(cut.out).toMatch(/rented +17[\s\S]*marks +57[\s\S]*mooring_lines +60/);
    const deepest = await run('convert', out('map.pmtiles'), '-o', out('again.geojson'), '--where', "lease = 'SB-101'");
    expect([deepest.status, deepest.err]).toEqual([0, expect.stringContaining('are cut at the borders of tiles')]);
    expect(lines(out('again.geojson'))[0]).toContain('"rent":120.5');
  });
});

test('a file larger than the memory is converted part by part; what contradicts its beginning is read whole', async () => {
  const line = (i: number) =>
    `{"type":"Feature","geometry":{"type":"Point","coordinates":[${-31 + i / 1e6},44]},"properties":{"n":${i},"text":"${'x'.repeat(80)}"}}\n`;
  writeFileSync(out('long.geojsonl'), Array.from({ length: 150_000 }, (_, i) => line(i)).join(''));
  const [status, err] = await new Promise<[number | null, string]>((done) => {
    const args = [
      '--max-old-space-size=72',
      bin,
      'convert',
      out('long.geojsonl'),
      '-o',
      out('long.csv'),
      '--select',
      'n',
    ];
    const child = spawn(process.execPath, args);
    let text = '';
    child.stderr.on('data', (piece) => (text += String(piece)));
    child.on('close', (code) => done([code, text]));
  });
  expect([status, err.includes('heap')]).toEqual([0, false]);
  expect(lines(out('long.csv'))).toHaveLength(150_001);
  // Tabs stay tabs from part to part, and each record ends as the first does.
  await run('convert', out('long.geojsonl'), '-o', out('long.tsv'));
  const table = readFileSync(out('long.tsv'), 'utf8');
  expect(table.split('\r\n').length).toBe(150_002);
  expect(table.split('\r\n').every((row) => row === '' || row.split('\t').length === 4)).toBe(true);
  // An attribute that no part has is told, and nothing is left behind.
  const missing = await run('convert', out('long.geojsonl'), '-o', out('none.csv'), '--select', 'm');
  expect([missing.status, missing.err]).toEqual([1, expect.stringContaining('no feature has the attribute "m"')]);
  writeFileSync(
    out('odd.geojsonl'),
    `${Array.from({ length: 20_000 }, (_, i) => line(i)).join('')}{"type":"Point","coordinates":[641000,4942000]}\n`,
  );
  const odd = await run('convert', out('odd.geojsonl'), '-o', out('odd.csv'), '--select', 'n');
  expect([odd.status, odd.err]).toEqual([0, expect.stringContaining('not degrees')]);
}, 120000);
