// A place on a surface of each projection family of the register, with the way from meters of the surface to longitude and latitude by the
// formulas of the definitions, not the library's.
import type { SurfaceSpec } from 'flintwright';
import {
  a,
  arc,
  at,
  conformalCone,
  e2,
  equalAreaCone,
  equalAreaDisc,
  gauss,
  geodesic,
  heightOf,
  invert,
  krovak,
  N,
  oblique,
  onSphere,
  parallel,
  psi,
  radians,
  seen,
  stereo,
  transverse,
  cone,
  zone,
  type Formula,
} from '../../core/tests/second-formulas.ts';

export interface Family {
  readonly name: string;
  readonly surface: SurfaceSpec;
  readonly center: readonly [number, number];
  /** Whether a pole is in the middle, where tiles of WebMercatorQuad do not reach. */
  readonly pole?: boolean;
  /** Longitude and latitude of a point, in meters of the surface to the right of and above the center of the view. */
  place(x: number, y: number, metersPerPixel: number): [number, number];
}

/** A family by its forward formula, in radians from the central meridian. */
function by(name: string, surface: SurfaceSpec, center: [number, number], lon0: number, formula: Formula): Family {
  const middle = [at(center[0] - lon0), at(center[1])] as const;
  let from: [number, number] | undefined;
  return {
    name,
    surface,
    center,
    place(x, y) {
      from ??= formula(...middle);
      const [lon, lat] = invert(formula, from[0] + x, from[1] + y, middle);
      return [lon / radians + lon0, lat / radians];
    },
  };
}

/** A family by its inverse in closed form: meters from its origin to radians. */
function from(
  name: string,
  surface: SurfaceSpec,
  center: [number, number],
  lon0: number,
  origin: [number, number],
  inverse: (x: number, y: number) => [number, number],
): Family {
  return {
    name,
    surface,
    center,
    place(x, y) {
      const [lon, lat] = inverse(origin[0] + x, origin[1] + y);
      return [lon / radians + lon0, lat / radians];
    },
  };
}

const transverseAt = (name: string, surface: string, center: [number, number], lon0: number, k0 = 0.9996) =>
  by(name, surface, center, lon0, transverse(0, k0, 40));

/** Isometric latitude in closed form (Snyder, USGS PP 1395, equation 3-7, rewritten): quadrature fails where it goes to infinity. */
const isometric = (lat: number) =>
  Math.asinh(Math.tan(lat)) - Math.sqrt(e2) * Math.atanh(Math.sqrt(e2) * Math.sin(lat));
const stereographicPole = (lat1: number) => (lat: number) =>
  parallel(at(lat1)) * Math.exp(isometric(at(lat1)) - isometric(lat));
const equalAreaPole = (lat: number) => Math.sqrt(2 * zone(lat, Math.PI / 2));

/** A polar aspect: the distance from the pole in meters by latitude, inverted by bisection along the radius. */
function polar(
  name: string,
  surface: string,
  center: [number, number],
  { lon0 = 0, south = false, rho }: { lon0?: number; south?: boolean; rho: (lat: number) => number },
): Family {
  const sign = south ? 1 : -1;
  const inverse = (x: number, y: number): [number, number] => {
    const r = Math.hypot(x, y);
    let [low, high] = [0, Math.PI / 2 - 1e-13];
    for (let k = 0; k < 60; k++) {
      const lat = (low + high) / 2;
      if (rho(lat) > r) low = lat;
      else high = lat;
    }
    return [Math.atan2(x, sign * y), -sign * low];
  };
  const r = Math.abs(center[1]) === 90 ? 0 : rho(at(Math.abs(center[1])));
  const lon = at(center[0] - lon0);
  const origin: [number, number] = [r * Math.sin(lon), sign * r * Math.cos(lon)];
  return { ...from(name, surface, center, lon0, origin, inverse), pole: r === 0 };
}

const authalic = (() => {
  const whole = zone(0, Math.PI / 2);
  return {
    radius: Math.sqrt(whole),
    beta: (lat: number) => Math.asin(Math.max(-1, Math.min(1, zone(0, lat) / whole))),
  };
})();
/** Equal Earth (Šavrič, Patterson and Jenny 2019, equation 2), on the authalic sphere. */
const equalEarth: Formula = (lon, lat) => {
  const [A1, A2, A3, A4] = [1.340264, -0.081106, 0.000893, 0.003796];
  const theta = Math.asin((Math.sqrt(3) / 2) * Math.sin(authalic.beta(lat)));
  const slope = 9 * A4 * theta ** 8 + 7 * A3 * theta ** 6 + 3 * A2 * theta ** 2 + A1;
  return [
    (authalic.radius * 2 * Math.sqrt(3) * lon * Math.cos(theta)) / (3 * slope),
    authalic.radius * (A4 * theta ** 9 + A3 * theta ** 7 + A2 * theta ** 3 + A1 * theta),
  ];
};
const mollweide: Formula = (lon, lat) => {
  const width = (y: number) => 4 * Math.sqrt(Math.max(0, 2 - y * y));
  const y = heightOf(2 * Math.PI * Math.abs(Math.sin(lat)), width, Math.SQRT2);
  return [(a * width(y) * lon) / (2 * Math.PI), a * y * Math.sign(lat)];
};
const bonne =
  (lat1: number): Formula =>
  (lon, lat) => {
    const top = N(lat1) / Math.tan(lat1);
    const rho = top - arc(lat1, lat);
    return cone(rho, top, (parallel(lat) * lon) / rho);
  };
const polyconic: Formula = (lon, lat) => {
  const rho = N(lat) / Math.tan(lat);
  const [x, y] = cone(rho, rho, lon * Math.sin(lat));
  return [x, arc(0, lat) + y];
};

/** Perspective of a sphere from above the center of the view: meters at the center to radians. The eye stands where 620 px fill 0.62 rad. */
const globe = (name: string, center: [number, number]): Family => ({
  name,
  pole: Math.abs(center[1]) === 90,
  surface: 'globe',
  center,
  place(x, y, metersPerPixel) {
    const eye = (310 / Math.tan(0.31)) * metersPerPixel;
    // Along the ray (x, y, −eye)·t from the eye at height R + eye: |ray|² t² − 2 eye (R + eye) t + (R + eye)² − R² = 0.
    const high = a + eye;
    const q = x * x + y * y + eye * eye;
    const t = (eye * high - Math.sqrt(eye * eye * high * high - q * (high * high - a * a))) / q;
    const [east, north, up] = [(x * t) / a, (y * t) / a, (high - eye * t) / a];
    const lat0 = at(center[1]);
    const lat = Math.asin(north * Math.cos(lat0) + up * Math.sin(lat0));
    const lon = Math.atan2(east, up * Math.cos(lat0) - north * Math.sin(lat0));
    return [center[0] + lon / radians, lat / radians];
  },
});

export const families: readonly Family[] = [
  by('web Mercator', 'EPSG:3857', [-31.2, 44.6], 0, (lon, lat) => [a * lon, a * Math.asinh(Math.tan(lat))]),
  by('web Mercator at 180°', 'EPSG:3857', [179.9999, -40], 0, (lon, lat) => [a * lon, a * Math.asinh(Math.tan(lat))]),
  by('Mercator on the ellipsoid', 'EPSG:3395', [-31.2, 44.6], 0, (lon, lat) => [a * lon, a * psi(lat)]),
  transverseAt('UTM 25 north', 'EPSG:32625', [-31.2, 44.6], -33),
  transverseAt('UTM 33 south', 'EPSG:32733', [14.5, -25], 15),
  transverseAt('UTM 1 at 180°', 'EPSG:32601', [-179.9999, 20], -177),
  transverseAt('ETRS89 UTM 32', 'EPSG:25832', [9.5, 50], 9),
  transverseAt('three-degree strip', 'EPSG:31467', [9.5, 50], 9, 1),
  transverseAt('national grid on Airy', 'EPSG:27700', [-2.5, 53], -2, 0.9996012717),
  transverseAt('national grid of the south', 'EPSG:2193', [172, -42], 173),
  transverseAt('national grid of the north', 'EPSG:3006', [16, 62], 15),
  transverseAt('axes to south and west', 'EPSG:2048', [19.5, -30], 19, 1),
  by(
    'oblique Mercator, azimuth 90°',
    'EPSG:2056',
    [8, 47],
    7.43958333333333,
    oblique(at(46.9524055555556), at(90), 1, true),
  ),
  by(
    'oblique Mercator, variant A',
    { method: 'hotine-a', lat0: 36, lon0: -30, azimuth: 40 },
    [-29, 38],
    -30,
    oblique(at(36), at(40), 1, false),
  ),
  // False axes of this system point south and west; the library's x is east and y is north.
  by('Krovak', 'EPSG:5514', [16, 49.5], 24.8333333333333, krovak),
  by('equal-area disc', 'EPSG:3035', [10.5, 51], 10, equalAreaDisc(at(52))),
  polar('equal-area disc round the pole', 'EPSG:3575', [20, 80], { lon0: 10, rho: equalAreaPole }),
  by('conformal cone', 'EPSG:2154', [2.5, 47], 3, conformalCone(at(46.5), at(44), at(49))),
  by(
    'conformal cone in feet',
    'EPSG:2263',
    [-74.2, 40.8],
    -74,
    conformalCone(at(40.166666666666664), at(40.666666666666664), at(41.03333333333333)),
  ),
  by('equal-area cone', 'EPSG:5070', [-97, 40], -96, equalAreaCone(at(23), at(29.5), at(45.5))),
  by('oblique stereographic', 'EPSG:28992', [5.5, 52.2], 5.38763888888889, (lon, lat) => {
    const { n, chi0, radius, chi } = gauss(at(52.1561605555556));
    return stereo(seen(onSphere(n * lon, chi(lat)), chi0), 2 * radius * 0.9999079);
  }),
  by('stereographic', { method: 'stereographic', lon0: -30, lat0: 40 }, [-29, 42], -30, (lon, lat) => {
    const chi = (phi: number) => Math.atan(Math.sinh(psi(phi)));
    return stereo(seen(onSphere(lon, chi(lat)), chi(at(40))), (2 * parallel(at(40))) / Math.cos(chi(at(40))));
  }),
  polar('polar stereographic, north', 'EPSG:3413', [-45, 75], { lon0: -45, rho: stereographicPole(70) }),
  polar('polar stereographic, south', 'EPSG:3031', [70, -75], { south: true, rho: stereographicPole(71) }),
  polar('polar stereographic at the pole', 'EPSG:3413', [-45, 90], { lon0: -45, rho: stereographicPole(70) }),
  polar('the other pole', 'EPSG:3031', [0, -90], { south: true, rho: stereographicPole(71) }),
  from(
    'azimuthal equidistant',
    { method: 'azimuthal-equidistant', lon0: -31, lat0: 40 },
    [-31, 40],
    -31,
    [0, 0],
    (x, y) => {
      const [lat, lon] = geodesic(at(40), Math.atan2(x, y), Math.hypot(x, y), 200);
      return [lon, lat];
    },
  ),
  from('Cassini and Soldner', { method: 'cassini', lon0: -31, lat0: 44 }, [-31, 44], -31, [0, 0], (x, y) => {
    const [foot] = geodesic(at(44), y < 0 ? Math.PI : 0, Math.abs(y), 200);
    const [lat, lon] = geodesic(foot, x < 0 ? -Math.PI / 2 : Math.PI / 2, Math.abs(x), 200);
    return [lon, lat];
  }),
  by('gnomonic', { method: 'gnomonic', lon0: -31, lat0: 40 }, [-30, 42], -31, (lon, lat) => {
    const [east, north, up] = seen(onSphere(lon, lat), at(40));
    return [(a * east) / up, (a * north) / up];
  }),
  by('orthographic', { method: 'orthographic', lon0: -31, lat0: 45 }, [-31, 45], -31, (lon, lat) => {
    const space = (l: number, p: number): [number, number, number] => {
      const [x, y] = onSphere(l, p);
      return [N(p) * x, N(p) * y, N(p) * (1 - 0.0066943799901413165) * Math.sin(p)];
    };
    const [p, q] = [space(0, at(45)), space(lon, lat)];
    const [east, north] = seen([q[0] - p[0], q[1] - p[1], q[2] - p[2]], at(45));
    return [east, north];
  }),
  by('degrees in equal steps', 'EPSG:4326', [-31.2, 44.6], 0, (lon, lat) => [a * lon, arc(0, lat)]),
  by('cylinder of equal area', 'EPSG:6933', [20, 30], 0, (lon, lat) => [
    parallel(at(30)) * lon,
    zone(0, lat) / parallel(at(30)),
  ]),
  by('Bonne', { method: 'bonne', lon0: -31, lat1: 45 }, [-30, 44], -31, bonne(at(45))),
  by('polyconic', 'EPSG:5880', [-53, -20], -54, polyconic),
  by('sinusoidal', { method: 'sinusoidal', lon0: -31 }, [-30, 30], -31, (lon, lat) => [
    parallel(lat) * lon,
    arc(0, lat),
  ]),
  by('Mollweide', { method: 'mollweide', lon0: -31 }, [-30, 30], -31, mollweide),
  by('Equal Earth', 'EPSG:8857', [10, 40], 0, equalEarth),
  by('Equal Earth at 180°', { method: 'equal-earth', lon0: 170 }, [179.9999, -20], 170, equalEarth),
  by('Winkel tripel', { method: 'winkel-tripel', lon0: -31 }, [-30, 30], -31, (lon, lat) => {
    const [up, east, north] = onSphere(lon / 2, lat);
    const c = Math.acos(up) / Math.hypot(east, north);
    return [(a * (lon * (2 / Math.PI) + 2 * c * east)) / 2, (a * (lat + c * north)) / 2];
  }),
  globe('the globe', [-31.2, 44.6]),
  globe('the globe at 180°', [179.9999, 10]),
  globe('the globe at a pole', [0, 90]),
  { name: 'a plan', surface: 'plan', center: [200, 100], place: (x, y) => [200 + x, 100 + y] },
];

/** Surfaces that show less than a far view is wide. */
const narrow: Readonly<Record<string, string>> = {
  'Cassini and Soldner': '9.9° to either side of its meridian',
  'national grid of the north': '45° to either side of its meridian, which meet near the pole',
  Krovak: '25° to either side of its meridian',
};

/** Why a pair of surface and scale makes no sense; undefined where it does. */
export function skipped({ name }: Family, scale: string): string | undefined {
  return scale === 'far' && name in narrow
    ? `the surface shows ${narrow[name]}, less than the page is wide`
    : undefined;
}

/** What takes most of a minute by itself, and is left to `npm run matrix`. */
const isLong = ({ name }: Family, scale: string) => name === 'the globe at a pole' && scale === 'near';

/** A choice that stays the same from run to run until the list changes: each family once, at scales by turns. */
export function chosen<T extends readonly [Family, string]>(cases: readonly T[]): readonly T[] {
  return cases.filter(([family, scale], i) => i % 4 === 1 && !isLong(family, scale));
}
