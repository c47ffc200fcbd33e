import { mercatorLat, mercatorLon, mercatorX, mercatorY, webMercatorHalf } from '../crs/web-mercator.js';

/**
 * A square that is quartered into tiles: from −half to half metres both ways, x to the east and y to the north. Features are cut, and
 * tiles addressed, in such a square, whatever surface they are shown on afterwards.
 */
export interface SquareGrid {
  readonly id: string;
  /** Metres of the square for degrees (or, in a plan, for metres), and back. */
  x(lon: number): number;
  y(lat: number): number;
  lon(x: number): number;
  lat(y: number): number;
}

/** Half the side of every square grid, in metres: half the equator. */
export const gridHalf = webMercatorHalf;

/** WebMercatorQuad (OGC 17-083r4, annex D.1): what most tiles are cut in. */
export const mercatorGrid: SquareGrid = {
  id: 'WebMercatorQuad',
  x: mercatorX,
  y: mercatorY,
  lon: mercatorLon,
  lat: mercatorLat,
};

/** Local metres as they are. */
export const planGrid: SquareGrid = { id: 'plan', x: (v) => v, y: (v) => v, lon: (v) => v, lat: (v) => v };

const lonLats = new Map<number, SquareGrid>();

/** Longitude and latitude in equal steps, poles included; its edges lie opposite the central meridian `lon0`. */
export function lonLatGrid(lon0 = 0): SquareGrid {
  let grid = lonLats.get(lon0);
  if (!grid) {
    const metre = webMercatorHalf / 180;
    grid = {
      id: `lonlat${lon0}`,
      x: (lon) => (lon - lon0) * metre,
      y: (lat) => lat * metre,
      lon: (x) => x / metre + lon0,
      lat: (y) => y / metre,
    };
    lonLats.set(lon0, grid);
  }
  return grid;
}
