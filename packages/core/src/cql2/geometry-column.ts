import { hiddenMark } from '../features/block.js';
import { isSpatial } from './spatial-names.js';
import type { Argument, Expression } from './tree.js';

/** Name of the column in which the answer of a geometry operation is kept, once it has been worked out. */
export const geometryColumn = (node: object) => `${hiddenMark}${JSON.stringify(node)}`;

/** The operations of an expression whose answer rests on nothing but the feature's geometry. */
export function geometryOperations(tree: Argument): Expression[] {
  if (typeof tree !== 'object') return [];
  if (Array.isArray(tree)) return (tree as readonly Argument[]).flatMap(geometryOperations);
  if (!('op' in tree)) return [];
  const { op, args } = tree as { op: string; args: readonly Argument[] };
  if (isSpatial(op) || op === 'length' || op === 'area') return [tree];
  return args.flatMap(geometryOperations);
}
