import type { FeatureBlock } from '../../features/block.js';
import { readGeoJson } from '../geojson/read.js';
import type { FileLayer } from './feature-file.js';
import { inLonLat } from './system.js';

/**
 * Converts layers to one block in longitude and latitude. If there are several, the attribute `layer` of each feature is the name of its
 * layer. Heights are dropped.
 *
 * @param layers the layers
 * @param name name of the block
 * @param id attribute whose integer becomes the feature's id; default none
 * @throws Fault `crs.missing`, `crs.domain`
 */
export function blockOfLayers(layers: readonly FileLayer[], name: string, id?: string): FeatureBlock {
  const several = layers.length > 1;
  const features = layers
    .map(inLonLat)
    .flatMap((layer) =>
      several
        ? layer.features.map((feature) => ({ ...feature, properties: { layer: layer.name, ...feature.properties } }))
        : layer.features,
    );
  return readGeoJson({ type: 'FeatureCollection', features }, { name, id });
}
