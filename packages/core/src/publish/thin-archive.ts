import { gunzip, gzip } from '../base/gzip.js';
import type { FeatureBlock } from '../features/block.js';
import type { TileAddress } from '../grid/address.js';
import { hilbertId, tileOfHilbertId } from '../grid/address.js';
import { readTile } from '../formats/mvt/read.js';
import { writeTile } from '../formats/mvt/write.js';
import { Archive, bufferSource } from '../formats/pmtiles/read.js';
import { ArchiveWriter } from '../formats/pmtiles/write.js';
import type { LeftOut } from './attributes.js';

const mvt = 1;
const packedWithGzip = 2;

/**
 * Returns an archive of vector tiles without the attributes that are left out. Geometries, ids, layers and all tiles stay; an archive with nothing
 * to leave out, or of pictures, comes back as it is.
 *
 * @param bytes a PMTiles 3 archive
 * @param left decides which attributes are kept, and notes the others
 * @throws Fault as `Archive.open` and `readTile` do
 */
export async function thinArchive(bytes: Uint8Array, left: LeftOut): Promise<Uint8Array> {
  const archive = await Archive.open(bufferSource(bytes));
  const { header } = archive;
  if (header.tileType !== mvt) return bytes;
  const packed = header.tileCompression === packedWithGzip;
  const writer = new ArchiveWriter();
  const thinned = new Map<number, Uint8Array>();
  for await (const { tile, run, offset, length } of archive.entries()) {
    let content = thinned.get(offset);
    if (!content) {
      const stored = bytes.subarray(header.dataOffset + offset, header.dataOffset + offset + length);
      const written = writeTile(readTile(packed ? gunzip(stored, nameOf(tile)) : stored).map(withoutLeft));
      thinned.set(offset, (content = packed ? gzip(written) : written));
    }
    const first = hilbertId(tile.z, tile.x, tile.y);
    for (let k = 0; k < run; k++) writer.add(tileOfHilbertId(first + k), content);
  }
  const metadata = withoutFields(await archive.metadata());
  if (!left.list.length) return bytes;
  const { pieces, length } = writer.finish({ ...header, metadata, packed });
  const out = new Uint8Array(length);
  let at = 0;
  for (const piece of pieces) {
    out.set(piece, at);
    at += piece.length;
  }
  return out;

  function withoutLeft(block: FeatureBlock): FeatureBlock {
    return { ...block, columns: block.columns.filter(({ name }) => left.keeps(name)) };
  }

  /** The metadata, with the kept fields of each layer (TileJSON 3.0, section 3.3). */
  function withoutFields(all: Record<string, unknown>): Record<string, unknown> {
    const { vector_layers: layers } = all;
    if (!Array.isArray(layers)) return all;
    return {
      ...all,
      vector_layers: (layers as { fields?: object }[]).map((layer) =>
        layer.fields ? { ...layer, fields: left.kept(layer.fields as Record<string, unknown>) } : layer,
      ),
    };
  }
}

const nameOf = ({ z, x, y }: TileAddress) => `${z}/${x}/${y}`;
