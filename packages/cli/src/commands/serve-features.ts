import { Fault, readGeoJson } from '@flintwright/core';
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import { createHash, randomUUID } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { writeWhole } from '../output.js';

/** A feature as it is kept: its id, and the rest of it as it came. */
interface Kept {
  readonly type: 'Feature';
  readonly id: string | number;
  readonly geometry: object | null;
  readonly properties: Readonly<Record<string, unknown>> | null;
}

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

/** A collection as it is held: read when it is first asked for, and again when somebody else wrote its file. */
class Collection {
  private stamp = '';
  private head: object = {};
  private readonly features = new Map<string, Kept>();
  private turn: Promise<unknown> = Promise.resolve();

  constructor(private readonly find: () => CollectionFile | undefined) {}

  /** Does one thing after the other, on the file as it is. */
  private next<T>(work: () => Promise<T>): Promise<T> {
    const done = this.turn.then(async () => {
      await this.read();
      return work();
    });
    this.turn = done.catch(() => {
      // Whoever asked is told; the next one is not concerned.
    });
    return done;
  }

  private async read(): Promise<void> {
    const file = this.find();
    if (!file || file.stamp === this.stamp) return;
    const { features, ...head } = JSON.parse(await readFile(file.path, 'utf8')) as {
      readonly features?: readonly Kept[];
    };
    if (!Array.isArray(features)) throw new Refusal(404, 'the file is no FeatureCollection');
    this.features.clear();
    for (const [i, feature] of features.entries()) {
      const id = feature.id ?? i + 1;
      this.features.set(String(id), { ...feature, id });
    }
    this.head = head;
    this.stamp = file.stamp;
  }

  all(): Promise<readonly Kept[]> {
    return this.next(() => Promise.resolve([...this.features.values()]));
  }

  get(id: string): Promise<Kept | undefined> {
    return this.next(() => Promise.resolve(this.features.get(id)));
  }

  /**
   * Puts a feature in, or takes one out, and writes the file.
   *
   * @param id of the feature
   * @param change what becomes of it; throws to leave all as it was
   */
  change(id: string, change: (now: Kept | undefined) => Kept | undefined): Promise<void> {
    return this.next(async () => {
      const after = change(this.features.get(id));
      const features = new Map(this.features);
      if (after) features.set(id, after);
      else features.delete(id);
      const { path } = this.find()!;
      await writeWhole(path, [`${JSON.stringify({ ...this.head, features: [...features.values()] })}\n`]);
      this.features.clear();
      for (const [key, feature] of features) this.features.set(key, feature);
      this.stamp = this.find()!.stamp;
    });
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

const tagOf = (feature: Kept) =>
  `"${createHash('sha1').update(JSON.stringify(feature)).digest('base64url').slice(0, 16)}"`;

/** A feature that somebody sent. @throws Refusal 400 */
function sent(body: unknown, id: string | number): Kept {
  const { type, geometry, properties } = (body ?? {}) as Partial<Kept>;
  if (type !== 'Feature' || typeof body !== 'object')
    throw new Refusal(400, 'the body has to be a GeoJSON feature, as application/geo+json');
  const kept = { type, id, geometry: geometry ?? null, properties: properties ?? null };
  try {
    if (kept.geometry) readGeoJson(kept);
  } catch (error) {
    if (error instanceof Fault) throw new Refusal(400, `${error.message}. ${error.hint}`);
    throw error;
  }
  return kept;
}

/** A merge patch laid over a value (RFC 7396). */
function patched(value: unknown, patch: unknown): unknown {
  if (typeof patch !== 'object' || patch === null || Array.isArray(patch)) return patch;
  const out: Record<string, unknown> =
    typeof value === 'object' && value !== null && !Array.isArray(value) ? { ...value } : {};
  for (const [key, part] of Object.entries(patch))
    if (part === null) delete out[key];
    else Object.defineProperty(out, key, { value: patched(out[key], part), enumerable: true, configurable: true });
  return out;
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
  server.addContentTypeParser(
    ['application/geo+json', 'application/merge-patch+json'],
    { parseAs: 'string' },
    server.getDefaultJsonParser('ignore', 'ignore'),
  );
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
        return reply.code(error.status).send({ message: error.message });
      }
    };
  type Named = FastifyRequest<{ Params: { name: string; id: string }; Querystring: Record<string, string> }>;

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
    answering(({ params: { name } }: Named) => {
      collectionOf(name);
      return Promise.resolve(describe(name));
    }),
  );
  server.get(
    '/features/collections/:name/items',
    answering(async ({ params: { name }, query }: Named, reply) => {
      const number = (key: string, usual: number, least: number) => {
        const text = query[key];
        if (text === undefined) return usual;
        if (!/^\d{1,9}$/.test(text) || Number(text) < least)
          throw new Refusal(400, `${key}=${text} is not a whole number from ${least}`);
        return Number(text);
      };
      const most = Math.min(mostItems, number('limit', 1000, 1));
      const from = number('offset', 0, 0);
      let found = await collectionOf(name).all();
      if (query['bbox'] !== undefined) {
        const box = query['bbox'].split(',').map(Number);
        if (box.length !== 4 || !box.every(Number.isFinite))
          throw new Refusal(400, 'bbox has to be west,south,east,north in degrees');
        found = found.filter(({ geometry }) => {
          const [w, s, e, n] = boxOf(geometry);
          return w <= box[2] && e >= box[0] && s <= box[3] && n >= box[1];
        });
      }
      if (query['q'] !== undefined) {
        const words = query['q'].toLowerCase().split(/\s+/).filter(Boolean);
        found = found.filter(({ properties }) => {
          const text = Object.values(properties ?? {})
            .join(' ')
            .toLowerCase();
          return words.every((word) => text.includes(word));
        });
      }
      const features = found.slice(from, from + most);
      const here = `/features/collections/${encodeURIComponent(name)}/items`;
      const more = new URLSearchParams({ ...query, limit: String(most), offset: String(from + most) });
      return reply.type('application/geo+json').send({
        type: 'FeatureCollection',
        features,
        numberMatched: found.length,
        numberReturned: features.length,
        timeStamp: new Date().toISOString(),
        links: [
          link(here, 'self', 'application/geo+json'),
          ...(from + most < found.length ? [link(`${here}?${more.toString()}`, 'next', 'application/geo+json')] : []),
        ],
      });
    }),
  );
  server.get(
    '/features/collections/:name/items/:id',
    answering(async ({ params: { name, id } }: Named, reply) => {
      const feature = await collectionOf(name).get(id);
      if (!feature) throw new Refusal(404, `there is no feature ${id}`);
      return reply.header('ETag', tagOf(feature)).type('application/geo+json').send(feature);
    }),
  );
  if (!files.edits) return;

  /** A page of another host may not write here in the name of whoever looks at it; with a key it is known who writes. */
  const mayWrite = ({ headers: { origin, host } }: FastifyRequest) => {
    if (files.keyed || origin === undefined) return;
    const hostOf = (address: string) => (URL.canParse(address) ? new URL(address).host : undefined);
    if (hostOf(origin) !== undefined && hostOf(origin) === hostOf(`http://${host}`)) return;
    throw new Refusal(403, 'pages of other hosts may write only with a key; start the server with --key-from');
  };
  const matches = ({ headers }: FastifyRequest, now: Kept | undefined, id: string) => {
    if (!now) throw new Refusal(404, `there is no feature ${id}`);
    const wanted = headers['if-match'];
    if (wanted === undefined || wanted === '*') return now;
    if (!wanted.split(',').some((tag) => tag.trim() === tagOf(now)))
      throw new Refusal(412, 'the feature was changed by somebody else meanwhile');
    return now;
  };
  server.post(
    '/features/collections/:name/items',
    answering(async (request: Named, reply) => {
      mayWrite(request);
      const { name } = request.params;
      const collection = collectionOf(name);
      const id = randomUUID();
      const feature = sent(request.body, id);
      await collection.change(id, () => feature);
      return reply
        .code(201)
        .header('Location', `/features/collections/${encodeURIComponent(name)}/items/${id}`)
        .header('ETag', tagOf(feature))
        .send();
    }),
  );
  const write = (change: (now: Kept, body: unknown) => Kept | undefined) =>
    answering(async (request: Named, reply) => {
      mayWrite(request);
      const { name, id } = request.params;
      let after: Kept | undefined;
      await collectionOf(name).change(id, (now) => (after = change(matches(request, now, id), request.body)));
      return (after ? reply.header('ETag', tagOf(after)) : reply).code(204).send();
    });
  server.put(
    '/features/collections/:name/items/:id',
    write((now, body) => sent(body, now.id)),
  );
  server.patch(
    '/features/collections/:name/items/:id',
    write((now, body) => sent(patched(now, body), now.id)),
  );
  server.delete(
    '/features/collections/:name/items/:id',
    write(() => undefined),
  );
}
