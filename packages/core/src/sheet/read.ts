import type { Fault } from '../base/fault.js';
import { allShapeFunctions } from '../cql2/all-shape-functions.js';
import { useShapeFunctions } from '../cql2/shape-functions.js';
import type { CompiledSheet } from './compile.js';
import { findScheme } from './schemes.js';
import { inspectSheetBy, readSheetBy } from './validate.js';

/**
 * Everything wrong with a sheet, and what of it could be compiled all the same: its sound layers, in their places among the
 * layers of the sheet (see `index`). Undefined when the sheet is too far from the form.
 */
export function inspectSheet(raw: unknown): { readonly faults: Fault[]; readonly compiled: CompiledSheet | undefined } {
  useShapeFunctions(allShapeFunctions);
  return inspectSheetBy(raw, findScheme);
}

/**
 * Checks and compiles a sheet given as text or as the parsed value.
 *
 * @throws SheetFault with all faults at once, each with its JSON path, what came, what is allowed and the nearest right spelling
 */
export function readSheet(raw: unknown): CompiledSheet {
  useShapeFunctions(allShapeFunctions);
  return readSheetBy(raw, findScheme);
}
