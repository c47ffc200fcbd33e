import type { Fault } from '../base/fault.js';
import { allShapeFunctions } from '../cql2/all-shape-functions.js';
import { useShapeFunctions } from '../cql2/shape-functions.js';
import type { CompiledSheet } from './compile.js';
import { findScheme } from './schemes.js';
import { inspectSheetBy, readSheetBy, type ReadingTools } from './validate.js';
import { valueTools } from './value-tools.js';

const tools: ReadingTools = { find: findScheme, values: valueTools };

/** Returns all faults of a sheet, of its form and its values; an empty list for a valid one. */
export function checkSheet(raw: unknown): Fault[] {
  return inspectSheetBy(raw, { find: () => undefined, values: valueTools }).faults;
}

/**
 * Returns all faults of a sheet, and what could be compiled nevertheless: its valid layers, with their positions among the layers of the
 * sheet (see `index`). Undefined if the form of the sheet is too far off.
 */
export function inspectSheet(raw: unknown): { readonly faults: Fault[]; readonly compiled: CompiledSheet | undefined } {
  useShapeFunctions(allShapeFunctions);
  return inspectSheetBy(raw, tools);
}

/**
 * Validates and compiles a sheet, given as text or as the parsed value.
 *
 * @throws SheetFault with all faults, each with its JSON path, what was expected, what came and the closest correct spelling
 */
export function readSheet(raw: unknown): CompiledSheet {
  useShapeFunctions(allShapeFunctions);
  return readSheetBy(raw, tools);
}
