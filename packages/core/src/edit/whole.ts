import { Fault } from '../base/fault.js';
import { meetingOf } from '../geometry/segment-grid.js';
import { lineBetween, placeFrom, planeAt, type EditSpace } from './space.js';
import { pathsOf, withPositions, type EditGeometry, type EditPosition } from './shape.js';

/**
 * Moves a whole feature so that one position comes to another. Size and shape on the ground are kept at every latitude.
 *
 * @param geometry the geometry; it is not changed
 * @param from a position, usually where it was grabbed
 * @param to the new position of that point
 * @param space meaning of the coordinates
 */
export function moved(geometry: EditGeometry, from: EditPosition, to: EditPosition, space: EditSpace): EditGeometry {
  const [before, after] = [planeAt(from, space), planeAt(to, space)];
  return withinTurn(
    withPositions(geometry, (at) => after.fromPlane(before.toPlane(at))),
    space,
  );
}

/**
 * Rotates and scales a whole feature about a position, in the tangent plane there.
 *
 * @param geometry the geometry; it is not changed
 * @param about the fixed position
 * @param change degrees clockwise, default 0; factor, default 1
 * @param space meaning of the coordinates
 * @throws Fault `edit.scale` for a factor that is not above 0
 */
export function turned(
  geometry: EditGeometry,
  about: EditPosition,
  { degrees = 0, factor = 1 }: { readonly degrees?: number; readonly factor?: number },
  space: EditSpace,
): EditGeometry {
  if (!(factor > 0) || !Number.isFinite(factor) || !Number.isFinite(degrees))
    throw new Fault('edit.scale', `a factor of ${factor} and ${degrees}° changes nothing`, 'Give a factor above 0.');
  const plane = planeAt(about, space);
  const angle = (degrees * Math.PI) / 180;
  const [sin, cos] = [factor * Math.sin(angle), factor * Math.cos(angle)];
  const result = withPositions(geometry, (at) => {
    const [e, n] = plane.toPlane(at);
    return plane.fromPlane([e * cos + n * sin, n * cos - e * sin]);
  });
  return withinTurn(result, space);
}

/** A geometry whose middle lies within 180° of the prime meridian. */
function withinTurn(geometry: EditGeometry, space: EditSpace): EditGeometry {
  const turns = space === 'plane' ? 0 : Math.round(middleOf(geometry)[0] / 360);
  return turns ? withPositions(geometry, ([x, y]) => [x - 360 * turns, y]) : geometry;
}

/** Returns the middle of a geometry's bounds. */
export function middleOf(geometry: EditGeometry): [number, number] {
  const spots = pathsOf(geometry).flatMap((path) => path.spots);
  const of = (axis: number) => {
    const values = spots.map((spot) => spot[axis]);
    return (values.reduce((a, b) => Math.min(a, b)) + values.reduce((a, b) => Math.max(a, b))) / 2;
  };
  return [of(0), of(1)];
}

/**
 * Creates a rectangle from two opposite corners, aligned with a direction.
 *
 * @param corner one corner
 * @param opposite the opposite corner
 * @param space meaning of the coordinates
 * @param bearing direction of a side in degrees clockwise from north; default 0
 */
export function rectangleOf(corner: EditPosition, opposite: EditPosition, space: EditSpace, bearing = 0): EditGeometry {
  if (!bearing) {
    const [[x1, y1], [x2, y2]] = [corner, opposite];
    return ringOf([
      [x1, y1],
      [x2, y1],
      [x2, y2],
      [x1, y2],
    ]);
  }
  const plane = planeAt(corner, space);
  const [e, n] = plane.toPlane(opposite);
  const [sin, cos] = [Math.sin((bearing * Math.PI) / 180), Math.cos((bearing * Math.PI) / 180)];
  const along = e * sin + n * cos;
  const one = plane.fromPlane([along * sin, along * cos]);
  const other = plane.fromPlane([e - along * sin, n - along * cos]);
  return ringOf([[corner[0], corner[1]], one, [opposite[0], opposite[1]], other]);
}

/**
 * Creates a circle on the ground: positions at one geodesic distance from its center, on the ellipsoid of WGS 84.
 *
 * @param middle its center
 * @param radius meters, above 0
 * @param space meaning of the coordinates
 * @param count number of vertices; default 72
 * @returns a polygon; over a pole its ring follows the antimeridian to the pole
 * @throws Fault `edit.radius`
 */
export function circleOf(middle: EditPosition, radius: number, space: EditSpace, count = 72): EditGeometry {
  if (!(radius > 0) || !Number.isFinite(radius))
    throw new Fault('edit.radius', `a circle of ${radius} m is not possible`, 'Give a radius above 0.');
  const rim = Array.from({ length: count }, (_, i) => placeFrom(middle, -(360 * i) / count, radius, space));
  const pole = space === 'lonlat' ? poleWithin(middle, radius) : undefined;
  return pole === undefined ? ringOf(rim) : ringAround(pole, rim);
}

/** Latitude of the pole that a circle lies over; undefined for none, or where it covers both. */
function poleWithin(middle: EditPosition, radius: number): 90 | -90 | undefined {
  const over = ([90, -90] as const).filter((pole) => lineBetween(middle, [middle[0], pole], 'lonlat').length < radius);
  if (over.length > 1)
    throw new Fault('edit.radius', `a circle of ${radius} m covers both poles`, 'Give a smaller radius.');
  return over[0];
}

/** A polygon around a pole: its rim from the antimeridian to the antimeridian, and along it to the pole (RFC 7946, section 3.1.9). */
function ringAround(pole: 90 | -90, rim: readonly (readonly [number, number])[]): EditGeometry {
  const turned = rim
    .map(([x, y]): [number, number] => [x - 360 * Math.round(x / 360), y])
    .sort(([one], [other]) => one - other);
  const [first, last] = [turned[0], turned[turned.length - 1]];
  const gap = first[0] + 360 - last[0];
  const seam = last[1] + (gap ? ((180 - last[0]) / gap) * (first[1] - last[1]) : 0);
  const inner = turned.filter(([x]) => Math.abs(x) !== 180);
  return ringOf([[-180, seam], ...inner, [180, seam], [180, pole], [-180, pole]]);
}

/** A polygon of one ring, counter-clockwise (RFC 7946, section 3.1.6). */
function ringOf(spots: readonly (readonly [number, number])[]): EditGeometry {
  let twice = 0;
  spots.forEach(([x, y], i) => {
    const [px, py] = spots[(i || spots.length) - 1];
    twice += px * y - x * py;
  });
  const ordered = twice < 0 ? spots.toReversed() : spots;
  return { type: 'Polygon', coordinates: [[...ordered, ordered[0]]] };
}

/**
 * Creates a line parallel to another.
 *
 * @param spots vertices of the line
 * @param meters distance to its right; negative to its left
 * @param space meaning of the coordinates
 * @throws Fault `edit.offset`
 */
export function offsetLine(spots: readonly EditPosition[], meters: number, space: EditSpace): EditGeometry {
  const path = spots.filter((spot, i) => i === 0 || spot[0] !== spots[i - 1][0] || spot[1] !== spots[i - 1][1]);
  if (path.length < 2 || !meters || !Number.isFinite(meters))
    throw new Fault(
      'edit.offset',
      `no parallel line can be drawn ${meters} m beside this one`,
      'Give a line, and a distance.',
    );
  const plane = planeAt(path[path.length >> 1], space);
  const flat = path.map(plane.toPlane);
  const out: [number, number][] = [];
  const normal = (i: number): [number, number] => {
    const [[ax, ay], [bx, by]] = [flat[i], flat[i + 1]];
    const length = Math.hypot(bx - ax, by - ay);
    return [(by - ay) / length, -(bx - ax) / length];
  };
  flat.forEach(([x, y], i) => {
    const [before, after] = [normal(Math.max(0, i - 1)), normal(Math.min(flat.length - 2, i))];
    const [nx, ny] = [before[0] + after[0], before[1] + after[1]];
    const half = (nx * nx + ny * ny) / 2;
    // A corner sharper than some 30° is cut off, as a mitre of that length would stick out.
    if (half < 0.13) for (const [ex, ey] of [before, after]) out.push([x + meters * ex, y + meters * ey]);
    else out.push([x + (meters * nx) / half, y + (meters * ny) / half]);
  });
  return { type: 'LineString', coordinates: withoutLoops(out).map(plane.fromPlane) };
}

/**
 * Returns the distance of a position from a line, as {@link offsetLine} takes it.
 *
 * @param spots vertices of the line
 * @param at the position
 * @param space meaning of the coordinates
 * @returns meters to its right; negative to its left
 */
export function besideLine(spots: readonly EditPosition[], at: EditPosition, space: EditSpace): number {
  const plane = planeAt(spots[spots.length >> 1], space);
  const flat = spots.map(plane.toPlane);
  const [px, py] = plane.toPlane(at);
  let [nearest, beside] = [Infinity, 0];
  for (let i = 0; i + 1 < flat.length; i++) {
    const [[ax, ay], [bx, by]] = [flat[i], flat[i + 1]];
    const [dx, dy] = [bx - ax, by - ay];
    const squared = dx * dx + dy * dy;
    if (!squared) continue;
    const t = Math.max(0, Math.min(1, ((px - ax) * dx + (py - ay) * dy) / squared));
    const distance = Math.hypot(px - ax - t * dx, py - ay - t * dy);
    if (distance >= nearest) continue;
    nearest = distance;
    beside = (px - ax) * dy - (py - ay) * dx >= 0 ? distance : -distance;
  }
  return beside;
}

/** A path without the loops that it makes in its inner corners. */
function withoutLoops(path: readonly [number, number][]): [number, number][] {
  const out = [...path];
  for (let i = 0; i + 3 < out.length; i++)
    for (let j = Math.min(out.length - 2, i + 12); j > i + 1; j--) {
      const edge = (k: number) => ({ x1: out[k][0], y1: out[k][1], x2: out[k + 1][0], y2: out[k + 1][1] });
      const met = meetingOf(edge(i), edge(j));
      if (met) {
        out.splice(i + 1, j - i, met.at);
        break;
      }
    }
  return out;
}
