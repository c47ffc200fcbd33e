import { describe, expect, test } from '@jest/globals';
import { getSurface } from '@flintwright/core';
import { Camera, gridHalf, mercatorGrid, tilesInView } from '@flintwright/core/internal';
import { surfaces } from './sample-surfaces.ts';

const size = { width: 900, height: 600 };

describe('tiles in view', () => {
  test.each(surfaces)('on %s every pixel of the ground lies on one of them', (_name, spec, center) => {
    const surface = getSurface(spec);
    for (const [zoom, tilt] of [
      [2, 0],
      [5.3, 40],
      [9, 0],
      [14.7, 50],
    ] as const) {
      const camera = new Camera({ center, zoom, bearing: 20, tilt }, surface, size);
      for (const grid of [surface.grid, mercatorGrid]) {
        const tiles = tilesInView(camera, 512, [0, 16], grid);
        expect(tiles.length).toBeLessThan(140);
        for (let k = 0; k < 63; k++) {
          const place = camera.unproject(((k % 9) / 8) * 880 + 10, (Math.floor(k / 9) / 6) * 580 + 10);
          if (!place || (grid === mercatorGrid && Math.abs(place[1]) > 84)) continue;
          const [gx, gy] = grid.at(...place);
          const [u, v] = [0.5 + gx / (2 * gridHalf), 0.5 - gy / (2 * gridHalf)];
          const on = tiles.some(
            ({ z, x, y }) => Math.floor((u - Math.floor(u)) * 2 ** z) === x && Math.floor(v * 2 ** z) === y,
          );
          expect([zoom, grid.id, k, on]).toEqual([zoom, grid.id, k, true]);
        }
      }
    }
  });
});
