import { insideRings } from '../geometry/rings.js';
import { meetingOf, nearPairs, type Segment } from '../geometry/segment-grid.js';
import { boxOfSpots, pathsOf, type EditGeometry, type EditPath, type EditPosition } from './shape.js';

/** A validity problem of a geometry (OGC 06-103r4, section 6.1.11), with its position. */
export interface EditProblem {
  /**
   * `crossing`: a border crosses or touches itself or another of its rings. `flat`: a ring without an area, or a line without a length.
   * `outside`: a hole that lies outside its polygon. `overlap`: a hole within another hole, or parts that cover each other. `number`: a position that is no finite number.
   */
  readonly kind: 'crossing' | 'flat' | 'outside' | 'overlap' | 'number';
  /** Description of the problem. */
  readonly message: string;
  readonly at: readonly [number, number];
}

interface Edge extends Segment {
  readonly path: number;
  readonly index: number;
  readonly polygon: number;
  /** Number of the edge after the last of its ring. */
  readonly count: number;
}

const edgesOf = (path: EditPath, number: number): Edge[] =>
  path.spots.map(([x1, y1], index) => {
    const [x2, y2] = path.spots[(index + 1) % path.spots.length];
    return { x1, y1, x2, y2, path: number, index, polygon: path.polygon, count: path.spots.length };
  });

/**
 * Finds validity problems of a geometry: crossing borders, degenerate rings, holes outside. Lines may cross themselves.
 *
 * @param geometry the geometry
 * @param most maximum number of problems; default 20
 */
export function problemsOf(geometry: EditGeometry, most = 20): EditProblem[] {
  const paths = pathsOf(geometry);
  const found: EditProblem[] = [];
  for (const { spots } of paths)
    for (const [x, y] of spots)
      if (!Number.isFinite(x) || !Number.isFinite(y))
        return [{ kind: 'number', message: 'a position is not a number', at: [Number(x) || 0, Number(y) || 0] }];
  const rings = paths.map((path, i) => ({ path, i })).filter(({ path }) => path.closed);
  for (const path of paths) {
    const [x, y] = path.spots[0];
    const still = path.spots.length > 1 && path.spots.every((spot) => spot[0] === x && spot[1] === y);
    if (still || (path.closed && onOneLine(path.spots)))
      found.push({ kind: 'flat', message: path.closed ? 'the area is flat' : 'the line has no length', at: [x, y] });
  }
  const edges = rings.flatMap(({ path, i }) => edgesOf(path, i));
  const told = new Set<string>();
  for (const [a, b] of nearPairs(edges)) {
    if (found.length >= most) return found;
    const at = crossingOf(a, b);
    if (!at || told.has(at.join())) continue;
    told.add(at.join());
    found.push({ kind: 'crossing', message: 'the border crosses itself', at });
  }
  for (const { path } of rings) {
    if (path.ring === 0 || found.length >= most) continue;
    const outer = rings.find(({ path: other }) => other.polygon === path.polygon && other.ring === 0);
    // A corner of the hole that lies on the border says nothing; any other does.
    const [x, y] = path.spots[0];
    if (outer && !found.length && !holds(outer.path.spots, x, y))
      found.push({ kind: 'outside', message: 'a hole lies outside its area', at: [x, y] });
  }
  if (!found.length) found.push(...overlapsOf(rings.map(({ path }) => path)).slice(0, most));
  return found;
}

/** Holes within holes of the same polygon, and polygons within others, of rings that do not cross. */
function overlapsOf(rings: readonly EditPath[]): EditProblem[] {
  const found: EditProblem[] = [];
  const boxes = rings.map(({ spots }) => boxOfSpots(spots));
  rings.forEach((one, i) => {
    rings.forEach((other, j) => {
      if (i === j) return;
      const areHoles = one.ring > 0 && other.ring > 0 && one.polygon === other.polygon;
      const areParts = one.ring === 0 && other.ring === 0 && one.polygon !== other.polygon;
      if (!(areHoles || areParts) || !encloses(boxes[j], boxes[i])) return;
      // Rings that do not cross lie within each other with all their corners off the border, or with none.
      const inside = one.spots.find(([x, y]) => holds(other.spots, x, y) && !isOnRing(other.spots, x, y));
      const same = !inside && one.spots.every(([x, y]) => isOnRing(other.spots, x, y));
      if (!inside && !(same && i < j)) return;
      const at = inside ?? one.spots[0];
      // A part that stands in a hole of the other covers nothing of it.
      const hole = areParts
        ? rings.find((ring) => ring.ring > 0 && ring.polygon === other.polygon && holds(ring.spots, at[0], at[1]))
        : undefined;
      if (hole) return;
      const message = areHoles ? 'a hole lies within another hole' : 'parts cover each other';
      found.push({ kind: 'overlap', message, at: [at[0], at[1]] });
    });
  });
  return found;
}

type Box = readonly [west: number, south: number, east: number, north: number];

const encloses = (outer: Box, inner: Box): boolean =>
  outer[0] <= inner[0] && outer[1] <= inner[1] && outer[2] >= inner[2] && outer[3] >= inner[3];

/** Whether a place lies on the border of a ring. */
function isOnRing(spots: readonly EditPosition[], x: number, y: number): boolean {
  return spots.some(([bx, by], i) => {
    const [ax, ay] = spots[(i || spots.length) - 1];
    const [dx, dy] = [bx - ax, by - ay];
    return (
      dx * (y - ay) === dy * (x - ax) &&
      Math.min(ax, bx) <= x &&
      x <= Math.max(ax, bx) &&
      Math.min(ay, by) <= y &&
      y <= Math.max(ay, by)
    );
  });
}

/** Where two edges of borders meet that may not; undefined where they do not meet, or follow one another. */
function crossingOf(a: Edge, b: Edge): [number, number] | undefined {
  if (a.path === b.path) {
    const apart = Math.abs(a.index - b.index);
    if (apart === 0) return undefined;
    // Neighbors share a corner; they may not run back over each other.
    if (apart === 1 || apart === a.count - 1) return runsBack(a, b);
  }
  const met = meetingOf(a, b);
  if (met) return met.at;
  return a.path === b.path || a.polygon === b.polygon ? overlapOf(a, b) : undefined;
}

function runsBack(a: Edge, b: Edge): [number, number] | undefined {
  const [first, second] = (a.index + 1) % a.count === b.index ? [a, b] : [b, a];
  const [ax, ay, bx, by] = [first.x2 - first.x1, first.y2 - first.y1, second.x2 - second.x1, second.y2 - second.y1];
  const isLine = ax * by - ay * bx === 0;
  return isLine && ax * bx + ay * by < 0 ? [second.x1, second.y1] : undefined;
}

/** A place that two edges on one line share. */
function overlapOf(a: Segment, b: Segment): [number, number] | undefined {
  const [ax, ay] = [a.x2 - a.x1, a.y2 - a.y1];
  const length = ax * ax + ay * ay;
  if (!length || ax * (b.y1 - a.y1) !== ay * (b.x1 - a.x1) || ax * (b.y2 - a.y1) !== ay * (b.x2 - a.x1))
    return undefined;
  const along = (x: number, y: number) => ((x - a.x1) * ax + (y - a.y1) * ay) / length;
  const [t, u] = [along(b.x1, b.y1), along(b.x2, b.y2)];
  const from = Math.max(0, Math.min(t, u));
  return from < Math.min(1, Math.max(t, u)) ? [a.x1 + from * ax, a.y1 + from * ay] : undefined;
}

/**
 * Finds crossings of the edges at one vertex with others, fast enough while it is dragged.
 *
 * @param geometry the geometry with the vertex at its current position
 * @param vertex index of the path and of the vertex in it
 * @returns positions of the crossings
 */
export function crossingsAt(
  geometry: EditGeometry,
  { path: number, index }: { readonly path: number; readonly index: number },
): (readonly [number, number])[] {
  const paths = pathsOf(geometry);
  if (!paths[number]?.closed) return [];
  const edges = paths.flatMap((path, i) => (path.closed ? edgesOf(path, i) : []));
  const mine = edges.filter(
    (edge) => edge.path === number && (edge.index === index || (edge.index + 1) % edge.count === index),
  );
  const found: (readonly [number, number])[] = [];
  for (const own of mine)
    for (const edge of edges) {
      const at = edge === own ? undefined : crossingOf(own, edge);
      if (at) found.push(at);
    }
  return found;
}

/** Whether vertices lie on one line. */
function onOneLine(spots: readonly EditPosition[]): boolean {
  const [[ox, oy]] = spots;
  const [fx, fy] = spots.find(([x, y]) => x !== ox || y !== oy) ?? [ox, oy];
  return spots.every(([x, y]) => (fx - ox) * (y - oy) - (x - ox) * (fy - oy) === 0);
}

export function twiceArea(spots: readonly EditPosition[]): number {
  const [[ox, oy]] = spots;
  let sum = 0;
  spots.forEach(([x, y], i) => {
    const [px, py] = spots[(i || spots.length) - 1];
    sum += (px - ox) * (y - oy) - (x - ox) * (py - oy);
  });
  return sum;
}

/** Whether a ring holds a place. */
export function holds(spots: readonly EditPosition[], x: number, y: number): boolean {
  const flat = spots.flatMap(([px, py]) => [px, py]);
  return insideRings(flat, [0, spots.length], 0, 1, x, y);
}
