import type { TileAddress } from '../grid/address.js';
import { gridHalf, mercatorGrid, type SquareGrid } from '../grid/square.js';
import { directions } from '../view/globe.js';
import type { Surface } from '../view/surface.js';

type Triple = readonly [number, number, number];

/**
 * Where the numbers of a tile are counted from: its anchor in meters of the surface, and on a sphere the directions of the plane that
 * touches it there. Positions in that plane are meters to the east and the north; how far the sphere falls away below it follows.
 */
export interface LocalFrame {
  readonly anchor: Triple;
  readonly east?: Triple;
  readonly north?: Triple;
  readonly up?: Triple;
}

/** A place of the grid, in tile units of a tile whose extent is 1. */
export function tilePlace(grid: SquareGrid, { z, x, y }: TileAddress, u: number, v: number): [number, number] {
  const side = (2 * gridHalf) / 2 ** z;
  return grid.place((x + u) * side - gridHalf, gridHalf - (y + v) * side);
}

/** Latitude in degrees from which the last rows of web Mercator are carried on to the pole, and where they end. */
const [carriedFrom, mercatorEnd] = [84.9, 85.0511287798066];

/** Whether tiles of a grid are carried on to the poles of a surface: those of web Mercator, where the surface shows its poles. */
export const closesPoles = (grid: SquareGrid, { radius, extent }: Surface): boolean =>
  grid === mercatorGrid &&
  (radius > 0 || (extent !== undefined && (extent.pole !== undefined || Math.max(extent.north, -extent.south) >= 90)));

/**
 * A latitude of a web Mercator tile on a surface with poles. The tiles end at 85.05°; their last seventh of a degree is drawn out to the
 * pole, so that what touches the edge covers it.
 */
export function towardsPole(lat: number): number {
  const beyond = Math.abs(lat) - carriedFrom;
  if (beyond <= 0) return lat;
  return Math.sign(lat) * Math.min(90, carriedFrom + (beyond * (90 - carriedFrom)) / (mercatorEnd - carriedFrom));
}

/**
 * Writes where a place of a grid lies on a surface into `at`; false where the surface does not reach. Grids of the earth are larger than the
 * earth; the meters of a plan have no such limit.
 */
export const projectPlace = (surface: Surface, lon: number, lat: number, at: [number, number, number]): boolean =>
  (surface.space === 'plane' || Math.abs(lat) <= 90) && surface.forward(lon, lat, at);

/** The frame of a tile on a surface: its middle, or what of it the surface reaches. */
export function localFrameOf(surface: Surface, grid: SquareGrid, tile: TileAddress): LocalFrame {
  const at: [number, number, number] = [0, 0, 0];
  const spots = [0.5, 0.25, 0.75, 0, 1];
  const found = spots.some((v) =>
    spots.some((u) => {
      const [lon, lat] = tilePlace(grid, tile, u, v);
      return projectPlace(surface, lon, lat, at);
    }),
  );
  if (!found) surface.forward(surface.home[0], surface.home[1], at);
  const anchor: Triple = [...at];
  return surface.radius ? { anchor, ...directions(anchor) } : { anchor };
}

/** Surface meters of a position in a frame. */
export function fromLocal(
  { anchor, east, north, up }: LocalFrame,
  radius: number,
  x: number,
  y: number,
  out: [number, number, number],
): void {
  if (!east || !north || !up) {
    out[0] = anchor[0] + x;
    out[1] = anchor[1] + y;
    out[2] = 0;
    return;
  }
  const p2 = x * x + y * y;
  const fall = -p2 / (radius + Math.sqrt(Math.max(0, radius * radius - p2)));
  for (let k = 0; k < 3; k++) out[k] = anchor[k] + east[k] * x + north[k] * y + up[k] * fall;
}

/** The position in a frame of surface meters. */
export function toLocal({ anchor, east, north }: LocalFrame, [x, y, z]: Triple): [number, number] {
  const [dx, dy, dz] = [x - anchor[0], y - anchor[1], z - anchor[2]];
  if (!east || !north) return [dx, dy];
  return [east[0] * dx + east[1] * dy + east[2] * dz, north[0] * dx + north[1] * dy + north[2] * dz];
}
