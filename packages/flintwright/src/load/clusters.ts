import {
  ClusterIndex,
  parseCql2,
  type CompiledLayer,
  type FeatureBlock,
  type SheetCluster,
  type SheetScale,
} from '@flintwright/core';
import type { TreeCluster } from './messages.js';
import type { WorkerPool } from './pool.js';

/** The clusters of one data entry, with the features they are made of. */
export interface Clusters {
  readonly index: ClusterIndex;
  readonly block: FeatureBlock;
  /** Kinds in the order of the shares; what is none of them comes last. */
  readonly kinds: readonly string[];
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
  return { index: ClusterIndex.from(data), block, kinds };
}
