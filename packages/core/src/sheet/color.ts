import { rgb, type RGBColor } from 'd3-color';
import { interpolateHcl, interpolateLab, interpolateRgb } from 'd3-interpolate';
import { parseCssColor, srgbOf } from './css-color.js';
import { findHexColor, type Colors, type Rgba } from './hex-color.js';

const known = new Map<string, Rgba | undefined>();

/** A CSS color (see `parseCssColor`) as {@link Rgba}, or undefined when the text is none that can be drawn. */
export function findColor(text: string): Rgba | undefined {
  if (known.has(text)) return known.get(text);
  let color = findHexColor(text);
  if (!color) {
    const found = parseCssColor(text);
    if (typeof found === 'object') {
      const [r, g, b, alpha] = srgbOf(found);
      color = [r * alpha, g * alpha, b * alpha, alpha];
    }
  }
  if (known.size > 4096) known.clear();
  known.set(text, color);
  return color;
}

const mixers = { lab: interpolateLab, rgb: interpolateRgb, hcl: interpolateHcl };

function plain(text: string): RGBColor {
  const [r, g, b, alpha] = findColor(text) ?? [0, 0, 0, 0];
  // A clear color has no red, green and blue of its own.
  const part = (v: number) => (alpha ? (255 * v) / alpha : NaN);
  return rgb(part(r), part(g), part(b), alpha);
}

/** All CSS colors; they are mixed by default in CIE Lab, in which equal steps look equal. */
export const cssColors: Colors = {
  find: findColor,
  isUnsupported: (text) => parseCssColor(text) === 'unsupported',
  mix(from, to, space = 'lab') {
    const mixed = mixers[space](plain(from), plain(to));
    return (t) => findColor(mixed(t))!;
  },
};
