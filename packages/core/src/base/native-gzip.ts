import { joined } from './bytes.js';

/** Most bytes that packed data may come to where nobody says otherwise: 256 MiB. */
export const mostOfGzip = 2 ** 28;

/** Returns whether bytes begin with the gzip magic number (RFC 1952, section 2.3.1). */
export const isGzip = (bytes: Uint8Array) => bytes.length > 2 && bytes[0] === 0x1f && bytes[1] === 0x8b;

/**
 * Unpacks gzip with what the platform brings along (Compression Standard, `DecompressionStream`), so that no code of its own is needed.
 *
 * @param bytes bytes packed with gzip
 * @param most bytes that it may come to; default 256 MiB
 * @returns undefined where the platform cannot, or will not: several members, too much, damaged; `gunzip` says which
 */
export async function unpackNatively(bytes: Uint8Array, most = mostOfGzip): Promise<Uint8Array | undefined> {
  if (typeof DecompressionStream !== 'function') return undefined;
  const stream = new DecompressionStream('gzip');
  const writer = stream.writable.getWriter();
  // What goes wrong is heard at the other end.
  const written = writer.write(bytes as Uint8Array<ArrayBuffer>).then(() => writer.close());
  written.catch(() => {});
  const reader = stream.readable.getReader();
  const pieces: Uint8Array[] = [];
  let size = 0;
  try {
    for (;;) {
      const { done, value } = await reader.read();
      if (done) break;
      pieces.push(value);
      size += value.length;
      if (size > most) {
        reader.cancel().catch(() => {});
        return undefined;
      }
    }
  } catch {
    // The careful way says what is wrong.
    return undefined;
  }
  return joined(pieces);
}
