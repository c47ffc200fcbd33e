import type { View, ViewChange } from '@flintwright/core';
import type { MapContext } from '../base/map-context.js';
import type { Drag } from '../markers/marker-element.js';

/** Tools of gestures. */
export interface GestureTools {
  readonly context: MapContext;
  /** Whether the map rests only at whole zoom levels. */
  readonly wholeLevels: boolean;
  /** Whether wheel and single finger are the page's. */
  readonly shared: boolean;
  /** Says how the map is moved where the page has the gesture. */
  hint(kind: 'wheel' | 'finger'): void;
  /** Changes the view at once, ending any movement under way. */
  steer(change: ViewChange): void;
  /** Glides to a change over some milliseconds. */
  glide(change: ViewChange, duration: number): void;
  home(): void;
  /** The view that a glide under way leads to; the present one where there is none. */
  goal(): View;
  press(point: [number, number], event: Event): void;
  /** Two presses, or the other button; false when nothing more is to be done. */
  more(type: 'dblpress' | 'contextmenu', point: [number, number], event: Event): boolean;
  hover(point: [number, number] | undefined, event: Event): void;
  /** Takes hold of what can be dragged at a pixel; undefined where the map itself is. */
  grab(point: [number, number]): Drag | undefined;
}

/** A zoom held within the limits of the map. */
export function withinLimits({ context }: GestureTools, zoom: number): number {
  const [least, greatest] = context.state.limits.zoom;
  return Math.max(least, Math.min(greatest, zoom));
}
