import { cutAtAntimeridian } from '../../geometry/antimeridian.js';
import type { FileFeature, FileGeometry, FileLayer } from './feature-file.js';

/** A layer in degrees without positions beyond ±180°; see `cutAtAntimeridian`. Layers in other systems stay as they are. */
export function withinWorld(layer: FileLayer): FileLayer {
  if (!layer.crs?.isGeographic) return layer;
  let isCut = false;
  const features = layer.features.map((feature): FileFeature => {
    const geometry = feature.geometry && cutAtAntimeridian<FileGeometry>(feature.geometry);
    if (geometry === feature.geometry) return feature;
    isCut = true;
    return { ...feature, geometry };
  });
  return isCut ? { ...layer, features } : layer;
}
