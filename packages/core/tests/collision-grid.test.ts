import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { CollisionGrid } from '@flintwright/core/internal';

describe('room on the screen', () => {
  test('a box is free when it touches no other, wherever they lie and however large they are', () => {
    const edge = fc.oneof(fc.integer({ min: -2000, max: 14000 }), fc.integer({ min: 0, max: 300 }));
    const size = fc.oneof(fc.integer({ min: 1, max: 60 }), fc.integer({ min: 1, max: 9000 }));
    const box = fc
      .tuple(edge, edge, size, size)
      .map(([x, y, w, h]) => [x, y, x + w, y + h] as [number, number, number, number]);
    fc.assert(
      fc.property(fc.array(box, { maxLength: 400 }), fc.array(box, { minLength: 1, maxLength: 40 }), (taken, asked) => {
        const crowd = new CollisionGrid();
        // A second use after it has been cleared is as good as the first.
        for (const one of asked) crowd.take(...one);
        crowd.clear();
        for (const one of taken) crowd.take(...one);
        for (const [l, t, r, b] of asked)
          expect(crowd.isFree(l, t, r, b)).toBe(
            taken.every(([l2, t2, r2, b2]) => r <= l2 || l >= r2 || b <= t2 || t >= b2),
          );
      }),
      { numRuns: 60, seed: 32 },
    );
  });
});
