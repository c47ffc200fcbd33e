import { edgeSlack, newtonEnd } from './guards.js';
import type { Ellipsoid } from './ellipsoid.js';

// Latitudes that stand in for the geodetic one, each with its inverse; all angles in radians.

/** Tangent of the conformal latitude for the tangent of a geodetic one (Karney 2011, "Transverse Mercator with an accuracy of a few nanometers", equations 7 to 9). */
export function conformalTangent(tau: number, e: number): number {
  const secant = Math.hypot(1, tau);
  const sigma = Math.sinh(e * Math.atanh((e * tau) / secant));
  return Number.isFinite(tau) ? tau * Math.hypot(1, sigma) - sigma * secant : tau;
}

/** The inverse of {@link conformalTangent}, by Newton's method (Karney 2011, equations 19 to 21). */
export function geodeticTangent(conformal: number, e: number): number {
  const e2m = 1 - e * e;
  if (!Number.isFinite(conformal)) return conformal;
  // The isometric latitude as if the sine of the geodetic one were that of the conformal one is near the truth.
  let tau = Math.sinh(Math.asinh(conformal) + e * Math.atanh((e * conformal) / Math.hypot(1, conformal)));
  for (let i = 0; i < 6; i++) {
    const tried = conformalTangent(tau, e);
    const step = ((conformal - tried) / Math.hypot(1, tried)) * ((1 + e2m * tau * tau) / (e2m * Math.hypot(1, tau)));
    tau += step;
    if (Math.abs(step) < newtonEnd * Math.max(1, Math.abs(tau))) break;
  }
  return tau;
}

/** Isometric latitude ψ. */
export const isometric = (lat: number, e: number) => Math.asinh(conformalTangent(Math.tan(lat), e));

/** Geodetic latitude of an isometric one. */
export const fromIsometric = (psi: number, e: number) => Math.atan(geodeticTangent(Math.sinh(psi), e));

/** Radius of the parallel of a latitude, over the semi-major axis: m of Snyder (USGS PP 1395, equation 14-15). */
export const parallelRadius = (lat: number, e2: number) => Math.cos(lat) / Math.sqrt(1 - e2 * Math.sin(lat) ** 2);

/** q of the authalic latitude (Snyder, USGS PP 1395, equation 3-12). */
export function authalicQ(lat: number, { e, e2 }: Ellipsoid): number {
  const s = Math.sin(lat);
  return e === 0 ? 2 * s : (1 - e2) * (s / (1 - e2 * s * s) + Math.atanh(e * s) / e);
}

/** Geodetic latitude of q, by Newton's method (Snyder, USGS PP 1395, equation 3-16); undefined beyond the poles. */
export function fromAuthalicQ(q: number, ellipsoid: Ellipsoid): number | undefined {
  const { e2 } = ellipsoid;
  const pole = authalicQ(Math.PI / 2, ellipsoid);
  const beyond = Math.abs(q) / pole;
  if (beyond >= 1) return beyond > 1 + edgeSlack ? undefined : (Math.sign(q) * Math.PI) / 2;
  let lat = Math.asin(q / pole);
  for (let i = 0; i < 8; i++) {
    const s = Math.sin(lat);
    const step = ((q - authalicQ(lat, ellipsoid)) * (1 - e2 * s * s) ** 2) / (2 * (1 - e2) * Math.cos(lat));
    lat = Math.max(-Math.PI / 2, Math.min(Math.PI / 2, lat + step));
    if (Math.abs(step) < newtonEnd) break;
  }
  return lat;
}

/** Coefficients of Krüger's series to the sixth order in n, both ways (Karney 2011, equations 35 and 36). */
export interface Kruger {
  /** Radius of the sphere whose meridians are as long as those of the ellipsoid, in meters. */
  readonly radius: number;
  readonly alpha: readonly number[];
  readonly beta: readonly number[];
}

const polynomial = (n: number, first: number, coefficients: readonly number[]) =>
  coefficients.reduceRight((sum, c) => sum * n + c, 0) * n ** first;

export function kruger({ a, n }: Ellipsoid): Kruger {
  const n2 = n * n;
  return {
    radius: (a / (1 + n)) * (1 + n2 / 4 + (n2 * n2) / 64 + n2 ** 3 / 256),
    alpha: [
      [1 / 2, -2 / 3, 5 / 16, 41 / 180, -127 / 288, 7891 / 37800],
      [13 / 48, -3 / 5, 557 / 1440, 281 / 630, -1983433 / 1935360],
      [61 / 240, -103 / 140, 15061 / 26880, 167603 / 181440],
      [49561 / 161280, -179 / 168, 6601661 / 7257600],
      [34729 / 80640, -3418889 / 1995840],
      [212378941 / 319334400],
    ].map((row, i) => polynomial(n, i + 1, row)),
    beta: [
      [1 / 2, -2 / 3, 37 / 96, -1 / 360, -81 / 512, 96199 / 604800],
      [1 / 48, 1 / 15, -437 / 1440, 46 / 105, -1118711 / 3870720],
      [17 / 480, -37 / 840, -209 / 4480, 5569 / 90720],
      [4397 / 161280, -11 / 504, -830251 / 7257600],
      [4583 / 161280, -108847 / 3991680],
      [20648693 / 638668800],
    ].map((row, i) => polynomial(n, i + 1, row)),
  };
}

/** Length of the meridian from the equator to a latitude, in meters, and back. */
export function meridian(ellipsoid: Ellipsoid): { length(lat: number): number; latitude(meters: number): number } {
  const { radius, alpha, beta } = kruger(ellipsoid);
  const { e } = ellipsoid;
  return {
    length(lat) {
      const chi = Math.atan(conformalTangent(Math.tan(lat), e));
      return radius * alpha.reduce((sum, c, j) => sum + c * Math.sin(2 * (j + 1) * chi), chi);
    },
    latitude(meters) {
      const mu = meters / radius;
      const chi = beta.reduce((sum, c, j) => sum - c * Math.sin(2 * (j + 1) * mu), mu);
      return Math.atan(geodeticTangent(Math.tan(chi), e));
    },
  };
}
