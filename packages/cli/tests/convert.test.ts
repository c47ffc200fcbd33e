import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { demo, run } from './command.ts';

const folder = mkdtempSync(join(tmpdir(), 'flintwright-'));

afterAll(() => rmSync(folder, { recursive: true }));

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
    expect([lost.status, lost.err]).toEqual([1, expect.stringContaining('feature 1: 649639.79')]);
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
