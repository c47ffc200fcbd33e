import { Fault } from '../base/fault.js';
import { Kind, vertexRange, type FeatureBlock } from './block.js';
import { BlockBuilder } from './builder.js';
import { featureKeys, numbered, rowName } from './keys.js';

/** Changes of features in memory; features are identified by their keys. */
export interface BlockEdit {
  /** Features to add, or to replace those with the same key. */
  readonly put?: FeatureBlock;
  /** New positions of points, `[longitude, latitude]` in degrees. */
  readonly move?: Readonly<Record<string, readonly [number, number]>>;
  readonly remove?: readonly string[];
}

/** A block after an edit, and which of its features are new, moved or deleted. */
export interface EditedBlock {
  readonly block: FeatureBlock;
  readonly added: readonly number[];
  readonly moved: readonly number[];
  readonly removed: readonly number[];
}

/**
 * Applies changes to features. Indices of features stay: deleted features stay without a geometry, new ones are appended.
 *
 * @param block the features before; it is not changed
 * @param edit what to add, move and delete
 * @param idName attribute that identifies features; default their ids
 * @throws Fault `edit.key` for unknown keys, `edit.point` for moving a feature that is not a point; nothing is changed then
 */
export function editBlock(
  block: FeatureBlock,
  { put, move = {}, remove = [] }: BlockEdit,
  idName?: string,
): EditedBlock {
  const keyOf = featureKeys(block, idName);
  const at = new Map<string, number>();
  for (let f = 0; f < block.count; f++) {
    // What was taken out before has neither an id nor attributes left.
    const key = keyOf(f);
    if (key !== undefined) at.set(key, f);
  }
  const wanted = [...Object.keys(move), ...remove];
  const unknown = wanted.filter((key) => !at.has(key));
  if (unknown.length)
    throw new Fault(
      'edit.key',
      `no feature has the key ${unknown.slice(0, 5).join(', ')}${unknown.length > 5 ? ` (and ${unknown.length - 5} more)` : ''}`,
      idName === undefined
        ? 'Use the ids of features, or give the data entry an "id" attribute.'
        : `Name features by their attribute "${idName}".`,
    );
  const removed = new Set(remove.map((key) => at.get(key)!));
  if (put) {
    const fresh = featureKeys(put, idName);
    for (let f = 0; f < put.count; f++) {
      const old = at.get(fresh(f) ?? '');
      if (old !== undefined) removed.add(old);
    }
  }
  const moved = Object.entries(move).map(([key, place]) => {
    const f = at.get(key)!;
    const [from, to] = vertexRange(block, f);
    if (block.kinds[f] !== Kind.point || to - from !== 1)
      throw new Fault(
        'edit.point',
        `the feature ${key} is not a single point`,
        'Replace the whole feature with "put".',
      );
    return [f, from, place] as const;
  });
  const coords = moved.length ? block.coords.slice() : block.coords;
  for (const [, from, [lon, lat]] of moved) coords.set([lon, lat], 2 * from);
  const before = { ...block, coords };
  const features = moved.map(([f]) => f);
  if (!removed.size && !put?.count) return { block: before, added: [], moved: features, removed: [] };
  const builder = new BlockBuilder(block.name, block.space, block.extent);
  for (let f = 0; f < block.count; f++) {
    if (removed.has(f)) {
      builder.begin();
      builder.end(Kind.none);
    } else builder.copy(before, f);
  }
  const added: number[] = [];
  if (put) {
    const named = block.columns.some(({ name }) => name === rowName) ? numbered(put, block.count) : put;
    for (let f = 0; f < put.count; f++) {
      added.push(block.count + f);
      builder.copy(named, f);
    }
  }
  return { block: builder.finish(), added, moved: features, removed: [...removed] };
}
