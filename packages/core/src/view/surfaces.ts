import { assertShallow } from '../base/depth.js';
import { describeValue } from '../base/describe-value.js';
import { Fault } from '../base/fault.js';
import { nearestSpelling } from '../base/spelling.js';
import { makeCrs, type Crs } from '../crs/crs.js';
import { ellipsoid, ellipsoids } from '../crs/ellipsoid.js';
import { methodEntry, methods, type MethodName } from '../crs/methods/index.js';
import { findCrs, getCrs } from '../crs/registry.js';
import { lonLatGrid, northPoleGrid, southPoleGrid, type SquareGrid } from '../grid/square.js';
import {
  findPlainSurface,
  surfaceKey,
  type Surface,
  type SurfaceForm,
  type SurfaceSpec,
  type SurfaceExtent,
} from './surface.js';

const radians = Math.PI / 180;

/** Radius of the globe in meters: that of the sphere of web Mercator, so that zoom levels mean the same. */
export const globeRadius = 6378137;

/** The globe: places on a sphere, latitudes taken as they are. x points to 0°, 0°, y to 90° E, z to the north pole. */
export const globe: Surface = {
  id: 'globe',
  forward(lon, lat, out) {
    const [l, p] = [lon * radians, lat * radians];
    const r = globeRadius * Math.cos(p);
    out[0] = r * Math.cos(l);
    out[1] = r * Math.sin(l);
    out[2] = globeRadius * Math.sin(p);
    return true;
  },
  inverse: (x, y, z) => [Math.atan2(y, x) / radians, Math.atan2(z, Math.hypot(x, y)) / radians],
  wrap: 0,
  bounds: [-globeRadius, -globeRadius, globeRadius, globeRadius],
  stretch: () => 1,
  radius: globeRadius,
  space: 'lonlat',
  grid: lonLatGrid(),
  flat: false,
  home: [0, 0],
};

/** The part of the sphere that a system shows. */
function windowOf({ definition, isGeographic }: Crs): SurfaceExtent {
  const { method, ellipsoid, parameters = {}, primeMeridian = 0 } = definition;
  const { lat0 = 0, lon0 = 0 } = parameters;
  const reach = (!isGeographic && method && methodEntry(method).reach) || {};
  const {
    half = 180,
    south = -90,
    north = 90,
    circle,
    lat = lat0,
  } = typeof reach === 'function' ? reach(parameters, ellipsoid) : reach;
  const center = lon0 + primeMeridian;
  if (circle === undefined) return { lon0: center, half, south, north };
  // A circle, as seen from its center.
  return { lon0: 0, half: 180, south: 90 - circle, north: 90, pole: [center, lat] };
}

function ofCrs(crs: Crs, id: string): Surface {
  const { ellipsoid, method, unit = 1 } = crs.definition;
  const window = windowOf(crs);
  const xy: [number, number] = [0, 0];
  const turn = turner(window.pole);
  // A hair beyond the edge counts as on it, so that what was cut along the edge can be laid.
  const slack = 1e-7;
  const shows = (lon: number, lat: number) => {
    const [l, p] = turn.there(lon, lat);
    if (p < window.south - slack || p > window.north + slack) return false;
    const off = l - window.lon0;
    return window.half >= 180 || Math.abs(off - 360 * Math.round(off / 360)) <= window.half + slack;
  };
  const forward = (lon: number, lat: number, out: [number, number, number]) => {
    if (!shows(lon, lat) || !crs.forward(lon, lat, xy)) return false;
    out[0] = xy[0] * unit;
    out[1] = xy[1] * unit;
    out[2] = 0;
    return true;
  };
  const at: [number, number, number] = [0, 0, 0];
  const home = middleOf(window);
  let [west, south, east, north] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i <= 72; i++) {
    for (let k = 0; k <= 36; k++) {
      const lon = window.lon0 + (i / 36 - 1) * window.half * 0.99999;
      const lat = window.south + (k / 36) * (window.north - window.south);
      if (!forward(...turn.back(lon, lat), at)) continue;
      [west, east] = [Math.min(west, at[0]), Math.max(east, at[0])];
      [south, north] = [Math.min(south, at[1]), Math.max(north, at[1])];
    }
  }
  let wrap = 0;
  if (method && methodEntry(method).repeats) {
    const k = forward(window.lon0 + 90, 0, at) ? at[0] : 0;
    wrap = forward(window.lon0, 0, at) ? 4 * (k - at[0]) : 0;
  }
  return {
    id,
    forward,
    inverse(x, y) {
      const inside = wrap ? x - Math.round((x - (west + east) / 2) / wrap) * wrap : x;
      return crs.inverse(inside / unit, y / unit, xy) && shows(xy[0], xy[1]) ? [xy[0], xy[1]] : undefined;
    },
    wrap,
    bounds: [west, south, east, north],
    stretch(lon, lat) {
      // The root of the areal scale, from differences a few meters long (Snyder, USGS PP 1395, section 4).
      const p = Math.max(-89.9, Math.min(89.9, lat));
      const h = 1e-4;
      const [a, b, c]: [number, number, number][] = [
        [0, 0, 0],
        [0, 0, 0],
        [0, 0, 0],
      ];
      if (!forward(lon, p, a) || !forward(lon + h, p, b) || !forward(lon, p + (p > 0 ? -h : h), c)) return 1;
      const sin = Math.sin(p * radians);
      const w = 1 - ellipsoid.e2 * sin * sin;
      const [nu, rho] = [ellipsoid.a / Math.sqrt(w), (ellipsoid.a * (1 - ellipsoid.e2)) / (w * Math.sqrt(w))];
      const ground = nu * Math.cos(p * radians) * rho * (h * radians) ** 2;
      return Math.sqrt(Math.abs((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])) / ground);
    },
    radius: 0,
    space: 'lonlat',
    grid: gridOf(window),
    flat: false,
    extent: window,
    home,
  };
}

/** The grid that features are cut in: one whose columns meet nowhere near the middle of the surface. */
function gridOf({ lon0, pole }: SurfaceExtent): SquareGrid {
  if (pole && Math.abs(pole[1]) === 90) return pole[1] > 0 ? northPoleGrid : southPoleGrid;
  return lonLatGrid(pole ? pole[0] : lon0);
}

const middleOf = ({ lon0, south, north, pole }: SurfaceExtent): [number, number] =>
  pole ? [pole[0], pole[1]] : [lon0, (south + north) / 2];

/** Turns the sphere so that a place lies where the north pole is, and back. Without one it stays as it is. Degrees. */
export function turner(pole: readonly [number, number] | undefined): {
  there(lon: number, lat: number): [number, number];
  back(lon: number, lat: number): [number, number];
} {
  if (!pole) return { there: (lon, lat) => [lon, lat], back: (lon, lat) => [lon, lat] };
  const [lon0, lat0] = pole;
  const [sin0, cos0] = [Math.sin(lat0 * radians), Math.cos(lat0 * radians)];
  const asin = (v: number) => Math.asin(Math.max(-1, Math.min(1, v)));
  return {
    there(lon, lat) {
      const [l, p] = [(lon - lon0) * radians, lat * radians];
      const [sin, cos] = [Math.sin(p), Math.cos(p)];
      const height = asin(sin0 * sin + cos0 * cos * Math.cos(l));
      return [Math.atan2(cos * Math.sin(l), cos0 * sin - sin0 * cos * Math.cos(l)) / radians, height / radians];
    },
    back(lon, lat) {
      const [l, p] = [lon * radians, lat * radians];
      const [sin, cos] = [Math.sin(p), Math.cos(p)];
      const height = asin(sin0 * sin + cos0 * cos * Math.cos(l));
      return [lon0 + Math.atan2(cos * Math.sin(l), cos0 * sin - sin0 * cos * Math.cos(l)) / radians, height / radians];
    },
  };
}

const made = new Map<string, Surface>();

/**
 * A surface by its description: `EPSG:3857` and other authority codes, `globe`, `plan`, well-known text or PROJJSON as text, or a
 * projection method with its parameters.
 *
 * @throws Fault `surface.method`, `surface.unknown`, or as {@link getCrs} and {@link makeCrs} do
 */
export function getSurface(spec: SurfaceSpec | undefined): Surface {
  if (spec === null || (typeof spec !== 'string' && typeof spec !== 'object' && spec !== undefined))
    throw new Fault(
      'surface.form',
      `${describeValue(spec)} is not a surface`,
      'Give a code, a name, or { method, … }.',
    );
  assertShallow(spec, 'the surface', 'surface.form');
  const plain = findPlainSurface(spec);
  if (plain || spec === undefined) return plain!;
  if (spec === globe.id) return globe;
  const key = surfaceKey(spec);
  let surface = made.get(key);
  if (!surface) {
    surface = typeof spec === 'string' ? surfaceNamed(spec) : surfaceOfMethod(spec, key);
    if (made.size > 64) made.clear();
    made.set(key, surface);
  }
  return surface;
}

function surfaceNamed(spec: string): Surface {
  const near = nearestSpelling(spec, [globe.id, 'plan']);
  if (near && !findCrs(spec))
    throw new Fault('surface.unknown', `there is no surface "${spec}"`, `Did you mean "${near}"?`);
  const crs = getCrs(spec);
  // Degrees in equal steps are drawn in meters.
  if (crs.isGeographic)
    return ofCrs(
      makeCrs({ id: crs.id, ellipsoid: crs.definition.ellipsoid, method: 'equirectangular', parameters: {} }),
      crs.id,
    );
  return ofCrs(crs, crs.id);
}

function surfaceOfMethod({ method, ...parameters }: SurfaceForm, id: string): Surface {
  if (typeof method !== 'string' || !Object.hasOwn(methods, method)) {
    const near = nearestSpelling(method, Object.keys(methods));
    throw new Fault(
      'surface.method',
      `the projection method ${describeValue(method)} is not known`,
      near ? `Did you mean "${near}"?` : `Methods: ${Object.keys(methods).join(', ')}.`,
    );
  }
  // On the ellipsoid the oblique stereographic projection tears the sphere open opposite its center.
  const { wgs84 } = ellipsoids;
  const shape = method === 'oblique-stereographic' ? ellipsoid(wgs84.a, 0) : wgs84;
  return ofCrs(makeCrs({ id, ellipsoid: shape, method: method as MethodName, parameters }), id);
}
