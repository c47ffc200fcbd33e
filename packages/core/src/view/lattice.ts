import { addressKey, type TileAddress } from '../grid/address.js';
import { gridHalf, type SquareGrid } from '../grid/square.js';
import type { Surface } from './surface.js';

const steps = 4;
const corners = steps + 1;

/** Points of a tile on a surface, all in surface meters. */
export interface Lattice {
  /** x, y, z by turns; NaN where the surface does not reach. Fewer for a tile so small that it hardly bends. */
  readonly places: Float64Array;
  /** Whether the edge of the surface runs through it, so that it lies at two ends of the surface. */
  readonly torn: boolean;
  /** Whether the surface reaches all its points, and it lies in one piece. */
  readonly whole: boolean;
  /** Side of a square as large; infinite where no part is large enough to be measured. */
  readonly width: number;
  /** A sphere round all of it: x, y, z of the middle and the radius. */
  readonly sphere: readonly [number, number, number, number];
}

const known = new WeakMap<Surface, WeakMap<SquareGrid, Map<number, Lattice>>>();
/** Lattices kept for one surface and grid. */
const most = 6000;

/** The lattice over a tile; kept for as long as the surface is. */
export function latticeOf(surface: Surface, grid: SquareGrid, { z, x, y }: TileAddress): Lattice {
  let ofSurface = known.get(surface);
  if (!ofSurface) known.set(surface, (ofSurface = new WeakMap()));
  let ofGrid = ofSurface.get(grid);
  if (!ofGrid) ofSurface.set(grid, (ofGrid = new Map()));
  const key = addressKey(z, x, y);
  let lattice = ofGrid.get(key);
  if (lattice) return lattice;
  if (ofGrid.size > most) ofGrid.clear();
  ofGrid.set(key, (lattice = make(surface, grid, { z, x, y })));
  return lattice;
}

function make(surface: Surface, grid: SquareGrid, { z, x, y }: TileAddress): Lattice {
  const places = new Float64Array(3 * corners * corners).fill(NaN);
  const side = (2 * gridHalf) / 2 ** z;
  const at: [number, number, number] = [0, 0, 0];
  for (let k = 0; k < corners * corners; k++) {
    // A hair inside, so that what lies on the surface's very edge does not fall to its other side.
    const [u, v] = [k % corners, Math.floor(k / corners)].map((i) => Math.max(1e-6, Math.min(1 - 1e-6, i / steps)));
    const [lon, lat] = grid.place((x + u) * side - gridHalf, gridHalf - (y + v) * side);
    if (Math.abs(lat) <= 90 && surface.forward(lon, lat, at)) places.set(at, 3 * k);
  }
  const torn = isTorn(places, surface);
  const whole = !torn && places.every((v) => !Number.isNaN(v));
  const small = whole && z >= smallFrom;
  return {
    places: small ? everyOther(places) : places,
    torn,
    whole,
    width: Math.sqrt(areaOf(places, torn ? tearOf(surface) : Infinity)),
    sphere: boundingSphere(places, small ? 1.05 : 1.5),
  };
}

/** Level from which tiles hardly bend. */
const smallFrom = 7;

function everyOther(places: Float64Array): Float64Array {
  const out = new Float64Array(27);
  for (let k = 0; k < 9; k++) {
    const from = 3 * (2 * Math.floor(k / 3) * corners + 2 * (k % 3));
    out.set(places.subarray(from, from + 3), 3 * k);
  }
  return out;
}

/** Neighbors of a lattice that lie further apart than this are on either side of a tear. */
const tearOf = ({ bounds, radius }: Surface) => (radius ? Infinity : (bounds[2] - bounds[0]) * 0.4);

function isTorn(places: Float64Array, surface: Surface): boolean {
  const far = tearOf(surface);
  for (let k = 0; k < corners * corners; k++) {
    const next = [k % corners < steps ? k + 1 : k, k + corners < corners * corners ? k + corners : k];
    for (const other of next)
      if (Math.hypot(places[3 * k] - places[3 * other], places[3 * k + 1] - places[3 * other + 1]) > far) return true;
  }
  return false;
}

/**
 * Area of what of a lattice lies on the surface, scaled up to the whole of it. Infinite where no cell lies wholly on the surface: how large the
 * tile is cannot be said, so it must be quartered, never shown as if it were small.
 */
function areaOf(places: Float64Array, far: number): number {
  let [sum, cells] = [0, 0];
  for (let j = 0; j < steps; j++) {
    for (let i = 0; i < steps; i++) {
      const [a, b, c, d] = [0, 1, corners, corners + 1].map((k) => 3 * (j * corners + i + k));
      const u = [0, 1, 2].map((k) => places[d + k] - places[a + k]);
      const v = [0, 1, 2].map((k) => places[c + k] - places[b + k]);
      const area = Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]) / 2;
      if (Number.isNaN(area) || Math.hypot(...u) > far || Math.hypot(...v) > far) continue;
      sum += area;
      cells++;
    }
  }
  return cells ? (sum / cells) * steps * steps : Infinity;
}

/** A sphere round a tile, larger than its points ask for, since between them the tile may bulge. */
function boundingSphere(places: Float64Array, times: number): [number, number, number, number] {
  const middle = 3 * ((corners * corners - 1) / 2);
  const [x, y, z] = places.subarray(middle, middle + 3);
  let reach = 0;
  for (let k = 0; k < places.length; k += 3)
    reach = Math.max(reach, Math.hypot(places[k] - x, places[k + 1] - y, places[k + 2] - z));
  return [x, y, z, times * reach];
}
