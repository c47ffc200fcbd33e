import type { TileInView } from '../grid/address.js';
import { mercatorGrid, type SquareGrid } from '../grid/square.js';
import type { Camera } from './camera.js';
import { squareTilesInView } from './square-tiles.js';
import { tilesOnSurface } from './surface-tiles.js';

/**
 * The tiles of a square grid that a view needs, nearest to the middle first. With tilt, far tiles are of lower
 * levels.
 *
 * @param span CSS pixels that a tile should cover; between this and twice as many are shown
 * @param zooms first and last level there is
 */
export function tilesInView(
  camera: Camera,
  span: number,
  zooms: readonly [number, number],
  grid: SquareGrid = mercatorGrid,
): TileInView[] {
  return camera.surface.flat && camera.surface.grid === grid
    ? squareTilesInView(camera, span, zooms)
    : tilesOnSurface(camera, span, zooms, grid);
}
