import { Fault, type FeatureBlock } from '@flintwright/core';
import { fetchBytes } from './request.js';
import type { OpenOptions } from './open-options.js';

/** Features as they came: GeoJSON or a plain table for a worker of the map, and the bytes, for the readers of all formats. */
export interface FetchedFeatures {
  /** GeoJSON, or a text that a worker of the map can read by itself; undefined for other formats. */
  readonly source: string | object | undefined;
  /** The file; undefined where GeoJSON stands in the sheet. */
  readonly file: { readonly name: string; readonly bytes: Uint8Array } | undefined;
}

/** Fetches the features of a data entry: from an address, a file that was handed over, or the sheet itself. */
export async function fetchFeatures({ data, name, tools, signal, plan }: OpenOptions): Promise<FetchedFeatures> {
  const { base, hook, files } = tools;
  const { features } = data;
  const given = features instanceof Blob ? features : files[name];
  if (!given && typeof features === 'object') return { source: features, file: undefined };
  const file = given
    ? { name: (given as { name?: string }).name ?? name, bytes: new Uint8Array(await given.arrayBuffer()) }
    : await fetchFile(new URL(features as string, base).href, { signal, what: `the features "${name}"` }, hook);
  return { source: plan || isPlain(file.bytes) ? new TextDecoder().decode(file.bytes) : undefined, file };
}

async function fetchFile(
  address: string,
  asked: Parameters<typeof fetchBytes>[1],
  hook: Parameters<typeof fetchBytes>[2],
) {
  const bytes = (await fetchBytes(address, asked, hook))!;
  return { name: decodeURIComponent(new URL(address).pathname.replace(/^.*\//, '')), bytes };
}

/** Whether bytes are GeoJSON or a simple table in UTF-8, by their beginning: what the map reads without the other readers. */
function isPlain(bytes: Uint8Array): boolean {
  // A letter of several bytes may be cut at the end of what is looked at.
  const head = new TextDecoder().decode(bytes.subarray(0, 2048)).replace(/\ufffd+$/, '');
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
  file: NonNullable<FetchedFeatures['file']>,
  { name, data: { id, crs }, signal, tools }: OpenOptions,
): Promise<FeatureBlock> {
  const { readBlock } = await import('../files/read-block.js');
  return readBlock({ ...file, crs, block: { name, id } }, signal, (fault) => tools.context.reportLater(fault));
}
