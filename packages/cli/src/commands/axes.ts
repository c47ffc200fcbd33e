import type { Crs } from '@flintwright/core';
import type { FileLayer } from '@flintwright/core/files';
import { authorityAxes, mapPositions } from '@flintwright/core/internal';

/** A layer with its positions turned between the order and directions of an authority's axes and x east, y north. */
export function withAxes(layer: FileLayer, crs: Crs | undefined, way: 'toXY' | 'fromXY'): FileLayer {
  if (!crs) return layer;
  const turn = authorityAxes(crs)[way];
  const features = layer.features.map((feature) =>
    feature.geometry
      ? {
          ...feature,
          geometry: mapPositions(feature.geometry, ([x, y, ...rest]) => {
            const xy: [number, number] = [x, y];
            turn(xy);
            return [...xy, ...rest];
          }),
        }
      : feature,
  );
  return { ...layer, features };
}
