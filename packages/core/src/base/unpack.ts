import { isGzip, mostOfGzip, unpackNatively } from './native-gzip.js';

/**
 * Unpacks gzip as {@link gunzip} does, with what the platform brings along where that can; the code for all else is fetched then.
 *
 * @param bytes bytes packed with gzip, or not
 * @param at where it came from, for messages; default none
 * @param most bytes that it may come to; default 256 MiB
 * @throws Fault `gzip.corrupt`, `gzip.large`
 */
export async function unpack(bytes: Uint8Array, at?: string, most = mostOfGzip): Promise<Uint8Array> {
  if (bytes instanceof Uint8Array && !isGzip(bytes)) return bytes;
  const quick = bytes instanceof Uint8Array ? await unpackNatively(bytes, most) : undefined;
  if (quick) return quick;
  const { gunzip } = await import('./gzip.js');
  return gunzip(bytes, at, most);
}
