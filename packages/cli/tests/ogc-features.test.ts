// An executable test suite for the service of features, written from the abstract tests of OGC API – Features: Part 1 (17-069r4, annex A) and
// Part 2 (18-058r1, annex A). It asks a running server over HTTP; each test has the name of the abstract test.
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { Validator } from '@seriousme/openapi-schema-validator';
import { getCrs, transformGeoJson } from '@flintwright/core';
import { crsByCode } from '@flintwright/core/files';
import { serveFolder } from '@flintwright/cli';
import { Ajv } from 'ajv';

type Json = Readonly<Record<string, unknown>>;
interface Link {
  readonly href: string;
  readonly rel: string;
  readonly type?: string;
}

let folder: string;
let server: Awaited<ReturnType<typeof serveFolder>>;
let base: string;

const feature = (id: number, geometry: unknown, properties: Json) => ({ type: 'Feature', id, geometry, properties });
const point = (...coordinates: number[]) => ({ type: 'Point', coordinates });
const diamond = (x: number, y: number, r: number) => ({
  type: 'Polygon',
  coordinates: [
    [
      [x + r, y],
      [x, y + r],
      [x - r, y],
      [x, y - r],
      [x + r, y],
    ],
  ],
});
/** Moorings about 31° W, beds that are no rectangles, and what makes a service stumble. */
const collections: Record<string, object> = {
  moorings: {
    type: 'FeatureCollection',
    features: [
      feature(1, point(-31.2, 44.6), { name: 'Alder', seen: '2031-04-18' }),
      feature(2, point(-31.1, 44.65, 12.5), { name: 'Birch', seen: '2031-04-19T09:30:00Z' }),
      feature(3, null, { name: 'Cedar <&>', seen: null }),
      feature(4, point(-31, 44.7), { name: 'Dogwood', seen: '2031-06-01' }),
      feature(5, diamond(-31.5, 44.5, 0.2), { name: 'Elm', seen: '2030-01-01' }),
      feature(6, point(179.5, 10), { name: 'Fir', seen: '2031-04-18T12:00:00+02:00' }),
      feature(7, point(-179.5, 10), { name: 'Gum', seen: '2031-04-18' }),
    ],
  },
  plain: { type: 'FeatureCollection', features: [feature(1, point(1, 2), { n: 1 })] },
  empty: { type: 'FeatureCollection', features: [] },
};

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'flintwright-'));
  for (const [name, json] of Object.entries(collections))
    writeFileSync(join(folder, `${name}.geojson`), JSON.stringify(json));
  const grid = transformGeoJson(
    { type: 'FeatureCollection', features: [feature(1, point(-31.2, 44.6), {}), feature(2, point(-31, 44.7), {})] },
    { from: getCrs('OGC:CRS84'), to: await crsByCode('EPSG:32625') },
  );
  writeFileSync(join(folder, 'grid.geojson'), JSON.stringify(grid));
  server = await serveFolder(folder, {});
  base = `${await server.listen({ port: 0, host: '127.0.0.1' })}/features`;
});
afterAll(async () => {
  await server.close();
  rmSync(folder, { recursive: true });
});

async function ask(path: string, accept = 'application/geo+json, application/json', method = 'GET') {
  const url = path.startsWith('http') ? path : base + path;
  const answer = await fetch(url, { method, headers: { accept } });
  const text = await answer.text();
  const type = answer.headers.get('content-type') ?? '';
  return { url, status: answer.status, headers: answer.headers, type, text, json: () => JSON.parse(text) as Json };
}
const linksOf = (json: Json) => json['links'] as Link[];
const rel = (json: Json, name: string, type?: string) =>
  linksOf(json).filter((one) => one.rel === name && (type === undefined || one.type === type));
const ids = (json: Json) => (json['features'] as { id: number }[]).map(({ id }) => id);
const items = (query = '') => ask(`/collections/moorings/items${query}`);
const crs84 = 'http://www.opengis.net/def/crs/OGC/1.3/CRS84';
const epsg = (code: number) => `http://www.opengis.net/def/crs/EPSG/0/${code}`;

// The schemas of the standard (annex B, and the texts of sections 7.2, 7.4, 7.13 to 7.16).
const link = {
  type: 'object',
  required: ['href', 'rel', 'type'],
  properties: { href: { type: 'string', pattern: '^http://127' } },
};
const links = { type: 'array', items: link };
const geometry = { type: ['object', 'null'], required: ['type'] };
const featureSchema = {
  type: 'object',
  required: ['type', 'geometry', 'properties'],
  properties: {
    type: { const: 'Feature' },
    geometry,
    properties: { type: ['object', 'null'] },
    id: { type: ['string', 'number'] },
    links,
  },
};
const collectionSchema = {
  type: 'object',
  required: ['id', 'links', 'crs', 'storageCrs'],
  properties: {
    id: { type: 'string' },
    links,
    itemType: { const: 'feature' },
    crs: { type: 'array', minItems: 1, items: { type: 'string' } },
    extent: {
      type: 'object',
      properties: {
        spatial: {
          type: 'object',
          required: ['bbox'],
          properties: {
            bbox: {
              type: 'array',
              minItems: 1,
              items: { type: 'array', minItems: 4, maxItems: 6, items: { type: 'number' } },
            },
            crs: { const: crs84 },
          },
        },
        temporal: {
          type: 'object',
          required: ['interval'],
          properties: {
            interval: {
              type: 'array',
              minItems: 1,
              items: { type: 'array', minItems: 2, maxItems: 2, items: { type: ['string', 'null'] } },
            },
          },
        },
      },
    },
  },
};
const schemas = {
  landingPage: { type: 'object', required: ['links'], properties: { links } },
  conformance: {
    type: 'object',
    required: ['conformsTo'],
    properties: { conformsTo: { type: 'array', items: { type: 'string' } } },
  },
  collections: {
    type: 'object',
    required: ['links', 'collections'],
    properties: { links, collections: { type: 'array', items: collectionSchema } },
  },
  collection: collectionSchema,
  features: {
    type: 'object',
    required: ['type', 'features', 'links', 'timeStamp', 'numberMatched', 'numberReturned'],
    properties: {
      type: { const: 'FeatureCollection' },
      features: { type: 'array', items: featureSchema },
      links,
      numberMatched: { type: 'integer', minimum: 0 },
      numberReturned: { type: 'integer', minimum: 0 },
    },
  },
  feature: { ...featureSchema, required: [...featureSchema.required, 'id', 'links'] },
};
const ajv = new Ajv({ strict: false });
const expectValid = (name: keyof typeof schemas, json: unknown) => {
  const check = ajv.compile(schemas[name]);
  check(json);
  expect(check.errors ?? []).toEqual([]);
};
const documents = (): [string, keyof typeof schemas][] => [
  ['', 'landingPage'],
  ['/', 'landingPage'],
  ['/conformance', 'conformance'],
  ['/collections', 'collections'],
  ['/collections/moorings', 'collection'],
  ['/collections/moorings/items', 'features'],
  ['/collections/moorings/items/', 'features'],
  ['/collections/empty/items', 'features'],
  ['/collections/grid/items', 'features'],
  ['/collections/moorings/items/2', 'feature'],
  ['/collections/grid/items/2', 'feature'],
];

describe('core', () => {
  test('/conf/core/http: HTTP/1.1, HEAD and OPTIONS', async () => {
    for (const [path] of documents()) {
      const head = await ask(path, '*/*', 'HEAD');
      expect([path, head.status, head.text]).toEqual([path, 200, '']);
      const options = await ask(path, '*/*', 'OPTIONS');
      expect([path, options.status, options.headers.get('allow')]).toEqual([path, 204, 'GET, HEAD, OPTIONS']);
    }
    expect((await ask('/collections/moorings/items', '*/*', 'DELETE')).status).toBe(405);
    expect((await ask('/nothing')).status).toBe(404);
  });

  test('/conf/core/root-op, root-success: the landing page leads to definition, conformance and collections', async () => {
    const json = (await ask('/')).json();
    for (const name of ['service-desc', 'service-doc', 'conformance', 'data'])
      for (const { href, type } of rel(json, name)) {
        const there = await ask(href, type);
        expect([name, there.status, there.type.split(/; (?=charset)/)[0]]).toEqual([name, 200, type]);
      }
    expect(['service-desc', 'conformance', 'data'].map((name) => rel(json, name).length)).toEqual([1, 1, 1]);
  });

  test('/conf/oas30/oas-definition, oas-impl: the definition is valid OpenAPI 3.0, and every path of it is answered', async () => {
    const definition = (await ask('/api', 'application/vnd.oai.openapi+json;version=3.0')).json();
    const { valid, errors } = await new Validator().validate(structuredClone(definition) as Record<string, unknown>);
    expect([valid, errors]).toEqual([true, undefined]);
    const { paths, components } = definition as {
      paths: Record<string, Json>;
      components: { parameters: Record<string, { name: string }> };
    };
    for (const path of Object.keys(paths)) {
      const real = path.replace('{collectionId}', 'moorings').replace('{featureId}', '1');
      expect([path, (await ask(real)).status]).toEqual([path, 200]);
    }
    // /conf/core/fc-*-definition: the parameters that the standard wants.
    expect(components.parameters).toMatchObject({
      limit: { in: 'query', required: false, style: 'form', explode: false, schema: { type: 'integer', minimum: 1 } },
      bbox: {
        in: 'query',
        required: false,
        style: 'form',
        explode: false,
        schema: {
          oneOf: [
            { minItems: 4, maxItems: 4 },
            { minItems: 6, maxItems: 6 },
          ],
        },
      },
      datetime: { in: 'query', required: false, style: 'form', explode: false, schema: { type: 'string' } },
    });
  });

  test('/conf/core/conformance-success: the classes that are met', async () => {
    const { conformsTo } = (await ask('/conformance')).json() as { conformsTo: string[] };
    for (const name of ['core', 'geojson', 'html', 'oas30'])
      expect(conformsTo).toContain(`http://www.opengis.net/spec/ogcapi-features-1/1.0/conf/${name}`);
  });

  test.each(['geojson, json'])(
    'every document is valid by its schema, links to itself and to its other forms (%s)',
    async () => {
      for (const [path, schema] of documents()) {
        const answer = await ask(path);
        expect([path, answer.status]).toEqual([path, 200]);
        const json = answer.json();
        expectValid(schema, json);
        if (schema === 'conformance') continue;
        const [self] = rel(json, 'self');
        expect(self.href).toBe(answer.url);
        for (const { href, type } of rel(json, 'alternate')) {
          const other = await ask(href, type);
          expect([path, other.status, other.type]).toEqual([path, 200, 'text/html; charset=utf-8']);
        }
        expect(rel(json, 'alternate', 'text/html')).toHaveLength(1);
      }
    },
  );

  test('/conf/core/rc-md-links, fc-md-extent, sfc-md-success: collections say the same at both places, and where and when they are', async () => {
    const all = (await ask('/collections')).json() as { collections: (Json & { id: string })[] };
    expect(all.collections.map(({ id }) => id).sort()).toEqual(['empty', 'grid', 'moorings', 'plain']);
    for (const one of all.collections) {
      const alone = (await ask(`/collections/${one.id}`)).json();
      for (const key of ['id', 'title', 'extent', 'crs', 'storageCrs', 'itemType'])
        expect(alone[key]).toEqual(one[key]);
      expect(rel(one, 'items', 'application/geo+json')).toHaveLength(1);
      expect((await ask(rel(one, 'items')[0].href)).status).toBe(200);
    }
    expect((await ask('/collections/moorings')).json()['extent']).toEqual({
      spatial: { bbox: [[-179.5, 10, 179.5, 44.7]], crs: crs84 },
      temporal: { interval: [['2030-01-01T00:00:00Z', '2031-06-01T23:59:59Z']] },
    });
    const { spatial } = (await ask('/collections/grid')).json()['extent'] as { spatial: { bbox: number[][] } };
    expect(spatial.bbox[0].map((v) => Math.round(v * 1e6) / 1e6)).toEqual([-31.2, 44.6, -31, 44.7]);
    expect((await ask('/collections/none')).status).toBe(404);
  });

  test('/conf/core/fc-limit-response: no more than the limit, and all of them by the links', async () => {
    const seen: number[] = [];
    let next: string | undefined = `${base}/collections/moorings/items?limit=3`;
    while (next !== undefined) {
      const json = (await ask(next)).json();
      expect([json['numberMatched'], json['numberReturned']]).toEqual([7, ids(json).length]);
      expect(ids(json).length).toBeLessThanOrEqual(3);
      seen.push(...ids(json));
      next = rel(json, 'next')[0]?.href;
    }
    expect(seen).toEqual([1, 2, 3, 4, 5, 6, 7]);
    expect((await items('?limit=1000000')).status).toBe(200);
  });

  test.each<[string, number[]]>([
    ['-31.25,44.55,-31.05,44.66', [1, 2]],
    // The corner of the box about a diamond is no part of it.
    ['-31.7,44.3,-31.65,44.35', []],
    ['-31.62,44.38,-31.58,44.42', [5]],
    ['170,0,-170,20', [6, 7]],
    ['-31.15,44.6,0,-31.05,44.7,10', []],
    ['-31.15,44.6,0,-31.05,44.7,20', [2]],
    ['-31.25,44.55,0,-31.15,44.66,1', [1]],
    ['-180,-90,180,90', [1, 2, 4, 5, 6, 7]],
  ])('/conf/core/fc-bbox-response: %s', async (bbox, wanted) => {
    expect(ids((await items(`?bbox=${bbox}`)).json())).toEqual(wanted);
  });

  test.each<[string, number[]]>([
    ['2031-04-18', [1, 6, 7]],
    ['2031-04-18T10:00:00Z', [1, 6, 7]],
    ['2031-04-19T09:30:00Z', [2]],
    ['2031-04-19T09:30:01Z', []],
    ['2031-04-19/..', [2, 4]],
    ['2031-04-19/', [2, 4]],
    ['../2030-12-31', [5]],
    ['2031-04-18T23:00:00Z/2031-04-19T09:30:00Z', [1, 2, 7]],
  ])('/conf/core/fc-time-response: %s', async (datetime, wanted) => {
    expect(ids((await items(`?datetime=${datetime}`)).json())).toEqual(wanted);
    // A collection that says nothing of times leaves nothing out.
    expect(ids((await ask(`/collections/plain/items?datetime=${datetime}`)).json())).toEqual([1]);
  });

  test.each([
    'limit=0',
    'limit=-1',
    'limit=x',
    'bbox=1,2,3',
    'bbox=1,2,3,x',
    'bbox=1,4,3,2',
    'bbox=1,2,3,400',
    'bbox=1,2,9,3,4,8',
    'datetime=yesterday',
    'datetime=2031-02-30',
    'datetime=2031-04-19/2031-04-18',
    'datetime=../..',
    'datetime=2031-04-18T09:30:00',
    'crs=EPSG:1',
    `crs=${epsg(27700)}`,
    `bbox-crs=x&bbox=1,2,3,4`,
    'color=red',
    'limit=1&limit=2',
    'f=xml',
  ])('/conf/core/query-param-invalid, query-param-unknown: %s is 400, as problem details', async (query) => {
    const answer = await items(`?${query}`);
    expect([answer.status, answer.type]).toEqual([400, expect.stringContaining('application/problem+json')]);
    expect(answer.json()).toMatchObject({ status: 400, title: 'Bad Request', detail: expect.any(String) });
  });

  test('unknown parameters are 400 everywhere; an answer in no form that is asked for is 406', async () => {
    for (const [path] of documents()) expect([path, (await ask(`${path}?color=red`)).status]).toEqual([path, 400]);
    expect((await ask('/collections', 'image/png')).status).toBe(406);
  });

  test('/conf/core/f-success, f-links: a feature is that of the items, with links to itself and its collection', async () => {
    const all = (await items()).json() as { features: Json[] };
    for (const one of all.features) {
      const answer = await ask(`/collections/moorings/items/${String(one['id'])}`);
      const { links: own, ...alone } = answer.json();
      expect(alone).toEqual(one);
      expect((own as Link[]).map((each) => each.rel)).toEqual(['self', 'alternate', 'collection']);
      expect((await ask((own as Link[])[2].href)).status).toBe(200);
    }
    const missing = await ask('/collections/moorings/items/99');
    expect([missing.status, missing.type]).toEqual([404, expect.stringContaining('application/problem+json')]);
  });
});

describe('html', () => {
  test('/conf/html/content: every document is a page too, with its texts as texts', async () => {
    for (const path of [...documents().map(([one]) => one), '/api']) {
      const answer = await ask(path, 'text/html,application/xhtml+xml,*/*;q=0.8');
      expect([path, answer.status, answer.type]).toEqual([path, 200, 'text/html; charset=utf-8']);
      expect(answer.text).toMatch(/^<!doctype html>\n<html lang="en">/);
      expect(answer.text).not.toContain('<&>');
    }
    const { text } = await ask('/collections/moorings/items?f=html');
    expect(text).toContain('Cedar &lt;&amp;&gt;');
  });
});

describe('Part 2: coordinate systems', () => {
  test('/conf/crs/fc-md-crs-list, fc-md-storageCrs: systems by their URIs, that of the file among them', async () => {
    const grid = (await ask('/collections/grid')).json();
    expect(grid['storageCrs']).toBe(epsg(32625));
    expect(grid['crs']).toEqual([crs84, epsg(4326), epsg(3857), epsg(32625)]);
    expect((await ask('/collections/moorings')).json()['storageCrs']).toBe(crs84);
  });

  test('/conf/crs/fc-crs-action, ogc-crs-header: features in the system that is asked for, its axes in the order of the authority', async () => {
    const first = async (collection: string, crs?: string) => {
      const answer = await ask(`/collections/${collection}/items${crs ? `?crs=${encodeURIComponent(crs)}` : ''}`);
      const { features } = answer.json() as { features: { geometry: { coordinates: number[] } }[] };
      const one = await ask(`/collections/${collection}/items/1${crs ? `?crs=${encodeURIComponent(crs)}` : ''}`);
      expect((one.json() as { geometry: unknown }).geometry).toEqual(features[0].geometry);
      expect(one.headers.get('content-crs')).toBe(answer.headers.get('content-crs'));
      return [answer.headers.get('content-crs'), ...features[0].geometry.coordinates];
    };
    const close = (v: number, digits: number) => expect.closeTo(v, digits) as unknown as number;
    expect(await first('moorings')).toEqual([`<${crs84}>`, -31.2, 44.6]);
    expect(await first('moorings', epsg(4326))).toEqual([`<${epsg(4326)}>`, close(44.6, 9), close(-31.2, 9)]);
    // EPSG:3857 by its formula (Guidance Note 7-2, section 3.2.5.1).
    const arc = Math.PI / 180;
    const web = [6378137 * -31.2 * arc, 6378137 * Math.log(Math.tan(Math.PI / 4 + 22.3 * arc))];
    expect(await first('moorings', epsg(3857))).toEqual([`<${epsg(3857)}>`, close(web[0], 4), close(web[1], 4)]);
    expect(await first('grid')).toEqual([`<${crs84}>`, close(-31.2, 8), close(44.6, 8)]);
    const [, x, y] = await first('grid', epsg(32625));
    expect([Number(x) > 6e5 && Number(x) < 7e5, Number(y) > 49e5 && Number(y) < 5e6]).toEqual([true, true]);
  });

  test('/conf/crs/fc-bbox-crs-action: a box in any of the systems', async () => {
    const found = async (collection: string, bbox: string, crs: string) =>
      ids((await ask(`/collections/${collection}/items?bbox=${bbox}&bbox-crs=${encodeURIComponent(crs)}`)).json());
    expect(await found('moorings', '44.55,-31.25,44.66,-31.05', epsg(4326))).toEqual([1, 2]);
    expect(await found('moorings', '0,170,20,-170', epsg(4326))).toEqual([6, 7]);
    const arc = Math.PI / 180;
    const web = (lon: number, lat: number) => [
      6378137 * lon * arc,
      6378137 * Math.log(Math.tan(Math.PI / 4 + (lat / 2) * arc)),
    ];
    const box = [...web(-31.25, 44.55), ...web(-31.05, 44.66)].join(',');
    expect(await found('moorings', box, epsg(3857))).toEqual([1, 2]);
    expect(await found('grid', box, epsg(3857))).toEqual([1]);
    const { features } = (await ask(`/collections/grid/items?crs=${epsg(32625)}`)).json() as {
      features: { geometry: { coordinates: number[] } }[];
    };
    const [x, y] = features[1].geometry.coordinates;
    expect(await found('grid', `${x - 1},${y - 1},${x + 1},${y + 1}`, epsg(32625))).toEqual([2]);
    expect(await found('grid', '-31.1,44.65,-30.9,44.75', crs84)).toEqual([2]);
  });
});
