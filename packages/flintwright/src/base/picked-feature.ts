import type { GeoJsonFeature } from '@flintwright/core';

/** A feature found on the map. */
export interface PickedFeature extends GeoJsonFeature {
  /** Layer of the sheet that draws it. */
  readonly layer: string;
  /** Data entry of the sheet that holds it. */
  readonly data: string;
  /** Layer of the tiles; empty for features without layers. */
  readonly from: string;
  /** The key that tells it apart within its data and layer; undefined when nothing does. */
  readonly key: string | undefined;
}

/** Where to look for features. */
export interface PickOptions {
  /** Only these layers, by id; default all that are visible. */
  readonly layers?: readonly string[];
  /** Reach around the point in CSS pixels; default 4. */
  readonly within?: number;
}

/** Whether two finds are the same feature of the same data. */
export const isSame = (a: PickedFeature, b: PickedFeature) => a.key === b.key && a.data === b.data && a.from === b.from;
