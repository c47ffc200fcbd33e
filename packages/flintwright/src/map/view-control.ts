import { Fault, vertexRange, type View, type ViewChange } from '@flintwright/core';
import { changeView, fitView } from '@flintwright/core/internal';
import type { Sources } from '../load/sources.js';
import type { Obstacles } from '../overlay/obstacles.js';
import type { Context } from './context.js';
import { placesOf } from './fit.js';
import type { Layers } from './layers.js';
import type { FrameOptions, FrameTarget } from './options.js';
import { check } from './option-tables.js';
import type { Arrival, MoveOptions, ViewAnimation } from './view-animation.js';

/** Tools of movements. */
export interface ViewControlTools {
  readonly context: Context;
  readonly animation: ViewAnimation;
  readonly obstacles: Obstacles;
  readonly sources: Sources;
  readonly layers: Layers;
}

/** Movements of the view: to a place, to show something, and back to the first view. */
export class ViewControl {
  constructor(private readonly tools: ViewControlTools) {}

  /** The view that a movement under way leads to; the present one where there is none. */
  get goal(): View {
    return this.tools.animation.goal ?? this.tools.context.state.view;
  }

  /** Changes the view at once, ending any movement under way. */
  steer(change: ViewChange): void {
    const { context, animation } = this.tools;
    animation.stop();
    context.update({ view: changeView(context.state.view, change, context.state.limits) });
  }

  /** @throws Fault `option.*`, `view.number` or `place.*` */
  move(change: ViewChange, options: MoveOptions): Promise<Arrival> {
    check.view('map.move', change);
    check.move('map.move', options);
    const { view, limits } = this.tools.context.state;
    return this.moveTo(changeView(view, change, limits), options);
  }

  async frame(target: FrameTarget, options: FrameOptions = {}): Promise<Arrival> {
    check.frame(options);
    const { padding = 40, zoom = 18, duration = 600, ...rest } = options;
    const { context, obstacles } = this.tools;
    const places = await placesOf(target, context.state.surface.space, (layer) => this.boundsOf(layer));
    if (!places.length) throw new Fault('frame.empty', 'there is nothing to frame', 'Give at least one place.');
    const { view, surface, size, limits } = context.state;
    const room = obstacles.within(padding);
    const next = fitView(view, surface, size, places, room, Math.min(zoom, limits.zoom[1]));
    return this.moveTo(changeView(view, next, limits), { duration, ...rest });
  }

  home(options: MoveOptions): Promise<Arrival> {
    check.move('map.home', options);
    return this.moveTo(this.tools.context.state.home, { duration: 600, ...options });
  }

  private moveTo(to: View, options: MoveOptions): Promise<Arrival> {
    const { context, animation } = this.tools;
    const { size, view, surface } = context.state;
    const atOnce = context.reducedMotion || !size.width || !size.height || document.hidden;
    return animation.start(view, to, surface, size, { ...options, duration: atOnce ? 0 : (options.duration ?? 0) });
  }

  /** Bounds of what a layer shows, once its data has been opened; of tiles, those of all the data. */
  private async boundsOf(layer: string): Promise<readonly [number, number, number, number] | undefined> {
    const { context, layers, sources } = this.tools;
    const data = layers.require(layer).of.split('/')[0];
    await context.loop.until(() => sources.isOpened(data));
    const source = sources.tileStore(data)?.source;
    const where = context.state.sheet.layers.find(({ id }) => id === layer)?.where;
    const filtered = where !== undefined || context.filters.of(layer) !== undefined;
    if (!source?.features || !filtered) return source?.bounds;
    const block = await sources.featuresOf(data);
    const passes = where?.bind({ block, zoom: context.state.view.zoom });
    let [west, south, east, north] = [Infinity, Infinity, -Infinity, -Infinity];
    for (let f = 0; f < block.count; f++) {
      if ((passes && passes(f) !== true) || !context.filters.shows(layer, block, f)) continue;
      const [from, to] = vertexRange(block, f);
      for (let v = from; v < to; v++) {
        const [x, y] = [block.coords[2 * v], block.coords[2 * v + 1]];
        [west, east] = [Math.min(west, x), Math.max(east, x)];
        [south, north] = [Math.min(south, y), Math.max(north, y)];
      }
    }
    if (west <= east) return [west, south, east, north];
    throw new Fault(
      'frame.filtered',
      `layer "${layer}" shows nothing: none of its ${block.count} features passes its filter`,
      'Loosen the filter, or frame its data by their bounds.',
    );
  }
}
