import type { CompiledSheet } from '@flintwright/core';
import { em, type TextStyle } from './lettering.js';

/** The font of a text, as CSS has it. */
export const fontOf = ({ style, weight, font }: Pick<TextStyle, 'style' | 'weight' | 'font'>) =>
  `${style === 'italic' ? 'italic ' : ''}${weight} ${em}px ${font}`;

/** Loads the fonts of the page that the labels of a sheet need at a zoom, while the data are still on their way. */
export function loadLabelFonts({ layers }: CompiledSheet, zoom: number): void {
  const isSeen = ([from, to]: readonly [number, number]) => zoom >= from && zoom < to;
  for (const layer of layers) {
    if (!layer.hasLabel || !layer.visible || !isSeen(layer.zoom)) continue;
    for (const { symbols, zoom: zooms } of layer.rules)
      // Most texts contain letters and digits like these, whatever their script.
      if (symbols.label && isSeen(zooms)) loadFonts(fontOf(symbols.label), 'A1');
  }
}

/** Loads the fonts of the page that a text needs and that are not loaded yet. */
export function loadFonts(font: string, text: string): void {
  const { fonts } = document;
  // Not asked for with `check` first: Chromium answers true for a font of the page as soon as the machine has one of that name.
  // The browser reports a font that cannot be loaded; the text is drawn in the next font of the list.
  if (fonts.size) fonts.load(font, text).catch(() => {});
}
