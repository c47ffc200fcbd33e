import { readGeoJson, readGeoJsonLines, type FeatureBlock } from '@flintwright/core';
import { isGeoJsonLines, joined, numbered } from '@flintwright/core/internal';
import type { ReadFeaturesOptions } from './features.js';
import type { FeaturesRequest } from './messages.js';

/** The features of a request for GeoJSON that is drawn as it came, numbered. */
export function readOverlay(
  {
    data,
    source,
    pieces,
    block: given,
    idName,
  }: Pick<FeaturesRequest, 'data' | 'source' | 'pieces' | 'block' | 'idName'>,
  { plan, number = true }: ReadFeaturesOptions,
): { readonly block: FeatureBlock } {
  const options = { name: data, space: plan ? ('plan' as const) : ('lonlat' as const), id: idName };
  const from = pieces ? new TextDecoder().decode(joined(pieces)) : source;
  const block =
    given ??
    (typeof from === 'string' && isGeoJsonLines(from) ? readGeoJsonLines(from, options) : readGeoJson(from, options));
  return { block: number ? numbered(block) : block };
}
