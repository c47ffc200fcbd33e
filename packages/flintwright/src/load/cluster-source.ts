import {
  attributesOf,
  ClusterIndex,
  compileTree,
  editBlock,
  findColumn,
  kindNumber,
  parseCql2,
  valueAt,
  vertexRange,
  type BlockEdit,
  type CompiledLayer,
  type Expression,
  type FeatureBlock,
  type SheetCluster,
  type SheetScale,
} from '@flintwright/core';
import type { TreeCluster } from '../worker/messages.js';
import type { WorkerPool } from '../worker/pool.js';

/** Says of a feature's attributes whether it is to be shown. */
export type Test = (properties: Readonly<Record<string, unknown>>) => boolean;

/** The clusters of one layer, with the features they are made of. */
export class Clusters {
  /** Points that came after the index was built, and the features they stand for; others have the feature's number. */
  private readonly features = new Map<number, number>();
  private readonly points = new Map<number, number>();
  private readonly hidden = new Set<number>();
  private test: Test | undefined;

  constructor(
    readonly index: ClusterIndex,
    private features_: FeatureBlock,
    /** Kinds in the order of the shares; what is none of them comes last. */
    readonly kinds: readonly string[],
    private readonly wish: TreeCluster,
  ) {}

  get block(): FeatureBlock {
    return this.features_;
  }

  /** The feature that a point of the index stands for. */
  featureOf(point: number): number {
    return this.features.get(point) ?? point;
  }

  /** Applies an edit that the worker has accepted; only what it touches is worked out anew. */
  edit(edit: BlockEdit, idName: string | undefined): void {
    const { block, added, moved, removed } = editBlock(this.features_, edit, idName);
    const { index } = this;
    for (const f of removed) index.remove(this.pointOf(f));
    this.features_ = block;
    for (const f of moved) {
      const [from] = vertexRange(block, f);
      index.move(this.pointOf(f), block.coords[2 * from], block.coords[2 * from + 1]);
    }
    const asks = this.asks();
    for (const f of added) {
      const [from, to] = vertexRange(block, f);
      if (to === from || !asks.passes(f)) continue;
      const point = index.add(block.coords[2 * from], block.coords[2 * from + 1], asks.values(f));
      this.features.set(point, f);
      this.points.set(f, point);
    }
    this.filter(this.test);
  }

  /** Shows only what passes a test; all without one. */
  filter(test: Test | undefined): void {
    this.test = test;
    if (!test && !this.hidden.size) return;
    const { block, index } = this;
    const { passes } = this.asks();
    for (let f = 0; f < block.count; f++) {
      const out = test !== undefined && !test(attributesOf(block, f));
      if (out === this.hidden.has(f) || !passes(f) || block.kinds[f] === 0) continue;
      if (out) {
        index.remove(this.pointOf(f));
        this.hidden.add(f);
      } else {
        index.restore(this.pointOf(f));
        this.hidden.delete(f);
      }
    }
  }

  private pointOf(feature: number): number {
    return this.points.get(feature) ?? feature;
  }

  /** What the sheet asks of each feature, bound to the present block. */
  private asks() {
    const { wish, features_: block } = this;
    const bound = (tree: Expression) => compileTree(tree).bind({ block, zoom: 0 });
    const where = wish.where === undefined ? undefined : bound(wish.where);
    const numbers = (trees: Readonly<Record<string, Expression>> | undefined) =>
      Object.entries(trees ?? {}).map(([name, tree]) => [name, bound(tree)] as const);
    const [sums, lows, highs] = [numbers(wish.sum), numbers(wish.low), numbers(wish.high)];
    const column = wish.share && findColumn(block, wish.share.attribute);
    const all = (list: typeof sums, f: number) =>
      Object.fromEntries(list.map(([name, evaluate]) => [name, Number(evaluate(f) ?? NaN)]));
    return {
      passes: (f: number) => !where || where(f) === true,
      values: (f: number) => ({
        sums: all(sums, f),
        lows: all(lows, f),
        highs: all(highs, f),
        ...(column && wish.share ? { kind: kindNumber(wish.share.kinds, valueAt(column, f)) } : {}),
      }),
    };
  }
}

/** The kinds that divide the rim: those that a layer's colour names, in its order. */
function kindsOf(attribute: string, layers: readonly CompiledLayer[]): readonly string[] {
  for (const { source } of layers) {
    const color = source.mark?.color;
    if (typeof color !== 'object' || !('by' in color) || color.by !== attribute) continue;
    const { kinds } = color as SheetScale<string>;
    if (kinds) return Array.isArray(kinds) ? kinds.map(String) : Object.keys(kinds);
  }
  return [];
}

const trees = (texts: Readonly<Record<string, string>> | undefined) =>
  texts && Object.fromEntries(Object.entries(texts).map(([name, text]) => [name, parseCql2(text)]));

/** What a clustered layer asks of its points, expressions as trees; equal for layers that ask the same. */
export function clusterWish(
  layer: CompiledLayer,
  cluster: SheetCluster,
): { readonly wish: TreeCluster; readonly kinds: readonly string[] } {
  const { share, sum, low, high, ...rest } = cluster;
  const kinds = share === undefined ? [] : kindsOf(share, [layer]);
  const wish = {
    ...rest,
    ...(layer.where ? { where: layer.where.tree } : {}),
    ...(share === undefined || !kinds.length ? {} : { share: { attribute: share, kinds } }),
    ...(sum ? { sum: trees(sum) } : {}),
    ...(low ? { low: trees(low) } : {}),
    ...(high ? { high: trees(high) } : {}),
  } as TreeCluster;
  return { wish, kinds };
}

/** Has the points of a data entry gathered. */
export async function gatherClusters(
  name: string,
  wish: TreeCluster,
  kinds: readonly string[],
  pool: WorkerPool,
): Promise<Clusters> {
  const { data, block } = await pool.gather(name, wish);
  return new Clusters(ClusterIndex.from(data), block, kinds, wish);
}
