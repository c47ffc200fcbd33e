import { Fault, type FeatureBlock } from '@flintwright/core';
import { joined } from '@flintwright/core/internal';
import { fetchPart } from '../base/fetch-part.js';
import { fetchPieces } from './request.js';
import type { OpenOptions } from './open-options.js';

/** A file of features, in the pieces that it came in. */
export interface FeatureFile {
  readonly name: string;
  /** Whether a worker of the map can read it by itself: GeoJSON or a plain table. */
  readonly plain: boolean;
  pieces: readonly Uint8Array[];
}

/** Fetches the features of a data entry: from an address, a file that was handed over, or the sheet itself. */
export async function fetchFeatures({ data, name, tools, signal, plan }: OpenOptions): Promise<object | FeatureFile> {
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
    plain: plan || isPlain(pieces),
    pieces,
  };
}

/** Whether features came as a file. */
export const isFile = (fetched: object | FeatureFile): fetched is FeatureFile =>
  'pieces' in fetched && Array.isArray(fetched.pieces);

/** Whether bytes are GeoJSON or a simple table in UTF-8, by their beginning: what the map reads without the other readers. */
function isPlain(pieces: readonly Uint8Array[]): boolean {
  const first = joined(pieces.slice(0, 1 + pieces.findIndex(({ length }) => length > 0))).subarray(0, 2048);
  // A letter of several bytes may be cut at the end of what is looked at.
  const head = new TextDecoder().decode(first).replace(/\ufffd+$/, '');
  const odd = [...head].some((letter) => letter < '\t' || letter === '\ufffd');
  // A record separator begins a sequence of features (RFC 8142).
  const json = /^\s*[[{]/.test(head) || head[0] === '\u001e';
  return !odd && (json ? !/"type"\s*:\s*"Topology"/.test(head) : /^[^<]*[,;\t]/.test(head));
}

/** Whether the readers of all formats may do better where a worker of the map gave up. */
export const mayMend = (error: unknown): boolean =>
  error instanceof Fault && /^(geojson\.|table\.(place|number|cells|swapped|twice|form)|crs\.unknown)/.test(error.code);

/** The features of a file in any format as a block; what was mended is told. */
export async function blockOfFile(
  { name: fileName, pieces }: FeatureFile,
  { name, data: { id, crs }, signal, tools }: OpenOptions,
): Promise<FeatureBlock> {
  const { readBlock } = await fetchPart(() => import('../files/read-block.js'));
  const bytes = joined(pieces);
  return readBlock({ name: fileName, bytes, crs, block: { name, id } }, signal, (fault) =>
    tools.context.reportLater(fault),
  );
}
