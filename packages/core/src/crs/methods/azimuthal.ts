import {
  edgeSlack,
  equalAreaRim,
  gnomonicRim,
  limitReach,
  looseSlack,
  newtonEnd,
  pointReach,
  stereographicRim,
} from '../guards.js';
import { geodesicOn } from '../geodesic.js';
import {
  authalicQ,
  conformalTangent,
  fromAuthalicQ,
  fromIsometric,
  geodeticTangent,
  isometric,
  parallelRadius,
} from '../latitudes.js';
import { asin, halfPi, radians, solve, type Method, type Pair } from '../projection.js';

/**
 * Lambert azimuthal equal-area, oblique, equatorial and polar (Guidance Note 7-2, section 3.3.1; EPSG 9820; Snyder, equations 24-2 to
 * 24-30). All but the point opposite the center is inside.
 */
export const lambertAzimuthal: Method = (ellipsoid, { lat0 = 0 }) => {
  const { a, e2 } = ellipsoid;
  const centre = lat0 * radians;
  const qp = authalicQ(halfPi, ellipsoid);
  const rq = a * Math.sqrt(qp / 2);
  const beta0 = asin(authalicQ(centre, ellipsoid) / qp);
  const [sin0, cos0] = [Math.sin(beta0), Math.cos(beta0)];
  const polar = Math.abs(Math.abs(centre) - halfPi) < pointReach ? Math.sign(centre) : 0;
  const d = polar ? 1 : (a * parallelRadius(centre, e2)) / (rq * cos0);
  return {
    forward(lon, lat, out) {
      const q = authalicQ(lat, ellipsoid);
      if (polar) {
        const rho = a * Math.sqrt(Math.max(0, qp - polar * q));
        out[0] = rho * Math.sin(lon);
        out[1] = -polar * rho * Math.cos(lon);
        return qp - polar * q < 2 * qp * (1 - edgeSlack);
      }
      const sin = q / qp;
      const cos = Math.sqrt(Math.max(0, 1 - sin * sin));
      const c = 1 + sin0 * sin + cos0 * cos * Math.cos(lon);
      if (c < equalAreaRim) return false;
      const b = rq * Math.sqrt(2 / c);
      out[0] = b * d * cos * Math.sin(lon);
      out[1] = (b / d) * (cos0 * sin - sin0 * cos * Math.cos(lon));
      return true;
    },
    inverse(x, y, out) {
      if (polar) {
        const rho2 = x * x + y * y;
        const lat = fromAuthalicQ(polar * (qp - rho2 / (a * a)), ellipsoid);
        if (lat === undefined) return false;
        out[0] = Math.atan2(x, -polar * y);
        out[1] = lat;
        return true;
      }
      const [u, v] = [x / d, y * d];
      const rho = Math.hypot(u, v);
      if (rho > 2 * rq * (1 + edgeSlack)) return false;
      const c = 2 * asin(rho / (2 * rq));
      const [sinC, cosC] = [Math.sin(c), Math.cos(c)];
      const q = rho === 0 ? qp * sin0 : qp * (cosC * sin0 + (v * sinC * cos0) / rho);
      const lat = fromAuthalicQ(Math.max(-qp, Math.min(qp, q)), ellipsoid);
      if (lat === undefined) return false;
      out[0] = rho === 0 ? 0 : Math.atan2(u * sinC, rho * cos0 * cosC - v * sin0 * sinC);
      out[1] = lat;
      return true;
    },
  };
};

/**
 * Azimuthal equidistant: distance and azimuth from the center are those of the geodesic (Snyder, section 25, on the ellipsoid; EPSG
 * 1125 and, near the center, 9832). All but the point opposite the center is inside.
 */
export const azimuthalEquidistant: Method = (ellipsoid, { lat0 = 0 }) => {
  const geodesic = geodesicOn(ellipsoid);
  const most = Math.PI * ellipsoid.b;
  return {
    forward(lon, lat, out) {
      const { length, azimuth } = geodesic.inverse(0, lat0, lon / radians, lat / radians);
      out[0] = length * Math.sin(azimuth * radians);
      out[1] = length * Math.cos(azimuth * radians);
      return length < most * (1 - looseSlack);
    },
    inverse(x, y, out) {
      const length = Math.hypot(x, y);
      if (length > most) return false;
      const { lon, lat } = geodesic.direct(0, lat0, Math.atan2(x, y) / radians, length);
      out[0] = lon * radians;
      out[1] = lat * radians;
      return true;
    },
  };
};

/** Gnomonic on the sphere of the semi-major axis: great circles are straight (Snyder, equations 22-4 to 22-9). The half of the sphere round the center is inside, less its rim. */
export const gnomonic: Method = ({ a }, { lat0 = 0 }) => {
  const [sin0, cos0] = [Math.sin(lat0 * radians), Math.cos(lat0 * radians)];
  return {
    forward(lon, lat, out) {
      const [sin, cos] = [Math.sin(lat), Math.cos(lat)];
      const c = sin0 * sin + cos0 * cos * Math.cos(lon);
      if (c < gnomonicRim) return false;
      out[0] = (a * cos * Math.sin(lon)) / c;
      out[1] = (a * (cos0 * sin - sin0 * cos * Math.cos(lon))) / c;
      return true;
    },
    inverse(x, y, out) {
      const rho = Math.hypot(x, y) / a;
      if (rho > 1 / gnomonicRim) return false;
      const cosC = 1 / Math.hypot(1, rho);
      const [u, v] = [(x / a) * cosC, (y / a) * cosC];
      out[0] = Math.atan2(u, cos0 * cosC - v * sin0);
      out[1] = asin(cosC * sin0 + v * cos0);
      return true;
    },
  };
};

/** Orthographic on the ellipsoid (Guidance Note 7-2, section 3.3.5; EPSG 9840). The half that faces the eye is inside. */
export const orthographic: Method = ({ a, e2 }, { lat0 = 0 }) => {
  const [sin0, cos0] = [Math.sin(lat0 * radians), Math.cos(lat0 * radians)];
  const nu0 = a / Math.sqrt(1 - e2 * sin0 * sin0);
  const put = (lon: number, lat: number, out: Pair) => {
    const [sin, cos] = [Math.sin(lat), Math.cos(lat)];
    const nu = a / Math.sqrt(1 - e2 * sin * sin);
    out[0] = nu * cos * Math.sin(lon);
    out[1] = nu * (sin * cos0 - cos * sin0 * Math.cos(lon)) + e2 * (nu0 * sin0 - nu * sin) * cos0;
    return sin0 * sin + cos0 * cos * Math.cos(lon);
  };
  const at: Pair = [0, 0];
  return {
    forward(lon, lat, out) {
      if (put(lon, lat, at) < 0) return false;
      [out[0], out[1]] = at;
      return true;
    },
    inverse(x, y, out) {
      const rho = Math.hypot(x, y) / a;
      if (rho > 1) return false;
      const cosC = Math.sqrt(1 - rho * rho);
      const guess: Pair = [Math.atan2(x / a, cos0 * cosC - (y / a) * sin0), asin(cosC * sin0 + (y / a) * cos0)];
      if (e2 === 0) {
        [out[0], out[1]] = guess;
        return true;
      }
      // Near the rim a step may fall on the far side, where the formula still holds.
      return (
        solve((lon, lat, to) => (put(lon, lat, to), true), x, y, guess, a, out) &&
        put(out[0], out[1], at) >= -looseSlack
      );
    },
  };
};

/**
 * Polar stereographic. Variant A has `lat0` = ±90 and the scale `k0` there, variant B the standard parallel `lat1` (Guidance Note 7-2,
 * section 3.3.3; EPSG 9810, 9829). Variant C (EPSG 9830) is B with its northing counted from the standard parallel.
 */
export const polarStereographic: Method = ({ a, e, e2 }, { lat0, lat1, k0 = 1 }) => {
  const sign = Math.sign(lat1 ?? lat0 ?? 90);
  const parallel = Math.abs(lat1 ?? 90) * radians;
  const scale =
    halfPi - parallel < limitReach
      ? (2 * a * k0) / Math.sqrt((1 + e) ** (1 + e) * (1 - e) ** (1 - e))
      : a * parallelRadius(parallel, e2) * Math.exp(isometric(parallel, e));
  return {
    forward(lon, lat, out) {
      const phi = sign * lat;
      if (phi < -halfPi + limitReach) return false;
      const rho = halfPi - phi < pointReach ? 0 : scale * Math.exp(-isometric(phi, e));
      out[0] = rho * Math.sin(lon);
      out[1] = -sign * rho * Math.cos(lon);
      return true;
    },
    inverse(x, y, out) {
      const rho = Math.hypot(x, y);
      out[0] = rho === 0 ? 0 : Math.atan2(x, -sign * y);
      out[1] = rho === 0 ? sign * halfPi : sign * fromIsometric(-Math.log(rho / scale), e);
      return true;
    },
  };
};

/**
 * From a stereographic plane to its sphere (Snyder, USGS PP 1395, equations 20-14, 20-15 and 20-18).
 *
 * @param x east, in meters
 * @param y north, in meters
 * @param width twice the radius of the sphere, times the scale
 * @param center sine and cosine of the latitude of the center on the sphere
 * @returns longitude from the center, in radians, and the sine of the latitude
 */
function toSphere(x: number, y: number, width: number, [sin0, cos0]: Pair): Pair {
  const rho = Math.hypot(x, y);
  if (rho === 0) return [0, sin0];
  const angle = 2 * Math.atan2(rho, width);
  const [sinC, cosC] = [Math.sin(angle), Math.cos(angle)];
  return [Math.atan2(x * sinC, rho * cos0 * cosC - y * sin0 * sinC), cosC * sin0 + (y * sinC * cos0) / rho];
}

/**
 * Oblique stereographic by way of the conformal sphere (Guidance Note 7-2, section 3.3.2; EPSG 9809). All but the surroundings of the
 * point opposite the center are inside.
 */
export const obliqueStereographic: Method = ({ a, e, e2 }, { lat0 = 0, k0 = 1 }) => {
  const zero = lat0 * radians;
  const sinZero = Math.sin(zero);
  const w0 = 1 - e2 * sinZero * sinZero;
  const radius = (a * Math.sqrt(1 - e2)) / w0;
  const n = Math.sqrt(1 + (e2 * Math.cos(zero) ** 4) / (1 - e2));
  const grown = Math.exp(2 * n * isometric(zero, e));
  const sinChi0 = (grown - 1) / (grown + 1);
  const c = ((n + sinZero) * (1 - sinChi0)) / ((n - sinZero) * (1 + sinChi0));
  const shift = Math.log(c) / 2;
  const chi0 = asin(Math.tanh(n * isometric(zero, e) + shift));
  const [sin0, cos0] = [Math.sin(chi0), Math.cos(chi0)];
  const width = 2 * radius * k0;
  return {
    forward(lon, lat, out) {
      const sin = Math.abs(lat) >= halfPi - pointReach ? Math.sign(lat) : Math.tanh(n * isometric(lat, e) + shift);
      const cos = Math.sqrt(1 - sin * sin);
      const b = 1 + sin * sin0 + cos * cos0 * Math.cos(n * lon);
      if (b < stereographicRim || Math.abs(n * lon) > Math.PI + looseSlack) return false;
      out[0] = (width * cos * Math.sin(n * lon)) / b;
      out[1] = (width * (sin * cos0 - cos * sin0 * Math.cos(n * lon))) / b;
      return true;
    },
    inverse(x, y, out) {
      const [turn, sin] = toSphere(x, y, width, [sin0, cos0]);
      if (Math.abs(turn / n) > Math.PI + looseSlack) return false;
      out[0] = turn / n;
      out[1] = Math.abs(sin) >= 1 ? Math.sign(sin) * halfPi : fromIsometric((Math.atanh(sin) - shift) / n, e);
      return true;
    },
  };
};

/**
 * Stereographic on the ellipsoid about any place (Snyder, USGS PP 1395, equations 21-24 to 21-38): what well-known text calls
 * `Stereographic`. All but the surroundings of the point opposite the center are inside.
 */
export const stereographic: Method = ({ a, e, e2 }, { lat0 = 0, k0 = 1 }) => {
  const phi1 = lat0 * radians;
  const conformal = (lat: number) =>
    Math.abs(lat) >= halfPi - pointReach ? Math.sign(lat) * halfPi : Math.atan(conformalTangent(Math.tan(lat), e));
  const chi1 = conformal(phi1);
  const [sin1, cos1] = [Math.sin(chi1), Math.cos(chi1)];
  const isPole = Math.abs(lat0) === 90;
  // Equation 21-33 about a pole, where that of other places has a nought below and above.
  const width = isPole
    ? (2 * a * k0) / Math.sqrt((1 + e) ** (1 + e) * (1 - e) ** (1 - e))
    : (2 * a * k0 * parallelRadius(phi1, e2)) / cos1;
  return {
    forward(lon, lat, out) {
      const chi = conformal(lat);
      const [sin, cos] = [Math.sin(chi), Math.cos(chi)];
      const b = 1 + sin1 * sin + cos1 * cos * Math.cos(lon);
      if (b < stereographicRim) return false;
      out[0] = (width * cos * Math.sin(lon)) / b;
      out[1] = (width * (cos1 * sin - sin1 * cos * Math.cos(lon))) / b;
      return true;
    },
    inverse(x, y, out) {
      const [turn, sin] = toSphere(x, y, width, [sin1, cos1]);
      const chi = asin(sin);
      out[0] = turn;
      out[1] = Math.abs(chi) >= halfPi - newtonEnd ? chi : Math.atan(geodeticTangent(Math.tan(chi), e));
      return true;
    },
  };
};
