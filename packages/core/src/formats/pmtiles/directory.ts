import { Fault } from '../../base/fault.js';
import { Growing } from '../../base/growing.js';
import { WireReader } from '../mvt/wire.js';

/** One entry of a directory; `run` 0 means that it points at a leaf directory. */
export interface DirectoryEntry {
  id: number;
  offset: number;
  length: number;
  run: number;
}

/** Reads a directory, already unpacked (PMTiles 3, section 4). */
export function readDirectory(bytes: Uint8Array): DirectoryEntry[] {
  const reader = new WireReader(bytes);
  const count = reader.varint64();
  if (count > bytes.length)
    throw new Fault(
      'archive.directory',
      `a directory of ${bytes.length} bytes claims ${count} entries`,
      'The archive is damaged; write it again.',
    );
  const entries: DirectoryEntry[] = Array.from({ length: count }, () => ({ id: 0, offset: 0, length: 0, run: 0 }));
  let id = 0;
  for (const entry of entries) entry.id = id += reader.varint64();
  for (const entry of entries) entry.run = reader.varint64();
  for (const entry of entries) entry.length = reader.varint64();
  entries.forEach((entry, i) => {
    const stored = reader.varint64();
    if (stored === 0 && i === 0)
      throw new Fault(
        'archive.directory',
        'the first entry of a directory has no offset',
        'The archive is damaged; write it again.',
      );
    entry.offset = stored === 0 ? entries[i - 1].offset + entries[i - 1].length : stored - 1;
  });
  return entries;
}

export function writeDirectory(entries: readonly DirectoryEntry[]): Uint8Array {
  const out = new Growing((n) => new Uint8Array(n), entries.length * 8 + 16);
  const varint = (value: number) => {
    out.reserve(10);
    while (value > 127) {
      out.data[out.length++] = (value % 128) | 0x80;
      value = Math.floor(value / 128);
    }
    out.data[out.length++] = value;
  };
  varint(entries.length);
  entries.forEach((entry, i) => varint(entry.id - (i ? entries[i - 1].id : 0)));
  entries.forEach((entry) => varint(entry.run));
  entries.forEach((entry) => varint(entry.length));
  entries.forEach((entry, i) =>
    varint(i && entry.offset === entries[i - 1].offset + entries[i - 1].length ? 0 : entry.offset + 1),
  );
  return out.finish();
}

/** The entry that holds tile `id`, or the leaf to look into, or undefined. */
export function findEntry(entries: readonly DirectoryEntry[], id: number): DirectoryEntry | undefined {
  let low = 0;
  let high = entries.length - 1;
  while (low <= high) {
    const middle = (low + high) >> 1;
    if (entries[middle].id <= id) low = middle + 1;
    else high = middle - 1;
  }
  const entry = entries[high];
  return entry && (entry.run === 0 || id < entry.id + entry.run) ? entry : undefined;
}
