import type { Place } from '@flintwright/core';
import { isSame, type PickedFeature, type PickOptions } from '../base/picked-feature.js';
import type { MapContext } from '../base/map-context.js';
import type { ClusterLayers, PickedCluster } from '../clusters/cluster-layer.js';
import type { Marker, Markers } from '../markers/markers.js';
import type { Popup } from '../overlay/popup.js';
import type { Popups } from '../overlay/popups.js';
import type { FeaturePopups } from './feature-popups.js';
import type { Selection } from './selection.js';

type Point = readonly [number, number];

/** `press` events: where, and what is there. */
export interface PressDetail {
  /** CSS pixels from the upper left corner of the map. */
  readonly point: Point;
  /** `[longitude, latitude]` in degrees; undefined where there is no ground. */
  readonly place: Point | undefined;
  /** The features there, topmost first. */
  readonly features: readonly PickedFeature[];
  /** The event of the browser. */
  readonly original: Event;
  /** The cluster that was pressed, if one was. */
  readonly cluster?: PickedCluster;
  /** The marker that was pressed, if one was. */
  readonly marker?: Marker;
}

/** Tools of the pointer. */
export interface PointerTools {
  readonly context: MapContext;
  readonly markers: Markers;
  readonly clusterLayers: ClusterLayers;
  readonly popups: Popups;
  readonly featurePopups: FeaturePopups;
  readonly selection: Selection;
  pick(point: Point, options?: PickOptions): PickedFeature[];
  flag(feature: PickedFeature, state: string, on: boolean): void;
  /** Shows what a cluster holds. */
  openCluster(cluster: PickedCluster): void;
  /** Tells the application of a press; false when it wants nothing more done. */
  pressed(detail: PressDetail): boolean;
  /** Says once that hover cannot show on a layer, because nothing tells its features apart. */
  keyless(layer: string): void;
}

/** Answers to the pointer: hover comes and goes, presses open popups. */
export class Pointer {
  private hovered: PickedFeature | undefined;
  private last: Point | undefined;
  /** The popup that pointing opened, and what it tells of. */
  private glance: { readonly popup: Popup | undefined; readonly feature: PickedFeature } | undefined;

  constructor(private readonly tools: PointerTools) {}

  press(point: Point, original: Event): void {
    const { context, markers, clusterLayers, popups } = this.tools;
    const { camera } = context;
    const marker = markers.find(camera, point[0], point[1]);
    popups.dismiss();
    if (marker) {
      this.openMarker(marker, point, original);
      return;
    }
    const cluster = clusterLayers.findCluster(camera, point[0], point[1]);
    const features = cluster ? [] : this.tools.pick(point);
    const place = camera.unproject(point[0], point[1]);
    const wanted = this.tools.pressed({ point, place, features, original, ...(cluster ? { cluster } : {}) });
    if (!wanted || !place) return;
    if (cluster) this.tools.openCluster(cluster);
    else this.choose(features, place);
  }

  /** A press on a marker that is an element of the page, or one chosen by keyboard. */
  pressMarker(marker: Marker, original: Event): void {
    const [x, y] = this.tools.context.camera.project(marker.at[0], marker.at[1]);
    this.tools.popups.dismiss();
    this.openMarker(marker, [x, y], original);
  }

  private openMarker(marker: Marker, point: Point, original: Event): void {
    const { title, description, popup, size = 36 } = marker.options;
    const detail = { point, place: marker.at, features: [], original, marker };
    if (!this.tools.pressed(detail)) return;
    const said = popup ?? (title ? { title, ...(description ? { text: description } : {}) } : undefined);
    if (said) this.tools.popups.open({ rise: size * 0.98, ...said, at: marker });
  }

  /** Selects features and opens the popup of the topmost that has one. */
  choose(features: readonly PickedFeature[], place: Place): void {
    const { selection, context } = this.tools;
    selection.press(features);
    for (const feature of features) {
      if (this.openPopup(feature, 'press', place)) return;
      // A feature that can be selected answers for those beneath it.
      if (context.state.sheet.layers.find(({ id }) => id === feature.layer)?.source.select) return;
    }
  }

  private openPopup(feature: PickedFeature, on: 'press' | 'hover', place: Place): Popup | undefined {
    const options = this.tools.featurePopups.of(feature, on, place);
    if (!options) return undefined;
    this.glance?.popup?.remove();
    return this.tools.popups.open(options);
  }

  /** Sets and clears hover where the sheet has it. */
  point(point: Point | undefined): void {
    this.last = point;
    const { context, markers, clusterLayers, featurePopups } = this.tools;
    const { layers } = context.state.sheet;
    const hovering = layers.filter((layer) => layer.stateNames.includes('hover')).map(({ id }) => id);
    const pressable = layers.filter(({ id }) => featurePopups.has(id)).map(({ id }) => id);
    const wanted = [...hovering, ...pressable];
    const found = point && wanted.length ? this.tools.pick(point, { layers: wanted }) : [];
    const first = found.find((feature) => hovering.includes(feature.layer));
    if (first && first.key === undefined) this.tools.keyless(first.layer);
    this.hover(first?.key === undefined ? undefined : first);
    this.look(point, found);
    const { camera, canvas } = context;
    const marker = point && markers.find(camera, point[0], point[1]);
    canvas.title = marker?.options.title ?? '';
    const cluster = point && clusterLayers.findCluster(camera, point[0], point[1]);
    canvas.toggleAttribute('data-over', found.length > 0 || (marker ?? cluster) !== undefined);
  }

  private hover(over: PickedFeature | undefined): void {
    const { hovered } = this;
    if (over && hovered ? isSame(over, hovered) : over === hovered) return;
    if (hovered) this.tools.flag(hovered, 'hover', false);
    this.hovered = over;
    if (over) this.tools.flag(over, 'hover', true);
  }

  /** Opens and closes the popup of what is pointed at, where a layer's popup opens so. */
  private look(point: Point | undefined, found: readonly PickedFeature[]): void {
    const { context, featurePopups } = this.tools;
    const { glance } = this;
    const target = found.find(({ layer }) => featurePopups.opensOn(layer) === 'hover');
    if (target && glance?.popup?.isOpen && isSame(target, glance.feature)) return;
    glance?.popup?.remove();
    this.glance = undefined;
    const place = target && point && context.camera.unproject(point[0], point[1]);
    if (target && place) this.glance = { feature: target, popup: this.openPopup(target, 'hover', place) };
  }

  /** Looks again where the pointer stands, after the map has moved or changed beneath it. */
  again(): void {
    if (this.last || this.hovered) this.point(this.last);
  }
}
