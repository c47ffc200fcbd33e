// Room "input": what people do to the map by pointer, wheel and keys, and what they find there.
import { listen } from '../base/live-counts.js';
import type { GestureTools } from './gesture-tools.js';
import { Keys } from './keys.js';
import { PointerGestures } from './pointer-gestures.js';
import { Wheel } from './wheel.js';

/** Turns pointers, the wheel and keys into changes of the view. Returns what takes all of it off again. */
export function attachGestures(tools: GestureTools): () => void {
  const { canvas } = tools.context;
  const pointers = new PointerGestures(tools);
  const wheel = new Wheel(tools);
  const keys = new Keys(tools);
  const off = [
    listen(canvas, 'pointerdown', (event: PointerEvent) => pointers.down(event)),
    listen(canvas, 'pointermove', (event: PointerEvent) => pointers.move(event)),
    listen(canvas, 'pointerup', (event: PointerEvent) => pointers.up(event)),
    listen(canvas, 'pointercancel', (event: PointerEvent) => pointers.up(event)),
    listen(canvas, 'pointerleave', () => pointers.leave()),
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
    listen(canvas, 'contextmenu', (event: Event) => event.preventDefault()),
  ];
  return () => {
    pointers.stop();
    wheel.stop();
    for (const stop of off) stop();
  };
}
