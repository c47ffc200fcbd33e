// The server over a folder: what it gives, to whom, and what it never gives.
import {
  closeSync,
  mkdirSync,
  mkdtempSync,
  openSync,
  renameSync,
  rmSync,
  statSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { serveFolder } from '@flintwright/cli';
import { gunzip, readGeoJson, readTile } from '@flintwright/core';
import { demo } from './command.ts';
import { collection, pieces, point } from './made-up.ts';

const folder = mkdtempSync(join(tmpdir(), 'flintwright-'));
afterAll(() => rmSync(folder, { recursive: true }));

describe('a server over a folder', () => {
  const served = mkdtempSync(join(tmpdir(), 'flintwright-'));
  afterAll(() => rmSync(served, { recursive: true }));
  const namesIn = async (server: Awaited<ReturnType<typeof serveFolder>>, headers: Record<string, string> = {}) => {
    const answer = await server.inject({ url: '/tiles/chart/0/0/0', headers });
    return answer.statusCode === 200 ? readTile(gunzip(answer.rawPayload)).map(({ name }) => name) : answer.statusCode;
  };
  const write = (layer: string) =>
    writeFileSync(
      join(served, 'chart.pmtiles'),
      pieces([readGeoJson(collection(point(1, 2)), { name: layer })], [0, 2]),
    );

  test('gives an archive that was written anew as it is now, and none that is gone', async () => {
    write('first');
    const server = await serveFolder(served);
    try {
      expect(await namesIn(server)).toEqual(['first']);
      write('second layer of another length');
      expect(await namesIn(server)).toEqual(['second layer of another length']);
      // What is no archive is told of, and mended by the next writing.
      writeFileSync(join(served, 'chart.pmtiles'), 'PMTiles no more');
      expect((await server.inject('/tiles/chart.json')).statusCode).toBe(503);
      // What has lain there for a while is damaged, and not on its way.
      utimesSync(join(served, 'chart.pmtiles'), 1e9, 1e9);
      const broken = await server.inject('/tiles/chart.json');
      expect([broken.statusCode, broken.json<{ code: string }>().code]).toEqual([
        500,
        expect.stringMatching(/^archive\./),
      ]);
      write('third');
      expect(await namesIn(server)).toEqual(['third']);
      rmSync(join(served, 'chart.pmtiles'));
      expect(await namesIn(server)).toBe(404);
    } finally {
      await server.close();
    }
  });

  test('unpacks tiles for those who cannot, says no more than it should, and keeps within its folder', async () => {
    write('chart');
    writeFileSync(join(served, 'page.html'), '<p>page</p>');
    const server = await serveFolder(served);
    try {
      const packed = await server.inject({ url: '/tiles/chart/0/0/0.mvt', headers: { 'accept-encoding': 'gzip' } });
      const plain = await server.inject({ url: '/tiles/chart/0/0/0.mvt', headers: { 'accept-encoding': 'identity' } });
      expect([packed.headers['content-encoding'], plain.headers['content-encoding']]).toEqual(['gzip', undefined]);
      expect(gunzip(packed.rawPayload)).toEqual(new Uint8Array(plain.rawPayload));
      for (const [url, status] of [
        ['/tiles/chart/1/2/0', 400],
        ['/tiles/chart/-1/0/0', 400],
        ['/tiles/chart/0/0', 400],
        ['/tiles/..%2Fchart/0/0/0', 404],
        ['/%2e%2e/%2e%2e/etc/hostname', 404],
        ['/tiles/none.json', 404],
        ['/page.html', 200],
      ] as const)
        expect([url, (await server.inject(url)).statusCode]).toEqual([url, status]);
      const part = await server.inject({ url: '/page.html', headers: { range: 'bytes=3-6' } });
      expect([part.statusCode, part.body, part.headers['content-range']]).toEqual([206, 'page', 'bytes 3-6/11']);
      const beyond = await server.inject({ url: '/page.html', headers: { range: 'bytes=90-99' } });
      expect(beyond.statusCode).toBe(416);
    } finally {
      await server.close();
    }
  });

  test('serves pages of folders and files with any name', async () => {
    mkdirSync(join(served, 'north coast'));
    writeFileSync(join(served, 'north coast/index.html'), '<p>coast</p>');
    writeFileSync(join(served, 'what?#100%25.txt'), 'odd');
    const server = await serveFolder(served);
    try {
      for (const [url, ...expected] of [
        ['/north%20coast?key=1', 301, './north%20coast/?key=1', ''],
        // A path with two slashes must not lead to another host.
        ['//north%20coast', 301, './north%20coast/', ''],
        ['/north%20coast/', 200, undefined, '<p>coast</p>'],
        ['/what%3F%23100%2525.txt', 200, undefined, 'odd'],
      ] as const) {
        const { statusCode, headers, body } = await server.inject(url);
        expect([url, statusCode, headers.location, body]).toEqual([url, ...expected]);
      }
    } finally {
      await server.close();
    }
  });

  test('gives tiles only for the key, sent either way, and other files to all', async () => {
    write('chart');
    const server = await serveFolder(served, { key: 'made-up-key' });
    try {
      expect(await namesIn(server)).toBe(401);
      expect(await namesIn(server, { authorization: 'Bearer wrong' })).toBe(403);
      expect(await namesIn(server, { authorization: 'Bearer made-up-key' })).toEqual(['chart']);
      expect((await server.inject('/tiles/chart/0/0/0?key=made-up-key')).statusCode).toBe(200);
      expect((await server.inject('/tiles/chart.json?key=made-up-ke')).statusCode).toBe(403);
      expect((await server.inject('/tiles/chart.json?key=a&key=made-up-key')).statusCode).toBe(403);
      const asked = await server.inject({
        method: 'OPTIONS',
        url: '/tiles/chart.json',
        headers: { origin: 'http://page.example', 'access-control-request-method': 'GET' },
      });
      expect([asked.statusCode, asked.headers['access-control-allow-origin']]).toEqual([204, '*']);
      expect((await server.inject('/page.html')).statusCode).toBe(200);
      // However a path is spelt, and whether tile by tile or whole.
      for (const url of [
        '/%74iles/chart/0/0/0',
        '/x/../tiles/chart/0/0/0',
        '/./tiles/chart.json',
        '/chart.pmtiles',
        '/chart%2epmtiles',
        '//chart.pmtiles',
        '/x/../chart.pmtiles',
      ])
        expect([url, (await server.inject(url)).statusCode]).toEqual([url, 401]);
      expect((await server.inject('/chart.pmtiles?key=made-up-key')).statusCode).toBe(200);
      expect((await server.inject('/%zz')).statusCode).toBe(400);
    } finally {
      await server.close();
    }
  });

  test('conditions, encodings, ranges and hosts by the letter (RFC 9110)', async () => {
    const server = await serveFolder(demo);
    try {
      const tile = '/tiles/reach/3/3/2';
      const get = (headers: Record<string, string>, url = tile) => server.inject({ url, headers });
      const [packed, plain] = [await get({ 'accept-encoding': 'br, gzip;q=0.5' }), await get({})];
      expect([packed.headers['content-encoding'], plain.headers['content-encoding']]).toEqual(['gzip', undefined]);
      expect((await get({ 'accept-encoding': 'gzip;q=0, *' })).headers['content-encoding']).toBeUndefined();
      expect((await get({ 'accept-encoding': '*' })).headers['content-encoding']).toBe('gzip');
      expect([packed.headers['vary'], plain.headers['vary']]).toEqual(['Accept-Encoding', 'Accept-Encoding']);
      const [one, other] = [String(packed.headers['etag']), String(plain.headers['etag'])];
      expect(one).not.toBe(other);
      for (const [tags, status] of [
        [other, 304],
        [`"x", W/${other}, "y"`, 304],
        ['*', 304],
        [one, 200],
        ['"x"', 200],
      ] as const)
        expect([tags, (await get({ 'if-none-match': tags })).statusCode]).toEqual([tags, status]);
      const beyond = await get({ range: 'bytes=99999999999-' }, '/reach.pmtiles');
      const { size } = statSync(join(demo, 'reach.pmtiles'));
      expect([beyond.statusCode, beyond.headers['content-range']]).toEqual([416, `bytes */${size}`]);
      for (const host of ['a.test/<script>', 'a b', '"'])
        expect((await get({ host }, '/tiles/reach.json')).statusCode).toBe(421);
      expect((await get({ host: '[::1]:80' }, '/tiles/reach.json')).json()).toMatchObject({
        tiles: ['http://[::1]:80/tiles/reach/{z}/{x}/{y}'],
      });
    } finally {
      await server.close();
    }
  });

  test('an archive that is copied over, in place or beside, gives old tiles, new ones, or 503; never torn ones', async () => {
    const seconds = Number(process.env['FLINTWRIGHT_LOAD_SECONDS'] ?? 2);
    const folder = mkdtempSync(join(tmpdir(), 'flintwright-'));
    const path = join(folder, 'a.pmtiles');
    const archives = [1, 2].map((n) => {
      const features = Array.from({ length: 400 }, (_, i) =>
        point((i % 20) * 8 - 80, Math.floor(i / 20) * 6 - 60, { n, i, text: `text ${n} ${i}` }),
      );
      return pieces([readGeoJson(collection(...features), { name: 'a' })], [0, 4]);
    });
    writeFileSync(path, archives[0]);
    const server = await serveFolder(folder);
    try {
      const base = await server.listen({ port: 0 });
      const ask = async (at: readonly number[]) => {
        const answer = await fetch(`${base}/tiles/a/${at.join('/')}`);
        const text = Buffer.from(await answer.arrayBuffer()).toString('base64');
        return { status: answer.status, text: `${answer.status} ${text}`, later: answer.headers.get('retry-after') };
      };
      const right = new Map<string, Set<string>>();
      const addresses = [0, 1, 2, 3].flatMap((z) =>
        Array.from({ length: 2 ** z }, (_, x) => Array.from({ length: 2 ** z }, (__, y) => [z, x, y])).flat(),
      );
      for (const bytes of archives) {
        writeFileSync(path, bytes);
        for (const at of addresses) {
          const { text } = await ask(at);
          right.set(String(at), (right.get(String(at)) ?? new Set()).add(text));
        }
      }
      // The two archives differ, or a mixture of them would not be seen.
      expect(right.get('0,0,0')!.size).toBe(2);
      const statuses = new Map<number, number>();
      const whole = () => statuses.get(200) ?? 0;
      let replaced = 0;
      // On a busy machine it goes on until it has seen enough.
      const begun = Date.now();
      const goesOn = () =>
        Date.now() < begun + seconds * 1000 || ((whole() < 60 || replaced < 12) && Date.now() < begun + 40_000);
      const asking = Array.from({ length: 6 }, async (_, start) => {
        for (let k = start * 13; goesOn(); k++) {
          const at = addresses[k % addresses.length];
          const { status, text, later } = await ask(at);
          statuses.set(status, (statuses.get(status) ?? 0) + 1);
          if (status === 503) expect(later).toBe('1');
          else expect(right.get(String(at))).toContain(text);
        }
      });
      for (; goesOn(); replaced++) {
        const bytes = archives[replaced % 2];
        if (replaced % 3 === 0) {
          writeFileSync(`${path}.new`, bytes);
          renameSync(`${path}.new`, path);
        } else {
          // In place, a piece at a time.
          const file = openSync(path, 'w');
          for (let i = 0; i < bytes.length; i += Math.ceil(bytes.length / 7)) {
            writeSync(file, bytes, i, Math.min(Math.ceil(bytes.length / 7), bytes.length - i), i);
            await new Promise((done) => setTimeout(done, 4));
          }
          closeSync(file);
        }
        // Each archive stays until it has been read from, however busy the machine is.
        const before = whole();
        do await new Promise((done) => setTimeout(done, 12));
        while (whole() < before + 2 && goesOn());
      }
      await Promise.all(asking);
      if (process.env['FLINTWRIGHT_LOAD_SECONDS'])
        process.stderr.write(`replaced ${replaced} times: ${JSON.stringify([...statuses])}\n`);
      expect([...statuses.keys()].filter((status) => ![200, 204, 503].includes(status))).toEqual([]);
      expect(statuses.get(200)).toBeGreaterThan(50);
      expect(replaced).toBeGreaterThan(10);
    } finally {
      await server.close();
      rmSync(folder, { recursive: true });
    }
  }, 60_000);

  test('pages of other hosts read what a map is made of, and nothing else; or only pages of those hosts that are named', async () => {
    write('chart');
    writeFileSync(join(served, 'page.html'), '<p>page</p>');
    writeFileSync(join(served, 'notes.txt'), 'notes');
    writeFileSync(join(served, 'land.geojson'), '{}');
    const origin = 'http://page.example';
    const shown = async (server: Awaited<ReturnType<typeof serveFolder>>, url: string, from = origin) =>
      (await server.inject({ url, headers: { origin: from } })).headers['access-control-allow-origin'];
    const open = await serveFolder(served);
    try {
      for (const url of [
        '/tiles/chart.json',
        '/tiles/chart/0/0/0',
        '/chart.pmtiles',
        '/land.geojson',
        '/tiles/none.json',
      ])
        expect([url, await shown(open, url)]).toEqual([url, '*']);
      for (const url of ['/page.html', '/notes.txt', '/none', '/chart.pmtiles.bak'])
        expect([url, await shown(open, url)]).toEqual([url, undefined]);
    } finally {
      await open.close();
    }
    const narrow = await serveFolder(served, { allowOrigins: [origin], key: 'made-up' });
    try {
      expect(await shown(narrow, '/tiles/chart.json')).toBe(origin);
      expect(await shown(narrow, '/tiles/chart.json', 'http://other.example')).toBeUndefined();
    } finally {
      await narrow.close();
    }
  });

  test('files that begin with a dot, and links that lead out, are not there', async () => {
    const inside = join(served, 'inside');
    mkdirSync(inside);
    writeFileSync(join(inside, '.env'), 'KEY=made-up');
    writeFileSync(join(served, 'outside.txt'), 'outside');
    writeFileSync(join(inside, 'plain.txt'), 'plain');
    symlinkSync(join(served, 'outside.txt'), join(inside, 'link.txt'));
    symlinkSync(join(inside, 'plain.txt'), join(inside, 'near.txt'));
    const server = await serveFolder(inside);
    try {
      const status = async (url: string) => (await server.inject(url)).statusCode;
      expect(await Promise.all(['/.env', '/%2eenv', '/link.txt', '/near.txt'].map(status))).toEqual([
        404, 404, 404, 200,
      ]);
    } finally {
      await server.close();
    }
  });
});
