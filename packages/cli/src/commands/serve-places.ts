import { Fault, geodesicLength } from '@flintwright/core';
import { Gazetteer, type Candidate } from '@flintwright/core/places';
import type { FastifyInstance, FastifyReply } from 'fastify';
import { problem } from './problem.js';
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

/** What is asked: a text, or what lies at a place. */
interface Query {
  readonly q?: string;
  /** `lon,lat` in degrees: what lies there. */
  readonly at?: string;
  /** `lon,lat` in degrees: what lies nearer comes first. */
  readonly near?: string;
  /** `west,south,east,north` in degrees: only what lies within. */
  readonly bbox?: string;
  readonly limit?: string;
}

/** Parameters that there are not, with those that say the same. */
const otherNames: Readonly<Record<string, string>> = {
  lon: 'near=lon,lat, or at=lon,lat for what lies at a place',
  lat: 'near=lon,lat, or at=lon,lat for what lies at a place',
  lang: 'the header Accept-Language',
};

/** What GeocodeJSON calls each kind of place (specification 0.1.0, section 2.2). */
const types: Readonly<Record<Candidate['role'], string>> = {
  address: 'house',
  street: 'street',
  crossing: 'street',
  place: 'locality',
};
const cities = ['city', 'town', 'village', 'hamlet', 'suburb'];

/**
 * Answers searches in every gazetteer of a folder as GeocodeJSON: `/places/NAME?q=TEXT`, with `near=lon,lat` of what should come first and
 * `bbox=west,south,east,north` of what counts, and `/places/NAME?at=lon,lat` for what lies at a place; with `limit`, and names in the language that
 * `Accept-Language` asks for (RFC 9110, section 12.5.4).
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
      return problem(reply.header('Retry-After', wait), 429, `ask again in ${wait} s`);
    }
    times.push(now);
    if (failEvery && ++asked % failEvery === 0)
      return problem(reply.header('Retry-After', 1), 503, 'switched on to fail');
    if (delay) await new Promise((done) => setTimeout(done, delay));
  });
  /** Refuses parameters that are given several times, or are longer than a place is named. */
  const refused = (query: Readonly<Record<string, unknown>>): string | undefined => {
    for (const [key, value] of Object.entries(query)) {
      const one = single(value);
      if (one === null) return `${key} is given several times; give it once`;
      if (Object.hasOwn(otherNames, key)) return `there is no ${key}; write ${otherNames[key]}`;
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
    if (message) return problem(reply, 400, message);
    const gazetteer = await open(name);
    if (!gazetteer) return problem(reply, 404, `there is no gazetteer ${name}.gazetteer`);
    try {
      return await reply.type('application/geo+json').send(geocodeJson(await search(gazetteer), query));
    } catch (error) {
      if (error instanceof Fault && error.code === 'places.query') return problem(reply, 400, error.toString());
      throw error;
    }
  };
  server.get<{ Params: { name: string }; Querystring: Query }>('/places/:name', async (request, reply) => {
    const { query, params } = request;
    const { q, at, near, bbox, limit } = query;
    const most = Math.min(50, Math.max(1, Number(limit) || 10));
    const language = languageOf(request.headers['accept-language']);
    return answer(
      reply,
      params.name,
      (gazetteer) => {
        const options = { most, ...(language ? { language } : {}) };
        if ((q === undefined) === (at === undefined))
          throw queryFault(q === undefined ? 'q or at is required' : 'q and at exclude each other');
        if (q !== undefined && !q.trim()) throw queryFault('q is empty');
        if (at !== undefined) return gazetteer.reverse(numbers('at', at, 2) as [number, number], options);
        return gazetteer.find(q!, {
          ...options,
          ...(near === undefined ? {} : { near: numbers('near', near, 2) as [number, number] }),
          ...(bbox === undefined ? {} : { bounds: numbers('bbox', bbox, 4) as [number, number, number, number] }),
        });
      },
      query,
    );
  });
  server.get('/places/:name/reverse', (_, reply) =>
    problem(reply, 404, 'there is no reverse; write /places/NAME?at=lon,lat'),
  );
}

const queryFault = (message: string) =>
  new Fault('places.query', message, 'Give q=TEXT to find something, or at=lon,lat for what lies at a place.');

/** So many numbers, degrees of longitude and latitude by turns. @throws Fault `places.query` */
function numbers(name: string, text: string, count: number): number[] {
  const list = text.split(',').map((part) => (part.trim() ? Number(part) : NaN));
  if (list.length === count && list.every((value, i) => Math.abs(value) <= (i % 2 ? 90 : 540))) return list;
  throw new Fault(
    'places.query',
    `${name}=${text} is not ${count === 2 ? 'lon,lat' : 'west,south,east,north'} in degrees`,
    'Longitude comes first, such as -31.18,44.62.',
  );
}

/** The preferred language of a request, such as `de`. */
function languageOf(header: string | undefined): string | undefined {
  const [best] = (header ?? '')
    .split(',')
    .map((part) => {
      const [tag, quality] = part.trim().split(/\s*;\s*q=/);
      return { tag: tag.split('-')[0].toLowerCase(), quality: quality === undefined ? 1 : Number(quality) || 0 };
    })
    .filter(({ tag, quality }) => /^[a-z]{2,3}$/.test(tag) && quality > 0)
    .toSorted((a, b) => b.quality - a.quality);
  return best?.tag;
}

/** Candidates in the form of GeocodeJSON. */
function geocodeJson(candidates: readonly Candidate[], { q, at: place = '' }: Query): object {
  return {
    type: 'FeatureCollection',
    geocoding: { version: '0.1.0', query: q ?? place },
    features: candidates.map(({ name, street, number, within, role, kind, at, bounds }) => {
      return {
        type: 'Feature',
        ...(bounds ? { bbox: bounds } : {}),
        geometry: { type: 'Point', coordinates: at },
        properties: {
          geocoding: {
            type: cities.includes(kind) ? 'city' : types[role],
            // In meters: how far from the point what was found may reach.
            ...(bounds
              ? { accuracy: Math.ceil(geodesicLength([bounds[0], bounds[1]], [bounds[2], bounds[3]]) / 2) }
              : {}),
            label: [name, within].filter(Boolean).join(', '),
            name,
            ...(number ? { housenumber: number, street } : {}),
            ...(within ? { city: within } : {}),
          },
        },
      };
    }),
  };
}
