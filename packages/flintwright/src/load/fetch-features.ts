import { fetchPieces } from './request.js';
import type { OpenOptions } from './open-options.js';

/** A file of features, in the pieces that it came in. */
export interface FeatureFile {
  readonly name: string;
  pieces: readonly Uint8Array[];
}

/** Fetches the features of a data entry: from an address, a file that was handed over, or the sheet itself. */
export async function fetchFeatures({ data, name, tools, signal }: OpenOptions): Promise<object | FeatureFile> {
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
  };
}
