import {
  attributesOf,
  ClusterIndex,
  editBlock,
  findColumn,
  readGeoJson,
  valueAt,
  vertexRange,
  type BlockEdit,
  type CompiledLayer,
  type Expression,
  type FeatureBlock,
  type SheetCluster,
} from '@flintwright/core';
import { categoryNumber } from '@flintwright/core/internal';
import { compileTree, parseCql2 } from '@flintwright/core/internal/values';
import type { FeatureTest } from '../base/feature-filters.js';
import type { ClusterQuery, FeatureEdit } from '../worker/messages.js';
import type { WorkerPool } from '../worker/pool.js';

/** The clusters of one layer, with the features they are made of. */
export class ClusterSource {
  /** Points that came after the index was built, and the features they stand for; others have the feature's number. */
  private readonly features = new Map<number, number>();
  private readonly points = new Map<number, number>();
  private readonly hidden = new Set<number>();
  private test: FeatureTest | undefined;

  constructor(
    readonly index: ClusterIndex,
    private features_: FeatureBlock,
    /** Categories in the order of the shares; what is none of them comes last. */
    readonly categories: readonly string[],
    private readonly query: ClusterQuery,
  ) {}

  get block(): FeatureBlock {
    return this.features_;
  }

  /** The feature that a point of the index stands for. */
  featureOf(point: number): number {
    return this.features.get(point) ?? point;
  }

  /** Applies an edit that the worker has accepted; only what it touches is worked out anew. */
  edit({ put, ...rest }: FeatureEdit, idName: string | undefined): void {
    const id = idName === undefined ? {} : { id: idName };
    const { name, space } = this.features_;
    const options = { name, space: space === 'plane' ? ('plan' as const) : ('lonlat' as const), ...id };
    const edit: BlockEdit = { ...rest, ...(put && { put: readGeoJson(put, options) }) };
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
  filter(test: FeatureTest | undefined): void {
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

  /** Values of each feature, bound to the present block. */
  private asks() {
    const { query, features_: block } = this;
    const bound = (tree: Expression) => compileTree(tree).bind({ block, zoom: 0 });
    const where = query.where === undefined ? undefined : bound(query.where);
    const numbers = (trees: Readonly<Record<string, Expression>> | undefined) =>
      Object.entries(trees ?? {}).map(([name, tree]) => [name, bound(tree)] as const);
    const [sums, minima, maxima] = [numbers(query.sum), numbers(query.min), numbers(query.max)];
    const column = query.share && findColumn(block, query.share.attribute);
    const all = (list: typeof sums, f: number) =>
      Object.fromEntries(list.map(([name, evaluate]) => [name, Number(evaluate(f) ?? NaN)]));
    return {
      passes: (f: number) => !where || where(f) === true,
      values: (f: number) => ({
        sums: all(sums, f),
        minima: all(minima, f),
        maxima: all(maxima, f),
        ...(column && query.share ? { category: categoryNumber(query.share.categories, valueAt(column, f)) } : {}),
      }),
    };
  }
}

/** The categories that divide the rim: those that a layer's color names, in its order. */
function categoriesOf(attribute: string, layers: readonly CompiledLayer[]): readonly string[] {
  for (const { source } of layers) {
    const color = source.mark?.color;
    if (typeof color !== 'object' || !('by' in color) || color.by !== attribute) continue;
    const { categories } = color;
    if (categories) return Array.isArray(categories) ? categories.map(String) : Object.keys(categories);
  }
  return [];
}

const trees = (texts: Readonly<Record<string, string>> | undefined) =>
  texts && Object.fromEntries(Object.entries(texts).map(([name, text]) => [name, parseCql2(text)]));

/** The query of a clustered layer, expressions as trees; equal for layers that ask the same. */
export function clusterQuery(
  layer: CompiledLayer,
  cluster: SheetCluster,
): { readonly query: ClusterQuery; readonly categories: readonly string[] } {
  const { share, sum, min, max, ...rest } = cluster;
  const categories = share === undefined ? [] : categoriesOf(share, [layer]);
  const query = {
    ...rest,
    ...(layer.where ? { where: layer.where.tree } : {}),
    ...(share === undefined || !categories.length ? {} : { share: { attribute: share, categories } }),
    ...(sum ? { sum: trees(sum) } : {}),
    ...(min ? { min: trees(min) } : {}),
    ...(max ? { max: trees(max) } : {}),
  } as ClusterQuery;
  return { query, categories };
}

/** Has the points of a data entry clustered by the worker that holds them. */
export async function buildClusters(
  name: string,
  query: ClusterQuery,
  categories: readonly string[],
  pool: WorkerPool,
): Promise<ClusterSource> {
  const { data, block } = await pool.buildClusters(name, query);
  return new ClusterSource(ClusterIndex.from(data), block, categories, query);
}
