import { Fault } from '../base/fault.js';

/** An ellipsoid of revolution, or a sphere where `f` is 0. */
export interface Ellipsoid {
  /** Semi-major axis in meters. */
  readonly a: number;
  /** Flattening. */
  readonly f: number;
  /** Semi-minor axis in meters. */
  readonly b: number;
  /** First eccentricity, and its square. */
  readonly e: number;
  readonly e2: number;
  /** Third flattening, (a − b) / (a + b). */
  readonly n: number;
}

/**
 * An ellipsoid by its semi-major axis in meters and its inverse flattening; 0 for the inverse flattening makes a sphere, as in
 * well-known text (OGC 18-010r11, section 8.2.1).
 *
 * @param a semi-major axis in meters
 * @param inverseFlattening 1/f; 0 or Infinity for a sphere
 * @throws Fault `ellipsoid.form`
 */
export function ellipsoid(a: number, inverseFlattening: number): Ellipsoid {
  if (!(a > 0 && Number.isFinite(a)) || !(inverseFlattening === 0 || inverseFlattening > 1))
    throw new Fault(
      'ellipsoid.form',
      `an ellipsoid with semi-major axis ${a} and inverse flattening ${inverseFlattening} cannot be`,
      'Give meters above 0, and an inverse flattening above 1, or 0 for a sphere.',
    );
  const f = inverseFlattening ? 1 / inverseFlattening : 0;
  const e2 = f * (2 - f);
  return { a, f, b: a * (1 - f), e: Math.sqrt(e2), e2, n: f / (2 - f) };
}

/** Ellipsoids of the systems in the registry (EPSG geodetic parameter dataset, by code). */
export const ellipsoids = {
  /** EPSG:7030 */
  wgs84: ellipsoid(6378137, 298.257223563),
  /** EPSG:7019 */
  grs80: ellipsoid(6378137, 298.257222101),
  /** EPSG:7001 */
  airy1830: ellipsoid(6377563.396, 299.3249646),
  /** EPSG:7002 */
  airyModified: ellipsoid(6377340.189, 299.3249646),
  /** EPSG:7004 */
  bessel1841: ellipsoid(6377397.155, 299.1528128),
  /** EPSG:7022 */
  international1924: ellipsoid(6378388, 297),
  /** EPSG:7008, as a and b: 6378206.4 and 6356583.8 m */
  clarke1866: ellipsoid(6378206.4, 6378206.4 / (6378206.4 - 6356583.8)),
} satisfies Record<string, Ellipsoid>;
