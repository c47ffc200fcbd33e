import { ellipsoids } from '../crs/ellipsoid.js';
import { geodesicOn } from '../crs/geodesic.js';
import { areaOf, lengthOf } from '../crs/measure.js';
import { pathsOf, type EditGeometry, type EditPath, type EditPosition } from './shape.js';

/** Meaning of coordinates: degrees on the ellipsoid of WGS 84, or meters on a plan. */
export type EditSpace = 'lonlat' | 'plane';

/** A tangent plane: meters east and north of a position. */
export interface TangentPlane {
  toPlane(at: EditPosition): [number, number];
  fromPlane(at: readonly [number, number]): [number, number];
}

const radians = Math.PI / 180;

/**
 * Creates a tangent plane that is true to scale at a position, by the radii of curvature of the ellipsoid (ISO 19111, annex on ellipsoids).
 * Within ten kilometers, lengths are accurate to one in ten thousand.
 *
 * @param at the point of tangency
 * @param space meaning of the coordinates
 */
export function planeAt([x0, y0]: EditPosition, space: EditSpace): TangentPlane {
  if (space === 'plane') return { toPlane: ([x, y]) => [x - x0, y - y0], fromPlane: ([e, n]) => [x0 + e, y0 + n] };
  const { a, e2 } = ellipsoids.wgs84;
  const [sin, cos] = [Math.sin(y0 * radians), Math.max(1e-9, Math.cos(y0 * radians))];
  if (Math.abs(y0) > polar) return polarPlane(x0, y0);
  const w = Math.sqrt(1 - e2 * sin * sin);
  const east = (a / w) * cos * radians;
  const north = ((a * (1 - e2)) / w ** 3) * radians;
  return {
    toPlane: ([x, y]) => [(x - x0) * east, (y - y0) * north],
    fromPlane: ([e, n]) => [x0 + e / east, Math.max(-90, Math.min(90, y0 + n / north))],
  };
}

/** Latitude in degrees beyond which meridians converge too much within a few kilometers for one scale to the east. */
const polar = 80;

/** A plane near a pole: distance and direction from a place, along geodesics (azimuthal equidistant projection). */
function polarPlane(x0: number, y0: number): TangentPlane {
  return {
    toPlane: (at) => {
      const { length, azimuth } = geodesicOn().inverse(x0, y0, at[0], at[1]);
      return [length * Math.sin(azimuth * radians), length * Math.cos(azimuth * radians)];
    },
    fromPlane: ([e, n]) => placeFrom([x0, y0], Math.atan2(e, n) / radians, Math.hypot(e, n), 'lonlat'),
  };
}

/**
 * Returns the distance in meters between two positions, and the direction from one to the other in degrees clockwise from north, 0 to 360.
 */
export function lineBetween(
  from: EditPosition,
  to: EditPosition,
  space: EditSpace,
): { readonly length: number; readonly bearing: number } {
  const turn = (degrees: number) => (degrees + 360) % 360;
  if (space === 'plane') {
    const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
    return { length: Math.hypot(dx, dy), bearing: turn(Math.atan2(dx, dy) / radians) };
  }
  const { length, azimuth } = geodesicOn().inverse(from[0], from[1], to[0], to[1]);
  return { length, bearing: turn(azimuth) };
}

/** Returns the position at a distance in meters and a direction (degrees clockwise from north) from another. */
export function placeFrom(from: EditPosition, bearing: number, length: number, space: EditSpace): [number, number] {
  if (space === 'plane')
    return [from[0] + length * Math.sin(bearing * radians), from[1] + length * Math.cos(bearing * radians)];
  const { lon, lat } = geodesicOn().direct(from[0], from[1], bearing, length);
  // The same turn of the world as the place that was set out from.
  return [lon + 360 * Math.round((from[0] - lon) / 360), lat];
}

/**
 * Returns the length in meters of lines or the perimeter of areas, and the area in square meters without holes; on the ellipsoid of WGS 84.
 */
export function measureOf(
  geometry: EditGeometry,
  space: EditSpace,
): { readonly length: number; readonly area: number } {
  const paths = pathsOf(geometry);
  const rings = paths.filter(({ closed }) => closed);
  if (space === 'lonlat') {
    const pairs = (spots: readonly EditPosition[]) => spots.map(([x, y]): [number, number] => [x, y]);
    const polygons: [number, number][][][] = [];
    for (const { spots, ring } of rings)
      if (ring === 0) polygons.push([pairs(spots)]);
      else polygons[polygons.length - 1]?.push(pairs(spots));
    const lines = paths.filter(({ closed, spots }) => !closed && spots.length > 1).map(({ spots }) => pairs(spots));
    const shape = { points: [], lines, polygons };
    return { length: lengthOf(shape) - seamLength(rings), area: areaOf(shape) };
  }
  let [length, area] = [0, 0];
  for (const { spots, closed, ring } of paths) {
    let twice = 0;
    for (let i = closed ? 0 : 1; i < spots.length; i++) {
      const [[ax, ay], [bx, by]] = [spots[(i || spots.length) - 1], spots[i]];
      length += Math.hypot(bx - ax, by - ay);
      twice += ax * by - bx * ay;
    }
    if (closed) area += (ring ? -0.5 : 0.5) * Math.abs(twice);
  }
  return { length, area };
}

/** Length in meters of the edges that lead rings around a pole along the antimeridian to the pole and back; they are no part of the rim. */
function seamLength(rings: readonly EditPath[]): number {
  let length = 0;
  for (const { spots } of rings)
    spots.forEach(([x, y], i) => {
      const [px, py] = spots[(i || spots.length) - 1];
      if (x === px && Math.abs(x) === 180 && (Math.abs(y) === 90) !== (Math.abs(py) === 90))
        length += lineBetween([px, py], [x, y], 'lonlat').length;
    });
  return length;
}

/** Systems of units. */
export type MeasureUnits = 'metric' | 'imperial' | 'nautical';

const units: Readonly<Record<MeasureUnits, { readonly length: readonly Unit[]; readonly area: readonly Unit[] }>> = {
  metric: {
    length: [
      ['km', 1000],
      ['m', 1],
    ],
    area: [
      ['km²', 1e6],
      ['ha', 1e4],
      ['m²', 1],
    ],
  },
  // The international foot is 0.3048 m, the mile 5280 and the acre 43 560 square feet of it (NIST SP 811, appendix B.8).
  imperial: {
    length: [
      ['mi', 1609.344],
      ['ft', 0.3048],
    ],
    area: [
      ['mi²', 2589988.110336],
      ['ac', 4046.8564224],
      ['ft²', 0.09290304],
    ],
  },
  nautical: {
    length: [
      ['nmi', 1852],
      ['m', 1],
    ],
    area: [
      ['nmi²', 3429904],
      ['ha', 1e4],
      ['m²', 1],
    ],
  },
};

type Unit = readonly [name: string, size: number];

const inUnits = (value: number, choice: readonly Unit[]) => {
  const [name, size] = choice.find(([, one]) => value >= one) ?? choice[choice.length - 1];
  const number = value / size;
  const digits = number >= 1000 ? 0 : number >= 100 ? 1 : number >= 10 ? 2 : 3;
  const text = number.toLocaleString('en', { maximumFractionDigits: size <= 1 ? Math.min(1, digits) : digits });
  return `${text} ${name}`;
};

/** Formats a length in meters, as in `1.25 km`. */
export const lengthText = (meters: number, system: MeasureUnits = 'metric'): string =>
  inUnits(meters, units[system].length);

/** Formats an area in square meters, as in `3.4 ha`. */
export const areaText = (squareMetres: number, system: MeasureUnits = 'metric'): string =>
  inUnits(squareMetres, units[system].area);
