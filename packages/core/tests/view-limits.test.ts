import { describe, expect, test } from '@jest/globals';
import type { View } from '@flintwright/core';
import { changeView, defaultLimits } from '@flintwright/core/internal';

describe('limits of a view', () => {
  const view: View = { center: [0, 0], zoom: 3, bearing: 0, tilt: 0 };
  const within = (bounds: [number, number, number, number], lon: number, lat = 0) =>
    changeView(view, { center: [lon, lat] }, { ...defaultLimits, bounds }).center;

  test('the middle stays within a region, also across the antimeridian', () => {
    expect(within([-20, -10, 20, 10], 5, 5)).toEqual([5, 5]);
    expect(within([-20, -10, 20, 10], 60, 40)).toEqual([20, 10]);
    expect(within([-20, -10, 20, 10], -170, -40)).toEqual([-20, -10]);
    expect(within([170, -10, -170, 10], 179)).toEqual([179, 0]);
    expect(within([170, -10, -170, 10], -175)).toEqual([-175, 0]);
    expect(within([170, -10, -170, 10], 100)).toEqual([170, 0]);
    expect(within([170, -10, -170, 10], -100)).toEqual([-170, 0]);
  });
});
