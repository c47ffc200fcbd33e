import type * as SchemeTools from '@flintwright/core/internal/schemes';

type Schemes = typeof SchemeTools;

/** The colour schemes, for all maps of the page, once a sheet has named one. */
let schemes: Schemes | undefined;

/** Fetches the colour schemes. */
export const fetchSchemes = async (): Promise<Schemes> =>
  (schemes ??= await import('@flintwright/core/internal/schemes'));

/** `count` colours of a scheme; undefined for one that there is not, and for all before they have come. */
export const findScheme = (name: string, count: number): readonly string[] | undefined =>
  schemes?.findScheme(name, count);
