import { mercatorLat, mercatorLon, mercatorX, mercatorY, webMercatorHalf } from '../crs/web-mercator.js';
import { Fault } from '../base/fault.js';

/**
 * Where a projection meets the screen: lon/lat in degrees on one side, metres of the surface on the other.
 * A planar surface has z = 0.
 */
export interface Surface {
  /** Authority code. */
  readonly id: string;
  /** Writes x, y, z in metres into `out`. */
  forward(lon: number, lat: number, out: [number, number, number]): void;
  /** Longitude and latitude of a place on the surface, or undefined where the surface has none. */
  inverse(x: number, y: number, z: number): [number, number] | undefined;
  /** Metres after which the surface begins again to the east; 0 when it does not. */
  readonly wrap: number;
  /** `[west, south, east, north]` in metres. */
  readonly bounds: readonly [number, number, number, number];
  /** Surface metres in one metre on the ground at a place. */
  stretch(lat: number): number;
}

/** Web Mercator (EPSG:3857): the square world of WebMercatorQuad. */
export const webMercator: Surface = {
  id: 'EPSG:3857',
  forward(lon, lat, out) {
    out[0] = mercatorX(lon);
    out[1] = mercatorY(lat);
    out[2] = 0;
  },
  inverse: (x, y) => [mercatorLon(x), mercatorLat(y)],
  wrap: 2 * webMercatorHalf,
  bounds: [-webMercatorHalf, -webMercatorHalf, webMercatorHalf, webMercatorHalf],
  stretch: (lat) => 1 / Math.cos((Math.max(-89, Math.min(89, lat)) * Math.PI) / 180),
};

/** @throws Fault `surface.unknown` */
export function getSurface(code: string): Surface {
  if (code === webMercator.id) return webMercator;
  throw new Fault('surface.unknown', `the surface "${code}" is not known`, 'Write "EPSG:3857" (web Mercator).');
}
