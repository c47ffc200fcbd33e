import { asFault, type View } from '@flintwright/core';
import type { Clusters } from '../clusters/clusters.js';
import type { Graphics } from '../gl/graphics.js';
import type { Sources } from '../load/sources.js';
import type { Markers } from '../markers/markers.js';
import type { Obstacles } from '../overlay/obstacles.js';
import type { Context } from './context.js';
import type { FrameEnd, FrameLoopHost } from './frame-loop.js';
import { Painter, type FrameScene } from './painter.js';
import type { SurfaceControl } from './surface-control.js';
import type { ViewAnimation } from './view-animation.js';

/** Parts of a frame. */
export interface FramesTools {
  readonly context: Context;
  readonly graphics: Graphics;
  readonly sources: Sources;
  readonly clusterLayers: Clusters;
  readonly markers: Markers;
  readonly obstacles: Obstacles;
  readonly surfaces: SurfaceControl;
  readonly animation: ViewAnimation;
}

/** News of a frame. */
export interface FrameListener {
  /** A frame has been drawn. `moved` tells whether its view differs from that of the frame before. */
  drawn?(moved: boolean): void;
  /** Nothing is loading, moving or fading any more. */
  settled?(): void;
}

/** When to draw, and the scene of a frame. */
export class Frames implements FrameLoopHost {
  /** CPU time of the last frame in milliseconds, and how many draw calls it made. */
  readonly last = { cpu: 0, calls: 0 };
  readonly painter: Painter;
  private readonly listeners: FrameListener[] = [];
  private lastView: View | undefined;
  private awaitsFonts = false;

  constructor(private readonly tools: FramesTools) {
    this.painter = new Painter(tools);
    // A graphics context takes its time: what is to be fetched is asked for ahead of it.
    tools.graphics.first = () => this.begin();
  }

  listen(listener: FrameListener): void {
    this.listeners.push(listener);
  }

  get isLoading(): boolean {
    const { context, surfaces, sources } = this.tools;
    const { isFilling } = this.painter;
    return context.busy || surfaces.busy || sources.loading || isFilling || document.fonts.status === 'loading';
  }

  /** Takes up drawing, first or after a lost context. */
  begin(): void {
    const { context, graphics } = this.tools;
    graphics.first = undefined;
    try {
      this.painter.begin();
    } catch (error) {
      context.reportLater(asFault(error, 'gl.failed', 'Try another browser.'));
    }
  }

  draw(time: number, elapsed: number): FrameEnd {
    const { context, animation, graphics } = this.tools;
    graphics.wake();
    const began = performance.now();
    animation.step(time);
    if (context.removed) return 'rest';
    const { painter, isLoading } = this;
    const { camera, stale } = context;
    const moved = camera.view !== this.lastView;
    painter.paint(this.scene(moved), elapsed, false);
    this.lastView = camera.view;
    for (const listener of this.listeners) listener.drawn?.(moved);
    context.elements.loading(isLoading);
    this.last.cpu = performance.now() - began;
    this.last.calls = painter.calls;
    if (animation.active || moved || painter.moving) {
      // Labels are placed once more when a movement has ended.
      stale.labels ||= moved && !animation.active;
      return 'more';
    }
    const { width, height } = context.state.size;
    // Labels are placed at most every 90 milliseconds; those that are due wait for their turn.
    if (stale.labels && graphics.device && width && height) return 'more';
    if (!this.isLoading) return 'rest';
    this.awaitFonts();
    return 'loading';
  }

  /** Looks after fonts until their state says that they are there: some browsers tell of it before, and then no more. */
  private awaitFonts(): void {
    if (this.awaitsFonts || document.fonts.status !== 'loading') return;
    this.awaitsFonts = true;
    const { context } = this.tools;
    const look = () => {
      this.awaitsFonts = false;
      if (context.removed) return;
      if (document.fonts.status === 'loading') this.awaitFonts();
      else context.invalidate('overlay');
    };
    setTimeout(look, 100);
  }

  settled(): boolean {
    for (const listener of this.listeners) listener.settled?.();
    if (this.isLoading) {
      this.awaitFonts();
      return false;
    }
    const { context } = this.tools;
    context.emit('settled', context.state.view);
    return true;
  }

  /** Paints at once what the map shows now, whatever fades held where it is. */
  paintNow(): void {
    this.tools.graphics.wake();
    this.painter.paint(this.scene(false), 0);
  }

  /** Lets what the map shows now fade, over some milliseconds, into what comes. */
  fade(duration: number): void {
    const { context } = this.tools;
    if (duration > 0 && !context.reducedMotion && !document.hidden) this.painter.keep(this.scene(false), duration);
  }

  private scene(moved: boolean): FrameScene {
    const { context, surfaces } = this.tools;
    const { size, ratio, sheet } = context.state;
    return {
      camera: context.camera,
      size,
      ratio,
      sheet,
      moved,
      ground: surfaces.ground,
      loading: this.isLoading,
      still: context.reducedMotion,
      dark: context.elements.isDark,
    };
  }
}
