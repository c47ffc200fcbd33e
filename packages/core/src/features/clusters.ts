import KDBush from 'kdbush';
import { Fault } from '../base/fault.js';
import { mercatorLat, mercatorLon, mercatorX, mercatorY, webMercatorHalf } from '../crs/web-mercator.js';

export interface ClusterOptions {
  /** Points nearer than this many CSS pixels come together; default 44. */
  readonly within?: number;
  /** Last whole zoom level at which points are clustered; default 14. */
  readonly until?: number;
  /** Least number of points in a cluster; default 2. */
  readonly least?: number;
  /** Category of each point, as a number from 0. */
  readonly kinds?: Uint8Array;
  /** How many categories there may be; default as many as there are. */
  readonly kindCount?: number;
  /** Numbers added up over the members, one list a name; NaN counts for nothing. */
  readonly sums?: Readonly<Record<string, Float64Array>>;
  /** Numbers of which the least member's, or the greatest member's, is kept. */
  readonly lows?: Readonly<Record<string, Float64Array>>;
  readonly highs?: Readonly<Record<string, Float64Array>>;
}

/** A cluster or a single point as it stands at some zoom. */
export interface ClusterNode {
  /** Stays the same at all zooms at which the node stands. */
  readonly id: number;
  readonly lon: number;
  readonly lat: number;
  readonly count: number;
  /** Number of the point, for a single one. */
  readonly point?: number;
  /** Members by category. */
  readonly shares?: readonly number[];
  readonly sums: Readonly<Record<string, number>>;
  readonly lows: Readonly<Record<string, number>>;
  readonly highs: Readonly<Record<string, number>>;
}

/** The index in plain arrays, to be handed from thread to thread. */
export interface ClusterData {
  readonly magic: 'flint-clusters';
  readonly version: 1;
  readonly points: number;
  readonly count: number;
  /** Points that have not been removed. */
  readonly living: number;
  readonly within: number;
  readonly until: number;
  readonly least: number;
  readonly xs: Float64Array;
  readonly ys: Float64Array;
  readonly counts: Uint32Array;
  readonly parents: Int32Array;
  readonly firsts: Int32Array;
  readonly nexts: Int32Array;
  readonly levels: Uint8Array;
  readonly kindCount: number;
  readonly shares: Uint32Array;
  readonly totals: Readonly<Record<'sums' | 'lows' | 'highs', Readonly<Record<string, Float64Array>>>>;
  /** Nodes that stand at each level from 0 to `until + 1`, and their trees. */
  readonly stands: readonly Int32Array[];
  readonly trees: readonly ArrayBuffer[];
}

type Kept = 'sums' | 'lows' | 'highs';
const fold: Readonly<Record<Kept, (a: number, b: number) => number>> = {
  sums: (a, b) => a + b,
  lows: Math.min,
  highs: Math.max,
};
const nought: Readonly<Record<Kept, number>> = { sums: 0, lows: Infinity, highs: -Infinity };

/** Distance from a to b on a world that begins again after 1. */
const wrapped = (d: number) => d - Math.round(d);
const around = (x: number) => x - Math.floor(x);

/**
 * Points and their clusters at every zoom level. From the deepest level up, each node that is not yet taken gathers those within
 * reach of it; they are looked up in a grid of cells as wide as the reach, so that a level costs no more than its nodes. The
 * world has no edge at the antimeridian. A node that gathers nobody is the same node at the next level, which keeps identities
 * while zooming. Points may be added, removed and moved afterwards.
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
   * @param lonLats longitude and latitude by turns, in degrees
   * @throws Fault `clusters.places` for an odd number of them
   */
  static build(lonLats: ArrayLike<number>, options: ClusterOptions = {}): ClusterIndex {
    if (lonLats.length % 2)
      throw new Fault(
        'clusters.places',
        `${lonLats.length} numbers are no pairs`,
        'Give longitude and latitude by turns.',
      );
    return new ClusterIndex(gather(lonLats, options));
  }

  /** @throws Fault `clusters.data` for arrays that are no index of this version */
  static from(data: ClusterData): ClusterIndex {
    if (data.magic !== 'flint-clusters' || data.version !== 1)
      throw new Fault('clusters.data', 'these arrays are no cluster index of version 1', 'Build the index again.');
    return new ClusterIndex(data);
  }

  get data(): ClusterData {
    return this.d;
  }

  /** Points that are there. */
  get size(): number {
    return this.d.living;
  }

  /**
   * What stands in a box at a zoom.
   *
   * @param box `[west, south, east, north]` in degrees; west may lie east of east, across the antimeridian
   */
  query([west, south, east, north]: readonly [number, number, number, number], zoom: number): ClusterNode[] {
    const level = Math.max(0, Math.min(this.d.until + 1, Math.floor(zoom)));
    const x = (lon: number) => 0.5 + mercatorX(lon) / (2 * webMercatorHalf);
    const y = (lat: number) => 0.5 - mercatorY(lat) / (2 * webMercatorHalf);
    const [top, bottom] = [y(north), y(south)];
    const span = east < west ? east + 360 - west : east - west;
    const left = span >= 360 ? 0 : around(x(west));
    const right = left + (span >= 360 ? 1 : span / 360);
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

  /** The node of an id that {@link query} gave. */
  node(id: number): ClusterNode {
    const { d } = this;
    const totals = (kept: Kept) =>
      Object.fromEntries(Object.entries(d.totals[kept]).map(([name, list]) => [name, list[id]]));
    return {
      id,
      lon: mercatorLon((d.xs[id] - 0.5) * 2 * webMercatorHalf),
      lat: mercatorLat((0.5 - d.ys[id]) * 2 * webMercatorHalf),
      count: d.counts[id],
      ...(d.firsts[id] < 0 ? { point: id } : {}),
      ...(d.kindCount ? { shares: [...d.shares.subarray(id * d.kindCount, (id + 1) * d.kindCount)] } : {}),
      sums: totals('sums'),
      lows: totals('lows'),
      highs: totals('highs'),
    };
  }

  /** Numbers of all points in a cluster. */
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
      const lon = (xs[id] + wrapped(xs[point] - xs[id]) - 0.5) * 360;
      [west, east] = [Math.min(west, lon), Math.max(east, lon)];
      [south, north] = [Math.min(south, lat), Math.max(north, lat)];
    }
    const turns = Math.floor((west + 180) / 360) * 360;
    return [west - turns, south, east - turns, north];
  }

  /** The zoom from which a cluster stands apart, or undefined when it never does because its members share one place. */
  expansionZoom(id: number): number | undefined {
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

  /** What a node was part of one level further out than it stands, for marks that glide; undefined for none. */
  parentOf(id: number): number | undefined {
    const parent = this.d.parents[id];
    return parent < 0 ? undefined : parent;
  }

  /** Adds a point and returns its number. */
  add(
    lon: number,
    lat: number,
    values: {
      kind?: number;
      sums?: Record<string, number>;
      lows?: Record<string, number>;
      highs?: Record<string, number>;
    } = {},
  ): number {
    const x = around(0.5 + mercatorX(lon) / (2 * webMercatorHalf));
    const y = 0.5 - mercatorY(lat) / (2 * webMercatorHalf);
    const id = this.make(x, y, this.d.until + 1);
    const { d } = this;
    d.counts[id] = 1;
    d.living++;
    if (values.kind !== undefined && d.kindCount) d.shares[id * d.kindCount + values.kind] = 1;
    for (const kept of ['sums', 'lows', 'highs'] as const)
      for (const [name, list] of Object.entries(d.totals[kept])) list[id] = values[kept]?.[name] ?? nought[kept];
    this.settle(id);
    return id;
  }

  /** Takes a point out; its number stays unused. */
  remove(point: number): void {
    const { d } = this;
    if (!d.counts[point]) return;
    for (let at = d.parents[point]; at >= 0; at = d.parents[at]) this.weigh(at, point, -1);
    d.counts[point] = 0;
    d.living--;
    this.refold(point);
  }

  /** Moves a point. */
  move(point: number, lon: number, lat: number): void {
    const { d } = this;
    if (!d.counts[point]) return;
    this.remove(point);
    this.detach(point);
    d.xs[point] = around(0.5 + mercatorX(lon) / (2 * webMercatorHalf));
    d.ys[point] = 0.5 - mercatorY(lat) / (2 * webMercatorHalf);
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
    for (const kept of ['sums', 'lows', 'highs'] as const)
      for (const list of Object.values(d.totals[kept])) list[id] = nought[kept];
    return id;
  }

  private grow(): void {
    const { d } = this;
    const room = Math.max(64, d.xs.length * 2);
    const longer = <T extends Float64Array | Uint32Array | Int32Array | Uint8Array>(list: T, times = 1): T => {
      const next = new (list.constructor as new (n: number) => T)(room * times);
      next.set(list as never);
      return next;
    };
    d.xs = longer(d.xs);
    d.ys = longer(d.ys);
    d.counts = longer(d.counts);
    d.parents = longer(d.parents);
    d.firsts = longer(d.firsts);
    d.nexts = longer(d.nexts);
    d.levels = longer(d.levels);
    d.shares = longer(d.shares, d.kindCount);
    const all = (totals: Readonly<Record<string, Float64Array>>) =>
      Object.fromEntries(Object.entries(totals).map(([name, list]) => [name, longer(list)]));
    d.totals = { sums: all(d.totals.sums), lows: all(d.totals.lows), highs: all(d.totals.highs) };
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
    const { xs, ys, counts, shares, kindCount, totals } = this.d;
    const [before, part] = [counts[at], counts[id] * sign];
    const after = before + part;
    if (after > 0) {
      xs[at] = around(xs[at] + (wrapped(xs[id] - xs[at]) * part) / after);
      ys[at] += ((ys[id] - ys[at]) * part) / after;
    }
    counts[at] = after;
    for (let k = 0; k < kindCount; k++) shares[at * kindCount + k] += sign * shares[id * kindCount + k];
    for (const list of Object.values(totals.sums)) list[at] += sign * list[id];
    if (sign > 0)
      for (const kept of ['lows', 'highs'] as const)
        for (const list of Object.values(totals[kept])) list[at] = fold[kept](list[at], list[id]);
  }

  /** Works lows and highs above a node out anew, after it has gone. */
  private refold(id: number): void {
    const { parents, firsts, nexts, counts, totals } = this.d;
    for (const kept of ['lows', 'highs'] as const)
      for (const list of Object.values(totals[kept]))
        for (let at = parents[id]; at >= 0; at = parents[at]) {
          let value = nought[kept];
          for (let child = firsts[at]; child >= 0; child = nexts[child])
            if (counts[child]) value = fold[kept](value, list[child]);
          list[at] = value;
        }
  }
}

/** Gathers points level by level. */
function gather(lonLats: ArrayLike<number>, options: ClusterOptions): ClusterData {
  const { within = 44, until = 14, least = 2, kinds } = options;
  const n = lonLats.length / 2;
  // Every cluster takes the place of two nodes or more, so there never are more than points.
  const room = 2 * n + 16;
  const xs = new Float64Array(room);
  const ys = new Float64Array(room);
  for (let i = 0; i < n; i++) {
    xs[i] = around(0.5 + mercatorX(lonLats[2 * i]) / (2 * webMercatorHalf));
    ys[i] = 0.5 - mercatorY(lonLats[2 * i + 1]) / (2 * webMercatorHalf);
  }
  const kindCount = options.kindCount ?? (kinds ? kinds.reduce((most, kind) => Math.max(most, kind + 1), 0) : 0);
  const wide = (given: Readonly<Record<string, Float64Array>> | undefined, kept: Kept) =>
    Object.fromEntries(
      Object.entries(given ?? {}).map(([name, list]) => {
        const out = new Float64Array(room).fill(nought[kept]);
        for (let i = 0; i < n; i++) out[i] = Number.isNaN(list[i]) ? nought[kept] : list[i];
        return [name, out];
      }),
    );
  const data = {
    magic: 'flint-clusters' as const,
    version: 1 as const,
    points: n,
    count: n,
    living: n,
    within,
    until,
    least,
    xs,
    ys,
    counts: new Uint32Array(room),
    parents: new Int32Array(room).fill(-1),
    firsts: new Int32Array(room).fill(-1),
    nexts: new Int32Array(room).fill(-1),
    levels: new Uint8Array(room),
    kindCount,
    shares: new Uint32Array(room * kindCount),
    totals: { sums: wide(options.sums, 'sums'), lows: wide(options.lows, 'lows'), highs: wide(options.highs, 'highs') },
    stands: new Array<Int32Array>(until + 2),
    trees: new Array<ArrayBuffer>(until + 2),
  };
  const { counts, parents, firsts, nexts, levels, shares, totals } = data;
  levels.fill(until + 1, 0, n);
  if (kinds) for (let i = 0; i < n; i++) shares[i * kindCount + kinds[i]] = 1;
  const folds = (['sums', 'lows', 'highs'] as const).flatMap((kept) =>
    Object.values(totals[kept]).map((list) => ({ list, fold: fold[kept] })),
  );
  // Points without a place are never there.
  let active = Int32Array.from({ length: n }, (_, i) => i).filter(
    (i) => Number.isFinite(xs[i]) && Number.isFinite(ys[i]),
  );
  for (const i of active) counts[i] = 1;
  data.living = active.length;
  data.stands[until + 1] = active;
  // The level at which each node was last taken or passed over, from which its cell lets go of it.
  const done = new Uint8Array(room).fill(255);
  const inCell = new Int32Array(room);
  const tableSize = 2 ** Math.max(4, Math.ceil(Math.log2(n * 2 + 1)));
  const heads = new Int32Array(tableSize);
  const cellOf = new Float64Array(tableSize);
  const near = new Int32Array(room);
  for (let level = until; level >= 0; level--) {
    const reach = within / (256 * 2 ** level);
    const columns = Math.max(1, Math.floor(1 / reach));
    const reach2 = reach * reach;
    // Cells are kept in a hash table with open addressing; a smaller one serves fewer nodes.
    const mask = Math.min(tableSize, 2 ** Math.max(4, Math.ceil(Math.log2(active.length * 2 + 1)))) - 1;
    heads.fill(-1, 0, mask + 1);
    const slot = (cell: number) => {
      let at = (Math.imul(cell | 0, 0x9e3779b1) ^ Math.imul((cell / 65536) | 0, 0x85ebca6b)) & mask;
      while (heads[at] !== -1 && cellOf[at] !== cell) at = (at + 1) & mask;
      return at;
    };
    for (let i = active.length - 1; i >= 0; i--) {
      const id = active[i];
      const cell = Math.min(columns - 1, Math.floor(xs[id] * columns)) + columns * Math.floor(ys[id] * columns);
      const at = slot(cell);
      cellOf[at] = cell;
      // −1 is a slot never used, −2 the end of a cell's list.
      inCell[id] = heads[at] === -1 ? -2 : heads[at];
      heads[at] = id;
    }
    const next = new Int32Array(active.length);
    let left = 0;
    for (let i = 0; i < active.length; i++) {
      const id = active[i];
      if (done[id] === level) continue;
      const [x, y] = [xs[id], ys[id]];
      const column = Math.min(columns - 1, Math.floor(x * columns));
      const row = Math.floor(y * columns);
      let found = 0;
      let total = counts[id];
      for (let dr = -1; dr <= 1; dr++) {
        for (let dc = -1; dc <= 1; dc++) {
          // In a narrow world some of the nine cells are one and the same.
          if ((columns === 1 && dc !== 0) || (columns === 2 && dc === 1)) continue;
          let side = column + dc;
          if (side < 0) side += columns;
          else if (side >= columns) side -= columns;
          const at = slot(side + columns * (row + dr));
          let before = -1;
          for (let other = heads[at]; other >= 0;) {
            const after = inCell[other];
            if (done[other] === level) {
              // Taken already: out of the cell, so that nobody looks at it again.
              if (before < 0) heads[at] = after;
              else inCell[before] = after;
            } else {
              before = other;
              if (other !== id) {
                let dx = xs[other] - x;
                if (dx > 0.5) dx -= 1;
                else if (dx < -0.5) dx += 1;
                const dy = ys[other] - y;
                if (dx * dx + dy * dy <= reach2) {
                  near[found++] = other;
                  total += counts[other];
                }
              }
            }
            other = after;
          }
        }
      }
      done[id] = level;
      if (!found || total < least) {
        next[left++] = id;
        continue;
      }
      const made = data.count++;
      let [sx, sy] = [0, ys[id] * counts[id]];
      let last = -1;
      for (let k = -1; k < found; k++) {
        const member = k < 0 ? id : near[k];
        done[member] = level;
        parents[member] = made;
        if (last < 0) firsts[made] = member;
        else nexts[last] = member;
        last = member;
        if (k >= 0) {
          sx += wrapped(xs[member] - x) * counts[member];
          sy += ys[member] * counts[member];
        }
        for (let c = 0; c < kindCount; c++) shares[made * kindCount + c] += shares[member * kindCount + c];
        for (const { list, fold: add } of folds) list[made] = add(list[made], list[member]);
      }
      xs[made] = around(x + sx / total);
      ys[made] = sy / total;
      counts[made] = total;
      levels[made] = level;
      done[made] = level;
      next[left++] = made;
    }
    // Where nobody met anybody, the level is the same list, and will share its tree.
    if (left < active.length) active = next.slice(0, left);
    data.stands[level] = active;
  }
  const trees = new Map<Int32Array, ArrayBuffer>();
  data.stands.forEach((stand, level) => {
    const known = trees.get(stand);
    if (known) {
      data.trees[level] = known;
      return;
    }
    const tree = new KDBush(stand.length || 1, 64, Float64Array);
    for (let i = 0; i < stand.length; i++) tree.add(xs[stand[i]], ys[stand[i]]);
    if (!stand.length) tree.add(2, 2);
    tree.finish();
    trees.set(stand, (data.trees[level] = tree.data as ArrayBuffer));
  });
  return data;
}
