import { compileCql2, readGeoJson, type CompiledLayer, type Place } from '@flintwright/core';
import type { PickedFeature, PickOptions } from '../pick.js';
import type { PickedCluster } from './cairns.js';
import type { Marker } from './markers.js';
import type { Popup, PopupOptions } from './popup.js';
import { isSame } from './selection.js';

type Point = readonly [number, number];

/** `press` events: where, and what is there. */
export interface PressDetail {
  readonly point: Point;
  readonly place: Point | undefined;
  readonly features: readonly PickedFeature[];
  readonly original: Event;
  /** The cluster that was pressed, if one was. */
  readonly cluster?: PickedCluster;
}

/** What pointing may ask of the map. */
export interface PointingHost {
  readonly canvas: HTMLCanvasElement;
  layers(): readonly CompiledLayer[];
  zoom(): number;
  toPlace(point: Point): [number, number] | undefined;
  pick(point: Point, options?: PickOptions): PickedFeature[];
  markerAt(point: Point): Marker | undefined;
  clusterAt(point: Point): PickedCluster | undefined;
  openCluster(cluster: PickedCluster): void;
  flag(feature: PickedFeature, state: string, on: boolean): void;
  closePopups(): void;
  popup(options: PopupOptions): Popup;
  /** Tells the application of a press; false when it wants nothing more done. */
  pressed(detail: PressDetail): boolean;
  select(features: readonly PickedFeature[]): void;
  /** Says once that hover cannot show on a layer, because nothing tells its features apart. */
  keyless(layer: CompiledLayer): void;
}

/** What follows when people point at the map: hover comes and goes, presses open popups. */
export class Pointing {
  private hovered: PickedFeature | undefined;
  private last: Point | undefined;
  /** The popup that pointing opened, and what it tells of. */
  private glance: Popup | undefined;
  private glanced: PickedFeature | undefined;

  constructor(private readonly host: PointingHost) {}

  press(point: Point, original: Event): void {
    const { host } = this;
    const marker = host.markerAt(point);
    host.closePopups();
    if (marker?.options.popup) {
      host.popup({ rise: (marker.options.size ?? 36) * 0.98, ...marker.options.popup, at: marker.at });
      return;
    }
    const cluster = host.clusterAt(point);
    const features = cluster ? [] : host.pick(point);
    const place = host.toPlace(point);
    const wanted = host.pressed({ point, place, features, original, ...(cluster ? { cluster } : {}) });
    if (!wanted || !place) return;
    if (cluster) {
      host.openCluster(cluster);
      return;
    }
    host.select(features);
    for (const feature of features) {
      const layer = host.layers().find(({ id }) => id === feature.layer);
      if (!layer?.source.popup) continue;
      this.glance?.close();
      this.featurePopup(feature, layer.source.popup, place);
      return;
    }
  }

  /** The popup that the sheet gives a feature's layer. */
  private featurePopup(
    feature: PickedFeature,
    { title, lines }: NonNullable<CompiledLayer['source']['popup']>,
    place: Place,
    more: Partial<PopupOptions> = {},
  ): Popup {
    const block = readGeoJson(feature);
    const say = (text: string) => String(compileCql2(text).bind({ block, zoom: this.host.zoom() })(0) ?? '–');
    const { geometry } = feature;
    return this.host.popup({
      ...more,
      at: geometry?.type === 'Point' ? (geometry.coordinates as [number, number]) : place,
      ...(title === undefined ? {} : { title: say(title) }),
      lines: Object.fromEntries(Object.entries(lines ?? {}).map(([name, text]) => [name, say(text)])),
    });
  }

  /** Sets and clears hover where the sheet has it. */
  point(point: Point | undefined): void {
    this.last = point;
    const { host, hovered } = this;
    const layers = host.layers();
    const hovering = layers.filter((layer) => layer.stateNames.includes('hover')).map(({ id }) => id);
    const pressable = layers.filter((layer) => layer.source.popup).map(({ id }) => id);
    const wanted = [...hovering, ...pressable];
    const found = point && wanted.length ? host.pick(point, { layers: wanted }) : [];
    const first = found.find((feature) => hovering.includes(feature.layer));
    if (first && first.key === undefined) host.keyless(layers.find(({ id }) => id === first.layer)!);
    const over = first?.key === undefined ? undefined : first;
    if (!over || !hovered ? over !== hovered : !isSame(over, hovered)) {
      if (hovered) host.flag(hovered, 'hover', false);
      this.hovered = over;
      if (over) host.flag(over, 'hover', true);
    }
    this.look(point, found, layers);
    host.canvas.toggleAttribute(
      'data-over',
      found.length > 0 || (point && (host.markerAt(point) ?? host.clusterAt(point))) !== undefined,
    );
  }

  /** Opens and closes the popup of what is pointed at, where a layer's popup opens so. */
  private look(point: Point | undefined, found: readonly PickedFeature[], layers: readonly CompiledLayer[]): void {
    const popupOf = (feature: PickedFeature) => layers.find(({ id }) => id === feature.layer)?.source.popup;
    const target = found.find((feature) => popupOf(feature)?.on === 'hover');
    if (target && this.glanced && this.glance?.isOpen && isSame(target, this.glanced)) return;
    this.glance?.close();
    this.glance = this.glanced = undefined;
    const place = target && point && this.host.toPlace(point);
    if (!target || !place) return;
    this.glanced = target;
    // What only is pointed at does not take the focus away.
    this.glance = this.featurePopup(target, popupOf(target)!, place, { focus: false, stays: true });
  }

  /** Looks again where the pointer stands, after the map has moved or changed beneath it. */
  again(): void {
    if (this.last || this.hovered) this.point(this.last);
  }
}
