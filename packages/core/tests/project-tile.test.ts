import { describe, expect, test } from '@jest/globals';
import { doubleArea, ellipsoids, getSurface, readGeoJson, TileCutter, type SurfaceSpec } from '@flintwright/core';
import { projectTile, globe, greatCircles, groundOf, lonLatGrid, unwrapped } from '@flintwright/core/internal';

const box = (west: number, south: number, east: number, north: number) =>
  readGeoJson({
    type: 'Polygon',
    coordinates: [
      [
        [west, south],
        [east, south],
        [east, north],
        [west, north],
        [west, south],
      ],
    ],
  });

const areaOf = (block: ReturnType<typeof box>) => {
  let sum = 0;
  for (let p = 0; p + 1 < block.partRings.length; p++)
    for (let r = block.partRings[p]; r < block.partRings[p + 1]; r++)
      sum +=
        (Math.abs(doubleArea(block.coords, block.ringStarts[r], block.ringStarts[r + 1])) / 2) *
        (r === block.partRings[p] ? 1 : -1);
  return sum;
};

describe('laying tiles out', () => {
  test.each([
    ['equal-area, far from the center', { method: 'lambert-azimuthal', lon0: 0, lat0: 30 }],
    ['cut by the antimeridian of the surface', { method: 'equal-earth', lon0: 150 }],
    ['in a cone', { method: 'albers', lon0: 0, lat0: 40, lat1: 20, lat2: 60 }],
    ['round a pole', { method: 'lambert-azimuthal', lon0: 0, lat0: -90 }],
  ] as [string, SurfaceSpec][])('keeps areas on equal-area surfaces: %s', (_name, spec) => {
    const surface = getSurface(spec);
    // Half the earth, in one box and in boxes of 60 degrees, from tiles of the surface's own grid.
    let sum = 0;
    for (let lon = -180; lon < 180; lon += 120) {
      const cutter = new TileCutter(box(lon, -40, lon + 120, 50), 16, { grid: surface.grid, buffer: 0 });
      for (let x = 0; x < 8; x++)
        for (let y = 0; y < 8; y++) {
          const block = cutter.tile({ z: 3, x, y });
          if (block) sum += areaOf(projectTile(block, { z: 3, x, y }, surface.grid, surface).fills);
        }
    }
    const { a, b, e } = ellipsoids.wgs84;
    const q = (lat: number) => {
      const s = Math.sin((lat * Math.PI) / 180);
      return b * b * (s / (1 - e * e * s * s) + Math.atanh(e * s) / e);
    };
    const truth = Math.PI * (q(50) - q(-40));
    expect(a).toBe(6378137);
    // The rim that azimuthal surfaces leave out lies outside the box, or takes little of it.
    expect(Math.abs(sum / truth - 1)).toBeLessThan(0.004);
  });

  test('what crosses the edge of a surface is cut there, and no outline runs along the cut', () => {
    const surface = getSurface({ method: 'robinson', lon0: 150 });
    const [west, , east] = surface.bounds;
    // 20 degrees wide across 30° W, where the surface ends.
    const cutter = new TileCutter(box(-40, 10, -20, 20), 16, { grid: surface.grid, buffer: 0 });
    const pieces = [
      [0, 0],
      [1, 0],
    ].map(([x]) => {
      const block = cutter.tile({ z: 1, x, y: 0 })!;
      const { fills, lines, frame } = projectTile(block, { z: 1, x, y: 0 }, surface.grid, surface);
      const xs = (coords: ArrayLike<number>) =>
        Array.from(coords)
          .filter((_, i) => i % 2 === 0)
          .map((v) => v + frame.anchor[0]);
      return { fills: xs(fills.coords), lines: xs(lines.coords), kinds: lines.kinds[0] };
    });
    // One piece at each end of the map, nothing in between.
    expect(Math.max(...pieces[0].fills)).toBeLessThan(west + 0.06 * (east - west));
    expect(Math.min(...pieces[1].fills)).toBeGreaterThan(east - 0.06 * (east - west));
    expect(pieces.map(({ kinds }) => kinds)).toEqual([2, 2]);
  });

  test('on the globe fills are cut small, and the ground of a tile bends with it', () => {
    const block = new TileCutter(box(-10, -10, 100, 70), 16, { grid: lonLatGrid() }).tile({ z: 3, x: 4, y: 3 })!;
    const { fills, frame } = projectTile(block, { z: 3, x: 4, y: 3 }, lonLatGrid(), globe);
    let widest = 0;
    for (let r = 0; r + 1 < fills.ringStarts.length; r++)
      for (let i = fills.ringStarts[r]; i < fills.ringStarts[r + 1]; i++)
        widest = Math.max(
          widest,
          Math.hypot(
            fills.coords[2 * i] - fills.coords[2 * fills.ringStarts[r]],
            fills.coords[2 * i + 1] - fills.coords[2 * fills.ringStarts[r] + 1],
          ),
        );
    // Chords of a ball: a flat piece of that width lies less than 1/900 of the radius below it.
    expect(widest ** 2 / 8 / globe.radius).toBeLessThan(globe.radius / 900);
    expect(Math.hypot(...frame.anchor)).toBeCloseTo(globe.radius, 3);
    const ground = groundOf({ z: 3, x: 4, y: 3 }, lonLatGrid(), globe);
    expect(ground.indices.length).toBeGreaterThan(1000);
    expect(ground.places.every(Number.isFinite)).toBe(true);
  });

  test('rings that leap over the antimeridian run on, rings round a pole are closed by way of it, boxes mean what they say', () => {
    const ring = (coordinates: number[][]) => unwrapped(readGeoJson({ type: 'Polygon', coordinates: [coordinates] }));
    const across = ring([
      [170, 0],
      [-170, 0],
      [-165, 5],
      [-170, 10],
      [170, 10],
      [170, 0],
    ]);
    expect(
      Math.max(...Array.from(across.coords).filter((_, i) => i % 2 === 0)) -
        Math.min(...Array.from(across.coords).filter((_, i) => i % 2 === 0)),
    ).toBeCloseTo(25, 9);
    const cap = ring([
      [-120, -70],
      [0, -75],
      [120, -70],
      [-179, -72],
      [-120, -70],
    ]);
    expect(Array.from(cap.coords)).toContain(-90);
    const whole = readGeoJson({
      type: 'Polygon',
      coordinates: [
        [
          [-170, -80],
          [170, -80],
          [170, 80],
          [-170, 80],
          [-170, -80],
        ],
      ],
    });
    expect(unwrapped(whole)).toBe(whole);
    const arc = greatCircles(
      readGeoJson({
        type: 'LineString',
        coordinates: [
          [-60, 50],
          [60, 50],
        ],
      }),
    );
    expect(Math.max(...Array.from(arc.coords).filter((_, i) => i % 2 === 1))).toBeCloseTo(67.2, 1);
  });
});
