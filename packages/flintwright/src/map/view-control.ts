import { Fault, type View, type ViewChange } from '@flintwright/core';
import { changeView, fitView } from '@flintwright/core/internal';
import type { Sources } from '../load/sources.js';
import type { Obstacles } from '../overlay/obstacles.js';
import type { Context } from './context.js';
import { placesOf } from './fit.js';
import type { Layers } from './layers.js';
import type { FrameOptions, FrameTarget } from './options.js';
import type { MoveOptions, ViewAnimation } from './view-animation.js';

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

  /** Changes the view at once, ending any movement under way. */
  steer(change: ViewChange): void {
    const { context, animation } = this.tools;
    animation.stop();
    context.update({ view: changeView(context.state.view, change, context.state.limits) });
  }

  move(change: ViewChange, options: MoveOptions): Promise<void> {
    const { view, limits } = this.tools.context.state;
    return this.moveTo(changeView(view, change, limits), options);
  }

  async frame(
    target: FrameTarget,
    { padding = 40, zoom = 18, duration = 600, ...rest }: FrameOptions = {},
  ): Promise<void> {
    const { context, obstacles } = this.tools;
    const places = await placesOf(target, context.state.surface.space, (layer) => this.boundsOf(layer));
    if (!places.length) throw new Fault('frame.empty', 'there is nothing to frame', 'Give at least one place.');
    const { view, surface, size, limits } = context.state;
    const room = obstacles.within(padding);
    const next = fitView(view, surface, size, places, room, Math.min(zoom, limits.zoom[1]));
    await this.moveTo(changeView(view, next, limits), { duration, ...rest });
  }

  home(options: MoveOptions): Promise<void> {
    return this.moveTo(this.tools.context.state.home, { duration: 600, ...options });
  }

  private moveTo(to: View, options: MoveOptions): Promise<void> {
    const { context, animation } = this.tools;
    const { size, view, surface } = context.state;
    const atOnce = context.reducedMotion || !size.width || !size.height || document.hidden;
    return animation.start(view, to, surface, size, { ...options, duration: atOnce ? 0 : (options.duration ?? 0) });
  }

  /** Bounds of the data that a layer draws, once it has been opened. */
  private async boundsOf(layer: string): Promise<readonly [number, number, number, number] | undefined> {
    const { context, layers, sources } = this.tools;
    const data = layers.require(layer).of.split('/')[0];
    await context.loop.until(() => sources.isOpened(data));
    return sources.tileStore(data)?.source.bounds;
  }
}
