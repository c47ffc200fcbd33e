import { edgeSlack, looseSlack, pointReach } from '../guards.js';
import { fromIsometric, isometric } from '../latitudes.js';
import { around, asin, halfPi, radians, type Method } from '../projection.js';

/** The common part of variants A and B of the Hotine oblique Mercator; `centered` counts from the projection center (B), else from the natural origin (A). */
const hotine =
  (centred: boolean): Method =>
  ({ a, e, e2 }, { lat0 = 0, azimuth = 0, gridAngle = azimuth, k0 = 1 }) => {
    const centre = lat0 * radians;
    const [sinC, cosC] = [Math.sin(centre), Math.cos(centre)];
    const alpha = azimuth * radians;
    const gamma = gridAngle * radians;
    const sign = centre < 0 ? -1 : 1;
    const B = Math.sqrt(1 + (e2 * cosC ** 4) / (1 - e2));
    const A = (a * B * k0 * Math.sqrt(1 - e2)) / (1 - e2 * sinC * sinC);
    const D = Math.max(1, (B * Math.sqrt(1 - e2)) / (cosC * Math.sqrt(1 - e2 * sinC * sinC)));
    const rootD = Math.sqrt(D * D - 1);
    const F = D + rootD * sign;
    // ln H, with H = F · t₀^B and t₀ = exp(−ψ₀).
    const logH = Math.log(F) - B * isometric(centre, e);
    const gamma0 = asin(Math.sin(alpha) / D);
    const [sin0, cos0] = [Math.sin(gamma0), Math.cos(gamma0)];
    // λ₀ = λc − asin(G tan γ₀) / B, with G = ±√(D² − 1). The arc sine loses half its digits where the initial line runs east (centimeters
    // on the ground); the arc tangent of the same angle loses none.
    const lon0 = -Math.atan2(rootD * sign * Math.sin(alpha), D * Math.abs(Math.cos(alpha))) / B;
    const uc = centred ? (A / B) * Math.atan2(rootD, Math.cos(alpha)) * sign : 0;
    const [sinG, cosG] = [Math.sin(gamma), Math.cos(gamma)];
    return {
      forward(lon, lat, out) {
        if (Math.abs(lat) >= halfPi - pointReach) return false;
        const power = logH + B * isometric(lat, e);
        const [S, T] = [Math.sinh(power), Math.cosh(power)];
        const turn = B * around(lon - lon0);
        if (Math.abs(turn) > Math.PI - looseSlack) return false;
        const V = Math.sin(turn);
        const U = (S * sin0 - V * cos0) / T;
        if (Math.abs(U) > 1 - looseSlack) return false;
        const v = (-A * Math.atanh(U)) / B;
        const u = (A * Math.atan2(S * cos0 + V * sin0, Math.cos(turn))) / B - uc;
        out[0] = v * cosG + u * sinG;
        out[1] = u * cosG - v * sinG;
        return true;
      },
      inverse(x, y, out) {
        const v = x * cosG - y * sinG;
        const u = y * cosG + x * sinG + uc;
        const power = (-B * v) / A;
        const [S, T] = [Math.sinh(power), Math.cosh(power)];
        const V = Math.sin((B * u) / A);
        const U = (V * cos0 + S * sin0) / T;
        if (Math.abs(U) > 1 - edgeSlack || Math.abs((B * u) / A) > Math.PI + looseSlack) return false;
        out[0] = around(lon0 - Math.atan2(S * cos0 - V * sin0, Math.cos((B * u) / A)) / B);
        out[1] = fromIsometric((Math.atanh(U) - logH) / B, e);
        return true;
      },
    };
  };

/** Hotine oblique Mercator, variant A (Guidance Note 7-2, section 3.2.7; EPSG 9812). */
export const hotineA: Method = hotine(false);
/** Hotine oblique Mercator, variant B (Guidance Note 7-2, section 3.2.7; EPSG 9815). */
export const hotineB: Method = hotine(true);

/** Krovak, an oblique conformal conic, with x east and y north (Guidance Note 7-2, section 3.1.2; EPSG 9819, 1041). The domain ends 30° from the central meridian. */
export const krovak: Method = (
  { a, e, e2 },
  { lat0 = 49.5, axis = 30 + 17 / 60 + 17.3031 / 3600, pseudo = 78.5, k0 = 1 },
) => {
  const centre = lat0 * radians;
  const sinC = Math.sin(centre);
  const A = (a * Math.sqrt(1 - e2)) / (1 - e2 * sinC * sinC);
  const B = Math.sqrt(1 + (e2 * Math.cos(centre) ** 4) / (1 - e2));
  const gamma = asin(sinC / B);
  const shift = Math.atanh(Math.sin(gamma)) - B * isometric(centre, e);
  const n = Math.sin(pseudo * radians);
  const r0 = (k0 * A) / Math.tan(pseudo * radians);
  const psiP = Math.atanh(n);
  const [sinA, cosA] = [Math.sin(axis * radians), Math.cos(axis * radians)];
  return {
    forward(lon, lat, out) {
      if (Math.abs(lon) > 30 * radians || Math.abs(lat) >= halfPi - looseSlack) return false;
      const sinU = Math.tanh(B * isometric(lat, e) + shift);
      const cosU = Math.sqrt(1 - sinU * sinU);
      const V = -B * lon;
      const sinT = cosA * sinU + sinA * cosU * Math.cos(V);
      const D = Math.atan2(cosU * Math.sin(V), cosA * cosU * Math.cos(V) - sinA * sinU);
      if (1 - Math.abs(sinT) < looseSlack) return false;
      const theta = n * D;
      const r = r0 * Math.exp(n * (psiP - Math.atanh(sinT)));
      out[0] = -r * Math.sin(theta);
      out[1] = -r * Math.cos(theta);
      return true;
    },
    inverse(x, y, out) {
      const r = Math.hypot(x, y);
      const D = Math.atan2(-x, -y) / n;
      const sinT = Math.tanh(psiP - Math.log(r / r0) / n);
      const cosT = Math.sqrt(1 - sinT * sinT);
      const sinU = cosA * sinT - sinA * cosT * Math.cos(D);
      const V = Math.atan2(cosT * Math.sin(D), sinA * sinT + cosA * cosT * Math.cos(D));
      const lon = -V / B;
      if (!(Math.abs(lon) <= 30.001 * radians)) return false;
      out[0] = lon;
      out[1] = fromIsometric((Math.atanh(sinU) - shift) / B, e);
      return true;
    },
  };
};
