// What a server of a folder must not do: lead out of it, give data without its key, answer for names that are not its own, or lose a byte of a file.
import { spawn } from 'node:child_process';
import { connect } from 'node:net';
import { existsSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { serveFolder, type FolderOptions } from '@flintwright/cli';
import { buildGazetteer } from '@flintwright/core/places';
import fc from 'fast-check';
import { bin, demo, runHere } from './command.ts';

const outside = mkdtempSync(join(tmpdir(), 'flintwright-outside-'));
let folder: string;
let server: Awaited<ReturnType<typeof serveFolder>> | undefined;
const at = (name: string) => join(folder, name);
beforeEach(() => void (folder = mkdtempSync(join(tmpdir(), 'flintwright-'))));
afterEach(async () => {
  await server?.close();
  server = undefined;
  rmSync(folder, { recursive: true });
});
afterAll(() => rmSync(outside, { recursive: true }));

const start = async (options: FolderOptions = { edits: true }) => (server = await serveFolder(folder, options));
const geo = 'application/geo+json';
const feature = (id: unknown, properties: object | null = {}) => ({
  type: 'Feature',
  id,
  properties,
  geometry: { type: 'Point', coordinates: [1, 2] },
});
const file = (...features: object[]) => JSON.stringify({ type: 'FeatureCollection', features });
const items = '/features/collections/a/items';
const send = (method: 'POST' | 'PUT' | 'PATCH' | 'DELETE', url: string, payload?: string | object, headers = {}) =>
  server!.inject({
    method,
    url,
    ...(payload === undefined ? {} : { payload: typeof payload === 'string' ? payload : JSON.stringify(payload) }),
    headers: {
      ...(payload === undefined ? {} : { 'content-type': method === 'PATCH' ? 'application/merge-patch+json' : geo }),
      ...headers,
    },
  });
const get = (url: string, headers = {}) => server!.inject({ url, headers });

describe('the folder', () => {
  test('links that lead out of it are not served, listed or written, by any way', async () => {
    writeFileSync(join(outside, 'secret.geojson'), file(feature(1)));
    for (const ending of ['pmtiles', 'gazetteer'])
      writeFileSync(
        join(outside, `secret.${ending}`),
        readFileSync(join(demo, ending === 'pmtiles' ? 'reach.pmtiles' : 'reach.gazetteer')),
      );
    for (const ending of ['geojson', 'pmtiles', 'gazetteer'])
      symlinkSync(join(outside, `secret.${ending}`), at(`link.${ending}`));
    symlinkSync(outside, at('folder'));
    writeFileSync(at('own.geojson'), file(feature(1)));
    // A link that stays in the folder is as good as a file.
    symlinkSync(at('own.geojson'), at('twin.geojson'));
    await start();
    const listed = (await get('/features/collections')).json<{ collections: { id: string }[] }>();
    expect(listed.collections.map(({ id }) => id).sort()).toEqual(['own', 'twin']);
    for (const url of [
      '/features/collections/link/items',
      '/features/collections/link/items/1',
      '/tiles/link.json',
      '/tiles/link/0/0/0',
      '/places/link?q=a',
      '/link.geojson',
      '/folder/secret.geojson',
    ])
      expect([url, (await get(url)).statusCode]).toEqual([url, 404]);
    expect((await send('DELETE', '/features/collections/link/items/1')).statusCode).toBe(404);
    expect(readFileSync(join(outside, 'secret.geojson'), 'utf8')).toBe(file(feature(1)));
  });

  test('hidden and half-written files are neither listed nor served; those of a process that is gone are removed', async () => {
    writeFileSync(at('.hidden.geojson'), file(feature(1)));
    const gone = spawn(process.execPath, ['-e', '']);
    await new Promise((done) => gone.once('exit', done));
    writeFileSync(at(`a.geojson.${gone.pid}-0123abcd.part`), 'half');
    writeFileSync(at(`b.geojson.${process.pid}-0123abcd.part`), 'under way');
    await start();
    expect((await get('/features/collections')).json()).toMatchObject({ collections: [] });
    expect(existsSync(at(`a.geojson.${gone.pid}-0123abcd.part`))).toBe(false);
    expect(existsSync(at(`b.geojson.${process.pid}-0123abcd.part`))).toBe(true);
    expect((await get(`/b.geojson.${process.pid}-0123abcd.part`)).statusCode).toBe(404);
  });

  test('with a key every data file needs it, sheets too; pages, scripts and styles do not', async () => {
    const data = ['a.geojson', 'a.sheet.json', 'a.csv', 'a.pmtiles', 'A.GEOJSON', 'picture.png', 'a'];
    const pages = ['index.html', 'map.js', 'map.css'];
    for (const name of [...data, ...pages]) writeFileSync(at(name), file(feature(1)));
    await start({ key: 'made-up' });
    for (const name of data) {
      expect([name, (await get(`/${name}`)).statusCode]).toEqual([name, 401]);
      expect([name, (await get(`/x/../${name}?key=wrong`)).statusCode]).toEqual([name, 403]);
      expect([name, (await get(`/${name}?key=made-up`)).statusCode]).toEqual([name, 200]);
    }
    for (const name of [...pages, '']) expect([name, (await get(`/${name}`)).statusCode]).toEqual([name, 200]);
  });

  test('a name that is not its own is answered with 421 on loopback, whatever is asked', async () => {
    writeFileSync(at('a.geojson'), file(feature(1)));
    await start({ edits: true, hosts: ['maps.example'] });
    for (const host of ['evil.example', 'evil.example:5170', 'localhost.evil.example', '127.0.0.1.evil.example']) {
      expect([host, (await get('/a.geojson', { host })).statusCode]).toEqual([host, 421]);
      expect([host, (await send('DELETE', `${items}/1`, undefined, { host })).statusCode]).toEqual([host, 421]);
    }
    for (const host of [
      'localhost',
      'localhost:5170',
      '127.0.0.1:5170',
      '[::1]:5170',
      'maps.example:80',
      'MAPS.example',
    ])
      expect([host, (await get('/a.geojson', { host })).statusCode]).toEqual([host, 200]);
    const { err, status } = await runHere('serve', folder, '--host', '0.0.0.0', '--accept-edits', '--port', '0');
    expect([status, err]).toEqual([2, expect.stringMatching(/--key-from[\s\S]*--allow-host/)]);
  });
});

describe('edits', () => {
  test('1,000 random files and edits: all bytes but those of the feature stay', async () => {
    const space = fc.constantFrom('', ' ', '\n  ', '\r\n\t');
    const number = fc.constantFrom(
      '12345678901234567890',
      '0.1000000000000000055511151231257827',
      '1e400',
      '-0.0',
      '1E+2',
      '7',
    );
    const text = fc.string({ unit: 'binary', maxLength: 8 }).map((one) => JSON.stringify(one));
    const value = fc.oneof(number, text, fc.constantFrom('null', 'true', '[1, [2]]', '{"a":{"b":"}]"}}'));
    const properties = fc.array(fc.tuple(text, value), { maxLength: 4 });
    const oneFeature = fc.tuple(properties, space, fc.boolean());
    const collection = fc.tuple(
      fc.array(oneFeature, { minLength: 1, maxLength: 5 }),
      space,
      fc.boolean(),
      fc.constantFrom('', '\uFEFF'),
    );
    await start();
    await fc.assert(
      fc.asyncProperty(
        collection,
        fc.nat(),
        fc.constantFrom('POST', 'PUT', 'PATCH', 'DELETE' as const),
        async ([list, gap, isFirst, mark], which, method) => {
          const own = list.map(
            ([members, inner, hasLate], i) =>
              `{${inner}"type"${inner}:"Feature",${hasLate ? '' : `"id":${i},`}"properties":{${members
                .map(([name, one]) => `${name}:${inner}${one}`)
                .join(
                  `,${inner}`,
                )}},${inner}"geometry":{"type":"Point","coordinates":[1.10,${inner}2]}${hasLate ? `,"id":${i}` : ''}}`,
          );
          const features = `"features"${gap}:${gap}[${gap}${own.join(`${gap},${gap}`)}${gap}]`;
          const head = `"big":12345678901234567890,"name":"features"`;
          const before = `${mark}{${gap}${isFirst ? `${features},${head}` : `${head},"type":"FeatureCollection",${features}`}${gap}}${gap}`;
          writeFileSync(at('a.geojson'), before);
          const i = which % own.length;
          const url = method === 'POST' ? items : `${items}/${i}`;
          const body =
            method === 'DELETE'
              ? undefined
              : method === 'PATCH'
                ? { properties: { added: 1 } }
                : feature(undefined, { put: 1 });
          const answer = await send(method, url, body);
          expect([method, answer.statusCode, answer.body]).toEqual([method, method === 'POST' ? 201 : 204, '']);
          const after = readFileSync(at('a.geojson'), 'utf8');
          // Everything around the features, and every other feature, is there to the letter.
          const [lead, end] = before.split(own.join(`${gap},${gap}`));
          expect(after.startsWith(lead) && after.endsWith(end)).toBe(true);
          for (const [k, one] of own.entries())
            if (k !== i || method === 'POST') expect(after.includes(one)).toBe(true);
          const value = JSON.parse(after.replace('\uFEFF', '')) as {
            features: { id: unknown; properties: Record<string, unknown> }[];
          };
          const ids = value.features.map(({ id }) => id);
          const expected = own.map((_, k) => k as unknown);
          if (method === 'DELETE') expected.splice(i, 1);
          if (method === 'POST') expected.push(expect.any(String));
          expect(ids).toEqual(expected);
          if (method === 'PATCH')
            for (const [name, one] of list[i][0])
              if (name !== '"added"') expect(after.includes(`${name}:${list[i][1]}${one}`)).toBe(true);
        },
      ),
      { numRuns: 1000, seed: 28 },
    );
  });

  test.each([
    ['without ids', file(feature(1), feature(undefined)), /1 of its 2 features have no id/],
    ['with repeated ids', file(feature(1), feature('1')), /have the same id/],
    ['not in UTF-8', Buffer.from(file(feature(1, { name: 'M\u00f6we' })), 'latin1'), /not encoded in UTF-8/],
  ])('a file %s is offered read-only, and says why', async (_, content, reason) => {
    writeFileSync(at('a.geojson'), content);
    await start();
    for (const [method, url] of [
      ['POST', items],
      ['PUT', `${items}/1`],
      ['PATCH', `${items}/1`],
      ['DELETE', `${items}/1`],
    ] as const) {
      const answer = await send(method, url, method === 'DELETE' ? undefined : feature(1));
      expect([answer.statusCode, answer.headers['allow'], answer.body]).toEqual([
        405,
        'GET, HEAD, OPTIONS',
        expect.stringMatching(reason),
      ]);
    }
    expect((await get('/features/collections/a')).json()).toMatchObject({ description: expect.stringMatching(reason) });
    expect((await get(items)).body).not.toContain('\uFFFD');
    expect(readFileSync(at('a.geojson'))).toEqual(Buffer.from(content));
  });

  test('long numbers go out as they stand', async () => {
    writeFileSync(
      at('a.geojson'),
      '{"type":"FeatureCollection","features":[{"type":"Feature","id":1,"properties":{"n":12345678901234567890},"geometry":null}]}',
    );
    await start();
    for (const url of [items, `${items}/1`]) expect((await get(url)).body).toContain('"n":12345678901234567890');
  });
});

describe('bad requests and files', () => {
  beforeEach(() => writeFileSync(at('a.geojson'), file(feature(1))));
  const ring = (positions: number[][]) => ({ ...feature(1), geometry: { type: 'Polygon', coordinates: [positions] } });

  test.each([
    [
      'nested 5,000 deep',
      `{"type":"Feature","geometry":null,"properties":{"a":${'['.repeat(5000)}${']'.repeat(5000)}}}`,
    ],
    ['properties that are a list', { ...feature(1), properties: [1] }],
    ['properties that are a text', { ...feature(1), properties: 'a' }],
    [
      'an open ring',
      ring([
        [0, 0],
        [1, 0],
        [1, 1],
        [0, 1],
      ]),
    ],
    [
      'a ring of three positions',
      ring([
        [0, 0],
        [1, 0],
        [0, 0],
      ]),
    ],
    ['nothing', ''],
  ])('%s is 400, and nothing changes', async (_, body) => {
    await start();
    for (const [method, url] of [
      ['POST', items],
      ['PUT', `${items}/1`],
    ] as const) {
      const answer = await send(method, url, body);
      expect([method, answer.statusCode]).toEqual([method, 400]);
    }
    expect(readFileSync(at('a.geojson'), 'utf8')).toBe(file(feature(1)));
  });

  test.each(['bbox', 'q', 'limit', 'offset'])('%s given twice, or 10 kB long, is 400', async (key) => {
    await start();
    expect((await get(`${items}?${key}=1&${key}=2`)).statusCode).toBe(400);
    expect((await get(`${items}?${key}=${'1 '.repeat(5000)}`)).statusCode).toBe(400);
  });

  test('the search service: a text near a place or in a box, what lies at a place, names in the language of the request', async () => {
    const town = (lon: number, name: string, other: object = {}) => ({
      type: 'Feature',
      properties: { name, kind: 'town', ...other },
      geometry: { type: 'Point', coordinates: [lon, 50] },
    });
    const house = (lon: number, number: string) => ({
      type: 'Feature',
      properties: { street: 'Torweg', number },
      geometry: { type: 'Point', coordinates: [lon, 50.001] },
    });
    const lists = [
      { name: 'towns', features: [town(10, 'Ilverund', { 'name:fr': 'Ilverond' }), town(20, 'Ilverund')] },
      { name: 'houses', features: [house(10, '3'), house(10.001, '12b')] },
    ];
    writeFileSync(at('made.gazetteer'), buildGazetteer(lists).bytes);
    await start();
    type Answer = {
      features: { geometry: { coordinates: number[] }; properties: { geocoding: Record<string, string> } }[];
      detail?: string;
    };
    const ask = async (query: string, headers: Record<string, string> = {}) => {
      const { body, statusCode } = await get(`/places/made?${query}`, headers);
      const { features = [], detail: message = '' } = JSON.parse(body) as Answer;
      return [
        statusCode,
        ...features.slice(0, 1).map(({ geometry, properties }) => [geometry.coordinates[0], properties.geocoding]),
        message,
      ];
    };
    expect(await ask('q=ilverund&near=20,50')).toEqual([200, [20, expect.objectContaining({ name: 'Ilverund' })], '']);
    expect(await ask('q=ilverund&bbox=5,40,15,60')).toEqual([200, [10, expect.anything()], '']);
    expect(await ask('q=ilverond&near=10,50', { 'accept-language': 'en;q=0.5, fr-CA' })).toEqual([
      200,
      [10, expect.objectContaining({ name: 'Ilverond' })],
      '',
    ]);
    // The number stands behind the street where that is the custom.
    expect(await ask('q=torweg 12b')).toEqual([
      200,
      [10.001, expect.objectContaining({ name: 'Torweg 12b', street: 'Torweg', housenumber: '12b' })],
      '',
    ]);
    expect(await ask('at=20,50')).toEqual([200, [20, expect.objectContaining({ name: 'Ilverund' })], '']);
    for (const [query, message] of [
      ['', /q or at is required/],
      ['q=', /q is empty/],
      ['q=%20%20', /q is empty/],
      ['q=a&at=1,2', /q and at exclude each other/],
      ['at=1', /at=1 is not lon,lat/],
      ['q=a&bbox=1,2,3', /is not west,south,east,north/],
      ['q=a&near=1,91', /near=1,91/],
      ['q=a&lon=1&lat=2', /there is no lon; write near=lon,lat/],
      ['q=a&lang=de', /Accept-Language/],
    ] as const)
      expect([query, ...(await ask(query))]).toEqual([query, 400, expect.stringMatching(message)]);
    // Problem details have a media type of their own (RFC 9457), and an accuracy is in meters.
    const { headers } = await get('/places/made?q=');
    expect(headers['content-type']).toMatch(/^application\/problem\+json/);
    const [, found] = (await ask('q=ilverund')) as [number, [number, { accuracy?: number }]];
    expect(found[1].accuracy).toBeUndefined();
  });

  test('a search given twice, or 10 kB long, is 400', async () => {
    writeFileSync(at('reach.gazetteer'), readFileSync(join(demo, 'reach.gazetteer')));
    await start();
    for (const query of ['q=a&q=b', 'q=a&limit=1&limit=2', 'at=1,2&at=2,3', `q=${'harbor '.repeat(1500)}`])
      expect([query.slice(0, 20), (await get(`/places/reach?${query}`)).statusCode]).toEqual([query.slice(0, 20), 400]);
  });

  test.each([
    ['empty', ''],
    ['broken', '{"type":"FeatureColl'],
    ['null', 'null'],
    ['a list', '[]'],
    ['with a feature that is null', '{"type":"FeatureCollection","features":[null]}'],
    ['nested too deep', `{"type":"FeatureCollection","x":${'['.repeat(4000)}${']'.repeat(4000)},"features":[]}`],
  ])('a file that is %s is 422 and says why', async (_, content) => {
    writeFileSync(at('a.geojson'), content);
    await start();
    for (const url of [items, `${items}/1`]) {
      const answer = await get(url);
      expect([answer.statusCode, answer.body]).toEqual([
        422,
        expect.stringMatching(/is not a GeoJSON feature collection/),
      ]);
    }
    expect((await send('POST', items, feature(1))).statusCode).toBe(422);
  });

  test('a byte order mark, conditions, and boxes across the antimeridian or with heights', async () => {
    const far = { ...feature(2), geometry: { type: 'Point', coordinates: [-179, 2] } };
    writeFileSync(at('a.geojson'), `\uFEFF${file(feature(1), far)}`);
    await start();
    const tag = String((await get(`${items}/1`)).headers['etag']);
    expect((await get(`${items}/1`, { 'if-none-match': tag })).statusCode).toBe(304);
    expect((await send('PUT', `${items}/1`, feature(1), { 'if-none-match': '*' })).statusCode).toBe(412);
    const found = async (box: string) =>
      (await get(`${items}?bbox=${box}`)).json<{ features: { id: number }[] }>().features.map(({ id }) => id);
    expect(await found('170,-10,-170,10')).toEqual([2]);
    expect(await found('0,0,-5,3,4,9')).toEqual([1]);
    expect(await found('0,0,3,4')).toEqual([1]);
    expect((await get(`${items}?bbox=0,5,3,4`)).statusCode).toBe(400);
  });

  test('where nothing more can be written the answer is 507 without a path, and the file stays', async () => {
    // A limit of 4 kB on the size of files fails like a full disk.
    const large = file(feature(1, { text: 'x'.repeat(9000) }));
    writeFileSync(at('a.geojson'), large);
    const child = spawn('bash', [
      '-c',
      `ulimit -f 4; trap '' XFSZ; exec "${process.execPath}" "${bin}" serve "${folder}" --accept-edits --port 0`,
    ]);
    try {
      let said = '';
      child.stdout.on('data', (text) => (said += String(text)));
      for (let k = 0; k < 200 && !/http:\S+/.test(said); k++) await new Promise((done) => setTimeout(done, 50));
      // oxlint-disable-next-line no-control-regex
      const address = /http:\/\/[^\s\u001b]+/.exec(said)![0];
      const answer = await fetch(`${address}${items}`, {
        method: 'POST',
        headers: { 'Content-Type': geo },
        body: JSON.stringify(feature(2)),
      });
      expect([answer.status, await answer.text()]).toEqual([507, expect.not.stringContaining(folder)]);
      expect(readFileSync(at('a.geojson'), 'utf8')).toBe(large);
    } finally {
      child.kill();
    }
  });

  test('a sender of headers that takes its time is cut off after 10 s', async () => {
    const app = await start();
    await app.listen({ port: 0, host: '127.0.0.1' });
    const { port } = app.server.address() as { port: number };
    const began = Date.now();
    const socket = connect(port, '127.0.0.1');
    socket.on('error', () => {});
    socket.write('GET / HTTP/1.1\r\nHost: localhost\r\n');
    const drip = setInterval(() => socket.writable && socket.write('X-A: 1\r\n'), 1000);
    await new Promise((done) => socket.once('close', done));
    clearInterval(drip);
    expect(Date.now() - began).toBeLessThan(14_000);
  }, 30_000);
});
