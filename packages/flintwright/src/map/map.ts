// Room "map": the map itself: its facade, its state, its sheet, its frames and its movements.
import {
  Fault,
  featureToGeoJson,
  readPlace,
  writeGeoJson,
  type GeoJsonFeature,
  type JoinReport,
  type Place,
  type Sheet,
  type SurfaceSpec,
  type View,
  type ViewChange,
} from '@flintwright/core';
import type { FeatureName } from '../base/feature-states.js';
import { countLive } from '../base/live-counts.js';
import { assertPage } from '../base/page.js';
import type { PickedCluster } from '../base/picked-cluster.js';
import type { PickedFeature, PickOptions } from '../base/picked-feature.js';
import { dispose, removable, type Abortable, type Removable } from '../base/removable.js';
import type { Strings } from '../base/strings.js';
import { writtenSheet } from '../base/sheet-parts.js';
import type { DataState } from '../load/data-entry.js';
import type { Markers } from '../markers/markers.js';
import type { Legend, LegendOptions } from '../overlay/legend.js';
import type { ColorScheme } from '../overlay/map-elements.js';
import type { Popup } from '../overlay/popup.js';
import type { PopupOptions } from '../overlay/popup-options.js';
import type { LayerPopupOptions, PopupOf } from '../overlay/popups.js';
import type { FeatureEdit } from '../worker/messages.js';
import type { Bookmarks } from './bookmarks.js';
import { MapEventTargetBase, type MapEvents, type MapListener } from './events.js';
import type { Layers } from './layers.js';
import type { MapIcons } from './map-icons.js';
import type { FadeOptions, FrameOptions, FrameTarget, MapOptions, SheetOptions } from './options.js';
import { connect, firstThings, makeParts, removeParts, type MapParts } from './parts.js';
import { check } from './option-tables.js';
import { checkPalette } from './check-palette.js';
import type { Arrival, MoveOptions } from './view-animation.js';

/** Elements that hold a map. */
const occupied = new WeakSet<HTMLElement>();

/** An interactive map in an element of the page. Made by {@link createMap}. */
export class FlintMap extends MapEventTargetBase implements Removable {
  /** The layers, for change at run time. */
  readonly layers: Layers;
  /** The icons, for change at run time. */
  readonly icons: MapIcons;
  /** Placed things of the application. */
  readonly markers: Markers;
  /** Views to come back to. */
  readonly bookmarks: Bookmarks;
  /** The texts of the interface. */
  readonly strings: Strings;
  /** CPU time of the last frame in milliseconds, and how many draw calls it made. */
  readonly lastFrame: { readonly cpu: number; readonly calls: number };
  readonly #parts: MapParts;
  /** Names of the events that somebody has listened to. */
  readonly #heard = new Set<string>();

  /**
   * Use {@link createMap}.
   *
   * @param host the element that the map stands in
   * @param options of the map
   * @internal
   */
  constructor(
    /** The element that the map stands in. */
    readonly host: HTMLElement,
    options: MapOptions,
  ) {
    super();
    const parts = makeParts(host, this, options, (type) => this.#heard.has(type));
    this.#parts = parts;
    this.layers = parts.layers;
    this.icons = parts.icons;
    this.markers = parts.markers;
    this.bookmarks = parts.bookmarks;
    this.strings = parts.context.strings;
    this.lastFrame = parts.frames.last;
    countLive('maps', 1);
    connect(parts, options);
    const { context, sheets, frames } = parts;
    occupied.add(host);
    sheets.applySoon();
    if (typeof options.sheet === 'string') void sheets.load(options.sheet, true);
    parts.silent.size();
    // What has been asked for by then goes ahead of the graphics context, which holds the page up; but nobody waits long for it.
    queueMicrotask(() => void firstThings(parts).then(() => context.loop.start(frames)));
  }

  override addEventListener<K extends keyof MapEvents>(
    type: K,
    listener: MapListener<K> | null,
    options?: boolean | AddEventListenerOptions,
  ): void {
    this.#heard.add(type);
    super.addEventListener(type, listener, options);
  }

  // --- the view -----------------------------------------------------------------------------------

  /** Where the camera stands. */
  get view(): View {
    return this.#applied().context.state.view;
  }

  /** The view that a movement under way leads to; the present one where there is none. */
  get destination(): View {
    return this.#applied().views.goal;
  }

  /** Least and greatest zoom. */
  get zooms(): readonly [number, number] {
    return this.#applied().context.state.limits.zoom;
  }

  /** Meters on the ground in one CSS pixel, in the middle of the map. */
  get metresPerPixel(): number {
    const { camera, state } = this.#applied().context;
    return camera.metresPerPixel / state.surface.stretch(...state.view.center);
  }

  /**
   * Changes the view.
   *
   * @param change what is to differ; what is left out stays as it is
   * @param options at once by default; `duration` in milliseconds makes it a movement
   * @returns resolves when the movement has ended, and says whether it arrived; rejects with the reason of an aborted signal
   * @throws Fault `option.*`, `view.number` or `place.*`
   */
  move(change: ViewChange, options: MoveOptions = {}): Promise<Arrival> {
    return this.#alive().views.move(change, options);
  }

  /**
   * Shows all of something, as large as fits beside controls and panels (see {@link keepClear}).
   *
   * @param target a layer by its id, of which what its filters leave counts; a list of places, bounds, or GeoJSON
   * @param options `padding` in CSS pixels, greatest `zoom`, and those of a movement, which takes 600 milliseconds by default
   * @returns as {@link move} does
   * @throws Fault `frame.*`, `layer.unknown`, `option.*`, `place.*` or `geojson.*`
   */
  async frame(target: FrameTarget, options: FrameOptions = {}): Promise<Arrival> {
    return this.#alive().views.frame(target, options);
  }

  /** Goes back to the first view. */
  home(options: MoveOptions = {}): Promise<Arrival> {
    return this.#alive().views.home(options);
  }

  /** CSS pixel, from the upper left corner of the map, of a place. @throws Fault `place.*` */
  toPixel(where: Place): [number, number] {
    const { camera, state } = this.#alive().context;
    const [x, y] = camera.project(...readPlace(where, state.surface.space));
    return [x, y];
  }

  /** `[longitude, latitude]` in degrees of a CSS pixel; undefined where there is no ground. */
  toPlace(point: readonly [number, number]): [number, number] | undefined {
    return this.#alive().context.camera.unproject(point[0], point[1]);
  }

  // --- the sheet ----------------------------------------------------------------------------------

  /** The sheet in force, run-time layers included. */
  get sheet(): Sheet {
    return writtenSheet(this.#parts.context.state.parts);
  }

  /**
   * Puts another sheet in force. The view stays, and so do layers added at run time. Geometry is kept wherever only appearance differs.
   * The old picture fades into the new one.
   *
   * @param sheet the whole sheet, or its address
   * @param options `duration` of the fade in milliseconds, and whether the sheet is all there is
   * @returns resolves when the sheet is in force: at once for one given in place. One that cannot be fetched, or is not sound, is told
   * of as a fault, and the present sheet stays
   * @throws SheetFault for a sheet given in place, as {@link createMap} does; the present sheet then stays
   */
  setSheet(sheet: Sheet, options?: SheetOptions): void;
  setSheet(sheet: Sheet | string, options?: SheetOptions): Promise<void>;
  setSheet(sheet: Sheet | string, options: SheetOptions = {}): Promise<void> {
    const { sheets } = this.#alive();
    check.given(sheet);
    check.sheet(options);
    if (typeof sheet === 'string') return sheets.load(sheet, false, options);
    sheets.set(sheet, options);
    return Promise.resolve();
  }

  /** Id of the surface that the map is drawn on: an authority code, `globe`, `plan`, or the description of a projection. */
  get surface(): string {
    return this.#applied().context.state.surface.id;
  }

  /**
   * Draws the map on another surface, as the sheet's `view.surface` would. The middle stays where it is, if the surface reaches it, and
   * so does the scale on the ground. The old picture fades into the new one.
   *
   * @param surface an authority code, `globe`, `plan`, or the description of a projection
   * @param options `duration` of the fade in milliseconds
   * @returns resolves when the surface is there
   * @throws Fault `crs.*` or `surface.*` for one that is not known; the present surface then stays
   */
  async setSurface(surface: SurfaceSpec, options: FadeOptions = {}): Promise<void> {
    const { context, surfaces } = this.#alive();
    check.fade('map.setSurface', options);
    const { base } = context.state.parts;
    await surfaces.load(surface);
    if (context.removed) return;
    this.setSheet({ ...base, view: { ...base.view, surface } }, options);
    this.#applied();
    await context.loop.until(() => !surfaces.busy);
  }

  /**
   * Puts other colors under the names of the palette. Names that are not given keep theirs. Fades like {@link setSheet}.
   *
   * @param palette CSS colors by name
   * @param options `duration` of the fade in milliseconds
   * @throws Fault `palette.unknown` for a name that the sheet's palette does not have, or SheetFault
   */
  setPalette(palette: Readonly<Record<string, string>>, options: FadeOptions = {}): void {
    const { context, sheets } = this.#alive();
    const { base } = context.state.parts;
    check.fade('map.setPalette', options);
    checkPalette(palette, base);
    sheets.set({ ...base, palette: { ...base.palette, ...palette } }, options);
  }

  /** Light or dark cards and controls; `auto` follows what people have set in their system. */
  get colorScheme(): ColorScheme {
    return this.#parts.context.elements.colorScheme;
  }

  set colorScheme(scheme: ColorScheme) {
    this.#alive().context.elements.colorScheme = scheme;
  }

  /** How the join of a data entry to its table went; undefined before it is loaded, and where there is none. */
  joinReport(data: string): JoinReport | undefined {
    return this.#applied().sources.joinReport(data);
  }

  /** How it stands with a data entry; undefined for one that no layer draws. `datachange` events tell when it changes. */
  dataState(data: string): DataState | undefined {
    return this.#applied().sources.stateOf(data);
  }

  /**
   * Changes single features that a layer draws: adds or replaces them (`put`), moves points, takes some out. Clusters are changed where
   * they stand.
   *
   * @param layer id of a layer that draws them
   * @param edit features by their keys: the attribute that the data entry names as `id`, or their ids
   * @throws Fault `layer.unknown`, `edit.data`, `edit.key` or `edit.point`; nothing is changed then
   */
  async edit(layer: string, edit: FeatureEdit): Promise<void> {
    const { context, sources, clusterLayers } = this.#alive();
    check.edit(edit);
    const data = this.layers.require(layer).of.split('/')[0];
    // Whoever waits for the map to settle waits for what was asked of it before.
    const end = context.begin();
    try {
      await sources.edit(data, edit);
      clusterLayers.forget();
    } finally {
      end();
      if (!context.removed) context.invalidate('ground', true);
    }
  }

  /**
   * The features of a data entry as they are now, edits included, in longitude and latitude.
   *
   * @param data name of a data entry with features
   * @throws Fault `edit.data` for data that is no features, and those of reading it
   */
  async features(data: string): Promise<{ type: 'FeatureCollection'; features: GeoJsonFeature[] }> {
    const { type, features } = writeGeoJson(await this.#alive().sources.featuresOf(data));
    return { type, features: features.filter(({ geometry }) => geometry) };
  }

  // --- what is there ------------------------------------------------------------------------------

  /**
   * Finds the features at a pixel.
   *
   * @param point CSS pixels from the upper left corner of the map
   * @param options `layers` to look at, and how far round the point (`within`, CSS pixels)
   * @returns topmost first, each once
   */
  pick(point: readonly [number, number], options: PickOptions = {}): PickedFeature[] {
    const { interaction } = this.#alive();
    check.pick(options);
    return interaction.pick(point, options);
  }

  /**
   * Sets or clears a state of a feature, such as `selected`. Layers that redefine that state then draw it so. A state that no layer
   * shows is told of as a fault, `flag.state` or `flag.data`.
   *
   * @param feature a picked feature, or its data entry and key
   * @param state name of the state
   * @param on default true; false clears it
   * @throws Fault `flag.key` when nothing tells the feature apart
   */
  flag(feature: FeatureName, state: string, on = true): void {
    const { interaction } = this.#alive();
    interaction.flag(feature, state, on);
    if (on) void interaction.checkThere([feature]);
  }

  /** The selected features, in the order of selection. */
  get selection(): readonly PickedFeature[] {
    return this.#parts.interaction.selection.features;
  }

  /** Selects some features in place of those selected before; none clears the selection. */
  select(features: readonly PickedFeature[] = []): void {
    const { interaction } = this.#alive();
    interaction.selection.set(features);
    void interaction.checkThere(features);
  }

  /** Opens a popup. @throws Fault `place.*` */
  popup(options: PopupOptions): Popup {
    return this.#alive().popups.open(options);
  }

  /**
   * Gives the features of a layer popups made by a function, in place of the sheet's.
   *
   * @param layer id of the layer
   * @param make says what the popup of a feature says; undefined for none
   * @param options `on`: `press` (the default), or `hover`
   * @returns its `remove()` takes them off again
   * @throws Fault `layer.unknown`
   */
  popupFor(layer: string, make: PopupOf, options: LayerPopupOptions = {}): Removable {
    const { popups } = this.#alive();
    this.layers.require(layer);
    check.popupFor(make, options);
    return popups.give(layer, make, options);
  }

  /** Layers whose popups a function makes; see {@link popupFor}. */
  get popupFunctions(): readonly string[] {
    return this.#alive().popups.layers;
  }

  /** Adds a legend, made from the sheet. It follows restyling, visibility and zoom. */
  legend(options: LegendOptions = {}): Legend {
    const { legends } = this.#alive();
    check.legend(options);
    return legends.add(options);
  }

  /**
   * Keeps labels, and what is framed, from under an element of the page that lies over the map, such as a panel. The map does so for its
   * own controls.
   *
   * @param panel the element
   * @param options a `signal` that ends it
   * @returns its `remove()` lets labels stand there again
   */
  keepClear(panel: Element, options: Abortable = {}): Removable {
    return this.#alive().obstacles.add(panel, options);
  }

  /**
   * Has the clusters of a layer be elements of the page, made by a function, in place of the sheet's `clusters` or the hexagon. They are
   * pressed, moved and read out as the others.
   *
   * @param layer id of a layer whose points come together
   * @param make makes the element of a cluster; called anew when its count has changed
   * @param options a `signal` that ends it
   * @returns its `remove()` takes them off again
   * @throws Fault `layer.unknown` or `option.kind`
   */
  clustersAs(layer: string, make: (cluster: PickedCluster) => HTMLElement, options: Abortable = {}): Removable {
    const { interaction } = this.#alive();
    this.layers.require(layer);
    check.clustersAs(make);
    return removable(interaction.dressClusters(layer, make), options.signal);
  }

  /**
   * Members of a cluster as GeoJSON features. The layer and the number of the node are those of a pressed cluster.
   *
   * @param layer id of the layer
   * @param id number of the cluster, as a press tells it
   */
  clusterFeatures(layer: string, id: number): GeoJsonFeature[] {
    const clusters = this.#alive().sources.clustersOf(layer);
    const members = clusters?.index.members(id) ?? [];
    return clusters ? members.map((point) => featureToGeoJson(clusters.block, clusters.featureOf(point))) : [];
  }

  /**
   * A picture of the map as it is drawn now, markers and clusters included, without what lies over it as elements of the page. Wait for
   * {@link settled} where all is to be on it.
   *
   * @param type media type of a picture that the browser writes; default PNG
   * @throws Fault `picture.failed`
   */
  picture(type = 'image/png'): Promise<Blob> {
    const { context, frames } = this.#alive();
    frames.paintNow();
    return new Promise((resolve, reject) =>
      context.canvas.toBlob(
        (blob) =>
          blob
            ? resolve(blob)
            : reject(
                new Fault('picture.failed', 'the browser returned no picture', 'Give the map a size, and try again.'),
              ),
        type,
      ),
    );
  }

  /** The texts of the labels now on the map. */
  get labelTexts(): readonly string[] {
    return this.#parts.frames.painter.labelTexts;
  }

  /** Resolves when nothing is loading, moving or fading. */
  settled(): Promise<void> {
    return this.#alive().context.loop.settled();
  }

  /** Tells of a fault as the map does: an event, and a notice on the map. */
  report(fault: Fault): void {
    this.#alive().context.report(fault);
  }

  /** Takes the map off the page and gives back everything it holds. A second call does nothing. */
  remove(): void {
    const { context } = this.#parts;
    if (context.removed) return;
    occupied.delete(this.host);
    context.emit('remove', null);
    removeParts(this.#parts);
    countLive('maps', -1);
  }

  [dispose](): void {
    this.remove();
  }

  /** The parts of the map, with all changes of its sheet applied. */
  #applied(): MapParts {
    this.#parts.sheets.flush();
    return this.#parts;
  }

  /** The parts of a map that has not been removed. @throws Fault `map.removed` */
  #alive(): MapParts {
    if (this.#parts.context.removed)
      throw new Fault('map.removed', 'the map was removed', 'Make a new one with createMap.');
    return this.#applied();
  }
}

/**
 * Makes a map in an element of the page.
 *
 * @param host the element, or a CSS selector for it
 * @param options the sheet, where to start, and the rest; all may be left out
 * @throws Fault `host.missing`, `host.taken`, `option.*`, or SheetFault for a sheet given in place that is not sound. Expressions, scales and
 * colors by name that are not are `fault` events where what reads them has yet to come, and the sheet is left out
 */
export function createMap(host: HTMLElement | string, options: MapOptions = {}): FlintMap {
  assertPage();
  const element = typeof host === 'string' ? document.querySelector<HTMLElement>(host) : host;
  if (!element)
    throw new Fault(
      'host.missing',
      typeof host === 'string' ? `no element matches "${host}"` : 'createMap expected an element, got none',
      'Call createMap after the element is on the page, and check the selector.',
    );
  if (occupied.has(element))
    throw new Fault(
      'host.taken',
      'this element holds a map already',
      'Take the first one off with its remove(), or use a separate element for the second map.',
    );
  check.map(options);
  return new FlintMap(element, options);
}
