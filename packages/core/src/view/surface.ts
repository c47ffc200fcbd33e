import { mercatorLat, mercatorLon, mercatorX, mercatorY, webMercatorHalf } from '../crs/web-mercator.js';
import { mercatorGrid, planGrid, type SquareGrid } from '../grid/square.js';
import type { SheetSurface } from '../sheet/types.js';

/** How a surface is named: by a word or an authority code, by well-known text, or by a projection method and its parameters. */
export type SurfaceSpec = string | SurfaceForm;

/** A surface of one's own: a projection method of the library, angles in degrees, on WGS 84. */
export type SurfaceForm = SheetSurface;

/**
 * The part of the sphere that a surface shows, as a rectangle of longitudes and latitudes: `half` degrees to either side of `lon0`, from
 * `south` to `north`. Where there is a `pole`, the sphere is first turned so that this place lies where the north pole is: then the
 * rectangle is a circle round it.
 */
export interface SurfaceExtent {
  readonly lon0: number;
  readonly half: number;
  readonly south: number;
  readonly north: number;
  readonly pole?: readonly [number, number];
}

/**
 * Where a projection meets the screen: lon/lat in degrees on one side, x, y, z in meters of the surface on the other. A planar surface
 * has z = 0. In a plan, what stands for longitude and latitude is meters.
 */
export interface Surface {
  /** Authority code, or the surface's own name. */
  readonly id: string;
  /**
   * Writes x, y, z in meters into `out`; false, and `out` left alone, where the surface does not reach.
   *
   * @param lon longitude in degrees
   * @param lat latitude in degrees
   * @param out takes the position in meters
   */
  forward(lon: number, lat: number, out: [number, number, number]): boolean;
  /**
   * Longitude and latitude of a place on the surface, or undefined where the surface has none.
   *
   * @param x meters
   * @param y meters
   * @param z meters, on the globe
   */
  inverse(x: number, y: number, z: number): [number, number] | undefined;
  /** Meters after which the surface begins again to the east; 0 when it does not. */
  readonly wrap: number;
  /** `[west, south, east, north]` in meters. */
  readonly bounds: readonly [number, number, number, number];
  /**
   * Surface meters in one meter on the ground at a place.
   *
   * @param lon longitude in degrees
   * @param lat latitude in degrees
   */
  stretch(lon: number, lat: number): number;
  /** Radius of the sphere in meters; 0 for a plane. */
  readonly radius: number;
  /** Space of its places: degrees, or the meters of a plan. */
  readonly space: 'lonlat' | 'plane';
  /** Grid that features are cut in for this surface. */
  readonly grid: SquareGrid;
  /** Whether surface meters are those of the grid, so that tiles need only be moved and scaled. */
  readonly flat: boolean;
  /** The part of the sphere that it shows; all of it without one. */
  readonly extent?: SurfaceExtent;
  /** A place well inside. */
  readonly home: readonly [number, number];
}

/** Web Mercator (EPSG:3857): the square world of WebMercatorQuad. */
export const webMercator: Surface = {
  id: 'EPSG:3857',
  forward(lon, lat, out) {
    out[0] = mercatorX(lon);
    out[1] = mercatorY(lat);
    out[2] = 0;
    return true;
  },
  inverse: (x, y) => [mercatorLon(x), mercatorLat(y)],
  wrap: 2 * webMercatorHalf,
  bounds: [-webMercatorHalf, -webMercatorHalf, webMercatorHalf, webMercatorHalf],
  stretch: (_lon, lat) => 1 / Math.cos((Math.max(-89, Math.min(89, lat)) * Math.PI) / 180),
  radius: 0,
  space: 'lonlat',
  grid: mercatorGrid,
  flat: true,
  home: [0, 0],
};

/** A plan in local meters: a building, a seat plan. Its coordinates are x to the right and y up, with no world around them. */
export const planSurface: Surface = {
  id: 'plan',
  forward(x, y, out) {
    out[0] = x;
    out[1] = y;
    out[2] = 0;
    return true;
  },
  inverse: (x, y) => [x, y],
  wrap: 0,
  bounds: [-webMercatorHalf, -webMercatorHalf, webMercatorHalf, webMercatorHalf],
  stretch: () => 1,
  radius: 0,
  space: 'plane',
  grid: planGrid,
  flat: true,
  home: [0, 0],
};

/** The surfaces that need nothing further: web Mercator, and plans. Undefined for all others; see {@link getSurface}. */
export function findPlainSurface(spec: SurfaceSpec | undefined): Surface | undefined {
  if (spec === undefined || spec === webMercator.id) return webMercator;
  return spec === planSurface.id ? planSurface : undefined;
}

/** Tells two descriptions of surfaces apart. */
export const surfaceKey = (spec: SurfaceSpec | undefined): string =>
  spec === undefined ? webMercator.id : typeof spec === 'string' ? spec : JSON.stringify(spec);
