import type { FeatureBlock } from '@flintwright/core';

/** A block without features, for values that go by the zoom alone. */
export const emptyBlock: FeatureBlock = {
  name: '',
  space: 'lonlat',
  extent: 0,
  count: 0,
  kinds: new Uint8Array(),
  ids: new Float64Array(),
  featureParts: new Uint32Array(1),
  partRings: new Uint32Array(1),
  ringStarts: new Uint32Array(1),
  coords: new Float64Array(),
  columns: [],
};
