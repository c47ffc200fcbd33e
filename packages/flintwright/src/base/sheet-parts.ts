import type { Sheet, SheetData, SheetLayer } from '@flintwright/core';

/** Parts of the sheet at run time: the application's sheet, and the changes made since. */
export interface SheetParts {
  readonly base: Sheet;
  readonly data: Readonly<Record<string, SheetData>>;
  /** Layers in drawing order; those of the base by id, those added in full. */
  readonly order: readonly string[];
  readonly added: Readonly<Record<string, SheetLayer>>;
  readonly changed: Readonly<Record<string, Partial<SheetLayer>>>;
  readonly removed: readonly string[];
}

export const partsOf = (base: Sheet): SheetParts => ({
  base,
  data: {},
  order: base.layers.map((layer) => layer.id),
  added: {},
  changed: {},
  removed: [],
});

/** The same additions and changes over another sheet. */
export function rebased(parts: SheetParts, base: Sheet): SheetParts {
  const added = parts.order.filter((id) => parts.added[id]);
  const own = base.layers.map((layer) => layer.id).filter((id) => !parts.removed.includes(id) && !added.includes(id));
  return { ...parts, base, order: [...own, ...added] };
}

/** The sheet that the parts make together. */
export function assembled({ base, data, order, added, changed }: SheetParts): Sheet {
  const own = new Map(base.layers.map((layer) => [layer.id, layer]));
  const layers = order.map((id) => ({ ...(added[id] ?? own.get(id)!), ...changed[id] }));
  return { ...base, data: { ...base.data, ...data }, layers };
}
