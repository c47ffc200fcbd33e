import type { View, ViewChange } from '@flintwright/core';
import { changeView } from '@flintwright/core/internal';
import { fetchPart } from '../base/fetch-part.js';
import type { FrameOptions, FrameTarget } from './options.js';
import { check } from './option-tables.js';
import type { Arrival, MoveOptions } from './view-animation.js';
import type { ViewControlTools } from './view-tools.js';

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
    const { context } = this.tools;
    // What finds the view is fetched when something is first framed; whoever waits for the map to settle waits for it.
    const end = context.begin();
    const { viewShowing } = await fetchPart(() => import('./framing.js')).finally(() => {
      end();
      if (!context.removed) context.invalidate('overlay');
    });
    const to = await viewShowing(target, options, this.tools);
    if (context.removed) return { arrived: false };
    return this.moveTo(to, { duration: 600, ...options });
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
}
