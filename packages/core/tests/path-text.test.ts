import { describe, expect, test } from '@jest/globals';
import { readGeoJson } from '@flintwright/core';
import { labelAnchorsOf, layAlong, placesAlong } from '@flintwright/core/internal';
import fc from 'fast-check';

const pairs = (flat: number[]) => Array.from({ length: flat.length / 2 }, (_, i) => flat.slice(2 * i, 2 * i + 2));

describe('text along a path', () => {
  // An L of 100 pixels east and 100 south.
  const bend = [0, 0, 100, 0, 100, 100];

  test('is laid around a place, reads from left to right, and does not go round sharp corners', () => {
    const pieces = layAlong(bend, 40, 4, { around: 0.25 })!;
    expect(pieces.map(({ x }) => x)).toEqual([35, 45, 55, 65]);
    expect(layAlong(bend, 40, 4)).toBeUndefined();
    expect(layAlong(bend, 40, 4, { sharpest: 2, total: 2 })).toHaveLength(4);
    expect(layAlong(bend, 120, 4, { around: 0.25, sharpest: 2, total: 2 })).toBeUndefined();
    const back = layAlong([100, 0, 0, 0], 40, 4)!;
    expect(back.map(({ x, turn }) => [x, Math.abs(turn)])).toEqual([
      [35, 0],
      [45, 0],
      [55, 0],
      [65, 0],
    ]);
  });

  test('bends by at most 0.26 between letters and 1.2 in all, on a smoothed line', () => {
    // A course of short pieces that jitters by two pixels about a circle.
    const jitter = (i: number) => 200 + 2 * Math.sin(i * 2.3);
    const course = Array.from({ length: 240 }, (_, i) => [
      jitter(i) * Math.cos(i / 60),
      jitter(i) * Math.sin(i / 60),
    ]).flat();
    const size = 14;
    expect(layAlong(course, 190, 57)).toBeUndefined();
    const pieces = layAlong(course, 190, 14, { smooth: 1.5 * size })!;
    for (const { x, y } of pieces) expect(Math.abs(Math.hypot(x, y) - 200)).toBeLessThan(1.6);
    const turns = pieces.map(({ turn }) => turn);
    for (let k = 1; k < turns.length; k++) expect(Math.abs(turns[k] - turns[k - 1])).toBeLessThan(0.26);
    // 190 pixels of the circle turn by 0.95, 260 by 1.3.
    for (let k = 1; k < pieces.length; k++)
      expect(Math.hypot(pieces[k].x - pieces[k - 1].x, pieces[k].y - pieces[k - 1].y)).toBeCloseTo(190 / 14, 0);
    expect(layAlong(course, 260, 19, { smooth: 1.5 * size })).toBeUndefined();
  });

  test('follows the middle of an area', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -0.5, max: 0.5, noNaN: true }),
        fc.double({ min: 0, max: 6.28, noNaN: true }),
        fc.double({ min: 12, max: 40, noNaN: true }),
        (bend, turn, width) => {
          // A band around a parabola, as a ring, somewhere on the plane.
          const middle = (t: number): [number, number] => [t * 200, bend * 200 * t * t];
          const side = (s: number) =>
            Array.from({ length: 41 }, (_, i): [number, number] => {
              const t = (i - 20) / 20;
              const [nx, ny] = [-2 * bend * t, 1];
              const long = Math.hypot(nx, ny);
              const [x, y] = middle(t);
              return [x + (s * width * nx) / long, y + (s * width * ny) / long];
            });
          const place = ([x, y]: [number, number]) => [
            10 + (Math.cos(turn) * x - Math.sin(turn) * y) / 100,
            -3 + (Math.sin(turn) * x + Math.cos(turn) * y) / 100,
          ];
          const ring = [...side(1), ...side(-1).reverse()].map(place).flat();
          const block = readGeoJson({
            type: 'FeatureCollection',
            features: [
              {
                type: 'Feature',
                properties: { n: 'x' },
                geometry: { type: 'Polygon', coordinates: [pairs([...ring, ring[0], ring[1]])] },
              },
            ],
          });
          const layer = { rules: [{ symbols: { label: { along: true, text: { bind: () => () => 'x' } } } }] };
          const { traces } = labelAnchorsOf(layer as never, { ...block, extent: 0 }, [0], {
            scale: 1,
            offsetX: 0,
            offsetY: 0,
          });
          const course = Array.from({ length: 201 }, (_, i) => place(middle((i - 100) / 100)));
          for (const [x, y] of pairs([...traces!])) {
            const away = Math.min(...course.map(([cx, cy]) => Math.hypot(cx - x, -cy - y)));
            expect(away).toBeLessThan(width * 0.006);
          }
          expect(traces!.length).toBe(34);
        },
      ),
      { numRuns: 60 },
    );
  });

  test('has more places the longer the path, and keeps those it had', () => {
    expect(placesAlong(800)).toEqual([0.5]);
    expect(placesAlong(1700)).toEqual([0.5, 0.25, 0.75]);
    const longer = placesAlong(8000);
    for (const place of placesAlong(1700)) expect(longer).toContain(place);
    expect(Math.min(...longer.map((place) => Math.min(place, 1 - place)))).toBeGreaterThan(0);
  });
});
