import type { MapContext } from '../base/map-context.js';
import type { Easing, Surface, View } from '@flintwright/core';
import { viewPath, easings, type Size } from '@flintwright/core/internal';

export interface MoveOptions {
  /** Duration in milliseconds; default 0, immediate. Always immediate if the reader prefers reduced motion. */
  readonly duration?: number;
  /** `linear`, `ease-out`, `ease-in-out` (the default) or a function from 0–1 to 0–1. */
  readonly easing?: Easing;
  /** Stops the movement at the current view; the promise then rejects with the signal's reason. */
  readonly signal?: AbortSignal;
}

/** Result of a movement. */
export interface Arrival {
  /** Whether the movement reached its target; false if another movement or the reader interrupted it. */
  readonly arrived: boolean;
}

interface Running {
  readonly at: (t: number) => View;
  readonly goal: View;
  readonly easing: (t: number) => number;
  readonly duration: number;
  started: number | undefined;
  finish(ended: Arrival | { readonly reason: unknown }): void;
}

/** Movements of the view: at most one at a time; a new one, or a hand on the map, ends the one before. */
export class ViewAnimation {
  private running: Running | undefined;

  constructor(private readonly context: MapContext) {}

  get active(): boolean {
    return this.running !== undefined;
  }

  /** Where what is under way leads. */
  get goal(): View | undefined {
    return this.running?.goal;
  }

  start(
    from: View,
    to: View,
    surface: Surface,
    size: Size,
    { duration = 0, easing = 'ease-in-out', signal }: MoveOptions,
  ): Promise<Arrival> {
    this.stop();
    if (signal?.aborted) return Promise.reject(signal.reason as Error);
    if (!(duration > 0)) {
      this.context.update({ view: to });
      return Promise.resolve({ arrived: true });
    }
    return new Promise((resolve, reject) => {
      const aborted = () => this.end({ reason: signal!.reason });
      signal?.addEventListener('abort', aborted);
      this.running = {
        at: viewPath(from, to, surface, size),
        goal: to,
        easing: typeof easing === 'function' ? easing : easings[easing],
        duration,
        started: undefined,
        finish: (ended) => {
          signal?.removeEventListener('abort', aborted);
          if ('arrived' in ended) resolve(ended);
          else reject(ended.reason);
        },
      };
      this.context.invalidate('ground');
    });
  }

  /** Takes what is under way to another surface, where views have other numbers. */
  carry(over: (view: View) => View): void {
    const { running } = this;
    if (running) this.running = { ...running, at: (t) => over(running.at(t)), goal: over(running.goal) };
  }

  /** Moves on to the time of a frame. */
  step(now: number): void {
    const { running } = this;
    if (!running) return;
    running.started ??= now;
    const t = Math.min(1, (now - running.started) / running.duration);
    this.context.update({ view: running.at(t >= 1 ? 1 : running.easing(t)) });
    if (t >= 1 && this.running === running) this.end({ arrived: true });
  }

  /** Ends what is under way where it stands; its promise tells so, since being overtaken is no error. */
  stop(): void {
    this.end({ arrived: false });
  }

  private end(how: Arrival | { readonly reason: unknown }): void {
    const { running } = this;
    this.running = undefined;
    running?.finish(how);
  }
}
