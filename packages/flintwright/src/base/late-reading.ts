import type { CompiledSheet } from '@flintwright/core';
import { readSheetBy } from '@flintwright/core/internal';
import type * as Schemes from '@flintwright/core/internal/schemes';
import type * as Values from '@flintwright/core/internal/values';
import { fetchPart } from './fetch-part.js';

/** The color schemes, for all maps of the page, once a sheet has named one. */
let schemes: typeof Schemes | undefined;

/** What reads expressions, scales and colors by name, for all maps of the page, once a sheet has had some. */
let values: typeof Values | undefined;

/** Fetches the color schemes. */
export const fetchSchemes = async (): Promise<typeof Schemes> =>
  (schemes ??= await fetchPart(() => import('@flintwright/core/internal/schemes')));

/** Has all maps of the page read values by what is there already. */
export const useValues = (all: typeof Values): void => {
  values = all;
};

/** Whether what reads values of every form is there. */
export const hasValues = (): boolean => values !== undefined;

/** Fetches what reads values of every form. */
export const fetchValues = async (): Promise<typeof Values> =>
  (values ??= await fetchPart(() => import('@flintwright/core/internal/values')));

/** `count` colors of a scheme; undefined for one that there is not, and for all before they have come. */
export const findScheme = (name: string, count: number): readonly string[] | undefined =>
  schemes?.findScheme(name, count);

/**
 * Checks and compiles a sheet. Gray stands in for the colors of schemes that are not there yet; values that are not plain are taken for
 * sound while what reads them is not there.
 *
 * @throws SheetFault
 */
export const compileNow = (sheet: unknown): CompiledSheet =>
  readSheetBy(sheet, { find: findScheme, values: values?.valueTools });

/** A sheet for workers, with schemes and expressions written out. What reads values must be there. */
export function writtenOut({ sheet, plain }: CompiledSheet): CompiledSheet['sheet'] {
  if (plain) return sheet;
  if (!values) throw new TypeError('a sheet was written before the code that reads its values is there');
  return values.selfContained(sheet, findScheme);
}
