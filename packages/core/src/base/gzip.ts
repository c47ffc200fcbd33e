import { Gunzip, gzipSync, inflateSync } from 'fflate';
import { joined } from './bytes.js';
import { crc32 } from './crc32.js';
import { Fault } from './fault.js';
import { isGzip, mostOfGzip } from './native-gzip.js';
import { describeValue } from './describe-value.js';

/** Most bytes that DEFLATE makes of one (RFC 1951: a code of one bit for each copy of 258 bytes, and one for its distance). */
const mostRatio = 1032;

/** Length of the header of a member that has no extra fields, name or comment, as most have none. */
const plainHeader = 10;

/**
 * Decompresses gzip (RFC 1952) with all its members, and checks lengths and checksums; other bytes are returned unchanged.
 *
 * @param bytes compressed or uncompressed bytes
 * @param at origin of the bytes, for messages; default none
 * @param most maximum decompressed size in bytes; default 256 MiB
 * @throws Fault `gzip.corrupt`, `gzip.large`
 */
export function gunzip(bytes: Uint8Array, at?: string, most = mostOfGzip): Uint8Array {
  if (!(bytes instanceof Uint8Array))
    throw new Fault('gzip.corrupt', `${describeValue(bytes)} is not bytes`, 'Pass a Uint8Array.', at);
  if (!isGzip(bytes)) return bytes;
  const whole = plainMember(bytes, most);
  if (whole) return whole;
  const unpacker = new Unpacker(at, most);
  const pieces: Uint8Array[] = [];
  // In pieces, none of which comes to much more than is allowed, so that what is too much is stopped before it is there.
  const step = Math.max(1024, Math.min(65536, Math.ceil(most / mostRatio)));
  for (let i = 0; i < bytes.length; i += step) pieces.push(...unpacker.take(bytes.subarray(i, i + step)));
  unpacker.end();
  return joined(pieces);
}

/** The content of a single member with a plain header, if its length and checksum say that this is all; undefined if not. */
function plainMember(bytes: Uint8Array, most: number): Uint8Array | undefined {
  const end = bytes.length - 8;
  if (bytes[2] !== 8 || bytes[3] !== 0 || end < plainHeader) return undefined;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const size = view.getUint32(end + 4, true);
  if (size > most || size > end * mostRatio) return undefined;
  try {
    const out = inflateSync(bytes.subarray(plainHeader, end), { out: new Uint8Array(size) });
    return out.length === size && crc32(out) === view.getUint32(end, true) ? out : undefined;
  } catch {
    // The careful way says what is wrong.
    return undefined;
  }
}

/** Packed data that cannot be unpacked, and why. */
const notUnpacked = (why: string, at?: string, error?: unknown): Fault =>
  new Fault(
    'gzip.corrupt',
    `the gzip data cannot be unpacked: ${why}`,
    'The file was truncated or damaged; fetch or write it again.',
    at,
    error,
  );

/** Unpacks gzip that comes piece by piece, all its members, and checks the length and checksum of each. */
export class Unpacker {
  private readonly gunzip: Gunzip;
  private out: Uint8Array[] = [];
  private total = 0;
  /** Of the member under way. */
  private crc = 0;
  private size = 0;
  /** The last bytes of what came before a piece: what ends a member stands there, before a header of up to 64 KiB. */
  private tail: Uint8Array = new Uint8Array(0);
  private piece: Uint8Array = new Uint8Array(0);
  private before = 0;

  /**
   * Makes one.
   *
   * @param at where the data comes from, for messages
   * @param most bytes that it may come to
   */
  constructor(
    private readonly at: string | undefined,
    private readonly most: number,
  ) {
    this.gunzip = new Gunzip((data) => this.collect(data));
    this.gunzip.onmember = (offset) => this.close(offset);
  }

  private collect(data: Uint8Array): void {
    if (!data.length) return;
    this.crc = crc32(data, this.crc);
    this.size += data.length;
    this.total += data.length;
    if (this.total > this.most)
      throw new Fault(
        'gzip.large',
        `the decompressed data are larger than ${Math.round(this.most / 2 ** 20)} MiB`,
        'It may be a decompression bomb. Decompress it first if you trust its source.',
        this.at,
      );
    this.out.push(data);
  }

  /** The byte that stands at a place of all that came so far. */
  private byte(offset: number): number {
    const within = offset - this.before;
    return within >= 0 ? this.piece[within] : this.tail[this.tail.length + within];
  }

  /** Checks a member that ends before a place. @throws Fault `gzip.corrupt` */
  private close(offset: number): void {
    const word = (from: number) => [3, 2, 1, 0].reduce((sum, k) => sum * 256 + (this.byte(offset - from + k) ?? 0), 0);
    if (word(8) !== this.crc || word(4) !== this.size % 2 ** 32)
      throw notUnpacked('its checksum does not fit; it was damaged, or ends too early', this.at);
    this.crc = this.size = 0;
  }

  /**
   * Takes a piece.
   *
   * @param piece of any size
   * @returns what it comes to
   * @throws Fault `gzip.corrupt`, `gzip.large`
   */
  take(piece: Uint8Array): Uint8Array[] {
    this.piece = piece;
    try {
      this.gunzip.push(piece, false);
    } catch (error) {
      if (error instanceof Fault) throw error;
      throw notUnpacked((error as Error).message, this.at, error);
    }
    this.before += piece.length;
    const tail = new Uint8Array(Math.min(66000, this.tail.length + piece.length));
    const from = piece.subarray(-tail.length);
    tail.set(this.tail.subarray(this.tail.length - (tail.length - from.length)));
    tail.set(from, tail.length - from.length);
    this.tail = tail;
    this.piece = new Uint8Array(0);
    return this.out.splice(0);
  }

  /** Says that all has come. @throws Fault `gzip.corrupt` */
  end(): void {
    this.close(this.before);
  }
}

export const gzip = (bytes: Uint8Array): Uint8Array => gzipSync(bytes, { level: 6, mtime: 0 });
