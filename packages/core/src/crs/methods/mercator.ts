import { edgeSlack, pointReach } from '../guards.js';
import { fromIsometric, isometric, parallelRadius } from '../latitudes.js';
import { halfPi, radians, type Method } from '../projection.js';

/**
 * Mercator: variants A (scale at the equator) and B (standard parallel `lat1`) (IOGP Guidance Note 7-2, section 3.2.1; EPSG 9804, 9805).
 * The poles lie at infinity and are outside.
 */
export const mercator: Method = ({ a, e, e2 }, { k0 = 1, lat1 }) => {
  const radius = a * k0 * (lat1 === undefined ? 1 : parallelRadius(lat1 * radians, e2));
  return {
    forward(lon, lat, out) {
      if (Math.abs(lat) >= halfPi - pointReach) return false;
      out[0] = radius * lon;
      out[1] = radius * isometric(lat, e);
      return true;
    },
    inverse(x, y, out) {
      if (Math.abs(x) > radius * Math.PI * (1 + edgeSlack)) return false;
      out[0] = x / radius;
      out[1] = fromIsometric(y / radius, e);
      return true;
    },
  };
};

/** Popular visualisation pseudo-Mercator (Guidance Note 7-2, section 3.2.1.2; EPSG 1024): the formulas of the sphere for ellipsoidal latitudes. */
export const pseudoMercator: Method = ({ a }) => mercator({ a, f: 0, b: a, e: 0, e2: 0, n: 0 }, {});
