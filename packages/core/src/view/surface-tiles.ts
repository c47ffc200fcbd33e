import type { TileInView } from '../grid/address.js';
import { gridHalf, type SquareGrid } from '../grid/square.js';
import type { Camera } from './camera.js';
import { latticeOf, type Lattice } from './lattice.js';

const answers = new WeakMap<Camera, Map<string, TileInView[]>>();

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

/** Tiles count as at most this much further away than the middle of the view. */
const farthest = 0.05;

/**
 * Most tiles of one view. Around a pole every column of a grid in longitude and latitude meets, and twice as many with each level; there the
 * level is the deepest that keeps within this.
 */
const mostTiles = 640;

function find(camera: Camera, span: number, zooms: readonly [number, number], grid: SquareGrid): TileInView[] {
  for (let deepest = zooms[1]; ; deepest--) {
    const tiles = findDownTo(camera, span, [Math.min(zooms[0], deepest), deepest], grid);
    if (tiles) return tiles;
  }
}

/** The tiles down to a level; undefined where they are too many, which a level of no more tiles than are allowed never has. */
function findDownTo(
  camera: Camera,
  span: number,
  zooms: readonly [number, number],
  grid: SquareGrid,
): TileInView[] | undefined {
  const { surface, metresPerPixel } = camera;
  const isBounded = zooms[1] > 4;
  const { wrap } = surface;
  // Looked up only where the lattices leave it open; where the surface repeats itself, its copies are read off them.
  let spots: Spot[] | undefined;
  const onScreen = () => (spots ??= spotsOnScreen(camera, grid));
  const holds = (z: number, x: number, y: number, copy: number) =>
    onScreen().some((one) => one.copy === copy && Math.floor(one.u * 2 ** z) === x && Math.floor(one.v * 2 ** z) === y);
  const sightOf = sightFrom(camera);
  const far = farNearness(camera);
  const out: (TileInView & { away: number })[] = [];
  // On a sphere, and round a circle, tiles are to be small enough to be laid out one by one.
  const first = surface.radius ? 3 : surface.extent?.pole ? 2 : 0;
  const visit = (z: number, x: number, y: number, copy: number) => {
    if (isBounded && out.length > mostTiles) return;
    const lattice = latticeOf(surface, grid, { z, x, y });
    const quarter = () => {
      for (let k = 0; k < 4; k++) visit(z + 1, 2 * x + (k & 1), 2 * y + (k >> 1), copy);
    };
    if (lattice.whole) {
      const sight = sightOf(lattice, copy * wrap);
      if (sight === 'none') return;
      // A tile that must be quartered at any distance, or at none, asks for no closer look.
      const width = lattice.width / metresPerPixel;
      if (z < first || (z < zooms[1] && width * far >= 2 * span)) {
        quarter();
        return;
      }
      if (sight === 'all' && z >= zooms[0] && (z >= zooms[1] || width < 2 * span)) {
        out.push({ z, x, y, copy, away: awayOf(camera, lattice, copy * wrap) });
        return;
      }
    }
    const look = lookAt(camera, lattice, copy * wrap);
    if ((!look.any || look.beyond) && (look.sure || !holds(z, x, y, copy))) return;
    const near = (camera.view.tilt === 0 && !surface.radius) || look.middle ? 1 : Math.min(1, look.nearest);
    const width = (lattice.width / metresPerPixel) * Math.max(farthest, near);
    const small = look.any ? width < 2 * span : !holds(z, x, y, copy);
    if (z >= zooms[1] || (z >= Math.max(zooms[0], first) && small))
      out.push({ z, x, y, copy, away: lattice.whole ? awayOf(camera, lattice, copy * wrap) : look.away });
    else quarter();
  };
  const copies = wrap ? new Set([0, ...onScreen().map(({ copy }) => copy)]) : [0];
  for (const copy of copies) visit(0, 0, 0, copy);
  if (isBounded && out.length > mostTiles) return undefined;
  return out.sort((a, b) => a.away - b.away).map(({ z, x, y, copy }) => ({ z, x, y, copy }));
}

/** How near the ground is that lies furthest away on the screen, 1 being the middle; `farthest` where there is sky. */
function farNearness(camera: Camera): number {
  const { size, middle } = camera;
  let least = 1;
  for (const [px, py] of [
    [0, 0],
    [size.width, 0],
    [0, size.height],
    [size.width, size.height],
  ]) {
    const at = camera.toSurface(px, py);
    if (!at) return farthest;
    camera.clip(at[0] - middle[0], at[1] - middle[1], clip, at[2] - middle[2]);
    least = Math.min(least, camera.distance / clip[2]);
  }
  // A tile may reach a little beyond the screen.
  return Math.max(farthest, 0.8 * least);
}

/** Where a point of the screen lies: in shares of the grid's square, and on which copy of the surface. */
interface Spot {
  readonly u: number;
  readonly v: number;
  readonly copy: number;
}

function spotsOnScreen(camera: Camera, grid: SquareGrid): Spot[] {
  const { surface, size } = camera;
  const { wrap, bounds } = surface;
  const out: Spot[] = [];
  for (let k = 0; k < 121; k++) {
    const at = camera.toSurface(((k % 11) / 10) * size.width, (Math.floor(k / 11) / 10) * size.height);
    const place = at && surface.inverse(at[0], at[1], at[2]);
    if (!at || !place) continue;
    const copy = wrap ? Math.round((at[0] - (bounds[0] + bounds[2]) / 2) / wrap) : 0;
    const [gx, gy] = grid.at(place[0], place[1]);
    if (Number.isNaN(gx)) continue;
    const u = 0.5 + gx / (2 * gridHalf);
    out.push({ u: u - Math.floor(u), v: 0.5 - gy / (2 * gridHalf), copy });
  }
  return out;
}

/** How far the middle of a tile is from that of the view, squared. */
function awayOf({ middle }: Camera, { sphere: [x, y, z] }: Lattice, shift: number): number {
  return (x + shift - middle[0]) ** 2 + (y - middle[1]) ** 2 + (z - middle[2]) ** 2;
}

/** How much of a tile may be seen. */
type Sight = 'none' | 'some' | 'all';

/** Says how much of the sphere round a tile lies on the screen, and on this side of the horizon. */
function sightFrom(camera: Camera): (lattice: Lattice, shift: number) => Sight {
  const { matrix: m, middle, eye, surface } = camera;
  // The four sides of what is in view, as planes that look inwards: row 4 of the matrix plus or minus rows 1 and 2.
  const planes = [
    [0, 1],
    [0, -1],
    [1, 1],
    [1, -1],
  ].map(([row, sign]) => {
    const plane = [0, 1, 2, 3].map((k) => m[4 * k + 3] + sign * m[4 * k + row]);
    const length = Math.hypot(plane[0], plane[1], plane[2]);
    return plane.map((v) => v / length);
  });
  const height = eye ? Math.hypot(...eye) : 0;
  return ({ sphere: [bx, by, bz, reach] }, shift) => {
    const x = bx + shift;
    let all = true;
    if (eye) {
      const facing = (x * eye[0] + by * eye[1] + bz * eye[2]) / surface.radius - 1;
      const room = (reach * height) / surface.radius;
      if (facing < -room) return 'none';
      if (facing < room) all = false;
    }
    const [dx, dy, dz] = [x - middle[0], by - middle[1], bz - middle[2]];
    for (const [a, b, c, d] of planes) {
      const inwards = a * dx + b * dy + c * dz + d;
      if (inwards < -reach) return 'none';
      if (inwards < reach) all = false;
    }
    return all ? 'all' : 'some';
  };
}

interface Look {
  /** Whether any of it is on the surface and faces the eye. */
  any: boolean;
  /** Whether all of it lies beyond one edge of the screen. */
  beyond: boolean;
  /** Whether there is no doubt about what lies beyond: every point was looked at, and none is out of sight. */
  sure: boolean;
  nearest: number;
  /** Whether the middle of the view lies no further away than the tile is wide. */
  middle: boolean;
  away: number;
}

const clip: [number, number, number] = [0, 0, 0];

function lookAt(camera: Camera, { places, torn, whole, width }: Lattice, shift: number): Look {
  const { middle } = camera;
  let [left, right, below, above] = [0, 0, 0, 0];
  let [count, nearest, away] = [0, -Infinity, Infinity];
  let inside = false;
  for (let k = 0; k < places.length; k += 3) {
    const x = places[k] + shift;
    if (Number.isNaN(x)) continue;
    const [y, z] = [places[k + 1], places[k + 2]];
    if (!camera.faces(x, y, z)) continue;
    const [dx, dy, dz] = [x - middle[0], y - middle[1], z - middle[2]];
    count++;
    camera.clip(dx, dy, clip, dz);
    const [cx, cy, w] = clip;
    if (Math.abs(cx) <= w && Math.abs(cy) <= w) inside = true;
    if (cx < -w) left++;
    if (cx > w) right++;
    if (cy < -w) below++;
    if (cy > w) above++;
    nearest = Math.max(nearest, camera.distance / Math.max(w, camera.distance / 50));
    away = Math.min(away, dx * dx + dy * dy + dz * dz);
  }
  return {
    any: count > 0,
    // A tile through which the edge of the surface runs lies at two ends of it: only what of it is on the screen counts.
    beyond: count > 0 && (torn ? !inside : left === count || right === count || below === count || above === count),
    sure: whole && 3 * count === places.length,
    nearest,
    middle: Math.sqrt(away) < width,
    away,
  };
}
