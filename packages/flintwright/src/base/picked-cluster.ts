import type { ClusterNode } from '@flintwright/core';

/** A cluster at a point of the map. */
export interface PickedCluster {
  /** Id of the layer that draws it. */
  readonly layer: string;
  /** Its id, count, sums and shares. */
  readonly node: ClusterNode;
  /** `[longitude, latitude]` in degrees. */
  readonly at: readonly [number, number];
}
