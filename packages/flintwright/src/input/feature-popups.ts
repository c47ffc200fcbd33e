import { readGeoJson, type CompiledLayer, type Place, type SheetPopupLine } from '@flintwright/core';
import { compileText } from '@flintwright/core/internal';
import type { MapContext } from '../base/map-context.js';
import type { PickedFeature } from '../base/picked-feature.js';
import { isEmpty, type PopupOptions } from '../overlay/popup.js';
import type { Popups } from '../overlay/popups.js';
import type { PopupLink } from '../overlay/safe-link.js';

type SheetPopup = NonNullable<CompiledLayer['source']['popup']>;

/** Names and popups of features, by the sheet and the application. */
export class FeaturePopups {
  constructor(
    private readonly context: MapContext,
    private readonly popups: Popups,
  ) {}

  private layerOf(id: string): CompiledLayer | undefined {
    return this.context.state.sheet.layers.find((layer) => layer.id === id);
  }

  /** Whether features of a layer have popups, by the sheet or by the application. */
  has(layer: string): boolean {
    return (this.layerOf(layer)?.source.popup ?? this.popups.of(layer)) !== undefined;
  }

  /** When popups of a layer open; undefined where it has none. */
  opensOn(layer: string): 'press' | 'hover' | undefined {
    const sheet = this.layerOf(layer)?.source.popup;
    return this.popups.of(layer)?.on ?? (sheet && (sheet.on ?? 'press'));
  }

  /** The popup of a feature at a place; undefined where there is none for `on`. */
  of(feature: PickedFeature, on: 'press' | 'hover', place: Place): PopupOptions | undefined {
    // A popup that shows under the pointer can be pressed too.
    if (on === 'hover' && this.opensOn(feature.layer) !== 'hover') return undefined;
    const own = this.popups.of(feature.layer);
    const sheet = this.layerOf(feature.layer)?.source.popup;
    const said = own ? own.make(feature) : sheet && this.textsOf(feature, sheet);
    if (!said || isEmpty(said)) return undefined;
    const { geometry } = feature;
    return {
      ...said,
      // A popup under the pointer does not take the focus away.
      ...(on === 'hover' ? { focus: false, stays: true } : {}),
      at: geometry?.type === 'Point' ? (geometry.coordinates as [number, number]) : place,
    };
  }

  /** The popup that the sheet gives a feature; empty where none of its expressions gives anything. */
  private textsOf(feature: PickedFeature, { title, text, image, lines = {} }: SheetPopup): Omit<PopupOptions, 'at'> {
    const block = readGeoJson(feature);
    const { zoom } = this.context.state.view;
    const value = (expression: string | undefined): unknown =>
      expression === undefined ? undefined : compileText(expression).bind({ block, zoom })(0);
    const say = (one: unknown): string | undefined => (one === undefined || one === null ? undefined : String(one));
    const [heading, words, address] = [say(value(title)), say(value(text)), say(value(image))];
    const rows = Object.entries(lines).map(([name, line]): [string, string | PopupLink | undefined] => {
      if (typeof line === 'string') return [name, say(value(line))];
      const said = this.written(value(line.is), line);
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

  /** A value of a line in its form, in the language of the page. */
  private written(value: unknown, { unit, digits, date }: SheetPopupLine): string | undefined {
    if (value === undefined || value === null) return undefined;
    const language = this.context.host.closest('[lang]')?.getAttribute('lang') ?? undefined;
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

  /** The name of a feature when it is read out. */
  nameOf(feature: PickedFeature): string {
    const layer = this.layerOf(feature.layer);
    const title = layer?.source.popup?.title;
    const name =
      (title === undefined ? undefined : this.textsOf(feature, { title }).title) ??
      feature.properties?.['name'] ??
      feature.properties?.['title'];
    const kind = layer?.source.title ?? feature.layer;
    return typeof name === 'string' && name && name !== '–'
      ? name
      : `${kind} ${feature.key?.replace('#', '') ?? ''}`.trim();
  }
}
