import { looseSlack, newtonEnd } from './guards.js';
import type { Ellipsoid } from './ellipsoid.js';
import { radians } from './projection.js';

/**
 * The seven parameters of a position vector transformation to WGS 84 (Guidance Note 7-2, section 4.3.3; EPSG 1033, 9606): three shifts
 * in meters, three rotations in seconds of arc, a scale difference in parts per million.
 */
export type Helmert = readonly [number, number, number, number, number, number, number];

/** Earth-centered x, y, z in meters. */
export type Triple = [number, number, number];

/** From longitude and latitude in degrees, at height 0, to earth-centered coordinates (Guidance Note 7-2, section 4.1.1; EPSG 9602). */
export function toGeocentric({ a, e2 }: Ellipsoid, lon: number, lat: number, out: Triple): void {
  const [sin, cos] = [Math.sin(lat * radians), Math.cos(lat * radians)];
  const nu = a / Math.sqrt(1 - e2 * sin * sin);
  out[0] = nu * cos * Math.cos(lon * radians);
  out[1] = nu * cos * Math.sin(lon * radians);
  out[2] = nu * (1 - e2) * sin;
}

/** The inverse of {@link toGeocentric}, whatever the height. */
export function fromGeocentric({ a, b, e2 }: Ellipsoid, [x, y, z]: Triple): [number, number] {
  const p = Math.hypot(x, y);
  // Bowring's first guess, then Newton's method on the reduced latitude; a few rounds suffice near the surface.
  let lat = Math.atan2(z, p * (1 - e2));
  for (let i = 0; i < 6; i++) {
    const sin = Math.sin(lat);
    const nu = a / Math.sqrt(1 - e2 * sin * sin);
    const next = Math.atan2(z + e2 * nu * sin, p);
    if (Math.abs(next - lat) < newtonEnd) break;
    lat = next;
  }
  return [Math.atan2(y, x) / radians, p < looseSlack * b ? Math.sign(z) * 90 : lat / radians];
}

/** Moves earth-centered coordinates to WGS 84, or back from it. */
export function shift([tx, ty, tz, rx, ry, rz, ppm]: Helmert, at: Triple, back = false): void {
  const second = radians / 3600;
  const [ax, ay, az] = [rx * second, ry * second, rz * second];
  const m = 1 + ppm * 1e-6;
  const [x, y, z] = at;
  if (!back) {
    at[0] = m * (x - az * y + ay * z) + tx;
    at[1] = m * (az * x + y - ax * z) + ty;
    at[2] = m * (-ay * x + ax * y + z) + tz;
    return;
  }
  // The inverse of the same linear map, not the map of the negated parameters, so that a way there and back ends where it began.
  const [u, v, w] = [(x - tx) / m, (y - ty) / m, (z - tz) / m];
  const det = 1 + ax * ax + ay * ay + az * az;
  at[0] = ((1 + ax * ax) * u + (az + ax * ay) * v + (ax * az - ay) * w) / det;
  at[1] = ((ax * ay - az) * u + (1 + ay * ay) * v + (ax + ay * az) * w) / det;
  at[2] = ((ay + ax * az) * u + (ay * az - ax) * v + (1 + az * az) * w) / det;
}
