import { webMercatorHalf } from '../crs/web-mercator.js';
import type { TileInView } from '../grid/address.js';
import type { Camera } from './camera.js';

/**
 * As `tilesInView`, where the surface is flat and the grid its own: web Mercator, and plans.
 *
 * @param span CSS pixels that a tile should cover; between this and twice as many are shown
 * @param zooms first and last level there is
 */
export function squareTilesInView(camera: Camera, span: number, zooms: readonly [number, number]): TileInView[] {
  const shift = Math.log2(span / 256);
  const ideal = camera.view.zoom - shift + 1e-9;
  const out: (TileInView & { away: number })[] = [];
  const clip: [number, number, number] = [0, 0, 0];
  // Called for some hundred tiles a frame, so no list is made on the way.
  const visit = (z: number, x: number, y: number, copy: number) => {
    const size = (2 * webMercatorHalf) / 2 ** z;
    const west = -webMercatorHalf + (x + copy * 2 ** z) * size - camera.middle[0];
    const north = webMercatorHalf - y * size - camera.middle[1];
    let left = 0;
    let right = 0;
    let below = 0;
    let above = 0;
    let behind = 0;
    let nearest = -Infinity;
    for (let k = 0; k < 4; k++) {
      camera.clip(west + (k & 1) * size, north - (k >> 1) * size, clip);
      const cx = clip[0];
      const cy = clip[1];
      const w = clip[2];
      if (w <= 0) behind++;
      if (cx < -w) left++;
      if (cx > w) right++;
      if (cy < -w) below++;
      if (cy > w) above++;
      nearest = Math.max(nearest, camera.distance / Math.max(w, camera.distance / 50));
    }
    if (left === 4 || right === 4 || below === 4 || above === 4 || behind === 4) return;
    // How far the nearest point of the tile is decides its level; the middle of the view is at distance 1.
    const dx = Math.max(west, -(west + size), 0);
    const dy = Math.max(north - size, -north, 0);
    const near = camera.view.tilt === 0 ? 1 : dx === 0 && dy === 0 ? 1 : Math.min(1, nearest);
    const wanted = Math.max(zooms[0], Math.min(zooms[1], Math.floor(ideal + Math.log2(Math.max(near, 0.05)))));
    if (z >= wanted) {
      out.push({ z, x, y, copy, away: (west + size / 2) ** 2 + (north - size / 2) ** 2 });
      return;
    }
    for (let k = 0; k < 4; k++) visit(z + 1, 2 * x + (k & 1), 2 * y + (k >> 1), copy);
  };
  // As many copies of the world as can be in view at this zoom.
  const worldPixels = 256 * 2 ** camera.view.zoom;
  const turn = camera.view.tilt > 0 ? 2 : 1;
  const copies = !camera.surface.wrap
    ? 0
    : Math.min(4, Math.ceil((Math.hypot(camera.size.width, camera.size.height) * turn) / 2 / worldPixels + 0.5));
  for (let copy = -copies; copy <= copies; copy++) visit(0, 0, 0, copy);
  return out.sort((a, b) => a.away - b.away).map(({ z, x, y, copy }) => ({ z, x, y, copy }));
}
