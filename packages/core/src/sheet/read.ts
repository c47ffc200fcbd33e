import type { Fault } from '../base/fault.js';
import { allShapeFunctions } from '../cql2/all-shape-functions.js';
import { useShapeFunctions } from '../cql2/shape-functions.js';
import type { CompiledSheet } from './compile.js';
import { findScheme } from './schemes.js';
import { inspectSheetBy, readSheetBy, type ReadingTools } from './validate.js';
import { valueTools } from './value-tools.js';

const tools: ReadingTools = { find: findScheme, values: valueTools };

/** Everything wrong with a sheet, form and values alike; an empty list for a sound one. */
export function checkSheet(raw: unknown): Fault[] {
  return inspectSheetBy(raw, { find: () => undefined, values: valueTools }).faults;
}

/**
 * Everything wrong with a sheet, and what of it could be compiled all the same: its sound layers, in their places among the
 * layers of the sheet (see `index`). Undefined when the sheet is too far from the form.
 */
export function inspectSheet(raw: unknown): { readonly faults: Fault[]; readonly compiled: CompiledSheet | undefined } {
  useShapeFunctions(allShapeFunctions);
  return inspectSheetBy(raw, tools);
}

/**
 * Checks and compiles a sheet given as text or as the parsed value.
 *
 * @throws SheetFault with all faults at once, each with its JSON path, what came, what is allowed and the nearest right spelling
 */
export function readSheet(raw: unknown): CompiledSheet {
  useShapeFunctions(allShapeFunctions);
  return readSheetBy(raw, tools);
}
