import { readSidecars } from '@flintwright/core/internal';
import { fetchBytes, fetchPieces } from './request.js';
import type { OpenOptions } from './open-options.js';

/** A file of features, in the pieces that it came in. */
export interface FeatureFile {
  readonly name: string;
  pieces: readonly Uint8Array[];
  /** Files that stand beside a loose shapefile, by their endings. */
  readonly siblings?: Readonly<Record<string, Uint8Array>>;
}

/** Fetches what stands beside a loose shapefile at an address; what is not there is left out, and the reader reports it. */
async function siblingsOf(
  address: URL,
  { name, tools: { hook }, signal }: OpenOptions,
): Promise<Record<string, Uint8Array>> {
  const found = await Promise.all(
    readSidecars.map(async (ending): Promise<[string, Uint8Array | undefined]> => {
      const url = new URL(address);
      url.pathname = url.pathname.replace(/shp$/i, (own) => (own === 'SHP' ? ending.toUpperCase() : ending));
      return [ending, await fetchBytes(url.href, { signal, what: `the features "${name}"` }, hook, true)];
    }),
  );
  return Object.fromEntries(found.filter((one): one is [string, Uint8Array] => one[1] !== undefined));
}

/** Fetches the features of a data entry: from an address, a file that was handed over, or the sheet itself. */
export async function fetchFeatures(options: OpenOptions): Promise<object | FeatureFile> {
  const { data, name, tools, signal } = options;
  const { base, hook, files } = tools;
  const { features } = data;
  const given = features instanceof Blob ? features : files[name];
  if (!given && typeof features === 'object') return features;
  const address = given ? undefined : new URL(features as string, base);
  const pieces = given
    ? [new Uint8Array(await given.arrayBuffer())]
    : (await fetchPieces(address!.href, { signal, what: `the features "${name}"` }, hook))!;
  return {
    name: address
      ? decodeURIComponent(address.pathname.replace(/^.*\//, ''))
      : ((given as { name?: string }).name ?? name),
    pieces,
    ...(address && /\.shp$/i.test(address.pathname) ? { siblings: await siblingsOf(address, options) } : {}),
  };
}
