import { interpolateLab } from 'd3-interpolate';
import {
  schemeAccent,
  schemeBlues,
  schemeBrBG,
  schemeBuGn,
  schemeBuPu,
  schemeDark2,
  schemeGnBu,
  schemeGreens,
  schemeGreys,
  schemeOrRd,
  schemeOranges,
  schemePRGn,
  schemePaired,
  schemePastel1,
  schemePastel2,
  schemePiYG,
  schemePuBu,
  schemePuBuGn,
  schemePuOr,
  schemePuRd,
  schemePurples,
  schemeRdBu,
  schemeRdGy,
  schemeRdPu,
  schemeRdYlBu,
  schemeRdYlGn,
  schemeReds,
  schemeSet1,
  schemeSet2,
  schemeSet3,
  schemeSpectral,
  schemeYlGn,
  schemeYlGnBu,
  schemeYlOrBr,
  schemeYlOrRd,
} from 'd3-scale-chromatic';

import { schemeNames } from './scheme-names.js';

export { schemeNames };

type Colors = readonly string[] | readonly (readonly string[])[];

const schemes: Readonly<Record<(typeof schemeNames)[number], Colors>> = {
  Accent: schemeAccent,
  Dark2: schemeDark2,
  Paired: schemePaired,
  Pastel1: schemePastel1,
  Pastel2: schemePastel2,
  Set1: schemeSet1,
  Set2: schemeSet2,
  Set3: schemeSet3,
  BrBG: schemeBrBG,
  PRGn: schemePRGn,
  PiYG: schemePiYG,
  PuOr: schemePuOr,
  RdBu: schemeRdBu,
  RdGy: schemeRdGy,
  RdYlBu: schemeRdYlBu,
  RdYlGn: schemeRdYlGn,
  Spectral: schemeSpectral,
  BuGn: schemeBuGn,
  BuPu: schemeBuPu,
  GnBu: schemeGnBu,
  OrRd: schemeOrRd,
  PuBu: schemePuBu,
  PuBuGn: schemePuBuGn,
  PuRd: schemePuRd,
  RdPu: schemeRdPu,
  YlGn: schemeYlGn,
  YlGnBu: schemeYlGnBu,
  YlOrBr: schemeYlOrBr,
  YlOrRd: schemeYlOrRd,
  Blues: schemeBlues,
  Greens: schemeGreens,
  Greys: schemeGreys,
  Oranges: schemeOranges,
  Purples: schemePurples,
  Reds: schemeReds,
};

/**
 * Returns `count` colors of a named scheme; undefined if there is no such scheme.
 *
 * @param name name of the scheme
 * @param count number of colors
 */
export function findScheme(name: string, count: number): readonly string[] | undefined {
  const scheme = Object.hasOwn(schemes, name) ? schemes[name as keyof typeof schemes] : undefined;
  if (!scheme) return undefined;
  if (typeof scheme[0] === 'string')
    return Array.from({ length: count }, (_, i) => scheme[i % scheme.length] as string);
  const sized = scheme[count] as readonly string[] | undefined;
  if (sized) return sized;
  const most = scheme[scheme.length - 1] as readonly string[];
  if (count < 3) return count === 1 ? [most[Math.floor(most.length / 2)]] : [most[1], most[most.length - 2]];
  return Array.from({ length: count }, (_, i) => {
    const at = (i / (count - 1)) * (most.length - 1);
    return interpolateLab(most[Math.floor(at)], most[Math.min(most.length - 1, Math.floor(at) + 1)])(at % 1);
  });
}
