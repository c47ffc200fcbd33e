import { Fault } from '@flintwright/core';
import { Camera } from '@flintwright/core/internal';
import type { MapState } from '../base/map-context.js';

/** Changes that handlers may make in answer to one change, and to those, before it is taken for a circle. */
const mostAnswers = 100;

/**
 * Holds the state of a map, and is the one way to change it. A handler that is told of a change may change the map again: that holds at
 * once, and is told of when all have heard of the change before.
 */
export class StateStore {
  private made: Camera | undefined;
  private readonly untold: [before: MapState, now: MapState][] = [];
  private telling = false;

  private readonly listeners: ((before: MapState, now: MapState) => void)[] = [];

  constructor(private state: MapState) {}

  /** Tells of every change that changes something. */
  listen(changed: (before: MapState, now: MapState) => void): void {
    this.listeners.push(changed);
  }

  get now(): MapState {
    return this.state;
  }

  /** Made once for each view, surface and size. */
  get camera(): Camera {
    const { view, size, surface } = this.state;
    return (this.made ??= new Camera(view, surface, {
      width: Math.max(1, size.width),
      height: Math.max(1, size.height),
    }));
  }

  /** @throws Fault `map.circle` where handlers answer every change by another */
  update(change: Partial<MapState>): void {
    const before = this.state;
    if ((Object.keys(change) as (keyof MapState)[]).every((key) => before[key] === change[key])) return;
    const now = (this.state = { ...before, ...change });
    if (before.view !== now.view || before.size !== now.size || before.surface !== now.surface) this.made = undefined;
    this.untold.push([before, now]);
    if (!this.telling) this.tell();
  }

  private tell(): void {
    this.telling = true;
    try {
      for (let told = 0; this.untold.length; told++) {
        if (told === mostAnswers)
          throw new Fault(
            'map.circle',
            `event handlers of the map answered ${told} changes by another one each`,
            'In the handler, change the map only if it differs from the intended state.',
          );
        const [before, now] = this.untold.shift()!;
        for (const changed of this.listeners) changed(before, now);
      }
    } finally {
      this.untold.length = 0;
      this.telling = false;
    }
  }
}
