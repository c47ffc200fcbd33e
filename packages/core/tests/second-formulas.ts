// Projections by their definitions: quadrature, integration of an equation, or vectors. Nothing of a method's own series and closed forms is used
// here. Longitudes are counted from the central meridian; angles are radians, lengths meters on WGS 84.
import { ellipsoids } from '@flintwright/core';

export const { a, e2 } = ellipsoids.wgs84;
export const radians = Math.PI / 180;
export type Vector = [number, number, number];
export type Formula = (lon: number, lat: number) => [number, number];

/** Radii of curvature of the ellipsoid, along the meridian and across it. */
export const M = (lat: number) => (a * (1 - e2)) / (1 - e2 * Math.sin(lat) ** 2) ** 1.5;
export const N = (lat: number) => a / Math.sqrt(1 - e2 * Math.sin(lat) ** 2);
export const parallel = (lat: number) => N(lat) * Math.cos(lat);

/** Gauss and Legendre's quadrature with five points, in many pieces. */
export function integral(f: (t: number) => number, from: number, to: number, pieces = 60): number {
  const nodes = [
    [0, 128 / 225],
    [0.5384693101056831, 0.47862867049936647],
    [-0.5384693101056831, 0.47862867049936647],
    [0.906179845938664, 0.23692688505618908],
    [-0.906179845938664, 0.23692688505618908],
  ];
  const h = (to - from) / pieces;
  let sum = 0;
  for (let i = 0; i < pieces; i++) for (const [t, w] of nodes) sum += w * f(from + h * (i + (1 + t) / 2));
  return (sum * h) / 2;
}
/** Length of the meridian, isometric latitude, and area of a zone one radian wide. */
export const arc = (from: number, to: number) => integral(M, from, to);
export const psi = (lat: number) => integral((t) => M(t) / parallel(t), 0, lat);
export const zone = (from: number, to: number) => integral((t) => M(t) * parallel(t), from, to);

/** Runge and Kutta's fourth order. */
export function solve(f: (y: readonly number[]) => number[], start: readonly number[], length: number, steps: number) {
  const h = length / steps;
  let y = [...start];
  const moved = (k: readonly number[], by: number) => y.map((v, i) => v + by * k[i]);
  for (let s = 0; s < steps; s++) {
    const k1 = f(y);
    const k2 = f(moved(k1, h / 2));
    const k3 = f(moved(k2, h / 2));
    const k4 = f(moved(k3, h));
    y = y.map((v, i) => v + (h / 6) * (k1[i] + 2 * k2[i] + 2 * k3[i] + k4[i]));
  }
  return y;
}
/** Where a geodesic leads: latitude, longitude and azimuth, from the equations of geodesics. */
export const geodesic = (lat: number, azimuth: number, length: number, steps = 2000) =>
  solve(
    ([phi, , alpha]) => [
      Math.cos(alpha) / M(phi),
      Math.sin(alpha) / parallel(phi),
      (Math.sin(alpha) * Math.tan(phi)) / N(phi),
    ],
    [lat, 0, azimuth],
    length,
    steps,
  );

export const onSphere = (lon: number, lat: number): Vector => [
  Math.cos(lat) * Math.cos(lon),
  Math.cos(lat) * Math.sin(lon),
  Math.sin(lat),
];
export const dot = (u: Vector, v: Vector) => u[0] * v[0] + u[1] * v[1] + u[2] * v[2];
export const cross = (u: Vector, v: Vector): Vector => [
  u[1] * v[2] - u[2] * v[1],
  u[2] * v[0] - u[0] * v[2],
  u[0] * v[1] - u[1] * v[0],
];
/** A place as seen from another: its parts east, north and upwards there. */
export const seen = (place: Vector, lat0: number): Vector => [
  dot(place, [0, 1, 0]),
  dot(place, [-Math.sin(lat0), 0, Math.cos(lat0)]),
  dot(place, [Math.cos(lat0), 0, Math.sin(lat0)]),
];

/** Gauss's conformal sphere that fits best about a latitude: its radius, latitudes and stretched longitudes. */
export function gauss(lat0: number) {
  const n = Math.sqrt(1 + (e2 / (1 - e2)) * Math.cos(lat0) ** 4);
  const chi0 = Math.asin(Math.sin(lat0) / n);
  const shift = Math.asinh(Math.tan(chi0)) - n * psi(lat0);
  return {
    n,
    chi0,
    radius: Math.sqrt(M(lat0) * N(lat0)),
    chi: (lat: number) => Math.atan(Math.sinh(n * psi(lat) + shift)),
  };
}
export const stereo = ([east, north, up]: Vector, width: number): [number, number] => [
  (width * east) / (1 + up),
  (width * north) / (1 + up),
];
/** Height in a strip of the plane at which the area from the equator is that of the zone of a unit sphere. */
export function heightOf(area: number, width: (y: number) => number, top: number): number {
  let [low, high] = [0, top];
  for (let k = 0; k < 60; k++) {
    const y = (low + high) / 2;
    // The edge is upright where the width is nought; a turned variable keeps the quadrature good.
    const covered = integral((t) => width(top * Math.sin(t)) * top * Math.cos(t), 0, Math.asin(y / top), 20);
    if (covered < area) low = y;
    else high = y;
  }
  return (low + high) / 2;
}
export const cone = (rho: number, rho0: number, angle: number): [number, number] => [
  rho * Math.sin(angle),
  rho0 - rho * Math.cos(angle),
];
export const at = (degrees: number) => degrees * radians;

/** Transverse Mercator as the analytic continuation of the meridian's length (C. F. Gauss): integrated over the complex isometric latitude. */
export const transverse =
  (lat0: number, k0: number, steps = 3000): Formula =>
  (lon, lat) => {
    type Complex = [number, number];
    const times = ([p, q]: Complex, [r, s]: Complex): Complex => [p * r - q * s, p * s + q * r];
    const root = ([p, q]: Complex): Complex => {
      const size = Math.sqrt(Math.hypot(p, q));
      const angle = Math.atan2(q, p) / 2;
      return [size * Math.cos(angle), size * Math.sin(angle)];
    };
    const over = (u: Complex, [r, s]: Complex): Complex => times(u, [r / (r * r + s * s), -s / (r * r + s * s)]);
    const [phi, length] = [lat, arc(lat0, lat)];
    const [, , re, im] = solve(
      ([p, q]) => {
        const sin: Complex = [Math.sin(p) * Math.cosh(q), Math.cos(p) * Math.sinh(q)];
        const cos: Complex = [Math.cos(p) * Math.cosh(q), -Math.sin(p) * Math.sinh(q)];
        const sin2 = times(sin, sin);
        const w: Complex = [1 - e2 * sin2[0], -e2 * sin2[1]];
        const dPhi = times(cos, w).map((v) => v / (1 - e2)) as Complex;
        const dLength = over([a * cos[0], a * cos[1]], root(w));
        // Along the imaginary direction.
        return [-dPhi[1], dPhi[0], -dLength[1], dLength[0]];
      },
      [phi, 0, length, 0],
      lon,
      steps,
    );
    return [k0 * im, k0 * re];
  };

export const oblique =
  (lat0: number, azimuth: number, k0: number, centred: boolean): Formula =>
  (lon, lat) => {
    const { n, chi0, radius, chi } = gauss(lat0);
    const centre = onSphere(0, chi0);
    const [east, north]: Vector[] = [
      [0, 1, 0],
      [-Math.sin(chi0), 0, Math.cos(chi0)],
    ];
    const ahead = [0, 1, 2].map((k) => Math.sin(azimuth) * east[k] + Math.cos(azimuth) * north[k]) as Vector;
    const pole = cross(centre, ahead);
    const place = onSphere(n * lon, chi(lat));
    // Where the initial line crosses the equator of the sphere, from which variant A counts.
    const node = Math.atan2(-centre[2], ahead[2]);
    const start = centred ? 0 : node;
    const u = radius * k0 * (Math.atan2(dot(place, ahead), dot(place, centre)) - start);
    const v = -radius * k0 * Math.atanh(dot(place, pole));
    return [v * Math.cos(azimuth) + u * Math.sin(azimuth), u * Math.cos(azimuth) - v * Math.sin(azimuth)];
  };

export const conformalCone = (lat0: number, lat1: number, lat2: number): Formula => {
  const n = Math.log(parallel(lat1) / parallel(lat2)) / (psi(lat2) - psi(lat1));
  const rho = (lat: number) => (parallel(lat1) / n) * Math.exp(-n * (psi(lat) - psi(lat1)));
  return (lon, lat) => cone(rho(lat), rho(lat0), n * lon);
};
export const equalAreaCone = (lat0: number, lat1: number, lat2: number): Formula => {
  const n = (parallel(lat1) ** 2 - parallel(lat2) ** 2) / (2 * zone(lat1, lat2));
  const rho = (lat: number) => Math.sqrt((parallel(lat1) / n) ** 2 - (2 / n) * zone(lat1, lat));
  return (lon, lat) => cone(rho(lat), rho(lat0), n * lon);
};
export const krovak: Formula = (lon, lat) => {
  const { n: stretch, radius, chi } = gauss(at(49.5));
  const [tilt, pseudo, k0] = [at(30.2881397527778), at(78.5), 0.9999];
  // Longitudes of the sphere run west; its pole is tilted towards the central meridian.
  const [west, north, up] = ((v: Vector): Vector => [-v[1], v[2], v[0]])(onSphere(stretch * lon, chi(lat)));
  const height = north * Math.cos(tilt) + up * Math.sin(tilt);
  const turn = Math.atan2(west, up * Math.cos(tilt) - north * Math.sin(tilt));
  const n = Math.sin(pseudo);
  const rho = ((k0 * radius) / Math.tan(pseudo)) * Math.exp(n * (Math.atanh(n) - Math.atanh(height)));
  return [-rho * Math.sin(n * turn), -rho * Math.cos(n * turn)];
};

/** Lambert's azimuthal equal-area projection: the authalic sphere, stretched at its center. */
export const equalAreaDisc = (lat0: number): Formula => {
  const whole = zone(0, Math.PI / 2);
  const beta = (phi: number) => Math.asin(Math.max(-1, Math.min(1, zone(0, phi) / whole)));
  const radius = Math.sqrt(whole);
  const polar = Math.abs(lat0) > Math.PI / 2 - 1e-9;
  const d = polar ? 1 : parallel(lat0) / (radius * Math.cos(beta(lat0)));
  return (lon, lat) => {
    const [east, north, up] = seen(onSphere(lon, beta(lat)), polar ? lat0 : beta(lat0));
    const stretch = radius * Math.sqrt(2 / (1 + up));
    return [stretch * d * east, (stretch / d) * north];
  };
};

/** Inverts a formula by Newton's method with numeric derivatives; the guess is in radians. */
export function invert(
  formula: Formula,
  x: number,
  y: number,
  [lon, lat]: readonly [number, number],
): [number, number] {
  const h = 1e-5;
  let at: [number, number] = [lon, lat];
  for (let k = 0; k < 30; k++) {
    const [fx, fy] = formula(...at);
    if (Math.hypot(fx - x, fy - y) < 1e-4) return at;
    const [ex, ey] = formula(at[0] + h, at[1]);
    const [nx, ny] = formula(at[0], at[1] + h);
    const [a11, a12, a21, a22] = [ex - fx, nx - fx, ey - fy, ny - fy].map((v) => v / h);
    const det = a11 * a22 - a12 * a21;
    at = [at[0] + (a22 * (x - fx) - a12 * (y - fy)) / det, at[1] + (a11 * (y - fy) - a21 * (x - fx)) / det];
  }
  throw new Error(`no place at ${x}, ${y}`);
}
