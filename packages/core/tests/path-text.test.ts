import { describe, expect, test } from '@jest/globals';
import { layAlong, placesAlong } from '@flintwright/core/internal';

describe('text along a path', () => {
  // An L of 100 pixels east and 100 south.
  const bend = [0, 0, 100, 0, 100, 100];

  test('is laid around a place, reads from left to right, and does not go round sharp corners', () => {
    const pieces = layAlong(bend, 40, 4, 0.5, 0.25)!;
    expect(pieces.map(({ x }) => x)).toEqual([35, 45, 55, 65]);
    expect(layAlong(bend, 40, 4, 0.5, 0.5)).toBeUndefined();
    expect(layAlong(bend, 40, 4, 2, 0.5)).toHaveLength(4);
    expect(layAlong(bend, 120, 4, 2, 0.25)).toBeUndefined();
    const back = layAlong([100, 0, 0, 0], 40, 4)!;
    expect(back.map(({ x, turn }) => [x, Math.abs(turn)])).toEqual([
      [35, 0],
      [45, 0],
      [55, 0],
      [65, 0],
    ]);
  });

  test('has more places the longer the path, and keeps those it had', () => {
    expect(placesAlong(800)).toEqual([0.5]);
    expect(placesAlong(1700)).toEqual([0.5, 0.25, 0.75]);
    const longer = placesAlong(8000);
    for (const place of placesAlong(1700)) expect(longer).toContain(place);
    expect(Math.min(...longer.map((place) => Math.min(place, 1 - place)))).toBeGreaterThan(0);
  });
});
