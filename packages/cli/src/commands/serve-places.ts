import { Fault } from '@flintwright/core';
import { Gazetteer, type Candidate } from '@flintwright/core/places';
import type { FastifyInstance, FastifyReply } from 'fastify';
import { readFile } from 'node:fs/promises';
import { single } from './query.js';

/** How the search service behaves, so that an application can be tried against one that is busy, slow or broken. */
export interface PlaceServiceOptions {
  /** Requests that are answered a minute; those beyond get 429. Default all. */
  readonly perMinute?: number | undefined;
  /** Milliseconds that every answer is kept back; default 0. */
  readonly delay?: number | undefined;
  /** Every how many requests one fails with 503; default never. */
  readonly failEvery?: number | undefined;
}

/** Characters of a parameter that are read. */
const longest = 200;

interface Query {
  readonly q?: string;
  readonly lon?: string;
  readonly lat?: string;
  readonly limit?: string;
  readonly lang?: string;
}

/** What GeocodeJSON calls each kind of place (specification 0.1.0, section 2.2). */
const types: Readonly<Record<Candidate['role'], string>> = {
  address: 'house',
  street: 'street',
  crossing: 'street',
  place: 'locality',
};
const cities = ['city', 'town', 'village', 'hamlet', 'suburb'];

/**
 * Answers searches in every gazetteer of a folder as GeocodeJSON: `/places/NAME?q=TEXT` and `/places/NAME/reverse?lon=…&lat=…`, with
 * `limit`, `lang`, and `lon` and `lat` of what should come first.
 *
 * @param server the server
 * @param find path of the gazetteer of a name, with a stamp that changes with the file; undefined where there is none
 * @param options limits and faults to switch on
 */
export function servePlaces(
  server: FastifyInstance,
  find: (name: string) => { readonly path: string; readonly stamp: string } | undefined,
  { perMinute, delay = 0, failEvery }: PlaceServiceOptions,
): void {
  const opened = new Map<string, { readonly stamp: string; readonly gazetteer: Promise<Gazetteer> }>();
  const open = (name: string): Promise<Gazetteer> | undefined => {
    const file = find(name);
    if (!file) return undefined;
    const known = opened.get(name);
    if (known?.stamp === file.stamp) return known.gazetteer;
    const gazetteer = readFile(file.path).then((bytes) => Gazetteer.open(new Uint8Array(bytes)));
    opened.set(name, { stamp: file.stamp, gazetteer });
    return gazetteer;
  };
  const times: number[] = [];
  let asked = 0;
  server.addHook('onRequest', async ({ url }, reply) => {
    if (!url.startsWith('/places/')) return;
    const now = Date.now();
    while (times.length && times[0] < now - 60_000) times.shift();
    if (perMinute !== undefined && times.length >= perMinute) {
      const wait = Math.ceil((times[0] + 60_000 - now) / 1000);
      return reply
        .code(429)
        .header('Retry-After', wait)
        .send({ message: `ask again in ${wait} s` });
    }
    times.push(now);
    if (failEvery && ++asked % failEvery === 0)
      return reply.code(503).header('Retry-After', 1).send({ message: 'switched on to fail' });
    if (delay) await new Promise((done) => setTimeout(done, delay));
  });
  /** Refuses parameters that are given several times, or are longer than a place is named. */
  const refused = (query: Readonly<Record<string, unknown>>): string | undefined => {
    for (const [key, value] of Object.entries(query)) {
      const one = single(value);
      if (one === null) return `${key} is given several times; give it once`;
      if (one !== undefined && one.length > longest)
        return `${key} has ${one.length} characters; at most ${longest} are read`;
    }
    return undefined;
  };
  const answer = async (
    reply: FastifyReply,
    name: string,
    search: (gazetteer: Gazetteer) => Promise<readonly Candidate[]>,
    query: Query,
  ): Promise<unknown> => {
    const message = refused(query as Readonly<Record<string, unknown>>);
    if (message) return reply.code(400).send({ message });
    const gazetteer = await open(name);
    if (!gazetteer) return reply.code(404).send({ message: `there is no gazetteer ${name}.gazetteer` });
    try {
      return await reply.type('application/geo+json').send(geocodeJson(await search(gazetteer), query));
    } catch (error) {
      if (error instanceof Fault && error.code === 'places.query') return reply.code(400).send(error.toJSON());
      throw error;
    }
  };
  const number = (text: string | undefined) => (typeof text !== 'string' || text.trim() === '' ? NaN : Number(text));
  const most = ({ limit }: Query) => Math.min(50, Math.max(1, number(limit) || 10));
  server.get<{ Params: { name: string }; Querystring: Query }>('/places/:name', async ({ params, query }, reply) => {
    const { q = '', lon, lat, lang } = query;
    const [x, y] = [number(lon), number(lat)];
    const near = Math.abs(x) <= 540 && Math.abs(y) <= 90 ? { near: [x, y] as const } : {};
    const options = { most: most(query), ...near, ...(lang ? { language: lang } : {}) };
    return answer(reply, params.name, (gazetteer) => gazetteer.find(q, options), query);
  });
  server.get<{ Params: { name: string }; Querystring: Query }>(
    '/places/:name/reverse',
    async ({ params, query }, reply) => {
      const place = [number(query.lon), number(query.lat)] as const;
      return answer(reply, params.name, (gazetteer) => gazetteer.reverse(place, { most: most(query) }), query);
    },
  );
}

/** Candidates in the form of GeocodeJSON. */
function geocodeJson(candidates: readonly Candidate[], { q, lon, lat }: Query): object {
  return {
    type: 'FeatureCollection',
    geocoding: { version: '0.1.0', query: q ?? `${lon},${lat}` },
    features: candidates.map(({ name, within, role, kind, at, bounds, score }) => {
      const [, housenumber, street] = role === 'address' ? (/^(\S+) (.*)$/.exec(name) ?? []) : [];
      return {
        type: 'Feature',
        ...(bounds ? { bbox: bounds } : {}),
        geometry: { type: 'Point', coordinates: at },
        properties: {
          geocoding: {
            type: cities.includes(kind) ? 'city' : types[role],
            accuracy: Math.round(score * 100),
            label: [name, within].filter(Boolean).join(', '),
            name,
            ...(housenumber ? { housenumber, street } : {}),
            ...(within ? { city: within } : {}),
          },
        },
      };
    }),
  };
}
