import type { GestureTools } from './gesture-tools.js';
import { draggedView, middleOf } from './held-ground.js';

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
    // Presses in quick succession add up.
    const view = goal();
    const middle = middleOf(camera);
    const duration = reducedMotion ? 0 : 180;
    const pan = (dx: number, dy: number) =>
      glide({ center: draggedView(camera, middle, [middle[0] + dx, middle[1] + dy]).center }, duration);
    const arrow = (change: { bearing?: number; tilt?: number }, dx: number, dy: number) => () => {
      if (event.shiftKey) glide(change, duration);
      else pan(dx, dy);
    };
    const zoomIn = () => glide({ zoom: Math.floor(view.zoom + 1.001) }, duration);
    const far = Math.min(size.width, size.height) / 4;
    const acts: Record<string, () => void> = {
      ArrowLeft: arrow({ bearing: view.bearing - turnStep }, far, 0),
      ArrowRight: arrow({ bearing: view.bearing + turnStep }, -far, 0),
      ArrowUp: arrow({ tilt: view.tilt + tiltStep }, 0, far),
      ArrowDown: arrow({ tilt: view.tilt - tiltStep }, 0, -far),
      '+': zoomIn,
      '=': zoomIn,
      '-': () => glide({ zoom: Math.ceil(view.zoom - 1.001) }, duration),
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
