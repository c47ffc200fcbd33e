import type { Sheet } from '@flintwright/core';
import { changeView, defaultLimits, findPlainSurface, webMercator } from '@flintwright/core/internal';
import { LatePart } from '../base/late-part.js';
import { compileNow } from '../base/late-reading.js';
import type { MapState } from '../base/map-context.js';
import { partsOf, writtenSheet } from '../base/sheet-parts.js';
import { Clusters } from '../clusters/clusters.js';
import { Graphics } from '../gl/graphics.js';
import { HostsTried } from '../load/request.js';
import { Sources } from '../load/sources.js';
import { Markers } from '../markers/markers.js';
import { Legends } from '../overlay/legend.js';
import { Obstacles } from '../overlay/obstacles.js';
import { Popups } from '../overlay/popups.js';
import { WorkerPool } from '../worker/pool.js';
import { Bookmarks } from './bookmarks.js';
import { Context } from './context.js';
import { Frames } from './frames.js';
import { Interaction } from './interaction.js';
import { Layers } from './layers.js';
import { MapIcons } from './map-icons.js';
import type { MapOptions } from './options.js';
import { Permalink, readPermalink } from './permalink.js';
import { SheetControl } from './sheet-control.js';
import { SilentFaults } from './silent-faults.js';
import { limitsOf, SurfaceControl } from './surface-control.js';
import { ViewAnimation } from './view-animation.js';
import { ViewControl } from './view-control.js';

const emptySheet: Sheet = { sheet: 1, layers: [] };

/** The state that a map begins with. @throws SheetFault */
function firstState(host: HTMLElement, sheet: Sheet, options: MapOptions): MapState {
  const surface = findPlainSurface(sheet.view?.surface) ?? webMercator;
  const limits = { ...defaultLimits, ...limitsOf(sheet.view?.surface), ...sheet.view?.limits, ...options.limits };
  const nowhere = { center: surface.home, zoom: 1, bearing: 0, tilt: 0 };
  const home = changeView(nowhere, { ...sheet.view, ...options.view }, limits);
  const kept = options.permalink ? readPermalink(location.hash) : undefined;
  return {
    view: kept ? changeView(home, kept, limits) : home,
    home,
    limits,
    size: { width: host.clientWidth, height: host.clientHeight },
    ratio: window.devicePixelRatio || 1,
    parts: partsOf(sheet),
    sheet: compileNow(sheet),
    surface,
  };
}

/** The parts of one map, each made of those before it. */
export type MapParts = ReturnType<typeof makeParts>;

/**
 * Makes the parts of a map and ties them together.
 *
 * @param host the element that the map stands in
 * @param target where the map's events are told
 * @param options of the map
 * @param hears whether the application listens to an event
 * @throws SheetFault for a sheet given in place that is not sound
 */
export function makeParts(
  host: HTMLElement,
  target: EventTarget,
  options: MapOptions,
  hears: (type: string) => boolean,
) {
  const base = document.baseURI;
  const sheet = typeof options.sheet === 'object' ? options.sheet : emptySheet;
  const state = firstState(host, sheet, options);
  const context = new Context(host, target, options, options.title ?? sheet.title ?? 'Map', state);
  const animation = new ViewAnimation(context);
  const graphics = new Graphics(context.canvas, context.icons, {
    heat: new LatePart(context, () => import('../gl/heat.js')),
    figures: new LatePart(context, () => import('../gl/figure-brush.js')),
    texts: new LatePart(context, () => import('../gl/text-atlas.js')),
  });
  const silent = new SilentFaults(context);
  const pool = new WorkerPool(
    Math.max(1, Math.min(4, (navigator.hardwareConcurrency || 2) - 1)),
    (fault) => context.reportLater(fault),
    options.worker,
  );
  const hosts = new HostsTried();
  const hook = options.request && hosts.noting(options.request);
  const surfaces = new SurfaceControl(context, pool, animation, sheet.view?.surface);
  const sources = new Sources({
    context,
    pool,
    graphics,
    base,
    hook,
    files: options.files ?? {},
    tileMemory: (options.tileMemory ?? 256) * 2 ** 20,
    gridOf: (spec) => surfaces.gridOf(spec),
    tilesInView: (camera, span, zooms, grid) => surfaces.tilesInView(camera, span, zooms, grid),
  });
  surfaces.watch(sources);
  const obstacles = new Obstacles(host, context, () => context.invalidate('overlay', true));
  const markers = new Markers(context);
  const clusterLayers = new Clusters(context, sources);
  const popups = new Popups(context);
  const legends = new Legends(
    context,
    (data) => sources.joinReport(data),
    (data) => sources.isEmpty(data),
  );
  const frames = new Frames({
    context,
    graphics,
    sources,
    clusterLayers,
    markers,
    obstacles,
    surfaces,
    animation,
  });
  const tools = {
    context,
    options,
    hook,
    base,
    pool,
    sources,
    clusterLayers,
    surfaces,
    frames,
    silent,
  };
  const sheets = new SheetControl(tools, partsOf(emptySheet));
  const layers = new Layers(sheets);
  const icons = new MapIcons(sheets, context.icons);
  const views = new ViewControl({ context, animation, obstacles, sources, layers });
  const bookmarks = new Bookmarks(context, views);
  const interaction = new Interaction({
    context,
    options,
    graphics,
    sources,
    clusterLayers,
    markers,
    popups,
    frames,
    views,
    silent,
    hears,
  });
  const permalink = new Permalink();
  return {
    context,
    animation,
    graphics,
    pool,
    surfaces,
    sources,
    obstacles,
    markers,
    clusterLayers,
    popups,
    legends,
    frames,
    sheets,
    layers,
    icons,
    views,
    bookmarks,
    interaction,
    permalink,
    silent,
    hosts,
  };
}

/** Has the parts told of what concerns them. */
export function connect(parts: MapParts, options: MapOptions): void {
  const { context, frames, sources, markers, popups, legends, interaction, permalink } = parts;
  context.icons.listen((name) => {
    parts.graphics.renderer?.sprites.put(name);
    legends.update(true);
    context.invalidate('ground', true);
  });
  void context.icons.begin()?.finally(context.begin());
  context.recolors.push(() => parts.sheets.recolor());
  // The state began with the colors of the day.
  if (context.elements.isDark) parts.sheets.recolor();
  frames.listen({
    settled: () => {
      parts.silent.outside(parts.sources.bounds);
      parts.hosts.faults().forEach((fault) => context.report(fault));
    },
    drawn: () => {
      markers.follow(context.camera);
      parts.clusterLayers.followElements(context.camera);
      popups.follow(context.camera);
    },
  });
  sources.listen({
    opened: () => {
      // Tiles are asked for at once, not with the next frame.
      sources.settle(context.camera);
      context.elements.credits(sources.credits);
      legends.update();
    },
    turned: () => legends.update(),
  });
  context.store.listen((before, now) => {
    const zoomed = Math.floor(before.view.zoom * 4) !== Math.floor(now.view.zoom * 4);
    if (before.sheet !== now.sheet || zoomed) legends.update();
    if (before.sheet !== now.sheet) context.emit('sheetchange', writtenSheet(now.parts));
    if (before.view !== now.view) {
      context.emit('viewchange', now.view);
      if (options.permalink) permalink.keep(() => context.state.view);
    }
    if (before.sheet !== now.sheet) interaction.lookAgain();
    context.invalidate('ground', before.sheet !== now.sheet);
  });
}

/** Milliseconds that the first frame waits for what is to be drawn, at most. */
const headStart = 150;

/** Resolves when the workers have started and the data has been opened that were asked for, or soon in any case. */
export async function firstThings({ pool, sources }: MapParts): Promise<void> {
  await Promise.race([
    Promise.allSettled([...pool.starting, ...sources.opening]),
    new Promise((resolve) => setTimeout(resolve, headStart)),
  ]);
}

/** Takes a map's parts off the page, and gives back everything that they hold. */
export function removeParts(parts: MapParts): void {
  parts.context.close();
  parts.permalink.remove();
  parts.animation.stop();
  parts.sheets.remove();
  parts.interaction.remove();
  parts.popups.remove();
  parts.markers.end();
  parts.clusterLayers.remove();
  parts.obstacles.remove();
  parts.legends.remove();
  parts.sources.remove();
  parts.pool.remove();
  parts.frames.painter.end();
  parts.graphics.remove();
  parts.context.remove();
}
