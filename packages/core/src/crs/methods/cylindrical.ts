import { edgeSlack, looseSlack } from '../guards.js';
import { authalicQ, fromAuthalicQ, meridian, parallelRadius } from '../latitudes.js';
import { asin, halfPi, radians, solve, type Method, type Pair, type Projection } from '../projection.js';

/**
 * Equidistant cylindrical with the standard parallel `lat1` (Guidance Note 7-2, section 3.2.5; EPSG 1028). The northings count from `lat0`
 * where well-known text gives one.
 */
export const equirectangular: Method = (ellipsoid, { lat1 = 0, lat0 = 0 }) => {
  const width = ellipsoid.a * parallelRadius(lat1 * radians, ellipsoid.e2);
  const along = meridian(ellipsoid);
  const zero = along.length(lat0 * radians);
  return {
    forward(lon, lat, out) {
      out[0] = width * lon;
      out[1] = along.length(lat) - zero;
      return true;
    },
    inverse(x, y, out) {
      const north = y + zero;
      const [lon, lat] = [x / width, along.latitude(north)];
      if (Math.abs(lon) > Math.PI * (1 + edgeSlack) || Math.abs(north) > along.length(halfPi) * (1 + edgeSlack))
        return false;
      out[0] = lon;
      out[1] = lat;
      return true;
    },
  };
};

/** Lambert cylindrical equal-area with the standard parallel `lat1` (Guidance Note 7-2, section 3.2.4; EPSG 9835; Snyder, equations 10-13 to 10-21). */
export const cylindricalEqualArea: Method = (ellipsoid, { lat1 = 0 }) => {
  const { a } = ellipsoid;
  const k = parallelRadius(lat1 * radians, ellipsoid.e2);
  return {
    forward(lon, lat, out) {
      out[0] = a * k * lon;
      out[1] = (a * authalicQ(lat, ellipsoid)) / (2 * k);
      return true;
    },
    inverse(x, y, out) {
      const lat = fromAuthalicQ((2 * k * y) / a, ellipsoid);
      const lon = x / (a * k);
      if (lat === undefined || Math.abs(lon) > Math.PI * (1 + edgeSlack)) return false;
      out[0] = lon;
      out[1] = lat;
      return true;
    },
  };
};

/** Cassini on the sphere, whole (Snyder, USGS PP 1395, equations 13-1 to 13-5). */
const sphericalCassini = (radius: number, zero: number): Projection => ({
  forward(lon, lat, out) {
    out[0] = radius * asin(Math.cos(lat) * Math.sin(lon));
    out[1] = radius * (Math.atan2(Math.sin(lat), Math.cos(lat) * Math.cos(lon)) - zero);
    return true;
  },
  inverse(x, y, out) {
    const [across, along] = [x / radius, y / radius + zero];
    if (Math.abs(across) > halfPi || Math.abs(along) > Math.PI) return false;
    out[0] = Math.atan2(Math.sin(across), Math.cos(across) * Math.cos(along));
    out[1] = asin(Math.sin(along) * Math.cos(across));
    return true;
  },
});

/** Cassini-Soldner (Guidance Note 7-2, section 3.2.2; EPSG 9806). A series in the distance from the central meridian; on an ellipsoid the domain ends 10° from it. */
export const cassini: Method = (ellipsoid, { lat0 = 0 }) => {
  const { a, e2 } = ellipsoid;
  if (e2 === 0) return sphericalCassini(a, lat0 * radians);
  const along = meridian(ellipsoid);
  const zero = along.length(lat0 * radians);
  const forward = (lon: number, lat: number, out: Pair) => {
    if (Math.abs(lon) > 10 * radians) return false;
    const [sin, cos] = [Math.sin(lat), Math.cos(lat)];
    const nu = a / Math.sqrt(1 - e2 * sin * sin);
    const A = lon * cos;
    // ν·tan φ·A² and its kind stay finite at the poles, where A has the cosine in it.
    const T = cos < looseSlack ? 0 : (sin / cos) ** 2;
    const C = (e2 * cos * cos) / (1 - e2);
    out[0] = nu * (A - (T * A ** 3) / 6 - ((8 - T + 8 * C) * T * A ** 5) / 120);
    out[1] =
      along.length(lat) -
      zero +
      (cos < looseSlack ? 0 : ((nu * sin) / cos) * ((A * A) / 2 + ((5 - T + 6 * C) * A ** 4) / 24));
    return true;
  };
  return {
    forward,
    inverse(x, y, out) {
      const lat = along.latitude(y + zero);
      if (Math.abs(lat) > halfPi) return false;
      const lon = x / (a * Math.max(0.01, Math.cos(lat)));
      return solve(forward, x, y, [Math.max(-0.15, Math.min(0.15, lon)), lat], a, out);
    },
  };
};
