import type { FeatureBlock } from '../features/block.js';
import { compileTree, type CompiledExpression } from './compile.js';
import { geometryColumn, geometryOperations } from './geometry-column.js';

/**
 * A block with the answers of all geometry operations of some expressions as hidden columns, so that they hold for the whole
 * features after these have been cut into tiles. The same block when there is nothing to add.
 */
export function withGeometryAnswers(block: FeatureBlock, expressions: readonly CompiledExpression[]): FeatureBlock {
  const known = new Set(block.columns.map(({ name }) => name));
  const columns = [...block.columns];
  for (const operation of expressions.flatMap(({ tree }) => geometryOperations(tree))) {
    const name = geometryColumn(operation as object);
    if (known.has(name)) continue;
    known.add(name);
    const compiled = compileTree(operation);
    const evaluate = compiled.bind({ block, zoom: 0 });
    if (compiled.sort === 'number') {
      columns.push({ name, numbers: Float64Array.from({ length: block.count }, (_, f) => evaluate(f) as number) });
    } else {
      const codes = Uint32Array.from({ length: block.count }, (_, f) => (evaluate(f) === true ? 2 : 1));
      columns.push({ name, codes, values: [false, true] });
    }
  }
  return columns.length === block.columns.length ? block : { ...block, columns };
}
