import { ellipsoids, type Ellipsoid } from './ellipsoid.js';
import { GeodesicSolver, type Joined, type SinCos } from './geodesic-solve.js';

/** A geodesic between two places. */
export interface GeodesicLine {
  /** Length in meters. */
  readonly length: number;
  /** Degrees clockwise from north, −180 to 180: the direction at the first place, and at the second (onwards). */
  readonly azimuth: number;
  readonly onwards: number;
}

/** The direct and the inverse geodesic problem, and areas of geodesic polygons, on one ellipsoid. */
export interface Geodesic {
  /**
   * Solves the inverse problem: the shortest line between two places.
   *
   * @param lon1 longitude of the first point in degrees
   * @param lat1 its latitude in degrees
   * @param lon2 longitude of the second point in degrees
   * @param lat2 its latitude in degrees
   */
  inverse(lon1: number, lat1: number, lon2: number, lat2: number): GeodesicLine;
  /**
   * Solves the direct problem: the end of a line, in degrees.
   *
   * @param lon longitude in degrees
   * @param lat latitude in degrees
   * @param azimuth initial direction in degrees clockwise from north
   * @param length meters
   */
  direct(lon: number, lat: number, azimuth: number, length: number): { lon: number; lat: number; onwards: number };
  /**
   * Computes the area of a geodesic polygon in square meters; positive for counter-clockwise rings. A ring around a pole encloses the side
   * to its left.
   *
   * @param ring longitude and latitude in degrees, not closed
   */
  area(ring: readonly (readonly [number, number])[]): number;
}

const radians = Math.PI / 180;

const known = new WeakMap<Ellipsoid, Geodesic>();

/**
 * Creates geodesic functions for an ellipsoid, accurate to some nanometers, nearly antipodal points included. Source: C. F. F. Karney,
 * "Algorithms for geodesics", Journal of Geodesy 87 (2013).
 *
 * @param ellipsoid default that of WGS 84
 */
export function geodesicOn(ellipsoid: Ellipsoid = ellipsoids.wgs84): Geodesic {
  let geodesic = known.get(ellipsoid);
  if (!geodesic) known.set(ellipsoid, (geodesic = build(ellipsoid)));
  return geodesic;
}

/** Sine and cosine of an angle in degrees, exact at multiples of ninety. */
function sinCosOf(degrees: number): SinCos {
  const within = degrees % 360;
  const quarters = Math.round(within / 90);
  const rest = (within - 90 * quarters) * radians;
  let [sin, cos] = [Math.sin(rest), Math.cos(rest)];
  for (let k = ((quarters % 4) + 4) % 4; k > 0; k--) [sin, cos] = [cos, -sin];
  // No −0, which would tell two directions apart.
  return [sin + 0, cos + 0];
}

/** An angle in degrees brought into −180 to 180. */
const around = (degrees: number) => degrees - 360 * Math.round(degrees / 360);

/** The way from one longitude to another in degrees, −180 to 180, with what rounding would lose. */
function eastwards(lon1: number, lon2: number): number {
  const [from, to] = [around(lon1), around(lon2)];
  const sum = to - from;
  const other = sum - to;
  const lost = to - (sum - other) - (from + other);
  return around(sum) + lost;
}

function build(ellipsoid: Ellipsoid): Geodesic {
  const solver = new GeodesicSolver(ellipsoid);

  /** The inverse problem for any two places: brought to the one case that the solver takes, and back (44). */
  const join = (lon1: number, lat1: number, lon2: number, lat2: number): Joined => {
    const λ12 = eastwards(lon1, lon2);
    const swapped = Math.abs(lat1) < Math.abs(lat2);
    const [first, second] = swapped ? [lat2, lat1] : [lat1, lat2];
    const mirrored = first > 0;
    const sign = mirrored ? -1 : 1;
    const span = Math.abs(λ12) === 180 ? Math.PI : Math.abs(λ12) * radians;
    const { s12, α1, α2, S12 } = solver.inverse(sinCosOf(sign * first), sinCosOf(sign * second), span);
    // Run the other way round, and seen in a mirror, a geodesic has its azimuths turned over.
    const [a1, a2] = swapped ? [Math.PI - α2, Math.PI - α1] : [α1, α2];
    const [b1, b2] = mirrored ? [Math.PI - a1, Math.PI - a2] : [a1, a2];
    const east = λ12 < 0 && λ12 > -180 ? -1 : 1;
    return { s12, α1: east * b1, α2: east * b2, S12: east * sign * S12 };
  };

  return {
    inverse(lon1, lat1, lon2, lat2) {
      const { s12, α1, α2 } = join(lon1, lat1, lon2, lat2);
      if (s12 === 0) return { length: 0, azimuth: 0, onwards: 0 };
      return { length: s12, azimuth: α1 / radians, onwards: α2 / radians };
    },
    direct(lon, lat, azimuth, length) {
      const { φ2, λ12, α2 } = solver.direct(sinCosOf(lat), sinCosOf(azimuth), length);
      return { lon: around(around(lon) + around(λ12 / radians)), lat: φ2 / radians, onwards: α2 / radians };
    },
    area(ring) {
      let [sum, turned] = [0, 0];
      ring.forEach(([lon1, lat1], i) => {
        const [lon2, lat2] = ring[(i + 1) % ring.length];
        sum += join(lon1, lat1, lon2, lat2).S12;
        turned += eastwards(lon1, lon2);
      });
      // A ring that goes once round the axis has a pole within, where areas down to the equator lack half of the ellipsoid.
      const half = 2 * Math.PI * solver.c2;
      if (Math.round(turned / 360) % 2) sum += sum < 0 ? half : -half;
      // Areas below eastward edges have been added up: they are positive where the ring runs clockwise.
      const area = -sum;
      return (area > half ? area - 2 * half : area <= -half ? area + 2 * half : area) + 0;
    },
  };
}
