import { Fault } from '@flintwright/core';
import type { Candidate, Gazetteer, PlaceSource } from '@flintwright/core/places';
import { fetchPart } from '../base/fetch-part.js';
import { fetchBytes, type RequestHook } from '../load/request.js';
import type { FoundPlace, PlaceFinder } from './finder.js';

/** Options of a gazetteer. */
export interface GazetteerOptions {
  /** Whether to fetch only the parts that a search needs, by range requests; default false: the whole file, once. */
  readonly ranged?: boolean;
  /** Kinds or roles to search; default all. */
  readonly kinds?: readonly string[];
  /** Called before every request, to add a key or headers. */
  readonly request?: RequestHook;
}

/**
 * Creates a finder that searches a gazetteer within the page. The file and the code that reads it are loaded with the first search.
 *
 * @param from URL of a .gazetteer file, a file, its bytes, or an open gazetteer
 * @param options how it is fetched, and which kinds are searched
 */
export function gazetteerFinder(
  from: string | Blob | Uint8Array | Gazetteer,
  { ranged = false, kinds, request }: GazetteerOptions = {},
): PlaceFinder {
  let opened: Promise<Gazetteer> | undefined;
  const open = (): Promise<Gazetteer> => {
    const start = async (): Promise<Gazetteer> => {
      if (typeof from === 'object' && 'findFields' in from) return from;
      const { Gazetteer: Reader } = await fetchPart(() => import('@flintwright/core/places'));
      return Reader.open(await sourceOf(from, ranged, request));
    };
    return (opened ??= start().catch((error: unknown) => {
      opened = undefined;
      throw error;
    }));
  };
  const narrowed = kinds ? { kinds } : {};
  return {
    find: async ({ text, near, most, language }) =>
      (await (await open()).find(text, { near, most, language, ...narrowed })).map(placeOf),
    reverse: async (at, { most, language }) =>
      (await (await open()).reverse(at, { most, language, ...narrowed })).map(placeOf),
  };
}

const zooms: Readonly<Record<Candidate['role'], number>> = { address: 18, crossing: 17.5, street: 17, place: 15 };

function placeOf({ name, within, kind, role, at, bounds }: Candidate): FoundPlace {
  return { name, within, kind: kind || role, at, ...(bounds ? { bounds } : {}), zoom: zooms[role] };
}

async function sourceOf(
  from: string | Blob | Uint8Array,
  ranged: boolean,
  hook: RequestHook | undefined,
): Promise<PlaceSource | Uint8Array> {
  if (from instanceof Uint8Array) return from;
  if (from instanceof Blob) return new Uint8Array(await from.arrayBuffer());
  const { signal } = new AbortController();
  const address = new URL(from, location.href).href;
  const read = async (range?: readonly [number, number]) => {
    const bytes = await fetchBytes(address, { signal, what: 'the gazetteer', ...(range ? { range } : {}) }, hook);
    if (!bytes) throw new Fault('places.form', 'the gazetteer is empty', 'Check its address.', address);
    return bytes;
  };
  return ranged ? { read: (offset, length) => read([offset, length]) } : read();
}
