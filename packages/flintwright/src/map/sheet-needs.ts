import type { CompiledSheet, SheetNeed } from '@flintwright/core';
import { useShapeFunctions } from '@flintwright/core/internal';
import { fetchPart } from '../base/fetch-part.js';
import { LatePart } from '../base/late-part.js';
import { fetchSchemes, fetchValues } from '../base/late-reading.js';
import type { MapContext } from '../base/map-context.js';

/** Fetches the functions that measure shapes and compare them, and has all expressions call them. */
async function fetchShapeFunctions() {
  const { allShapeFunctions } = await fetchPart(() => import('@flintwright/core/internal/shapes'));
  useShapeFunctions(allShapeFunctions);
  return allShapeFunctions;
}

/** What some sheets take beyond the common, fetched when a sheet of the map first takes it. */
export class SheetNeeds {
  private readonly parts: Readonly<Record<SheetNeed, { readonly now: object | undefined; ready(): Promise<void> }>>;

  /** @param come called when something has come; sheets that take it are to be compiled again */
  constructor(context: MapContext, come: () => void) {
    this.parts = {
      values: new LatePart(context, fetchValues, come),
      schemes: new LatePart(context, fetchSchemes, come),
      shapes: new LatePart(context, fetchShapeFunctions, come),
    };
  }

  /** Resolves when what reads values of every form is there, or a fault says why it is not. */
  values(): Promise<void> {
    return this.parts.values.ready();
  }

  /** Whether all that a sheet takes is there; what is not is fetched. */
  met({ needs }: CompiledSheet): boolean {
    return [...needs].filter((need) => !this.parts[need].now).length === 0;
  }
}
