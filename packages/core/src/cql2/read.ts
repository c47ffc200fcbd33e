import { allShapeFunctions } from './all-shape-functions.js';
import type { CompiledExpression } from './compile.js';
import { compileText } from './compile-text.js';
import { useShapeFunctions } from './shape-functions.js';
import type { Expression } from './tree.js';

/**
 * Compiles CQL2: text, or the JSON encoding; see `compileTree`.
 *
 * @throws Fault `cql2.syntax`, `cql2.json`, `cql2.function` or `cql2.type`, with line and column (or JSON path)
 */
export function compileCql2(source: string | Expression): CompiledExpression {
  useShapeFunctions(allShapeFunctions);
  return compileText(source);
}
