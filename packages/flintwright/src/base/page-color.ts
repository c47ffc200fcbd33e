import { findHexColor, type Rgba } from '@flintwright/core/internal';

/** A CSS color as the browser reads it, or undefined when the text is none, or one that no red, green and blue make up. */
export function findPageColor(text: string): Rgba | undefined {
  const own = findHexColor(text);
  if (own || !CSS.supports('color', text)) return own;
  const pen = document.createElement('canvas').getContext('2d')!;
  pen.fillStyle = text;
  // A color is given back in hexadecimal, or as rgba(), where it is not quite solid (HTML, "serialization of a color").
  const written = pen.fillStyle;
  const [r, g, b, alpha] = (/^rgba\((.*)\)$/.exec(written)?.[1] ?? '').split(',').map(Number);
  return alpha === undefined ? findHexColor(written) : [(r / 255) * alpha, (g / 255) * alpha, (b / 255) * alpha, alpha];
}
