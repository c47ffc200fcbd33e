import { Fault, type Sheet } from '@flintwright/core';
import { nearestSpelling } from '@flintwright/core/internal';
import { valueText } from '../base/check-options.js';

/** Checks that a sheet's palette has the names of another. @throws Fault `option.form` or `palette.unknown` */
export function checkPalette(palette: unknown, { palette: own = {} }: Sheet): void {
  if (typeof palette !== 'object' || palette === null || Array.isArray(palette))
    throw new Fault(
      'option.form',
      `map.setPalette expected an object, got ${valueText(palette)}`,
      'Write map.setPalette({ water: "#a9c3cc" }).',
    );
  for (const name of Object.keys(palette)) {
    if (Object.hasOwn(own, name)) continue;
    const names = Object.keys(own);
    const near = nearestSpelling(name, names);
    throw new Fault(
      'palette.unknown',
      `the palette of the sheet has no color "${name}"`,
      near
        ? `Did you mean "${near}"?`
        : names.length
          ? `It has: ${names.join(', ')}.`
          : 'Give the sheet a "palette", and use its names.',
    );
  }
}
