// GeoJSON files as collections of OGC API Features: read (Part 1), and written where edits are accepted (Part 4).
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { serveFolder, type FolderOptions } from '@flintwright/cli';

let folder: string;
let server: Awaited<ReturnType<typeof serveFolder>> | undefined;
const file = () => join(folder, 'buoys.geojson');
const point = (x: number, y: number) => ({ type: 'Point', coordinates: [x, y] });
const feature = (name: string, x: number, id?: number) => ({
  type: 'Feature',
  ...(id === undefined ? {} : { id }),
  geometry: point(x, 44),
  properties: { name },
});

beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'flintwright-'));
  const features = [feature('One', 1, 1), feature('Two', 2, 7), feature('Three', 3, 3)];
  writeFileSync(file(), JSON.stringify({ type: 'FeatureCollection', title: 'Buoys', features }));
});
afterEach(async () => {
  await server?.close();
  rmSync(folder, { recursive: true });
});

const items = '/features/collections/buoys/items';
type Method = 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE';
async function ask(
  method: Method,
  url: string,
  body?: unknown,
  headers: Record<string, string> = {},
  options: FolderOptions = { edits: true },
) {
  server ??= await serveFolder(folder, options);
  const type = method === 'PATCH' ? 'application/merge-patch+json' : 'application/geo+json';
  return server.inject({
    method,
    url,
    ...(body === undefined ? {} : { payload: typeof body === 'string' ? body : JSON.stringify(body) }),
    headers: { ...(body === undefined ? {} : { 'content-type': type }), ...headers },
  });
}
const names = () =>
  (JSON.parse(readFileSync(file(), 'utf8')) as { features: { properties: { name: string } }[] }).features.map(
    ({ properties }) => properties.name,
  );

afterEach(() => (server = undefined));

describe('read', () => {
  test('landing page, conformance, collections, items by page, box and word', async () => {
    const get = async (url: string) => (await ask('GET', url, undefined, {}, {})).json<Record<string, unknown>>();
    expect(JSON.stringify(await get('/features'))).toContain('"rel":"conformance"');
    expect((await get('/features/conformance'))['conformsTo']).toEqual([
      'http://www.opengis.net/spec/ogcapi-features-1/1.0/conf/core',
      'http://www.opengis.net/spec/ogcapi-features-1/1.0/conf/geojson',
      'http://www.opengis.net/spec/ogcapi-features-1/1.0/conf/html',
      'http://www.opengis.net/spec/ogcapi-features-1/1.0/conf/oas30',
      'http://www.opengis.net/spec/ogcapi-features-2/1.0/conf/crs',
    ]);
    expect(JSON.stringify(await get('/features/collections'))).toContain('"id":"buoys"');
    const first = await get(`${items}?limit=2`);
    expect([first['numberMatched'], first['numberReturned']]).toEqual([3, 2]);
    const next = (first['links'] as { rel: string; href: string }[]).find(({ rel }) => rel === 'next')!;
    const rest = await get(next.href);
    expect((rest['features'] as { id: unknown }[]).map(({ id }) => id)).toEqual([3]);
    expect(await get(`${items}?bbox=1.5,40,2.5,50`)).toMatchObject({ numberMatched: 1, features: [{ id: 7 }] });
    expect(await get(`${items}?q=thr`)).toMatchObject({ features: [{ id: 3 }] });
    expect(await get(`${items}?limit=none`)).toMatchObject({ detail: 'limit=none is not a whole number from 1' });
    expect((await ask('GET', `${items}/99`)).statusCode).toBe(404);
    expect((await ask('GET', '/features/collections/none/items')).statusCode).toBe(404);
    const refused = await ask('POST', items, feature('New', 1));
    expect([refused.statusCode, refused.headers['allow']]).toEqual([405, 'GET, HEAD, OPTIONS']);
  });
});

describe('written', () => {
  test('a feature is created, replaced, patched and deleted; the file follows, with what else it says', async () => {
    const made = await ask('POST', items, feature('New', 5));
    expect(made.statusCode).toBe(201);
    const at = String(made.headers['location']);
    expect((await ask('GET', at)).json()).toMatchObject({ properties: { name: 'New' }, geometry: point(5, 44) });
    expect((await ask('PUT', at, feature('Newer', 6))).statusCode).toBe(204);
    expect((await ask('PATCH', at, { properties: { depth: 3 } })).statusCode).toBe(204);
    expect((await ask('GET', at)).json()).toMatchObject({
      properties: { name: 'Newer', depth: 3 },
      geometry: point(6, 44),
    });
    expect((await ask('DELETE', `${items}/7`)).statusCode).toBe(204);
    expect(names()).toEqual(['One', 'Three', 'Newer']);
    expect(JSON.parse(readFileSync(file(), 'utf8'))).toMatchObject({ title: 'Buoys' });
  });

  test('who comes second is told, by the tag of what was read (RFC 9110, section 13.1.1)', async () => {
    const tag = String((await ask('GET', `${items}/7`)).headers['etag']);
    expect((await ask('PUT', `${items}/7`, feature('Mine', 2), { 'if-match': tag })).statusCode).toBe(204);
    const late = await ask('PUT', `${items}/7`, feature('Theirs', 2), { 'if-match': tag });
    expect([late.statusCode, names()[1]]).toEqual([412, 'Mine']);
    expect((await ask('DELETE', `${items}/7`, undefined, { 'if-match': tag })).statusCode).toBe(412);
    // A file that somebody else wrote is read anew.
    writeFileSync(file(), JSON.stringify({ type: 'FeatureCollection', features: [feature('Other', 1)] }));
    expect((await ask('GET', items)).json()).toMatchObject({ features: [{ properties: { name: 'Other' } }] });
  });

  test.each([
    ['no JSON', '{', 400],
    ['no feature', { type: 'Point', coordinates: [1, 2] }, 400],
    [
      'a number that is none',
      '{"type":"Feature","properties":{},"geometry":{"type":"Point","coordinates":[1e999,2]}}',
      400,
    ],
    ['half a geometry', { ...feature('x', 1), geometry: { type: 'Polygon', coordinates: [[1, 2]] } }, 400],
    ['a text', '"text"', 400],
  ])('%s is refused, and nothing is lost', async (_, body, status) => {
    expect((await ask('POST', items, body)).statusCode).toBe(status);
    expect((await ask('PUT', `${items}/7`, body)).statusCode).toBe(status);
    expect(names()).toEqual(['One', 'Two', 'Three']);
  });

  test('many at once come one after the other', async () => {
    await ask('GET', items);
    await Promise.all(Array.from({ length: 30 }, (_, i) => ask('POST', items, feature(`n${i}`, i))));
    expect(names()).toHaveLength(33);
  });

  test('pages of other hosts write only with the key', async () => {
    const origin = { origin: 'https://elsewhere.test' };
    expect((await ask('POST', items, feature('x', 1), origin)).statusCode).toBe(403);
    expect(
      (await ask('POST', items, feature('x', 1), { origin: 'http://localhost:80', host: 'localhost:80' })).statusCode,
    ).toBe(201);
    await server!.close();
    server = await serveFolder(folder, { edits: true, key: 'k' });
    expect((await ask('POST', items, feature('x', 1), origin)).statusCode).toBe(401);
    expect((await ask('GET', items)).statusCode).toBe(401);
    expect((await ask('POST', items, feature('x', 1), { ...origin, authorization: 'Bearer k' })).statusCode).toBe(201);
  });
});
