import KDBush from 'kdbush';
import { geodesicLength } from '../crs/measure.js';
import { insideRings } from '../geometry/rings.js';
import type { PlaceOutline } from './record.js';
import type { PlaceStore } from './store.js';

interface Near {
  readonly entry: number;
  /** The nearest point of it, in degrees. */
  readonly at: readonly [number, number];
  /** Meters. */
  readonly distance: number;
}

/** Long edges are found by points on them, at most so many degrees apart. */
const spacing = 5e-4;
const metersPerDegree = 111195;

/** Meters between two places on a sphere, good enough to rank by. */
export function roughMetres([lon, lat]: readonly [number, number], [x, y]: readonly [number, number]): number {
  const turn = x - lon - 360 * Math.round((x - lon) / 360);
  const east = turn * Math.cos((((lat + y) / 2) * Math.PI) / 180);
  return metersPerDegree * Math.sqrt(east * east + (y - lat) ** 2);
}

/** An index of all entries by place: points, and points along streets. */
export class NearIndex {
  private constructor(
    private readonly store: PlaceStore,
    private readonly tree: KDBush,
    private readonly owners: Uint32Array,
    private readonly outlines: ReadonlyMap<number, PlaceOutline>,
  ) {}

  static async make(store: PlaceStore): Promise<NearIndex> {
    const outlines = await store.outlines();
    const [xs, ys, owners]: [number[], number[], number[]] = [[], [], []];
    const add = (entry: number, x: number, y: number) => {
      xs.push(x);
      ys.push(y);
      owners.push(entry);
    };
    for (let entry = 0; entry < store.count; entry++) {
      const outline = outlines.get(entry);
      if (!outline) add(entry, store.lon(entry), store.lat(entry));
      else if (!outline.area)
        for (const path of outline.paths)
          for (let i = 0; i < path.length; i += 2) {
            add(entry, path[i], path[i + 1]);
            if (i + 3 >= path.length) continue;
            const [dx, dy] = [path[i + 2] - path[i], path[i + 3] - path[i + 1]];
            const pieces = Math.min(1000, Math.ceil(Math.hypot(dx, dy) / spacing));
            for (let k = 1; k < pieces; k++) add(entry, path[i] + (dx * k) / pieces, path[i + 1] + (dy * k) / pieces);
          }
    }
    const tree = new KDBush(xs.length);
    xs.forEach((x, i) => tree.add(x, ys[i]));
    tree.finish();
    return new NearIndex(store, tree, Uint32Array.from(owners), outlines);
  }

  /**
   * Entries within some meters of a place, areas that hold it first, smallest before larger, then by distance.
   *
   * @param lon degrees
   * @param lat degrees
   * @param within meters
   * @param most how many are measured on the ellipsoid and come back, at most
   */
  search(lon: number, lat: number, within: number, most: number): Near[] {
    const x = lon - 360 * Math.round(lon / 360);
    const high = within / metersPerDegree + spacing;
    const wide = Math.min(360, high / Math.max(0.001, Math.cos((lat * Math.PI) / 180)));
    const found = new Map<number, Near>();
    for (const turn of [-360, 0, 360])
      for (const point of this.tree.range(x + turn - wide, lat - high, x + turn + wide, lat + high)) {
        const entry = this.owners[point];
        if (found.has(entry)) continue;
        const at = this.nearest(entry, x + turn, lat);
        found.set(entry, { entry, at, distance: roughMetres([x, lat], at) });
      }
    const areas: (Near & { readonly size: number })[] = [];
    for (const [entry, { area, paths }] of this.outlines)
      if (area && holds(paths, x, lat)) areas.push({ entry, at: [lon, lat], distance: 0, size: spanOf(paths) });
    // The sphere is off by half a per cent at most; what comes first on it is measured on the ellipsoid.
    const nearest = [...found.values()]
      .filter(({ distance }) => distance <= 1.01 * within)
      .toSorted((a, b) => a.distance - b.distance)
      .slice(0, most)
      .map(({ entry, at }) => ({ entry, at, distance: geodesicLength([x, lat], at) }))
      .filter(({ distance }) => distance <= within);
    return [...areas.toSorted((a, b) => a.size - b.size), ...nearest].toSorted((a, b) => a.distance - b.distance);
  }

  /** The point of an entry that is nearest to a place, on a plane that touches the ground there. */
  private nearest(entry: number, lon: number, lat: number): [number, number] {
    const outline = this.outlines.get(entry);
    if (!outline) return [this.store.lon(entry), this.store.lat(entry)];
    const wide = Math.cos((lat * Math.PI) / 180);
    let best: [number, number] = [this.store.lon(entry), this.store.lat(entry)];
    let least = Infinity;
    for (const path of outline.paths)
      for (let i = 0; i + 1 < path.length; i += 2) {
        const last = Math.min(i + 2, path.length - 2);
        const [ax, ay] = [path[i], path[i + 1]];
        const [dx, dy] = [path[last] - ax, path[last + 1] - ay];
        const length = (dx * wide) ** 2 + dy ** 2;
        const t = length ? Math.min(1, Math.max(0, ((lon - ax) * dx * wide ** 2 + (lat - ay) * dy) / length)) : 0;
        const at: [number, number] = [ax + t * dx, ay + t * dy];
        const away = ((at[0] - lon) * wide) ** 2 + (at[1] - lat) ** 2;
        if (away < least) [least, best] = [away, at];
      }
    return best;
  }
}

function holds(rings: readonly Float64Array[], x: number, y: number): boolean {
  let inside = false;
  for (const ring of rings) if (insideRings(ring, [0, ring.length >> 1], 0, 1, x, y)) inside = !inside;
  return inside;
}

const spanOf = (paths: readonly Float64Array[]) => {
  let [least, most] = [Infinity, -Infinity];
  for (const path of paths)
    for (let i = 0; i < path.length; i += 2) [least, most] = [Math.min(least, path[i]), Math.max(most, path[i])];
  return most - least;
};
