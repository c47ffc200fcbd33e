import { attributesOf, Kind, type FeatureBlock, type Value } from '../../features/block.js';

/** A GeoJSON feature (RFC 7946), as functions of Flintwright return it. */
export interface GeoJsonFeature {
  readonly type: 'Feature';
  readonly id?: number;
  readonly geometry: { readonly type: string; readonly coordinates: unknown } | null;
  readonly properties: Record<string, Value>;
}

/**
 * Returns feature `index` of a block as GeoJSON.
 *
 * @param block features in longitude and latitude or in meters
 * @param index row of the feature, from 0
 * @param place converts the block's coordinates to degrees in place; default unchanged
 */
export function featureToGeoJson(
  block: FeatureBlock,
  index: number,
  place: (xy: [number, number]) => void = () => {},
): GeoJsonFeature {
  const kind = block.kinds[index];
  const ring = (r: number, close: boolean) => {
    const out: [number, number][] = [];
    for (let i = block.ringStarts[r]; i < block.ringStarts[r + 1]; i++) {
      const xy: [number, number] = [block.coords[2 * i], block.coords[2 * i + 1]];
      place(xy);
      out.push(xy);
    }
    if (close && out.length) out.push([out[0][0], out[0][1]]);
    return out;
  };
  const parts: unknown[] = [];
  for (let p = block.featureParts[index]; p < block.featureParts[index + 1]; p++) {
    const from = block.partRings[p];
    const to = block.partRings[p + 1];
    if (kind === Kind.polygon) parts.push(Array.from({ length: to - from }, (_, k) => ring(from + k, true)));
    else parts.push(kind === Kind.line ? ring(from, false) : ring(from, false)[0]);
  }
  const base = ['', 'Point', 'LineString', 'Polygon'][kind];
  const geometry =
    kind === Kind.none
      ? null
      : parts.length === 1
        ? { type: base, coordinates: parts[0] }
        : { type: `Multi${base}`, coordinates: parts };
  const id = block.ids[index];
  return { type: 'Feature', ...(Number.isNaN(id) ? {} : { id }), geometry, properties: attributesOf(block, index) };
}

/** Returns a whole block as a GeoJSON FeatureCollection. */
export function writeGeoJson(block: FeatureBlock): { type: 'FeatureCollection'; features: GeoJsonFeature[] } {
  return {
    type: 'FeatureCollection',
    features: Array.from({ length: block.count }, (_, i) => featureToGeoJson(block, i)),
  };
}
