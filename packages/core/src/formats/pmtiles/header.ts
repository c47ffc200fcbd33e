import { Fault } from '../../base/fault.js';

/** The fixed header of a PMTiles 3 archive (specification, section 3); offsets and lengths in bytes. */
export interface ArchiveHeader {
  rootOffset: number;
  rootLength: number;
  metadataOffset: number;
  metadataLength: number;
  leavesOffset: number;
  leavesLength: number;
  dataOffset: number;
  dataLength: number;
  addressedTiles: number;
  tileEntries: number;
  tileContents: number;
  clustered: boolean;
  /** Compression of directories and metadata: 0 unknown, 1 none, 2 gzip, 3 brotli, 4 zstd. */
  internalCompression: number;
  tileCompression: number;
  /** 0 unknown, 1 vector tile (MVT), 2 PNG, 3 JPEG, 4 WebP, 5 AVIF. */
  tileType: number;
  minZoom: number;
  maxZoom: number;
  /** `[west, south, east, north]` in degrees. */
  bounds: [number, number, number, number];
  /** `[longitude, latitude]` in degrees, and the zoom to start at. */
  center: [number, number];
  centerZoom: number;
}

export const headerLength = 127;
/** Header and root directory together fit in this many bytes, so one request fetches both. */
export const firstFetch = 16384;
export const compressionNames = ['unknown', 'none', 'gzip', 'brotli', 'zstd'] as const;
export const tileTypeNames = ['unknown', 'mvt', 'png', 'jpeg', 'webp', 'avif'] as const;

const magic = [0x50, 0x4d, 0x54, 0x69, 0x6c, 0x65, 0x73];
const wide = [
  'rootOffset',
  'rootLength',
  'metadataOffset',
  'metadataLength',
  'leavesOffset',
  'leavesLength',
  'dataOffset',
  'dataLength',
  'addressedTiles',
  'tileEntries',
  'tileContents',
] as const;

export function readHeader(bytes: Uint8Array): ArchiveHeader {
  const hint = 'Check the address: a PMTiles 3 archive begins with the letters PMTiles and the byte 3.';
  if (bytes.length < headerLength || magic.some((byte, i) => bytes[i] !== byte)) {
    const begin = String.fromCharCode(...bytes.subarray(0, 24)).replace(/[^\x20-\x7e]/g, '·');
    throw new Fault(
      'archive.magic',
      bytes.length < headerLength
        ? `the archive is ${bytes.length} bytes long and its header alone has ${headerLength}`
        : `the file begins with "${begin}"`,
      hint,
      'byte 0',
    );
  }
  if (bytes[7] !== 3)
    throw new Fault(
      'archive.version',
      `the archive is of version ${bytes[7]}, and version 3 is read`,
      'Convert the archive to version 3.',
      'byte 7',
    );
  const view = new DataView(bytes.buffer, bytes.byteOffset, headerLength);
  const degrees = (at: number) => view.getInt32(at, true) / 1e7;
  const header = {} as ArchiveHeader;
  wide.forEach((name, i) => (header[name] = Number(view.getBigUint64(8 + 8 * i, true))));
  return Object.assign(header, {
    clustered: bytes[96] === 1,
    internalCompression: bytes[97],
    tileCompression: bytes[98],
    tileType: bytes[99],
    minZoom: bytes[100],
    maxZoom: bytes[101],
    bounds: [degrees(102), degrees(106), degrees(110), degrees(114)] as [number, number, number, number],
    centerZoom: bytes[118],
    center: [degrees(119), degrees(123)] as [number, number],
  });
}

export function writeHeader(header: ArchiveHeader): Uint8Array {
  const bytes = new Uint8Array(headerLength);
  const view = new DataView(bytes.buffer);
  bytes.set([...magic, 3]);
  wide.forEach((name, i) => view.setBigUint64(8 + 8 * i, BigInt(header[name]), true));
  bytes.set(
    [
      header.clustered ? 1 : 0,
      header.internalCompression,
      header.tileCompression,
      header.tileType,
      header.minZoom,
      header.maxZoom,
    ],
    96,
  );
  header.bounds.forEach((d, i) => view.setInt32(102 + 4 * i, Math.round(d * 1e7), true));
  bytes[118] = header.centerZoom;
  header.center.forEach((d, i) => view.setInt32(119 + 4 * i, Math.round(d * 1e7), true));
  return bytes;
}
