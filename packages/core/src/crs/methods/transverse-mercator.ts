import { conformalTangent, geodeticTangent, kruger } from '../latitudes.js';
import { halfPi, radians, type Method } from '../projection.js';

/**
 * Transverse Mercator by Krüger's series to the sixth order, good to a few nanometers within 3,900 km of the central meridian (Karney
 * 2011, "Transverse Mercator with an accuracy of a few nanometers", Journal of Geodesy 85; EPSG 9807). The domain ends 80° from the
 * central meridian, where the series no longer serve.
 */
export const transverseMercator: Method = (ellipsoid, { k0 = 1, lat0 = 0 }) => {
  const { e } = ellipsoid;
  const { radius, alpha, beta } = kruger(ellipsoid);
  const scale = radius * k0;
  const origin = alpha.reduce(
    (sum, c, j) => sum + c * Math.sin(2 * (j + 1) * Math.atan(conformalTangent(Math.tan(lat0 * radians), e))),
    Math.atan(conformalTangent(Math.tan(lat0 * radians), e)),
  );
  return {
    forward(lon, lat, out) {
      if (Math.abs(lon) > 80 * radians) return false;
      const tau = conformalTangent(Math.tan(lat), e);
      const cos = Math.cos(lon);
      const xi = Math.atan2(tau, cos);
      const eta = Math.asinh(Math.sin(lon) / Math.hypot(tau, cos));
      let [north, east] = [xi, eta];
      for (let j = 0; j < 6; j++) {
        const k = 2 * (j + 1);
        north += alpha[j] * Math.sin(k * xi) * Math.cosh(k * eta);
        east += alpha[j] * Math.cos(k * xi) * Math.sinh(k * eta);
      }
      out[0] = scale * east;
      out[1] = scale * (north - origin);
      return true;
    },
    inverse(x, y, out) {
      const xi = y / scale + origin;
      const eta = x / scale;
      if (Math.abs(xi) > halfPi + 1 || Math.abs(eta) > 2.5) return false;
      let [north, east] = [xi, eta];
      for (let j = 0; j < 6; j++) {
        const k = 2 * (j + 1);
        north -= beta[j] * Math.sin(k * xi) * Math.cosh(k * eta);
        east -= beta[j] * Math.cos(k * xi) * Math.sinh(k * eta);
      }
      const [sinh, cos] = [Math.sinh(east), Math.cos(north)];
      const lon = Math.atan2(sinh, cos);
      if (Math.abs(lon) > 80.001 * radians) return false;
      out[0] = lon;
      out[1] = Math.atan(geodeticTangent(Math.sin(north) / Math.hypot(sinh, cos), e));
      return true;
    },
  };
};
