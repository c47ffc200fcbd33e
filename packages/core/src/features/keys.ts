import { findColumn, hiddenMark, valueAt, type FeatureBlock } from './block.js';

/** Hidden attribute in which features held in memory are numbered, for those that nothing else tells apart. */
export const rowName = `${hiddenMark}row`;

/**
 * Returns the keys that identify the features of a block: the attribute named by the data entry, the id, or the row; undefined for none.
 *
 * @param block the features
 * @param idName attribute that identifies features; default their ids
 */
export function featureKeys(block: FeatureBlock, idName: string | undefined): (feature: number) => string | undefined {
  const column = idName === undefined ? undefined : findColumn(block, idName);
  const rows = findColumn(block, rowName);
  return (feature) => {
    const value = column && valueAt(column, feature);
    if (value !== undefined && value !== null) return String(value);
    if (!column && !Number.isNaN(block.ids[feature])) return String(block.ids[feature]);
    const row = rows && valueAt(rows, feature);
    return row === undefined ? undefined : `#${String(row)}`;
  };
}

/** The same block with its features numbered in {@link rowName}, from `first` on. */
export function numbered(block: FeatureBlock, first = 0): FeatureBlock {
  const numbers = Float64Array.from({ length: block.count }, (_, f) => first + f);
  return { ...block, columns: [...block.columns, { name: rowName, numbers }] };
}
