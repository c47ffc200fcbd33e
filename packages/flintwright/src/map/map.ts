import type { Camera } from '@flintwright/core';
import {
  asFault,
  builtInSprites,
  changeView,
  checkSheet,
  defaultLimits,
  Fault,
  featureToGeoJson,
  frameView,
  findPlainSurface,
  readPlace,
  readSheet,
  webMercator,
  selfContained,
  type ClassesWanted,
  type CompiledSheet,
  type Ease,
  type JoinReport,
  type Place,
  type Sheet,
  type SurfaceSpec,
  type View,
  type ViewChange,
  type ViewLimits,
} from '@flintwright/core';
import { Animator, type MoveOptions } from './view-animation.js';
import { Bookmarks } from './bookmarks.js';
import { count, listen } from '../base/live-counts.js';
import { attachGestures } from '../input/gestures.js';
import { spriteNames } from '../gl/atlas.js';
import { placesOf } from './fit.js';
import { Faults } from './faults.js';
import { FoundClasses } from './class-breaks.js';
import { FrameLoop, type FrameEnd } from './frame-loop.js';
import { HashKeeper, viewOfHash } from './permalink.js';
import { assembled, Layers, partsOf, rebased, type SheetParts } from './layers.js';
import { WorkerPool } from '../worker/pool.js';
import { fetchJson } from '../load/request.js';
import { withoutFeatures, withWholeAddresses } from '../load/sheet.js';
import type { Test } from '../load/cluster-source.js';
import type { FeatureEdit } from '../worker/messages.js';
import { Sources, type DataState } from '../load/sources.js';
import { limitsOf, SurfaceKeeper } from './surface-control.js';
import { Painter, type FrameScene } from './painter.js';
import type { FrameOptions, FrameTarget, MapOptions } from './options.js';
import { Cairns, type PickedCluster } from '../clusters/cluster-layer.js';
import { Clearance } from '../overlay/obstacles.js';
import { Legend, type LegendOptions } from '../overlay/legend.js';
import { Markers } from '../markers/markers.js';
import { Notice } from '../overlay/notice.js';
import { itemsInView } from '../input/keyboard-items.js';
import { Pointing, type PopupOf } from '../input/pointer.js';
import type { Popup, PopupOptions } from '../overlay/popup.js';
import { Popups } from '../overlay/popups.js';
import { Roll } from '../input/keyboard-list.js';
import { Selection } from '../input/selection.js';
import { Scaffold } from '../overlay/map-frame.js';
import { pickAt, type PickedFeature, type PickOptions } from '../input/pick.js';
import { StateKeeper, type MapState } from './state.js';
import { FeatureStates, type FeatureName } from './feature-states.js';
import { english, type Words } from '../overlay/strings.js';

export type { FrameOptions, FrameTarget, MapOptions } from './options.js';

const emptySheet: Sheet = { sheet: 1, layers: [] };

/** An interactive map in an element of the page. Made by {@link createMap}. */
export class FlintMap extends EventTarget {
  readonly layers: Layers;
  /** The texts of the interface. */
  readonly words: Words;
  readonly markers: Markers;
  /** Views to come back to. */
  readonly bookmarks: Bookmarks;
  private readonly roll: Roll;
  private readonly tests = new Map<string, Test>();
  private readonly keeps: StateKeeper;
  private start: View;
  private limits: ViewLimits;
  private readonly keeper: SurfaceKeeper;
  private readonly scaffold: Scaffold;
  private readonly hash = new HashKeeper();
  private readonly notice: Notice;
  private readonly pool: WorkerPool;
  private readonly sources: Sources;
  private readonly animator: Animator;
  private readonly off: (() => void)[] = [];
  private readonly popups: Popups;
  private readonly legends = new Set<Legend>();
  private readonly states = new FeatureStates();
  private readonly selected: Selection;
  private pointing: Pointing | undefined;
  private readonly cairns: Cairns;
  private readonly clearance: Clearance;
  private readonly painter: Painter;
  private readonly classes = new FoundClasses();
  private readonly faults: Faults;
  private readonly loop: FrameLoop;
  private readonly sprites: Readonly<Record<string, string>>;
  private readonly spriteAt: ReadonlyMap<string, number>;
  private destroyed = false;
  private sheetLoading = 0;
  /** Whether the person asks for less motion. */
  private calm = false;
  private readonly base: string;
  /** CPU time of the last frame in milliseconds, and how many draw calls it made. */
  readonly lastFrame = { cpu: 0, calls: 0 };

  constructor(
    readonly host: HTMLElement,
    private readonly options: MapOptions,
  ) {
    super();
    this.base = document.baseURI;
    this.words = { ...english, ...options.words };
    this.sprites = { ...builtInSprites, ...options.icons };
    this.spriteAt = new Map(spriteNames(options.icons ?? {}).map((name, i) => [name, i]));
    const sheet = typeof options.sheet === 'object' ? options.sheet : emptySheet;
    const compiled = readSheet(sheet);
    const surface = findPlainSurface(sheet.view?.surface) ?? webMercator;
    this.limits = {
      ...defaultLimits,
      ...limitsOf(sheet.view?.surface),
      ...sheet.view?.limits,
      ...options.limits,
    };
    this.start = changeView(
      { center: surface.home, zoom: 1, bearing: 0, tilt: 0 },
      { ...sheet.view, ...options.view },
      this.limits,
    );
    const kept = options.hash ? viewOfHash(location.hash) : undefined;
    const first = kept ? changeView(this.start, kept, this.limits) : this.start;
    count('maps', 1);
    this.scaffold = new Scaffold(host, options.title ?? sheet.title ?? 'Map', options.look);
    const { canvas, over } = this.scaffold;
    this.notice = new Notice(over, this.words);
    this.faults = new Faults({
      emit: (fault) => this.emit('fault', fault) && options.notices !== false,
      show: (fault) => this.notice.show(fault),
      isDestroyed: () => this.destroyed,
    });
    this.loop = new FrameLoop({
      draw: (time, elapsed) => this.draw(time, elapsed),
      settled: () => {
        this.roll.refresh();
        this.emit('settled', this.state.view);
      },
    });
    this.keeps = new StateKeeper(
      {
        view: first,
        size: { width: host.clientWidth, height: host.clientHeight },
        ratio: window.devicePixelRatio || 1,
        parts: partsOf(sheet),
        sheet: compiled,
        surface,
      },
      (before, now) => this.turned(before, now),
    );
    this.keeper = new SurfaceKeeper(
      {
        sheet: () => this.sheet,
        surface: () => this.state.surface,
        view: () => this.state.view,
        limits: () => this.limits,
        start: () => this.start,
        hold: () => this.sources.hold(),
        renew: (workers) => {
          this.sources.reset();
          if (workers !== undefined) this.pool.exchange(workers);
        },
        take: ({ surface: next, over, start, limits }) => {
          this.limits = limits;
          this.start = start;
          this.animator.carry(over);
          this.update({ surface: next, view: over(this.state.view) });
        },
        apply: () => this.applySheet(),
        fault: (fault) => this.faults.tell(fault),
        isDestroyed: () => this.destroyed,
      },
      sheet.view?.surface,
    );
    this.layers = new Layers({
      parts: () => this.state.parts,
      set: (next) => this.setParts(next),
      test: (id, test) => this.test(id, test),
    });
    this.bookmarks = new Bookmarks({
      sheet: () => this.sheet,
      view: () => this.view,
      move: (to, how) => this.move(to, how),
      changed: () => this.emit('sheetchange', this.sheet),
    });
    this.roll = new Roll({
      over,
      canvas,
      words: this.words,
      items: () => this.itemsInView(),
      changed: () => this.againOver(),
    });
    this.popups = new Popups({
      over,
      words: this.words,
      space: () => this.state.surface.space,
      changed: () => this.againOver(),
      fault: (fault) => this.faults.tell(fault),
    });
    this.markers = new Markers({
      sprite: (name) => this.spriteAt.get(name),
      over,
      changed: () => this.againOver(true),
      space: () => this.state.surface.space,
      pressed: (marker, event) => this.pointing?.pressMarker(marker, this.toPixel(marker.at), event),
      toPlace: (point) => this.toPlace(point),
    });
    this.selected = new Selection({
      layers: () => this.state.sheet.layers,
      flag: (feature, state, on) => this.flag(feature, state, on),
      changed: (features) => this.emit('selectionchange', features),
    });
    this.animator = new Animator(
      (view) => this.update({ view }),
      () => this.again(),
    );
    this.pool = new WorkerPool(Math.max(1, Math.min(4, (navigator.hardwareConcurrency || 2) - 1)), options.worker);
    this.sources = new Sources({
      pool: this.pool,
      surface: () => this.state.surface,
      gridOf: (spec) => this.keeper.gridOf(spec),
      base: this.base,
      hook: options.request,
      files: options.files ?? {},
      host: {
        pool: this.pool,
        device: () => this.painter.device,
        sprite: (icon) => this.spriteAt.get(icon) ?? 0,
        stateOf: (data, from, block) => this.states.of(this.state.sheet, data, from, block),
        testOf: (layer) => this.tests.get(layer),
        gridSpec: (data) => this.sheet.data![data].grid!,
        fault: (fault) => this.faults.later(fault),
        changed: () => this.again(true),
      },
      opened: () => {
        this.scaffold.credits(this.sources.credits);
        for (const legend of this.legends) legend.update();
        this.again(true);
      },
      turned: (data, state) => this.emit('datachange', { data, state }),
      found: (data, wanted, breaks) => this.foundClasses(data, wanted, breaks),
    });
    this.clearance = new Clearance(host, () => this.againOver(true));
    this.cairns = new Cairns({
      sprite: (name) => this.spriteAt.get(name) ?? 0,
      clusters: () => this.sources.clusters,
      layers: () => this.state.sheet.layers,
      stateOf: (layer, { block }) => this.states.of(this.state.sheet, layer.data, layer.from, block),
      idName: (data) => this.idName(data),
    });
    this.painter = new Painter({
      canvas,
      sprites: this.sprites,
      sources: this.sources,
      cairns: this.cairns,
      markers: this.markers,
      clearance: this.clearance,
    });
    this.beginPainting();
    this.watch();
    this.applySheet();
    if (typeof options.sheet === 'string') void this.loadSheet(options.sheet, true);
    if (this.state.size.width === 0 || this.state.size.height === 0) {
      this.faults.later(
        new Fault(
          'host.size',
          `the map's element is ${this.state.size.width} × ${this.state.size.height} pixels`,
          'Give it a width and a height in CSS; the map appears as soon as it has both.',
        ),
      );
    }
    this.again();
  }

  // --- the view -----------------------------------------------------------------------------------

  /** Where the camera stands. */
  get view(): View {
    return this.state.view;
  }

  /** Least and greatest zoom. */
  get zooms(): readonly [number, number] {
    return this.limits.zoom;
  }

  /** Metres on the ground in one CSS pixel, in the middle of the map. */
  get metresPerPixel(): number {
    return this.camera.metresPerPixel / this.state.surface.stretch(...this.state.view.center);
  }

  /** Changes the view, at once or over some time; resolves when it has arrived or was overtaken by another movement. */
  move(change: ViewChange, options: MoveOptions = {}): Promise<void> {
    this.alive();
    return this.moveTo(changeView(this.state.view, change, this.limits), options);
  }

  /** Shows all of something, as large as fits beside controls and panels (see {@link keepClear}). */
  async frame(target: FrameTarget, { pad = 40, zoom = 18, over = 600, ...rest }: FrameOptions = {}): Promise<void> {
    this.alive();
    const places = await placesOf(target, this.state.surface.space, (layer) => this.boundsOf(layer));
    if (!places.length) throw new Fault('frame.empty', 'there is nothing to frame', 'Give at least one place.');
    const view = frameView(
      this.state.view,
      this.state.surface,
      this.state.size,
      places,
      this.clearance.within(pad),
      Math.min(zoom, this.limits.zoom[1]),
    );
    await this.moveTo(changeView(this.state.view, view, this.limits), { over, ...rest });
  }

  /** Back to the first view. */
  home(options: MoveOptions = {}): Promise<void> {
    this.alive();
    return this.moveTo(this.start, { over: 600, ...options });
  }

  /** Pixel (from the top left corner of the map) of a place. */
  toPixel(where: Place): [number, number] {
    const [x, y] = this.camera.project(...readPlace(where, this.state.surface.space));
    return [x, y];
  }

  /** `[longitude, latitude]` of a pixel, or undefined where there is no ground. */
  toPlace(point: readonly [number, number]): [number, number] | undefined {
    return this.camera.unproject(point[0], point[1]);
  }

  // --- the sheet ----------------------------------------------------------------------------------

  /** The sheet in force, run-time layers included. */
  get sheet(): Sheet {
    return this.state.sheet.sheet;
  }

  /**
   * Puts another sheet in force. The view stays, and so do layers added at run time; geometry is kept wherever only
   * appearance differs. What was on the map fades into what comes.
   *
   * @param options `over`: milliseconds of the fade; default 300, and 0 for people who ask for less motion
   * @throws SheetFault; the present sheet then stays
   */
  setSheet(sheet: Sheet, { over = 300 }: { readonly over?: number } = {}): void {
    this.alive();
    const parts = rebased(this.state.parts, sheet);
    const compiled = this.compiled(parts);
    if (over > 0 && !this.calm && !document.hidden) this.painter.keep(this.scene(false), over);
    this.setParts(parts, compiled);
  }

  /** Id of the surface that the map is drawn on: an authority code, `globe`, `plan`, or the description of a projection. */
  get surface(): string {
    return this.state.surface.id;
  }

  /**
   * Draws the map on another surface, as the sheet's `view.surface` would; resolves when it is there. The middle stays where it is, if the
   * surface reaches it, and so does the scale on the ground. What was on the map fades into what comes.
   *
   * @throws Fault `crs.*` or `surface.*` for one that is not known; the present surface then stays
   */
  async setSurface(surface: SurfaceSpec, options: { readonly over?: number } = {}): Promise<void> {
    this.alive();
    const { base } = this.state.parts;
    await this.keeper.load(surface);
    if (this.destroyed) return;
    this.setSheet({ ...base, view: { ...base.view, surface } }, options);
    await this.loop.until(() => !this.keeper.busy);
  }

  /** Puts other colours under the names of the palette; names that are not given keep theirs. Fades like {@link setSheet}. */
  setPalette(palette: Readonly<Record<string, string>>, options: { readonly over?: number } = {}): void {
    const { base } = this.state.parts;
    this.setSheet({ ...base, palette: { ...base.palette, ...palette } }, options);
  }

  /** How the join of a data entry to its table went; undefined before it is loaded, and where there is none. */
  joinReport(data: string): JoinReport | undefined {
    return this.sources.stores.get(data)?.source.join;
  }

  /** How it stands with a data entry; undefined for one that no layer draws. `datachange` events tell when it changes. */
  dataState(data: string): DataState | undefined {
    return this.sources.stateOf(data);
  }

  /**
   * Changes single features that a layer draws: adds or replaces them (`put`), moves points, takes some out. Features are named by
   * their keys: the attribute that the data entry names as `id`, or their ids. Clusters are changed where they stand.
   *
   * @throws Fault `layer.unknown`, `edit.data`, `edit.key` or `edit.point`; nothing is changed then
   */
  async edit(layer: string, edit: FeatureEdit): Promise<void> {
    this.alive();
    await this.sources.edit(this.layers.require(layer).of.split('/')[0], edit);
    this.cairns.forget();
  }

  // --- what is there ------------------------------------------------------------------------------

  /** The features at a pixel, topmost first. */
  pick(point: readonly [number, number], options: PickOptions = {}): PickedFeature[] {
    this.alive();
    const marks = this.cairns.pick(this.camera, point[0], point[1], options.layers);
    const { stores, drawn } = this.sources;
    const layers = this.state.sheet.layers.filter(({ clustered }) => !clustered);
    return [...marks, ...pickAt(point, options, this.camera, layers, stores, drawn, (data) => this.idName(data))];
  }

  /**
   * Sets or clears a state of a feature, such as `selected`; layers that redefine that state then draw it so.
   *
   * A state that no layer shows is told of as a fault, `flag.state` or `flag.data`.
   *
   * @throws Fault `flag.key` when nothing tells the feature apart
   */
  flag(feature: FeatureName, state: string, on = true): void {
    this.alive();
    if (!this.states.set(feature, state, on)) return;
    const { data, from = '', key } = feature;
    if (on && !this.sheetLoading) this.faults.stateless(feature, state, () => this.state.sheet.layers);
    this.sources.stores.get(data)?.restate(from, new Set([key!]), this.idName(data));
    this.cairns.forget();
    // Labels have states too.
    this.again(true);
  }

  /** The selected features, in the order of selection. */
  get selection(): readonly PickedFeature[] {
    return this.selected.features;
  }

  /** Selects some features in place of those selected before; none clears the selection. */
  select(features: readonly PickedFeature[] = []): void {
    this.alive();
    this.selected.set(features);
  }

  /** Opens a popup. */
  popup(options: PopupOptions): Popup {
    this.alive();
    return this.popups.open(options);
  }

  /**
   * Gives the features of a layer popups made by a function, in place of the sheet's.
   *
   * @param make what the popup of a feature says; nothing for none
   * @param options `on`: `press` (the default), or `hover`
   * @returns what takes them off again
   */
  popupFor(layer: string, make: PopupOf, { on = 'press' }: { readonly on?: 'press' | 'hover' } = {}): () => void {
    this.alive();
    this.layers.require(layer);
    return this.popups.give(layer, { make, on });
  }

  /** Adds a legend, made from the sheet: it follows restyling, visibility and zoom. */
  legend(options: LegendOptions = {}): Legend {
    this.alive();
    const source = () => ({
      sheet: this.state.sheet,
      zoom: this.state.view.zoom,
      sprites: this.sprites,
      mayMiss: (data: string, attribute: string) => {
        const join = this.joinReport(data);
        return (
          join !== undefined && join.added.includes(attribute) && join.featuresAlone.length + join.keyless.features > 0
        );
      },
    });
    const legend = new Legend(this.scaffold.over, { title: this.words.legend, ...options }, source, (gone) =>
      this.legends.delete(gone),
    );
    this.legends.add(legend);
    return legend;
  }

  /**
   * Keeps labels, and what is framed, from under an element of the page that lies over the map, such as a panel. The map does so for its
   * own controls.
   *
   * @returns what lets labels stand there again
   */
  keepClear(panel: Element): () => void {
    this.alive();
    return this.clearance.add(panel);
  }

  /**
   * A picture of the map as it is drawn now, markers and clusters included, without what lies over it as elements of the page. Wait for
   * `settled()` where all is to be on it.
   *
   * @param type a kind of picture that the browser writes; default PNG
   * @throws Fault `picture.failed`
   */
  picture(type = 'image/png'): Promise<Blob> {
    this.alive();
    this.painter.paint(this.scene(false), 0);
    return new Promise((resolve, reject) =>
      this.scaffold.canvas.toBlob(
        (blob) =>
          blob
            ? resolve(blob)
            : reject(new Fault('picture.failed', 'the browser gave no picture', 'Give the map a size, and try again.')),
        type,
      ),
    );
  }

  /** The texts of the labels now on the map. */
  get labelTexts(): readonly string[] {
    return this.painter.labelTexts;
  }

  /** Resolves when nothing is loading, moving or fading. */
  settled(): Promise<void> {
    this.alive();
    return this.loop.settled();
  }

  /** Takes the map off the page and gives back everything it holds. A second call does nothing. */
  destroy(): void {
    if (this.destroyed) return;
    this.emit('destroy', undefined);
    this.destroyed = true;
    this.hash.destroy();
    this.animator.stop();
    for (const stop of this.off) stop();
    this.popups.destroy();
    this.markers.destroy();
    this.roll.destroy();
    this.clearance.destroy();
    for (const legend of [...this.legends]) legend.destroy();
    this.sources.destroy();
    this.pool.destroy();
    this.notice.clear();
    this.painter.destroy();
    this.scaffold.destroy();
    this.loop.stop();
    count('maps', -1);
  }

  // --- within -------------------------------------------------------------------------------------

  private alive(): void {
    if (this.destroyed) throw new Fault('map.destroyed', 'the map was destroyed', 'Make a new one with createMap.');
  }

  private get camera(): Camera {
    return this.keeps.camera;
  }

  private get state(): MapState {
    return this.keeps.now;
  }

  private update(change: Partial<MapState>): void {
    this.keeps.update(change);
  }

  /** Tells of a change of the state, and has it drawn. */
  private turned(before: MapState, now: MapState): void {
    if (before.sheet !== now.sheet || Math.floor(before.view.zoom * 4) !== Math.floor(now.view.zoom * 4))
      for (const legend of this.legends) legend.update();
    if (before.sheet !== now.sheet) this.emit('sheetchange', now.sheet.sheet);
    if (before.view !== now.view) {
      this.emit('viewchange', now.view);
      if (this.options.hash) this.hash.keep(() => this.state.view);
    }
    this.again(before.sheet !== now.sheet);
  }

  private moveTo(view: View, options: MoveOptions): Promise<void> {
    const { size } = this.state;
    const over = this.calm || !size.width || !size.height || document.hidden ? 0 : (options.over ?? 0);
    return this.animator.start(this.state.view, view, this.state.surface, size, { ...options, over });
  }

  private setParts(parts: SheetParts, sheet = this.compiled(parts)): void {
    this.update({ parts, sheet });
    this.applySheet();
  }

  private compiled(parts: SheetParts): CompiledSheet {
    return readSheet(this.classes.into(assembled(parts)));
  }

  private foundClasses(data: string, wanted: readonly ClassesWanted[], breaks: readonly (readonly number[])[]): void {
    for (const fault of this.classes.take(data, wanted, breaks)) this.faults.tell(fault);
    this.setParts(this.state.parts);
  }

  private async loadSheet(address: string, first: boolean): Promise<void> {
    this.sheetLoading++;
    const controller = new AbortController();
    this.off.push(() =>
      controller.abort(new Fault('map.destroyed', 'the map was destroyed', 'Nothing is to be done.')),
    );
    try {
      const url = new URL(address, this.base).href;
      const sheet = (await fetchJson(
        url,
        { signal: controller.signal, what: 'the sheet' },
        this.options.request,
      )) as Sheet;
      if (this.destroyed) return;
      const faults = checkSheet(sheet);
      if (faults.length) {
        for (const fault of faults) this.faults.tell(fault);
        return;
      }
      this.setSheet(withWholeAddresses(sheet, url));
      if (first) {
        this.limits = {
          ...this.limits,
          ...limitsOf(sheet.view?.surface),
          ...sheet.view?.limits,
          ...this.options.limits,
        };
        this.start = changeView(this.start, { ...sheet.view, ...this.options.view }, this.limits);
        // What the sheet says of the zoom is meant on its own surface.
        this.keeper.started(sheet.view?.surface);
        if (!this.options.hash || !viewOfHash(location.hash)) this.update({ view: this.start });
      }
    } catch (error) {
      if (!this.destroyed) this.faults.tell(asFault(error, 'sheet.load', 'Check the sheet.'));
    } finally {
      this.sheetLoading--;
      if (!this.destroyed) this.again();
    }
  }

  /** Brings workers and stores into line with the sheet in force. */
  private applySheet(): void {
    const { sheet } = this.state;
    if (!this.keeper.has(sheet.sheet)) return;
    this.pool.setSheet(withoutFeatures(selfContained(sheet.sheet)), [...this.spriteAt.keys()], this.keeper.spec);
    this.sources.apply(sheet);
    this.cairns.forget();
    this.faults.symbols(sheet.sheet, this.spriteAt);
    queueMicrotask(() => this.destroyed || this.pointing?.again());
    this.again(true);
  }

  private idName(data: string): string | undefined {
    return this.state.sheet.sheet.data?.[data]?.id;
  }

  private beginPainting(): void {
    try {
      this.painter.begin();
    } catch (error) {
      this.faults.later(asFault(error, 'gl.failed', 'Try another browser.'));
    }
  }

  private watch(): void {
    const sizes = new ResizeObserver(() => this.measure());
    sizes.observe(this.host);
    count('listeners', 1);
    const { canvas } = this.scaffold;
    const pointing = (this.pointing = new Pointing({
      canvas,
      layers: () => this.state.sheet.layers,
      popupOf: (layer) => this.popups.of(layer),
      zoom: () => this.state.view.zoom,
      toPlace: (point) => this.toPlace(point),
      pick: (point, options) => this.pick(point, options),
      markerAt: ([x, y]) => this.markers.find(this.camera, x, y),
      clusterAt: ([x, y]) => this.cairns.findCluster(this.camera, x, y),
      openCluster: (cluster) => void this.openCluster(cluster),
      flag: (feature, state, on) => this.flag(feature, state, on),
      closePopups: () => this.popups.dismiss(),
      popup: (options) => this.popup(options),
      pressed: (detail) => this.emit('press', detail),
      select: (features) => this.selected.press(features),
      keyless: (layer) => this.faults.keyless(layer.id, layer.data),
    }));
    const motion = matchMedia('(prefers-reduced-motion: reduce)');
    this.calm = motion.matches;
    this.off.push(
      listen(motion, 'change', () => (this.calm = motion.matches)),
      () => {
        sizes.disconnect();
        count('listeners', -1);
      },
      listen(window, 'resize', () => this.measure()),
      listen(canvas, 'webglcontextlost', (event: Event) => {
        event.preventDefault();
        if (!this.destroyed) this.painter.lose();
      }),
      listen(canvas, 'webglcontextrestored', () => {
        this.beginPainting();
        this.painter.rebuild();
        this.again(true);
      }),
      attachGestures({
        element: canvas,
        camera: () => this.camera,
        steer: (change) => {
          this.animator.stop();
          this.update({ view: changeView(this.state.view, change, this.limits) });
        },
        glide: (change, over) => void this.move(change, { over, ease: 'out' }),
        home: () => void this.home(),
        press: (point, event) => pointing.press(point, event),
        hover: (point) => pointing.point(point),
        grab: (point) => this.markers.grab(this.camera, point),
        wholeLevels: this.options.levels === 'whole',
        reducedMotion: () => this.calm,
      }),
    );
  }

  private measure(): void {
    const { clientWidth: width, clientHeight: height } = this.host;
    const ratio = window.devicePixelRatio || 1;
    const { size } = this.state;
    this.update({ ratio, size: size.width === width && size.height === height ? size : { width, height } });
  }

  /** Bounds of the data that a layer draws, once it has been opened. */
  private async boundsOf(layer: string): Promise<readonly [number, number, number, number] | undefined> {
    const data = this.layers.require(layer).of.split('/')[0];
    await this.loop.until(() => this.sources.isOpened(data));
    return this.sources.stores.get(data)?.source.bounds;
  }

  /** Asks for a frame. */
  private again(placeLabels = false): void {
    this.painter.groundWanted = true;
    this.againOver(placeLabels);
  }

  /** Asks for a frame in which nothing of the ground differs, only what lies over it. */
  private againOver(placeLabels = false): void {
    if (placeLabels) this.painter.placeWanted = true;
    this.loop.again();
  }

  private get isLoading(): boolean {
    return this.sheetLoading > 0 || this.keeper.busy || this.sources.loading;
  }

  private draw(time: number, elapsed: number): FrameEnd {
    const began = performance.now();
    this.animator.step(time);
    if (this.destroyed) return 'rest';
    const { size } = this.state;
    const { painter, camera } = this;
    const moved = camera.view !== this.lastPainted;
    painter.paint(this.scene(moved), elapsed);
    this.markers.follow(camera);
    this.popups.follow(camera);
    this.roll.follow(camera);
    this.scaffold.loading(this.isLoading);
    this.lastFrame.cpu = performance.now() - began;
    this.lastFrame.calls = painter.calls;
    this.lastPainted = camera.view;
    if (moved) this.pointing?.again();
    if (this.animator.active || moved || painter.moving) {
      // Labels are placed once more when a movement has ended.
      painter.placeWanted ||= moved && !this.animator.active;
      return 'more';
    }
    // Labels are placed at most every 90 milliseconds; those that are due wait for their turn.
    if (painter.placeWanted && painter.device && size.width && size.height) return 'more';
    return this.isLoading ? 'loading' : 'rest';
  }

  /** Shows of a layer only what passes a test. */
  private test(id: string, test: Test | undefined): void {
    if (test) this.tests.set(id, test);
    else this.tests.delete(id);
    this.sources.stores.get(this.layers.require(id).of.split('/')[0])?.restyle();
    this.sources.clusters.get(id)?.filter(test);
    this.cairns.forget();
    this.again(true);
  }

  private itemsInView() {
    const { camera, sources, markers, cairns, pointing, words } = this;
    if (!pointing) return [];
    return itemsInView({
      camera,
      sources,
      markers,
      cairns,
      pointing,
      words,
      layers: this.state.sheet.layers,
      hasPopup: (layer) => this.popups.of(layer) !== undefined,
      idName: (data) => this.idName(data),
      openCluster: (cluster) => void this.openCluster(cluster),
      pickOne: (layer, x, y) => cairns.pick(camera, x, y, [layer.id])[0],
    });
  }

  private lastPainted: View | undefined;

  private scene(moved: boolean): FrameScene {
    const { size, ratio, sheet } = this.state;
    return {
      camera: this.camera,
      size,
      ratio,
      sheet,
      moved,
      ground: this.keeper.ground,
      loading: this.isLoading,
      still: this.calm,
      dark: this.scaffold.isDark,
    };
  }

  /** Shows what a cluster holds: frames its members, or fans out those that share one place. */
  private async openCluster({ layer, node }: PickedCluster): Promise<void> {
    const index = this.sources.clusters.get(layer)?.index;
    if (!index) return;
    const apart = index.expansionZoom(node.id);
    if (apart === undefined) {
      this.cairns.fan({ layer, node });
      this.again(true);
      return;
    }
    const bounds = index.boundsOf(node.id);
    await this.frame({ bounds }, { pad: 90, zoom: Math.max(apart + 0.4, this.view.zoom + 1) });
  }

  /** Members of a cluster as features, and its sums, as a press found it. */
  clusterFeatures(layer: string, id: number): object[] {
    const clusters = this.sources.clusters.get(layer);
    return clusters
      ? clusters.index.members(id).map((point) => featureToGeoJson(clusters.block, clusters.featureOf(point)))
      : [];
  }

  private emit(type: string, detail: unknown): boolean {
    return this.dispatchEvent(new CustomEvent(type, { detail, cancelable: true }));
  }

  /** Tells of a fault as the map does: an event, and a notice on the map. */
  report(fault: Fault): void {
    this.alive();
    this.faults.tell(fault);
  }
}

export type { Ease };

/**
 * Makes a map in an element of the page.
 *
 * @param host the element, or a CSS selector for it
 * @throws Fault `host.missing`, or SheetFault for a sheet given in place that is not sound
 */
export function createMap(host: HTMLElement | string, options: MapOptions = {}): FlintMap {
  const element = typeof host === 'string' ? document.querySelector<HTMLElement>(host) : host;
  if (!element)
    throw new Fault(
      'host.missing',
      `no element matches "${String(host)}"`,
      'Call createMap after the element is on the page, and check the selector.',
    );
  return new FlintMap(element, options);
}
