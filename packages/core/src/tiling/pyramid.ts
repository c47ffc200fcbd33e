import { Kind, type FeatureBlock } from '../features/block.js';
import { labelPlace } from '../features/label-place.js';
import { doubleArea } from '../geometry/rings.js';
import { addressKey, type TileAddress } from '../grid/address.js';
import { mercatorGrid, planGrid, type SquareGrid } from '../grid/square.js';
import { clip, cutFromBlock, joined, shifted, type Cut } from './cut.js';
import { PointGrid } from './point-grid.js';
import { quantise } from './quantise.js';
import { bent } from './bend.js';
import { unwrapped } from './unwrap.js';

export interface TilingOptions {
  /** Tile units across a tile; default 4096. */
  readonly extent?: number;
  /** Width in tile units of the buffer around each tile; default 64. */
  readonly buffer?: number;
  /** Tile units in a pixel, for leaving out what is too small to be seen; default `extent / 512`. */
  readonly pixel?: number;
  /** Tolerance of simplification in pixels; default 0.4. The deepest level is not simplified beyond its grid. */
  readonly tolerance?: number;
  /** Whether points in the pixel of an earlier point are left out above the deepest level; default true. */
  readonly thin?: boolean;
  /** Whether vertices of lines carry their position along the whole line; default false. */
  readonly measured?: boolean;
  /** Tile matrix set; default WebMercatorQuad. */
  readonly grid?: SquareGrid;
}

interface Settings {
  readonly extent: number;
  readonly buffer: number;
  readonly pixel: number;
  readonly tolerance: number;
  readonly thin: boolean;
  readonly measured: boolean;
  readonly grid: SquareGrid;
}

function settings(options: TilingOptions): Settings {
  const extent = options.extent ?? 4096;
  const pixel = options.pixel ?? extent / 512;
  return {
    extent,
    buffer: options.buffer ?? 64,
    pixel,
    tolerance: (options.tolerance ?? 0.4) * pixel,
    thin: options.thin ?? true,
    measured: options.measured ?? false,
    grid: options.grid ?? mercatorGrid,
  };
}

const finenessOf = (grid: SquareGrid, tile: TileAddress): number => grid.fineness?.(tile) ?? 1;

/** Widest strip of neighboring ground at a pole, as a part of the world: about 11°. */
const widestRim = 1 / 32;

/** Most times round the world that features are brought back over. */
const mostTurns = 12;

/** A block laid into the square world, with what lies beyond the antimeridian brought round, however far. */
function world(block: FeatureBlock, { extent, buffer, measured, grid }: Settings): Cut {
  if (grid.id === planGrid.id) return cutFromBlock(block, measured, grid);
  // Around a pole there is no antimeridian to go over.
  if (grid.bends) return cutFromBlock(bent(block, grid), measured, grid);
  const cut = cutFromBlock(unwrapped(block), measured, grid);
  const rim = grid.fineness ? widestRim : buffer / extent;
  let [west, east] = [0, 1];
  cut.boxes.forEach((v, i) => {
    if (i % 2) return;
    west = Math.min(west, v);
    east = Math.max(east, v);
  });
  if (west === 0 && east === 1) return cut;
  const [first, last] = [Math.max(Math.floor(west), -mostTurns), Math.min(Math.ceil(east) - 1, mostTurns)];
  const turns = Array.from({ length: last - first + 3 }, (_, k) => k - last - 1);
  return joined(turns.map((turn) => shifted(clip(cut, 0, -rim - turn, 1 + rim - turn), turn)));
}

/** The quarter of a cut that belongs to tile `t`, with its buffer. */
function within(cut: Cut, tile: TileAddress, { extent, buffer, grid }: Settings): Cut {
  const { z, x, y } = tile;
  const size = 2 ** -z;
  const rim = (buffer / extent) * size;
  // A stroke near a pole leaves its narrow tile sideways, so the strip is as wide on the ground as it is tall.
  const finer = finenessOf(grid, tile);
  const side = finer > 1 ? Math.max(rim, Math.min(widestRim, rim * finer, 3 * size)) : rim;
  const column = clip(cut, 0, x * size - side, (x + 1) * size + side);
  return clip(column, 1, y * size - rim, (y + 1) * size + rim);
}

function emit(
  cut: Cut,
  block: FeatureBlock,
  tile: TileAddress,
  deepest: boolean,
  { extent, pixel, tolerance, thin, grid }: Settings,
): FeatureBlock | undefined {
  const points = thin || !cut.kinds.includes(1);
  return quantise(cut, block, tile, {
    extent: extent * finenessOf(grid, tile),
    tolerance: deepest ? Math.min(tolerance, 1) : tolerance,
    pixel: deepest || !points ? 0 : pixel,
  });
}

export interface PyramidTile {
  readonly tile: TileAddress;
  readonly blocks: FeatureBlock[];
}

/**
 * All tiles of some lon/lat blocks (one a layer), level by level down each branch: every tile is cut from its
 * parent, so the cost grows with the depth and not with the number of tiles. Tiles that lie wholly inside the same
 * areas share one `blocks` array, so that they need to be written only once.
 *
 * @param blocks one block a layer, in longitude and latitude
 * @param zooms first and last level, both included
 * @param options levels, and what is told on the way
 */
export function* pyramid(
  blocks: readonly FeatureBlock[],
  zooms: readonly [number, number],
  options: TilingOptions = {},
): Generator<PyramidTile> {
  const set = settings(options);
  const visit = function* (tile: TileAddress, cuts: readonly Cut[]): Generator<PyramidTile> {
    if (tile.z >= zooms[0] && cuts.every((cut) => isSolid(cut, tile, set))) {
      const out = cuts.map((cut, i) => emit(cut, blocks[i], tile, true, set)).filter((block) => block !== undefined);
      if (out.length) yield* repeated(tile, zooms[1], out);
      return;
    }
    if (tile.z >= zooms[0]) {
      const out = cuts
        .map((cut, i) => emit(cut, blocks[i], tile, tile.z === zooms[1], set))
        .filter((block) => block !== undefined);
      if (out.length) yield { tile, blocks: out };
    }
    if (tile.z >= zooms[1]) return;
    const { z, x, y } = tile;
    const rim = (set.buffer / set.extent) * 2 ** -(z + 1);
    for (const dx of [0, 1]) {
      const west = (2 * x + dx) * 2 ** -(z + 1);
      const columns = cuts.map((cut) => clip(cut, 0, west - rim, west + 2 ** -(z + 1) + rim));
      if (columns.every((cut) => cut.count === 0)) continue;
      for (const dy of [0, 1]) {
        const north = (2 * y + dy) * 2 ** -(z + 1);
        const child = columns.map((cut) => clip(cut, 1, north - rim, north + 2 ** -(z + 1) + rim));
        if (child.some((cut) => cut.count > 0)) yield* visit({ z: z + 1, x: 2 * x + dx, y: 2 * y + dy }, child);
      }
    }
  };
  yield* visit(
    { z: 0, x: 0, y: 0 },
    blocks.map((block) => world(block, set)),
  );
}

/** Whether a tile holds nothing but areas that cover it to the rim. */
function isSolid(cut: Cut, { z, x, y }: TileAddress, { extent, buffer }: Settings): boolean {
  const size = 2 ** -z;
  const slack = ((buffer / extent) * 0.999 - 1e-6) * size;
  for (let f = 0; f < cut.count; f++) {
    const ring = cut.partRings[cut.featureParts[f]];
    const single =
      cut.featureParts[f + 1] - cut.featureParts[f] === 1 && cut.partRings[cut.featureParts[f] + 1] - ring === 1;
    if (cut.kinds[f] !== Kind.polygon || !single) return false;
    const [west, north, east, south] = cut.boxes.subarray(4 * f, 4 * f + 4);
    if (
      west > x * size - slack ||
      north > y * size - slack ||
      east < (x + 1) * size + slack ||
      south < (y + 1) * size + slack
    )
      return false;
    const area = Math.abs(doubleArea(cut.coords, cut.ringStarts[ring], cut.ringStarts[ring + 1])) / 2;
    if (Math.abs(area - (east - west) * (south - north)) > 1e-9 * size * size) return false;
  }
  return true;
}

function* repeated(tile: TileAddress, deepest: number, blocks: FeatureBlock[]): Generator<PyramidTile> {
  yield { tile, blocks };
  if (tile.z >= deepest) return;
  for (let k = 0; k < 4; k++)
    yield* repeated({ z: tile.z + 1, x: 2 * tile.x + (k & 1), y: 2 * tile.y + (k >> 1) }, deepest, blocks);
}

/** Cuts single tiles from a block on demand, starting from the nearest tile cut before. */
export class TileCutter {
  private readonly cuts = new Map<number, Cut>();
  private readonly middles = new Map<number, readonly [number, number, number] | undefined>();
  private readonly set: Settings;
  /** For features that are all points. */
  private readonly points: PointGrid | undefined;

  /**
   * Prepares features for cutting.
   *
   * @param block features in longitude and latitude, or in meters of a plan
   * @param maxZoom deepest zoom level
   * @param options tile matrix set, and whether lines are measured
   */
  constructor(
    private readonly block: FeatureBlock,
    readonly maxZoom: number,
    options: TilingOptions = {},
  ) {
    this.set = settings({ thin: false, ...options });
    this.points = this.set.thin ? undefined : PointGrid.of(block, this.set.grid);
    if (!this.points) this.cuts.set(addressKey(0, 0, 0), world(block, this.set));
  }

  /** Returns the features of one tile, in tile space; undefined if there are none. */
  tile(tile: TileAddress): FeatureBlock | undefined {
    if (this.points) {
      const { extent, buffer, grid } = this.set;
      const finer = finenessOf(grid, tile);
      return this.points.tile(tile, { extent: extent * finer, buffer: buffer * finer });
    }
    const cut = this.cut(tile);
    return cut.count ? emit(cut, this.block, tile, tile.z >= this.maxZoom, this.set) : undefined;
  }

  /**
   * Where the label of a line or polygon goes as a whole; worked out when first asked for.
   *
   * @param row number of the feature in the block
   * @returns parts of the square world, x to the east and y to the south, and the longer side of the feature's box in the same unit;
   *   undefined for points, and where there is no such feature
   */
  middle(row: number): readonly [x: number, y: number, size: number] | undefined {
    if (this.points) return undefined;
    const known = this.middles.get(row);
    if (known || this.middles.has(row)) return known;
    const whole = this.cuts.get(addressKey(0, 0, 0))!;
    // A piece that crosses the antimeridian is in the world several times; the first piece serves.
    const f = whole.rows[row] === row ? row : whole.rows.indexOf(row);
    const place = f < 0 || whole.kinds[f] === Kind.point ? undefined : labelPlace(whole, f);
    const [west, north, east, south] = whole.boxes.subarray(4 * f, 4 * f + 4);
    const found = place && ([...place, Math.max(east - west, south - north)] as const);
    this.middles.set(row, found);
    return found;
  }

  private cut(tile: TileAddress): Cut {
    const { z, x, y } = tile;
    const key = addressKey(z, x, y);
    const known = this.cuts.get(key);
    if (known) return known;
    const above = this.cut({ z: z - 1, x: x >> 1, y: y >> 1 });
    const cut = above.count ? within(above, tile, this.set) : above;
    if (this.cuts.size > 256) for (const old of [...this.cuts.keys()].slice(1, 128)) this.cuts.delete(old);
    this.cuts.set(key, cut);
    return cut;
  }
}
