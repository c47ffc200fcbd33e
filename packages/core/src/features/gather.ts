import KDBush from 'kdbush';
import { mercatorX, mercatorY, webMercatorHalf } from '../crs/web-mercator.js';

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

export type Kept = 'sums' | 'lows' | 'highs';
export const fold: Readonly<Record<Kept, (a: number, b: number) => number>> = {
  sums: (a, b) => a + b,
  lows: Math.min,
  highs: Math.max,
};
export const nought: Readonly<Record<Kept, number>> = { sums: 0, lows: Infinity, highs: -Infinity };

/** Distance from a to b on a world that begins again after 1. */
export const wrapped = (d: number) => d - Math.round(d);
export const around = (x: number) => x - Math.floor(x);

/** Gathers points level by level. */
export function gatherPoints(lonLats: ArrayLike<number>, options: ClusterOptions): ClusterData {
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
