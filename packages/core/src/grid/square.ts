import type { TileAddress } from './address.js';
import { mercatorLat, mercatorLon, mercatorX, mercatorY, webMercatorHalf } from '../crs/web-mercator.js';

/**
 * A square that is divided into a quadtree of tiles: from −half to half meters in both directions, x to the east and y to the north.
 * Features are cut and tiles addressed in such a square, whatever surface shows them.
 */
export interface SquareGrid {
  readonly id: string;
  /** Whether parallels are curves in it, so that edges need additional vertices; default false. */
  readonly bends?: true;
  /**
   * Meters of the square for longitude and latitude in degrees (or, in a plan, for meters), and back; NaN where there is no such place.
   *
   * @param lon longitude in degrees
   * @param lat latitude in degrees
   */
  at(lon: number, lat: number): [x: number, y: number];
  /**
   * The place of a point of the square.
   *
   * @param x column, 0 to 1 of the square from the west
   * @param y row, 0 to 1 from the north
   */
  place(x: number, y: number): [lon: number, lat: number];
  /**
   * How much finer than usual the units of a tile must be, a power of two; by default 1. Where the columns of a grid meet at a pole, a tile
   * is much taller than it is wide, and is shown that much larger than tiles elsewhere.
   */
  fineness?(tile: TileAddress): number;
}

/** Half the side of every square grid, in meters: half the equator. */
export const gridHalf = webMercatorHalf;

/** WebMercatorQuad (OGC 17-083r4, annex D.1): what most tiles are cut in. */
export const mercatorGrid: SquareGrid = {
  id: 'WebMercatorQuad',
  at: (lon, lat) => [mercatorX(lon), mercatorY(lat)],
  place: (x, y) => [mercatorLon(x), mercatorLat(y)],
};

/** Local meters as they are. */
export const planGrid: SquareGrid = { id: 'plan', at: (x, y) => [x, y], place: (x, y) => [x, y] };

/**
 * The earth around a pole: distances from it in equal steps along every meridian (the azimuthal equidistant projection on a sphere; Snyder, USGS
 * PP 1395, section 25, polar aspects). No columns meet at the pole; the other pole is the rim of the square's inner circle.
 */
const polarGrid = (sign: 1 | -1): SquareGrid => ({
  id: sign > 0 ? 'north-pole' : 'south-pole',
  bends: true,
  at: (lon, lat) => {
    const rho = ((90 - sign * lat) / 180) * webMercatorHalf;
    const lambda = (lon * Math.PI) / 180;
    return [rho * Math.sin(lambda), -sign * rho * Math.cos(lambda)];
  },
  place: (x, y) => [
    (Math.atan2(x, -sign * y) * 180) / Math.PI,
    sign * (90 - (Math.hypot(x, y) / webMercatorHalf) * 180),
  ],
});

/** The grid around the north pole, and around the south pole. */
export const [northPoleGrid, southPoleGrid] = [polarGrid(1), polarGrid(-1)];

/** Units of a tile at a pole, times finer than usual: what a 32-bit number still holds of a tile in meters, about a centimeter. */
const finest = 1024;

const lonLats = new Map<number, SquareGrid>();

/** Longitude and latitude in equal steps, poles included; its edges lie opposite the central meridian `lon0`. */
export function lonLatGrid(lon0 = 0): SquareGrid {
  let grid = lonLats.get(lon0);
  if (!grid) {
    const metre = webMercatorHalf / 180;
    grid = {
      id: `lonlat${lon0}`,
      at: (lon, lat) => [(lon - lon0) * metre, lat * metre],
      place: (x, y) => [x / metre + lon0, y / metre],
      fineness: ({ z, y }) => {
        // By the middle of the tile: far out, a tile that touches a pole is not narrow.
        const middle = Math.abs(180 - (360 * (y + 0.5)) / 2 ** z);
        const tall = z > 2 && middle < 90 ? 1 / Math.cos((middle * Math.PI) / 180) : 1;
        return tall < 4 ? 1 : Math.min(finest, 2 ** Math.ceil(Math.log2(tall)));
      },
    };
    lonLats.set(lon0, grid);
  }
  return grid;
}
