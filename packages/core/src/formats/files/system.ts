import { Fault } from '../../base/fault.js';
import { transformer, type Crs } from '../../crs/crs.js';
import { getCrs } from '../../crs/registry.js';
import type { FileFeature, FileLayer } from './feature-file.js';
import { mapPositions } from './mend.js';

/**
 * Transforms a layer to another coordinate system; heights stay unchanged.
 *
 * @param layer a layer with a known coordinate system
 * @param to the target system
 * @throws Fault `crs.missing` for a layer without a coordinate system, `crs.domain` for positions outside the domain of either system
 */
export function inSystem(layer: FileLayer, to: Crs): FileLayer {
  const { crs: from, features, name } = layer;
  if (from?.id === to.id) return layer;
  if (!from)
    throw new Fault(
      'crs.missing',
      `nothing says in which coordinate system "${name}" is`,
      'Name it, such as EPSG:32625 (on the command line with --from).',
    );
  const place = transformer(from, to);
  const at: [number, number] = [0, 0];
  const outside: string[] = [];
  let missed = 0;
  const moved = features.map((feature, i): FileFeature => {
    if (!feature.geometry) return feature;
    const geometry = mapPositions(feature.geometry, ([x, y, ...rest]) => {
      if (place(x, y, at)) return [at[0], at[1], ...rest];
      if (missed++ < 5) outside.push(`feature ${i + 1}: ${x}, ${y}`);
      return [x, y];
    });
    return { ...feature, geometry };
  });
  if (missed)
    throw new Fault(
      'crs.domain',
      `${missed} position${missed === 1 ? ' lies' : 's lie'} outside the domain of ${from.id} or ${to.id}: ${outside.join('; ')}${missed > outside.length ? '; …' : ''}`,
      `Check that the coordinates are in ${from.id}, x (east) first.`,
      name,
    );
  return { ...layer, features: moved, crs: to };
}

const lonLat = () => getCrs('OGC:CRS84');

/** Transforms a layer to longitude and latitude, degrees on WGS 84. @throws as {@link inSystem} does */
export const inLonLat = (layer: FileLayer): FileLayer =>
  layer.crs?.id === 'EPSG:4326' ? layer : inSystem(layer, lonLat());
