import { rgb } from 'd3-color';
import { interpolateHcl, interpolateLab, interpolateRgb } from 'd3-interpolate';
import * as schemes from 'd3-scale-chromatic';

/** Red, green, blue and alpha, 0 to 1, with the colour already multiplied by alpha. */
export type Rgba = readonly [number, number, number, number];

const known = new Map<string, Rgba | undefined>();

/** A CSS colour (CSS Color Module Level 3 forms) as {@link Rgba}, or undefined when the text is none. */
export function findColour(text: string): Rgba | undefined {
  if (known.has(text)) return known.get(text);
  const { r, g, b, opacity } = rgb(text);
  const colour: Rgba | undefined = Number.isNaN(r) && text !== 'transparent' ? undefined : [((r || 0) / 255) * opacity, ((g || 0) / 255) * opacity, ((b || 0) / 255) * opacity, opacity];
  if (known.size > 4096) known.clear();
  known.set(text, colour);
  return colour;
}

const mixers = { lab: interpolateLab, rgb: interpolateRgb, hcl: interpolateHcl };

/** A function that mixes two CSS colours; the default space is CIE Lab, in which equal steps look equal. */
export const colourMix = (from: string, to: string, space: 'lab' | 'rgb' | 'hcl' = 'lab') => mixers[space](from, to);

/** Names of the colour schemes: sequential, diverging and qualitative. */
export const schemeNames = Object.keys(schemes).filter((name) => name.startsWith('scheme')).map((name) => name.slice(6));

/** `count` colours of a named scheme, or undefined when there is no such scheme. */
export function findScheme(name: string, count: number): readonly string[] | undefined {
  const scheme = (schemes as Record<string, unknown>)[`scheme${name}`] as readonly string[] | readonly (readonly string[])[] | undefined;
  if (!scheme) return undefined;
  if (typeof scheme[0] === 'string') return Array.from({ length: count }, (_, i) => scheme[i % scheme.length] as string);
  const sized = scheme[count] as readonly string[] | undefined;
  if (sized) return sized;
  const most = scheme[scheme.length - 1] as readonly string[];
  if (count < 3) return count === 1 ? [most[Math.floor(most.length / 2)]] : [most[1], most[most.length - 2]];
  return Array.from({ length: count }, (_, i) => {
    const at = (i / (count - 1)) * (most.length - 1);
    return interpolateLab(most[Math.floor(at)], most[Math.min(most.length - 1, Math.floor(at) + 1)])(at % 1);
  });
}
