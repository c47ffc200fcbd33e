import { edgeSlack, limitReach, looseSlack, pointReach } from '../guards.js';
import { authalicQ, fromAuthalicQ, fromIsometric, isometric, meridian, parallelRadius } from '../latitudes.js';
import { halfPi, radians, solve, type Method, type Pair } from '../projection.js';

/**
 * Lambert conformal conic with one or two standard parallels (Guidance Note 7-2, section 3.1.1; EPSG 9801, 9802; Snyder, USGS PP 1395,
 * equations 15-1 to 15-11). With `lat1` alone, or none, `lat0` is the one standard parallel, at which the scale is `k0`.
 */
export const lambertConformalConic: Method = ({ a, e, e2 }, { lat0 = 0, lat1 = lat0, lat2 = lat1, k0 = 1 }) => {
  const [first, second, zero] = [lat1 * radians, lat2 * radians, lat0 * radians];
  const m1 = parallelRadius(first, e2);
  const psi1 = isometric(first, e);
  const n =
    Math.abs(first - second) < limitReach
      ? Math.sin((first + second) / 2)
      : Math.log(m1 / parallelRadius(second, e2)) / (isometric(second, e) - psi1);
  const radius = (psi: number) => ((a * k0 * m1) / n) * Math.exp(n * (psi1 - psi));
  const pole = Math.sign(n) * halfPi;
  const rho0 = Math.abs(zero - pole) < pointReach ? 0 : radius(isometric(zero, e));
  return {
    forward(lon, lat, out) {
      const atPole = Math.abs(lat - pole) < pointReach;
      if (!atPole && Math.abs(lat + pole) < looseSlack) return false;
      const rho = atPole ? 0 : radius(isometric(lat, e));
      out[0] = rho * Math.sin(n * lon);
      out[1] = rho0 - rho * Math.cos(n * lon);
      return Number.isFinite(rho);
    },
    inverse(x, y, out) {
      const sign = Math.sign(n);
      const rho = sign * Math.hypot(x, rho0 - y);
      const theta = Math.atan2(sign * x, sign * (rho0 - y));
      const lon = theta / n;
      if (Math.abs(lon) > Math.PI * (1 + edgeSlack)) return false;
      out[0] = lon;
      out[1] = rho === 0 ? pole : fromIsometric(psi1 - Math.log((rho * n) / (a * k0 * m1)) / n, e);
      return true;
    },
  };
};

/** Albers equal-area conic (Guidance Note 7-2, section 3.1.3; EPSG 9822; Snyder, equations 14-1 to 14-21). */
export const albers: Method = (ellipsoid, { lat0 = 0, lat1 = 0, lat2 = lat1 }) => {
  const { a, e2 } = ellipsoid;
  const [first, second] = [lat1 * radians, lat2 * radians];
  const [m1, m2] = [parallelRadius(first, e2), parallelRadius(second, e2)];
  const [q1, q2] = [authalicQ(first, ellipsoid), authalicQ(second, ellipsoid)];
  const n = Math.abs(first - second) < limitReach ? Math.sin((first + second) / 2) : (m1 * m1 - m2 * m2) / (q2 - q1);
  const c = m1 * m1 + n * q1;
  const radius = (q: number) => (a * Math.sqrt(Math.max(0, c - n * q))) / n;
  const rho0 = radius(authalicQ(lat0 * radians, ellipsoid));
  return {
    forward(lon, lat, out) {
      const rho = radius(authalicQ(lat, ellipsoid));
      out[0] = rho * Math.sin(n * lon);
      out[1] = rho0 - rho * Math.cos(n * lon);
      return true;
    },
    inverse(x, y, out) {
      const sign = Math.sign(n);
      const rho = Math.hypot(x, rho0 - y);
      const lon = Math.atan2(sign * x, sign * (rho0 - y)) / n;
      const lat = fromAuthalicQ((c - ((rho * n) / a) ** 2) / n, ellipsoid);
      if (lat === undefined || Math.abs(lon) > Math.PI * (1 + edgeSlack)) return false;
      out[0] = lon;
      out[1] = lat;
      return true;
    },
  };
};

/** Bonne's equal-area projection with the standard parallel `lat1` (Guidance Note 7-2, section 3.5.5; EPSG 9827; Snyder, equations 19-1 to 19-16). */
export const bonne: Method = (ellipsoid, { lat1, lat0 = 45 }) => {
  const { a, e2 } = ellipsoid;
  const first = (lat1 ?? lat0) * radians;
  const along = meridian(ellipsoid);
  const m1 = parallelRadius(first, e2);
  const top = (a * m1) / Math.sin(first);
  const length1 = along.length(first);
  return {
    forward(lon, lat, out) {
      const rho = top + length1 - along.length(lat);
      const angle = rho === 0 ? 0 : (a * parallelRadius(lat, e2) * lon) / rho;
      out[0] = rho * Math.sin(angle);
      out[1] = top - rho * Math.cos(angle);
      return true;
    },
    inverse(x, y, out) {
      const sign = Math.sign(first);
      const rho = sign * Math.hypot(x, top - y);
      const lat = along.latitude(top + length1 - rho);
      const m = a * parallelRadius(lat, e2);
      if (Math.abs(lat) > halfPi + pointReach) return false;
      const lon = m < looseSlack ? 0 : (rho * Math.atan2(sign * x, sign * (top - y))) / m;
      if (Math.abs(lon) > Math.PI * (1 + looseSlack)) return false;
      out[0] = Math.max(-Math.PI, Math.min(Math.PI, lon));
      out[1] = lat;
      return true;
    },
  };
};

/** American polyconic (Guidance Note 7-2, section 3.5.4; EPSG 9818; Snyder, equations 18-12 to 18-17). The domain ends 90° from the central meridian, where it begins to fold over itself. */
export const polyconic: Method = (ellipsoid, { lat0 = 0 }) => {
  const { a, e2 } = ellipsoid;
  const along = meridian(ellipsoid);
  const zero = along.length(lat0 * radians);
  const forward = (lon: number, lat: number, out: Pair) => {
    if (Math.abs(lon) > halfPi + looseSlack) return false;
    if (Math.abs(lat) < pointReach) {
      out[0] = a * lon;
      out[1] = -zero;
      return true;
    }
    const angle = lon * Math.sin(lat);
    const rho = a / Math.tan(lat) / Math.sqrt(1 - e2 * Math.sin(lat) ** 2);
    out[0] = rho * Math.sin(angle);
    out[1] = along.length(lat) - zero + 2 * rho * Math.sin(angle / 2) ** 2;
    return true;
  };
  return {
    forward,
    inverse(x, y, out) {
      const lat = Math.max(-1.5, Math.min(1.5, along.latitude(y + zero)));
      return solve(forward, x, y, [Math.max(-3, Math.min(3, x / a / Math.cos(lat))), lat], a, out);
    },
  };
};
