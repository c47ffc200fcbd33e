import { Fault } from '../base/fault.js';
import { nearestSpelling } from '../base/spelling.js';
import { formlessIcons } from './icons.js';
import type { SymbolTools } from './symbols.js';
import type { Sheet, SheetLayer } from './types.js';
import { compileExpression, type colourKind, type Report } from './value-kinds.js';

/** Colours of the palette by day and by night: each is one, and the dark ones have names of the palette. */
export function checkPalettes(
  { palette = {}, dark = {} }: Sheet,
  colours: ReturnType<typeof colourKind>,
  report: Report,
) {
  for (const [key, list] of Object.entries({ palette, dark }))
    for (const [name, colour] of Object.entries(list)) {
      const at = `$.${key}.${name}`;
      if (colour.startsWith('@') || !colours.read(colour))
        report(
          new Fault(
            'sheet.colour',
            `${JSON.stringify(colour)} is not a CSS colour`,
            'Write a colour such as "#d98a2b".',
            at,
          ),
        );
      if (list === palette || Object.hasOwn(palette, name)) continue;
      const near = nearestSpelling(name, Object.keys(palette));
      report(
        new Fault(
          'sheet.dark',
          `the palette has no colour "${name}" that could have a dark one`,
          near ? `Did you mean "${near}"?` : 'Name a colour of the palette.',
          at,
        ),
      );
    }
}

/** Icons of the sheet: each is one of the forms that are drawn. */
export function checkIcons({ icons = {} }: Sheet, report: Report): void {
  for (const name of formlessIcons(icons))
    report(
      new Fault(
        'icon.form',
        `the icon "${name}" is neither path data, nor SVG, nor an address`,
        'Write path data such as "M5 5H19V19H5Z", the text of an SVG document, or the address of a picture.',
        `$.icons.${name}`,
      ),
    );
}

/** Reads the expressions of a popup, so that a fault in them is told with the others. */
export function checkPopup({ popup }: SheetLayer, path: string, tools: SymbolTools): void {
  if (!popup) return;
  const read = (text: string | undefined, at: string) => {
    if (text !== undefined) compileExpression(text, `${path}.popup.${at}`, tools);
  };
  for (const key of ['title', 'text', 'image'] as const) read(popup[key], key);
  for (const [name, line] of Object.entries(popup.lines ?? {})) {
    const at = `lines.${name}`;
    if (typeof line === 'string') read(line, at);
    else {
      read(line.is, `${at}.is`);
      read(line.href, `${at}.href`);
    }
  }
}
