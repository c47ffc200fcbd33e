// Room "input": what people do to the map by pointer, wheel and keys, and what they find there.
import { listen } from '../base/live-counts.js';
import type { GestureTools } from './gesture-tools.js';
import { Keys } from './keys.js';
import { pixelOf } from './pan-zoom.js';
import { PointerGestures } from './pointer-gestures.js';
import { Wheel } from './wheel.js';

/** Turns pointers, the wheel and keys into changes of the view. Returns what takes all of it off again. */
export function attachGestures(tools: GestureTools): () => void {
  const { canvas } = tools.context;
  const pointers = new PointerGestures(tools);
  const wheel = new Wheel(tools);
  const keys = new Keys(tools);
  // The page keeps its own way with one finger.
  if (tools.shared) canvas.style.touchAction = 'pan-x pan-y';
  const off = [
    listen(canvas, 'pointerdown', (event: PointerEvent) => pointers.down(event)),
    listen(canvas, 'pointermove', (event: PointerEvent) => pointers.move(event)),
    listen(canvas, 'pointerup', (event: PointerEvent) => pointers.up(event)),
    listen(canvas, 'pointercancel', (event: PointerEvent) => pointers.up(event)),
    listen(canvas, 'pointerleave', (event: PointerEvent) => pointers.leave(event)),
    listen(
      canvas,
      'wheel',
      (event: WheelEvent) => {
        pointers.stop();
        wheel.turn(event);
      },
      { passive: false },
    ),
    listen(canvas, 'keydown', (event: KeyboardEvent) => {
      if (keys.press(event)) pointers.stop();
    }),
    listen(canvas, 'contextmenu', (event: PointerEvent) => {
      event.preventDefault();
      // The map tells of its own; that of a mouse comes with its button, and that of the keyboard with its key.
      event.stopPropagation();
      if (event.pointerType === 'touch' || event.pointerType === 'pen')
        tools.more('contextmenu', pixelOf(event, canvas), event);
    }),
  ];
  return () => {
    pointers.stop();
    wheel.stop();
    for (const stop of off) stop();
  };
}
