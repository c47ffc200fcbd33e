// The rim of a globe and the rows of web Mercator that are carried on to the poles.
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { getSurface } from '@flintwright/core';
import { Camera, mercatorGrid, webMercator } from '@flintwright/core/internal';
import { groundOf, fromLocal } from '@flintwright/core/internal';

const globe = getSurface('globe');
const size = { width: 800, height: 600 };
const camera = (lon: number, lat: number, zoom = 2) =>
  new Camera({ center: [lon, lat], zoom, bearing: 0, tilt: 0 }, globe, size);
const placeOf = (lon: number, lat: number): [number, number, number] => {
  const at: [number, number, number] = [0, 0, 0];
  globe.forward(lon, lat, at);
  return at;
};

describe('how far a place is within the horizon', () => {
  test('1 in the middle of the disc, 0 at its rim, below beyond, and always 1 on a plane', () => {
    const from = camera(0, 0);
    expect(from.sight(...placeOf(0, 0))).toBeCloseTo(1, 9);
    expect(from.sight(...placeOf(180, 0))).toBeLessThan(0);
    const flat = new Camera({ center: [0, 0], zoom: 2, bearing: 0, tilt: 0 }, webMercator, size);
    expect(flat.sight(1e9, 0, 0)).toBe(1);
    // The horizon of an eye at a distance of d radii from the center lies acos(1 / d) away.
    const d = 1 + (from.distance * from.metresPerPixel) / globe.radius;
    const horizon = (Math.acos(1 / d) * 180) / Math.PI;
    expect(from.sight(...placeOf(horizon, 0))).toBeCloseTo(0, 9);
    expect(from.sight(...placeOf(horizon - 1, 0))).toBeGreaterThan(0);
    expect(from.sight(...placeOf(horizon + 1, 0))).toBeLessThan(0);
  });

  test('falls with the distance from the middle, whichever way', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -180, max: 180 }),
        fc.integer({ min: -80, max: 80 }),
        fc.double({ min: 0, max: 2 * Math.PI, noNaN: true }),
        (lon, lat, direction) => {
          const from = camera(lon, lat);
          const [a, b] = [(lon * Math.PI) / 180, (lat * Math.PI) / 180];
          const sights = [0, 10, 25, 45, 70, 110].map((away) => {
            // The place at a distance and direction from another on a sphere.
            const d = (away * Math.PI) / 180;
            const y = Math.asin(Math.sin(b) * Math.cos(d) + Math.cos(b) * Math.sin(d) * Math.cos(direction));
            const x =
              a + Math.atan2(Math.sin(direction) * Math.sin(d) * Math.cos(b), Math.cos(d) - Math.sin(b) * Math.sin(y));
            return from.sight(...placeOf((x * 180) / Math.PI, (y * 180) / Math.PI));
          });
          expect(sights).toEqual([...sights].sort((one, other) => other - one));
          // What is in sight is what faces the eye.
          expect(sights.map((sight) => sight >= 0)).toEqual([true, true, true, true, sights[4] >= 0, false]);
        },
      ),
    );
  });
});

describe('the poles', () => {
  /** Greatest and least latitude that the ground of a tile reaches. */
  const reach = (z: number, y: number): [number, number] => {
    const { frame, places } = groundOf({ z, x: 0, y }, mercatorGrid, globe);
    const at: [number, number, number] = [0, 0, 0];
    const lats = Array.from({ length: places.length / 2 }, (_, i) => {
      if (Number.isNaN(places[2 * i])) return NaN;
      fromLocal(frame, globe.radius, places[2 * i], places[2 * i + 1], at);
      return globe.inverse(...at)![1];
    }).filter((lat) => !Number.isNaN(lat));
    return [Math.min(...lats), Math.max(...lats)];
  };

  test.each([2, 3, 5, 8])('are covered by the outermost rows of web Mercator at level %i', (z) => {
    expect(reach(z, 0)[1]).toBeCloseTo(90, 4);
    expect(reach(z, 2 ** z - 1)[0]).toBeCloseTo(-90, 4);
  });

  test('tiles that do not touch the edge stay where they are', () => {
    // The second row of level 3 ends at atan(sinh(π / 2)), 66.51°.
    const [low, high] = reach(3, 2);
    expect(high).toBeCloseTo((Math.atan(Math.sinh(Math.PI / 2)) * 180) / Math.PI, 6);
    expect(low).toBeCloseTo((Math.atan(Math.sinh(Math.PI / 4)) * 180) / Math.PI, 6);
  });
});
