import { color, rgb, type ColorCommonInstance } from 'd3-color';
import { interpolateHcl, interpolateLab, interpolateRgb } from 'd3-interpolate';

/** Red, green, blue and alpha, 0 to 1, with the colour already multiplied by alpha. */
export type Rgba = readonly [number, number, number, number];

const known = new Map<string, Rgba | undefined>();

/** A CSS colour (CSS Color Module Level 3 forms) as {@link Rgba}, or undefined when the text is none. */
export function findColour(text: string): Rgba | undefined {
  if (known.has(text)) return known.get(text);
  const parsed = color(text);
  let colour: Rgba | undefined;
  if (parsed) {
    // A clear colour has no red, green and blue of its own.
    const { r, g, b, opacity } = rgb(parsed as ColorCommonInstance);
    // Alpha beyond its range is held at its ends (CSS Color Module Level 4, section 4.2).
    const alpha = Math.max(0, Math.min(1, opacity));
    const part = (v: number) => ((v || 0) / 255) * alpha;
    colour = [part(r), part(g), part(b), alpha];
  }
  if (known.size > 4096) known.clear();
  known.set(text, colour);
  return colour;
}

const mixers = { lab: interpolateLab, rgb: interpolateRgb, hcl: interpolateHcl };

/** A function that mixes two CSS colours; the default space is CIE Lab, in which equal steps look equal. */
export const colourMix = (from: string, to: string, space: 'lab' | 'rgb' | 'hcl' = 'lab') => mixers[space](from, to);
