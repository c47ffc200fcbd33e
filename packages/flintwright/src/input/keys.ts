import type { ViewChange } from '@flintwright/core';
import { Camera } from '@flintwright/core/internal';
import type { GestureTools } from './gesture-tools.js';
import { draggedView, middleOf } from './pan-zoom.js';

/** Degrees of one step by key. */
const turnStep = 20;
const tiltStep = 12;

/** Keys on the map: arrows move it, with Shift they turn and tilt it, plus and minus zoom, Home leads back to the first view. */
export class Keys {
  constructor(private readonly tools: GestureTools) {}

  /** Does what a key stands for; false for a key that stands for nothing here. */
  press(event: KeyboardEvent): boolean {
    const { context, glide, goal, home, more, press } = this.tools;
    if (event.target !== context.canvas || event.altKey || event.metaKey || event.ctrlKey) return false;
    const { camera, reducedMotion } = context;
    const { size } = camera;
    // Presses in quick succession add up, whatever each of them changes.
    const view = goal();
    const middle = middleOf(camera);
    const duration = reducedMotion ? 0 : 180;
    const { center, zoom, bearing, tilt } = view;
    const onward = (change: ViewChange) => glide({ center, zoom, bearing, tilt, ...change }, duration);
    const there = view === camera.view ? camera : new Camera(view, camera.surface, size);
    const pan = (dx: number, dy: number) =>
      onward({ center: draggedView(there, middle, [middle[0] + dx, middle[1] + dy]).center });
    const arrow = (change: { bearing?: number; tilt?: number }, dx: number, dy: number) => () => {
      if (event.shiftKey) onward(change);
      else pan(dx, dy);
    };
    const zoomIn = () => onward({ zoom: Math.floor(zoom + 1.001) });
    const far = Math.min(size.width, size.height) / 4;
    const acts: Record<string, () => void> = {
      ArrowLeft: arrow({ bearing: bearing - turnStep }, far, 0),
      ArrowRight: arrow({ bearing: bearing + turnStep }, -far, 0),
      ArrowUp: arrow({ tilt: tilt + tiltStep }, 0, far),
      ArrowDown: arrow({ tilt: tilt - tiltStep }, 0, -far),
      '+': zoomIn,
      '=': zoomIn,
      '-': () => onward({ zoom: Math.ceil(zoom - 1.001) }),
      Home: () => home(),
      Enter: () => press(middle, event),
      ContextMenu: () => void more('contextmenu', middle, event),
    };
    const act = Object.hasOwn(acts, event.key) ? acts[event.key] : undefined;
    if (!act) return false;
    event.preventDefault();
    act();
    return true;
  }
}
