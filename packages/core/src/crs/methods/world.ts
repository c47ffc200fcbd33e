import { edgeSlack, leastSlope, looseSlack, newtonEnd, pointReach } from '../guards.js';
import { authalicQ, fromAuthalicQ, meridian, parallelRadius } from '../latitudes.js';
import { asin, halfPi, radians, solve, type Method, type Pair, type Projection } from '../projection.js';

/** Solves f(t) = 0 by Newton's method, from a first guess. */
function root(guess: number, step: (t: number) => number): number {
  let t = guess;
  for (let i = 0; i < 60; i++) {
    const d = step(t);
    t -= d;
    if (Math.abs(d) < newtonEnd) break;
  }
  return t;
}

/** A projection whose parallels are straight and evenly divided: x = width(φ)·λ, y = height(φ). */
function evenParallels(
  width: (lat: number) => number,
  height: (lat: number) => number,
  latitude: (y: number) => number | undefined,
): Projection {
  return {
    forward(lon, lat, out) {
      out[0] = width(lat) * lon;
      out[1] = height(lat);
      return true;
    },
    inverse(x, y, out) {
      const lat = latitude(y);
      if (lat === undefined || Number.isNaN(lat)) return false;
      const w = width(lat);
      // At a pole that is a point every longitude is the same place.
      const lon = w < 1e-7 && Math.abs(x) < 1e-3 ? 0 : x / w;
      if (Math.abs(lon) > Math.PI * (1 + looseSlack)) return false;
      out[0] = Math.max(-Math.PI, Math.min(Math.PI, lon));
      out[1] = lat;
      return true;
    },
  };
}

/** Sinusoidal, on the ellipsoid (Snyder, equations 30-8 to 30-11). */
export const sinusoidal: Method = (ellipsoid) => {
  const along = meridian(ellipsoid);
  const quarter = along.length(halfPi);
  return evenParallels(
    (lat) => ellipsoid.a * parallelRadius(lat, ellipsoid.e2),
    (lat) => along.length(lat),
    (y) => (Math.abs(y) > quarter * (1 + edgeSlack) ? undefined : along.latitude(y)),
  );
};

/** Mollweide, on the sphere of the semi-major axis (Snyder, equations 31-1 to 31-6). */
export const mollweide: Method = ({ a }) => {
  const theta = (lat: number) => {
    const wanted = Math.PI * Math.sin(lat);
    if (Math.abs(Math.abs(lat) - halfPi) < pointReach) return Math.sign(lat) * halfPi;
    // Close to the poles 2θ + sin 2θ is nearly flat: there the cube root of the rest is where to begin.
    const rest = Math.PI - Math.abs(wanted);
    const guess = rest < 0.3 ? Math.sign(lat) * (halfPi - Math.cbrt(0.75 * rest)) : lat / 1.3;
    return root(guess, (t) => (2 * t + Math.sin(2 * t) - wanted) / Math.max(leastSlope, 2 + 2 * Math.cos(2 * t)));
  };
  return evenParallels(
    (lat) => ((2 * Math.SQRT2 * a) / Math.PI) * Math.cos(theta(lat)),
    (lat) => Math.SQRT2 * a * Math.sin(theta(lat)),
    (y) => {
      const s = y / (Math.SQRT2 * a);
      if (Math.abs(s) > 1 + edgeSlack) return undefined;
      const t = asin(s);
      return asin((2 * t + Math.sin(2 * t)) / Math.PI);
    },
  );
};

/** Eckert IV, on the sphere of the semi-major axis (Snyder, equations 32-1 to 32-8). */
export const eckert4: Method = ({ a }) => {
  const top = 2 + halfPi;
  const theta = (lat: number) => {
    const wanted = top * Math.sin(lat);
    if (Math.abs(Math.abs(lat) - halfPi) < pointReach) return Math.sign(lat) * halfPi;
    const rest = top - Math.abs(wanted);
    // Close to the poles the sum falls off as twice the square of what is left to the pole, half of it as the fourth power.
    const guess = rest < 0.05 ? Math.sign(lat) * (halfPi - Math.sqrt(rest)) : lat / 2;
    return root(guess, (t) => {
      const [s, c] = [Math.sin(t), Math.cos(t)];
      return (t + s * c + 2 * s - wanted) / Math.max(leastSlope, 2 * c * (1 + c));
    });
  };
  return evenParallels(
    (lat) => (2 * a * (1 + Math.cos(theta(lat)))) / Math.sqrt(Math.PI * (4 + Math.PI)),
    (lat) => 2 * a * Math.sqrt(Math.PI / (4 + Math.PI)) * Math.sin(theta(lat)),
    (y) => {
      const s = y / (2 * a) / Math.sqrt(Math.PI / (4 + Math.PI));
      if (Math.abs(s) > 1 + edgeSlack) return undefined;
      const t = asin(s);
      return asin((t + Math.sin(t) * Math.cos(t) + 2 * Math.sin(t)) / top);
    },
  );
};

/** Equal Earth, on the ellipsoid by way of the authalic latitude (Šavrič, Patterson and Jenny 2018; EPSG 1078). */
export const equalEarth: Method = (ellipsoid) => {
  const [a1, a2, a3, a4] = [1.340264, -0.081106, 0.000893, 0.003796];
  const qp = authalicQ(halfPi, ellipsoid);
  const radius = ellipsoid.a * Math.sqrt(qp / 2);
  const root3 = Math.sqrt(3);
  const theta = (lat: number) => asin(((root3 / 2) * authalicQ(lat, ellipsoid)) / qp);
  const rise = (t: number) => t * (a1 + a2 * t * t + t ** 6 * (a3 + a4 * t * t));
  const slope = (t: number) => a1 + 3 * a2 * t * t + t ** 6 * (7 * a3 + 9 * a4 * t * t);
  const highest = rise(Math.PI / 3);
  return evenParallels(
    (lat) => (2 * root3 * radius * Math.cos(theta(lat))) / (3 * slope(theta(lat))),
    (lat) => radius * rise(theta(lat)),
    (y) => {
      const v = y / radius;
      if (Math.abs(v) > highest * (1 + edgeSlack)) return undefined;
      const t = root(v / a1, (at) => (rise(at) - v) / slope(at));
      return fromAuthalicQ(((2 * Math.sin(t)) / root3) * qp, ellipsoid);
    },
  );
};

/** Natural Earth, on the sphere of the semi-major axis (Šavrič, Jenny, Patterson, Petrovič and Hurni 2011, "A polynomial equation for the Natural Earth projection"). */
export const naturalEarth: Method = ({ a }) => {
  const width = (p: number) => {
    const p2 = p * p;
    return 0.8707 - 0.131979 * p2 - 0.013791 * p2 ** 2 + 0.003971 * p2 ** 5 - 0.001529 * p2 ** 6;
  };
  const rise = (p: number) => {
    const p2 = p * p;
    return p * (1.007226 + 0.015085 * p2 - 0.044475 * p2 ** 3 + 0.028874 * p2 ** 4 - 0.005916 * p2 ** 5);
  };
  const slope = (p: number) => {
    const p2 = p * p;
    return 1.007226 + 3 * 0.015085 * p2 - 7 * 0.044475 * p2 ** 3 + 9 * 0.028874 * p2 ** 4 - 11 * 0.005916 * p2 ** 5;
  };
  const highest = rise(halfPi);
  return evenParallels(
    (lat) => a * width(lat),
    (lat) => a * rise(lat),
    (y) => {
      const v = y / a;
      if (Math.abs(v) > highest * (1 + edgeSlack)) return undefined;
      return Math.max(
        -halfPi,
        Math.min(
          halfPi,
          root(v, (p) => (rise(p) - v) / slope(p)),
        ),
      );
    },
  );
};

// Robinson 1974: lengths of the parallels and their distances from the equator, every five degrees.
const robinsonWidths = [
  1, 0.9986, 0.9954, 0.99, 0.9822, 0.973, 0.96, 0.9427, 0.9216, 0.8962, 0.8679, 0.835, 0.7986, 0.7597, 0.7186, 0.6732,
  0.6213, 0.5722, 0.5322,
];
const robinsonHeights = [
  0, 0.062, 0.124, 0.186, 0.248, 0.31, 0.372, 0.434, 0.4958, 0.5571, 0.6176, 0.6769, 0.7346, 0.7903, 0.8435, 0.8936,
  0.9394, 0.9761, 1,
];

/** Second derivatives of the natural cubic spline through values one step apart, mirrored at the first. */
function spline(values: readonly number[], odd: boolean): number[] {
  const n = values.length;
  // The row before the first is the mirror image of the second: even or odd about the equator.
  const seconds = new Array<number>(n).fill(0);
  const upper = new Array<number>(n).fill(0);
  const right = new Array<number>(n).fill(0);
  [upper[0], right[0]] = odd ? [0, 0] : [0.5, 3 * (values[1] - values[0])];
  for (let i = 1; i < n - 1; i++) {
    const divisor = 4 - upper[i - 1];
    upper[i] = 1 / divisor;
    right[i] = (6 * (values[i + 1] - 2 * values[i] + values[i - 1]) - right[i - 1]) / divisor;
  }
  for (let i = n - 2; i >= 0; i--) seconds[i] = right[i] - upper[i] * seconds[i + 1];
  return seconds;
}

/**
 * Robinson, on the sphere of the semi-major axis. Defined by a table every five degrees (Robinson 1974), between which a cubic spline
 * runs; other ways to fill the gaps differ by up to a few kilometers.
 */
export const robinson: Method = ({ a }) => {
  const tables = [robinsonWidths, robinsonHeights].map((values, k) => ({ values, seconds: spline(values, k === 1) }));
  const read = (table: number, lat: number): [number, number] => {
    const { values, seconds } = tables[table];
    const step = Math.abs(lat) / (5 * radians);
    const i = Math.min(17, Math.floor(step));
    const t = step - i;
    const u = 1 - t;
    const value = u * values[i] + t * values[i + 1] + ((u ** 3 - u) * seconds[i] + (t ** 3 - t) * seconds[i + 1]) / 6;
    const slope = values[i + 1] - values[i] + ((1 - 3 * u * u) * seconds[i] + (3 * t * t - 1) * seconds[i + 1]) / 6;
    return [value, slope / (5 * radians)];
  };
  return evenParallels(
    (lat) => 0.8487 * a * read(0, lat)[0],
    (lat) => 1.3523 * a * Math.sign(lat) * read(1, lat)[0],
    (y) => {
      const v = Math.abs(y) / (1.3523 * a);
      if (v > 1 + edgeSlack) return undefined;
      const lat = root(v * halfPi, (at) => {
        const [value, slope] = read(1, Math.max(0, Math.min(halfPi, at)));
        return (value - v) / slope;
      });
      return Math.sign(y) * Math.max(0, Math.min(halfPi, lat));
    },
  );
};

/** Winkel Tripel with the standard parallel `lat1` (default arccos 2/π), on the sphere of the semi-major axis (Snyder and Voxland, USGS PP 1453, page 164). */
export const winkelTripel: Method = ({ a }, { lat1 }) => {
  const cos1 = lat1 === undefined ? 2 / Math.PI : Math.cos(lat1 * radians);
  const forward = (lon: number, lat: number, out: Pair) => {
    const alpha = Math.acos(Math.cos(lat) * Math.cos(lon / 2));
    const sinc = alpha < looseSlack ? 1 : Math.sin(alpha) / alpha;
    out[0] = (a / 2) * (lon * cos1 + (2 * Math.cos(lat) * Math.sin(lon / 2)) / sinc);
    out[1] = (a / 2) * (lat + Math.sin(lat) / sinc);
    return true;
  };
  return {
    forward,
    inverse(x, y, out) {
      const lat = y / a;
      if (Math.abs(lat) > halfPi + pointReach) return false;
      const guess: Pair = [(x / a / (cos1 + Math.cos(lat))) * 2, Math.max(-1.5, Math.min(1.5, lat))];
      guess[0] = Math.max(-3.1, Math.min(3.1, guess[0]));
      return solve(forward, x, y, guess, a, out);
    },
  };
};
