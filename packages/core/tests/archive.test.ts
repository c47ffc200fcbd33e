import { describe, expect, test } from '@jest/globals';
import { gunzipSync, gzipSync } from 'node:zlib';
import { gzipSync as fflateGzip } from 'fflate';
import { Archive, ArchiveWriter, bufferSource, blobSource, Fault, gunzip, gzip } from '@flintwright/core';
import { hilbertId, tileOfHilbertId } from '@flintwright/core/internal';
import fc from 'fast-check';

const details = {
  metadata: { name: 'Test', vector_layers: [] },
  bounds: [-10, -20, 30, 40] as [number, number, number, number],
};
const joinPieces = (pieces: readonly Uint8Array[]) => new Uint8Array(Buffer.concat(pieces));

describe('tile archives', () => {
  // PMTiles 3 specification, section 4.1: the first levels, and its example of level 12.
  test.each([
    [0, 0, 0, 0],
    [1, 0, 0, 1],
    [1, 0, 1, 2],
    [1, 1, 1, 3],
    [1, 1, 0, 4],
    [2, 0, 0, 5],
    [12, 3423, 1763, 19078479],
  ])('tile %i/%i/%i has number %i', (z, x, y, id) => {
    expect(hilbertId(z, x, y)).toBe(id);
    expect(tileOfHilbertId(id)).toEqual({ z, x, y });
  });

  test('bounds of an archive end at ±180° and ±90°, whatever features reach', () => {
    const writer = new ArchiveWriter();
    writer.add({ z: 0, x: 0, y: 0 }, gzip(Uint8Array.of(1)));
    const { header, pieces } = writer.finish({ ...details, bounds: [-190, -91, 200, 95] });
    expect(header.bounds).toEqual([-180, -90, 180, 90]);
    const view = new DataView(joinPieces(pieces).buffer);
    expect([102, 106, 110, 114].map((at) => view.getInt32(at, true))).toEqual([-18e8, -9e8, 18e8, 9e8]);
  });

  test('numbers lead back to tiles on all levels, and neighbors in number are neighbors in place', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 24 }),
        fc.double({ min: 0, max: 0.999, noNaN: true }),
        fc.double({ min: 0, max: 0.999, noNaN: true }),
        (z, u, v) => {
          const [x, y] = [Math.floor(u * 2 ** z), Math.floor(v * 2 ** z)];
          const id = hilbertId(z, x, y);
          expect(tileOfHilbertId(id)).toEqual({ z, x, y });
          const next = tileOfHilbertId(id + 1);
          if (next.z === z) expect(Math.abs(next.x - x) + Math.abs(next.y - y)).toBe(1);
        },
      ),
    );
  });

  test('writes what it reads: equal tiles once, runs in one entry, header and metadata by the specification', async () => {
    const writer = new ArchiveWriter();
    const sea = gzip(Uint8Array.of(1, 2, 3));
    const town = gzip(Uint8Array.of(4, 5, 6, 7));
    for (let x = 0; x < 4; x++)
      for (let y = 0; y < 4; y++) writer.add({ z: 2, x, y }, x === 3 && y === 3 ? town : Uint8Array.from(sea));
    writer.add({ z: 0, x: 0, y: 0 }, town);
    const { pieces, header, length } = writer.finish(details);
    const bytes = joinPieces(pieces);
    expect(bytes.length).toBe(length);
    expect(Buffer.from(bytes.subarray(0, 8)).toString('latin1')).toBe('PMTiles\u0003');
    expect(new DataView(bytes.buffer).getBigUint64(8, true)).toBe(127n);
    expect(new DataView(bytes.buffer).getInt32(102, true)).toBe(-100000000);
    expect([bytes[96], bytes[97], bytes[98], bytes[99], bytes[100], bytes[101]]).toEqual([1, 2, 2, 1, 0, 2]);
    expect(header).toMatchObject({ addressedTiles: 17, tileContents: 2, clustered: true });
    // 16 tiles of level 2: sea before, the town, sea after; and the one of level 0.
    expect(header.tileEntries).toBe(4);
    for (const source of [bufferSource(bytes), blobSource(new Blob([bytes]))]) {
      const archive = await Archive.open(source);
      expect(gunzip((await archive.tile({ z: 2, x: 3, y: 3 }))!)).toEqual(Uint8Array.of(4, 5, 6, 7));
      expect(gunzip((await archive.tile({ z: 2, x: 1, y: 0 }))!)).toEqual(Uint8Array.of(1, 2, 3));
      expect(await archive.tile({ z: 1, x: 0, y: 0 })).toBeUndefined();
      expect(await archive.tile({ z: 9, x: 0, y: 0 })).toBeUndefined();
      expect(await archive.metadata()).toEqual(details.metadata);
      expect(archive.header.bounds).toEqual(details.bounds);
    }
    // One read brings header, root directory and metadata; over a network each would be a round trip.
    const reads: number[] = [];
    const told = bufferSource(bytes);
    const archive = await Archive.open({ read: (from, count) => (reads.push(from), told.read(from, count)) });
    expect(await archive.metadata()).toEqual(details.metadata);
    expect(reads).toEqual([0]);
  });

  test('a large archive puts its directory into leaves, and every tile is found', async () => {
    const writer = new ArchiveWriter();
    const content = (x: number, y: number) =>
      new Uint8Array(4 + (Math.imul(x * 160 + y, 2654435761) >>> 23)).fill(x).fill(y, 2);
    for (let x = 0; x < 160; x++) for (let y = 0; y < 160; y++) writer.add({ z: 8, x, y }, content(x, y));
    const { pieces, header } = writer.finish({ ...details, packed: false });
    expect(header.leavesLength).toBeGreaterThan(0);
    expect(header.rootOffset + header.rootLength).toBeLessThanOrEqual(16384);
    const archive = await Archive.open(bufferSource(joinPieces(pieces)));
    for (const [x, y] of [
      [0, 0],
      [159, 159],
      [17, 140],
      [99, 3],
    ])
      expect(await archive.tile({ z: 8, x, y })).toEqual(content(x, y));
    let seen = 0;
    for await (const { run } of archive.entries()) seen += run;
    expect(seen).toBe(160 * 160);
  });

  test('whatever tiles are put in, in whatever order, are found again, and no others', async () => {
    const tiles = fc.uniqueArray(
      fc.record({
        z: fc.integer({ min: 0, max: 12 }),
        u: fc.double({ min: 0, max: 0.999, noNaN: true }),
        v: fc.double({ min: 0, max: 0.999, noNaN: true }),
        content: fc.integer({ min: 0, max: 5 }),
      }),
      { maxLength: 120, selector: ({ z, u, v }) => `${z} ${Math.floor(u * 2 ** z)} ${Math.floor(v * 2 ** z)}` },
    );
    await fc.assert(
      fc.asyncProperty(tiles, fc.boolean(), async (given, packed) => {
        const put = given.map(({ z, u, v, content }) => ({
          tile: { z, x: Math.floor(u * 2 ** z), y: Math.floor(v * 2 ** z) },
          bytes: new Uint8Array(3 + 40 * content).fill(content + 1),
        }));
        const writer = new ArchiveWriter();
        for (const { tile, bytes } of put) writer.add(tile, packed ? gzip(bytes) : bytes);
        const { pieces, header } = writer.finish({ ...details, packed });
        expect(header.addressedTiles).toBe(put.length);
        expect(header.tileContents).toBe(new Set(put.map(({ bytes }) => bytes.length)).size);
        const archive = await Archive.open(bufferSource(joinPieces(pieces)));
        for (const { tile, bytes } of put) {
          const found = (await archive.tile(tile))!;
          expect(packed ? gunzip(found) : found).toEqual(bytes);
        }
        // Every place in the list, once, in the order of its number.
        const listed: number[] = [];
        for await (const { tile, run } of archive.entries()) {
          const first = hilbertId(tile.z, tile.x, tile.y);
          for (let i = 0; i < run; i++) listed.push(first + i);
        }
        const numbers = put.map(({ tile }) => hilbertId(tile.z, tile.x, tile.y)).sort((a, b) => a - b);
        expect(listed).toEqual(numbers);
        for (const number of numbers.slice(0, 20))
          for (const other of [number - 1, number + 1])
            if (other >= 0 && !numbers.includes(other))
              expect(await archive.tile(tileOfHilbertId(other))).toBeUndefined();
      }),
      { numRuns: 60, seed: 21 },
    );
  });

  test('damage is told apart and named', async () => {
    const writer = new ArchiveWriter();
    writer.add({ z: 0, x: 0, y: 0 }, gzip(new Uint8Array(100).map((_, i) => i)));
    const bytes = joinPieces(writer.finish(details).pieces);
    const opened = async (change: (copy: Uint8Array) => Uint8Array | void) => {
      const copy = Uint8Array.from(bytes);
      const archive = await Archive.open(bufferSource(change(copy) ?? copy));
      const tile = await archive.tile({ z: 0, x: 0, y: 0 });
      return gunzip(tile!);
    };
    const code = (wanted: string) =>
      expect.objectContaining({ code: wanted, hint: expect.stringMatching(/\S/) }) as unknown as Error;
    await expect(opened(() => Uint8Array.from(Buffer.from('<!doctype html>')))).rejects.toThrow(code('archive.magic'));
    await expect(opened((copy) => void (copy[0] = 0x51))).rejects.toThrow(code('archive.magic'));
    await expect(opened((copy) => void (copy[7] = 2))).rejects.toThrow(code('archive.version'));
    await expect(opened((copy) => void (copy[97] = 4))).rejects.toThrow(code('archive.compression'));
    await expect(opened((copy) => void (copy[130] ^= 0xff))).rejects.toThrow(Fault);
    await expect(opened((copy) => copy.subarray(0, copy.length - 9))).rejects.toThrow(code('archive.truncated'));
    await expect(opened((copy) => void copy.fill(0xff, copy.length - 40))).rejects.toThrow(code('gzip.corrupt'));
  });
});

describe('gzip (RFC 1952)', () => {
  const plain = Uint8Array.from({ length: 200_000 }, (_, i) => (i * i) % 251);
  const joined = (...parts: readonly Uint8Array[]) => Uint8Array.from(parts.flatMap((part) => [...part]));
  const codeOf = (work: () => unknown) => {
    try {
      work();
    } catch (error) {
      return (error as Fault).code;
    }
    return 'none';
  };

  test('all members are unpacked, those of another writer too, with names and comments in their headers', () => {
    const [first, second] = [plain.subarray(0, 70_000), plain.subarray(70_000)];
    expect(gunzip(joined(gzip(first), gzip(second)))).toEqual(plain);
    expect(gunzip(new Uint8Array(gzipSync(plain)))).toEqual(plain);
    expect(gunzip(fflateGzip(plain, { filename: 'a name', mtime: 1 }))).toEqual(plain);
    expect(gunzip(gzip(new Uint8Array(0)))).toEqual(new Uint8Array(0));
    // The other way round, as an independent reader has it.
    expect(new Uint8Array(gunzipSync(gzip(plain)))).toEqual(plain);
  });

  test('a flipped byte, a forged length, an end too early and rubbish behind it are told, whatever the place', () => {
    const packed = gzip(plain);
    for (let i = 10; i < packed.length; i += Math.ceil(packed.length / 97)) {
      const copy = packed.slice();
      copy[i] ^= 0x10;
      expect([i, codeOf(() => gunzip(copy))]).toEqual([i, 'gzip.corrupt']);
      expect(codeOf(() => gunzip(packed.subarray(0, i)))).toBe('gzip.corrupt');
    }
    for (const length of [0, 1, plain.length - 1, plain.length + 1, 2 ** 32 - 1]) {
      const copy = packed.slice();
      new DataView(copy.buffer).setUint32(copy.length - 4, length, true);
      expect([length, codeOf(() => gunzip(copy))]).toEqual([length, 'gzip.corrupt']);
    }
    expect(codeOf(() => gunzip(joined(packed, Uint8Array.of(1, 2, 3))))).toBe('gzip.corrupt');
    expect(codeOf(() => gunzip(joined(packed, packed.subarray(0, 30))))).toBe('gzip.corrupt');
  });

  test('what comes to more than is allowed is stopped before it is there', () => {
    const bomb = gzipSync(new Uint8Array(2 ** 27));
    const before = process.memoryUsage().rss;
    expect(codeOf(() => gunzip(bomb, 'x', 2 ** 20))).toBe('gzip.large');
    expect(process.memoryUsage().rss - before).toBeLessThan(100e6);
    expect(gunzip(gzip(new Uint8Array(2 ** 20)), 'x', 2 ** 20)).toHaveLength(2 ** 20);
  });
});
