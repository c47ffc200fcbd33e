import KDBush from 'kdbush';
import { webMercatorHalf } from '../crs/web-mercator.js';

export interface ClusterOptions {
  /** Points nearer than this many CSS pixels are clustered; default 56. */
  readonly within?: number;
  /** Last integer zoom level at which points are clustered; default 14. */
  readonly until?: number;
  /** Minimum number of points in a cluster; default 2. */
  readonly least?: number;
  /** Space of the points: degrees (`lonlat`, the default), or the meters of a plan (`plane`). */
  readonly space?: 'lonlat' | 'plane';
  /** Category of each point, as a number from 0. */
  readonly categories?: Uint8Array;
  /** Number of categories; default the greatest category plus one. */
  readonly categoryCount?: number;
  /** Numbers that are summed over the members, one list for each name; NaN is ignored. */
  readonly sums?: Readonly<Record<string, Float64Array>>;
  /** Numbers of which the minimum or maximum over the members is kept. */
  readonly minima?: Readonly<Record<string, Float64Array>>;
  readonly maxima?: Readonly<Record<string, Float64Array>>;
}

/** The index as plain arrays that can be transferred between threads. */
export interface ClusterData {
  readonly magic: 'flint-clusters';
  readonly version: 1;
  /** Space of the points; degrees without one. */
  readonly space?: 'lonlat' | 'plane';
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
  readonly categoryCount: number;
  readonly shares: Uint32Array;
  readonly totals: Readonly<Record<'sums' | 'minima' | 'maxima', Readonly<Record<string, Float64Array>>>>;
  /** Nodes that stand at each level from 0 to `until + 1`, and their trees. */
  readonly stands: readonly Int32Array[];
  readonly trees: readonly ArrayBuffer[];
}

export type Kept = 'sums' | 'minima' | 'maxima';
export const fold: Readonly<Record<Kept, (a: number, b: number) => number>> = {
  sums: (a, b) => a + b,
  minima: Math.min,
  maxima: Math.max,
};
export const nought: Readonly<Record<Kept, number>> = { sums: 0, minima: Infinity, maxima: -Infinity };

/** Distance from a to b on a world that begins again after 1. */
export const wrapped = (d: number) => d - Math.round(d);
export const around = (x: number) => x - Math.floor(x);

/** Where points lie in the unit square that they are gathered in: x to the east, y to the south. */
export interface ClusterSquare {
  x(lon: number): number;
  y(lat: number): number;
  lon(x: number): number;
  lat(y: number): number;
}

const radians = Math.PI / 180;
/** Latitude up to which web Mercator is carried on, so that points near a pole keep their places on surfaces that show them. */
const highest = 90 - 1e-7;

export const squares: Readonly<Record<'lonlat' | 'plane', ClusterSquare>> = {
  lonlat: {
    x: (lon) => around(0.5 + lon / 360),
    y: (lat) => 0.5 - Math.asinh(Math.tan(Math.max(-highest, Math.min(highest, lat)) * radians)) / (2 * Math.PI),
    lon: (x) => (x - 0.5) * 360,
    lat: (y) => Math.atan(Math.sinh((0.5 - y) * 2 * Math.PI)) / radians,
  },
  plane: {
    x: (x) => 0.5 + x / (2 * webMercatorHalf),
    y: (y) => 0.5 - y / (2 * webMercatorHalf),
    lon: (x) => (x - 0.5) * 2 * webMercatorHalf,
    lat: (y) => (0.5 - y) * 2 * webMercatorHalf,
  },
};

/** Nodes sorted into the cells of a square grid, so that those of a cell lie one after the other in memory. */
class Cells {
  /** Where each cell begins, and behind the last of them where it ends. */
  readonly starts: Int32Array;
  /** The nodes, cell by cell, and copies of their places and counts. */
  readonly ids: Int32Array;
  readonly xs: Float64Array;
  readonly ys: Float64Array;
  readonly counts: Uint32Array;
  /** Hash table with open addressing, from the number of a cell in the grid to that of its list; −1 is never used. */
  private readonly numbers: Int32Array;
  private readonly keys: Float64Array;
  private readonly cellOf: Int32Array;
  private mask = 0;

  constructor(room: number) {
    this.ids = new Int32Array(room);
    this.xs = new Float64Array(room);
    this.ys = new Float64Array(room);
    this.counts = new Uint32Array(room);
    this.starts = new Int32Array(room + 2);
    this.cellOf = new Int32Array(room);
    const slots = slotsFor(room);
    this.numbers = new Int32Array(slots);
    this.keys = new Float64Array(slots);
  }

  sort(nodes: Int32Array, { xs, ys, counts }: Pick<ClusterData, 'xs' | 'ys' | 'counts'>, columns: number): void {
    const { starts, numbers, keys, cellOf, ids } = this;
    // A smaller table serves fewer nodes.
    const slots = slotsFor(nodes.length);
    this.mask = slots - 1;
    numbers.fill(-1, 0, slots);
    starts.fill(0, 0, nodes.length + 2);
    let count = 0;
    for (let i = 0; i < nodes.length; i++) {
      const id = nodes[i];
      const key = Math.min(columns - 1, Math.floor(xs[id] * columns)) + columns * Math.floor(ys[id] * columns);
      const at = this.slot(key);
      if (numbers[at] < 0) {
        numbers[at] = count++;
        keys[at] = key;
      }
      const cell = numbers[at];
      cellOf[i] = cell;
      starts[cell + 2]++;
    }
    // Counted two places further on, summed up, and moved on by each node that is put down: then every cell begins at its number.
    for (let cell = 2; cell < count + 2; cell++) starts[cell] += starts[cell - 1];
    for (let i = 0; i < nodes.length; i++) {
      const at = starts[cellOf[i] + 1]++;
      const id = nodes[i];
      ids[at] = id;
      this.xs[at] = xs[id];
      this.ys[at] = ys[id];
      this.counts[at] = counts[id];
    }
  }

  /** Number of a cell's list; below 0 for an empty one. */
  find(key: number): number {
    return this.numbers[this.slot(key)];
  }

  private slot(key: number): number {
    const { numbers, keys, mask } = this;
    let at = (Math.imul(key | 0, 0x9e3779b1) ^ Math.imul((key / 65536) | 0, 0x85ebca6b)) & mask;
    while (numbers[at] !== -1 && keys[at] !== key) at = (at + 1) & mask;
    return at;
  }
}

/** A power of two with room to spare. */
const slotsFor = (nodes: number) => 2 ** Math.max(4, Math.ceil(Math.log2(nodes * 2 + 1)));

/** Gathers points level by level. */
export function gatherPoints(lonLats: ArrayLike<number>, options: ClusterOptions): ClusterData {
  const { within = 56, until = 14, least = 2, categories, space = 'lonlat' } = options;
  const square = squares[space];
  const n = lonLats.length / 2;
  // Every cluster takes the place of two nodes or more, so there never are more than points.
  const room = 2 * n + 16;
  const xs = new Float64Array(room);
  const ys = new Float64Array(room);
  for (let i = 0; i < n; i++) {
    xs[i] = square.x(lonLats[2 * i]);
    ys[i] = square.y(lonLats[2 * i + 1]);
  }
  const categoryCount =
    options.categoryCount ?? (categories ? categories.reduce((most, kind) => Math.max(most, kind + 1), 0) : 0);
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
    space,
    points: n,
    count: n,
    living: 0,
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
    categoryCount,
    shares: new Uint32Array(room * categoryCount),
    totals: {
      sums: wide(options.sums, 'sums'),
      minima: wide(options.minima, 'minima'),
      maxima: wide(options.maxima, 'maxima'),
    },
    stands: new Array<Int32Array>(until + 2),
    trees: new Array<ArrayBuffer>(until + 2),
  };
  const { counts, parents, firsts, nexts, levels, shares, totals } = data;
  levels.fill(until + 1, 0, n);
  if (categories) for (let i = 0; i < n; i++) shares[i * categoryCount + categories[i]] = 1;
  const folds = (['sums', 'minima', 'maxima'] as const).flatMap((kept) =>
    Object.values(totals[kept]).map((list) => ({ list, fold: fold[kept] })),
  );
  // Points without a place are never there.
  const placed = new Int32Array(n);
  for (let i = 0; i < n; i++) {
    if (!Number.isFinite(xs[i]) || !Number.isFinite(ys[i])) continue;
    placed[data.living++] = i;
    counts[i] = 1;
  }
  let active = placed.subarray(0, data.living);
  data.stands[until + 1] = active;
  // The level at which each node was last taken or passed over.
  const done = new Uint8Array(room).fill(255);
  const cells = new Cells(n);
  const { xs: cx, ys: cy } = cells;
  const near = new Int32Array(n);
  for (let level = until; level >= 0; level--) {
    const reach = within / (256 * 2 ** level);
    const columns = Math.max(1, Math.floor(1 / reach));
    const reach2 = reach * reach;
    cells.sort(active, data, columns);
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
          const cell = cells.find(side + columns * (row + dr));
          if (cell < 0) continue;
          const end = cells.starts[cell + 1];
          for (let at = cells.starts[cell]; at < end; at++) {
            let dx = cx[at] - x;
            if (dx > 0.5) dx -= 1;
            else if (dx < -0.5) dx += 1;
            const dy = cy[at] - y;
            // A point that was taken has no place any more, and passes no comparison.
            if (!(dx * dx + dy * dy <= reach2)) continue;
            if (cells.ids[at] === id) {
              cx[at] = NaN;
              continue;
            }
            near[found++] = at;
            total += cells.counts[at];
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
        const at = near[k];
        const member = k < 0 ? id : cells.ids[at];
        if (k >= 0) {
          sx += wrapped(cx[at] - x) * cells.counts[at];
          sy += cy[at] * cells.counts[at];
          cx[at] = NaN;
        }
        done[member] = level;
        parents[member] = made;
        if (last < 0) firsts[made] = member;
        else nexts[last] = member;
        last = member;
        for (let c = 0; c < categoryCount; c++) shares[made * categoryCount + c] += shares[member * categoryCount + c];
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
