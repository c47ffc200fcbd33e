import type { LayerChange, Sheet, SheetData, SheetLayer } from '@flintwright/core';
import { changeLayer } from '@flintwright/core/internal';
import { compileNow } from './late-reading.js';

/** Parts of the sheet at run time: the application's sheet, and the changes made since. */
export interface SheetParts {
  readonly base: Sheet;
  readonly data: Readonly<Record<string, SheetData>>;
  /** Layers in drawing order; those of the base by id, those added in full. */
  readonly order: readonly string[];
  readonly added: Readonly<Record<string, SheetLayer>>;
  /** Changes of layers, by their ids. */
  readonly changed: Readonly<Record<string, readonly LayerChange[]>>;
  readonly removed: readonly string[];
  /** Icons added at run time. */
  readonly icons: NonNullable<Sheet['icons']>;
}

/** The ids of the layers of a sheet. @throws SheetFault for one whose layers are none */
function layerIds(sheet: Sheet): string[] {
  const { layers } = sheet as { layers?: unknown };
  const sound = Array.isArray(layers) && layers.every((layer) => typeof layer === 'object' && layer !== null);
  // Nothing is taken apart that is not there.
  return (sound ? sheet : compileNow(sheet).sheet).layers.map((layer) => layer.id);
}

/** A sheet with nothing added yet. @throws SheetFault for one whose layers are none */
export const partsOf = (base: Sheet): SheetParts => ({
  base,
  data: {},
  order: layerIds(base),
  added: {},
  changed: {},
  removed: [],
  icons: {},
});

/** The same additions and changes over another sheet. @throws SheetFault as above */
export function rebased(parts: SheetParts, base: Sheet): SheetParts {
  const added = parts.order.filter((id) => parts.added[id]);
  const own = layerIds(base).filter((id) => !parts.removed.includes(id) && !added.includes(id));
  return { ...parts, base, order: [...own, ...added] };
}

/** Sheets as they are written, by their parts. */
const written = new WeakMap<SheetParts, Sheet>();

/** The sheet that the parts make together as it is written: with its colors of the day, and with methods where class limits are computed. */
export function writtenSheet(parts: SheetParts): Sheet {
  const known = written.get(parts);
  if (known) return known;
  const sheet = assembled(parts);
  written.set(parts, sheet);
  return sheet;
}

/** The sheet that the parts make together; with its dark colors in place of the others, where the map is dark. */
export function assembled({ base, data, order, added, changed, icons }: SheetParts, isDark = false): Sheet {
  const own = new Map(base.layers.map((layer) => [layer.id, layer]));
  const layers = order.map((id) => (changed[id] ?? []).reduce(changeLayer, added[id] ?? own.get(id)!));
  const night = isDark && base.dark ? { palette: { ...base.palette, ...base.dark } } : {};
  const drawings = { ...base.icons, ...icons };
  const brought = Object.keys(drawings).length ? { icons: drawings } : {};
  return { ...base, ...night, ...brought, data: { ...base.data, ...data }, layers };
}
