import { Fault } from '../base/fault.js';
import { meetingOf } from '../geometry/segment-grid.js';
import { pathsOf, type EditGeometry, type EditPosition } from './shape.js';
import { heightBetween, raised } from './heights.js';
import { holds, problemsOf, twiceArea } from './validity.js';

type Spot = readonly [number, number];
type Rings = readonly (readonly EditPosition[])[];

const refuse = (message: string, hint: string): never => {
  throw new Fault('edit.cut', message, hint);
};

/**
 * Cuts a feature along a line: an area wherever the line crosses it from side to side, a line where it is crossed.
 *
 * @param geometry a line, lines, a polygon or polygons
 * @param along vertices of the cutting line
 * @returns two or more parts
 * @throws Fault `edit.cut` if nothing is cut, or if the cut crosses itself, passes through a hole, or would produce invalid parts
 */
export function cutGeometry(geometry: EditGeometry, along: readonly EditPosition[]): EditGeometry[] {
  const paths = pathsOf(geometry);
  if (geometry.type.endsWith('LineString')) {
    const pieces = paths.flatMap(({ spots }) => cutLine(spots, along));
    if (pieces.length <= paths.length)
      refuse('the cut does not cross the line', 'Draw it across the line, from one side to the other.');
    return pieces.map((coordinates) => ({ type: 'LineString', coordinates }));
  }
  if (!geometry.type.endsWith('Polygon')) refuse('a point cannot be cut', 'Choose a line or an area.');
  if (crossesItself(along)) refuse('the cut crosses itself', 'Make several cuts, each from side to side.');
  const polygons = new Map<number, (readonly EditPosition[])[]>();
  for (const { spots, polygon } of paths) polygons.set(polygon, [...(polygons.get(polygon) ?? []), spots]);
  const pieces = [...polygons.values()].flatMap((rings) => cutRings(rings, along));
  if (pieces.length <= polygons.size)
    refuse('the cut does not cross the area from side to side', 'Begin it outside the area, and end it outside.');
  const made = pieces.map((rings): EditGeometry => ({
    type: 'Polygon',
    coordinates: rings.map((ring) => [...ring, ring[0]]),
  }));
  // Crossings are computed in doubles: the pieces have to fill the area to within their rounding.
  const whole = sizeOf([geometry]);
  if (made.some((piece) => problemsOf(piece, 1).length) || Math.abs(sizeOf(made) - whole) > 1e-9 * whole)
    refuse('the cut does not give valid pieces', 'Make several cuts, each from side to side.');
  return made;
}

/** Area of polygons in the square of their unit, holes taken out. */
function sizeOf(geometries: readonly EditGeometry[]): number {
  return geometries
    .flatMap(pathsOf)
    .reduce((sum, { spots, ring }) => sum + (ring ? -0.5 : 0.5) * Math.abs(twiceArea(spots)), 0);
}

/** Whether a line crosses or touches itself. */
function crossesItself(line: readonly EditPosition[]): boolean {
  const edges = line.slice(1).map(([x2, y2], i) => ({ x1: line[i][0], y1: line[i][1], x2, y2 }));
  return edges.some((one, i) => edges.slice(i + 2).some((other) => meetingOf(one, other) !== undefined));
}

/** Where a cutting line meets a path: how far along each, in edges and parts of one. */
interface Meeting {
  readonly at: EditPosition;
  readonly onCut: number;
  readonly onPath: number;
}

function meetings(spots: readonly EditPosition[], closed: boolean, along: readonly EditPosition[]): Meeting[] {
  const edges = closed ? spots.length : spots.length - 1;
  const edge = (path: readonly EditPosition[], i: number) => {
    const [[x1, y1], [x2, y2]] = [path[i], path[(i + 1) % path.length]];
    return { x1, y1, x2, y2 };
  };
  const found: Meeting[] = [];
  for (let c = 0; c + 1 < along.length; c++)
    for (let p = 0; p < edges; p++) {
      const met = meetingOf(edge(along, c), edge(spots, p));
      if (!met) continue;
      const height = heightBetween(spots[p], spots[(p + 1) % spots.length], met.u);
      found.push({ at: raised(met.at, height), onCut: c + met.t, onPath: p + met.u });
    }
  found.sort((a, b) => a.onCut - b.onCut);
  // A corner that the cut runs through is met by both of its edges.
  return found.filter((one, i) => i === 0 || one.onCut - found[i - 1].onCut > 1e-9);
}

function cutLine(spots: readonly EditPosition[], along: readonly EditPosition[]): (readonly EditPosition[])[] {
  const cuts = meetings(spots, false, along).toSorted((a, b) => a.onPath - b.onPath);
  const inner = cuts.filter(({ onPath }) => onPath > 1e-9 && onPath < spots.length - 1 - 1e-9);
  const pieces: (readonly EditPosition[])[] = [];
  let [from, start]: [number, EditPosition[]] = [0, [spots[0]]];
  for (const { at, onPath } of inner) {
    const whole = Math.floor(onPath);
    pieces.push([...start, ...spots.slice(from + 1, whole + 1), at]);
    [from, start] = [whole, [at]];
  }
  pieces.push([...start, ...spots.slice(from + 1)]);
  return pieces;
}

/** Cuts a polygon at the first stretch of the line that runs through it from side to side, and its pieces by the rest. */
function cutRings(rings: Rings, along: readonly EditPosition[]): Rings[] {
  const [outer, ...holes] = rings;
  const met = meetings(outer, true, along);
  for (let i = 0; i + 1 < met.length; i++) {
    const [enter, leave] = [met[i], met[i + 1]];
    const stretch = raisedAlong([enter.at, ...between(along, enter.onCut, leave.onCut), leave.at]);
    const [[ax, ay], [bx, by]] = [stretch[0], stretch[1]];
    if (!holds(outer, (ax + bx) / 2, (ay + by) / 2)) continue;
    if (holes.some((hole) => meetings(hole, true, stretch).length))
      refuse('the cut runs through a hole', 'Lead it past the hole, or delete the hole first.');
    const pieces = [sideOf(outer, stretch, enter, leave), sideOf(outer, stretch.toReversed(), leave, enter)].filter(
      (ring) => ring.length > 2 && twiceArea(ring) !== 0,
    );
    if (pieces.length < 2) continue;
    const rest = along.slice(Math.floor(leave.onCut) + 1);
    return pieces.flatMap((ring) => {
      const own = holes.filter(([[x, y]]) => holds(ring, x, y));
      return rest.length ? cutRings([ring, ...own], [leave.at, ...rest]) : [[ring, ...own]];
    });
  }
  return [rings];
}

/** A stretch of a cut with heights that go evenly from those of its ends. */
function raisedAlong(stretch: readonly EditPosition[]): EditPosition[] {
  const far = [0];
  for (let i = 1; i < stretch.length; i++)
    far.push(far[i - 1] + Math.hypot(stretch[i][0] - stretch[i - 1][0], stretch[i][1] - stretch[i - 1][1]));
  const [start, end] = [stretch[0], stretch[stretch.length - 1]];
  return stretch.map((spot, i) => raised(spot, heightBetween(start, end, far[i] / far[far.length - 1])));
}

/** Vertices of a line strictly between two places on it. */
const between = (along: readonly EditPosition[], from: number, to: number): Spot[] =>
  along.slice(Math.floor(from) + 1, Math.ceil(to)).map(([x, y]): Spot => [x, y]);

/** The part of a ring from where a cut leaves it on to where it enters, closed by the cut. */
function sideOf(
  ring: readonly EditPosition[],
  stretch: readonly EditPosition[],
  enter: Meeting,
  leave: Meeting,
): readonly EditPosition[] {
  const out = [...stretch];
  const count = ring.length;
  const [from, to] = [leave.onPath, enter.onPath];
  const end = to > from ? to : to + count;
  for (let i = Math.floor(from) + 1; i < end; i++) {
    const spot = ring[i % count];
    const last = out[out.length - 1];
    const same = (a: EditPosition, b: EditPosition) => a[0] === b[0] && a[1] === b[1];
    if (!same(spot, last) && !same(spot, out[0])) out.push(spot);
  }
  return twiceArea(out) < 0 ? out.toReversed() : out;
}
