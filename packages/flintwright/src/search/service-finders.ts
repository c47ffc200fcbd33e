import { Fault } from '@flintwright/core';
import { askJson, formless, type ServiceOptions } from './ask.js';
import type { FindRequest, FoundPlace, PlaceFinder } from './finder.js';

type Json = Readonly<Record<string, unknown>>;

/** Options of a service that returns GeocodeJSON. */
export interface GeocodeJsonOptions extends ServiceOptions {
  /** URL of a search, with `{text}`, and optionally `{lon}`, `{lat}`, `{most}` and `{language}`. */
  readonly address: string;
  /** URL for what is at a position, with `{lon}` and `{lat}`; default none. */
  readonly reverse?: string;
}

/** Options of a collection of an OGC API Features service. */
export interface CollectionOptions extends ServiceOptions {
  /** URL of the collection, such as `https://host/collections/moorings`. */
  readonly address: string;
  /** Attribute with the name of a feature; default `name`. */
  readonly name?: string;
  /** Attribute with the kind of a feature; default none. */
  readonly kind?: string;
}

const known = ['text', 'lon', 'lat', 'most', 'language'];

function filled(address: string, values: Readonly<Record<string, string | number>>): string {
  return address.replace(/\{([^{}]*)\}/g, (whole, name: string) => {
    if (!Object.hasOwn(values, name))
      throw new Fault(
        'search.address',
        `${whole} in the address of a search service is not understood`,
        `Placeholders: ${known.map((one) => `{${one}}`).join(', ')}.`,
      );
    return encodeURIComponent(values[name]);
  });
}

/** Creates a finder that requests GeocodeJSON (specification 0.1.0) from a service. @param options URL, key, timeout */
export function geocodeJsonFinder(options: GeocodeJsonOptions): PlaceFinder {
  const { address, reverse } = options;
  if (!/\{text\}/.test(address))
    throw new Fault(
      'search.address',
      'the address of a search service lacks {text}',
      'Write {text} for the search text, such as https://host/search?q={text}&limit={most}.',
    );
  const ask = async (to: string, signal: AbortSignal) => placesOf(await askJson(to, options, signal), to, geocoded);
  return {
    pause: 250,
    find: ({ text, near: [lon, lat], most, language, signal }) =>
      ask(filled(address, { text, lon, lat, most, language }), signal),
    ...(reverse === undefined
      ? {}
      : {
          reverse: ([lon, lat], { most, language, signal }) =>
            ask(filled(reverse, { lon, lat, most, language, text: '' }), signal),
        }),
  };
}

/**
 * Creates a finder that requests features of a collection of OGC API Features: text search by `q` (Part 9) if the collection supports it,
 * and all features at a position by `bbox` (Part 1, section 7.15.3).
 *
 * @param options URL of the collection, attributes, key, timeout
 */
export function collectionFinder(options: CollectionOptions): PlaceFinder {
  const { address, name = 'name', kind } = options;
  const items = `${address.replace(/\/$/, '')}/items`;
  const read = (feature: Json) => {
    const properties = (feature['properties'] ?? {}) as Json;
    return { name: textOf(properties[name]), ...(kind ? { kind: textOf(properties[kind]) } : {}) };
  };
  const ask = async (query: Readonly<Record<string, string>>, signal: AbortSignal) => {
    const to = `${items}?${String(new URLSearchParams({ f: 'json', ...query }))}`;
    return placesOf(await askJson(to, options, signal), to, read);
  };
  return {
    pause: 250,
    find: ({ text, most, signal }: FindRequest) => ask({ q: text, limit: String(most) }, signal),
    reverse: ([lon, lat], { most, signal }) => {
      const reach = 0.001;
      return ask({ bbox: [lon - reach, lat - reach, lon + reach, lat + reach].join(), limit: String(most) }, signal);
    },
  };
}

const textOf = (value: unknown) => (typeof value === 'string' || typeof value === 'number' ? String(value) : '');

/** Zooms that show what GeocodeJSON calls a type (specification 0.1.0, section 2.2). */
const zooms: Readonly<Record<string, number>> = {
  house: 18,
  street: 16.5,
  locality: 15,
  district: 13.5,
  city: 12.5,
  county: 10,
  state: 7,
  country: 5,
};

/** The properties of a feature as GeocodeJSON has them: within `geocoding`, or by themselves. */
function geocoded(feature: Json): Omit<FoundPlace, 'at' | 'bounds'> {
  const outer = (feature['properties'] ?? {}) as Json;
  const own = (typeof outer['geocoding'] === 'object' && outer['geocoding'] ? outer['geocoding'] : outer) as Json;
  const say = (key: string) => textOf(own[key]);
  const address = [say('housenumber'), say('street')].filter(Boolean).join(' ');
  const name = say('name') || address || say('label');
  const type = say('type');
  const within = [name === address ? '' : address, say('city') || say('county') || say('state')].filter(Boolean);
  return {
    name,
    within: within.join(', '),
    kind: type,
    ...(type in zooms ? { zoom: zooms[type] } : {}),
  };
}

function placesOf(
  answer: unknown,
  at: string,
  read: (feature: Json) => Omit<FoundPlace, 'at' | 'bounds'>,
): FoundPlace[] {
  const features = (answer as Json | null)?.['features'];
  if (!Array.isArray(features)) throw formless(at);
  return (features as Json[]).flatMap((feature) => {
    const box = boxOf((feature?.['geometry'] as Json | null)?.['coordinates']);
    // What has no place cannot be shown on a map.
    if (!box) return [];
    const said = read(feature);
    if (!said.name) return [];
    const [west, south, east, north] = box;
    const isPoint = west === east && south === north;
    const given = feature['bbox'];
    const bounds =
      Array.isArray(given) && given.length === 4 ? (given as unknown as typeof box) : isPoint ? undefined : box;
    return [{ ...said, at: [(west + east) / 2, (south + north) / 2] as const, ...(bounds ? { bounds } : {}) }];
  });
}

/** Box of all positions in the coordinates of a geometry. */
function boxOf(coordinates: unknown): readonly [number, number, number, number] | undefined {
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  const take = (value: unknown): void => {
    if (!Array.isArray(value)) return;
    const [x, y] = value as unknown[];
    if (typeof x !== 'number') return value.forEach(take);
    if (typeof y !== 'number') return;
    box[0] = Math.min(box[0], x);
    box[1] = Math.min(box[1], y);
    box[2] = Math.max(box[2], x);
    box[3] = Math.max(box[3], y);
  };
  take(coordinates);
  return box.every(Number.isFinite) && Math.abs(box[1]) <= 90 && Math.abs(box[3]) <= 90 ? box : undefined;
}
