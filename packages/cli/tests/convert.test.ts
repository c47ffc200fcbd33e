import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { demo, run, runHere } from './command.ts';
import { collection, point } from './made-up.ts';

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

  test('boxes (RFC 7946, section 5) are worked out anew, over the antimeridian too, whole and part by part', async () => {
    const line = (id: number, bbox: unknown, ...coordinates: number[][]) => ({
      type: 'Feature',
      ...{ id, bbox, properties: { id: `own ${id}` } },
      geometry: { type: 'MultiPoint', coordinates },
    });
    const across = line(1, [170, -20, 0, -170, -10, 9], [170, -20, 0], [-175, -10, 5]);
    const plain = line(2, [0, 0, 99, 99], [10, 10], [20, 20]);
    const none = line(3, undefined, [10, 10]);
    const box = [170, -20, -170, 20];
    const [file, out, meters] = ['boxes.geojson', 'anew.geojson', 'meters.geojson'].map((name) => join(folder, name));
    interface Boxed {
      bbox?: number[];
      features: { id: number; bbox?: number[]; properties: object }[];
    }
    const read = (path: string) => JSON.parse(readFileSync(path, 'utf8')) as Boxed;
    writeFileSync(file, JSON.stringify({ type: 'FeatureCollection', bbox: box, features: [across, plain, none] }));
    expect((await runHere('convert', file, '-o', out)).status).toBe(0);
    const whole = read(out);
    expect([whole.bbox, ...whole.features.map(({ bbox }) => bbox)]).toEqual([
      [10, -20, 0, -175, 20, 5],
      [170, -20, 0, -175, -10, 5],
      [10, 10, 20, 20],
      undefined,
    ]);
    // The id of a feature, and its attribute of that name, are two things.
    expect(whole.features[0]).toMatchObject({ id: 1, properties: { id: 'own 1' } });
    // With fewer features the whole is smaller; in meters nothing runs over the antimeridian.
    expect((await runHere('convert', file, '-o', out, '--where', "id <> 'own 1'")).status).toBe(0);
    expect(read(out).bbox).toEqual([10, 10, 20, 20]);
    expect((await runHere('convert', file, '-o', meters, '--to', 'EPSG:3857')).status).toBe(0);
    const [west, , , east] = read(meters).bbox!;
    expect([west, east].map(Math.round)).toEqual([-19480911, 18924313]);
    // A file in parts: the box stands behind its features, as only then all are known.
    const many = Array.from({ length: 90000 }, (_, i) => line(i, undefined, [170 + (i % 15), 10], [-170, i / 1e4]));
    writeFileSync(file, JSON.stringify({ type: 'FeatureCollection', bbox: [170, 0, -160, 10], features: many }));
    const told = await runHere('convert', file, '-o', out);
    expect([told.status, read(out).bbox, read(out).features.length]).toEqual([0, [170, 0, -170, 10], 90000]);
    writeFileSync(file, JSON.stringify({ type: 'FeatureCollection', bbox: [1, 2, 'x', 4], features: [none] }));
    expect((await runHere('convert', file, '-o', out)).err).toContain('a box (bbox) is neither four numbers nor six');
  });

  test('the id of a feature and its attribute "id" are both kept, or told', async () => {
    const [file, back] = ['ids.geojson', 'ids-back.geojson'].map((name) => join(folder, name));
    const feature = (id: unknown, own: unknown) => ({
      ...point(1, 2, { id: own }),
      ...(id === undefined ? {} : { id }),
    });
    const ids = async (name: string, ...ids: [unknown, unknown][]) => {
      writeFileSync(file, JSON.stringify(collection(...ids.map(([id, own]) => feature(id, own)))));
      const there = join(folder, name);
      const { err } = await runHere('convert', file, '-o', there);
      expect((await runHere('convert', there, '-o', back)).status).toBe(0);
      const { features } = JSON.parse(readFileSync(back, 'utf8')) as {
        features: { id?: unknown; properties: { id?: unknown; feature_id?: unknown } }[];
      };
      return [err, ...features.map(({ id, properties }) => [properties.feature_id ?? id, properties.id])];
    };
    for (const ending of ['geojson', 'geojsonl', 'geojsons', 'topojson', 'csv', 'shp', 'gpkg', 'gpx'])
      expect([ending, ...(await ids(`ids.${ending}`, [7, 'own'], [9, 'two']))]).toEqual([
        ending,
        '',
        [7, 'own'],
        [9, 'two'],
      ]);
    for (const ending of ['geojson', 'kml', 'csv', 'zip', 'gpkg']) {
      const [err, ...got] = await ids(`ids2.${ending}`, ['x7', 'own'], ['x8', 'two']);
      const named = got.map((pair) => (pair as unknown[])[0]);
      expect([ending, err, named]).toEqual([ending, '', ['x7', 'x8']]);
    }
    for (const ending of ['wkt', 'wkb'])
      expect((await ids(`ids3.${ending}`, ['x7', 'own']))[0]).toContain('the format has no ids of features (x7)');
  });

  test('a table whose columns look like places says which', async () => {
    const file = join(folder, 'looks.csv');
    const told = async (text: string) => {
      writeFileSync(file, text);
      return (await runHere('convert', file, '-o', '-', '--as', 'csv')).err;
    };
    expect(await told('name,Start Lat,Start Lng\na,50,10\n')).toContain('"Start Lng" and "Start Lat" look like places');
    expect(await told('name,the_easting,the_northing\na,5,1\n')).toContain(
      '"the_easting" and "the_northing" look like places',
    );
    expect(await told('name,width,height\na,50,10\n')).not.toContain('look like places');
    expect(await told('name,lon,lat\na,1,2\nb,,\nc,3,4\nd,5,\n')).toContain('rows have no location (line 3)');
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
    [['a.sheet.json', '-o', 'b.sld', '--zoom', 'x'], 2, 'not a zoom level'],
    [['a.sheet.json'], 2, "required option '-o"],
    [['none.sld', '-o', 'b.sheet.json'], 1, 'there is no file'],
  ])('%j is refused', async (args, status, said) => {
    const ran = await run('convert', ...args);
    expect([ran.status, ran.err]).toEqual([status, expect.stringContaining(said)]);
  });
});
