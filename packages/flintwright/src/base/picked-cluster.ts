import type { ClusterNode } from '@flintwright/core';

/** A cluster found on the map. */
export interface PickedCluster {
  /** Layer of the sheet that draws it. */
  readonly layer: string;
  /** Its number, count, sums and shares. */
  readonly node: ClusterNode;
  /** `[longitude, latitude]` in degrees. */
  readonly at: readonly [number, number];
}
