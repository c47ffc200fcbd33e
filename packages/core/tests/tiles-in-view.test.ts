import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { getSurface } from '@flintwright/core';
import { addressKey, Camera, lonLatGrid, mercatorGrid, tilesInView } from '@flintwright/core/internal';

describe('tiles in view', () => {
  const size = { width: 900, height: 600 };
  // Near the pole and the antimeridian, far out and close in, turned and tilted.
  const view = fc.record({
    center: fc.tuple(
      fc.oneof(fc.double({ min: -180, max: 180, noNaN: true }), fc.constantFrom(-180, 179.999, -31.18)),
      fc.oneof(fc.double({ min: -80, max: 80, noNaN: true }), fc.constantFrom(89, -84, 44.62)),
    ),
    zoom: fc.double({ min: 1, max: 17, noNaN: true }),
    bearing: fc.constantFrom(0, 0, 33, -120),
    tilt: fc.constantFrom(0, 0, 35, 60),
  });

  test.each([
    ['globe', mercatorGrid],
    ['globe', lonLatGrid(0)],
    ['EPSG:32625', lonLatGrid(-33)],
    ['EPSG:8857', lonLatGrid(0)],
    ['EPSG:3413', lonLatGrid(-45)],
  ] as const)('on %s every place that is seen lies on a tile that is asked for, and on one alone', (name, grid) => {
    const surface = getSurface(name);
    fc.assert(
      fc.property(view, (wanted) => {
        const camera = new Camera({ ...wanted, center: wanted.center }, surface, size);
        const tiles = tilesInView(camera, 512, [0, 14], grid);
        const keys = new Map(tiles.map((tile) => [addressKey(tile.z, tile.x, tile.y), tile]));
        expect(new Set(tiles.map(({ z, x, y, copy }) => `${z}/${x}/${y}/${copy}`)).size).toBe(tiles.length);
        const half = 20037508.342789244;
        for (let i = 0; i <= 12; i++) {
          for (let k = 0; k <= 8; k++) {
            const place = camera.unproject((i / 12) * size.width, (k / 8) * size.height);
            if (!place) continue;
            const [gx, gy] = grid.at(place[0], place[1]);
            if (Number.isNaN(gx) || Math.abs(gy) > half) continue;
            const [u, v] = [0.5 + gx / (2 * half), 0.5 - gy / (2 * half)];
            const holding = [...Array(15).keys()].filter((z) => {
              const n = 2 ** z;
              const column = Math.floor((u - Math.floor(u)) * n);
              return keys.has(addressKey(z, column, Math.min(n - 1, Math.floor(v * n))));
            });
            expect({ place, holding: holding.length }).toEqual({ place, holding: 1 });
          }
        }
        // Away from the poles, where tiles are narrow and many, nothing is asked for by the hundred.
        if (Math.abs(camera.unproject(450, 300)?.[1] ?? 90) < 75) expect(tiles.length).toBeLessThan(120);
      }),
      { numRuns: 40, seed: 33 },
    );
  });
});
