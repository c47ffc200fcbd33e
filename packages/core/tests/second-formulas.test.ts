// Every projection method against what it is by definition, worked out by quadrature, by integration of an equation, or by vectors:
// nothing of a method's own series and closed forms is used here.
import { describe, expect, test } from '@jest/globals';
import { ellipsoids, makeCrs, methods, type MethodName, type ProjectionParameters } from '@flintwright/core';

import {
  N,
  a,
  arc,
  at,
  cone,
  conformalCone,
  e2,
  equalAreaCone,
  equalAreaDisc,
  gauss,
  geodesic,
  heightOf,
  integral,
  krovak,
  oblique,
  onSphere,
  parallel,
  psi,
  radians,
  seen,
  stereo,
  transverse,
  zone,
  type Vector,
  type Formula,
} from './second-formulas.ts';

interface Second {
  readonly parameters: ProjectionParameters;
  readonly formula: Formula;
  readonly places: readonly [number, number][];
  /** Meters; default a micrometer. */
  readonly within?: number;
}
const wide: [number, number][] = [
  [20, 48],
  [-100, -35],
  [3, 0.5],
  [150, 70],
];
const near: [number, number][] = [
  [8, 48],
  [-5, 36],
  [1, 55],
];
const [p30, p40, p44, p45, p60] = [30, 40, 44, 45, 60].map(at);

const seconds: Partial<Record<MethodName, Second>> = {
  'pseudo-mercator': {
    parameters: {},
    formula: (lon, lat) => [a * lon, a * Math.log(Math.tan(Math.PI / 4 + lat / 2))],
    places: wide,
  },
  mercator: {
    parameters: { lat1: 40 },
    formula: (lon, lat) => [parallel(p40) * lon, parallel(p40) * psi(lat)],
    places: wide,
  },
  'transverse-mercator': {
    parameters: { lat0: 30, k0: 0.9996 },
    formula: transverse(p30, 0.9996),
    places: [...near, [30, 20], [-40, -60]],
  },
  'transverse-mercator-south': { parameters: { lat0: 30 }, formula: transverse(p30, 1), places: near },
  'lambert-conformal-conic': {
    parameters: { lat0: 40, lat1: 33, lat2: 45 },
    formula: conformalCone(p40, at(33), p45),
    places: wide,
  },
  albers: {
    parameters: { lat0: 23, lat1: 29.5, lat2: 45.5 },
    formula: equalAreaCone(at(23), at(29.5), at(45.5)),
    places: wide,
  },
  'lambert-azimuthal': {
    parameters: { lat0: 30 },
    formula: equalAreaDisc(p30),
    places: wide,
  },
  'polar-stereographic': {
    parameters: { lat0: 90, lat1: 60 },
    formula: (lon, lat) => {
      const rho = parallel(p60) * Math.exp(psi(p60) - psi(lat));
      return [rho * Math.sin(lon), -rho * Math.cos(lon)];
    },
    places: wide,
  },
  'oblique-stereographic': {
    parameters: { lat0: 44 },
    formula: (lon, lat) => {
      const { n, chi0, radius, chi } = gauss(p44);
      return stereo(seen(onSphere(n * lon, chi(lat)), chi0), 2 * radius);
    },
    places: wide,
  },
  stereographic: {
    parameters: { lat0: 40 },
    formula: (lon, lat) => {
      const chi = (phi: number) => Math.atan(Math.sinh(psi(phi)));
      return stereo(seen(onSphere(lon, chi(lat)), chi(p40)), (2 * parallel(p40)) / Math.cos(chi(p40)));
    },
    places: wide,
  },
  gnomonic: {
    parameters: { lat0: 40 },
    formula: (lon, lat) => {
      const [east, north, up] = seen(onSphere(lon, lat), p40);
      return [(a * east) / up, (a * north) / up];
    },
    places: near,
  },
  orthographic: {
    parameters: { lat0: 40 },
    formula: (lon, lat) => {
      // The difference of two places in space, seen from straight above the center.
      const space = (l: number, p: number): Vector => {
        const [x, y] = onSphere(l, p);
        return [N(p) * x, N(p) * y, N(p) * (1 - e2) * Math.sin(p)];
      };
      const [from, to] = [space(0, p40), space(lon, lat)];
      const [east, north] = seen([to[0] - from[0], to[1] - from[1], to[2] - from[2]], p40);
      return [east, north];
    },
    places: near,
  },
  equirectangular: {
    parameters: { lat1: 30, lat0: 10 },
    formula: (lon, lat) => [parallel(p30) * lon, arc(at(10), lat)],
    places: wide,
  },
  'cylindrical-equal-area': {
    parameters: { lat1: 30 },
    formula: (lon, lat) => [parallel(p30) * lon, zone(0, lat) / parallel(p30)],
    places: wide,
  },
  bonne: {
    parameters: { lat1: 45 },
    formula: (lon, lat) => {
      const top = N(p45) / Math.tan(p45);
      const rho = top - arc(p45, lat);
      return cone(rho, top, (parallel(lat) * lon) / rho);
    },
    places: wide,
  },
  polyconic: {
    parameters: { lat0: 30 },
    formula: (lon, lat) => {
      const rho = N(lat) / Math.tan(lat);
      const [x, y] = cone(rho, rho, lon * Math.sin(lat));
      return [x, arc(p30, lat) + y];
    },
    places: near,
  },
  sinusoidal: { parameters: {}, formula: (lon, lat) => [parallel(lat) * lon, arc(0, lat)], places: wide },
  mollweide: {
    parameters: {},
    formula: (lon, lat) => {
      const width = (y: number) => 4 * Math.sqrt(Math.max(0, 2 - y * y));
      const y = heightOf(2 * Math.PI * Math.abs(Math.sin(lat)), width, Math.SQRT2);
      return [(a * width(y) * lon) / (2 * Math.PI), a * y * Math.sign(lat)];
    },
    places: wide,
    within: 1e-5,
  },
  'eckert-4': {
    parameters: {},
    formula: (lon, lat) => {
      // A rectangle twice as wide as high between two half circles, as large as the sphere.
      const r = Math.sqrt((4 * Math.PI) / (4 + Math.PI));
      const width = (y: number) => 2 * r + 2 * Math.sqrt(Math.max(0, r * r - y * y));
      const y = heightOf(2 * Math.PI * Math.abs(Math.sin(lat)), width, r);
      return [(a * width(y) * lon) / (2 * Math.PI), a * y * Math.sign(lat)];
    },
    places: wide,
    within: 1e-5,
  },
  'winkel-tripel': {
    parameters: {},
    formula: (lon, lat) => {
      // The mean of an equidistant cylinder and of Aitoff's: an equidistant disc of half the longitudes, twice as wide.
      const [up, east, north] = onSphere(lon / 2, lat);
      const c = Math.acos(up) / Math.hypot(east, north);
      return [(a * (lon * (2 / Math.PI) + 2 * c * east)) / 2, (a * (lat + c * north)) / 2];
    },
    places: wide,
  },
  'hotine-a': {
    parameters: { lat0: 36, azimuth: 40 },
    formula: oblique(at(36), p40, 1, false),
    places: near,
  },
  'hotine-b': {
    parameters: { lat0: 36, azimuth: 40, k0: 0.9998 },
    formula: oblique(at(36), p40, 0.9998, true),
    places: near,
  },
  krovak: {
    parameters: { lat0: 49.5, axis: 30.2881397527778, pseudo: 78.5, k0: 0.9999 },
    formula: krovak,
    places: [
      [-8, 50],
      [-5, 48.5],
      [2, 51],
    ],
  },
};

const made = (method: MethodName, parameters: ProjectionParameters) => {
  const crs = makeCrs({ id: method, ellipsoid: ellipsoids.wgs84, method, parameters });
  return (lon: number, lat: number): [number, number] => {
    const out: [number, number] = [NaN, NaN];
    expect([lon, lat, crs.forward(lon, lat, out)]).toEqual([lon, lat, true]);
    return out;
  };
};
const apart = ([x, y]: readonly number[], [u, v]: readonly number[]) => Math.hypot(x - u, y - v);

describe('each method is what its definition says', () => {
  test.each(Object.entries(seconds))('%s', (method, { parameters, formula, places, within = 1e-6 }) => {
    const forward = made(method as MethodName, parameters);
    for (const [lon, lat] of places)
      expect([lon, lat, apart(forward(lon, lat), formula(at(lon), at(lat))) < within]).toEqual([lon, lat, true]);
  });

  test('azimuthal equidistant: geodesics from the center, with their lengths and azimuths', () => {
    const forward = made('azimuthal-equidistant', { lat0: 40 });
    for (const [azimuth, length] of [
      [30, 1e6],
      [200, 3e6],
      [290, 7e6],
    ]) {
      const [lat, lon] = geodesic(p40, at(azimuth), length);
      const wanted = [length * Math.sin(at(azimuth)), length * Math.cos(at(azimuth))];
      expect(apart(forward(lon / radians, lat / radians), wanted)).toBeLessThan(1e-4);
    }
  });

  test('Cassini and Soldner: geodesics at right angles to the central meridian; a series, good to a millimeter within two degrees', () => {
    const forward = made('cassini', { lat0: 30 });
    for (const [foot, length] of [
      [45, 1e5],
      [10, -2e5],
      [-33, 5e4],
    ]) {
      const [lat, lon] = geodesic(at(foot), Math.PI / 2, length);
      expect(apart(forward(lon / radians, lat / radians), [length, arc(p30, at(foot))])).toBeLessThan(1e-3);
    }
  });

  test('Equal Earth, a polynomial: every zone has its area on the ellipsoid', () => {
    const forward = made('equal-earth', {});
    for (const lat of [5, 30, 60, 85]) {
      const rise = (t: number) => (forward(0, (t + 1e-5) / radians)[1] - forward(0, (t - 1e-5) / radians)[1]) / 2e-5;
      const drawn = integral((t) => forward(180, t / radians)[0] * rise(t), 0, at(lat), 20);
      expect(Math.abs(drawn / (Math.PI * zone(0, at(lat))) - 1)).toBeLessThan(1e-8);
    }
  });

  test('Natural Earth, a polynomial: near the lengths and heights of parallels from which it was made (Šavrič et al. 2011, table 1)', () => {
    const forward = made('natural-earth', {});
    const lengths = [1, 0.9953, 0.9811, 0.957, 0.9222, 0.8763, 0.8196, 0.7525, 0.6754, 0.563];
    const heights = [0, 0.124, 0.248, 0.372, 0.4968, 0.6176, 0.7346, 0.8435, 0.9394, 1];
    const [equator] = forward(180, 0);
    const [, pole] = forward(0, 90);
    lengths.forEach((length, i) => {
      // The polynomial rounds the corners where the edges meet the lines of the poles.
      expect(Math.abs(forward(180, 10 * i)[0] / equator - length)).toBeLessThan(i < 9 ? 0.006 : 0.013);
      expect(Math.abs(forward(0, 10 * i)[1] / pole - heights[i])).toBeLessThan(0.006);
    });
  });

  test('no method is left out; Robinson is its own table', () => {
    const others = ['azimuthal-equidistant', 'cassini', 'equal-earth', 'natural-earth', 'robinson'];
    expect([...Object.keys(seconds), ...others].toSorted()).toEqual(Object.keys(methods).toSorted());
  });
});
