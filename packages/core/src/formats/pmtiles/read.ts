import { Fault } from '../../base/fault.js';
import { unpack } from '../../base/unpack.js';
import { hilbertId, tileOfHilbertId, type TileAddress } from '../../grid/address.js';
import { findEntry, readDirectory, type DirectoryEntry } from './directory.js';
import { compressionNames, firstFetch, headerLength, readHeader, type ArchiveHeader } from './header.js';

/** Bytes that can be read in ranges: a buffer, a `Blob` or `File`, an HTTP resource, a file on disk. */
export interface ByteSource {
  /**
   * Reads up to `length` bytes from `offset`; fewer only at the end of the source.
   *
   * @param offset first byte, from 0
   * @param length number of bytes
   * @param signal aborts the request
   */
  read(offset: number, length: number, signal?: AbortSignalLike): Promise<Uint8Array>;
}

/** The part of the platform's `AbortSignal` that is used. */
export interface AbortSignalLike {
  readonly aborted: boolean;
  throwIfAborted(): void;
}

/** A source of bytes in memory. */
export function bufferSource(bytes: Uint8Array): ByteSource {
  return { read: (offset, length) => Promise.resolve(bytes.subarray(offset, offset + length)) };
}

/** A source of the bytes of a `Blob` or `File`. */
export function blobSource(blob: {
  slice(from: number, to: number): { arrayBuffer(): Promise<ArrayBuffer> };
}): ByteSource {
  return { read: async (offset, length) => new Uint8Array(await blob.slice(offset, offset + length).arrayBuffer()) };
}

/** An open PMTiles 3 archive. Leaf directories are fetched on demand, and up to 64 are cached. */
export class Archive {
  private readonly leaves = new Map<number, Promise<DirectoryEntry[]>>();

  private constructor(
    private readonly source: ByteSource,
    readonly header: ArchiveHeader,
    private readonly root: DirectoryEntry[],
    /** The metadata as stored, where the first read brought them. */
    private readonly told: Uint8Array | undefined,
  ) {}

  /**
   * Opens an archive: reads its header and its root directory.
   *
   * @param source source of its bytes
   * @param signal aborts the request
   * @throws Fault `archive.magic`, `archive.version`, `archive.compression`, `archive.truncated` or `archive.directory`
   */
  static async open(source: ByteSource, signal?: AbortSignalLike): Promise<Archive> {
    const first = await source.read(0, firstFetch, signal);
    const header = readHeader(first);
    for (const [what, compression] of [
      ['directories', header.internalCompression],
      ['tiles', header.tileCompression],
    ] as const) {
      if (compression > 2) {
        throw new Fault(
          'archive.compression',
          `the ${what} are packed with ${compressionNames[compression] ?? `method ${compression}`}, expected none or gzip`,
          'Write the archive again with gzip.',
        );
      }
    }
    const { rootOffset, rootLength, metadataOffset, metadataLength } = header;
    const inFirst = (offset: number, length: number) =>
      offset >= headerLength && offset + length <= first.length ? first.slice(offset, offset + length) : undefined;
    const root =
      inFirst(rootOffset, rootLength) ?? (await exactly(source, rootOffset, rootLength, 'the root directory', signal));
    return new Archive(
      source,
      header,
      readDirectory(await unpack(root, `byte ${rootOffset}`)),
      inFirst(metadataOffset, metadataLength),
    );
  }

  /** The metadata object: TileJSON 3 fields such as `name`, `attribution` and `vector_layers`. */
  async metadata(signal?: AbortSignalLike): Promise<Record<string, unknown>> {
    const { metadataOffset, metadataLength } = this.header;
    if (!metadataLength) return {};
    const stored = this.told ?? (await exactly(this.source, metadataOffset, metadataLength, 'the metadata', signal));
    const bytes = await unpack(stored, `byte ${metadataOffset}`);
    try {
      return JSON.parse(new TextDecoder().decode(bytes)) as Record<string, unknown>;
    } catch (error) {
      throw new Fault(
        'archive.metadata',
        `the metadata is not JSON: ${(error as Error).message}`,
        'The archive is damaged; write it again.',
        `byte ${metadataOffset}`,
        error,
      );
    }
  }

  /**
   * Returns the bytes of a tile as stored (compressed, if `header.tileCompression` says so); undefined if the archive does not contain it.
   *
   * @param address level, column from the west, row from the north
   * @param signal aborts the request
   */
  async tile({ z, x, y }: TileAddress, signal?: AbortSignalLike): Promise<Uint8Array | undefined> {
    if (z < this.header.minZoom || z > this.header.maxZoom) return undefined;
    const id = hilbertId(z, x, y);
    let entry = findEntry(this.root, id);
    for (let depth = 0; entry?.run === 0; depth++) {
      if (depth > deepestLeaf) throw tooDeep();
      entry = findEntry(await this.leaf(entry, signal), id);
    }
    if (!entry) return undefined;
    return exactly(this.source, this.header.dataOffset + entry.offset, entry.length, `tile ${z}/${x}/${y}`, signal);
  }

  /** Every tile entry in storage order, leaves included, with the run length of equal neighbors. */
  async *entries(): AsyncGenerator<{ tile: TileAddress; run: number; offset: number; length: number }> {
    const seen = new Set<number>();
    const walk = async function* (
      this: Archive,
      entries: DirectoryEntry[],
      depth: number,
    ): AsyncGenerator<DirectoryEntry> {
      for (const entry of entries)
        if (entry.run) yield entry;
        else {
          // A leaf that leads to itself, or is led to twice, would never end.
          if (depth > deepestLeaf || seen.has(entry.offset)) throw tooDeep();
          seen.add(entry.offset);
          yield* walk.call(this, await this.leaf(entry), depth + 1);
        }
    };
    for await (const { id, run, offset, length } of walk.call(this, this.root, 0))
      yield { tile: tileOfHilbertId(id), run, offset, length };
  }

  private leaf(entry: DirectoryEntry, signal?: AbortSignalLike): Promise<DirectoryEntry[]> {
    const known = this.leaves.get(entry.offset);
    if (known) return known;
    const offset = this.header.leavesOffset + entry.offset;
    const loading = exactly(this.source, offset, entry.length, 'a leaf directory', signal).then(async (bytes) =>
      readDirectory(await unpack(bytes, `byte ${offset}`)),
    );
    loading.catch(() => this.leaves.delete(entry.offset));
    if (this.leaves.size >= 64) this.leaves.delete(this.leaves.keys().next().value!);
    this.leaves.set(entry.offset, loading);
    return loading;
  }
}

/** Levels of leaf directories below the root, at most. */
const deepestLeaf = 3;

const tooDeep = () =>
  new Fault(
    'archive.directory',
    'leaf directories are nested more than four deep, or lead to one another',
    'The archive is damaged; write it again.',
  );

async function exactly(
  source: ByteSource,
  offset: number,
  length: number,
  what: string,
  signal?: AbortSignalLike,
): Promise<Uint8Array> {
  const bytes = await source.read(offset, length, signal);
  if (bytes.length < length) {
    throw new Fault(
      'archive.truncated',
      `${what} has ${length} bytes and the archive ends after ${bytes.length} of them`,
      'The archive was truncated; fetch or write it again.',
      `byte ${offset}`,
    );
  }
  return bytes;
}
