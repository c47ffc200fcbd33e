import type { GeoJsonFeature } from '@flintwright/core';

/** A feature at a point of the map. */
export interface PickedFeature extends GeoJsonFeature {
  /** Id of the layer that draws it. */
  readonly layer: string;
  /** Name of the data entry that contains it. */
  readonly data: string;
  /** Layer of the tiles; empty for features without layers. */
  readonly from: string;
  /** The key that identifies it within its data entry and layer; undefined if it has none. */
  readonly key: string | undefined;
}

/** Options of picking. */
export interface PickOptions {
  /** Ids of the layers to search; default all visible layers. */
  readonly layers?: readonly string[];
  /** Radius around the point in CSS pixels; default 4. */
  readonly within?: number;
}

/** Whether two finds are the same feature of the same data. */
export const isSame = (a: PickedFeature, b: PickedFeature) => a.key === b.key && a.data === b.data && a.from === b.from;
