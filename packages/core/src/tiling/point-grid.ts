import { gather, Kind, type FeatureBlock } from '../features/block.js';
import type { TileAddress } from '../grid/address.js';
import { gridHalf, planGrid, type SquareGrid } from '../grid/square.js';

/** Points that a cell holds, were they spread evenly. */
const aCell = 16;
const mostCells = 1 << 20;

/** Width of a tile and of the strip around it, in tile units. */
interface TileMeasures {
  readonly extent: number;
  readonly buffer: number;
}

/**
 * Points sorted into the cells of a grid by counting, so that the tiles of a million are found without going through them level by level.
 * Coordinates are parts of the square world, x to the east and y to the south.
 */
export class PointGrid {
  /** x, y by turns, one a feature; NaN for features without a place. */
  private readonly places: Float64Array;
  /** Features by cell, and where each cell begins. */
  private readonly order: Uint32Array;
  private readonly starts: Uint32Array;
  private readonly side: number;
  private readonly origin: readonly [x: number, y: number];
  private readonly perUnit: readonly [x: number, y: number];
  /** Whether places lie beyond the world's rim, so that what is near it belongs to both ends. */
  private readonly wraps: boolean;

  /** A grid of the features of a block; undefined where they are not all single points. */
  static of(block: FeatureBlock, grid: SquareGrid): PointGrid | undefined {
    const { count, kinds, featureParts, coords } = block;
    if (!count || coords.length > 2 * count) return undefined;
    for (let f = 0; f < count; f++)
      if (kinds[f] > Kind.point || featureParts[f + 1] - featureParts[f] > 1) return undefined;
    return new PointGrid(block, grid);
  }

  private constructor(
    private readonly block: FeatureBlock,
    grid: SquareGrid,
  ) {
    const { count, featureParts, coords } = block;
    const places = (this.places = new Float64Array(2 * count).fill(NaN));
    let [west, north, east, south] = [Infinity, Infinity, -Infinity, -Infinity];
    for (let f = 0; f < count; f++) {
      const v = featureParts[f];
      if (featureParts[f + 1] === v) continue;
      const [x, y] = grid.at(coords[2 * v], coords[2 * v + 1]);
      const [px, py] = [0.5 + x / (2 * gridHalf), 0.5 - y / (2 * gridHalf)];
      places[2 * f] = px;
      places[2 * f + 1] = py;
      if (px < west) west = px;
      if (px > east) east = px;
      if (py < north) north = py;
      if (py > south) south = py;
    }
    this.wraps = grid.id !== planGrid.id && (west < 0 || east > 1);
    if (this.wraps) {
      for (let i = 0; i < places.length; i += 2) places[i] -= Math.floor(places[i]);
      [west, east] = [0, 1];
    }
    this.side = Math.max(1, Math.floor(Math.sqrt(Math.min(mostCells, count / aCell))));
    this.origin = [west, north];
    const perUnit = (from: number, to: number) => (to > from ? this.side / (to - from) : 0);
    this.perUnit = [perUnit(west, east), perUnit(north, south)];
    // A sort by counting: how many a cell, where each begins, and then each feature to its place.
    const starts = (this.starts = new Uint32Array(this.side * this.side + 1));
    const cells = new Uint32Array(count);
    for (let f = 0; f < count; f++) {
      if (Number.isNaN(places[2 * f])) continue;
      cells[f] = this.column(places[2 * f]) + this.side * this.row(places[2 * f + 1]);
      starts[cells[f] + 1]++;
    }
    for (let cell = 1; cell < starts.length; cell++) starts[cell] += starts[cell - 1];
    const next = starts.slice();
    const order = (this.order = new Uint32Array(starts[starts.length - 1]));
    for (let f = 0; f < count; f++) if (!Number.isNaN(places[2 * f])) order[next[cells[f]]++] = f;
  }

  /** The points of a tile in its units; undefined when there are none. */
  tile({ z, x, y }: TileAddress, { extent, buffer }: TileMeasures): FeatureBlock | undefined {
    const size = 2 ** -z;
    const rim = (buffer / extent) * size;
    const [west, east, north, south] = [x * size - rim, (x + 1) * size + rim, y * size - rim, (y + 1) * size + rim];
    const found = (this.wraps ? [-1, 0, 1] : [0]).map((turn) => ({
      turn,
      rows: this.within(west - turn, east - turn, north, south),
    }));
    const count = found.reduce((sum, { rows }) => sum + rows.length, 0);
    if (!count) return undefined;
    const { block, places } = this;
    const all = new Uint32Array(count);
    const coords = new Int32Array(2 * count);
    const scale = 2 ** z * extent;
    let n = 0;
    for (const { turn, rows } of found)
      for (const f of rows) {
        all[n] = f;
        coords[2 * n] = Math.round((places[2 * f] + turn) * scale - x * extent);
        coords[2 * n + 1] = Math.round(places[2 * f + 1] * scale - y * extent);
        n++;
      }
    const steps = () => Uint32Array.from({ length: count + 1 }, (_, i) => i);
    return {
      name: block.name,
      space: 'tile',
      extent,
      count,
      kinds: new Uint8Array(count).fill(Kind.point),
      ids: Float64Array.from(all, (f) => block.ids[f]),
      featureParts: steps(),
      partRings: steps(),
      ringStarts: steps(),
      coords,
      columns: block.columns.map((column) => gather(column, all)),
    };
  }

  /** Features within bounds, in their order. */
  private within(west: number, east: number, north: number, south: number): Uint32Array {
    const { places, starts, order, side } = this;
    const [left, right, top, bottom] = [this.column(west), this.column(east), this.row(north), this.row(south)];
    let candidates = 0;
    for (let row = top; row <= bottom; row++) candidates += starts[row * side + right + 1] - starts[row * side + left];
    const found = new Uint32Array(candidates);
    let n = 0;
    const take = (f: number) => {
      const [x, y] = [places[2 * f], places[2 * f + 1]];
      if (x >= west && x <= east && y >= north && y <= south) found[n++] = f;
    };
    // To go through all is quicker than to sort most of them.
    if (4 * candidates > order.length) for (let f = 0; f < this.block.count; f++) take(f);
    else {
      for (let row = top; row <= bottom; row++)
        for (let i = starts[row * side + left]; i < starts[row * side + right + 1]; i++) take(order[i]);
      found.subarray(0, n).sort();
    }
    return found.subarray(0, n);
  }

  private column(x: number): number {
    return this.cell((x - this.origin[0]) * this.perUnit[0]);
  }

  private row(y: number): number {
    return this.cell((y - this.origin[1]) * this.perUnit[1]);
  }

  private cell(at: number): number {
    return at <= 0 ? 0 : at >= this.side ? this.side - 1 : Math.floor(at);
  }
}
