import type { ViewChange } from '@flintwright/core';
import type { MapContext } from '../base/map-context.js';
import type { Drag } from '../markers/marker-element.js';

/** Tools of gestures. */
export interface GestureTools {
  readonly context: MapContext;
  /** Whether the map rests only at whole zoom levels. */
  readonly wholeLevels: boolean;
  /** Changes the view at once, ending any movement under way. */
  steer(change: ViewChange): void;
  /** Glides to a change over some milliseconds. */
  glide(change: ViewChange, duration: number): void;
  home(): void;
  press(point: [number, number], event: Event): void;
  hover(point: [number, number] | undefined): void;
  /** Takes hold of what can be dragged at a pixel; undefined where the map itself is. */
  grab(point: [number, number]): Drag | undefined;
}

/** A zoom held within the limits of the map. */
export function withinLimits({ context }: GestureTools, zoom: number): number {
  const [least, greatest] = context.state.limits.zoom;
  return Math.max(least, Math.min(greatest, zoom));
}
