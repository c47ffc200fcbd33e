import { compileCql2, readGeoJson, type CompiledLayer, type Place } from '@flintwright/core';
import type { MapContext } from '../base/map-context.js';
import type { PickedFeature } from '../base/picked-feature.js';
import type { PopupOptions } from '../overlay/popup.js';
import type { Popups } from '../overlay/popups.js';

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
    if (!said) return undefined;
    const { geometry } = feature;
    return {
      ...said,
      // A popup under the pointer does not take the focus away.
      ...(on === 'hover' ? { focus: false, stays: true } : {}),
      at: geometry?.type === 'Point' ? (geometry.coordinates as [number, number]) : place,
    };
  }

  /** The popup that the sheet gives a feature. */
  private textsOf(feature: PickedFeature, { title, lines }: SheetPopup): Omit<PopupOptions, 'at'> {
    const block = readGeoJson(feature);
    const { zoom } = this.context.state.view;
    const say = (text: string) => String(compileCql2(text).bind({ block, zoom })(0) ?? '–');
    return {
      ...(title === undefined ? {} : { title: say(title) }),
      lines: Object.fromEntries(Object.entries(lines ?? {}).map(([name, text]) => [name, say(text)])),
    };
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
