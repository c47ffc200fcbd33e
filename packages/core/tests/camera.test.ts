import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { getSurface } from '@flintwright/core';
import { Camera, changeView, viewPath, fitView, globe, viewHolding } from '@flintwright/core/internal';
import { surfaces } from './sample-surfaces.ts';

const size = { width: 900, height: 600 };

describe('the camera', () => {
  test.each(surfaces)(
    'on %s: what is seen at a pixel is drawn at that pixel, close by and far off',
    (_name, spec, center) => {
      const surface = getSurface(spec);
      fc.assert(
        fc.property(
          fc.integer({ min: 0, max: size.width }),
          fc.integer({ min: 0, max: size.height }),
          fc.double({ min: 1, max: 20, noNaN: true }),
          fc.double({ min: -180, max: 180, noNaN: true }),
          fc.double({ min: 0, max: 55, noNaN: true }),
          (x, y, zoom, bearing, tilt) => {
            const camera = new Camera({ center, zoom, bearing, tilt }, surface, size);
            const place = camera.unproject(x, y);
            if (!place) return;
            const [px, py, near] = camera.project(...place);
            expect(near).toBeGreaterThan(0);
            const off = Math.hypot(px - x, py - y);
            // Where a surface repeats itself, or the ground is seen at a glancing angle, a pixel is a long way.
            if (near > 0.2 && (!surface.wrap || zoom > 5)) expect([x, y, zoom, off < 0.02]).toEqual([x, y, zoom, true]);
          },
        ),
        { numRuns: 150, seed: 7 },
      );
    },
  );

  test.each(surfaces)('on %s: many places at once come to the same pixels as one by one', (_name, spec, center) => {
    const surface = getSurface(spec);
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(fc.double({ min: -180, max: 180, noNaN: true }), fc.double({ min: -89, max: 89, noNaN: true })),
          { minLength: 1, maxLength: 30 },
        ),
        fc.double({ min: 1, max: 16, noNaN: true }),
        fc.double({ min: -180, max: 180, noNaN: true }),
        fc.double({ min: 0, max: 55, noNaN: true }),
        (places, zoom, bearing, tilt) => {
          const camera = new Camera({ center, zoom, bearing, tilt }, surface, size);
          const meters = new Float64Array(3 * places.length);
          const at: [number, number, number] = [0, 0, 0];
          places.forEach(([lon, lat], i) =>
            meters.set(surface.forward(lon, lat, at) ? at : [NaN, at[1], at[2]], 3 * i),
          );
          // Every other one is asked for; the rest stays as it was.
          const slots = Int32Array.from(places.keys()).filter((i) => i % 2 === 0);
          const pixels = new Float64Array(2 * places.length).fill(-7);
          camera.pixelsInto(meters, slots, pixels);
          places.forEach(([lon, lat], i) => {
            const [x, y, near] = camera.project(lon, lat);
            if (i % 2) expect([pixels[2 * i], pixels[2 * i + 1]]).toEqual([-7, -7]);
            else if (near <= 0) expect(pixels[2 * i]).toBeNaN();
            else {
              const slack = 1e-6 * (1 + Math.abs(x) + Math.abs(y));
              expect(Math.abs(pixels[2 * i] - x)).toBeLessThan(slack);
              expect(Math.abs(pixels[2 * i + 1] - y)).toBeLessThan(slack);
            }
          });
        },
      ),
      { numRuns: 60, seed: 11 },
    );
  });

  test('the globe hides its far side, and dragging brings the ground under the pointer', () => {
    const view = { center: [0, 20] as [number, number], zoom: 2.5, bearing: 0, tilt: 0 };
    const camera = new Camera(view, globe, size);
    expect(camera.project(180, -20)[2]).toBeLessThanOrEqual(0);
    expect(camera.project(0, 20)).toEqual([450, 300, 1]);
    expect(camera.unproject(5, 5)).toBeUndefined();
    const ground = camera.unproject(500, 350)!;
    const held = viewHolding(view, globe, size, ground, [430, 280]);
    const [x, y] = new Camera(held, globe, size).project(...ground);
    expect(Math.hypot(x - 430, y - 280)).toBeLessThan(0.5);
    // A journey over the globe follows a great circle: half-way between two places on a parallel it is nearer to the pole.
    const from = { ...view, center: [-60, 50] as [number, number], zoom: 5 };
    const half = viewPath(from, { ...from, center: [60, 50] }, globe, size)(0.5);
    expect(half.center[0]).toBeCloseTo(0, 6);
    expect(half.center[1]).toBeCloseTo(67.24, 1);
    const framed = fitView(view, globe, size, [
      [10, 10],
      [20, 10],
      [20, 20],
      [10, 20],
    ]);
    expect(framed.center[0]).toBeCloseTo(15, 1);
    const fits = new Camera(framed, globe, size);
    for (const corner of [
      [10, 10],
      [20, 20],
    ]) {
      const [cx, cy] = fits.project(corner[0], corner[1]);
      expect(cx > 30 && cx < 870 && cy > 30 && cy < 570).toBe(true);
    }
    expect(changeView(view, { center: [0, 89] }, { zoom: [0, 24], tilt: [0, 60], latitude: 89.9 }).center[1]).toBe(89);
  });
});
