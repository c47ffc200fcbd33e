import { color, rgb, type ColorCommonInstance } from 'd3-color';
import { interpolateHcl, interpolateLab, interpolateRgb } from 'd3-interpolate';
import { findHexColour, type Colours, type Rgba } from './hex-colour.js';

const known = new Map<string, Rgba | undefined>();

/** Colours with spaces (CSS Color Module Level 4, section 4.1) in the older form with commas. */
function withCommas(text: string): string {
  const match = /^(rgb|hsl)a?\(\s*([^\s,]+)\s+([^\s,]+)\s+([^\s,/]+)\s*(?:\/\s*([\d.]+%?)\s*)?\)$/i.exec(text.trim());
  if (!match) return text;
  const [, name, a, b, c, alpha] = match;
  if (alpha === undefined) return `${name}(${a}, ${b}, ${c})`;
  const share = alpha.endsWith('%') ? Number.parseFloat(alpha) / 100 : alpha;
  return `${name}a(${a}, ${b}, ${c}, ${share})`;
}

/** A CSS colour (CSS Color Module Level 3 forms, and those with spaces) as {@link Rgba}, or undefined when the text is none. */
export function findColour(text: string): Rgba | undefined {
  if (known.has(text)) return known.get(text);
  let colour = findHexColour(text);
  const parsed = colour ? undefined : color(withCommas(text));
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

/** All CSS colours; they are mixed by default in CIE Lab, in which equal steps look equal. */
export const cssColours: Colours = {
  find: findColour,
  mix(from, to, space = 'lab') {
    const mixed = mixers[space](withCommas(from), withCommas(to));
    return (t) => findColour(mixed(t))!;
  },
};
