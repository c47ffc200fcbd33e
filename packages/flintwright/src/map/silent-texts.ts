import { Fault, type CompiledLayer, type Sheet } from '@flintwright/core';
import { nearestSpelling, symbolNames, unknownSymbol } from '@flintwright/core/internal';
import type { FeatureName } from '../base/feature-states.js';

type Bounds = readonly [number, number, number, number];

/** Hover cannot show on a layer whose features nothing tells apart. */
export const keylessFault = (layer: string, data: string): Fault =>
  new Fault(
    'hover.key',
    `hover cannot show on layer "${layer}": its features have no keys`,
    `Give the features ids when the tiles are cut, or name an attribute in data.${data}.id of the sheet.`,
  );

/** A state that no layer shows. */
export function statelessFault(
  { data, from = '' }: FeatureName,
  state: string,
  all: readonly CompiledLayer[],
  drawing: readonly CompiledLayer[],
): Fault {
  const drawn = from ? `${data}/${from}` : data;
  const names = drawing.length ? drawing.flatMap(({ stateNames }) => stateNames) : all.map(({ source }) => source.of);
  const near = nearestSpelling(drawing.length ? state : drawn, names);
  return drawing.length
    ? new Fault(
        'flag.state',
        `the state "${state}" has no effect: no layer of "${drawn}" says how it looks`,
        near ? `Did you mean "${near}"?` : `Give one of them "states": { "${state}": … } in the sheet.`,
      )
    : new Fault(
        'flag.data',
        `the state "${state}" shows nowhere: no layer draws "${drawn}"`,
        near ? `Did you mean "${near}"?` : `Layers draw: ${[...new Set(names)].join(', ') || 'nothing'}.`,
      );
}

/** A view that begins far from all data; or undefined for one that does not. */
export function outsideFault(
  [lon, lat]: readonly [number, number],
  degrees: number,
  all: readonly Bounds[],
): Fault | undefined {
  const near = all.some(([west, south, east, north]) => {
    const reach = Math.max(degrees, east - west, north - south);
    const away = ((((lon - (west + east) / 2) % 360) + 540) % 360) - 180;
    return Math.abs(away) <= (east - west) / 2 + reach && lat >= south - reach && lat <= north + reach;
  });
  if (near) return undefined;
  const round = (v: number) => Math.round(v * 1000) / 1000;
  const swapped = Math.abs(lon) <= 90 && all.some(([w, s, e, n]) => lat >= w && lat <= e && lon >= s && lon <= n);
  const whole = all.reduce((sum, b) => [
    Math.min(sum[0], b[0]),
    Math.min(sum[1], b[1]),
    Math.max(sum[2], b[2]),
    Math.max(sum[3], b[3]),
  ]);
  return new Fault(
    swapped ? 'view.swapped' : 'view.outside',
    `the view is at [${round(lon)}, ${round(lat)}], but all data are within [${whole.map(round).join(', ')}]`,
    swapped
      ? `The pair looks swapped: write [${round(lat)}, ${round(lon)}], longitude first.`
      : 'Check the "center" of the view: longitude first, then latitude.',
  );
}

/** Features that an application flags or selects, and that are not there. */
export function missingFault(data: string, keys: readonly string[]): Fault {
  const shown = keys
    .slice(0, 3)
    .map((key) => `"${key}"`)
    .join(', ');
  return new Fault(
    'flag.missing',
    `no feature of "${data}" has the key ${shown}${keys.length > 3 ? ` (nor ${keys.length - 3} others)` : ''}`,
    `Keys are the attribute that data.${data}.id names, or ids as texts; features without either are counted "#0", "#1" and so on.`,
  );
}

/** Symbols that a sheet names and nobody knows, by their names. */
export const symbolFaults = (
  sheet: Sheet,
  known: readonly string[],
  isKnown: (name: string) => boolean,
): readonly (readonly [name: string, fault: Fault])[] =>
  symbolNames(sheet)
    .filter(({ name }) => !isKnown(name))
    .map(({ name, at }) => [name, unknownSymbol(name, known, at)]);

/** Layers whose color scale cannot show, because their icon keeps its own colors; each with its name. */
export const tintFaults = (
  { layers }: Sheet,
  keepsColors: (icon: string) => boolean,
): readonly (readonly [name: string, fault: Fault])[] =>
  layers.flatMap((layer, i) =>
    // Where there are rules, only they draw.
    (layer.rules ?? [layer]).flatMap((part, k) => {
      const { icon, color } = { ...layer.mark, ...part.mark };
      const isScale = typeof color === 'object' && color !== null;
      if (typeof icon !== 'string' || !isScale || !keepsColors(icon)) return [];
      const fault = new Fault(
        'sheet.tint',
        `layer "${layer.id}" colors the icon "${icon}" by a scale, and the icon has its own colors`,
        'Write the icon as { "source": …, "tinted": true }, or leave the scale out.',
        `$.layers[${i}]${layer.rules && part.mark?.color !== undefined ? `.rules[${k}]` : ''}.mark.color`,
      );
      return [[`${layer.id} ${icon}`, fault] as const];
    }),
  );
