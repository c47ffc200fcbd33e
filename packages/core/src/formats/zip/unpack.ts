import { unzipSync, zipSync } from 'fflate';
import { crc32 } from '../../base/crc32.js';
import { Fault } from '../../base/fault.js';

/** Whether bytes begin as a ZIP archive does (APPNOTE 6.3.10, sections 4.3.7 and 4.3.16). */
export const isZip = (bytes: Uint8Array): boolean =>
  bytes[0] === 0x50 && bytes[1] === 0x4b && ((bytes[2] === 3 && bytes[3] === 4) || (bytes[2] === 5 && bytes[3] === 6));

/** Most bytes that an archive may unpack to where nobody says otherwise: 1 GiB. */
export const mostUnpacked = 2 ** 30;

/** Most bytes that DEFLATE makes of one (RFC 1951: a code of one bit for each copy of 258 bytes, and one for its distance). */
const mostRatio = 1032;

interface Entry {
  readonly name: string;
  readonly size: number;
  /** Bytes that it takes in the archive. */
  readonly packed: number;
  readonly crc: number;
}

/** The directory at the end of an archive (APPNOTE 6.3.10, section 4.3.12). */
function directoryOf(bytes: Uint8Array, at: string): Map<string, Entry> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let end = bytes.length - 22;
  while (end >= 0 && end > bytes.length - 65558 && view.getUint32(end, true) !== 0x06054b50) end--;
  if (end < 0 || view.getUint32(end, true) !== 0x06054b50)
    throw new Fault('zip.cut', 'the archive has no directory at its end', 'It was truncated; fetch it again.', at);
  const count = view.getUint16(end + 10, true);
  let offset = view.getUint32(end + 16, true);
  const entries = new Map<string, Entry>();
  for (let i = 0; i < count; i++) {
    if (offset + 46 > bytes.length || view.getUint32(offset, true) !== 0x02014b50)
      throw new Fault('zip.directory', `entry ${i + 1} of the archive's directory is damaged`, 'Fetch it again.', at);
    if (view.getUint16(offset + 8, true) & 1)
      throw new Fault('zip.locked', 'the archive is encrypted', 'Extract it first.', at);
    const nameLength = view.getUint16(offset + 28, true);
    const name = new TextDecoder().decode(bytes.subarray(offset + 46, offset + 46 + nameLength));
    const [crc, packed, size] = [16, 20, 24].map((k) => view.getUint32(offset + k, true));
    entries.set(name, { name, size, packed, crc });
    offset += 46 + nameLength + view.getUint16(offset + 30, true) + view.getUint16(offset + 32, true);
  }
  return entries;
}

/**
 * The files in a ZIP archive.
 *
 * @param bytes the archive
 * @param at where it came from, for messages
 * @param most most bytes that it may unpack to, all files together
 * @throws Fault `zip.cut`, `zip.directory`, `zip.locked`, `zip.large`, `zip.corrupt`
 */
export function unzip(bytes: Uint8Array, at: string, most = mostUnpacked): ReadonlyMap<string, Uint8Array> {
  const entries = directoryOf(bytes, at);
  for (const { name, size, packed } of entries.values())
    if (packed > bytes.length || size > mostRatio * packed + 64)
      throw corrupt(`"${name}" says that it unpacks to ${size} bytes, which cannot be`, at);
  const total = [...entries.values()].reduce((sum, { size }) => sum + size, 0);
  if (total > most)
    throw new Fault(
      'zip.large',
      `the archive unpacks to ${total.toLocaleString('en')} bytes, and ${most.toLocaleString('en')} are allowed`,
      'Unpack it yourself and pass the files that you need, or allow more.',
      at,
    );
  let files: Record<string, Uint8Array>;
  try {
    files = unzipSync(bytes);
  } catch (error) {
    throw corrupt(`it cannot be unpacked: ${(error as Error).message}`, at, error);
  }
  const out = new Map<string, Uint8Array>();
  for (const [name, file] of Object.entries(files)) {
    const entry = entries.get(name);
    if (name.endsWith('/')) continue;
    if (!entry || file.length !== entry.size || crc32(file) !== entry.crc)
      throw corrupt(`"${name}" does not unpack to what its directory says`, at);
    out.set(name, file);
  }
  return out;
}

const corrupt = (what: string, at: string, cause?: unknown) =>
  new Fault('zip.corrupt', `the archive is damaged: ${what}`, 'Fetch or write it again.', at, cause);

/** Files packed into a ZIP archive; the same files always give the same bytes. */
export const zip = (files: Readonly<Record<string, Uint8Array>>): Uint8Array =>
  zipSync(files, { level: 6, mtime: new Date(1980, 0, 1) });
