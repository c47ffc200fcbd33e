import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { isInView, lengthOfPath, repetitions, spotsInView } from '../../src/labels/label-boxes.js';

const path = (...places: [number, number][]) => Float64Array.from(places.flat());

describe('labels along a line', () => {
  test('stand as often as their spacing allows, in powers of two, so that spots stay while the map zooms', () => {
    expect([0, 399, 799, 800, 1599, 1600, 3200, NaN].map((length) => repetitions(length, 400))).toEqual([
      1, 1, 1, 2, 2, 4, 8, 1,
    ]);
    fc.assert(
      fc.property(
        fc.double({ min: 1, max: 1e6, noNaN: true }),
        fc.integer({ min: 60, max: 900 }),
        (length, spacing) => {
          const count = repetitions(length, spacing);
          // Neighbors are at least the spacing apart, and less than twice of it.
          if (count > 1) {
            expect(length / count).toBeGreaterThanOrEqual(spacing);
            expect(length / count).toBeLessThan(2 * spacing);
          }
          expect(Math.log2(count) % 1).toBe(0);
          // Twice as close, they are twice as many.
          if (count > 1) expect(repetitions(2 * length, spacing)).toBe(2 * count);
        },
      ),
    );
  });

  test('are tried at spots in view, those in the middle of their stretch first', () => {
    const line = path([-1000, 50], [1000, 50]);
    const total = lengthOfPath(line);
    expect(total).toBe(2000);
    const spots = spotsInView(line, total, 4, 400, 100);
    // Of four stretches of 500 pixels, the third begins at 0 and fills the view.
    expect(spots).toHaveLength(1);
    const places = spots[0].map((share) => share * total - 1000);
    expect(places.every((x) => x > 0 && x < 400)).toBe(true);
    const away = places.map((x) => Math.abs(x - 250));
    expect(away).toEqual([...away].sort((a, b) => a - b));
    expect(spotsInView(line, total, 4, 400, 40)).toEqual([]);
  });

  test('are found on lines that bend and leave the view, each once', () => {
    const bent = path([50, -500], [50, 50], [900, 50], [900, 700], [100, 700], [100, 80]);
    const total = lengthOfPath(bent);
    const spots = spotsInView(bent, total, 16, 400, 300).flat();
    expect(new Set(spots).size).toBe(spots.length);
    // What is in view is the end of the first piece, the beginning of the second, and the end of the last.
    const seen = [...spots].sort((a, b) => a - b).map((share) => share * total);
    expect(seen.every((at) => (at > 500 && at < 900) || at > total - 220)).toBe(true);
    expect([seen.some((at) => at < 900), seen.some((at) => at > total - 220)]).toEqual([true, true]);
  });
});

test('a path is in view when its box reaches into it, and not where it is out of sight', () => {
  const inView = (...places: [number, number][]) => isInView(path(...places), 800, 600);
  expect(inView([100, 100], [200, 200])).toBe(true);
  expect(inView([-50, 300], [900, 300])).toBe(true);
  expect(inView([-50, 300], [-10, 300])).toBe(false);
  expect(inView([100, 700], [200, 900])).toBe(false);
  expect(inView([NaN, NaN], [200, 200])).toBe(false);
});
