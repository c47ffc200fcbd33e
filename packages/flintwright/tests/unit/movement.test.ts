import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { getSurface, type View } from '@flintwright/core';
import { Camera, defaultLimits, webMercator } from '@flintwright/core/internal';
import { placesOf } from '../../src/map/fit.js';
import { ViewAnimation } from '../../src/map/view-animation.js';
import { draggedView, middleOf, viewAround } from '../../src/input/pan-zoom.js';
import { withinLimits } from '../../src/input/gesture-tools.js';
import { fanOffset, uncrowded, viewBox } from '../../src/clusters/cluster-placing.js';

const size = { width: 800, height: 600 };
const view = (more: Partial<View> = {}): View => ({ center: [0, 0], zoom: 5, bearing: 0, tilt: 0, ...more });

describe('what is to be framed', () => {
  const none = () => Promise.resolve(undefined);
  const places = (target: unknown, space: 'lonlat' | 'plane' = 'lonlat', bounds: () => Promise<unknown> = none) =>
    placesOf(target as never, space, bounds as never);
  const boxOf = (all: readonly (readonly [number, number])[]) => [
    Math.min(...all.map(([x]) => x)),
    Math.min(...all.map(([, y]) => y)),
    Math.max(...all.map(([x]) => x)),
    Math.max(...all.map(([, y]) => y)),
  ];
  const codeOf = (promise: Promise<unknown>) =>
    promise.then(
      () => 'taken',
      ({ code }: { code: string }) => code,
    );

  test('places in either form, bounds in three, and GeoJSON of every kind', async () => {
    expect(await places([[1, 2], { lon: 3, lat: 4 }])).toEqual([
      [1, 2],
      [3, 4],
    ]);
    for (const target of [[-4, -3, 2, 1], { bounds: [-4, -3, 2, 1] }])
      expect(boxOf(await places(target))).toEqual([-4, -3, 2, 1]);
    expect(boxOf(await places('layer', 'lonlat', () => Promise.resolve([-4, -3, 2, 1])))).toEqual([-4, -3, 2, 1]);
    const geometry = {
      type: 'LineString',
      coordinates: [
        [-4, -3],
        [2, 1],
      ],
    };
    for (const target of [
      geometry,
      { type: 'Feature', properties: {}, geometry },
      { type: 'FeatureCollection', features: [{ type: 'Feature', properties: {}, geometry }] },
    ])
      expect(boxOf(await places(target))).toEqual([-4, -3, 2, 1]);
  });

  test('in a plan places are meters, and none is swapped', async () => {
    expect(await places([[500, 4000]], 'plane')).toEqual([[500, 4000]]);
    expect(await codeOf(places([[44, -131]]))).toBe('place.swapped');
  });

  test('what cannot be framed says so', async () => {
    expect(await codeOf(places('layer'))).toBe('frame.bounds');
    for (const target of [7, null, undefined, true]) expect(await codeOf(places(target))).toBe('frame.target');
    expect(await codeOf(places([['a', 'b']]))).toBe('place.form');
  });
});

describe('a movement', () => {
  const made = () => {
    const seen: View[] = [];
    const animation = new ViewAnimation({
      update: (change: { view: View }) => seen.push(change.view),
      invalidate: () => {},
    } as never);
    return { animation, seen };
  };

  test('without a duration arrives at once', async () => {
    const { animation, seen } = made();
    const end = animation.start(view(), view({ zoom: 7 }), webMercator, size, {});
    expect(seen).toEqual([view({ zoom: 7 })]);
    expect(await end).toEqual({ arrived: true });
    expect([animation.active, animation.goal]).toEqual([false, undefined]);
  });

  test('goes from the first frame on for as long as it was asked to, and says where it leads', async () => {
    const { animation, seen } = made();
    const to = view({ center: [10, 5], zoom: 7, bearing: 40 });
    const end = animation.start(view(), to, webMercator, size, { duration: 400, easing: 'linear' });
    expect([animation.active, animation.goal]).toEqual([true, to]);
    // The clock begins with the first frame, whenever that comes.
    for (const time of [1000, 1100, 1200, 1300, 1399]) animation.step(time);
    expect(animation.active).toBe(true);
    animation.step(1400);
    expect(await end).toEqual({ arrived: true });
    const last = seen.at(-1)!;
    expect(last.center[0]).toBeCloseTo(10, 9);
    expect([last.zoom, last.bearing]).toEqual([7, 40]);
    const turns = seen.map(({ bearing }) => bearing);
    expect(turns).toEqual([...turns].sort((a, b) => a - b));
  });

  test('overtaken by another says that it has not arrived; a signal rejects it with its reason', async () => {
    const { animation } = made();
    const move = (more: object) =>
      animation.start(view(), view({ zoom: 9 }), webMercator, size, { duration: 400, ...more });
    const first = move({});
    const abort = new AbortController();
    const second = move({ signal: abort.signal });
    expect(await first).toEqual({ arrived: false });
    abort.abort(new Error('enough'));
    await expect(second).rejects.toThrow('enough');
    expect(animation.active).toBe(false);
    await expect(move({ signal: abort.signal })).rejects.toThrow('enough');
    animation.stop();
  });

  test('is taken along to another surface', () => {
    const { animation, seen } = made();
    void animation.start(view(), view({ zoom: 9 }), webMercator, size, { duration: 100, easing: 'linear' });
    animation.carry((one) => ({ ...one, zoom: one.zoom - 2 }));
    expect(animation.goal!.zoom).toBe(7);
    animation.step(0);
    animation.step(100);
    expect(seen.at(-1)!.zoom).toBe(7);
  });
});

describe('ground held by the pointer', () => {
  const inside = fc.tuple(fc.integer({ min: 20, max: 780 }), fc.integer({ min: 20, max: 580 }));
  const camera = (more: Partial<View>, surface = webMercator) => new Camera(view(more), surface, size);
  const away = ([ax, ay]: readonly number[], [bx, by]: readonly number[]) => Math.hypot(ax - bx, ay - by);

  test('stays under it when the map is dragged', () => {
    fc.assert(
      fc.property(
        inside,
        inside,
        fc.integer({ min: 0, max: 45 }),
        fc.integer({ min: -180, max: 180 }),
        (from, to, tilt, bearing) => {
          const before = camera({ tilt, bearing });
          const ground = before.unproject(from[0], from[1]);
          if (!ground) return;
          const after = new Camera(draggedView(before, from, to), webMercator, size);
          // Web Mercator ends; what lies beyond cannot be held.
          if (Math.abs(after.view.center[1]) > 80) return;
          expect(away(after.project(...ground), to)).toBeLessThan(tilt > 30 ? 4 : 1.5);
        },
      ),
    );
  });

  test('stays where it is when the map zooms and turns around it', () => {
    fc.assert(
      fc.property(
        inside,
        fc.double({ min: 3, max: 12, noNaN: true }),
        fc.integer({ min: -180, max: 180 }),
        (pixel, zoom, bearing) => {
          const before = camera({});
          const ground = before.unproject(pixel[0], pixel[1])!;
          const after = new Camera(viewAround(before, pixel, { zoom, bearing }), webMercator, size);
          if (Math.abs(after.view.center[1]) > 80) return;
          expect(away(after.project(...ground), pixel)).toBeLessThan(1.5);
        },
      ),
    );
  });

  test('beyond the horizon is none, and the view stays', () => {
    const globe = camera({ zoom: 1 }, getSurface('globe'));
    expect(globe.unproject(2, 2)).toBeUndefined();
    expect(draggedView(globe, [2, 2], [40, 40])).toBe(globe.view);
    expect(viewAround(globe, [2, 2], { zoom: 2 })).toEqual({ ...globe.view, zoom: 2 });
    expect(middleOf(globe)).toEqual([400, 300]);
  });

  test('a zoom keeps within the limits of the map', () => {
    const tools = { context: { state: { limits: { ...defaultLimits, zoom: [4, 9] } } } } as never;
    expect([1, 4, 6.5, 9, 30].map((zoom) => withinLimits(tools, zoom))).toEqual([4, 4, 6.5, 9, 9]);
  });
});

describe('clusters on the screen', () => {
  test('members of one place stand in rings, apart from each other', () => {
    for (const count of [2, 6, 7, 18, 19, 40]) {
      const places = Array.from({ length: count }, (_, i) => fanOffset(i, count));
      const nearest = Math.min(
        ...places.flatMap(([ax, ay], i) => places.slice(i + 1).map(([bx, by]) => Math.hypot(ax - bx, ay - by))),
      );
      expect(nearest).toBeGreaterThan(20);
      expect(Math.min(...places.map(([x, y]) => Math.hypot(x, y)))).toBeCloseTo(26, 9);
    }
  });

  test('of two that would cover each other the later one stays', () => {
    const one = { x: 100, y: 100, size: 30 };
    expect(uncrowded([one, { ...one, x: 110 }, { ...one, x: 200 }]).map(({ x }) => x)).toEqual([110, 200]);
    expect(uncrowded([])).toEqual([]);
  });

  test('are looked for in a box that holds the view, also where it goes round the world', () => {
    const box = (more: Partial<View>) => viewBox(new Camera(view(more), webMercator, size));
    const [west, south, east, north] = box({});
    expect([west < -17 && west > -22, east > 17 && east < 22, south < -12 && south > -17, north > 12]).toEqual([
      true,
      true,
      true,
      true,
    ]);
    const [left, , right] = box({ center: [179, 0] });
    expect([left > 150, right < -150]).toEqual([true, true]);
    expect(box({ zoom: 1 }).filter((_, i) => i % 2 === 0)).toEqual([-180, 180]);
    expect(viewBox(new Camera(view({ zoom: 1 }), getSurface('globe'), size))).toEqual([-180, -90, 180, 90]);
  });
});
