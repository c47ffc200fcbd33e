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
  /** Layers, for changes at run time. */
  readonly layers: Layers;
  /** Icons, for changes at run time. */
  readonly icons: MapIcons;
  /** Markers of the application. */
  readonly markers: Markers;
  /** Named views. */
  readonly bookmarks: Bookmarks;
  /** Texts of the interface. */
  readonly strings: Strings;
  /** CPU time of the last animation frame in milliseconds, and its number of draw calls. */
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

  /** The current view. */
  get view(): View {
    return this.#applied().context.state.view;
  }

  /** The view at the end of the current movement; the current view if there is none. */
  get destination(): View {
    return this.#applied().views.goal;
  }

  /** Minimum and maximum zoom. */
  get zooms(): readonly [number, number] {
    return this.#applied().context.state.limits.zoom;
  }

  /** Meters on the ground in one CSS pixel, at the middle of the map. */
  get metresPerPixel(): number {
    const { camera, state } = this.#applied().context;
    return camera.metresPerPixel / state.surface.stretch(...state.view.center);
  }

  /**
   * Changes the view.
   *
   * @param change new values; omitted ones stay
   * @param options immediate by default; `duration` in milliseconds animates the change
   * @returns resolves at the end of the movement with whether it arrived; rejects with the reason of an aborted signal
   * @throws Fault `option.*`, `view.number` or `place.*`
   */
  move(change: ViewChange, options: MoveOptions = {}): Promise<Arrival> {
    return this.#alive().views.move(change, options);
  }

  /**
   * Moves to a view that shows all of a target, as large as possible beside controls and panels (see {@link keepClear}).
   *
   * @param target the id of a layer (features that its filters leave out do not count), a list of places, bounds, or GeoJSON
   * @param options `padding` in CSS pixels, maximum `zoom`, and options of the movement, whose duration is 600 ms by default
   * @returns as {@link move} does
   * @throws Fault `frame.*`, `layer.unknown`, `option.*`, `place.*` or `geojson.*`
   */
  async frame(target: FrameTarget, options: FrameOptions = {}): Promise<Arrival> {
    return this.#alive().views.frame(target, options);
  }

  /** Moves to the initial view. */
  home(options: MoveOptions = {}): Promise<Arrival> {
    return this.#alive().views.home(options);
  }

  /** Converts a place to CSS pixels from the upper left corner of the map. @throws Fault `place.*` */
  toPixel(where: Place): [number, number] {
    const { camera, state } = this.#alive().context;
    const [x, y] = camera.project(...readPlace(where, state.surface.space));
    return [x, y];
  }

  /** Converts CSS pixels to `[longitude, latitude]` in degrees; undefined beside the surface. */
  toPlace(point: readonly [number, number]): [number, number] | undefined {
    return this.#alive().context.camera.unproject(point[0], point[1]);
  }

  // --- the sheet ----------------------------------------------------------------------------------

  /** The current sheet, including layers added at run time. */
  get sheet(): Sheet {
    return writtenSheet(this.#parts.context.state.parts);
  }

  /**
   * Replaces the sheet. The view and layers added at run time stay. Geometry is kept if only the appearance differs. The old picture fades
   * into the new one.
   *
   * @param sheet the whole sheet, or its URL
   * @param options `duration` of the fade in milliseconds, and whether changes made at run time are discarded
   * @returns resolves when the sheet is in effect, at once for a sheet object. If a sheet cannot be fetched or is invalid, a fault is
   * reported and the current sheet stays
   * @throws SheetFault for an invalid sheet object, as {@link createMap} does
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

  /** Id of the surface on which the map is drawn: an authority code, `globe`, `plan`, or the definition of a projection. */
  get surface(): string {
    return this.#applied().context.state.surface.id;
  }

  /**
   * Changes the surface on which the map is drawn, as the sheet's `view.surface` does. The middle stays, if the new surface contains it,
   * and so does the scale on the ground. The old picture fades into the new one.
   *
   * @param surface an authority code, `globe`, `plan`, or the definition of a projection
   * @param options `duration` of the fade in milliseconds
   * @returns resolves when the surface is in effect
   * @throws Fault `crs.*` or `surface.*` for an unknown surface; the current one stays
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
   * Replaces colors of the sheet's palette; omitted names keep theirs. Fades as {@link setSheet} does.
   *
   * @param palette CSS colors by name
   * @param options `duration` of the fade in milliseconds
   * @throws Fault `palette.unknown` for a name that is not in the sheet's palette, or SheetFault
   */
  setPalette(palette: Readonly<Record<string, string>>, options: FadeOptions = {}): void {
    const { context, sheets } = this.#alive();
    const { base } = context.state.parts;
    check.fade('map.setPalette', options);
    checkPalette(palette, base);
    sheets.set({ ...base, palette: { ...base.palette, ...palette } }, options);
  }

  /** Color scheme of controls and popups: `light`, `dark`, or `auto` for the setting of the reader's system. */
  get colorScheme(): ColorScheme {
    return this.#parts.context.elements.colorScheme;
  }

  set colorScheme(scheme: ColorScheme) {
    this.#alive().context.elements.colorScheme = scheme;
  }

  /** Returns the result of joining a data entry to its table; undefined before it is loaded and if there is no join. */
  joinReport(data: string): JoinReport | undefined {
    return this.#applied().sources.joinReport(data);
  }

  /** Returns the load state of a data entry; undefined if no layer draws it. `datachange` events announce changes. */
  dataState(data: string): DataState | undefined {
    return this.#applied().sources.stateOf(data);
  }

  /**
   * Changes single features of a layer: adds or replaces (`put`), moves points, deletes. Clusters are updated in place.
   *
   * @param layer id of a layer that draws them
   * @param edit features by their keys: the attribute that the data entry names as `id`, or their GeoJSON ids
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
   * Returns the current features of a data entry, including edits, in longitude and latitude.
   *
   * @param data name of a data entry with features
   * @throws Fault `edit.data` for data without features, and faults of reading it
   */
  async features(data: string): Promise<{ type: 'FeatureCollection'; features: GeoJsonFeature[] }> {
    const { type, features } = writeGeoJson(await this.#alive().sources.featuresOf(data));
    return { type, features: features.filter(({ geometry }) => geometry) };
  }

  // --- what is there ------------------------------------------------------------------------------

  /**
   * Finds the features at a point.
   *
   * @param point CSS pixels from the upper left corner of the map
   * @param options `layers` to search, and the radius (`within`, CSS pixels)
   * @returns topmost first, each once
   */
  pick(point: readonly [number, number], options: PickOptions = {}): PickedFeature[] {
    const { interaction } = this.#alive();
    check.pick(options);
    return interaction.pick(point, options);
  }

  /**
   * Sets or clears a state of a feature, such as `selected`. Layers that redefine this state draw the feature accordingly. A state that no
   * layer defines is reported as a fault, `flag.state` or `flag.data`.
   *
   * @param feature a picked feature, or its data entry and key
   * @param state name of the state
   * @param on default true; false clears the state
   * @throws Fault `flag.key` if the feature has no key
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

  /** Selects features and deselects all others; an empty list clears the selection. */
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
   * Sets a function that makes the popups of a layer, in place of those of the sheet.
   *
   * @param layer id of the layer
   * @param make returns the content of the popup of a feature; undefined for no popup
   * @param options `on`: `press` (the default), or `hover`
   * @returns its `remove()` removes the function
   * @throws Fault `layer.unknown`
   */
  popupFor(layer: string, make: PopupOf, options: LayerPopupOptions = {}): Removable {
    const { popups } = this.#alive();
    this.layers.require(layer);
    check.popupFor(make, options);
    return popups.give(layer, make, options);
  }

  /** Ids of the layers whose popups a function makes; see {@link popupFor}. */
  get popupFunctions(): readonly string[] {
    return this.#alive().popups.layers;
  }

  /** Adds a legend, made from the sheet. It follows changes of style, visibility and zoom. */
  legend(options: LegendOptions = {}): Legend {
    const { legends } = this.#alive();
    check.legend(options);
    return legends.add(options);
  }

  /**
   * Keeps labels and framed views clear of an element that covers part of the map, such as a panel. Controls of the map do so by
   * themselves.
   *
   * @param panel the element
   * @param options a `signal` that ends it
   * @returns its `remove()` ends it
   */
  keepClear(panel: Element, options: Abortable = {}): Removable {
    return this.#alive().obstacles.add(panel, options);
  }

  /**
   * Draws the clusters of a layer as elements that a function makes, in place of the sheet's `clusters` or the hexagon. They react and are
   * read out as the others.
   *
   * @param layer id of a clustered layer
   * @param make makes the element of a cluster; called again when its count has changed
   * @param options a `signal` that ends it
   * @returns its `remove()` ends it
   * @throws Fault `layer.unknown` or `option.kind`
   */
  clustersAs(layer: string, make: (cluster: PickedCluster) => HTMLElement, options: Abortable = {}): Removable {
    const { interaction } = this.#alive();
    this.layers.require(layer);
    check.clustersAs(make);
    return removable(interaction.dressClusters(layer, make), options.signal);
  }

  /**
   * Returns the members of a cluster as GeoJSON features.
   *
   * @param layer id of the layer
   * @param id id of the cluster, as in the event of a press
   */
  clusterFeatures(layer: string, id: number): GeoJsonFeature[] {
    const clusters = this.#alive().sources.clustersOf(layer);
    const members = clusters?.index.members(id) ?? [];
    return clusters ? members.map((point) => featureToGeoJson(clusters.block, clusters.featureOf(point))) : [];
  }

  /**
   * Returns a picture of the map as currently drawn, including markers and clusters, without elements that cover it. Await {@link settled}
   * first for a complete picture.
   *
   * @param type media type that the browser can write; default PNG
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

  /** Texts of the labels that are currently shown. */
  get labelTexts(): readonly string[] {
    return this.#parts.frames.painter.labelTexts;
  }

  /** Resolves when nothing is loading, moving or fading. */
  settled(): Promise<void> {
    return this.#alive().context.loop.settled();
  }

  /** Reports a fault as the map does: as an event, and as a notice. */
  report(fault: Fault): void {
    this.#alive().context.report(fault);
  }

  /** Removes the map from the page and releases all of its resources. A second call does nothing. */
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
 * Creates a map in an element.
 *
 * @param host the element, or a CSS selector
 * @param options sheet, initial view and more; all optional
 * @throws Fault `host.missing`, `host.taken`, `option.*`, or SheetFault for an invalid sheet object. Invalid expressions, scales and color
 * names are reported as `fault` events if their parser has not been loaded yet; the sheet is then not used
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
      'this element already contains a map',
      'Remove the first map with its remove(), or use another element for the second.',
    );
  check.map(options);
  return new FlintMap(element, options);
}
