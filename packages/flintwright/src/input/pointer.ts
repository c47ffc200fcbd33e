import type { Place } from '@flintwright/core';
import { listen } from '../base/live-counts.js';
import { isSame, type PickedFeature, type PickOptions } from '../base/picked-feature.js';
import type { MapContext } from '../base/map-context.js';
import type { PickedCluster } from '../base/picked-cluster.js';
import type { Clusters } from '../clusters/clusters.js';
import type { Marker, MarkerEvents, Markers, PressDetail } from '../markers/markers.js';
import type { HeldMarker } from '../markers/marker.js';
import type { Popup } from '../overlay/popup.js';
import { isEmpty } from '../overlay/popup-options.js';
import type { Popups } from '../overlay/popups.js';
import type { FeaturePopups } from './feature-popups.js';
import type { Selection } from './selection.js';

type Point = readonly [number, number];

/** Tools of the pointer. */
export interface PointerTools {
  readonly context: MapContext;
  readonly markers: Markers;
  readonly clusterLayers: Clusters;
  readonly popups: Popups;
  readonly featurePopups: FeaturePopups;
  readonly selection: Selection;
  pick(point: Point, options?: PickOptions): PickedFeature[];
  flag(feature: PickedFeature, state: string, on: boolean): void;
  /** Shows what a cluster holds. */
  openCluster(cluster: PickedCluster): void;
  /** Tells the application; false when it wants nothing more done. */
  tell(type: keyof MarkerEvents, detail: PressDetail): boolean;
  /** Whether the application listens to an event of the map. */
  hears(type: keyof MarkerEvents): boolean;
  /** Says once that hover cannot show on a layer, because its features have no keys. */
  keyless(layer: string): void;
}

/** Answers to the pointer: hover comes and goes, presses open popups. */
export class Pointer {
  private hovered: PickedFeature | undefined;
  private last: Point | undefined;
  private lastEvent: Event | undefined;
  /** The popup that pointing opened, and what it tells of. */
  private glance: { readonly popup: Popup | undefined; readonly feature: PickedFeature } | undefined;
  /** Closes that popup in a moment, unless the pointer comes onto it. */
  private closing: ReturnType<typeof setTimeout> | undefined;
  /** What the pointer is over, as `pointerenter` told it. */
  private over: PressDetail | undefined;
  /** Counts what has been chosen: a popup whose texts come late is opened only if nothing else was chosen meanwhile. */
  private choices = 0;
  /** Looks again once the first texts of popups have come. */
  private texts: Promise<void> | undefined;
  private readonly off: () => void;

  constructor(private readonly tools: PointerTools) {
    // A popup under the pointer can be put away without moving the pointer (WCAG 2.2, 1.4.13).
    this.off = listen(document, 'keydown', (event: KeyboardEvent) => {
      if (event.key === 'Escape') this.closeGlance();
    });
  }

  press(point: Point, original: Event): void {
    const detail = this.detailAt(point, original);
    this.tools.popups.dismiss();
    if (detail.marker) {
      this.openMarker(detail.marker, detail);
      return;
    }
    if (!this.tools.tell('press', detail) || !detail.place) return;
    if (detail.cluster) this.tools.openCluster(detail.cluster);
    else this.choose(detail.features, detail.place);
  }

  /** A press on a cluster that is an element of the page. */
  pressCluster(cluster: PickedCluster, original: Event): void {
    const [x, y] = this.tools.context.camera.project(cluster.at[0], cluster.at[1]);
    const detail: PressDetail = { point: [x, y], place: cluster.at, features: [], original, cluster };
    this.tools.popups.dismiss();
    if (this.tools.tell('press', detail)) this.tools.openCluster(cluster);
  }

  /** Two presses, or the other button; false when the application wants nothing more done. */
  more(type: 'dblpress' | 'contextmenu', point: Point, original: Event): boolean {
    return this.tell(type, this.detailAt(point, original));
  }

  /** Something happened to a marker that is an element of the page, or one chosen by keyboard was pressed. */
  onMarker(marker: Marker, type: keyof MarkerEvents, original: Event): void {
    const [x, y] = this.tools.context.camera.project(marker.at[0], marker.at[1]);
    const detail: PressDetail = { point: [x, y], place: marker.at, features: [], original, marker };
    if (type !== 'press') {
      this.tell(type, detail);
      return;
    }
    this.tools.popups.dismiss();
    this.openMarker(marker, detail);
  }

  /** What is at a pixel. */
  private detailAt(point: Point, original: Event): PressDetail {
    const { context, markers, clusterLayers } = this.tools;
    const { camera } = context;
    const marker = markers.find(camera, point[0], point[1]);
    if (marker) return { point, place: marker.at, features: [], original, marker };
    const cluster = clusterLayers.findCluster(camera, point[0], point[1]);
    const place = camera.unproject(point[0], point[1]);
    const features = cluster ? [] : this.tools.pick(point);
    return { point, place, features, original, ...(cluster ? { cluster } : {}) };
  }

  /** Tells a marker's listeners, then those of the map; false when somebody prevented what would follow. */
  private tell(type: keyof MarkerEvents, detail: PressDetail): boolean {
    const marker = detail.marker as HeldMarker | undefined;
    return (marker?.listeners.tell(type, detail) ?? true) && this.tools.tell(type, detail);
  }

  private openMarker(marker: Marker, detail: PressDetail): void {
    const { title, description, popup, words, size = 36 } = marker.options;
    this.choices++;
    if (!this.tell('press', detail)) return;
    const said = popup ?? (title ? { title, ...(description ? { text: description } : {}) } : undefined);
    if (said && !isEmpty(said))
      this.tools.popups.open({ rise: words === undefined ? size * 0.98 : 0, ...said, at: marker });
  }

  /** Selects features and opens the popup of the topmost that has one. */
  choose(features: readonly PickedFeature[], place: Place): void {
    const { selection, featurePopups, context } = this.tools;
    selection.press(features);
    const choice = ++this.choices;
    const late = featurePopups.wait(features.map(({ layer }) => layer));
    if (!late) this.openTopmost(features, place);
    else
      void late.then(() => {
        if (choice === this.choices && !context.removed) this.openTopmost(features, place);
      });
  }

  private openTopmost(features: readonly PickedFeature[], place: Place): void {
    const { layers } = this.tools.context.state.sheet;
    for (const feature of features) {
      if (this.openPopup(feature, 'press', place)) return;
      // A feature that can be selected answers for those beneath it.
      if (layers.find(({ id }) => id === feature.layer)?.source.select) return;
    }
  }

  private openPopup(feature: PickedFeature, on: 'press' | 'hover', place: Place): Popup | undefined {
    const options = this.tools.featurePopups.of(feature, on, place);
    if (!options) return undefined;
    this.glance?.popup?.remove();
    return this.tools.popups.open(options);
  }

  /** Sets and clears hover where the sheet has it. */
  point(point: Point | undefined, original: Event): void {
    this.lastEvent = original;
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
    if (marker) this.tools.popups.expect();
    const cluster = point && clusterLayers.findCluster(camera, point[0], point[1]);
    canvas.toggleAttribute('data-over', found.length > 0 || (marker ?? cluster) !== undefined);
    this.enter(point, original);
  }

  /** Tells what the pointer has come over, and what it has left. */
  private enter(point: Point | undefined, original: Event): void {
    const { tools, over } = this;
    const wanted = over ?? (tools.hears('pointerenter') || tools.hears('pointerleave') || tools.markers.size > 0);
    if (!wanted) return;
    const found = point && this.detailAt(point, original);
    const now = found && (found.marker ?? found.cluster ?? found.features[0]) ? found : undefined;
    if (over && now && isSameThing(over, now)) return;
    this.over = now;
    if (over) this.tell('pointerleave', { ...over, point: point ?? over.point, original });
    if (now) this.tell('pointerenter', now);
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
    if (target && glance?.popup?.isOpen && isSame(target, glance.feature)) {
      this.stay();
      return;
    }
    const place = target && point && context.camera.unproject(point[0], point[1]);
    if (!target || !place) {
      // The pointer may be on its way to the card.
      if (glance) this.closing ??= setTimeout(() => this.closeGlance(), 300);
      return;
    }
    this.closeGlance();
    this.texts ??= featurePopups.wait([target.layer])?.then(() => this.again());
    const popup = this.openPopup(target, 'hover', place);
    popup?.whenPointed((on) => (on ? this.stay() : this.closeGlance()));
    this.glance = { feature: target, popup };
  }

  private stay(): void {
    clearTimeout(this.closing);
    this.closing = undefined;
  }

  private closeGlance(): void {
    this.stay();
    this.glance?.popup?.remove();
    this.glance = undefined;
  }

  /** Looks again where the pointer stands, after the map has moved or changed beneath it. */
  again(): void {
    if (this.lastEvent && (this.last || this.hovered)) this.point(this.last, this.lastEvent);
  }

  /** The pointer, and what it brought about, are of the past. */
  remove(): void {
    this.off();
    this.closeGlance();
  }
}

/** Whether two finds are of the same marker, cluster or topmost feature. */
function isSameThing(a: PressDetail, b: PressDetail): boolean {
  if (a.marker ?? b.marker) return a.marker === b.marker;
  if (a.cluster ?? b.cluster) return a.cluster?.layer === b.cluster?.layer && a.cluster?.node.id === b.cluster?.node.id;
  const [one] = a.features;
  const [other] = b.features;
  // Where nothing tells features apart, those of a layer are as one.
  return one.layer === other.layer && isSame(one, other);
}
