import type { CompiledSheet } from '@flintwright/core';
import { readSheetBy } from '@flintwright/core/internal';
import type * as Schemes from '@flintwright/core/internal/schemes';
import { fetchPart } from './fetch-part.js';

/** The colour schemes, for all maps of the page, once a sheet has named one. */
let schemes: typeof Schemes | undefined;

/** Fetches the colour schemes. */
export const fetchSchemes = async (): Promise<typeof Schemes> =>
  (schemes ??= await fetchPart(() => import('@flintwright/core/internal/schemes')));

/** `count` colours of a scheme; undefined for one that there is not, and for all before they have come. */
export const findScheme = (name: string, count: number): readonly string[] | undefined =>
  schemes?.findScheme(name, count);

/** Checks and compiles a sheet. Grey stands in for the colours of schemes that are not there yet. @throws SheetFault */
export const compileNow = (sheet: unknown): CompiledSheet => readSheetBy(sheet, findScheme);
