import { describe, expect, test } from '@jest/globals';
import { doubleArea, pyramid, readGeoJson, TileCutter, type FeatureBlock, type PyramidTile } from '@flintwright/core';
import { mercatorLat, mercatorLon, webMercatorHalf } from '@flintwright/core/internal';
import fc from 'fast-check';

const collection = (...geometries: object[]) => ({
  type: 'FeatureCollection',
  features: geometries.map((geometry, i) => ({ type: 'Feature', id: i + 7, properties: { name: `n${i}` }, geometry })),
});
/** A place given as parts of the square world, x to the east and y to the south. */
const at = (x: number, y: number) => [
  mercatorLon((x - 0.5) * 2 * webMercatorHalf),
  mercatorLat((0.5 - y) * 2 * webMercatorHalf),
];

/** Area of all outer rings less holes, in tile units squared; outer rings count positive. */
function area(block: FeatureBlock): number {
  let sum = 0;
  for (let r = 0; r < block.ringStarts.length - 1; r++)
    sum += doubleArea(block.coords, block.ringStarts[r], block.ringStarts[r + 1]) / 2;
  return sum;
}

/** The rings of a feature of a tile. */
function ringsOf(block: FeatureBlock, feature: number): [number, number][][] {
  const [from, to] = [feature, feature + 1].map((f) => block.partRings[block.featureParts[f]]);
  return Array.from({ length: to - from }, (_, r) => {
    const [start, end] = [block.ringStarts[from + r], block.ringStarts[from + r + 1]];
    return Array.from({ length: end - start }, (_, i) => [
      block.coords[2 * (start + i)],
      block.coords[2 * (start + i) + 1],
    ]);
  });
}

const cut = (geojson: object, zooms: [number, number], options = {}): PyramidTile[] => [
  ...pyramid([readGeoJson(geojson, { name: 'a' })], zooms, options),
];

describe('cutting features into tiles', () => {
  test('the parts of a polygon with a hole, cut without rims, add up to the whole', () => {
    const ring = (r: number, n: number) =>
      Array.from({ length: n + 1 }, (_, i) =>
        at(0.503 + r * Math.cos((i / n) * 2 * Math.PI), 0.497 + r * Math.sin((i / n) * 2 * Math.PI)),
      );
    const tiles = cut(collection({ type: 'Polygon', coordinates: [ring(0.2, 300), ring(0.11, 200)] }), [4, 4], {
      buffer: 0,
      tolerance: 0,
    });
    const whole = Math.PI * (0.2 ** 2 - 0.11 ** 2);
    const parts = tiles.reduce((sum, { blocks }) => sum + area(blocks[0]), 0) / (4096 * 16) ** 2;
    expect(Math.abs(parts / whole - 1)).toBeLessThan(1e-3);
    for (const {
      blocks: [block],
    } of tiles) {
      expect(block.ids.every((id) => id === 7)).toBe(true);
      // Outer rings first and positive, holes negative.
      for (let p = 0; p < block.partRings.length - 1; p++) {
        for (let r = block.partRings[p]; r < block.partRings[p + 1]; r++) {
          expect(Math.sign(doubleArea(block.coords, block.ringStarts[r], block.ringStarts[r + 1]))).toBe(
            r === block.partRings[p] ? 1 : -1,
          );
        }
      }
    }
  });

  test('a line that leaves a tile and comes back is in two parts there', () => {
    const [left] = cut(
      collection({ type: 'LineString', coordinates: [at(0.3, 0.1), at(0.7, 0.2), at(0.3, 0.3)] }),
      [1, 1],
      { buffer: 0 },
    ).filter(({ tile }) => tile.x === 0);
    expect(left.blocks[0].partRings.length - 1).toBe(2);
  });

  test('every tile carries a rim, and nothing lies beyond it', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(fc.double({ min: 0.01, max: 0.99, noNaN: true }), fc.double({ min: 0.01, max: 0.99, noNaN: true })),
          { minLength: 3, maxLength: 12 },
        ),
        (places) => {
          for (const {
            blocks: [block],
          } of cut(collection({ type: 'LineString', coordinates: places.map(([x, y]) => at(x, y)) }), [3, 3])) {
            for (const v of block.coords) {
              expect(v).toBeGreaterThanOrEqual(-64);
              expect(v).toBeLessThanOrEqual(4096 + 64);
            }
          }
        },
      ),
      { numRuns: 40 },
    );
  });

  test('what is smaller than a pixel is dropped above the deepest level and kept on it', () => {
    const house = collection({
      type: 'Polygon',
      coordinates: [
        [at(0.5001, 0.5001), at(0.50012, 0.5001), at(0.50012, 0.50012), at(0.5001, 0.50012), at(0.5001, 0.5001)],
      ],
    });
    const levels = cut(house, [2, 8]).map(({ tile }) => tile.z);
    expect(levels).not.toContain(3);
    expect(levels).toContain(8);
  });

  test('tiles inside an area share their content', () => {
    const box = collection({
      type: 'Polygon',
      coordinates: [[at(0.02, 0.02), at(0.98, 0.02), at(0.98, 0.98), at(0.02, 0.98), at(0.02, 0.02)]],
    });
    const tiles = cut(box, [0, 5]);
    expect(tiles.filter(({ tile }) => tile.z === 5)).toHaveLength(32 * 32);
    expect(new Set(tiles.filter(({ tile }) => tile.z === 5).map(({ blocks }) => blocks)).size).toBeLessThan(400);
  });

  test('a feature across the antimeridian is in the first and the last column', () => {
    const tiles = cut(
      {
        type: 'LineString',
        coordinates: [
          [170, 10],
          [190, 12],
        ],
      },
      [3, 3],
    );
    expect(tiles.map(({ tile }) => tile.x).sort()).toEqual([0, 7]);
  });

  test('places many times round the world are where they belong; beyond ten times round they are told', () => {
    const point = (lon: number) => ({ type: 'Point', coordinates: [lon, 0] });
    for (const lon of [-3590, -1270, -541, 541, 900, 3590]) {
      const [{ blocks }] = cut(collection(point(lon)), [0, 0]);
      const xs = Array.from({ length: blocks[0].count }, (_, f) => ringsOf(blocks[0], f)[0][0][0]);
      const wanted = (((((lon + 180) % 360) + 360) % 360) / 360) * 4096;
      expect([lon, xs.some((x) => Math.abs(x - wanted) <= 1)]).toEqual([lon, true]);
    }
    const line = collection({ type: 'LineString', coordinates: [700, 850].map((lon) => [lon, 10]) });
    const before = collection({ type: 'LineString', coordinates: [-20, 130].map((lon) => [lon, 10]) });
    expect(cut(line, [0, 0])[0].blocks[0].coords).toEqual(cut(before, [0, 0])[0].blocks[0].coords);
    expect(() => readGeoJson(collection(point(3601)))).toThrow(/ten times round/);
  });

  test('tiles cut one by one are those of the pyramid', () => {
    const block = readGeoJson(
      collection({
        type: 'LineString',
        coordinates: Array.from({ length: 400 }, (_, i) => at(0.4 + 0.0004 * i, 0.5 + 0.01 * Math.sin(i / 9))),
      }),
      { name: 'a' },
    );
    const cutter = new TileCutter(block, 9);
    for (const { tile, blocks } of pyramid([block], [9, 9]))
      expect(cutter.tile(tile)!.coords).toEqual(blocks[0].coords);
    expect(cutter.tile({ z: 9, x: 0, y: 0 })).toBeUndefined();
  });

  /** A ring round a middle with radii given one by one, counter-clockwise on the ground; places as parts of the square world. */
  const star = ([x, y]: readonly number[], radii: readonly number[], share = 1): [number, number][] =>
    [...radii, radii[0]].map((r, i) => {
      const turn = (-(i % radii.length) / radii.length) * 2 * Math.PI;
      return [x + share * r * Math.cos(turn), y + share * r * Math.sin(turn)];
    });
  const stars = fc.record({
    middle: fc.tuple(fc.double({ min: 0.2, max: 0.8, noNaN: true }), fc.double({ min: 0.2, max: 0.8, noNaN: true })),
    radii: fc.array(fc.double({ min: 0.02, max: 0.19, noNaN: true }), { minLength: 3, maxLength: 40 }),
    hole: fc.option(fc.double({ min: 0.2, max: 0.8, noNaN: true })),
  });

  /** Whether a point lies within rings by the even-odd rule, and how far from the nearest edge. */
  function within(rings: readonly (readonly (readonly number[])[])[], x: number, y: number): [boolean, number] {
    let inside = false;
    let nearest = Infinity;
    for (const ring of rings)
      for (let i = 0, j = ring.length - 1; i < ring.length; j = i++) {
        const [[ax, ay], [bx, by]] = [ring[i], ring[j]];
        if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) inside = !inside;
        const length = (bx - ax) ** 2 + (by - ay) ** 2;
        const t = length ? Math.max(0, Math.min(1, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / length)) : 0;
        nearest = Math.min(nearest, Math.hypot(x - ax - t * (bx - ax), y - ay - t * (by - ay)));
      }
    return [inside, nearest];
  }

  test('what a tile says of a place is what is there: areas with holes, on any level, up to the rim', () => {
    fc.assert(
      fc.property(
        fc.array(stars, { minLength: 1, maxLength: 5 }),
        fc.integer({ min: 0, max: 7 }),
        fc.array(
          fc.tuple(fc.double({ min: 0.1, max: 0.9, noNaN: true }), fc.double({ min: 0.1, max: 0.9, noNaN: true })),
          { minLength: 30, maxLength: 30 },
        ),
        (shapes, z, places) => {
          const wholes = shapes.map(({ middle, radii, hole }) => [
            star(middle, radii),
            ...(hole === null ? [] : [star(middle, radii, hole).reverse()]),
          ]);
          const geometries = wholes.map((rings) => ({
            type: 'Polygon',
            coordinates: rings.map((ring) => ring.map(([x, y]) => at(x, y))),
          }));
          const cutter = new TileCutter(readGeoJson(collection(...geometries), { name: 'a' }), z, { tolerance: 0 });
          const scale = 2 ** z * 4096;
          for (const [x, y] of places) {
            const tile = { z, x: Math.floor(x * 2 ** z), y: Math.floor(y * 2 ** z) };
            const block = cutter.tile(tile);
            const [tx, ty] = [x * scale - tile.x * 4096, y * scale - tile.y * 4096];
            wholes.forEach((rings, f) => {
              const [inside, away] = within(rings, x, y);
              // Corners lie on whole tile units; a place nearer to an edge than that may fall to either side.
              if (away * scale < 2) return;
              const at = block ? [...block.ids].indexOf(f + 7) : -1;
              const parts = at < 0 ? [] : ringsOf(block!, at);
              expect([z, x, y, within(parts, tx, ty)[0]]).toEqual([z, x, y, inside]);
            });
          }
        },
      ),
      { numRuns: 60, seed: 5 },
    );
  });

  test('mixed features cut one by one are those of the pyramid, whatever else was cut before', () => {
    const paths = fc.array(
      fc.tuple(fc.double({ min: 0.02, max: 0.98, noNaN: true }), fc.double({ min: 0.02, max: 0.98, noNaN: true })),
      { minLength: 2, maxLength: 25 },
    );
    fc.assert(
      fc.property(
        fc.array(stars, { maxLength: 4 }),
        fc.array(paths, { maxLength: 4 }),
        fc.integer({ min: 1, max: 6 }),
        fc.boolean(),
        (shapes, lines, z, measured) => {
          const geometries = [
            ...shapes.map(({ middle, radii }) => ({
              type: 'Polygon',
              coordinates: [star(middle, radii).map(([x, y]) => at(x, y))],
            })),
            ...lines.flatMap((path) => [
              { type: 'LineString', coordinates: path.map(([x, y]) => at(x, y)) },
              { type: 'MultiPoint', coordinates: path.map(([x, y]) => at(x, y)) },
            ]),
          ];
          if (!geometries.length) return;
          const block = readGeoJson(collection(...geometries), { name: 'a' });
          const cutter = new TileCutter(block, z, { measured });
          const tiles = [...pyramid([block], [z, z], { measured, thin: false })];
          // Backwards, so that the cutter goes down other branches than the pyramid did.
          for (const { tile, blocks } of tiles.reverse()) expect(cutter.tile(tile)).toEqual(blocks[0]);
          const named = new Set(tiles.map(({ tile }) => `${tile.x} ${tile.y}`));
          for (let x = 0; x < 2 ** z; x += 3)
            for (let y = 0; y < 2 ** z; y += 3)
              if (!named.has(`${x} ${y}`)) expect(cutter.tile({ z, x, y })).toBeUndefined();
        },
      ),
      { numRuns: 40, seed: 9 },
    );
  });
});
