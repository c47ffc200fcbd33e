import { gzip } from '../../base/gzip.js';
import { hilbertId, type TileAddress } from '../../grid/address.js';
import { writeDirectory, type DirectoryEntry } from './directory.js';
import { firstFetch, headerLength, writeHeader, type ArchiveHeader } from './header.js';

export interface ArchiveDetails {
  /** TileJSON 3 fields; `vector_layers` is required for vector tiles. */
  readonly metadata: Record<string, unknown>;
  readonly bounds: [number, number, number, number];
  readonly center?: [number, number];
  readonly centerZoom?: number;
  /** See {@link ArchiveHeader}; default 1, vector tiles. */
  readonly tileType?: number;
  /** Whether tiles are compressed with gzip; default true. */
  readonly packed?: boolean;
}

export interface WrittenArchive {
  readonly header: ArchiveHeader;
  /** The archive in parts, to be written one after the other. */
  readonly pieces: Uint8Array[];
  readonly length: number;
}

/**
 * Collects tiles in any order and writes them as a PMTiles 3 archive: clustered (tiles in the order of their ids), equal tiles stored once,
 * runs of equal neighbors in one entry, leaf directories if the root would exceed 16,257 bytes.
 */
export class ArchiveWriter {
  private readonly tiles = new Map<number, Uint8Array>();
  private readonly contents = new Map<string, Uint8Array[]>();
  private zooms: [number, number] = [Infinity, -Infinity];

  /**
   * Adds a tile; if it is added twice, the later bytes are kept.
   *
   * @param address level, column from the west, row from the north
   * @param bytes the uncompressed tile
   */
  add({ z, x, y }: TileAddress, bytes: Uint8Array): void {
    this.tiles.set(hilbertId(z, x, y), this.once(bytes));
    this.zooms = [Math.min(this.zooms[0], z), Math.max(this.zooms[1], z)];
  }

  get size(): number {
    return this.tiles.size;
  }

  finish(details: ArchiveDetails): WrittenArchive {
    const ids = [...this.tiles.keys()].sort((a, b) => a - b);
    const places = new Map<Uint8Array, number>();
    const data: Uint8Array[] = [];
    const entries: DirectoryEntry[] = [];
    let dataLength = 0;
    for (const id of ids) {
      const bytes = this.tiles.get(id)!;
      let offset = places.get(bytes);
      if (offset === undefined) {
        places.set(bytes, (offset = dataLength));
        data.push(bytes);
        dataLength += bytes.length;
      }
      const last = entries[entries.length - 1];
      if (last && last.offset === offset && last.id + last.run === id) last.run++;
      else entries.push({ id, offset, length: bytes.length, run: 1 });
    }
    const { root, leaves } = directories(entries);
    const leavesLength = leaves.reduce((sum, leaf) => sum + leaf.length, 0);
    const metadata = gzip(new TextEncoder().encode(JSON.stringify(details.metadata)));
    const within = (value: number, most: number) => Math.max(-most, Math.min(most, value));
    const bounds = details.bounds.map((value, i) => within(value, i % 2 ? 90 : 180)) as [
      number,
      number,
      number,
      number,
    ];
    const [west, south, east, north] = bounds;
    const header: ArchiveHeader = {
      rootOffset: headerLength,
      rootLength: root.length,
      metadataOffset: headerLength + root.length,
      metadataLength: metadata.length,
      leavesOffset: headerLength + root.length + metadata.length,
      leavesLength,
      dataOffset: headerLength + root.length + metadata.length + leavesLength,
      dataLength,
      addressedTiles: ids.length,
      tileEntries: entries.length,
      tileContents: data.length,
      clustered: true,
      internalCompression: 2,
      tileCompression: details.packed === false ? 1 : 2,
      tileType: details.tileType ?? 1,
      minZoom: ids.length ? this.zooms[0] : 0,
      maxZoom: ids.length ? this.zooms[1] : 0,
      bounds,
      center: details.center ?? [(west + east) / 2, (south + north) / 2],
      centerZoom: details.centerZoom ?? (ids.length ? this.zooms[0] : 0),
    };
    return {
      header,
      pieces: [writeHeader(header), root, metadata, ...leaves, ...data],
      length: header.dataOffset + dataLength,
    };
  }

  /** The bytes already held that equal these, or these. */
  private once(bytes: Uint8Array): Uint8Array {
    let hash = 0x811c9dc5;
    for (let i = 0; i < bytes.length; i++) hash = Math.imul(hash ^ bytes[i], 0x01000193);
    const key = `${hash}:${bytes.length}`;
    const alike = this.contents.get(key) ?? [];
    const same = alike.find((other) => other.every((byte, i) => byte === bytes[i]));
    if (same) return same;
    this.contents.set(key, [...alike, bytes]);
    return bytes;
  }
}

/** Bytes of a root entry at most: five for the step of its id, one for its run, four for its length and two for its offset. */
const rootEntryBytes = 12;

function directories(entries: DirectoryEntry[]): { root: Uint8Array; leaves: Uint8Array[] } {
  const room = firstFetch - headerLength;
  const whole = gzip(writeDirectory(entries));
  if (whole.length <= room) return { root: whole, leaves: [] };
  // Leaves as large as the root may be, so that each comes with one short read; where the root has no room for so many, larger ones.
  const most = Math.min(Math.ceil(whole.length / room), Math.floor(room / rootEntryBytes));
  for (let count = most; ; count = Math.ceil(count / 2)) {
    const size = Math.ceil(entries.length / count);
    const leaves: Uint8Array[] = [];
    const root: DirectoryEntry[] = [];
    let offset = 0;
    for (let i = 0; i < entries.length; i += size) {
      const leaf = gzip(writeDirectory(entries.slice(i, i + size)));
      root.push({ id: entries[i].id, offset, length: leaf.length, run: 0 });
      leaves.push(leaf);
      offset += leaf.length;
    }
    const packed = gzip(writeDirectory(root));
    if (packed.length <= room) return { root: packed, leaves };
  }
}
