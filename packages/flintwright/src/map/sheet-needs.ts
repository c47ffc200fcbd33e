import type { CompiledSheet, SheetNeed } from '@flintwright/core';
import { readSheetBy, useShapeFunctions } from '@flintwright/core/internal';
import { LatePart } from '../base/late-part.js';
import { fetchSchemes, findScheme } from '../base/late-schemes.js';
import type { MapContext } from '../base/map-context.js';

/** Checks and compiles a sheet. Grey stands in for the colours of schemes that are not there yet; see {@link SheetNeeds}. @throws SheetFault */
export const compileNow = (sheet: unknown): CompiledSheet => readSheetBy(sheet, findScheme);

/** What some sheets take beyond the common, fetched when a sheet of the map first takes it. */
export class SheetNeeds {
  private readonly parts: Readonly<Record<SheetNeed, Pick<LatePart<unknown>, 'isThere'>>>;

  /** @param come called when something has come; sheets that take it are to be compiled again */
  constructor(context: MapContext, come: () => void) {
    this.parts = {
      schemes: new LatePart(context, fetchSchemes, come),
      shapes: new LatePart(
        context,
        async () => useShapeFunctions((await import('@flintwright/core/internal/shapes')).allShapeFunctions),
        come,
      ),
    };
  }

  /** Whether all that a sheet takes is there; what is not is fetched. */
  met({ needs }: CompiledSheet): boolean {
    return [...needs].map((need) => this.parts[need].isThere).every(Boolean);
  }
}
