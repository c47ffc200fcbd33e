import { asFault } from '@flintwright/core';
import type { FeatureName } from '../base/feature-states.js';
import { LatePart } from '../base/late-part.js';
import { countLive, listen } from '../base/live-counts.js';
import type { PickedFeature, PickOptions } from '../base/picked-feature.js';
import type { PickedCluster } from '../base/picked-cluster.js';
import type { Clusters } from '../clusters/clusters.js';
import type { Graphics } from '../gl/graphics.js';
import { FeaturePopups } from '../input/feature-popups.js';
import { attachGestures } from '../input/gestures.js';
import { Keyboard } from '../input/keyboard.js';
import { pickAt } from '../input/pick.js';
import { Pointer } from '../input/pointer.js';
import { Selection } from '../input/selection.js';
import type { Sources } from '../load/sources.js';
import type { Markers } from '../markers/markers.js';
import type * as HintTools from '../overlay/hint.js';
import type { Popups } from '../overlay/popups.js';
import type { Context } from './context.js';
import type { Frames } from './frames.js';
import type { MapOptions } from './options.js';
import type { SilentFaults } from './silent-faults.js';
import type { ViewControl } from './view-control.js';

/** Markers, popups and gestures of a map. */
export interface InteractionTools {
  readonly context: Context;
  readonly options: MapOptions;
  readonly graphics: Graphics;
  readonly sources: Sources;
  readonly clusterLayers: Clusters;
  readonly markers: Markers;
  readonly popups: Popups;
  readonly frames: Frames;
  readonly views: ViewControl;
  readonly silent: SilentFaults;
  /** Whether the application listens to an event of the map. */
  hears(type: string): boolean;
}

/** Brings gestures, pointer and keyboard to the map, and what follows from them. */
export class Interaction {
  readonly selection: Selection;
  private readonly pointer: Pointer;
  /** What says how the map is moved, fetched when it is first to be said; it says the last that came meanwhile. */
  private readonly hints: LatePart<typeof HintTools>;
  private hint: HintTools.Hint | undefined;
  private said = '';
  private readonly keyboard: Keyboard;
  private readonly off: readonly (() => void)[];

  constructor(private readonly tools: InteractionTools) {
    const { context, popups, markers, clusterLayers, sources, frames, silent } = tools;
    this.hints = new LatePart(
      context,
      () => import('../overlay/hint.js'),
      ({ Hint }) => {
        this.hint = new Hint(context.overlay);
        this.hint.show(this.said);
      },
    );
    const featurePopups = new FeaturePopups(context, popups);
    const selection = new Selection({
      layers: () => context.state.sheet.layers,
      flag: (feature, state, on) => this.flag(feature, state, on),
      changed: (features) => context.emit('selectionchange', features),
    });
    const openCluster = (cluster: PickedCluster) => void this.openCluster(cluster);
    const pointer = new Pointer({
      context,
      markers,
      clusterLayers,
      popups,
      featurePopups,
      selection,
      openCluster,
      pick: (point, options) => this.pick(point, options),
      flag: (feature, state, on) => this.flag(feature, state, on),
      tell: (type, detail) => context.emit(type, detail),
      hears: (type) => tools.hears(type),
      keyless: (layer) => silent.keyless(layer),
    });
    const keyboard = new Keyboard({
      context,
      sources,
      markers,
      clusterLayers,
      featurePopups,
      pointer,
      openCluster,
    });
    this.selection = selection;
    this.pointer = pointer;
    this.keyboard = keyboard;
    markers.listen({
      told: (marker, type, event) => pointer.onMarker(marker, type, event),
      gone: (marker) => popups.closeAt(marker),
    });
    frames.listen({
      drawn: (moved) => {
        keyboard.follow(context.camera);
        if (moved) pointer.again();
      },
      settled: () => keyboard.refresh(),
    });
    this.off = [
      ...this.gestures(pointer),
      ...this.watchSize(),
      ...this.watchContext(),
      ...this.watchFonts(),
      ...this.watchPrint(),
    ];
  }

  private gestures(pointer: Pointer): (() => void)[] {
    const { context, options, markers, views } = this.tools;
    return [
      attachGestures({
        context,
        wholeLevels: options.levels === 'whole',
        shared: options.scroll === 'shared',
        hint: (kind) => this.sayHow(kind === 'wheel' ? context.strings.wheelHint : context.strings.fingerHint),
        steer: (change) => views.steer(change),
        glide: (change, duration) => void views.move(change, { duration, easing: 'ease-out' }),
        home: () => void views.home({}),
        goal: () => views.goal,
        press: (point, event) => pointer.press(point, event),
        more: (type, point, event) => pointer.more(type, point, event),
        hover: (point, event) => pointer.point(point, event),
        grab: (point) => markers.grab(context.camera, point),
      }),
    ];
  }

  /** Says for a moment how the map is moved. */
  private sayHow(text: string): void {
    this.said = text;
    if (this.hint) this.hint.show(text);
    else void this.hints.ready();
  }

  private watchSize(): (() => void)[] {
    const { context, frames, silent } = this.tools;
    const { host } = context;
    const measure = () => {
      const { clientWidth: width, clientHeight: height } = host;
      const { size } = context.state;
      const ratio = window.devicePixelRatio || 1;
      context.update({ ratio, size: size.width === width && size.height === height ? size : { width, height } });
      silent.size();
    };
    const sizes = new ResizeObserver(measure);
    sizes.observe(host);
    countLive('listeners', 1);
    // A window that goes to another screen changes its pixel ratio without a resize. A query holds for one ratio, so each change asks for the next.
    let unwatch = () => {};
    const watchRatio = () => {
      unwatch();
      unwatch = listen(matchMedia(`(resolution: ${window.devicePixelRatio || 1}dppx)`), 'change', () => {
        measure();
        watchRatio();
      });
    };
    watchRatio();
    // Some browsers say nothing of it: a map that is drawn looks for itself.
    frames.listen({
      drawn: () => {
        if (context.state.ratio !== (window.devicePixelRatio || 1)) measure();
      },
    });
    return [
      () => {
        sizes.disconnect();
        countLive('listeners', -1);
        unwatch();
      },
      listen(window, 'resize', measure),
    ];
  }

  /** Takes up drawing again after the browser took the graphics context away. */
  private watchContext(): (() => void)[] {
    const { context, frames, sources } = this.tools;
    return [
      listen(context.canvas, 'webglcontextlost', (event: Event) => {
        event.preventDefault();
        if (context.removed) return;
        sources.dropBuffers();
        frames.painter.end();
      }),
      listen(context.canvas, 'webglcontextrestored', () => {
        frames.begin();
        sources.rebuild();
        context.invalidate('ground', true);
      }),
    ];
  }

  /** Sets texts anew when fonts of the page arrive. */
  private watchFonts(): (() => void)[] {
    return [listen(document.fonts, 'loadingdone', () => this.tools.frames.painter.resetTexts())];
  }

  /** Puts a copy of the map on paper: what a graphics context shows is gone when the browser comes to print it. */
  private watchPrint(): (() => void)[] {
    const { context, frames } = this.tools;
    let copy: HTMLCanvasElement | undefined;
    const clear = () => {
      copy?.remove();
      copy = undefined;
    };
    return [
      listen(window, 'beforeprint', () => {
        clear();
        const { canvas } = context;
        if (!canvas.width || !canvas.height) return;
        frames.paintNow();
        copy = document.createElement('canvas');
        Object.assign(copy, { className: 'flint-print', width: canvas.width, height: canvas.height });
        copy.getContext('2d')!.drawImage(canvas, 0, 0);
        canvas.after(copy);
      }),
      listen(window, 'afterprint', clear),
      clear,
    ];
  }

  /** Looks again what the pointer stands over, after the sheet has changed. */
  lookAgain(): void {
    const { context } = this.tools;
    queueMicrotask(() => {
      if (!context.removed) this.pointer.again();
    });
  }

  /** The features at a pixel, topmost first. */
  pick(point: readonly [number, number], options: PickOptions = {}): PickedFeature[] {
    const { context, sources, clusterLayers } = this.tools;
    const marks = clusterLayers.pick(context.camera, point[0], point[1], options.layers);
    const layers = context.state.sheet.layers.filter(({ clustered }) => !clustered);
    return [...marks, ...pickAt(point, options, { context, sources, layers })];
  }

  /** Sets or clears a state of a feature. @throws Fault `flag.key` */
  flag(feature: FeatureName, state: string, on: boolean): void {
    const { context, sources, clusterLayers, silent } = this.tools;
    if (!context.states.set(feature, state, on)) return;
    const { data, from = '', key } = feature;
    if (on && !context.busy) silent.stateless(feature, state);
    if (key !== undefined) sources.tileStore(data)?.restate(from, new Set([key]));
    clusterLayers.forget();
    // Labels have states too.
    context.invalidate('ground', true);
  }

  /** Has the clusters of a layer be elements of the page; returns what takes them off again. */
  dressClusters(layer: string, make: (cluster: PickedCluster) => HTMLElement): () => void {
    const { context, clusterLayers } = this.tools;
    const off = clusterLayers.dress(layer, make, (cluster, event) => this.pointer.pressCluster(cluster, event));
    context.invalidate('ground', true);
    return () => {
      off();
      if (!context.removed) context.invalidate('ground', true);
    };
  }

  /** Tells of features that an application names and that are not there. */
  async checkThere(features: readonly FeatureName[]): Promise<void> {
    const { context, sources, silent } = this.tools;
    const byData = new Map<string, FeatureName[]>();
    for (const feature of features) if (!byData.get(feature.data)?.push(feature)) byData.set(feature.data, [feature]);
    for (const [data, named] of byData) {
      const keys = named.flatMap(({ key }) => (key === undefined ? [] : [key]));
      if (!keys.length || sources.stateOf(data) !== 'ready') continue;
      try {
        const missing = await sources.missingKeys(data, keys);
        if (missing.length && !context.removed) silent.missing(data, missing);
      } catch (error) {
        // The data may have gone meanwhile; whatever else it is is told.
        if (!context.removed && sources.stateOf(data) === 'ready')
          context.report(asFault(error, 'flag.check', 'Please report this.'));
      }
    }
  }

  /** Shows what a cluster holds: frames its members, or fans out those that share one place. */
  private async openCluster({ layer, node }: PickedCluster): Promise<void> {
    const { context, sources, clusterLayers, views } = this.tools;
    const index = sources.clustersOf(layer)?.index;
    if (!index) return;
    const split = index.splitLevel(node.id);
    if (split === undefined) {
      clusterLayers.fan({ layer, node });
      context.invalidate('ground', true);
      return;
    }
    const zoom = Math.max(split + 0.4, context.state.view.zoom + 1);
    await views.frame({ bounds: index.boundsOf(node.id) }, { padding: 90, zoom });
  }

  remove(): void {
    for (const stop of this.off) stop();
    this.pointer.remove();
    this.hint?.remove();
    this.keyboard.remove();
  }
}
