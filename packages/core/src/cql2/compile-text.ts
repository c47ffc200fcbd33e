import { compileTree, type CompiledExpression } from './compile.js';
import { parseCql2 } from './parse.js';
import { readCql2Json, type Expression, type Places } from './tree.js';

/** As `compileCql2`, for a program that fetches the functions of shapes only when they are called. */
export function compileText(source: string | Expression): CompiledExpression {
  // A text is always CQL2 text; a lone text in the JSON encoding would draw nothing anyway.
  if (typeof source !== 'string') return compileTree(readCql2Json(source));
  const places: Places = new WeakMap();
  return compileTree(parseCql2(source, places), source, places);
}

/** The tree of CQL2 text or of the JSON encoding. */
export const readCql2 = (source: string | Expression): Expression =>
  typeof source === 'string' ? parseCql2(source) : readCql2Json(source);
