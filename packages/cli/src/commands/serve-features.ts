import { Fault, readGeoJson } from '@flintwright/core';
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import { createHash, randomUUID } from 'node:crypto';
import { deepest, depthOf, FeatureFileText, patchText, type FileFeature } from './feature-file.js';
import { isKnown } from './serve-tiles.js';
import { single } from './query.js';

/** A file of features that is served as a collection. */
export interface CollectionFile {
  readonly path: string;
  /** Changes with the file. */
  readonly stamp: string;
}

/** Where the collections are, and whether they may be changed. */
export interface FeatureServiceFiles {
  /** Names of all collections. */
  names(): readonly string[];
  /** The file of a collection; undefined where there is none. */
  find(name: string): CollectionFile | undefined;
  /** Whether features may be added, replaced, changed and deleted. */
  readonly edits: boolean;
  /** Whether a key is wanted of everybody. */
  readonly keyed: boolean;
}

const part1 = 'http://www.opengis.net/spec/ogcapi-features-1/1.0/conf';
const part4 = 'http://www.opengis.net/spec/ogcapi-features-4/1.0/conf';
const mostItems = 10000;

/** A collection as it is held: read when it is first asked for, and again when another program wrote its file. */
class Collection {
  private stamp = '';
  private file: FeatureFileText | undefined;
  private turn: Promise<unknown> = Promise.resolve();

  constructor(private readonly find: () => CollectionFile | undefined) {}

  /** Does one thing after the other, on the file as it is. */
  private next<T>(work: (file: FeatureFileText, path: string) => Promise<T>): Promise<T> {
    const done = this.turn.then(async () => {
      const { path, stamp } = this.find() ?? { path: '', stamp: '' };
      if (!path) throw new Refusal(404, 'the file of the collection is gone');
      if (!this.file || stamp !== this.stamp) this.file = await read(path);
      this.stamp = stamp;
      return work(this.file, path);
    });
    this.turn = done.catch(() => {
      // The caller gets the error; later calls are not affected.
    });
    return done;
  }

  all(): Promise<FeatureFileText> {
    return this.next((file) => Promise.resolve(file));
  }

  /**
   * Adds, replaces or removes a feature, and writes the file. The bytes of all other features stay as they are.
   *
   * @param id of the feature
   * @param change text of the feature after the change, undefined to remove it; throws to leave all as it was
   * @throws Refusal 405 where the collection is read-only
   */
  change<T extends string | undefined>(id: string, change: (now: FileFeature | undefined) => T): Promise<T> {
    return this.next(async (file, path) => {
      if (file.readOnly) throw new Refusal(405, `the collection is read-only: ${file.readOnly}`);
      const after = change(file.find(id));
      await file.write(path, id, after);
      this.stamp = '';
      return after;
    });
  }
}

/** @throws Refusal 422 for a file that is not a feature collection */
async function read(path: string): Promise<FeatureFileText> {
  try {
    return await FeatureFileText.read(path);
  } catch (error) {
    if (error instanceof Fault) throw new Refusal(422, error.toString());
    throw error;
  }
}

/** An answer other than that all went well. */
class Refusal extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

const tagOf = (text: string) => `"${createHash('sha1').update(text).digest('base64url').slice(0, 16)}"`;

/** A body as it came, and what it says. */
interface Sent {
  readonly text: string;
  readonly value: unknown;
}

/** The text of a feature that was sent, with an id. @throws Refusal 400 */
function featureText({ text, value }: Sent, id: string | number): string {
  const {
    type,
    geometry = null,
    properties = null,
  } = (value ?? {}) as Partial<FileFeature['value']> & { type?: unknown };
  if (type !== 'Feature') throw new Refusal(400, 'expected a GeoJSON feature as application/geo+json');
  if (properties !== null && (typeof properties !== 'object' || Array.isArray(properties)))
    throw new Refusal(
      400,
      `expected an object or null for "properties", got ${JSON.stringify(properties).slice(0, 40)}`,
    );
  if (geometry !== null) assertGeometry(geometry);
  const own =
    JSON.stringify((value as { id?: unknown }).id) === JSON.stringify(id) ? text.trim() : patchText(text, { id });
  const missing = {
    ...('geometry' in (value as object) ? {} : { geometry: null }),
    ...('properties' in (value as object) ? {} : { properties: null }),
  };
  // A merge patch cannot write null; members that RFC 7946, section 3.2 requires are put in front of the closing brace.
  const extra = Object.entries(missing).map(([name]) => `,"${name}":null`);
  return extra.length ? `${own.replace(/\}\s*$/, '')}${extra.join('')}}` : own;
}

/** @throws Refusal 400 for a geometry that cannot be read, or a ring that is not closed (RFC 7946, section 3.1.6) */
function assertGeometry(geometry: object): void {
  const { type, coordinates, geometries } = geometry as { type?: unknown; coordinates?: unknown; geometries?: unknown };
  const polygons = type === 'Polygon' ? [coordinates] : type === 'MultiPolygon' ? (coordinates as unknown[]) : [];
  for (const rings of Array.isArray(polygons) ? polygons : [])
    for (const ring of Array.isArray(rings) ? (rings as unknown[]) : [])
      if (!Array.isArray(ring) || ring.length < 4 || String(ring[0]) !== String(ring[ring.length - 1]))
        throw new Refusal(400, 'a ring needs at least four positions, and its last has to repeat its first');
  if (type === 'GeometryCollection' && Array.isArray(geometries))
    for (const one of geometries as object[]) assertGeometry(one);
  try {
    readGeoJson({ type: 'Feature', properties: null, geometry });
  } catch (error) {
    if (error instanceof Fault) throw new Refusal(400, error.toString());
    throw error;
  }
}

/** West, south, east and north of a geometry. */
function boxOf(geometry: object | null): [number, number, number, number] {
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  const walk = (node: unknown): void => {
    if (!Array.isArray(node)) return;
    if (typeof node[0] === 'number') {
      const [x, y] = node as [number, number];
      box[0] = Math.min(box[0], x);
      box[1] = Math.min(box[1], y);
      box[2] = Math.max(box[2], x);
      box[3] = Math.max(box[3], y);
    } else node.forEach(walk);
  };
  const { coordinates, geometries } = (geometry ?? {}) as { coordinates?: unknown; geometries?: readonly object[] };
  walk(coordinates);
  for (const one of geometries ?? []) walk((one as { coordinates?: unknown }).coordinates);
  return box;
}

/**
 * Serves the GeoJSON files of a folder as collections of OGC API Features below `/features`: Part 1 (17-069r4), and, where edits are
 * accepted, Part 4 (20-002): create, replace, update and delete, with entity tags that tell of a change by somebody else.
 *
 * @param server the server
 * @param files the collections
 */
export function serveFeatures(server: FastifyInstance, files: FeatureServiceFiles): void {
  const collections = new Map<string, Collection>();
  const collectionOf = (name: string): Collection => {
    if (!files.find(name)) throw new Refusal(404, `there is no collection ${name}`);
    let known = collections.get(name);
    if (!known) collections.set(name, (known = new Collection(() => files.find(name))));
    return known;
  };
  const types = ['application/json', 'application/geo+json', 'application/merge-patch+json'];
  server.removeContentTypeParser('application/json');
  server.addContentTypeParser(types, { parseAs: 'string' }, (_request, body, done) => {
    const text = body as string;
    try {
      const value = JSON.parse(text.replace(/^\uFEFF/, '')) as unknown;
      if (depthOf(text) > deepest) throw new SyntaxError(`it is nested more than ${deepest} deep`);
      done(null, { text: text.replace(/^\uFEFF/, ''), value } satisfies Sent);
    } catch (error) {
      done(
        Object.assign(new Error(`the body cannot be read as JSON: ${(error as Error).message}`), { statusCode: 400 }),
      );
    }
  });
  const link = (href: string, rel: string, type = 'application/json') => ({ href, rel, type });
  const describe = (name: string) => ({
    id: name,
    title: name,
    crs: ['http://www.opengis.net/def/crs/OGC/1.3/CRS84'],
    itemType: 'feature',
    links: [link(`/features/collections/${encodeURIComponent(name)}/items`, 'items', 'application/geo+json')],
  });
  /** Answers, with refusals in words. */
  const answering =
    <R extends FastifyRequest>(work: (request: R, reply: FastifyReply) => Promise<unknown>) =>
    async (request: R, reply: FastifyReply): Promise<unknown> => {
      try {
        return await work(request, reply);
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
        if (error.status === 405) reply.header('Allow', 'GET, HEAD');
        return reply.code(error.status).send({ message: error.message });
      }
    };
  type Named = FastifyRequest<{ Params: { name: string; id: string }; Querystring: Record<string, unknown> }>;

  server.get('/features', () => ({
    title: 'Features',
    links: [
      link('/features', 'self'),
      link('/features/conformance', 'conformance'),
      link('/features/collections', 'data'),
    ],
  }));
  server.get('/features/conformance', () => ({
    conformsTo: [
      `${part1}/core`,
      `${part1}/geojson`,
      ...(files.edits
        ? ['create-replace-delete', 'update', 'optimistic-locking-etags', 'features'].map((one) => `${part4}/${one}`)
        : []),
    ],
  }));
  server.get('/features/collections', () => ({
    collections: files.names().map(describe),
    links: [link('/features/collections', 'self')],
  }));
  server.get(
    '/features/collections/:name',
    answering(async ({ params: { name } }: Named) => {
      const collection = collectionOf(name);
      const { readOnly } = files.edits ? await collection.all() : { readOnly: undefined };
      return { ...describe(name), ...(readOnly ? { description: `Read-only: ${readOnly}.` } : {}) };
    }),
  );
  server.get(
    '/features/collections/:name/items',
    answering(async ({ params: { name }, query }: Named, reply) => {
      const text = (key: string, most: number) => {
        const value = single(query[key]);
        if (value === null) throw new Refusal(400, `${key} is given several times; give it once`);
        if (value !== undefined && value.length > most)
          throw new Refusal(400, `${key} has ${value.length} characters; at most ${most} are read`);
        return value;
      };
      const number = (key: string, usual: number, least: number) => {
        const value = text(key, 20);
        if (value === undefined) return usual;
        if (!/^\d{1,9}$/.test(value) || Number(value) < least)
          throw new Refusal(400, `${key}=${value} is not a whole number from ${least}`);
        return Number(value);
      };
      const most = Math.min(mostItems, number('limit', 1000, 1));
      const from = number('offset', 0, 0);
      let found = (await collectionOf(name).all()).features;
      const box = text('bbox', 400);
      if (box !== undefined) {
        const meets = within(box);
        found = found.filter(({ value }) => meets(value.geometry));
      }
      const words = text('q', 200)?.toLowerCase().split(/\s+/).filter(Boolean) ?? [];
      if (words.length)
        found = found.filter(({ value: { properties } }) => {
          const all = Object.values(properties ?? {})
            .join(' ')
            .toLowerCase();
          return words.every((word) => all.includes(word));
        });
      const features = found.slice(from, from + most);
      const next = new URLSearchParams(
        Object.entries<string>({
          ...(query as Record<string, string>),
          limit: String(most),
          offset: String(from + most),
        }),
      );
      const path = `/features/collections/${encodeURIComponent(name)}/items`;
      const links = [
        link(path, 'self', 'application/geo+json'),
        ...(from + most < found.length ? [link(`${path}?${next}`, 'next', 'application/geo+json')] : []),
      ];
      // Features go out as they stand in the file, with every digit of their numbers.
      return reply
        .type('application/geo+json')
        .send(
          `{"type":"FeatureCollection","numberMatched":${found.length},"numberReturned":${features.length},"timeStamp":"${new Date().toISOString()}","features":[${features
            .map((feature) => feature.text)
            .join(',')}],"links":${JSON.stringify(links)}}`,
        );
    }),
  );
  server.get(
    '/features/collections/:name/items/:id',
    answering(async ({ params: { name, id }, headers }: Named, reply) => {
      const feature = (await collectionOf(name).all()).find(id);
      if (!feature) throw new Refusal(404, `there is no feature ${id}`);
      const tag = tagOf(feature.text);
      reply.header('ETag', tag).header('Cache-Control', 'no-cache');
      if (isKnown(headers['if-none-match'], tag)) return reply.code(304).send();
      return reply.type('application/geo+json').send(feature.text);
    }),
  );
  if (!files.edits) return;

  /** A page of another host may not write here in the name of the person who looks at it; a key says who writes. */
  const mayWrite = ({ headers: { origin, host } }: FastifyRequest) => {
    if (files.keyed || origin === undefined) return;
    const hostOf = (address: string) => (URL.canParse(address) ? new URL(address).host : undefined);
    if (hostOf(origin) !== undefined && hostOf(origin) === hostOf(`http://${host}`)) return;
    throw new Refusal(403, 'pages of other hosts may write only with a key; start the server with --key-from');
  };
  /** The feature that a request is about. @throws Refusal 404, 412 (RFC 9110, sections 13.1.1 and 13.1.2) */
  const matching = ({ headers }: FastifyRequest, now: FileFeature | undefined, id: string): FileFeature => {
    if (!now) throw new Refusal(404, `there is no feature ${id}`);
    const { 'if-match': expected, 'if-none-match': unexpected } = headers;
    const tag = tagOf(now.text);
    const isMet =
      (expected === undefined || expected.trim() === '*' || expected.split(',').some((one) => one.trim() === tag)) &&
      !isKnown(unexpected, tag);
    if (!isMet) throw new Refusal(412, 'the feature has been changed since it was read');
    return now;
  };
  server.post(
    '/features/collections/:name/items',
    answering(async (request: Named, reply) => {
      mayWrite(request);
      const { name } = request.params;
      const id = randomUUID();
      const text = featureText(bodyOf(request), id);
      await collectionOf(name).change(id, () => text);
      return reply
        .code(201)
        .header('Location', `/features/collections/${encodeURIComponent(name)}/items/${id}`)
        .header('ETag', tagOf(text))
        .send();
    }),
  );
  const write = (change: (now: FileFeature, request: Named) => string | undefined) =>
    answering(async (request: Named, reply) => {
      mayWrite(request);
      const { name, id } = request.params;
      const after = await collectionOf(name).change(id, (now) => change(matching(request, now, id), request));
      return (after === undefined ? reply : reply.header('ETag', tagOf(after))).code(204).send();
    });
  server.put(
    '/features/collections/:name/items/:id',
    write((now, request) => featureText(bodyOf(request), now.value.id!)),
  );
  server.patch(
    '/features/collections/:name/items/:id',
    write((now, request) => {
      const text = patchText(now.text, bodyOf(request).value);
      return featureText({ text, value: JSON.parse(text) as unknown }, now.value.id!);
    }),
  );
  server.delete(
    '/features/collections/:name/items/:id',
    write(() => undefined),
  );
}

/** @throws Refusal 400 without a body */
function bodyOf({ body }: FastifyRequest): Sent {
  if (body === undefined || body === null) throw new Refusal(400, 'expected a body as application/geo+json');
  return body as Sent;
}

/**
 * Whether a geometry meets a box (OGC API Features, Part 1, section 7.15.3): four numbers, or six with heights, which count for nothing here.
 * West may lie east of east, across the antimeridian.
 *
 * @throws Refusal 400
 */
function within(text: string): (geometry: object | null) => boolean {
  const numbers = text.split(',').map((one) => (one.trim() === '' ? NaN : Number(one)));
  if (![4, 6].includes(numbers.length) || !numbers.every(Number.isFinite))
    throw new Refusal(400, 'bbox has to be west,south,east,north in degrees, or six numbers with heights');
  const [west, south, east, north] = numbers.length === 4 ? numbers : [0, 1, 3, 4].map((i) => numbers[i]);
  if (south > north) throw new Refusal(400, `bbox has south ${south} above north ${north}`);
  const spans =
    west <= east
      ? [[west, east]]
      : [
          [west, 180],
          [-180, east],
        ];
  return (geometry) => {
    const [w, s, e, n] = boxOf(geometry);
    return s <= north && n >= south && spans.some(([from, to]) => w <= to && e >= from);
  };
}
