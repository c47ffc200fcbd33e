import type { FileFeature } from './feature-file.js';
import type { WarningList } from './warnings.js';

/**
 * Features whose ids stand among their attributes, for formats that have attributes only: as `id`, or, where some feature has an
 * attribute of that name, as `feature_id`.
 */
export function idsAsAttributes(features: readonly FileFeature[]): readonly FileFeature[] {
  if (features.every(({ id }) => id === undefined)) return features;
  const taken = (name: string) => features.some(({ properties }) => name in properties);
  let name = 'id';
  for (let k = 1; taken(name); k++) name = k === 1 ? 'feature_id' : `feature_id_${k}`;
  return features.map((feature) =>
    feature.id === undefined ? feature : { ...feature, properties: { [name]: feature.id, ...feature.properties } },
  );
}

/** Tells of ids that a format has no place for. */
export function tellLostIds(features: readonly FileFeature[], warnings: WarningList): void {
  for (const { id } of features)
    if (id !== undefined)
      warnings.add('skipped.id', 'the format has no ids of features', 'They were left out.', String(id));
}
