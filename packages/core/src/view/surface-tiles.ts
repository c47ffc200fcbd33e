import type { TileAddress } from '../grid/address.js';
import { gridHalf, type SquareGrid } from '../grid/square.js';
import type { Camera } from './camera.js';
import type { Surface } from './surface.js';
import type { TileInView } from './tiles.js';

const steps = 4;
const corners = steps + 1;

/** Surface metres of a lattice over a tile; NaN where the surface does not reach. */
type Lattice = Float64Array;

const lattices = new WeakMap<Surface, Map<string, Lattice>>();

function latticeOf(surface: Surface, grid: SquareGrid, { z, x, y }: TileAddress): Lattice {
  let known = lattices.get(surface);
  if (!known) lattices.set(surface, (known = new Map()));
  const key = `${grid.id}/${z}/${x}/${y}`;
  let lattice = known.get(key);
  if (lattice) return lattice;
  lattice = new Float64Array(3 * corners * corners).fill(NaN);
  const side = (2 * gridHalf) / 2 ** z;
  const at: [number, number, number] = [0, 0, 0];
  for (let k = 0; k < corners * corners; k++) {
    // A hair inside, so that what lies on the surface's very edge does not fall to its other side.
    const [u, v] = [k % corners, Math.floor(k / corners)].map((i) => Math.max(1e-6, Math.min(1 - 1e-6, i / steps)));
    const [lon, lat] = grid.place((x + u) * side - gridHalf, gridHalf - (y + v) * side);
    if (Math.abs(lat) <= 90 && surface.forward(lon, lat, at)) lattice.set(at, 3 * k);
  }
  if (known.size > 6000) known.clear();
  known.set(key, lattice);
  return lattice;
}

/**
 * The tiles of a grid that a view of any surface needs, nearest to the middle first. A tile is in view when a point of the screen lies
 * on it, or when a lattice over it is not all beyond one edge of the screen; it is quartered while it looks wider than twice `span`.
 */
export function tilesOnSurface(
  camera: Camera,
  span: number,
  zooms: readonly [number, number],
  grid: SquareGrid,
): TileInView[] {
  // Several data entries ask the same of one view.
  let known = answers.get(camera);
  if (!known) answers.set(camera, (known = new Map()));
  const key = `${grid.id}/${span}/${zooms.join()}`;
  let tiles = known.get(key);
  if (!tiles) known.set(key, (tiles = find(camera, span, zooms, grid)));
  return tiles;
}

const answers = new WeakMap<Camera, Map<string, TileInView[]>>();

function find(camera: Camera, span: number, zooms: readonly [number, number], grid: SquareGrid): TileInView[] {
  const { surface, size } = camera;
  const { wrap, bounds } = surface;
  const seen: { u: number; v: number; copy: number }[] = [];
  const copies = new Set<number>([0]);
  for (let k = 0; k < 121; k++) {
    const at = camera.toSurface(((k % 11) / 10) * size.width, (Math.floor(k / 11) / 10) * size.height);
    const place = at && surface.inverse(at[0], at[1], at[2]);
    if (!at || !place) continue;
    const copy = wrap ? Math.round((at[0] - (bounds[0] + bounds[2]) / 2) / wrap) : 0;
    copies.add(copy);
    const [gx, gy] = grid.at(place[0], place[1]);
    if (Number.isNaN(gx)) continue;
    const u = 0.5 + gx / (2 * gridHalf);
    seen.push({ u: u - Math.floor(u), v: 0.5 - gy / (2 * gridHalf), copy });
  }
  const out: (TileInView & { away: number })[] = [];
  const clip: [number, number, number] = [0, 0, 0];
  // On a ball, and round a circle, tiles are to be small enough to be laid out one by one.
  const first = surface.radius ? 3 : surface.window?.pole ? 2 : 0;
  const visit = (z: number, x: number, y: number, copy: number) => {
    const holds = seen.some(
      (one) => one.copy === copy && Math.floor(one.u * 2 ** z) === x && Math.floor(one.v * 2 ** z) === y,
    );
    const lattice = latticeOf(surface, grid, { z, x, y });
    const look = lookAt(camera, lattice, copy * wrap, clip);
    if (!holds && (!look.any || look.beyond)) return;
    const near = camera.view.tilt === 0 && !surface.radius ? 1 : holds && look.middle ? 1 : Math.min(1, look.nearest);
    const width = (look.width / camera.metresPerPixel) * Math.max(0.05, near);
    const small = look.any ? width < 2 * span : !holds;
    if (z >= zooms[1] || (z >= Math.max(zooms[0], first) && small)) {
      out.push({ z, x, y, copy, away: look.away });
      return;
    }
    for (let k = 0; k < 4; k++) visit(z + 1, 2 * x + (k & 1), 2 * y + (k >> 1), copy);
  };
  for (const copy of copies) visit(0, 0, 0, copy);
  return out.sort((a, b) => a.away - b.away).map(({ z, x, y, copy }) => ({ z, x, y, copy }));
}

interface Look {
  /** Whether any of it is on the surface and faces the eye. */
  any: boolean;
  /** Whether all of it lies beyond one edge of the screen. */
  beyond: boolean;
  nearest: number;
  /** Whether the middle of the view lies in its box. */
  middle: boolean;
  /** Side of a square as large, in surface metres. */
  width: number;
  away: number;
}

function lookAt(camera: Camera, lattice: Lattice, shift: number, clip: [number, number, number]): Look {
  const { middle } = camera;
  const out = [0, 0, 0, 0];
  let [count, nearest, away] = [0, -Infinity, Infinity];
  let faces = false;
  let inside = false;
  // A tile through which the edge of the surface runs lies at two ends of it: only what of it is on the screen counts.
  const tears = isTorn(lattice, camera.surface);
  for (let k = 0; k < lattice.length; k += 3) {
    const x = lattice[k] + shift;
    if (Number.isNaN(x)) continue;
    const [y, z] = [lattice[k + 1], lattice[k + 2]];
    const [dx, dy, dz] = [x - middle[0], y - middle[1], z - middle[2]];
    if (!camera.faces(x, y, z)) continue;
    faces = true;
    count++;
    camera.clip(dx, dy, clip, dz);
    const [cx, cy, w] = clip;
    if (Math.abs(cx) <= w && Math.abs(cy) <= w) inside = true;
    if (cx < -w) out[0]++;
    if (cx > w) out[1]++;
    if (cy < -w) out[2]++;
    if (cy > w) out[3]++;
    nearest = Math.max(nearest, camera.distance / Math.max(w, camera.distance / 50));
    away = Math.min(away, dx * dx + dy * dy + dz * dz);
  }
  let width = widths.get(lattice);
  if (width === undefined)
    widths.set(lattice, (width = Math.sqrt(areaOf(lattice, tears ? tearOf(camera.surface) : Infinity))));
  return {
    any: faces,
    beyond: count > 0 && (tears ? !inside : out.some((n) => n === count)),
    nearest,
    middle: Math.sqrt(away) < width,
    width,
    away,
  };
}

/** Neighbours of a lattice that lie further apart than this are on either side of a tear. */
const tearOf = ({ bounds, radius }: Surface) => (radius ? Infinity : (bounds[2] - bounds[0]) * 0.4);

const torn = new WeakMap<Lattice, boolean>();
const widths = new WeakMap<Lattice, number>();

function isTorn(lattice: Lattice, surface: Surface): boolean {
  let known = torn.get(lattice);
  if (known === undefined) {
    const most = tearOf(surface);
    known = false;
    for (let k = 0; k < corners * corners; k++) {
      const next = [k % corners < steps ? k + 1 : k, k + corners < corners * corners ? k + corners : k];
      for (const other of next)
        if (Math.hypot(lattice[3 * k] - lattice[3 * other], lattice[3 * k + 1] - lattice[3 * other + 1]) > most)
          known = true;
    }
    torn.set(lattice, known);
  }
  return known;
}

/** Area of what of a lattice lies on the surface, scaled up to the whole of it. */
function areaOf(lattice: Lattice, most: number): number {
  let [sum, cells] = [0, 0];
  for (let j = 0; j < steps; j++) {
    for (let i = 0; i < steps; i++) {
      const [a, b, c, d] = [0, 1, corners, corners + 1].map((k) => 3 * (j * corners + i + k));
      const u = [0, 1, 2].map((k) => lattice[d + k] - lattice[a + k]);
      const v = [0, 1, 2].map((k) => lattice[c + k] - lattice[b + k]);
      const area = Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]) / 2;
      if (Number.isNaN(area) || Math.hypot(...u) > most || Math.hypot(...v) > most) continue;
      sum += area;
      cells++;
    }
  }
  return cells ? (sum / cells) * steps * steps : 0;
}
