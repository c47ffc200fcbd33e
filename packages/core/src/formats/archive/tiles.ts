// Vector tiles as files: one tile, or all of an archive's deepest level, as features in longitude and latitude.
import { Fault } from '../../base/fault.js';
import { gunzip } from '../../base/gzip.js';
import { getCrs } from '../../crs/registry.js';
import { mercatorLat, mercatorLon, webMercatorHalf } from '../../crs/web-mercator.js';
import type { FeatureBlock } from '../../features/block.js';
import type { TileAddress } from '../../grid/address.js';
import type { FileFeature, FileGeometry, FileInput, FileLayer, FileReader } from '../files/feature-file.js';
import type { WarningList } from '../files/warnings.js';
import { Store } from '../geopackage/database.js';
import { featureToGeoJson } from '../geojson/write.js';
import { readTile, type Violation } from '../mvt/read.js';
import { Archive, bufferSource } from '../pmtiles/read.js';

/** Most tiles of an archive that are taken apart. */
const mostTiles = 20000;

interface PlacedTile {
  readonly tile: TileAddress;
  readonly bytes: Uint8Array;
}

/** Layers out of tiles; features that a border cuts come in pieces. */
class TileFeatures {
  private readonly layers = new Map<string, FileFeature[]>();
  private cut = 0;

  constructor(
    private readonly warnings: WarningList,
    private readonly title: string,
  ) {}

  take({ tile, bytes }: PlacedTile): void {
    const at = `${tile.z}/${tile.x}/${tile.y}`;
    const violations: Violation[] = [];
    for (const block of readTile(gunzip(bytes, at), { violations })) this.block(block, tile);
    for (const { message, offset } of violations)
      this.warnings.add(
        'skipped.violation',
        `tiles break their specification: ${message}`,
        'Those parts were left out.',
        `${at}, byte ${offset}`,
      );
  }

  private block(block: FeatureBlock, { z, x, y }: TileAddress): void {
    const side = block.extent * 2 ** z;
    const place = (xy: [number, number]) => {
      xy[0] = mercatorLon((2 * ((x * block.extent + xy[0]) / side) - 1) * webMercatorHalf);
      xy[1] = mercatorLat((1 - 2 * ((y * block.extent + xy[1]) / side)) * webMercatorHalf);
    };
    let list = this.layers.get(block.name);
    if (!list) this.layers.set(block.name, (list = []));
    for (let f = 0; f < block.count; f++) {
      const { id, geometry, properties } = featureToGeoJson(block, f, place);
      list.push({
        type: 'Feature',
        ...(id === undefined ? {} : { id }),
        geometry: geometry as FileGeometry | null,
        properties,
      });
      if (block.kinds[f] > 1) this.cut++;
    }
  }

  finish(tiles: number): FileLayer[] {
    if (tiles > 1 && this.cut)
      this.warnings.add(
        'doubtful.pieces',
        'lines and areas are cut at the borders of tiles',
        'Use the original data if you need whole features.',
        this.title,
      );
    return [...this.layers].map(([name, features]) => ({
      name,
      features,
      crs: getCrs('OGC:CRS84'),
      crsSource: 'tiles of the web Mercator grid',
    }));
  }
}

const address = /(?:^|[^\d])(\d{1,2})[-_/](\d+)[-_/](\d+)(?=[^\d]|$)/;

/** Reads a single vector tile; its address stands in its name, as in `12-1693-1476.mvt`. */
export const tileReader: FileReader = {
  read({ name, bytes }, warnings) {
    const found = address.exec(name);
    if (!found)
      throw new Fault(
        'tile.address',
        `the name ${name} does not contain a tile address`,
        'Name it z-x-y.mvt, such as 12-1693-1476.mvt, or read it with inspect.',
        name,
      );
    const [z, x, y] = found.slice(1).map(Number);
    const features = new TileFeatures(warnings, name);
    features.take({ tile: { z, x, y }, bytes });
    return Promise.resolve(features.finish(1));
  },
};

/** Reads the deepest level of a PMTiles 3 archive of vector tiles. */
export const pmtilesReader: FileReader = {
  async read(input: FileInput, warnings, { progress }) {
    const archive = await Archive.open(bufferSource(input.bytes));
    const { maxZoom, tileType } = archive.header;
    assertVector(tileType === 1, input.name);
    const addresses: TileAddress[] = [];
    for await (const { tile, run } of archive.entries()) {
      if (tile.z !== maxZoom) continue;
      if (run > 1)
        warnings.add(
          'skipped.run',
          'runs of equal tiles were read once',
          'They contain the same features.',
          `${tile.z}/${tile.x}/${tile.y}`,
        );
      addresses.push(tile);
    }
    assertFew(addresses.length, input.name);
    const features = new TileFeatures(warnings, input.name);
    for (const [i, tile] of addresses.entries()) {
      const bytes = await archive.tile(tile);
      if (bytes) features.take({ tile, bytes });
      if (i % 64 === 0) progress?.(i / addresses.length);
    }
    return features.finish(addresses.length);
  },
};

/** Reads the deepest level of an MBTiles 1.3 database of vector tiles. */
export const mbtilesReader: FileReader = {
  async read({ name, bytes, path }, warnings, { progress }) {
    const store = await Store.open(path ?? bytes, name);
    try {
      const metadata = Object.fromEntries(
        store.rows('SELECT name, value FROM metadata').map((row) => [String(row['name']), row['value']]),
      );
      assertVector(metadata['format'] === 'pbf', name);
      const [deepest] = store.rows('SELECT max(zoom_level) AS z, count(*) AS n FROM tiles');
      const [{ n }] = store.rows('SELECT count(*) AS n FROM tiles WHERE zoom_level = ?', [deepest['z']]);
      assertFew(Number(n), name);
      const features = new TileFeatures(warnings, name);
      let done = 0;
      store.each(
        'SELECT zoom_level, tile_column, tile_row, tile_data FROM tiles WHERE zoom_level = ?',
        [deepest['z']],
        (row) => {
          const [z, x, up] = ['zoom_level', 'tile_column', 'tile_row'].map((key) => Number(row[key]));
          // Rows are counted from the south (OGC 07-057r7, the tile map service order).
          if (row['tile_data'] instanceof Uint8Array)
            features.take({ tile: { z, x, y: 2 ** z - 1 - up }, bytes: row['tile_data'] });
          if (++done % 64 === 0) progress?.(done / Number(n));
        },
      );
      return features.finish(done);
    } finally {
      store.close();
    }
  },
};

function assertVector(vector: boolean, name: string): void {
  if (!vector)
    throw new Fault(
      'tile.pictures',
      `the tiles of ${name} are pictures`,
      'They contain no features; add them to a map as "images".',
      name,
    );
}

function assertFew(count: number, name: string): void {
  if (count > mostTiles)
    throw new Fault(
      'tile.many',
      `${name} has ${count.toLocaleString('en')} tiles on its deepest level, and ${mostTiles.toLocaleString('en')} are taken apart`,
      'Draw it as tiles, or use the data that it was cut from.',
      name,
    );
}
