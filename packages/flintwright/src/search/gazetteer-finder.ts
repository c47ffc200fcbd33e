import { Fault } from '@flintwright/core';
import type { Candidate, Gazetteer, PlaceSource } from '@flintwright/core/places';
import { fetchPart } from '../base/fetch-part.js';
import { fetchBytes, type RequestHook } from '../load/request.js';
import type { FoundPlace, PlaceFinder } from './finder.js';

/** Where a gazetteer comes from, and how much of it is fetched. */
export interface GazetteerOptions {
  /** Whether only the parts that a search needs are fetched, by range; default false: the whole file, once. */
  readonly ranged?: boolean;
  /** Only these kinds or roles; default all. */
  readonly kinds?: readonly string[];
  /** Called before every request, to add a key or headers. */
  readonly request?: RequestHook;
}

/**
 * A finder that searches a gazetteer within the page. Neither it nor the code that reads it is fetched before somebody searches.
 *
 * @param from address of a .gazetteer file, a file that somebody chose, its bytes, or an open gazetteer
 * @param options how it is fetched, and what is looked for
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
