import { interpolateLab } from 'd3-interpolate';
import * as schemes from 'd3-scale-chromatic';
import type { Sheet } from './types.js';

/** Names of the colour schemes: sequential, diverging and qualitative. */
export const schemeNames = Object.keys(schemes)
  .filter((name) => name.startsWith('scheme'))
  .map((name) => name.slice(6));

/** `count` colours of a named scheme, or undefined when there is no such scheme. */
export function findScheme(name: string, count: number): readonly string[] | undefined {
  const scheme = (schemes as Record<string, unknown>)[`scheme${name}`] as
    readonly string[] | readonly (readonly string[])[] | undefined;
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

/** The sheet with the colours of every scheme written out, so that whoever compiles it next needs no schemes. */
export function withSchemeColours(sheet: Sheet): Sheet {
  const walk = (node: unknown): unknown => {
    if (Array.isArray(node)) return node.map(walk);
    if (typeof node !== 'object' || node === null) return node;
    const { scheme, breaks, values, kinds, ...rest } = node as Record<string, unknown>;
    if (typeof scheme === 'string' && Array.isArray(breaks) && values === undefined)
      return { breaks, values: findScheme(scheme, breaks.length + 1) };
    if (typeof scheme === 'string' && Array.isArray(kinds)) {
      const colours = findScheme(scheme, kinds.length) ?? [];
      return { ...rest, kinds: Object.fromEntries(kinds.map((kind, i) => [String(kind), colours[i]])) };
    }
    return Object.fromEntries(Object.entries(node).map(([key, value]) => [key, walk(value)]));
  };
  return { ...sheet, layers: walk(sheet.layers) as Sheet['layers'] };
}
