import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { classBreaks } from '@flintwright/core';

describe('class limits', () => {
  test('equal, quantile and natural, against values worked out by hand', () => {
    const values = [1, 2, 3, 10, 11, 12, 20, 21, 25];
    expect(classBreaks(values, 'equal', 4)).toEqual([7, 13, 19]);
    // Hyndman and Fan, definition 7: position (n − 1)p.
    expect(classBreaks(values, 'quantile', 4)).toEqual([3, 11, 20]);
    expect(classBreaks([1, 2, 3, 4], 'quantile', 2)).toEqual([2.5]);
    expect(classBreaks(values, 'natural', 3)).toEqual([10, 20]);
    expect([
      classBreaks([], 'equal', 3),
      classBreaks([4, 4, 4], 'quantile', 3),
      classBreaks([NaN, 1, 2], 'equal', 2),
    ]).toEqual([[], [4], [1.5]]);
    // Ties allow fewer classes than asked for.
    expect(classBreaks([1, 1, 1, 1, 9], 'quantile', 4)).toEqual([]);
  });

  test('natural breaks are the best there are', () => {
    const cost = (values: number[], limits: number[]) => {
      const groups: number[][] = [[]];
      for (const v of values) {
        if (limits.includes(v) && groups[groups.length - 1].every((w) => w < v) && groups[groups.length - 1].length)
          groups.push([]);
        groups[groups.length - 1].push(v);
      }
      return groups.reduce((sum, group) => {
        const mean = group.reduce((a, b) => a + b, 0) / group.length;
        return sum + group.reduce((a, b) => a + (b - mean) ** 2, 0);
      }, 0);
    };
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer({ min: 0, max: 200 }), { minLength: 4, maxLength: 9 }), (numbers) => {
        const values = [...numbers].sort((a, b) => a - b);
        const found = cost(values, classBreaks(values, 'natural', 3));
        for (let i = 1; i < values.length - 1; i++)
          for (let j = i + 1; j < values.length; j++)
            expect(found).toBeLessThanOrEqual(cost(values, [values[i], values[j]]) + 1e-6);
      }),
      { numRuns: 150, seed: 3 },
    );
  });
});
