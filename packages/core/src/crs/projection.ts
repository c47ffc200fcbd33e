import { edgeSlack, limitReach, looseSlack, newtonEnd } from './guards.js';
import type { Ellipsoid } from './ellipsoid.js';

/** Two numbers that an operation writes its answer into. */
export type Pair = [number, number];

/**
 * A projection without false origin and units. Longitudes are radians east of the central meridian, −π to π; latitudes radians; x
 * east and y north in meters. Both ways answer false, and leave `out` as it is, for what lies outside the domain.
 */
export interface Projection {
  forward(lon: number, lat: number, out: Pair): boolean;
  inverse(x: number, y: number, out: Pair): boolean;
}

/** Parameters of a projection method; angles in degrees, lengths in meters. Each method uses some of them. */
export interface ProjectionParameters {
  /** Latitude of natural origin, false origin, or projection center. */
  readonly lat0?: number;
  /** Longitude of origin. */
  readonly lon0?: number;
  /** First and second standard parallel. */
  readonly lat1?: number;
  readonly lat2?: number;
  /** Scale factor; default 1. */
  readonly k0?: number;
  /** False easting and northing in meters; default 0. */
  readonly x0?: number;
  readonly y0?: number;
  /** Azimuth of the initial line, degrees clockwise from north. */
  readonly azimuth?: number;
  /** Angle from the rectified to the skew grid. */
  readonly gridAngle?: number;
  /** Latitude of the pseudo standard parallel, and co-latitude of the cone's axis. */
  readonly pseudo?: number;
  readonly axis?: number;
}

/**
 * The part of the sphere that a method shows well, in degrees: longitudes up to `half` on both sides of the central meridian (default 180),
 * latitudes from `south` to `north` (default all), or a circle of radius `circle` around the latitude `lat` (default that of the origin) on the
 * central meridian.
 */
export interface Reach {
  readonly half?: number;
  readonly south?: number;
  readonly north?: number;
  readonly circle?: number;
  readonly lat?: number;
}

/** Makes a projection of one method for an ellipsoid. */
export type Method = (ellipsoid: Ellipsoid, parameters: ProjectionParameters) => Projection;

export const radians = Math.PI / 180;
export const halfPi = Math.PI / 2;

/** The angle in −π to π; what lies there already stays as it is, to the last bit. */
export const around = (angle: number) =>
  angle >= -Math.PI && angle <= Math.PI ? angle : angle - 2 * Math.PI * Math.round(angle / (2 * Math.PI));

/** Arc sine of what rounding may have taken a hair beyond 1. */
export const asin = (v: number) => Math.asin(Math.max(-1, Math.min(1, v)));

/**
 * Inverts a forward projection by Newton's method in two dimensions, with derivatives taken numerically.
 *
 * @param guess longitude and latitude to begin with, in radians
 * @param size meters to which a radian amounts, for the end of the search
 */
export function solve(
  forward: Projection['forward'],
  x: number,
  y: number,
  guess: Pair,
  size: number,
  out: Pair,
): boolean {
  const at: Pair = [0, 0];
  const beside: Pair = [0, 0];
  let [lon, lat] = guess;
  const h = limitReach;
  for (let i = 0; i < 40; i++) {
    if (!forward(lon, lat, at)) return false;
    const [dx, dy] = [x - at[0], y - at[1]];
    if (Math.hypot(dx, dy) < size * 16 * newtonEnd) break;
    const sideways = lon > 0 ? -h : h;
    const upwards = lat > 0 ? -h : h;
    if (!forward(lon + sideways, lat, beside)) return false;
    const [xl, yl] = [(beside[0] - at[0]) / sideways, (beside[1] - at[1]) / sideways];
    if (!forward(lon, lat + upwards, beside)) return false;
    const [xp, yp] = [(beside[0] - at[0]) / upwards, (beside[1] - at[1]) / upwards];
    const det = xl * yp - xp * yl;
    if (Math.abs(det) < (size * looseSlack) ** 2) return false;
    const [sl, sp] = [(dx * yp - dy * xp) / det, (dy * xl - dx * yl) / det];
    // Long leaps are cut, so that the search stays near the branch that it began on.
    const cut = Math.min(1, 0.5 / Math.hypot(sl, sp));
    lon = Math.max(-Math.PI, Math.min(Math.PI, lon + sl * cut));
    lat = Math.max(-halfPi, Math.min(halfPi, lat + sp * cut));
    if (Math.hypot(sl, sp) < newtonEnd) break;
  }
  if (!forward(lon, lat, at) || Math.hypot(x - at[0], y - at[1]) > size * 16 * edgeSlack) return false;
  out[0] = lon;
  out[1] = lat;
  return true;
}
