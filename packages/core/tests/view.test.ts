import { describe, expect, test } from '@jest/globals';
import { readPlace, type View } from '@flintwright/core';
import {
  Camera,
  changeView,
  viewPath,
  fitView,
  mercatorLat,
  mercatorLon,
  mercatorX,
  mercatorY,
  tilesInView,
  viewHolding,
  webMercator,
  webMercatorHalf,
} from '@flintwright/core/internal';
import fc from 'fast-check';

const size = { width: 1280, height: 800 };
const view = (change: Partial<View> = {}): View => ({
  center: [-31.18, 44.62],
  zoom: 12,
  bearing: 0,
  tilt: 0,
  ...change,
});
const views = fc.record({
  center: fc.tuple(fc.double({ min: -179, max: 179, noNaN: true }), fc.double({ min: -80, max: 80, noNaN: true })),
  zoom: fc.double({ min: 1, max: 22, noNaN: true }),
  bearing: fc.double({ min: -180, max: 180, noNaN: true }),
  tilt: fc.double({ min: 0, max: 60, noNaN: true }),
});

describe('the view', () => {
  test('the worked example of web Mercator (IOGP 373-7-2, method 1024)', () => {
    const [lon, lat] = [-(100 + 20 / 60), 24 + 22 / 60 + 54.433 / 3600];
    expect(mercatorX(lon)).toBeCloseTo(-11169055.58, 2);
    expect(mercatorY(lat)).toBeCloseTo(2800000.0, 2);
    expect(mercatorLon(-11169055.58)).toBeCloseTo(lon, 7);
    expect(mercatorLat(2800000)).toBeCloseTo(lat, 7);
  });

  test('zoom is the level of WebMercatorQuad: pixel sizes as in OGC 17-083r4, Annex D', () => {
    // Cell sizes of levels 0, 10 and 18, printed in the standard in meters.
    for (const [zoom, cell] of [
      [0, 156543.033928041],
      [10, 152.874056570353],
      [18, 0.597164283559817],
    ]) {
      expect(new Camera(view({ zoom }), webMercator, size).metresPerPixel).toBeCloseTo(cell, 9);
    }
  });

  test('pixels lead to the ground and back at any zoom, bearing and tilt', () => {
    fc.assert(
      fc.property(views, fc.integer({ min: 0, max: 1280 }), fc.integer({ min: 0, max: 800 }), (at, px, py) => {
        const camera = new Camera(at, webMercator, size);
        const ground = camera.toSurface(px, py);
        if (!ground) return;
        const [x, y, near] = camera.toPixel(ground[0], ground[1]);
        expect(near).toBeGreaterThan(0);
        expect(Math.hypot(x - px, y - py)).toBeLessThan(1e-3);
      }),
    );
  });

  test('bearing 90 puts east at the top; tilt leaves the middle in place and lifts the far edge', () => {
    const turned = new Camera(view({ bearing: 90 }), webMercator, size);
    const [x, y] = turned.project(-31.17, 44.62);
    expect(x).toBeCloseTo(640, 6);
    expect(y).toBeLessThan(400);
    const tilted = new Camera(view({ tilt: 50 }), webMercator, size);
    expect(tilted.project(-31.18, 44.62).slice(0, 2)).toEqual([expect.closeTo(640, 6), expect.closeTo(400, 6)]);
    expect(tilted.unproject(640, 0)![1]).toBeGreaterThan(new Camera(view(), webMercator, size).unproject(640, 0)![1]);
  });

  test('every visible place lies in one of the tiles, and no tile is asked for twice', () => {
    fc.assert(
      fc.property(views, fc.integer({ min: 1, max: 1279 }), fc.integer({ min: 1, max: 799 }), (at, px, py) => {
        const camera = new Camera(at, webMercator, size);
        const tiles = tilesInView(camera, 512, [0, 14]);
        expect(new Set(tiles.map((t) => `${t.z}/${t.x}/${t.y}/${t.copy}`)).size).toBe(tiles.length);
        expect(tiles.length).toBeLessThan(120);
        const ground = camera.toSurface(px, py);
        if (!ground || Math.abs(ground[1]) > webMercatorHalf || camera.toPixel(...ground)[2] < 0.13) return;
        const [u, v] = [0.5 + ground[0] / (2 * webMercatorHalf), 0.5 - ground[1] / (2 * webMercatorHalf)];
        const holding = tiles.filter(
          (t) => Math.floor(u * 2 ** t.z) === t.x + t.copy * 2 ** t.z && Math.floor(v * 2 ** t.z) === t.y,
        );
        expect(holding).toHaveLength(1);
      }),
      { numRuns: 300 },
    );
  });

  test('tiles cover between 512 and 1024 pixels when looking straight down', () => {
    for (const zoom of [9, 12.5, 14.99])
      expect(new Set(tilesInView(new Camera(view({ zoom }), webMercator, size), 512, [0, 14]).map((t) => t.z))).toEqual(
        new Set([Math.floor(zoom) - 1]),
      );
  });

  test('a place held under a pixel stays there', () => {
    const held = viewHolding(view({ bearing: 33, tilt: 40, zoom: 13 }), webMercator, size, [-31.2, 44.6], [900, 600]);
    const [x, y] = new Camera(held, webMercator, size).project(-31.2, 44.6);
    expect([x, y]).toEqual([expect.closeTo(900, 3), expect.closeTo(600, 3)]);
  });

  test('framing shows all, inside the padding, and touches it on one side', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(fc.double({ min: -40, max: 40, noNaN: true }), fc.double({ min: -60, max: 60, noNaN: true })),
          { minLength: 2, maxLength: 6 },
        ),
        fc.double({ min: -180, max: 180, noNaN: true }),
        (places, bearing) => {
          const pad = { top: 20, right: 200, bottom: 60, left: 10 };
          const framed = fitView(view({ bearing }), webMercator, size, places, pad, 20);
          const camera = new Camera(framed, webMercator, size);
          for (const [lon, lat] of places) {
            const [x, y] = camera.project(lon, lat);
            expect(x).toBeGreaterThan(9.9);
            expect(x).toBeLessThan(1080.1);
            expect(y).toBeGreaterThan(19.9);
            expect(y).toBeLessThan(740.1);
          }
        },
      ),
    );
  });

  test('a course begins and ends where it should, rises on long ways, and takes the short way round', () => {
    const [from, to] = [
      view({ center: [179, 10], zoom: 10, bearing: 170 }),
      view({ center: [-179, 12], zoom: 11, bearing: -170, tilt: 30 }),
    ];
    const at = viewPath(from, to, webMercator, size);
    expect(at(0)).toMatchObject({ zoom: expect.closeTo(10, 9), bearing: 170 });
    expect(at(1)).toMatchObject({ center: [-179, 12], zoom: 11, tilt: 30 });
    expect(at(0.5).zoom).toBeLessThan(10);
    expect(Math.abs(Math.abs(at(0.5).center[0]) - 180)).toBeLessThan(2);
    expect(at(0.5).bearing).toBeCloseTo(180, 9);
  });

  test('a change that changes nothing gives the same view; limits hold; swapped pairs are told', () => {
    const before = view();
    expect(changeView(before, { zoom: 12, center: { lon: -31.18, lat: 44.62 } })).toBe(before);
    expect(changeView(before, { zoom: 99, tilt: 80, bearing: 540 })).toMatchObject({
      zoom: 24,
      tilt: 60,
      bearing: -180,
    });
    expect(() => readPlace([44.62, -131.18])).toThrow(
      expect.objectContaining({
        code: 'place.swapped',
        hint: expect.stringContaining('[-131.18, 44.62]'),
      }) as unknown as Error,
    );
    expect(() => readPlace({ lat: 1 } as never)).toThrow(
      expect.objectContaining({ code: 'place.form' }) as unknown as Error,
    );
    expect(() => changeView(before, { zoom: NaN })).toThrow(
      expect.objectContaining({ code: 'view.number' }) as unknown as Error,
    );
  });
});
