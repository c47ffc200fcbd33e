import { greatest, least } from '../base/lists.js';
import earcut from 'earcut';
import type { TileAddress } from '../grid/address.js';
import { gridHalf, type SquareGrid } from '../grid/square.js';
import type { Surface } from '../view/surface.js';
import { turner } from '../view/surfaces.js';
import { cutLine, cutRing, liesIn, type Path } from './clip.js';
import { closesPoles, localFrameOf, toLocal, towardsPole, type LocalFrame } from './local-frame.js';

/** A ring after the surface's edge has cut it; `open` are the stretches of it that are not along that edge. */
export interface ProjectedRing {
  readonly path: Path;
  /** The same corners before they were laid. */
  readonly plan: Path;
  readonly open?: Path[];
}

/** A vertex on its way: where it is in the units of its path, and where on the surface. */
interface Stop {
  readonly u: number;
  readonly v: number;
  readonly at: readonly [number, number];
}

/** How the vertices of a path are projected, and how long an edge may be, in the path's units, before it is split in any case. */
interface Way {
  readonly long: number;
  project(u: number, v: number): [number, number] | undefined;
}

/** Lays the paths of one tile on a surface. */
export class PathProjector {
  readonly frame: LocalFrame;
  private readonly side: number;
  private readonly tolerance: number;
  private readonly turn: ReturnType<typeof turner>;
  /** Whether the edge of the surface may run through the tile. */
  private readonly isCut: boolean;
  private readonly nearPole: boolean;
  private readonly closes: boolean;
  private readonly at: [number, number, number] = [0, 0, 0];

  constructor(
    private readonly tile: TileAddress,
    private readonly grid: SquareGrid,
    private readonly surface: Surface,
    private readonly extent: number,
  ) {
    this.frame = localFrameOf(surface, grid, tile);
    this.side = (2 * gridHalf) / 2 ** tile.z;
    // Tiles are shown up to about a thousand pixels wide; at a pole they are taller, and their units finer.
    this.tolerance = this.side / 4096 / (grid.fineness?.(tile) ?? 1);
    this.turn = turner(surface.extent?.pole);
    this.closes = closesPoles(grid, surface);
    this.isCut = this.reaches();
    const edges = [0, extent].map((v) => Math.abs(this.place(0, v)[1]));
    this.nearPole = !grid.bends && Math.max(...edges) > 75;
  }

  private place(u: number, v: number): [number, number] {
    const { tile, side, extent, grid } = this;
    const [lon, lat] = grid.place((tile.x + u / extent) * side - gridHalf, gridHalf - (tile.y + v / extent) * side);
    return [lon, this.closes ? towardsPole(lat) : lat];
  }

  /** Where a position in tile units lies in the frame, y upwards; undefined where the surface does not reach. */
  local(u: number, v: number): [number, number] | undefined {
    const [lon, lat] = this.place(u, v);
    return Math.abs(lat) > 90 ? undefined : this.onSurface(lon, lat);
  }

  private onSurface(lon: number, lat: number): [number, number] | undefined {
    if (!this.surface.forward(this.within(lon), Math.max(-90, Math.min(90, lat)), this.at)) return undefined;
    return toLocal(this.frame, this.at);
  }

  /** A longitude on the cut meridian is kept on its own side of it, where rounding might take it to the other. */
  private within(lon: number): number {
    const { extent } = this.surface;
    if (!extent || extent.pole || extent.half < 180) return lon;
    const off = lon - extent.lon0;
    return Math.abs(Math.abs(off) - 180) < 1e-6 ? extent.lon0 + Math.sign(off) * (180 - 1e-9) : lon;
  }

  private reaches(): boolean {
    const { extent } = this.surface;
    const rim = 0.05;
    const steps = 8;
    let [low, high, west, east] = [Infinity, -Infinity, Infinity, -Infinity];
    let near = Infinity;
    const { pole } = extent ?? {};
    for (let i = 0; i <= steps; i++) {
      for (let k = 0; k <= steps; k++) {
        const [lon, lat] = this.place(
          ((i / steps) * (1 + 2 * rim) - rim) * this.extent,
          ((k / steps) * (1 + 2 * rim) - rim) * this.extent,
        );
        [low, high] = [Math.min(low, lat), Math.max(high, lat)];
        [west, east] = [Math.min(west, lon), Math.max(east, lon)];
        if (pole) near = Math.min(near, this.turn.there(lon, Math.max(-90, Math.min(90, lat)))[1]);
      }
    }
    if (low < -90 || high > 90) return true;
    if (!extent) return false;
    // Between the points of the lattice the distance from the circle changes by less than a step of it.
    if (pole) return near - (180 / steps) * 2 ** (1 - this.tile.z) * 2 < extent.south;
    if (low < extent.south || high > extent.north) return true;
    const [a, b] = [west - extent.lon0, east - extent.lon0];
    const k = Math.round((a + b) / 2 / 360) * 360;
    return a - k < -extent.half || b - k > extent.half;
  }

  /** A line, in pieces where the edge of the surface cuts it. */
  line(path: Path): Path[] {
    if (!this.isCut) return [this.bent(path, false).path].filter(({ length }) => length > 2);
    return this.clipped(path, false).flatMap(({ degrees }) => {
      const { path: bent } = this.bentDegrees(degrees, false);
      return bent.length > 2 ? [bent] : [];
    });
  }

  /** A ring, in pieces where the edge of the surface cuts it. */
  ring(path: Path): ProjectedRing[] {
    if (!this.isCut) {
      const bent = this.bent(path, true);
      return bent.path.length > 4 ? [bent] : [];
    }
    return this.clipped(path, true).flatMap(({ degrees, whole }) => {
      const bent = this.bentDegrees(degrees, true);
      if (bent.path.length <= 4) return [];
      // Degrees of the turned sphere are no plane to triangulate in: round its pole they would overlap.
      const laid = { path: bent.path, plan: bent.path };
      return [whole ? laid : { ...laid, open: this.inner(degrees) }];
    });
  }

  /**
   * The stretches of a ring between edges that run along the antimeridian or a pole, where data is cut in two that belongs together
   * (RFC 7946, section 3.1.9); undefined when it has no such edges.
   */
  withoutSeams(ring: Path): Path[] | undefined {
    if (!this.grid.id.startsWith('lonlat') && !this.grid.bends) return undefined;
    const n = ring.length / 2;
    const unit = (360 / 2 ** this.tile.z / this.extent) * 0.75;
    // Close to a pole tiles are so narrow that the edges along which they were cut would show.
    const cutAt = this.nearPole ? this.extent / 64 - 0.75 : Infinity;
    const marks = Array.from({ length: n }, (_, i) => {
      const [lon, lat] = this.place(ring[2 * i], ring[2 * i + 1]);
      const [u, v] = [ring[2 * i], ring[2 * i + 1]];
      return (
        (Math.abs(Math.abs(turned(lon)) - 180) < unit ? 1 : 0) |
        (Math.abs(lat) > 90 - unit ? 2 : 0) |
        (u <= -cutAt ? 4 : 0) |
        (u >= this.extent + cutAt ? 8 : 0) |
        (v <= -cutAt ? 16 : 0) |
        (v >= this.extent + cutAt ? 32 : 0)
      );
    });
    const seam = (i: number) => (marks[i] & marks[(i + 1) % n]) !== 0;
    const first = marks.findIndex((_, i) => seam(i));
    if (first < 0) return undefined;
    const out: Path[] = [];
    let open: Path = [];
    for (let k = 1; k <= n; k++) {
      const i = (first + k) % n;
      open.push(ring[2 * i], ring[2 * i + 1]);
      if (!seam(i)) continue;
      if (open.length > 2) out.push(open);
      open = [];
    }
    return out;
  }

  /** The stretches of a cut ring that do not run along the edge of the surface. */
  private inner(degrees: Path): Path[] {
    const { lon0 = 0, half = 180, south = -90, north = 90 } = this.surface.extent ?? {};
    const n = degrees.length / 2;
    const along = (i: number, j: number) => {
      const [a, b, c, d] = [degrees[2 * i], degrees[2 * i + 1], degrees[2 * j], degrees[2 * j + 1]];
      const both = (p: number, q: number, edge: number) => Math.abs(p - edge) < 1e-9 && Math.abs(q - edge) < 1e-9;
      // An edge that leads to a pole was put there to close a ring.
      const toPole = Math.abs(b) > 90 - 1e-9 || Math.abs(d) > 90 - 1e-9;
      return toPole || both(a, c, lon0 - half) || both(a, c, lon0 + half) || both(b, d, south) || both(b, d, north);
    };
    const out: Path[] = [];
    let begin = 0;
    for (let i = 0; i < n; i++) if (along((i + n - 1) % n, i)) begin = i;
    let open: Path = [];
    for (let k = 0; k < n; k++) {
      const [i, j] = [(begin + k) % n, (begin + k + 1) % n];
      if (along(i, j)) {
        if (open.length > 2) out.push(this.bentDegrees(open, false).path);
        open = [];
        continue;
      }
      if (!open.length) open.push(degrees[2 * i], degrees[2 * i + 1]);
      open.push(degrees[2 * j], degrees[2 * j + 1]);
    }
    if (open.length > 2) out.push(this.bentDegrees(open, false).path);
    return out.filter(({ length }) => length > 2);
  }

  /** Projects a path given in tile units. */
  private bent(path: Path, closed: boolean): ProjectedRing {
    return this.along(path, closed, {
      project: (u, v) => this.onSurface(...this.place(u, v)),
      long: this.extent / 16,
    });
  }

  /** Projects a path given in degrees of the turned sphere. */
  private bentDegrees(path: Path, closed: boolean): ProjectedRing {
    return this.along(path, closed, { project: (lon, lat) => this.onSurface(...this.turn.back(lon, lat)), long: 4 });
  }

  /** Adds points between two until the straight line between neighbors is near enough; long edges are split in any case. */
  private between(out: ProjectedRing, from: Stop, to: Stop, { project, long }: Way, depth = 0): void {
    const length = Math.max(Math.abs(to.u - from.u), Math.abs(to.v - from.v));
    if (length === 0 || depth > 12 || length < long / 64) return;
    const [u, v] = [(from.u + to.u) / 2, (from.v + to.v) / 2];
    const at = project(u, v);
    if (!at) return;
    const off = Math.hypot(at[0] - (from.at[0] + to.at[0]) / 2, at[1] - (from.at[1] + to.at[1]) / 2);
    if (off < this.tolerance && length <= long * 4) return;
    const middle = { u, v, at };
    this.between(out, from, middle, { project, long }, depth + 1);
    add(out, u, v, at);
    this.between(out, middle, to, { project, long }, depth + 1);
  }

  /** Projects a path vertex by vertex, with points between them; what the surface does not reach is left out. */
  private along(path: Path, closed: boolean, way: Way): ProjectedRing {
    const count = path.length / 2;
    const out: ProjectedRing = { path: [], plan: [] };
    const stop = (i: number): Stop | undefined => {
      const [u, v] = [path[2 * i], path[2 * i + 1]];
      const at = way.project(u, v);
      return at && { u, v, at };
    };
    let from = stop(0);
    if (from) add(out, from.u, from.v, from.at);
    for (let i = 1; i < count + (closed ? 1 : 0); i++) {
      const to = stop(i % count);
      if (from && to) this.between(out, from, to, way);
      if (to && i < count) add(out, to.u, to.v, to.at);
      from = to;
    }
    return out;
  }

  /** Cuts a path along the edge of the surface; the pieces are in degrees of the turned sphere, continuous in longitude. */
  private clipped(path: Path, closed: boolean): { degrees: Path; whole: boolean }[] {
    const { lon0 = 0, half = 180, south = -90, north = 90, pole } = this.surface.extent ?? {};
    let degrees = this.degreesOf(path, closed, pole !== undefined);
    if (closed) {
      const wound = Math.round((degrees[degrees.length - 2] - degrees[0]) / 360);
      degrees = degrees.slice(0, -2);
      if (wound) {
        // The ring goes round the pole of the turned sphere, which is the center of the circle: it is closed by way of it.
        const [first, last] = [degrees[0], degrees[0] + 360 * wound];
        const top = this.holdsCentre(path) ? 90 : -90;
        degrees.push(last, degrees[1], last, top, first, top);
      }
    }
    const longitudes = degrees.filter((_, i) => i % 2 === 0);
    const [west, east] = [least(longitudes), greatest(longitudes)];
    const out: { degrees: Path; whole: boolean }[] = [];
    for (let k = Math.floor((lon0 - half - east) / 360); k <= Math.ceil((lon0 + half - west) / 360); k++) {
      const shifted = k ? degrees.map((v, i) => (i % 2 ? v : v + 360 * k)) : degrees;
      if (west + 360 * k >= lon0 + half || east + 360 * k <= lon0 - half) continue;
      if (closed) {
        let piece = cutRing(shifted, 0, lon0 - half, lon0 + half);
        piece = cutRing(piece, 1, south, north);
        if (piece.length > 4)
          out.push({
            degrees: piece,
            whole: piece === shifted && west + 360 * k > lon0 - half && east + 360 * k < lon0 + half,
          });
      } else
        for (const part of cutLine(shifted, 0, lon0 - half, lon0 + half))
          for (const piece of cutLine(part, 1, south, north)) out.push({ degrees: piece, whole: false });
    }
    return out;
  }

  /** A path of tile units in degrees of the turned sphere, with points added where the turn bends it, unwrapped; closed paths come back to their first point. */
  private degreesOf(path: Path, closed: boolean, bends: boolean): Path {
    const n = path.length / 2;
    const out: Path = [];
    const step = bends ? Math.max(this.extent / 64, this.extent / 2 ** Math.max(0, 8 - this.tile.z)) : Infinity;
    const push = (u: number, v: number) => {
      const [lon, lat] = this.place(u, v);
      const [l, p] = this.turn.there(lon, Math.max(-90, Math.min(90, lat)));
      if (!out.length || !bends) {
        out.push(l, p);
        return;
      }
      const [before, beforeLat] = [out[out.length - 2], out[out.length - 1]];
      const next = l - 360 * Math.round((l - before) / 360);
      // At the pole of the turned sphere all longitudes meet: one arrives by one and leaves by another.
      if (Math.abs(p) > 90 - 1e-9) out.push(before, p);
      else if (Math.abs(beforeLat) > 90 - 1e-9) out.push(next, beforeLat, next, p);
      else out.push(next, p);
    };
    for (let i = 0; i < n + (closed ? 1 : 0); i++) {
      const [u, v] = [path[2 * (i % n)], path[2 * (i % n) + 1]];
      if (i > 0) {
        const [pu, pv] = [path[2 * i - 2], path[2 * i - 1]];
        const count = Math.ceil(Math.max(Math.abs(u - pu), Math.abs(v - pv)) / step);
        for (let k = 1; k < count; k++) push(pu + ((u - pu) * k) / count, pv + ((v - pv) * k) / count);
      }
      push(u, v);
    }
    return out;
  }

  /** Whether a ring in tile units holds the center of the circle, rather than the place opposite it. */
  private holdsCentre(path: Path): boolean {
    const [lon, lat] = this.surface.extent!.pole!;
    const { grid, side, tile, extent } = this;
    const [x, y] = grid.at(lon, lat);
    const u = ((x + gridHalf) / side - tile.x) * extent;
    const v = ((gridHalf - y) / side - tile.y) * extent;
    // At a pole of the earth every longitude is the same place.
    if (Math.abs(lat) >= 90 && !grid.bends)
      return lat > 0
        ? least(path.filter((_, i) => i % 2 === 1)) <= v + 1e-6 * extent
        : greatest(path.filter((_, i) => i % 2 === 1)) >= v - 1e-6 * extent;
    return liesIn([u, v], path);
  }

  /**
   * The parts of a polygon to be projected as one. Far out the surface bends so much within a tile that flat triangles would not follow it: there
   * the polygon is triangulated first, and its triangles are cut along a grid, each piece convex.
   */
  cells(rings: Path[]): Path[][] {
    const count = Math.min(32, 2 ** Math.ceil(Math.log2(Math.max(1, 48 / 2 ** (this.tile.z / 2)))));
    if (count === 1) return [rings];
    const step = this.extent / count;
    const flat = rings.flat();
    const holes: number[] = [];
    for (let k = 1, at = rings[0].length / 2; k < rings.length; at += rings[k].length / 2, k++) holes.push(at);
    const corners = earcut(flat, holes.length ? holes : undefined);
    const out: Path[][] = [];
    for (let t = 0; t < corners.length; t += 3) {
      const triangle = [0, 1, 2].flatMap((k) => [flat[2 * corners[t + k]], flat[2 * corners[t + k] + 1]]);
      const range = (axis: number): [number, number] => {
        const values = [0, 1, 2].map((k) => triangle[2 * k + axis]);
        return [Math.floor(Math.min(...values) / step), Math.ceil(Math.max(...values) / step)];
      };
      const [left, right] = range(0);
      const [top, bottom] = range(1);
      for (let i = left; i < right; i++) {
        const column = cutRing(triangle, 0, i * step, (i + 1) * step);
        if (column.length <= 4) continue;
        for (let k = top; k < bottom; k++) {
          const cell = cutRing(column, 1, k * step, (k + 1) * step);
          if (cell.length > 4) out.push([cell]);
        }
      }
    }
    return out;
  }
}

function add({ path, plan }: ProjectedRing, u: number, v: number, [x, y]: readonly [number, number]): void {
  path.push(x, -y);
  plan.push(u, v);
}

const turned = (degrees: number) => degrees - 360 * Math.round(degrees / 360);
