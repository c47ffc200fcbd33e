import type { ColourSpace } from './symbol-types.js';

/** Red, green, blue and alpha, 0 to 1, with the color already multiplied by alpha. */
export type Rgba = readonly [number, number, number, number];

/** How colors are read from texts, and mixed. */
export interface Colors {
  /** Undefined for a text that is no color. */
  find(text: string): Rgba | undefined;
  /** Whether a text is a CSS color that means nothing away from a page, such as `currentcolor`; default never. */
  isUnsupported?(text: string): boolean;
  /** A function that goes over from one color to another while its argument goes from 0 to 1. */
  mix(from: string, to: string, space?: ColourSpace): (t: number) => Rgba;
}

/** A color in hexadecimal notation (CSS Color Module Level 4, section 5.2), or undefined when the text is none. */
export function findHexColor(text: string): Rgba | undefined {
  const digits = /^#(?:[\da-f]{3,4}|[\da-f]{6}|[\da-f]{8})$/i.test(text) ? text.slice(1) : undefined;
  if (digits === undefined) return undefined;
  const wide = digits.length > 4 ? digits : digits.replace(/./g, '$&$&');
  const [r, g, b, alpha] = [0, 2, 4, 6].map((at) => Number.parseInt(wide.slice(at, at + 2) || 'ff', 16) / 255);
  return [r * alpha, g * alpha, b * alpha, alpha];
}
