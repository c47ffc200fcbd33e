// Who stands where on the screen: the room of marks, and markers in their order.
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Camera, CollisionGrid, webMercator } from '@flintwright/core/internal';
import { MarkRoom } from '../../src/labels/mark-room.js';
import { MarkerPositions } from '../../src/markers/marker-positions.js';

describe('the room of marks', () => {
  const pixel = fc.integer({ min: -100, max: 900 });
  const mark = fc.record({ x: pixel, y: pixel, half: fc.integer({ min: 1, max: 90 }) });

  test('is free of a box just where none of them reaches into it', () => {
    fc.assert(
      fc.property(fc.array(mark, { maxLength: 20 }), pixel, pixel, pixel, pixel, (marks, x0, y0, x1, y1) => {
        const room = new MarkRoom();
        for (const { x, y, half } of marks) room.add(x, y, half);
        const box = [Math.min(x0, x1), Math.min(y0, y1), Math.max(x0, x1) + 1, Math.max(y0, y1) + 1] as const;
        const [left, top, right, bottom] = box;
        const free = marks.every(
          ({ x, y, half }) => x + half <= left || x - half >= right || y + half <= top || y - half >= bottom,
        );
        expect(room.isFree(box, [-1e6, -1e6])).toBe(free);
      }),
    );
  });

  test('a mark does not stand in the way of its own label, but of all others', () => {
    const room = new MarkRoom();
    room.add(100, 100, 10);
    room.add(130, 100, 10);
    expect(room.isFree([80, 90, 115, 110], [100.4, 99.8])).toBe(true);
    expect(room.isFree([80, 90, 115, 110], [100, 120])).toBe(false);
    expect(room.isFree([80, 90, 125, 110], [100, 100])).toBe(false);
  });
});

describe('markers', () => {
  const size = { width: 800, height: 600 };
  const camera = (lon = 0, lat = 0, zoom = 4) =>
    new Camera({ center: [lon, lat], zoom, bearing: 0, tilt: 0 }, webMercator, size);
  const marker = (lon: number, lat: number) => ({ at: [lon, lat] }) as never;
  const extent = { half: 10, above: 30, below: 0 };
  const made = (...places: [number, number][]) => {
    const positions = new MarkerPositions();
    const slots = places.map(([lon, lat]) => {
      const slot = positions.add(marker(lon, lat));
      positions.resize(slot, extent);
      return slot;
    });
    return { positions, slots };
  };

  test('in view come from the top of the screen down; of those as high as each other the older first', () => {
    const { positions, slots } = made([0, -5], [0, 5], [3, 5], [0, 0], [120, 0]);
    expect([...positions.place(camera())]).toEqual([slots[1], slots[2], slots[3], slots[0]]);
    positions.move(slots[1], [0, -8]);
    expect([...positions.place(camera())]).toEqual([slots[2], slots[3], slots[0], slots[1]]);
    expect([...positions.place(camera(120))]).toEqual([slots[4]]);
  });

  test('whose box reaches into the view count, whose place alone is out of it too', () => {
    const { positions, slots } = made([0, 0]);
    const [slot] = slots;
    // Its foot is a little below the lower edge, its head above it.
    const below = camera(0, 26.1, 4);
    const [, y] = below.project(0, 0);
    expect(y).toBeGreaterThan(600);
    expect([...positions.place(below)]).toEqual(y < 620 ? [slot] : []);
  });

  test('removed are gone, and their slots serve again', () => {
    const { positions, slots } = made([0, 0], [1, 0], [2, 0]);
    positions.remove(slots[1]);
    expect([...positions.place(camera())]).toEqual([slots[0], slots[2]]);
    const next = positions.add(marker(3, 0));
    positions.resize(next, extent);
    expect([...positions.place(camera())]).toContain(next);
    expect(new Set([slots[0], slots[2], next]).size).toBe(3);
    expect(positions.isOlder(slots[2], next)).toBe(true);
  });

  test('shrunk take less room, around the same foot', () => {
    const { positions, slots } = made([0, 0]);
    const [slot] = slots;
    positions.place(camera());
    const whole = [positions.left(slot), positions.top(slot), positions.right(slot), positions.bottom(slot)];
    positions.setScale(slot, 0.5);
    const half = [positions.left(slot), positions.top(slot), positions.right(slot), positions.bottom(slot)];
    expect([whole[2] - whole[0], whole[3] - whole[1]].map((v) => v / 2)).toEqual([
      half[2] - half[0],
      half[3] - half[1],
    ]);
    expect(half[3]).toBe(whole[3]);
    const crowd = new CollisionGrid();
    positions.take(crowd, slot);
    expect([positions.isFree(crowd, slot), crowd.isFree(whole[0], whole[1], whole[2], half[1] - 1)]).toEqual([
      false,
      true,
    ]);
  });

  test('a thousand stand in order after each of them has moved', () => {
    const random = (seed: number) => () => (seed = (seed * 48271) % 2147483647) / 2147483647;
    const next = random(7);
    const { positions, slots } = made(
      ...Array.from({ length: 1000 }, () => [next() * 30 - 15, next() * 20 - 10] as [number, number]),
    );
    for (let round = 0; round < 5; round++) {
      const placed = [...positions.place(camera())];
      const heights = placed.map((slot) => Math.round(positions.py(slot) * 4));
      expect(heights).toEqual([...heights].sort((a, b) => a - b));
      for (const slot of slots) positions.move(slot, [next() * 30 - 15, next() * 20 - 10]);
    }
  });
});
