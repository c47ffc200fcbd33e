import KDBush from 'kdbush';
import { Fault } from '../base/fault.js';
import { webMercatorHalf } from '../crs/web-mercator.js';
import {
  around,
  fold,
  gatherPoints,
  nought,
  squares,
  wrapped,
  type ClusterData,
  type ClusterOptions,
  type Kept,
} from './cluster-build.js';

export type { ClusterData, ClusterOptions } from './cluster-build.js';

/** A cluster or a single point at a zoom level. */
export interface ClusterNode {
  /** Id, the same at all zoom levels at which the node exists. */
  readonly id: number;
  readonly lon: number;
  readonly lat: number;
  readonly count: number;
  /** Index of the point, for a single one. */
  readonly point?: number;
  /** Number of members in each category. */
  readonly shares?: readonly number[];
  readonly sums: Readonly<Record<string, number>>;
  readonly minima: Readonly<Record<string, number>>;
  readonly maxima: Readonly<Record<string, number>>;
}

/**
 * Points and their clusters at every zoom level. From the deepest level up, each free node gathers those within reach; they are found in a
 * grid of cells as wide as the reach, so that the cost of a level is proportional to its nodes. The world has no edge at the antimeridian.
 * A node that gathers no others is the same node at the next level, which keeps identities while zooming. Points can be added, removed and
 * moved afterwards.
 */
export class ClusterIndex {
  private readonly trees: KDBush[];
  /** Nodes that came after the index was built, by level. */
  private readonly later: Set<number>[];
  private d: { -readonly [K in keyof ClusterData]: ClusterData[K] };

  private constructor(data: ClusterData) {
    this.d = { ...data };
    const trees = new Map<ArrayBuffer, KDBush>();
    this.trees = data.trees.map((tree) => {
      const known = trees.get(tree) ?? KDBush.from(tree);
      trees.set(tree, known);
      return known;
    });
    this.later = data.stands.map(() => new Set());
  }

  /**
   * Builds an index of points.
   *
   * @param lonLats longitude and latitude in degrees, interleaved
   * @param options distance, zoom levels, and what is summed
   * @throws Fault `clusters.places` for an odd number of coordinates
   */
  static build(lonLats: ArrayLike<number>, options: ClusterOptions = {}): ClusterIndex {
    if (lonLats.length % 2)
      throw new Fault(
        'clusters.places',
        `${lonLats.length} numbers do not form pairs`,
        'Give longitude and latitude alternately.',
      );
    return new ClusterIndex(gatherPoints(lonLats, options));
  }

  /** Restores an index from arrays. @throws Fault `clusters.data` for arrays that are not an index of this version */
  static from(data: ClusterData): ClusterIndex {
    if (data.magic !== 'flint-clusters' || data.version !== 1)
      throw new Fault('clusters.data', 'expected a cluster index of version 1', 'Build the index again.');
    return new ClusterIndex(data);
  }

  private get square() {
    return squares[this.d.space ?? 'lonlat'];
  }

  get data(): ClusterData {
    return this.d;
  }

  /** Number of points. */
  get size(): number {
    return this.d.living;
  }

  /**
   * Returns the points and clusters within bounds at a zoom level.
   *
   * @param bounds `[west, south, east, north]` in degrees; west may be greater than east, across the antimeridian
   * @param zoom integer zoom level
   */
  query([west, south, east, north]: readonly [number, number, number, number], zoom: number): ClusterNode[] {
    const level = Math.max(0, Math.min(this.d.until + 1, Math.floor(zoom)));
    const { square } = this;
    const [top, bottom] = [square.y(north), square.y(south)];
    const world = this.d.space === 'plane' ? 2 * webMercatorHalf : 360;
    const span = east < west && this.d.space !== 'plane' ? east + 360 - west : east - west;
    const left = span >= world ? 0 : square.x(west);
    const right = left + (span >= world ? 1 : span / world);
    const out: ClusterNode[] = [];
    const seen = new Set<number>();
    const take = (id: number) => {
      if (seen.has(id) || !this.stands(id, level)) return;
      seen.add(id);
      const node = this.shown(id);
      if (node !== undefined) out.push(this.node(node));
    };
    for (const [from, to] of right > 1
      ? [
          [left, 1],
          [0, right - 1],
        ]
      : [[left, right]])
      this.range(level, from, top, to, bottom, take);
    return out;
  }

  /** Returns the node with an id from {@link query}. */
  node(id: number): ClusterNode {
    const { d } = this;
    const totals = (kept: Kept) =>
      Object.fromEntries(Object.entries(d.totals[kept]).map(([name, list]) => [name, list[id]]));
    return {
      id,
      lon: this.square.lon(d.xs[id]),
      lat: this.square.lat(d.ys[id]),
      count: d.counts[id],
      ...(d.firsts[id] < 0 ? { point: id } : {}),
      ...(d.categoryCount ? { shares: [...d.shares.subarray(id * d.categoryCount, (id + 1) * d.categoryCount)] } : {}),
      sums: totals('sums'),
      minima: totals('minima'),
      maxima: totals('maxima'),
    };
  }

  /** Returns the indices of all points in a cluster. */
  members(id: number): number[] {
    const { firsts, nexts, counts } = this.d;
    if (firsts[id] < 0) return counts[id] ? [id] : [];
    const out: number[] = [];
    const open = [id];
    while (open.length) {
      for (let at = firsts[open.pop()!]; at >= 0; at = nexts[at]) {
        if (!counts[at]) continue;
        if (firsts[at] < 0) out.push(at);
        else open.push(at);
      }
    }
    return out;
  }

  /** `[west, south, east, north]` of the members, exact; east may exceed 180 for a cluster across the antimeridian. */
  boundsOf(id: number): [number, number, number, number] {
    const { xs } = this.d;
    let [west, south, east, north] = [Infinity, Infinity, -Infinity, -Infinity];
    for (const point of this.members(id)) {
      const { lat } = this.node(point);
      const lon = this.square.lon(xs[id] + wrapped(xs[point] - xs[id]));
      [west, east] = [Math.min(west, lon), Math.max(east, lon)];
      [south, north] = [Math.min(south, lat), Math.max(north, lat)];
    }
    const turns = this.d.space === 'plane' ? 0 : Math.floor((west + 180) / 360) * 360;
    return [west - turns, south, east - turns, north];
  }

  /** Returns the zoom level at which a cluster splits; undefined if it never does because its members coincide. */
  splitLevel(id: number): number | undefined {
    const { d } = this;
    let at = id;
    for (;;) {
      const living: number[] = [];
      for (let child = d.firsts[at]; child >= 0; child = d.nexts[child]) if (d.counts[child]) living.push(child);
      if (!living.length) return undefined;
      if (living.length > 1) {
        const zoom = d.levels[at] + 1;
        if (zoom <= d.until) return zoom;
        const [first, ...rest] = living;
        const same = rest.every((other) => d.xs[other] === d.xs[first] && d.ys[other] === d.ys[first]);
        return same && living.every((child) => d.firsts[child] < 0) ? undefined : zoom;
      }
      at = living[0];
    }
  }

  /** Returns the node that contains a node one level further out, for animation; undefined for none. */
  parentOf(id: number): number | undefined {
    const parent = this.d.parents[id];
    return parent < 0 ? undefined : parent;
  }

  /**
   * Adds a point and returns its index.
   *
   * @param lon longitude in degrees
   * @param lat latitude in degrees
   * @param values its category and numbers
   */
  add(
    lon: number,
    lat: number,
    values: {
      category?: number;
      sums?: Record<string, number>;
      minima?: Record<string, number>;
      maxima?: Record<string, number>;
    } = {},
  ): number {
    const id = this.make(this.square.x(lon), this.square.y(lat), this.d.until + 1);
    const { d } = this;
    d.counts[id] = 1;
    d.living++;
    if (values.category !== undefined && d.categoryCount) d.shares[id * d.categoryCount + values.category] = 1;
    for (const kept of ['sums', 'minima', 'maxima'] as const)
      for (const [name, list] of Object.entries(d.totals[kept])) list[id] = values[kept]?.[name] ?? nought[kept];
    this.settle(id);
    return id;
  }

  /** Removes a point; its index stays unused. */
  remove(point: number): void {
    const { d } = this;
    if (!d.counts[point]) return;
    for (let at = d.parents[point]; at >= 0; at = d.parents[at]) this.weigh(at, point, -1);
    d.counts[point] = 0;
    d.living--;
    this.refold(point);
  }

  /** Restores a removed point with its position and values. */
  restore(point: number): void {
    const { d } = this;
    if (d.counts[point] || Number.isNaN(d.xs[point])) return;
    this.detach(point);
    d.counts[point] = 1;
    d.living++;
    this.settle(point);
  }

  /**
   * Moves a point.
   *
   * @param point index of the point
   * @param lon longitude in degrees
   * @param lat latitude in degrees
   */
  move(point: number, lon: number, lat: number): void {
    const { d } = this;
    if (!d.counts[point]) return;
    this.remove(point);
    this.detach(point);
    d.xs[point] = this.square.x(lon);
    d.ys[point] = this.square.y(lat);
    d.counts[point] = 1;
    d.living++;
    this.settle(point);
  }

  // --- within -------------------------------------------------------------------------------------

  /** Whether a node stands at a level: made there or deeper, and not yet gathered. */
  private stands(id: number, level: number): boolean {
    const { levels, parents, counts } = this.d;
    return counts[id] > 0 && levels[id] >= level && (parents[id] < 0 || levels[parents[id]] < level);
  }

  /** The node to show for one that stands: a cluster that has lost all but one member is that member. */
  private shown(id: number): number | undefined {
    const { counts, firsts, nexts } = this.d;
    let at = id;
    while (firsts[at] >= 0 && counts[at] === 1) {
      let child = firsts[at];
      while (child >= 0 && !counts[child]) child = nexts[child];
      if (child < 0) return undefined;
      at = child;
    }
    return at;
  }

  private range(
    level: number,
    left: number,
    top: number,
    right: number,
    bottom: number,
    take: (id: number) => void,
  ): void {
    const { xs, ys, stands } = this.d;
    for (const at of this.trees[level]?.range(left, top, right, bottom) ?? []) take(stands[level][at]);
    for (const id of this.later[level])
      if (xs[id] >= left && xs[id] <= right && ys[id] >= top && ys[id] <= bottom) take(id);
  }

  /** Room for one more node. */
  private make(x: number, y: number, level: number): number {
    const { d } = this;
    if (d.count === d.xs.length) this.grow();
    const id = d.count++;
    d.xs[id] = x;
    d.ys[id] = y;
    d.counts[id] = 0;
    d.parents[id] = d.firsts[id] = d.nexts[id] = -1;
    d.levels[id] = level;
    for (const kept of ['sums', 'minima', 'maxima'] as const)
      for (const list of Object.values(d.totals[kept])) list[id] = nought[kept];
    return id;
  }

  private grow(): void {
    const { d } = this;
    const room = Math.max(64, d.xs.length * 2);
    const longer = <T extends Float64Array | Uint32Array | Int32Array | Uint8Array>(list: T, times = 1): T => {
      const next = new (list.constructor as new (n: number) => T)(room * times);
      next.set(list);
      return next;
    };
    d.xs = longer(d.xs);
    d.ys = longer(d.ys);
    d.counts = longer(d.counts);
    d.parents = longer(d.parents);
    d.firsts = longer(d.firsts);
    d.nexts = longer(d.nexts);
    d.levels = longer(d.levels);
    d.shares = longer(d.shares, d.categoryCount);
    const all = (totals: Readonly<Record<string, Float64Array>>) =>
      Object.fromEntries(Object.entries(totals).map(([name, list]) => [name, longer(list)]));
    d.totals = { sums: all(d.totals.sums), minima: all(d.totals.minima), maxima: all(d.totals.maxima) };
  }

  /** Finds a place among the clusters for a point that belongs to none: the deepest level at which somebody is within reach. */
  private settle(id: number): void {
    const { d } = this;
    const { xs, ys, levels } = d;
    for (let level = d.until + 1; level >= 0; level--) {
      const reach = level > d.until ? 0 : d.within / (256 * 2 ** level);
      const near = reach ? this.nearest(id, level, reach) : undefined;
      if (near === undefined) {
        this.later[level].add(id);
        continue;
      }
      if (levels[near] === level) this.attach(id, near);
      else {
        // Two nodes that meet at this level for the first time.
        const joint = this.make(xs[near], ys[near], level);
        const parent = this.d.parents[near];
        if (parent >= 0) this.replace(parent, near, joint);
        this.d.parents[joint] = parent;
        this.link(near, joint);
        this.weigh(joint, near, 1);
        const last = parent < 0 ? 0 : this.d.levels[parent] + 1;
        for (let at = level; at >= last; at--) this.later[at].add(joint);
        this.attach(id, joint);
      }
      return;
    }
  }

  private nearest(id: number, level: number, reach: number): number | undefined {
    const { xs, ys } = this.d;
    let best: number | undefined;
    let least = reach;
    const take = (other: number) => {
      if (other === id || !this.stands(other, level)) return;
      const away = Math.hypot(wrapped(xs[other] - xs[id]), ys[other] - ys[id]);
      if (away < least) [best, least] = [other, away];
    };
    const [x, y] = [xs[id], ys[id]];
    for (const shift of [-1, 0, 1])
      if (x + shift + reach > 0 && x + shift - reach < 1)
        this.range(level, x + shift - reach, y - reach, x + shift + reach, y + reach, take);
    return best;
  }

  /** Puts a node below another, and counts it in all above. */
  private attach(id: number, parent: number): void {
    this.link(id, parent);
    for (let at = parent; at >= 0; at = this.d.parents[at]) this.weigh(at, id, 1);
  }

  private link(id: number, parent: number): void {
    const { parents, nexts, firsts } = this.d;
    parents[id] = parent;
    nexts[id] = firsts[parent];
    firsts[parent] = id;
  }

  private replace(parent: number, old: number, fresh: number): void {
    const { firsts, nexts } = this.d;
    nexts[fresh] = nexts[old];
    if (firsts[parent] === old) firsts[parent] = fresh;
    else {
      let at = firsts[parent];
      while (nexts[at] !== old) at = nexts[at];
      nexts[at] = fresh;
    }
  }

  private detach(id: number): void {
    const { parents, firsts, nexts } = this.d;
    const parent = parents[id];
    if (parent >= 0) {
      if (firsts[parent] === id) firsts[parent] = nexts[id];
      else {
        let at = firsts[parent];
        while (nexts[at] !== id) at = nexts[at];
        nexts[at] = nexts[id];
      }
      parents[id] = nexts[id] = -1;
    }
    for (const list of this.later) list.delete(id);
  }

  /** Counts a node in, or out of, one above it. */
  private weigh(at: number, id: number, sign: 1 | -1): void {
    const { xs, ys, counts, shares, categoryCount, totals } = this.d;
    const [before, part] = [counts[at], counts[id] * sign];
    const after = before + part;
    if (after > 0) {
      xs[at] = around(xs[at] + (wrapped(xs[id] - xs[at]) * part) / after);
      ys[at] += ((ys[id] - ys[at]) * part) / after;
    }
    counts[at] = after;
    for (let k = 0; k < categoryCount; k++) shares[at * categoryCount + k] += sign * shares[id * categoryCount + k];
    for (const list of Object.values(totals.sums)) list[at] += sign * list[id];
    if (sign > 0)
      for (const kept of ['minima', 'maxima'] as const)
        for (const list of Object.values(totals[kept])) list[at] = fold[kept](list[at], list[id]);
  }

  /** Works minima and maxima above a node out anew, after it has gone. */
  private refold(id: number): void {
    const { parents, firsts, nexts, counts, totals } = this.d;
    for (const kept of ['minima', 'maxima'] as const)
      for (const list of Object.values(totals[kept]))
        for (let at = parents[id]; at >= 0; at = parents[at]) {
          let value = nought[kept];
          for (let child = firsts[at]; child >= 0; child = nexts[child])
            if (counts[child]) value = fold[kept](value, list[child]);
          list[at] = value;
        }
  }
}

/** Number of a value among the kinds that divide a rim; what is none of them comes last. */
export function categoryNumber(kinds: readonly string[], value: unknown): number {
  const at = kinds.indexOf(String(value));
  return at < 0 ? kinds.length : at;
}
