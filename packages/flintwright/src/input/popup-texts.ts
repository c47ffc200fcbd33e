import { readGeoJson, type CompiledLayer, type SheetPopupLine } from '@flintwright/core';
import { compileText } from '@flintwright/core/internal/values';
import type { MapContext } from '../base/map-context.js';
import type { PickedFeature } from '../base/picked-feature.js';
import type { PopupOptions } from '../overlay/popup-options.js';
import type { PopupLink } from '../overlay/safe-link.js';

export type SheetPopup = NonNullable<CompiledLayer['source']['popup']>;

/** The popup that the sheet gives a feature; empty where none of its expressions gives anything. */
export function popupTexts(
  feature: PickedFeature,
  { title, text, image, lines = {} }: SheetPopup,
  { state, host }: MapContext,
): Omit<PopupOptions, 'at'> {
  const block = readGeoJson(feature, { space: state.surface.space === 'plane' ? 'plan' : 'lonlat' });
  const { zoom } = state.view;
  const language = host.closest('[lang]')?.getAttribute('lang') ?? undefined;
  const value = (expression: string | undefined): unknown =>
    expression === undefined ? undefined : compileText(expression).bind({ block, zoom })(0);
  const say = (one: unknown): string | undefined => (one === undefined || one === null ? undefined : String(one));
  const [heading, words, address] = [say(value(title)), say(value(text)), say(value(image))];
  const rows = Object.entries(lines).map(([name, line]): [string, string | PopupLink | undefined] => {
    if (typeof line === 'string') return [name, say(value(line))];
    const said = written(value(line.is), line, language);
    const href = say(value(line.href));
    return [name, said !== undefined && href !== undefined ? { href, text: said } : said];
  });
  const saysNothing = rows.every(([, said]) => said === undefined);
  return {
    ...(heading === undefined ? {} : { title: heading }),
    ...(words === undefined ? {} : { text: words }),
    ...(address === undefined ? {} : { image: { src: address, alt: heading ?? '' } }),
    ...(saysNothing ? {} : { lines: Object.fromEntries(rows.map(([name, said]) => [name, said ?? '–'])) }),
  };
}

/** A value of a line in its form, in a language. */
function written(
  value: unknown,
  { unit, digits, date }: SheetPopupLine,
  language: string | undefined,
): string | undefined {
  if (value === undefined || value === null) return undefined;
  if (date !== undefined) {
    const time = new Date(value as string | number);
    return Number.isNaN(time.getTime())
      ? String(value)
      : new Intl.DateTimeFormat(language, { dateStyle: date, timeZone: 'UTC' }).format(time);
  }
  if (typeof value !== 'number') return unit === undefined ? String(value) : `${String(value)} ${unit}`;
  const figures = digits === undefined ? {} : { minimumFractionDigits: digits, maximumFractionDigits: digits };
  const text = new Intl.NumberFormat(language, figures).format(value);
  return unit === undefined ? text : `${text} ${unit}`;
}
