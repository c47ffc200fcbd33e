import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { innerPoint, readGeoJson, readSheet, TileCutter } from '@flintwright/core';
import {
  CollisionGrid,
  distanceField,
  layAlong,
  mercatorLat,
  numbered,
  labelAnchorsOf,
  prepareTile,
  sheetPortrayal,
  webMercatorHalf,
} from '@flintwright/core/internal';

describe('labels', () => {
  test('of whole features stand in one place, whatever tiles they are cut into, until they are larger than the screen', () => {
    // A square over the corner of four tiles, and a bent line across two, in parts of the world from its middle.
    const ring = [[-0.01, -0.03], [0.05, -0.03], [0.05, 0.03], [-0.01, 0.03], [-0.01, -0.03]]; // prettier-ignore
    const path = [[-0.06, 0.1], [-0.02, 0.1], [0.06, 0.1]]; // prettier-ignore
    const degrees = ([x, y]: number[]) => [360 * x, mercatorLat(2 * webMercatorHalf * y)];
    const block = numbered(
      readGeoJson(
        {
          type: 'FeatureCollection',
          features: [
            {
              type: 'Feature',
              properties: { name: 'Field' },
              geometry: { type: 'Polygon', coordinates: [ring.map(degrees)] },
            },
            {
              type: 'Feature',
              properties: { name: 'Path' },
              geometry: { type: 'LineString', coordinates: path.map(degrees) },
            },
          ],
        },
        { name: 'd' },
      ),
    );
    const sheet = readSheet({
      sheet: 1,
      data: { d: { features: '' } },
      layers: [{ id: 'l', of: 'd', label: { text: { is: 'name' } } }],
    });
    const cutter = new TileCutter(block, 12);
    const found = (z: number) => {
      const out: [string, number, number][] = [];
      for (let x = Math.floor(0.42 * 2 ** z); x < 0.58 * 2 ** z; x++)
        for (let y = Math.floor(0.35 * 2 ** z); y < 0.65 * 2 ** z; y++) {
          const tile = { z, x, y };
          const cut = cutter.tile(tile);
          if (!cut) continue;
          const [layer] = prepareTile({
            tile,
            blocks: [cut],
            layers: sheet.layers,
            zoom: z,
            portrayal: sheetPortrayal(() => 0),
            anchorsOf: labelAnchorsOf,
            wholes: (row) => cutter.middle(row),
          }).layers;
          // Meters from the anchor, the middle of the tile, to parts of the world from its middle.
          const size = 2 ** -z;
          layer.labelAnchors!.texts.forEach((text, k) => {
            const [mx, my] = [layer.labelAnchors!.places[2 * k], layer.labelAnchors!.places[2 * k + 1]].map(
              (v) => v / (2 * webMercatorHalf),
            );
            out.push([text, (tile.x + 0.5) * size - 0.5 + mx, 0.5 - (tile.y + 0.5) * size + my]);
          });
        }
      return out.sort(([a], [b]) => (a < b ? -1 : 1));
    };
    for (const z of [1, 2, 3, 4]) {
      const [field, way, ...more] = found(z);
      expect([z, field[0], way[0], more.length]).toEqual([z, 'Field', 'Path', 0]);
      for (const [got, wanted] of [
        [field[1], 0.02],
        [field[2], 0],
        [way[1], 0],
        [way[2], 0.1],
      ])
        // prettier-ignore
        expect(got).toBeCloseTo(wanted, 3);
    }
    // At level 7 the field is nearly eight tiles wide: wherever one is, it is named.
    expect(found(7).filter(([text]) => text === 'Field').length).toBeGreaterThan(20);
  });

  test('the inner point of an L lies in the thick of it', () => {
    const flat = [0, 0, 10, 0, 10, 4, 4, 4, 4, 10, 0, 10];
    const [x, y, clearance] = innerPoint(flat, [0, 6], 0, 1);
    // The largest circle in an L of 4 wide touches both outer sides and the inner corner: r = 4·(2 − √2).
    expect(clearance).toBeCloseTo(4 * (2 - Math.SQRT2), 1);
    expect(Math.hypot(x - y, 0)).toBeLessThan(0.2);
  });

  test('the inner point of a long box is its middle; of any shape, with holes, as far from the edge as any place of a fine grid', () => {
    expect(innerPoint([40, 0, 58, 0, 58, 8, 40, 8], [0, 4], 0, 1)).toEqual([49, 4, 4]);
    const shapes = fc.record({
      radii: fc.array(fc.double({ min: 3, max: 20, noNaN: true }), { minLength: 5, maxLength: 16 }),
      hole: fc.double({ min: 0, max: 0.9, noNaN: true }),
    });
    fc.assert(
      fc.property(shapes, ({ radii, hole }) => {
        const ring = (share: number) =>
          radii.flatMap((r, i) => {
            const turn = (i / radii.length) * 2 * Math.PI;
            return [5e6 + share * r * Math.cos(turn), -3e6 + share * r * Math.sin(turn)];
          });
        const coords = [...ring(1), ...(hole > 0.1 ? ring(hole) : [])];
        const starts = [0, radii.length, coords.length / 2].slice(0, hole > 0.1 ? 3 : 2);
        const rings = starts.length - 1;
        /** Distance to the nearest edge, or minus that outside. */
        const away = (x: number, y: number) => {
          let [inside, nearest] = [false, Infinity];
          for (let r = 0; r < rings; r++)
            for (let i = starts[r], j = starts[r + 1] - 1; i < starts[r + 1]; j = i++) {
              const [ax, ay, bx, by] = [coords[2 * i], coords[2 * i + 1], coords[2 * j], coords[2 * j + 1]];
              if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) inside = !inside;
              const t = ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / ((bx - ax) ** 2 + (by - ay) ** 2);
              const held = Math.max(0, Math.min(1, t));
              nearest = Math.min(nearest, Math.hypot(x - ax - held * (bx - ax), y - ay - held * (by - ay)));
            }
          return inside ? nearest : -nearest;
        };
        const [x, y, clearance] = innerPoint(coords, starts, 0, rings, 0.05);
        expect(clearance).toBeCloseTo(away(x, y), 6);
        let most = 0;
        for (let i = -20; i <= 20; i++) for (let j = -20; j <= 20; j++) most = Math.max(most, away(5e6 + i, -3e6 + j));
        expect(clearance).toBeGreaterThan(most - 0.051);
      }),
      { numRuns: 40, seed: 17 },
    );
  });

  test('boxes may not overlap, and may touch', () => {
    const crowd = new CollisionGrid();
    crowd.take(10, 10, 50, 30);
    crowd.take(-500, 700, 2000, 710);
    expect([
      crowd.isFree(50, 10, 60, 20),
      crowd.isFree(49, 29, 90, 90),
      crowd.isFree(1500, 705, 1501, 706),
      crowd.isFree(0, 31, 400, 699),
    ]).toEqual([true, false, false, true]);
  });

  test('text along a path: centered, evenly spaced, upright, and refused on sharp bends', () => {
    const pieces = layAlong([100, 0, 50, 0, 0, 0], 40, 4)!;
    expect(pieces.map(({ x }) => x)).toEqual([35, 45, 55, 65]);
    expect(pieces.every(({ turn }) => Math.abs(turn) < 1e-9)).toBe(true);
    expect(layAlong([0, 0, 30, 0], 40, 4)).toBeUndefined();
    expect(layAlong([0, 0, 50, 0, 50, 50], 60, 6)).toBeUndefined();
  });

  test('the distance field of a half plane is exact', () => {
    const width = 24;
    // Inside from x = 12.25 on: pixel 12 is three quarters covered.
    const coverage = Uint8Array.from({ length: width * 8 }, (_, i) =>
      i % width > 12 ? 255 : i % width === 12 ? 191 : 0,
    );
    const field = distanceField(coverage, width, 8, 8);
    for (const x of [6, 9, 15, 18]) expect((field[4 * width + x] - 128) * (8 / 127)).toBeCloseTo(x + 0.5 - 12.25, 0);
    expect([field[4 * width], field[4 * width + 23]]).toEqual([0, 255]);
  });

  test('the distance field of any shape is what its definition says, pixel by pixel', () => {
    const covered = fc.constantFrom(0, 0, 0, 0, 255, 255, 255, 60, 200);
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 14 }),
        fc.array(fc.tuple(covered, fc.integer({ min: 1, max: 9 })), { minLength: 1, maxLength: 30 }),
        fc.integer({ min: 2, max: 5 }),
        (width, runs, spread) => {
          const all = runs.flatMap(([share, length]) => Array.from({ length }, () => share));
          const height = Math.ceil(all.length / width);
          const coverage = Uint8Array.from({ length: width * height }, (_, i) => all[i] ?? 0);
          // Felzenszwalb and Huttenlocher, equation 1: the least sum of a squared distance and what a sample has.
          const least = (x: number, y: number, shareOf: (i: number) => number) =>
            Math.min(
              ...Array.from(coverage, (_, i) => {
                const share = shareOf(i) / 255;
                const offset = share === 0 ? Infinity : Math.max(0, 0.5 - share) ** 2;
                return ((i % width) - x) ** 2 + (Math.floor(i / width) - y) ** 2 + offset;
              }),
            );
          const wanted = Array.from(coverage, (_, i) => {
            const [x, y] = [i % width, Math.floor(i / width)];
            const inwards =
              Math.sqrt(least(x, y, (k) => 255 - coverage[k])) - Math.sqrt(least(x, y, (k) => coverage[k]));
            return Math.max(0, Math.min(255, Math.round(128 + (inwards * 127) / spread)));
          });
          expect([...distanceField(coverage, width, height, spread)]).toEqual(wanted);
        },
      ),
    );
  });
});
