import type { CompiledSheet } from '@flintwright/core';
import { em, type TextStyle } from './lettering.js';

/** The font of a text, as CSS has it. */
export const fontOf = ({ style, weight, font }: Pick<TextStyle, 'style' | 'weight' | 'font'>) =>
  `${style === 'italic' ? 'italic ' : ''}${weight} ${em}px ${font}`;

/** Has the fonts of the page brought that the labels of a sheet are set in at a zoom, so that they come beside the data. */
export function bringFonts({ layers }: CompiledSheet, zoom: number): void {
  const isSeen = ([from, to]: readonly [number, number]) => zoom >= from && zoom < to;
  for (const layer of layers) {
    if (!layer.hasLabel || !layer.visible || !isSeen(layer.zoom)) continue;
    for (const { symbols, zoom: zooms } of layer.rules)
      // Whatever it is written in, most of it has letters and figures like these.
      if (symbols.label && isSeen(zooms)) bring(fontOf(symbols.label), 'A1');
  }
}

/** Has the fonts of the page brought that a text is set in and that are not there yet. */
export function bring(font: string, text: string): void {
  const { fonts } = document;
  // A font that cannot be had is told of by the browser; the text stands in another.
  if (fonts.size && !fonts.check(font, text)) fonts.load(font, text).catch(() => {});
}
