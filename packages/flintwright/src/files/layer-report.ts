import type { Value } from '@flintwright/core';
import { inLonLat, type FileFeature, type FileLayer } from '@flintwright/core/files';
import { eachPosition } from '@flintwright/core/internal';
import type { FileField, ReadLayer } from './messages.js';

/** A layer in longitude and latitude, with what there is to say of it. */
export function readLayer(layer: FileLayer): ReadLayer {
  const { features } = layer.crs ? inLonLat(layer) : layer;
  const kinds = { point: 0, line: 0, polygon: 0, none: 0 };
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const { geometry } of features) {
    kinds[kindOf(geometry?.type)]++;
    eachPosition(geometry, ([x, y]) => {
      box[0] = Math.min(box[0], x);
      box[1] = Math.min(box[1], y);
      box[2] = Math.max(box[2], x);
      box[3] = Math.max(box[3], y);
    });
  }
  return {
    name: layer.name,
    features: { type: 'FeatureCollection', features },
    kinds,
    bounds: box[0] > box[2] ? undefined : box,
    crs: layer.crs?.id,
    crsSource: layer.crsSource,
    fields: fieldsOf(features),
    ...(layer.look ? { look: layer.look } : {}),
  };
}

function kindOf(type: string | undefined): 'point' | 'line' | 'polygon' | 'none' {
  if (type === undefined) return 'none';
  if (type.endsWith('Point')) return 'point';
  return type.endsWith('LineString') ? 'line' : 'polygon';
}

function fieldsOf(features: readonly FileFeature[]): FileField[] {
  const all = new Map<
    string,
    { types: Set<string>; counts: Map<Value, number>; filled: number; low: number; high: number }
  >();
  for (const { properties } of features)
    for (const [name, raw] of Object.entries(properties)) {
      if (raw === null || raw === undefined) continue;
      const value = typeof raw === 'object' ? JSON.stringify(raw) : (raw as Value);
      let field = all.get(name);
      if (!field)
        all.set(name, (field = { types: new Set(), counts: new Map(), filled: 0, low: Infinity, high: -Infinity }));
      field.filled++;
      field.types.add(typeof value);
      if (field.counts.size < 1000 || field.counts.has(value))
        field.counts.set(value, (field.counts.get(value) ?? 0) + 1);
      if (typeof value === 'number')
        [field.low, field.high] = [Math.min(field.low, value), Math.max(field.high, value)];
    }
  return [...all].map(([name, { types, counts, filled, low, high }]) => ({
    name,
    type: [...types].join(' or '),
    filled,
    ...(low <= high ? { range: [low, high] as const } : {}),
    values: [...counts]
      .toSorted((a, b) => b[1] - a[1])
      .slice(0, 12)
      .map(([value]) => value),
    different: counts.size,
  }));
}
