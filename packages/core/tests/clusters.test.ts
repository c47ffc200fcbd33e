import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { ClusterIndex } from '@flintwright/core';

const world: [number, number, number, number] = [-180, -85, 180, 85];
const reach = (zoom: number, within = 44) => within / (256 * 2 ** zoom);
const unit = ({ lon, lat }: { lon: number; lat: number }) => [
  0.5 + lon / 360,
  0.5 - Math.asinh(Math.tan((lat * Math.PI) / 180)) / (2 * Math.PI),
];
const apart = (a: { lon: number; lat: number }, b: { lon: number; lat: number }) => {
  const [[ax, ay], [bx, by]] = [unit(a), unit(b)];
  const dx = ax - bx;
  return Math.hypot(dx - Math.round(dx), ay - by);
};

/** At every zoom each living point stands in exactly one node, and the sums are those of its members. */
function check(index: ClusterIndex, alive: ReadonlyMap<number, { lon: number; lat: number; berths: number }>): void {
  expect(index.size).toBe(alive.size);
  for (let zoom = 0; zoom <= 8; zoom++) {
    const nodes = index.query(world, zoom);
    const members = nodes.flatMap(({ id }) => index.members(id));
    expect([...members].sort((a, b) => a - b)).toEqual([...alive.keys()].sort((a, b) => a - b));
    for (const node of nodes) {
      const own = index.members(node.id);
      expect(node.count).toBe(own.length);
      const berths = own.map((point) => alive.get(point)!.berths);
      expect(node.sums['berths']).toBe(berths.reduce((a, b) => a + b, 0));
      expect([node.minima['berths'], node.maxima['berths']]).toEqual([Math.min(...berths), Math.max(...berths)]);
      expect(node.shares!.reduce((a, b) => a + b, 0)).toBe(own.length);
      expect(node.shares![1]).toBe(own.filter((point) => alive.get(point)!.berths % 2).length);
    }
  }
}

const place = fc.record({
  lon: fc.oneof(
    fc.double({ min: -180, max: 180, noNaN: true }),
    fc.double({ min: 179, max: 180, noNaN: true }),
    fc.double({ min: -31.3, max: -31, noNaN: true }),
  ),
  lat: fc.oneof(fc.double({ min: -80, max: 80, noNaN: true }), fc.double({ min: 44.5, max: 44.7, noNaN: true })),
  berths: fc.integer({ min: 1, max: 9 }),
});

const build = (places: { lon: number; lat: number; berths: number }[], least = 2) => {
  const list = () => Float64Array.from(places, ({ berths }) => berths);
  return ClusterIndex.build(
    places.flatMap(({ lon, lat }) => [lon, lat]),
    {
      until: 7,
      least,
      categories: Uint8Array.from([...places, { berths: 1 }], ({ berths }) => berths % 2).slice(0, places.length),
      sums: { berths: list() },
      minima: { berths: list() },
      maxima: { berths: list() },
    },
  );
};

describe('clusters', () => {
  test('every point stands once at every zoom, with right sums, whatever is added, moved and removed', () => {
    const step = fc.oneof(
      fc.record({ kind: fc.constant('add' as const), place }),
      fc.record({ kind: fc.constant('remove' as const), at: fc.nat() }),
      fc.record({ kind: fc.constant('move' as const), at: fc.nat(), place }),
    );
    fc.assert(
      fc.property(
        fc.array(place, { minLength: 2, maxLength: 60 }),
        fc.array(step, { maxLength: 25 }),
        (places, steps) => {
          // Both categories are there from the start, so that the index has room for them.
          const full = [{ lon: 0, lat: 0, berths: 1 }, { lon: 90, lat: 0, berths: 2 }, ...places];
          const index = build(full);
          const alive = new Map(full.map((p, i) => [i, p]));
          check(index, alive);
          for (const one of steps) {
            const keys = [...alive.keys()];
            if (one.kind === 'add') {
              const { lon, lat, berths } = one.place;
              const all = { berths };
              alive.set(index.add(lon, lat, { category: berths % 2, sums: all, minima: all, maxima: all }), one.place);
            } else if (keys.length > 2) {
              const key = keys[one.at % keys.length];
              if (one.kind === 'remove') {
                index.remove(key);
                alive.delete(key);
              } else {
                index.move(key, one.place.lon, one.place.lat);
                alive.set(key, { ...one.place, berths: alive.get(key)!.berths });
              }
            }
          }
          check(index, alive);
        },
      ),
      { numRuns: 60, seed: 11 },
    );
  });

  test('what stands is not within reach of its neighbors when it was gathered; identities last while nothing changes', () => {
    let seed = 5;
    const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
    const places = Array.from({ length: 3000 }, () => ({
      lon: -31.2 + random() * 0.4,
      lat: 44.5 + random() * 0.3,
      berths: 1,
    }));
    const index = build(places);
    let before = new Set<number>();
    for (let zoom = 8; zoom >= 0; zoom--) {
      const nodes = index.query(world, zoom);
      const singles = nodes.filter(({ count }) => count === 1);
      // Two single points that stand are never within reach of each other: the one would have gathered the other.
      for (let i = 0; zoom < 8 && i < singles.length; i++)
        for (let j = i + 1; j < singles.length; j++) expect(apart(singles[i], singles[j])).toBeGreaterThan(reach(zoom));
      const ids = new Set(nodes.map(({ id }) => id));
      const kept = [...ids].filter((id) => before.has(id));
      for (const id of before) if (!ids.has(id)) expect(ids.has(index.parentOf(id)!)).toBe(true);
      expect(kept.every((id) => ids.has(id))).toBe(true);
      before = ids;
    }
  });

  test('across the antimeridian; coincident points; bounds and the zoom at which a cluster comes apart', () => {
    const index = ClusterIndex.build([179.9, 10, -179.9, 10, 20, 20, 20, 20, 20, 20], { until: 10 });
    const far = index.query(world, 2).filter(({ count }) => count > 1);
    expect(far.map(({ count }) => count).sort()).toEqual([2, 3]);
    const pair = far.find(({ count }) => count === 2)!;
    expect(Math.abs(pair.lon)).toBeCloseTo(180, 6);
    const [west, south, east, north] = index.boundsOf(pair.id);
    expect([west, east - west, south, north].map((v) => Math.round(v * 1e6) / 1e6)).toEqual([179.9, 0.2, 10, 10]);
    expect(index.query([170, 0, -170, 20], 2).map(({ id }) => id)).toEqual([pair.id]);
    expect(index.query([-170, 0, 170, 21], 2).map(({ count }) => count)).toEqual([3]);
    const zoom = index.splitLevel(pair.id)!;
    expect([index.query([170, 0, -170, 20], zoom - 1).length, index.query([170, 0, -170, 20], zoom).length]).toEqual([
      1, 2,
    ]);
    expect(index.splitLevel(far.find(({ count }) => count === 3)!.id)).toBeUndefined();
    // Handed to another thread and back.
    expect(ClusterIndex.from(structuredClone(index.data)).query(world, 2).length).toBe(2);
    expect(() => ClusterIndex.from({ ...index.data, version: 2 as 1 })).toThrow('expected a cluster index');
    expect(() => ClusterIndex.build([1])).toThrow('do not form pairs');
    expect(ClusterIndex.build([]).query(world, 3)).toEqual([]);
  });

  test('fewer than the least stay apart', () => {
    const index = ClusterIndex.build([0, 0, 0.001, 0, 0.002, 0, 9, 9, 9.001, 9], { until: 5, least: 3 });
    expect(
      index
        .query(world, 5)
        .map(({ count }) => count)
        .sort(),
    ).toEqual([1, 1, 3]);
  });
});
