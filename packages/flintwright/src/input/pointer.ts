import { compileCql2, readGeoJson, type CompiledLayer, type Place } from '@flintwright/core';
import type { PickedFeature, PickOptions } from './pick.js';
import type { PickedCluster } from '../clusters/cluster-layer.js';
import type { Marker } from '../markers/markers.js';
import type { Popup, PopupOptions } from '../overlay/popup.js';
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
  /** The marker that was pressed, if one was. */
  readonly marker?: Marker;
}

/** What a feature's popup says; nothing for no popup. */
export type PopupOf = (feature: PickedFeature) => Omit<PopupOptions, 'at'> | undefined;

/** A popup that an application gives a layer. */
export interface LayerPopup {
  readonly make: PopupOf;
  readonly on: 'press' | 'hover';
}

/** What pointing may ask of the map. */
export interface PointingHost {
  readonly canvas: HTMLCanvasElement;
  layers(): readonly CompiledLayer[];
  /** The popup that the application gave a layer. */
  popupOf(layer: string): LayerPopup | undefined;
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
    if (marker) {
      this.openMarker(marker, point, original);
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
    this.choose(features, place);
  }

  /** A press on a marker that is an element of the page, or one chosen by keyboard. */
  pressMarker(marker: Marker, point: Point, original: Event): void {
    this.host.closePopups();
    this.openMarker(marker, point, original);
  }

  private openMarker(marker: Marker, point: Point, original: Event): void {
    const { title, description, popup, size = 36 } = marker.options;
    const detail = { point, place: marker.at, features: [], original, marker };
    if (!this.host.pressed(detail)) return;
    const said = popup ?? (title ? { title, ...(description ? { text: description } : {}) } : undefined);
    if (said) this.host.popup({ rise: size * 0.98, ...said, at: marker });
  }

  /** Selects features and opens the popup of the topmost that has one. */
  choose(features: readonly PickedFeature[], place: Place): void {
    this.host.select(features);
    for (const feature of features) {
      if (this.popupFor(feature, 'press', place)) return;
      // What can be selected answers for what lies beneath it.
      if (this.host.layers().find(({ id }) => id === feature.layer)?.source.select) return;
    }
  }

  /** Opens the popup that the application or the sheet gives a feature's layer; undefined where there is none for `on`. */
  private popupFor(feature: PickedFeature, on: 'press' | 'hover', place: Place): Popup | undefined {
    const { host } = this;
    const own = host.popupOf(feature.layer);
    const layer = host.layers().find(({ id }) => id === feature.layer);
    const asked = own?.on ?? layer?.source.popup?.on ?? 'press';
    // What only shows while it is pointed at can be pressed too.
    if (on === 'hover' && asked !== 'hover') return undefined;
    const said = own ? own.make(feature) : layer?.source.popup && this.wordsOf(feature, layer.source.popup);
    if (!said) return undefined;
    this.glance?.close();
    const { geometry } = feature;
    return host.popup({
      ...said,
      // What only is pointed at does not take the focus away.
      ...(on === 'hover' ? { focus: false, stays: true } : {}),
      at: geometry?.type === 'Point' ? (geometry.coordinates as [number, number]) : place,
    });
  }

  /** What the sheet says of a feature. */
  private wordsOf(
    feature: PickedFeature,
    { title, lines }: NonNullable<CompiledLayer['source']['popup']>,
  ): Omit<PopupOptions, 'at'> {
    const block = readGeoJson(feature);
    const say = (text: string) => String(compileCql2(text).bind({ block, zoom: this.host.zoom() })(0) ?? '–');
    return {
      ...(title === undefined ? {} : { title: say(title) }),
      lines: Object.fromEntries(Object.entries(lines ?? {}).map(([name, text]) => [name, say(text)])),
    };
  }

  /** What to call a feature when it is read out. */
  nameOf(feature: PickedFeature): string {
    const layer = this.host.layers().find(({ id }) => id === feature.layer);
    const title = layer?.source.popup?.title;
    const name =
      (title === undefined ? undefined : this.wordsOf(feature, { title }).title) ??
      feature.properties?.['name'] ??
      feature.properties?.['title'];
    const kind = layer?.source.title ?? feature.layer;
    return typeof name === 'string' && name && name !== '–'
      ? name
      : `${kind} ${feature.key?.replace('#', '') ?? ''}`.trim();
  }

  /** Sets and clears hover where the sheet has it. */
  point(point: Point | undefined): void {
    this.last = point;
    const { host, hovered } = this;
    const layers = host.layers();
    const hovering = layers.filter((layer) => layer.stateNames.includes('hover')).map(({ id }) => id);
    const pressable = layers.filter(({ id, source }) => source.popup ?? host.popupOf(id)).map(({ id }) => id);
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
    const marker = point && host.markerAt(point);
    host.canvas.title = marker?.options.title ?? '';
    host.canvas.toggleAttribute(
      'data-over',
      found.length > 0 || (point && (marker ?? host.clusterAt(point))) !== undefined,
    );
  }

  /** Opens and closes the popup of what is pointed at, where a layer's popup opens so. */
  private look(point: Point | undefined, found: readonly PickedFeature[], layers: readonly CompiledLayer[]): void {
    const onHover = ({ layer }: PickedFeature) =>
      (this.host.popupOf(layer)?.on ?? layers.find(({ id }) => id === layer)?.source.popup?.on) === 'hover';
    const target = found.find(onHover);
    if (target && this.glanced && this.glance?.isOpen && isSame(target, this.glanced)) return;
    this.glance?.close();
    this.glance = this.glanced = undefined;
    const place = target && point && this.host.toPlace(point);
    if (!target || !place) return;
    this.glanced = target;
    this.glance = this.popupFor(target, 'hover', place);
  }

  /** Looks again where the pointer stands, after the map has moved or changed beneath it. */
  again(): void {
    if (this.last || this.hovered) this.point(this.last);
  }
}
