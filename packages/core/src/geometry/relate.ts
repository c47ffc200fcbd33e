import { innerPoint } from './inner-point.js';
import { boxOf, dimensionOf, type Shape, type Position } from './shape.js';

/**
 * The dimensionally extended nine-intersection matrix of two shapes (Egenhofer and Herring 1990; OGC 06-103r4,
 * section 6.1.15): for the interior, boundary and exterior of `a` (rows) with those of `b` (columns) the dimension of
 * what they share, −1 for nothing. Row by row: II, IB, IE, BI, BB, BE, EI, EB, EE.
 */
export type Relation = readonly number[];

const [II, IB, IE, BI, BB, BE, EI, EB] = [0, 1, 2, 3, 4, 5, 6, 7];
const enum Where {
  inside,
  edge,
  outside,
}

/**
 * Computes the spatial relation of two shapes, in the plane of their coordinates.
 *
 * @param a the first shape
 * @param b the second shape, in the same space
 */
export function relate(a: Shape, b: Shape): Relation {
  const m = [-1, -1, -1, -1, -1, -1, -1, -1, 2];
  const rise = (cell: number, dimension: number) => {
    if (m[cell] < dimension) m[cell] = dimension;
  };
  const [boxA, boxB] = [boxOf(a), boxOf(b)];
  const reach = Math.max(1e-300, ...[...boxA, ...boxB].filter(Number.isFinite).map(Math.abs)) * 1e-12;
  const sideA = new Side(a, reach);
  const sideB = new Side(b, reach);
  for (const [own, other, cells] of [
    [sideA, sideB, [II, IB, IE, BI, BB, BE]],
    [sideB, sideA, [II, BI, EI, IB, BB, EB]],
  ] as const) {
    // Vertices, ends and meeting points.
    for (const spot of own.spots(other)) {
      const mine = own.locate(spot);
      if (mine === Where.outside) continue;
      rise(cells[mine * 3 + other.locate(spot)], 0);
    }
    // Stretches of lines between meeting points.
    for (const [from, to, rim] of own.stretches(other)) {
      const middle: Position = [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2];
      const theirs = other.locate(middle);
      const mine = rim ? Where.edge : Where.inside;
      rise(cells[mine * 3 + theirs], 1);
      if (!rim) continue;
      // Both sides of an area's rim: one is its interior, the other lies outside.
      if (theirs === Where.inside && other.hasArea) {
        rise(cells[0], 2);
        rise(own === sideA ? EI : IE, 2);
      } else if (theirs === Where.outside) rise(cells[2], 2);
    }
    // Areas that no rim runs through are told by a point well inside.
    for (const spot of own.hearts) {
      const theirs = other.locateArea(spot);
      rise(cells[theirs === Where.inside ? 0 : 2], 2);
    }
    if (own.hasArea && !other.hasArea) rise(cells[2], 2);
  }
  return m;
}

export const intersects = (m: Relation) => m[II] >= 0 || m[IB] >= 0 || m[BI] >= 0 || m[BB] >= 0;
export const within = (m: Relation) => m[II] >= 0 && m[IE] < 0 && m[BE] < 0;
export const contains = (m: Relation) => m[II] >= 0 && m[EI] < 0 && m[EB] < 0;
export const equalShapes = (m: Relation) => within(m) && contains(m);
export const touches = (m: Relation) => m[II] < 0 && (m[IB] >= 0 || m[BI] >= 0 || m[BB] >= 0);

export function crosses(m: Relation, a: Shape, b: Shape): boolean {
  const [da, db] = [dimensionOf(a), dimensionOf(b)];
  if (da < db) return m[II] >= 0 && m[IE] >= 0;
  if (da > db) return m[II] >= 0 && m[EI] >= 0;
  return da === 1 && m[II] === 0;
}

export function overlaps(m: Relation, a: Shape, b: Shape): boolean {
  const d = dimensionOf(a);
  return d === dimensionOf(b) && m[II] === d && m[IE] >= 0 && m[EI] >= 0;
}

/** Whether two boxes `[west, south, east, north]` share anything. */
export const boxesMeet = (a: ArrayLike<number>, b: ArrayLike<number>) =>
  a[0] <= b[2] && b[0] <= a[2] && a[1] <= b[3] && b[1] <= a[3];

type Segment = readonly [Position, Position, boolean];

/** One of two shapes, ready to answer where a place lies in it. */
class Side {
  private readonly segments: Segment[];
  private readonly ends = new Map<string, { spot: Position; count: number }>();
  readonly hasArea: boolean;

  constructor(
    private readonly shape: Shape,
    private readonly reach: number,
  ) {
    this.hasArea = shape.polygons.length > 0;
    this.segments = [
      ...shape.lines.flatMap((line) => pairs(line, false)),
      ...shape.polygons.flatMap((polygon) => polygon.flatMap((ring) => pairs(ring, true))),
    ];
    // Ends that an odd number of lines share are boundary (the mod-2 rule of OGC 06-103r4, section 6.1.8).
    for (const line of shape.lines) {
      for (const spot of [line[0], line[line.length - 1]]) {
        const key = `${spot[0]},${spot[1]}`;
        const end = this.ends.get(key) ?? { spot, count: 0 };
        end.count++;
        this.ends.set(key, end);
      }
    }
  }

  /** One point well inside each polygon. */
  get hearts(): Position[] {
    return this.shape.polygons.map((polygon) => {
      const starts = [0];
      const coords: number[] = [];
      for (const ring of polygon) {
        for (const [x, y] of ring) coords.push(x, y);
        starts.push(coords.length / 2);
      }
      const [x, y] = innerPoint(coords, starts, 0, polygon.length);
      return [x, y];
    });
  }

  /** Every place where something may change: points, vertices, and where the two shapes meet. */
  spots(other: Side): Position[] {
    const { points, lines, polygons } = this.shape;
    const out: Position[] = [...points, ...lines.flat(), ...polygons.flat(2)];
    for (const segment of this.segments)
      for (const theirs of other.segments) out.push(...meetings(segment, theirs, this.reach));
    return out;
  }

  /** Own segments, cut wherever the other shape meets them; the last entry says whether it is the rim of an area. */
  *stretches(other: Side): Generator<Segment> {
    for (const segment of this.segments) {
      const [from, to, rim] = segment;
      const cuts: Position[] = [from, to];
      for (const theirs of other.segments) cuts.push(...meetings(segment, theirs, this.reach));
      for (const spot of other.shape.points) if (onSegment(spot, from, to, this.reach)) cuts.push(spot);
      const along = ([x, y]: Position) => (x - from[0]) * (to[0] - from[0]) + (y - from[1]) * (to[1] - from[1]);
      cuts.sort((a, b) => along(a) - along(b));
      for (let i = 1; i < cuts.length; i++)
        if (far(cuts[i - 1], cuts[i]) > this.reach * 4) yield [cuts[i - 1], cuts[i], rim];
    }
  }

  /** Where a place lies with regard to the areas only. */
  locateArea(spot: Position): Where {
    for (const polygon of this.shape.polygons) {
      let inside = false;
      for (const ring of polygon) {
        for (let i = 0, j = ring.length - 1; i < ring.length; j = i++) {
          if (onSegment(spot, ring[j], ring[i], this.reach)) return Where.edge;
          const [[xi, yi], [xj, yj]] = [ring[i], ring[j]];
          if (yi > spot[1] !== yj > spot[1] && spot[0] < ((xj - xi) * (spot[1] - yi)) / (yj - yi) + xi)
            inside = !inside;
        }
      }
      if (inside) return Where.inside;
    }
    return Where.outside;
  }

  locate(spot: Position): Where {
    const area = this.hasArea ? this.locateArea(spot) : Where.outside;
    if (area !== Where.outside) return area;
    for (const { spot: end, count } of this.ends.values())
      if (far(spot, end) <= this.reach) return count % 2 ? Where.edge : Where.inside;
    for (const line of this.shape.lines)
      for (let i = 1; i < line.length; i++) if (onSegment(spot, line[i - 1], line[i], this.reach)) return Where.inside;
    return this.shape.points.some((own) => far(own, spot) <= this.reach) ? Where.inside : Where.outside;
  }
}

const far = (a: Position, b: Position) => Math.hypot(a[0] - b[0], a[1] - b[1]);

function pairs(path: readonly Position[], rim: boolean): Segment[] {
  const out: Segment[] = [];
  for (let i = rim ? 0 : 1; i < path.length; i++) out.push([path[(i || path.length) - 1], path[i], rim]);
  return out;
}

function onSegment(p: Position, a: Position, b: Position, reach: number): boolean {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const length2 = dx * dx + dy * dy;
  const t = length2 ? Math.max(0, Math.min(1, ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / length2)) : 0;
  return Math.hypot(p[0] - a[0] - t * dx, p[1] - a[1] - t * dy) <= reach;
}

/** Where two segments meet: a crossing, or the ends of the stretch they share. */
function meetings([a, b]: Segment, [c, d]: Segment, reach: number): Position[] {
  if (
    Math.max(a[0], b[0]) < Math.min(c[0], d[0]) - reach ||
    Math.max(c[0], d[0]) < Math.min(a[0], b[0]) - reach ||
    Math.max(a[1], b[1]) < Math.min(c[1], d[1]) - reach ||
    Math.max(c[1], d[1]) < Math.min(a[1], b[1]) - reach
  )
    return [];
  const out: Position[] = [];
  for (const p of [a, b]) if (onSegment(p, c, d, reach)) out.push(p);
  for (const p of [c, d]) if (onSegment(p, a, b, reach)) out.push(p);
  if (out.length) return out;
  const [ux, uy, vx, vy] = [b[0] - a[0], b[1] - a[1], d[0] - c[0], d[1] - c[1]];
  const cross = ux * vy - uy * vx;
  if (cross === 0) return out;
  const t = ((c[0] - a[0]) * vy - (c[1] - a[1]) * vx) / cross;
  const s = ((c[0] - a[0]) * uy - (c[1] - a[1]) * ux) / cross;
  if (t >= 0 && t <= 1 && s >= 0 && s <= 1) out.push([a[0] + t * ux, a[1] + t * uy]);
  return out;
}
