// What reads values of every form, for programs that fetch it when a sheet first has some.
import { compileTree } from '../cql2/compile.js';
import { compileText } from '../cql2/compile-text.js';
import { cssColors, findColor } from './color.js';
import { compileScale } from './scale.js';
import type { ValueTools } from './value-kinds.js';

export { parseCql2 } from '../cql2/parse.js';
export { selfContained } from './self-contained.js';
export { compileText, compileTree, cssColors, findColor };

/** Reads expressions as text or trees, scales, and all CSS colors. */
export const valueTools: ValueTools = { colors: cssColors, expression: compileText, scale: compileScale };
