import type { CompiledLayer, Place } from '@flintwright/core';
import { LatePart } from '../base/late-part.js';
import type { MapContext } from '../base/map-context.js';
import type { PickedFeature } from '../base/picked-feature.js';
import { isEmpty, type PopupOptions } from '../overlay/popup-options.js';
import type { Popups } from '../overlay/popups.js';
import type * as PopupTexts from './popup-texts.js';

type SheetPopup = PopupTexts.SheetPopup;

/** Names and popups of features, by the sheet and the application. */
export class FeaturePopups {
  /** What works out the texts of popups by the sheet: fetched when the pointer or the focus first comes to a map that has such. */
  private readonly texts: LatePart<typeof PopupTexts>;

  constructor(
    private readonly context: MapContext,
    private readonly popups: Popups,
  ) {
    this.texts = new LatePart(context, () => import('./popup-texts.js'));
  }

  private layerOf(id: string): CompiledLayer | undefined {
    return this.context.state.sheet.layers.find((layer) => layer.id === id);
  }

  /** Whether features of a layer have popups, by the sheet or by the application. */
  has(layer: string): boolean {
    const own = this.popups.of(layer) !== undefined;
    const has = this.layerOf(layer)?.source.popup !== undefined;
    if (has) void this.texts.ready();
    if (own || has) this.popups.expect();
    return own || has;
  }

  /** Resolves when it can be said what the popups of some layers say; undefined where it can already. */
  wait(layers: readonly string[]): Promise<void> | undefined {
    const wanted = layers.some((layer) => !this.popups.of(layer) && this.layerOf(layer)?.source.popup);
    return wanted && !this.texts.known ? this.texts.ready() : undefined;
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

  private textsOf(feature: PickedFeature, popup: SheetPopup): Omit<PopupOptions, 'at'> {
    return this.texts.now?.popupTexts(feature, popup, this.context) ?? {};
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
