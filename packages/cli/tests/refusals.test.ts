// What the command line refuses, and that nothing is lost or half written when it does; and what it says of awkward but sound input.
import { createServer } from 'node:net';
import { chmodSync, mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { readGeoJson } from '@flintwright/core';
import { demo, runHere as run } from './command.ts';
import { collection, pieces, point } from './made-up.ts';

const folder = mkdtempSync(join(tmpdir(), 'flintwright-'));
afterAll(() => rmSync(folder, { recursive: true }));
const at = (name: string) => join(folder, name);
const file = (name: string, content: string | Uint8Array | object) => {
  writeFileSync(
    at(name),
    typeof content === 'string' || content instanceof Uint8Array ? content : JSON.stringify(content),
  );
  return at(name);
};

describe('is refused with a message that helps', () => {
  beforeAll(() => {
    file('points.geojson', collection(point(1, 2, { kind: 'x' }), point(3, 4)));
    file('also.geojson', collection(point(5, 6)));
    file('bare.geojson', collection({ type: 'Feature', properties: { a: 1 }, geometry: null }));
    file('plain.sheet.json', { sheet: 1, layers: [] });
    file('nothing.csv', '');
    file('plain.csv', 'name,berths\nOld Quay,4\n');
    mkdirSync(at('sub'));
    file('sub/points.geojson', collection(point(7, 8)));
    file('a.pmtiles', pieces([readGeoJson(collection(point(1, 2)), { name: 'a' })], [0, 1]));
  });

  test.each<[what: string, status: number, says: string[], args: () => string[]]>([
    ['a folder for a file', 1, ['is a folder', 'Name a file in it'], () => ['check', folder]],
    ['a folder among the files to cut', 1, ['is a folder'], () => ['tile', at('sub'), '-o', at('x.pmtiles')]],
    ['a missing sheet', 1, ['there is no file', 'Check the path'], () => ['check', at('gone.sheet.json')]],
    [
      'two files of one name',
      2,
      ['two files create a layer "points"', '--layer'],
      () => ['tile', at('points.geojson'), at('sub/points.geojson'), '-o', at('x.pmtiles')],
    ],
    [
      'features without geometry',
      1,
      ['none of the files has a feature with a geometry'],
      () => ['tile', at('bare.geojson'), '-o', at('x.pmtiles')],
    ],
    ['a table without places', 1, ['none of the files'], () => ['tile', at('plain.csv'), '-o', at('x.pmtiles')]],
    [
      'an output in no folder',
      1,
      ['cannot be written', 'Check the folder'],
      () => ['tile', at('points.geojson'), '-o', at('none/x.pmtiles')],
    ],
    [
      'levels beyond 22',
      2,
      ['first-last, from 0 to 22'],
      () => ['tile', at('points.geojson'), '-o', at('x.pmtiles'), '--zooms', '3-23'],
    ],
    [
      'a tile of what is no archive',
      2,
      ['--tile needs an archive'],
      () => ['inspect', at('points.geojson'), '--tile', '0/0/0'],
    ],
    [
      'a filter that gives a number',
      1,
      ['gives a number', 'Compare it'],
      () => ['inspect', at('points.geojson'), '--where', '1 + 2'],
    ],
    [
      'a filter that breaks off',
      1,
      ['(1:15)', 'single quotes'],
      () => ['inspect', at('points.geojson'), '--where', "kind = 'x' AND"],
    ],
    [
      'a tile of noise',
      1,
      ['byte'],
      () => ['inspect', file('noise.mvt', Uint8Array.of(0x1a, 0xff, 0xff, 0xff, 0x0f, 1))],
    ],
    [
      'noise in gzip',
      1,
      ['gzip'],
      () => ['inspect', file('noise.mvt.gz', Uint8Array.of(0x1f, 0x8b, 8, 0, 1, 2, 3, 4, 5, 6))],
    ],
    [
      'features in place of a style',
      2,
      ['cannot be turned into'],
      () => ['convert', at('points.geojson'), '-o', at('x.sld')],
    ],
    [
      'a sheet into a sheet',
      2,
      ['Give a .sheet.json and -o with .sld'],
      () => ['convert', at('plain.sheet.json'), '-o', at('y.sheet.json')],
    ],
    [
      'a system for a style',
      2,
      ['holds no features'],
      () => ['convert', at('plain.sheet.json'), '-o', at('x.sld'), '--to', 'EPSG:3857'],
    ],
    [
      'a level that is none',
      2,
      ['a number from 0 to 25'],
      () => ['convert', at('plain.sheet.json'), '-o', at('x.sld'), '--zoom', 'deep'],
    ],
    [
      'an order of axes that is none',
      2,
      ['east-north or authority'],
      () => ['convert', at('points.geojson'), '-o', at('x.geojson'), '--to-axes', 'north'],
    ],
    [
      'a code that nobody knows',
      1,
      ['EPSG:99999'],
      () => ['convert', at('points.geojson'), '-o', at('x.geojson'), '--to', 'EPSG:99999'],
    ],
    [
      'a file that describes no system',
      1,
      ['plain.csv'],
      () => ['convert', at('points.geojson'), '-o', at('x.geojson'), '--from', at('plain.csv')],
    ],
    [
      'GeoJSON that breaks off',
      1,
      ['truncated'],
      () => ['convert', file('cut.geojson', '{"type":'), '-o', at('x.geojson')],
    ],
    ['JSON that is not GeoJSON', 1, ['type'], () => ['convert', file('list.json', [1, 2]), '-o', at('x.geojson')]],
    [
      'a style that is no XML',
      1,
      ['XML'],
      () => ['convert', file('bad.sld', '<StyledLayerDescriptor>'), '-o', at('x.sheet.json')],
    ],
    [
      'a conversion into no folder',
      1,
      ['cannot be written'],
      () => ['convert', at('points.geojson'), '-o', at('none/x.geojson')],
    ],
    [
      'a style into no folder',
      1,
      ['cannot be written'],
      () => ['convert', at('plain.sheet.json'), '-o', at('none/x.sld')],
    ],
    [
      'a faulty sheet into a style',
      1,
      ['Did you mean "layers"?'],
      () => ['convert', file('f.sheet.json', { sheet: 1, layer: [] }), '-o', at('x.sld')],
    ],
    ['a folder to serve that is none', 1, ['there is no folder'], () => ['serve', at('gone')]],
    [
      'a key that is not there',
      1,
      ['NO_SUCH_KEY is empty', 'process list'],
      () => ['serve', folder, '--key-from', 'NO_SUCH_KEY'],
    ],
    ['a port that is none', 2, ['0 to 65535'], () => ['serve', folder, '--port', 'http']],
    ['an option that is none', 2, ['unknown option'], () => ['tile', 'a', '-o', 'b.pmtiles', '--level', '3']],
    ['a call without a file', 2, ['no file was named', '--crs'], () => ['inspect']],
    ['a join without its match', 2, ['--match attribute=column'], () => ['convert', 'a', '-o', 'b.csv', '--join', 't']],
    [
      'a match of one name',
      2,
      ['--match attribute=column'],
      () => [
        'convert',
        join(demo, 'beds.geojson'),
        '-o',
        'b.csv',
        '--join',
        join(demo, 'yield.csv'),
        '--match',
        'code',
      ],
    ],
    ['a distance that is none', 2, ['--simplify 20'], () => ['convert', 'a', '-o', 'b.csv', '--simplify', 'much']],
    ['an ending that is not written', 1, ['.mbtiles', '.gpkg'], () => ['convert', 'a', '-o', 'b.mbtiles']],
    [
      'an attribute that is none',
      1,
      ['Did you mean "code"?'],
      () => ['convert', join(demo, 'beds.geojson'), '-o', join(folder, 'b.csv'), '--select', 'cod'],
    ],
    [
      'a filter that nothing passes',
      1,
      ['no feature matches'],
      () => ['convert', join(demo, 'beds.geojson'), '-o', join(folder, 'b.csv'), '--where', "code = 'none'"],
    ],
    [
      'places outside a system',
      1,
      ['outside the domain', 'feature 1: 500000, 4940000'],
      () => [
        'convert',
        file('m.csv', 'x,y\n500000,4940000\n'),
        '-o',
        at('b.zip'),
        '--from',
        'EPSG:4326',
        '--to',
        'EPSG:32625',
      ],
    ],
    [
      'a search that finds nothing',
      1,
      ['no coordinate system has all of'],
      () => ['inspect', '--crs', 'nowhere at all'],
    ],
  ])('%s', async (_what, status, says, args) => {
    const before = readdirSync(folder).length;
    const call = args();
    const made = readdirSync(folder).length - before;
    const ran = await run(...call);
    expect({ status: ran.status, missing: says.filter((text) => !ran.err.includes(text)), said: ran.err }).toEqual({
      status,
      missing: [],
      said: ran.err,
    });
    // No command leaves half a file behind.
    expect(readdirSync(folder).length - before - made).toBe(0);
  });

  test('a port that is taken', async () => {
    const taken = createServer();
    await new Promise<void>((resolve) => taken.listen(0, 'localhost', resolve));
    try {
      const ran = await run('serve', folder, '--port', String((taken.address() as { port: number }).port));
      expect(ran).toMatchObject({ status: 1, err: expect.stringContaining('Choose another port with --port') });
    } finally {
      taken.close();
    }
  });

  test('a file that may not be read', async () => {
    // Whoever may do everything may read everything, too.
    if (process.getuid?.() === 0) return;
    const locked = file('locked.geojson', collection());
    chmodSync(locked, 0);
    expect(await run('inspect', locked)).toMatchObject({ status: 1, err: expect.stringContaining('may read it') });
  });
});

describe('what is awkward but sound is taken', () => {
  test('a mark of the byte order, Windows line ends, quotes, decimal commas and other separators in tables', async () => {
    const table = file(
      'odd.csv',
      '\ufeff"lon";"lat";"name"\r\n"-31,25";"44,5";"Quay; old"\r\n"-31,5";"44,75";"""Deep"""\r\n',
    );
    const { status, out } = await run('inspect', table, '--json');
    expect({ status, ...(JSON.parse(out) as object) }).toMatchObject({
      status: 0,
      format: 'CSV',
      features: 2,
      kinds: { point: 2 },
      bounds: [-31.5, 44.5, -31.25, 44.75],
      fields: expect.arrayContaining([expect.objectContaining({ name: 'name', samples: ['Quay; old', '"Deep"'] })]),
    });
  });

  test('features of every kind, nested, empty and alone, and what a filter finds among them', async () => {
    const mixed = file('mixed.geojson', {
      type: 'GeometryCollection',
      geometries: [
        { type: 'Point', coordinates: [1, 2, 3] },
        {
          type: 'MultiLineString',
          coordinates: [
            [
              [0, 0],
              [1, 1],
            ],
            [
              [2, 2],
              [3, 3],
            ],
          ],
        },
        {
          type: 'Polygon',
          coordinates: [
            [
              [0, 0],
              [4, 0],
              [4, 4],
              [0, 0],
            ],
          ],
        },
      ],
    });
    const { out } = await run('inspect', mixed, '--json');
    const report = JSON.parse(out) as { kinds: Record<string, number>; vertices: number };
    expect(Object.values(report.kinds).reduce((a, b) => a + b, 0)).toBe(3);
    const lines = file(
      'lines.ndjson',
      [point(1, 2, { n: 4, name: 'a' }), point(3, 4, { n: 5 }), point(5, 6, { name: 'c' })]
        .map((f) => JSON.stringify(f))
        .join('\n'),
    );
    const tried = await run('inspect', lines, '--where', 'n > 4', '--json');
    expect(JSON.parse(tried.out)).toMatchObject({
      where: [{ features: 3, matches: 1, unknown: 1, indices: [1], missing: [] }],
    });
    const people = await run('inspect', lines, '--where', 'm > 4');
    expect(people.out).toContain('no feature has the attribute "m"');
    expect(people.out).toMatch(/attribute\s+type\s+filled\s+values/);
    expect(people.out).toMatch(/n\s+integer\s+67 %\s+4 to 5/);
  });

  test('one feature, packed, cut into one tile, is in that tile and in no other', async () => {
    const packed = file('one.geojson.gz', gzipSync(JSON.stringify(point(-31.18, 44.62, { name: 'Deep Pool' }))));
    const archive = at('one.pmtiles');
    const cut = await run('tile', packed, '-o', archive, '--zooms', '10', '--layer', 'pool', '--json');
    expect(JSON.parse(cut.out)).toMatchObject({ tiles: 1, zooms: [10, 10], layers: [{ layer: 'pool', features: 1 }] });
    // Tile column and row by the formulas of OGC 17-083r4 (WebMercatorQuad).
    const x = Math.floor(((-31.18 + 180) / 360) * 1024);
    const y = Math.floor((0.5 - Math.asinh(Math.tan((44.62 * Math.PI) / 180)) / (2 * Math.PI)) * 1024);
    expect((await run('inspect', archive, '--tile', `10/${x}/${y}`)).out).toContain('1 point');
    const other = await run('inspect', archive, '--tile', `10/${x + 3}/${y}`);
    expect(other).toMatchObject({ status: 1, err: expect.stringContaining('It covers zoom 10 to 10') });
  });

  test('--help says what each command is for, --version which this is', async () => {
    for (const command of ['tile', 'inspect', 'check', 'convert', 'serve']) {
      const { status, out } = await run(command, '--help');
      expect([command, status, out.includes(`Usage: flintwright ${command}`)]).toEqual([command, 0, true]);
      // Every option is a whole word and says what it does.
      for (const [, option, rest] of out.matchAll(/^ {2}(-\S+(?:, --\S+)?)(.*)$/gm))
        expect([option, rest.trim().length > 8]).toEqual([option, true]);
    }
    expect((await run('--version')).out).toMatch(/^\d+\.\d+\.\d+$/);
    expect((await run()).status).toBe(2);
  });
});
