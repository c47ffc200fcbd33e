import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { afterAll, describe, expect, test } from '@jest/globals';
import { Archive, bufferSource, gunzip, readTile } from '@flintwright/core';
import { bin, demo, run } from './command.ts';

const folder = mkdtempSync(join(tmpdir(), 'flintwright-'));
afterAll(() => rmSync(folder, { recursive: true }));

const file = (name: string, content: string | Uint8Array) => {
  writeFileSync(join(folder, name), content);
  return join(folder, name);
};
const point = (lon: number, lat: number, properties: object = {}) => ({
  type: 'Feature',
  properties,
  geometry: { type: 'Point', coordinates: [lon, lat] },
});
const collection = (...features: object[]) => JSON.stringify({ type: 'FeatureCollection', features });

describe('flintwright tile and inspect', () => {
  const archive = join(folder, 'reach.pmtiles');

  test('cut the demo data into an archive and say what is in it', async () => {
    const layers = ['land', 'roads', 'places', 'buildings'].map((name) => join(demo, 'reach', `${name}.geojson`));
    const cut = await run(
      'tile',
      ...layers,
      '-o',
      archive,
      '--zooms',
      '8-13',
      '--name',
      'Reach',
      '--credit',
      'Made up',
    );
    expect(cut).toMatchObject({ status: 0, err: '' });
    expect(cut.out).toMatch(/roads\s+\d+\s+\d+ lines\s+class, name, ref/);
    expect(cut.out).toMatch(/✓ .*reach\.pmtiles {2}[\d.]+ [kM]B, \d+ tiles/);

    const seen = JSON.parse((await run('inspect', archive, '--json')).out) as {
      zooms: number[];
      metadata: { name: string; attribution: string; vector_layers: { id: string; fields: object }[] };
      levels: { zoom: number }[];
    };
    expect(seen).toMatchObject({ zooms: [8, 13], metadata: { name: 'Reach', attribution: 'Made up' } });
    expect(seen.levels.map((level) => level.zoom)).toEqual([8, 9, 10, 11, 12, 13]);
    expect(seen.metadata.vector_layers.find((layer) => layer.id === 'buildings')?.fields).toEqual({
      height: 'Number',
      kind: 'String',
    });

    const people = await run('inspect', archive);
    expect(people.out).toMatch(/◆ buildings {2}[\d,]+ polygons/);
    const tile = await run('inspect', archive, '--tile', '13/3386/2958', '--json');
    expect(JSON.parse(tile.out)).toMatchObject({ format: 'MVT 2.1', violations: [] });
  });

  test('GeoJSON, packed lines and single tiles are read; several files make one layer', async () => {
    const a = file('a.geojson', collection(point(1, 2, { kind: 'x', height: 2.5 }), point(3, 4, { kind: 'y' })));
    const b = file('b.ndjson.gz', gzipSync([point(5, 6), point(7, 8)].map((f) => JSON.stringify(f)).join('\n')));
    expect(JSON.parse((await run('inspect', a, '--json')).out)).toMatchObject({
      features: 2,
      kinds: { point: 2 },
      bounds: [1, 2, 3, 4],
      fields: [
        { name: 'kind', type: 'string', filled: 2 },
        { name: 'height', type: 'number', filled: 1 },
      ],
    });
    expect(JSON.parse((await run('inspect', b, '--json')).out)).toMatchObject({ features: 2 });
    const out = join(folder, 'one.pmtiles');
    expect(
      JSON.parse((await run('tile', a, b, '-o', out, '--layer', 'both', '--zooms', '0', '--json')).out),
    ).toMatchObject({ tiles: 1, layers: [{ layer: 'both', features: 4 }] });
    const stored = await (await Archive.open(bufferSource(readFileSync(out)))).tile({ z: 0, x: 0, y: 0 });
    expect((await run('inspect', file('t.mvt', stored!))).out).toMatch(
      /vector tile, \d+ B \(\d+ B packed\)\s+◆ both {2}4 points/,
    );
    const cutShort = await run('inspect', file('short.mvt', gunzip(stored!).subarray(0, 20)));
    expect(cutShort).toMatchObject({ status: 1, err: expect.stringContaining('ends inside a layer') });
  });

  test.each<[string, number, string, () => string[]]>([
    ['a missing file', 1, 'no file', () => ['tile', 'nowhere.geojson', '-o', join(folder, 'x.pmtiles')]],
    [
      'swapped coordinates, which are put right',
      0,
      'They were taken as latitude, longitude and swapped',
      () => ['tile', file('s.geojson', collection(point(44, -131))), '-o', join(folder, 'x.pmtiles'), '--zooms', '0'],
    ],
    [
      'text cut short',
      1,
      'truncated',
      () => ['inspect', file('c.geojson', '{"type":"FeatureCollection","features":[')],
    ],
    [
      'a truncated archive',
      1,
      'truncated',
      () => ['inspect', file('c.pmtiles', readFileSync(archive).subarray(0, 200))],
    ],
    ['an empty file', 1, 'empty', () => ['inspect', file('e.pmtiles', '')]],
    ['no such tile', 1, 'no tile', () => ['inspect', archive, '--tile', '9/0/0']],
    ['a wrong tile address', 2, 'z/x/y', () => ['inspect', archive, '--tile', '3/9/9']],
    ['wrong zooms', 2, '0-14', () => ['tile', 'a', '-o', 'x.pmtiles', '--zooms', '9-3']],
    ['a wrong ending', 2, '.pmtiles', () => ['tile', 'a', '-o', 'x.zip']],
    ['no output', 2, '--output', () => ['tile', 'a']],
    ['an unknown command', 2, 'unknown command', () => ['slice', 'a']],
    ['a busy or bad port', 2, '65535', () => ['serve', folder, '--port', '99999']],
  ])('%s: status %i and a message that helps', async (_, status, message, args) => {
    const ran = await run(...args());
    expect(ran.status).toBe(status);
    expect(ran.err).toContain(message);
    expect(ran.err).not.toContain('    at ');
  });
});

describe('flintwright check', () => {
  test('passes the demo sheets and finds what is wrong with others', async () => {
    for (const theme of ['chalk', 'slate', 'tide'])
      expect(await run('check', join(demo, `${theme}.sheet.json`))).toMatchObject({ status: 0, err: '' });
    const faulty = file(
      'f.sheet.json',
      JSON.stringify({
        sheet: 1,
        data: { r: { tiles: 'reach.pmtiles' }, b: { features: 'gone.geojson' } },
        layers: [
          { id: 'l', of: 'r/rods', stroke: { width: 2, colour: 'red' } },
          { id: 'm', of: 'r/lnad', fill: 'red' },
        ],
      }),
    );
    const { status, out } = await run('check', faulty, '--json');
    expect(status).toBe(1);
    const { faults } = JSON.parse(out) as { faults: { code: string; at: string; hint: string }[] };
    expect(faults).toEqual(
      expect.arrayContaining([
        expect.objectContaining({ code: 'sheet.key', at: '$.layers[0].stroke', hint: 'Did you mean "color"?' }),
        expect.objectContaining({ code: 'sheet.from', at: '$.layers[1].of', hint: 'Did you mean "r/land"?' }),
        expect.objectContaining({ code: 'sheet.file', at: '$.data.b' }),
      ]),
    );
  });
});

describe('flintwright serve', () => {
  test('serves tiles, TileJSON, files with ranges, and tags', async () => {
    const server = spawn(process.execPath, [bin, 'serve', folder, '--port', '0'], {
      env: { ...process.env, NO_COLOR: '1' },
    });
    try {
      const base = await new Promise<string>((resolve) =>
        server.stdout.on('data', (data: Buffer) => {
          const found = /at (http:\S+)/.exec(String(data));
          if (found) resolve(found[1]);
        }),
      );
      const json = (await (await fetch(`${base}/tiles/reach.json`)).json()) as {
        tilejson: string;
        tiles: string[];
        maxzoom: number;
      };
      expect(json).toMatchObject({ tilejson: '3.0.0', maxzoom: 13, tiles: [`${base}/tiles/reach/{z}/{x}/{y}`] });
      const address = `${base}/tiles/reach/13/3386/2958`;
      const tile = await fetch(address);
      expect([tile.headers.get('content-encoding'), tile.headers.get('access-control-allow-origin')]).toEqual([
        'gzip',
        '*',
      ]);
      expect(readTile(gunzip(new Uint8Array(await tile.arrayBuffer()))).map((block) => block.name)).toContain(
        'buildings',
      );
      expect((await fetch(address, { headers: { 'If-None-Match': tile.headers.get('etag')! } })).status).toBe(304);
      expect((await fetch(`${base}/tiles/reach/13/0/0`)).status).toBe(204);
      expect((await fetch(`${base}/tiles/reach/99/x/0`)).status).toBe(400);
      expect((await fetch(`${base}/tiles/none/0/0/0`)).status).toBe(404);
      const part = await fetch(`${base}/reach.pmtiles`, { headers: { Range: 'bytes=0-6' } });
      expect([part.status, await part.text()]).toEqual([206, 'PMTiles']);
      expect((await fetch(`${base}/../cli.test.ts`)).status).toBe(404);
    } finally {
      server.kill();
    }
  });
});
