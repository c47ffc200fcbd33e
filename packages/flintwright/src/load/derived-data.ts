import type { CompiledSheet } from '@flintwright/core';
import { classesKey, type ClassesWanted } from '@flintwright/core/internal';
import { fetchPart } from '../base/fetch-part.js';
import type * as ClusterTool from './cluster-source.js';
import type { LoadTools } from './tools.js';

/** Class limits that scales of the sheet left to the data. */
export interface FoundBreaks {
  readonly data: string;
  readonly wanted: readonly ClassesWanted[];
  /** For each query the lowest value, the limits and the highest value; empty where there are no numbers. */
  readonly breaks: readonly (readonly number[])[];
}

/** Results worked out from the features of one data entry: class limits, and clusters for the layers that draw them. */
export class DerivedData {
  /** Clusters by the layer that draws them. */
  readonly clusters = new Map<string, ClusterTool.ClusterSource>();
  /** The query that the clusters of a layer answer. */
  private readonly queries = new Map<string, string>();
  /** Class limits that have been asked for. */
  private readonly asked = new Set<string>();
  private building = 0;
  /** What builds clusters, once it was fetched. */
  private tool: typeof ClusterTool | undefined;
  /** Counts how often all was forgotten. */
  private turn = 0;

  constructor(
    private readonly name: string,
    private readonly tools: LoadTools,
  ) {}

  get loading(): boolean {
    return this.building > 0;
  }

  /** Has clusters built that have not been asked for, or that were asked for otherwise. */
  async buildClusters({ layers, sheet }: CompiledSheet): Promise<void> {
    for (const id of this.queries.keys()) {
      if (layers.some((layer) => layer.id === id && layer.clustered)) continue;
      this.queries.delete(id);
      this.clusters.delete(id);
    }
    const { context, pool } = this.tools;
    const cluster = sheet.data?.[this.name]?.cluster;
    const clustered = layers.filter((layer) => layer.data === this.name && layer.clustered);
    if (!cluster || !clustered.length) return;
    if (!this.tool) {
      const { turn } = this;
      this.building++;
      try {
        this.tool = await fetchPart(() => import('./cluster-source.js'));
      } finally {
        this.building--;
        // Whoever waits for all to be there looks again.
        context.invalidate('overlay');
      }
      // The features may have gone meanwhile.
      if (turn !== this.turn) return;
    }
    const { buildClusters, clusterQuery } = this.tool;
    for (const layer of clustered) {
      const { query, categories } = clusterQuery(layer, cluster);
      const key = JSON.stringify(query);
      if (this.queries.get(layer.id) === key) continue;
      this.queries.set(layer.id, key);
      this.building++;
      try {
        const built = await buildClusters(this.name, query, categories, pool);
        if (this.queries.get(layer.id) === key) {
          built.filter(context.filters.of(layer.id));
          this.clusters.set(layer.id, built);
        }
      } finally {
        this.building--;
        context.invalidate('ground', true);
      }
    }
  }

  /** Has the class limits found that layers leave to the data, each once; undefined where there are none. */
  async findBreaks({ layers }: CompiledSheet): Promise<FoundBreaks | undefined> {
    const { name: data } = this;
    const wanted = layers
      .flatMap((layer) => (layer.data === data ? layer.wanted : []))
      .filter((classes) => {
        const key = classesKey(data, classes);
        return !this.asked.has(key) && this.asked.add(key);
      });
    if (!wanted.length) return undefined;
    return { data, wanted, breaks: await this.tools.pool.findClasses(data, wanted) };
  }

  /** Has clusters built anew when they are asked for next; those that stand stay until then. */
  outdate(): void {
    this.queries.clear();
  }

  forget(): void {
    this.turn++;
    this.queries.clear();
    this.clusters.clear();
    this.asked.clear();
  }
}
