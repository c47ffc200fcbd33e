import type { SheetLayer, SheetValue } from '@flintwright/core';
import type { FileField, ReadLayer } from '../files/messages.js';

/** Points from which on a layer is shown as heat, for single marks would lie on each other. */
const heatFrom = 20000;
/** From low to high; each can be told from water, land and paper. */
const classColors = ['#86bfa0', '#4f9d9c', '#367a96', '#345486', '#40306b'];
const plainColors = ['#b46c15', '#2f6f87', '#7a4b86', '#4d7a3a', '#a4452f', '#3d5a99'];

/** A name as CQL2 has it: in double quotes where it is not a plain word. */
const property = (name: string) => (/^[A-Za-z_][A-Za-z0-9_]*$/.test(name) ? name : `"${name.replaceAll('"', '""')}"`);

type Symbols = Partial<Omit<SheetLayer, 'id' | 'of'>>;

/** The attribute that says most of some features: a few categories that all have, or else a number that varies. */
export function tellingField(fields: readonly FileField[], features: number): FileField | undefined {
  const mostly = fields.filter(
    (field) => field.filled > 0.6 * features && !/^(id|fid|objectid|gid|number|name|title)$/i.test(field.name),
  );
  const few = mostly
    .filter(
      ({ type, different, filled }) => type === 'string' && different > 1 && different <= 8 && 2 * different <= filled,
    )
    .toSorted((a, b) => b.filled - a.filled || a.different - b.different);
  const numbers = mostly.filter(
    ({ type, range, different }) =>
      type === 'number' && range && range[0] < range[1] && different > 4 && different < features * 0.98 + 1,
  );
  return few[0] ?? numbers[0];
}

/** A color: by the most telling attribute, or plain. */
function colorBy(field: FileField | undefined, features: number, plain: string): SheetValue<string> {
  if (!field) return plain;
  if (field.type === 'string')
    return {
      by: property(field.name),
      categories: field.values.map(String).toSorted(),
      scheme: 'Dark2',
      ...(field.filled < features ? { other: '#8a8f8c' } : {}),
      title: field.name,
    };
  return {
    by: property(field.name),
    classes: { count: 5, method: 'quantile', values: classColors },
    ...(field.filled < features ? { other: '#c9c6ba' } : {}),
    title: field.name,
  };
}

/** The attribute that names a feature. */
const nameField = (fields: readonly FileField[]): FileField | undefined =>
  fields.find(({ name }) => /^(name|title|label|bezeichnung|nom|nombre)$/i.test(name)) ??
  fields.find(({ name, type }) => type === 'string' && /name|title/i.test(name));

/**
 * Symbols, label and popup fit for what a layer holds.
 *
 * @param layer as read
 * @param turn how many layers came before, so that plain colors differ
 */
export function lookOf(layer: ReadLayer, turn: number): Symbols {
  const { kinds, fields } = layer;
  const features = layer.features.features.length;
  const plain = plainColors[turn % plainColors.length];
  const popup = popupOf(layer);
  const shared = { legend: true, ...(popup ? { popup } : {}) };
  if (layer.look && Object.keys(layer.look).length) return { ...shared, ...layer.look };
  const color = colorBy(tellingField(fields, features), features, plain);
  const name = nameField(fields);
  const named = name ? { text: { is: property(name.name) } } : undefined;
  const states = {
    hover: { stroke: { color: '#d98a2b', width: 2.5 } },
    selected: { stroke: { color: '#d98a2b', width: 3 } },
  };
  if (kinds.polygon >= Math.max(kinds.line, kinds.point))
    return {
      ...shared,
      fill: { color, opacity: 0.62 },
      stroke: { color: '#22303a', width: 1.1 },
      ...(named ? { label: { ...named, color: '#22303a', halo: { color: '#f7f5ef', width: 1.6 } } } : {}),
      states,
    };
  if (kinds.line >= kinds.point) return { ...shared, stroke: { color, width: 2.6 }, states };
  if (kinds.point > heatFrom) return { legend: true, heat: {} };
  return {
    ...shared,
    mark: { shape: 'circle', color, size: kinds.point > 2000 ? 6 : 10, outline: { color: '#f7f5ef', width: 1.4 } },
    ...(named && kinds.point < 400
      ? { label: { ...named, color: '#22303a', halo: { color: '#f7f5ef', width: 1.6 } } }
      : {}),
  };
}

/** A popup with the first few attributes; none where there are no attributes. */
function popupOf({ fields }: ReadLayer): SheetLayer['popup'] | undefined {
  if (!fields.length) return undefined;
  const name = nameField(fields);
  const shown = fields.filter((field) => field !== name && field.type !== 'object').slice(0, 8);
  return {
    ...(name ? { title: property(name.name) } : {}),
    lines: Object.fromEntries(shown.map((field) => [field.name, property(field.name)])),
  };
}
