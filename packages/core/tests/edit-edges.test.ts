// Corrections at their limits: bent cuts, heights, poles and the antimeridian, holes in holes, the order of features.
import { describe, expect, test } from '@jest/globals';
import { Fault } from '@flintwright/core';
import {
  circleOf,
  cutGeometry,
  EditDocument,
  insertVertex,
  joinAreas,
  joinLines,
  measureOf,
  moved,
  pathsOf,
  problemsOf,
  Snapper,
  turned,
  withoutArea,
  type EditFeature,
  type EditGeometry,
} from '@flintwright/core/edit';
import { randomFrom } from './sample-random.ts';

const square = (x: number, y: number, side: number, ...height: number[]): number[][] =>
  [
    [x, y],
    [x + side, y],
    [x + side, y + side],
    [x, y + side],
    [x, y],
  ].map((spot) => [...spot, ...height]);
const area = (...rings: number[][][]): EditGeometry => ({ type: 'Polygon', coordinates: rings });
const areas = (...polygons: number[][][][]): EditGeometry => ({ type: 'MultiPolygon', coordinates: polygons });
const feature = (id: string): EditFeature => ({
  type: 'Feature',
  id,
  geometry: { type: 'Point', coordinates: [0, 0] },
  properties: {},
});
const planar = (geometry: EditGeometry) => measureOf(geometry, 'plane').area;
const spotsOf = (geometry: EditGeometry) => pathsOf(geometry).flatMap(({ spots }) => spots);

test('undo and redo keep the order of the features, a draft too', () => {
  const document = new EditDocument(['a', 'b', 'c', 'd'].map(feature));
  const keys = () => [...document.features.keys()].join('');
  document.apply('delete', new Map([['b', undefined]]));
  document.apply('draw', new Map([['e', feature('e')]]));
  document.apply(
    'join',
    new Map([
      ['a', undefined],
      ['d', feature('d')],
    ]),
  );
  expect(keys()).toBe('cde');
  const restored = new EditDocument(['a', 'b', 'c', 'd'].map(feature));
  restored.restore(structuredClone(document.draft()));
  for (const one of [document, restored]) {
    const seen = () => [...one.features.keys()].join('');
    one.undo();
    expect(seen()).toBe('acde');
    one.undo();
    one.undo();
    expect(seen()).toBe('abcd');
    one.redo();
    one.redo();
    expect(seen()).toBe('acde');
  }
});

describe('cuts along bent lines', () => {
  test('that cross themselves are refused', () => {
    const cut = [
      [-1, 2],
      [3, 2],
      [3, 3],
      [2, 3],
      [2, -1],
    ];
    expect(() => cutGeometry(area(square(0, 0, 4)), cut)).toThrow(Fault);
  });

  test('give valid pieces that fill the area, or are refused', () => {
    const random = randomFrom(29);
    let [cuts, refused] = [0, 0];
    for (let n = 0; n < 4000; n++) {
      const count = 3 + Math.floor(random() * 6);
      const ring = Array.from({ length: count }, (_, i) => {
        const [angle, radius] = [(2 * Math.PI * i) / count, 2 + 6 * random()];
        return [radius * Math.cos(angle), radius * Math.sin(angle)];
      });
      // Every other cut runs along a grid, so that it meets corners and edges.
      const place = () => (n % 2 ? Math.round(random() * 20 - 10) : random() * 20 - 10);
      const whole = n % 3 ? area([...ring, ring[0]]) : area(square(-5, -5, 10));
      if (problemsOf(whole).length) continue;
      const cut = Array.from({ length: 2 + Math.floor(random() * 4) }, () => [place(), place()]);
      try {
        const pieces = cutGeometry(whole, cut);
        cuts++;
        expect(pieces.flatMap((piece) => problemsOf(piece))).toEqual([]);
        expect(pieces.reduce((sum, piece) => sum + planar(piece), 0)).toBeCloseTo(planar(whole), 6);
      } catch (error) {
        if (!(error instanceof Fault)) throw error;
        expect(error.code).toBe('edit.cut');
        refused++;
      }
    }
    expect(cuts).toBeGreaterThan(800);
    expect(refused).toBeGreaterThan(100);
  });
});

describe('heights', () => {
  // On a plane, so that every interpolated height can be computed from the place: 10 + 2x + 3y.
  const plane = (x: number, y: number) => [x, y, 10 + 2 * x + 3 * y];
  const sloped = area([plane(0, 0), plane(4, 0), plane(4, 4), plane(0, 4), plane(0, 0)]);
  const isSloped = (geometry: EditGeometry) =>
    spotsOf(geometry).every(([x, y, height]) => Math.abs(height - (10 + 2 * x + 3 * y)) < 1e-9);

  test('survive cuts of areas and lines, and vertices put in', () => {
    const pieces = cutGeometry(sloped, [
      [-1, 1],
      [2, 1.5],
      [5, 2],
    ]);
    expect(pieces.map(isSloped)).toEqual([true, true]);
    const parts = cutGeometry({ type: 'LineString', coordinates: [plane(0, 0), plane(3, 1)] }, [
      [1, -5],
      [1, 5],
    ]);
    expect(parts.map(isSloped)).toEqual([true, true]);
    expect(isSloped(insertVertex(sloped, { path: 0, index: 3 }, [0, 2]))).toBe(true);
  });

  test('survive joins and holes; where both have one, the mean stands', async () => {
    const right = area([plane(4, 1), plane(8, 1), plane(8, 3), plane(4, 3), plane(4, 1)]);
    expect(isSloped(await joinAreas(sloped, right))).toBe(true);
    expect(isSloped((await withoutArea(sloped, area(square(3, 3, 5))))!)).toBe(false);
    const joined = await joinAreas(area(square(0, 0, 1, 10)), area(square(1, 0, 1, 20)));
    const heights = spotsOf(joined).map(([x, , height]) => [x, height]);
    for (const [x, height] of heights) expect(height).toBe([10, 15, 20][x]);
    const line = joinLines([
      {
        type: 'LineString',
        coordinates: [
          [0, 0, 1],
          [1, 0, 3],
        ],
      },
      {
        type: 'LineString',
        coordinates: [
          [2, 0, 9],
          [1, 0, 5],
        ],
      },
    ]);
    expect(line.coordinates).toEqual([
      [0, 0, 1],
      [1, 0, 4],
      [2, 0, 9],
    ]);
  });
});

describe('the edges of the world', () => {
  const isInside = (geometry: EditGeometry) =>
    spotsOf(geometry).every(([x, y]) => Number.isFinite(x) && Math.abs(y) <= 90 && Math.abs(x) <= 270);

  test('moves, turns and snaps stay in it', () => {
    const shapes = [
      area(square(-2, 80, 9)),
      area(square(174, -3, 8)),
      area(square(30, -89, 4)),
      area(square(0, 50, 3)),
    ];
    const places = [
      [0, 89.9],
      [179.9, 0],
      [-179.9, -89.9],
      [10, 90],
      [181, 85],
      [-180, -90],
      [725, 40],
    ];
    for (const shape of shapes)
      for (const to of places) {
        expect(isInside(moved(shape, pathsOf(shape)[0].spots[0], to, 'lonlat'))).toBe(true);
        for (const degrees of [33, 90, 180])
          expect(isInside(turned(shape, [to[0] % 360, to[1]], { degrees, factor: 3 }, 'lonlat'))).toBe(true);
      }
    const snapper = new Snapper('lonlat');
    for (const grid of [1000, 70000])
      for (const at of places) {
        const [x, y] = snapper.snap(at, {
          reach: 5000,
          grid,
          from: [
            [10, 89.8],
            [20, 89.9],
          ],
        }).at;
        expect(Math.abs(y)).toBeLessThanOrEqual(90);
        expect(Number.isFinite(x)).toBe(true);
      }
  });

  test('near a pole places snap to what is near on the ground', () => {
    const snapper = new Snapper('lonlat');
    snapper.set('hut', { type: 'Point', coordinates: [170, 89.9999] });
    expect(snapper.snap([-10, 89.9999], { reach: 30 })).toEqual({ at: [170, 89.9999], to: 'vertex' });
    expect(snapper.snap([-10, 89.9], { reach: 30 }).to).toBe('none');
  });

  test.each([
    [0, 90, 50000],
    [40, 89.9, 50000],
    [-170, -89.7, 80000],
    [179.9, 89.95, 20000],
  ])('a circle over a pole, at %f, %f with %f m, measures as a circle', (lon, lat, radius) => {
    const circle = circleOf([lon, lat], radius, 'lonlat', 360);
    expect(problemsOf(circle)).toEqual([]);
    const { length, area: size } = measureOf(circle, 'lonlat');
    // A polygon of 360 corners lies within one part in ten thousand of its circle.
    expect(length / (2 * Math.PI * radius)).toBeCloseTo(1, 3);
    expect(size / (Math.PI * radius ** 2)).toBeCloseTo(1, 3);
    expect(isInside(circle)).toBe(true);
  });
});

describe('what a polygon may not have', () => {
  const kinds = (geometry: EditGeometry) => problemsOf(geometry).map(({ kind }) => kind);

  test('holes within holes, and parts that cover each other', () => {
    expect(kinds(area(square(0, 0, 9), square(1, 1, 7), square(2, 2, 2)))).toEqual(['overlap']);
    expect(kinds(areas([square(0, 0, 9)], [square(2, 2, 2)]))).toEqual(['overlap']);
    expect(kinds(areas([square(0, 0, 9)], [square(0, 0, 9)]))).not.toEqual([]);
    expect(kinds(areas([square(0, 0, 4)], [square(2, 2, 4)]))).not.toEqual([]);
    expect(kinds(areas([square(0, 0, 9), square(1, 1, 6)], [square(2, 2, 2)]))).toEqual([]);
    expect(kinds(area(square(0, 0, 9), square(1, 1, 2), square(5, 5, 2)))).toEqual([]);
  });
});
