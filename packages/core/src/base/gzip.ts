import { said } from './said.js';
import { gunzipSync, gzipSync } from 'fflate';
import { Fault } from './fault.js';

/** Whether bytes begin with the gzip mark (RFC 1952, section 2.3.1). */
export const isGzip = (bytes: Uint8Array) => bytes.length > 2 && bytes[0] === 0x1f && bytes[1] === 0x8b;

/**
 * Unpacks gzip; other bytes come back as they are.
 *
 * @param bytes bytes packed with gzip, or not
 * @param at where it came from, for messages; default none
 * @throws Fault `gzip.corrupt`
 */
export function gunzip(bytes: Uint8Array, at?: string): Uint8Array {
  if (!(bytes instanceof Uint8Array))
    throw new Fault('gzip.corrupt', `${said(bytes)} came where bytes are wanted`, 'Hand over a Uint8Array.', at);
  if (!isGzip(bytes)) return bytes;
  try {
    return gunzipSync(bytes);
  } catch (error) {
    throw notUnpacked(error, at);
  }
}

/** Packed data that cannot be unpacked, and why. */
export const notUnpacked = (error: unknown, at?: string): Fault =>
  new Fault(
    'gzip.corrupt',
    `the gzip data cannot be unpacked: ${(error as Error).message}`,
    'The file was cut short or damaged; fetch or write it again.',
    at,
    error,
  );

export const gzip = (bytes: Uint8Array): Uint8Array => gzipSync(bytes, { level: 6, mtime: 0 });
