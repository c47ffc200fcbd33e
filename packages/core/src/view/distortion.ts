import { ellipsoids, type Ellipsoid } from '../crs/ellipsoid.js';
import type { Surface } from './surface.js';

/** Distortion at a place: the ellipse into which it turns a small circle (Tissot's indicatrix). */
export interface Distortion {
  /** Scale along the ellipse's longer and shorter half-axis; 1 is true to scale. */
  readonly longer: number;
  readonly shorter: number;
  /** Scale of areas. */
  readonly area: number;
  /** Greatest change of an angle, in degrees. */
  readonly angle: number;
}

/**
 * The distortion of a surface at a place, by differences a few meters long (Snyder, USGS PP 1395, section 4, equations 4-10 to 4-13).
 * Undefined where the surface does not reach; nothing is distorted on a globe.
 *
 * @param surface see `getSurface`
 * @param lon longitude in degrees
 * @param lat latitude in degrees
 * @param ellipsoid default WGS 84
 */
export function distortionAt(
  surface: Surface,
  lon: number,
  lat: number,
  { a, e2 }: Ellipsoid = ellipsoids.wgs84,
): Distortion | undefined {
  if (surface.radius || surface.space === 'plane') return { longer: 1, shorter: 1, area: 1, angle: 0 };
  const h = 2e-4;
  const p = Math.max(-90 + 2 * h, Math.min(90 - 2 * h, lat));
  const at = (l: number, q: number) => {
    const out: [number, number, number] = [0, 0, 0];
    return surface.forward(l, q, out) ? out : undefined;
  };
  const [west, east, south, north] = [at(lon - h, p), at(lon + h, p), at(lon, p - h), at(lon, p + h)];
  if (!west || !east || !south || !north) return undefined;
  const radians = Math.PI / 180;
  const w = 1 - e2 * Math.sin(p * radians) ** 2;
  const alongLon = (2 * h * radians * a * Math.cos(p * radians)) / Math.sqrt(w);
  const alongLat = (2 * h * radians * a * (1 - e2)) / (w * Math.sqrt(w));
  const [xl, yl] = [(east[0] - west[0]) / alongLon, (east[1] - west[1]) / alongLon];
  const [xp, yp] = [(north[0] - south[0]) / alongLat, (north[1] - south[1]) / alongLat];
  const area = Math.abs(xl * yp - xp * yl);
  const sum = xl * xl + yl * yl + xp * xp + yp * yp;
  const plus = Math.sqrt(sum + 2 * area);
  const minus = Math.sqrt(Math.max(0, sum - 2 * area));
  const [longer, shorter] = [(plus + minus) / 2, (plus - minus) / 2];
  // Across the edge of the surface neighbors lie far apart; that is no distortion.
  if (longer > 1e3) return undefined;
  return { longer, shorter, area, angle: (2 * Math.asin(Math.min(1, minus / plus))) / radians };
}
