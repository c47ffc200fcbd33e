import type { Drag } from '../markers/marker-element.js';
import { withinLimits, type GestureTools } from './gesture-tools.js';
import { draggedView, middleOf, pixelOf, viewAround } from './pan-zoom.js';
import { Inertia } from './inertia.js';
import { Pinch, spreadOf } from './pinch.js';

interface Finger {
  x: number;
  y: number;
  readonly startX: number;
  readonly startY: number;
}

/** Pixels that a press may stray. */
const slop = 5;
/** A second press within so many milliseconds and pixels is a double press. */
const doublePress = { within: 320, near: 24 };

/** Mouse, pen and fingers: they drag the map or a marker, turn and tilt it, and press. */
export class PointerGestures {
  private readonly fingers = new Map<number, Finger>();
  private readonly inertia: Inertia;
  private turning = false;
  private moved = false;
  /** Follows what of the map's things is being dragged. */
  private held: Drag | undefined;
  private pinch: Pinch | undefined;
  private lastPress = { t: 0, x: 0, y: 0 };

  constructor(private readonly tools: GestureTools) {
    this.inertia = new Inertia(tools);
  }

  down(event: PointerEvent): void {
    const { canvas } = this.tools.context;
    if (event.button > 2 || event.target !== canvas) return;
    this.stop();
    canvas.setPointerCapture(event.pointerId);
    const { fingers } = this;
    const [x, y] = pixelOf(event, canvas);
    fingers.set(event.pointerId, { x, y, startX: x, startY: y });
    this.held = fingers.size === 1 && event.button === 0 ? this.tools.grab([x, y]) : undefined;
    if (fingers.size === 1) {
      this.moved = false;
      this.turning = event.button === 2 || (event.button === 0 && (event.ctrlKey || event.shiftKey));
      this.inertia.begin(x, y);
    } else if (fingers.size === 2) {
      this.moved = true;
      this.pinch = new Pinch(this.tools, spreadOf([...fingers.values()]));
    }
  }

  move(event: PointerEvent): void {
    const { canvas } = this.tools.context;
    const to = pixelOf(event, canvas);
    const finger = this.fingers.get(event.pointerId);
    if (!finger) {
      if (event.pointerType === 'mouse' && event.target === canvas) this.tools.hover(to, event);
      return;
    }
    if (!this.moved && Math.hypot(to[0] - finger.startX, to[1] - finger.startY) < slop) return;
    if (this.fingers.size === 1) {
      // One finger is the page's; it scrolls if it can.
      if (this.tools.shared && event.pointerType === 'touch' && !this.held) this.tools.hint('finger');
      else this.drag(finger, to, event);
    } else {
      const before = spreadOf([...this.fingers.values()]);
      [finger.x, finger.y] = to;
      if (this.fingers.size === 2) this.pinch?.move(before, spreadOf([...this.fingers.values()]));
    }
  }

  private drag(finger: Finger, to: [number, number], event: PointerEvent): void {
    const { context, steer, hover } = this.tools;
    this.moved = true;
    hover(undefined, event);
    if (this.held) this.held(to, false);
    else if (this.turning) {
      const { view } = context.state;
      steer({ bearing: view.bearing + (to[0] - finger.x) * 0.4, tilt: view.tilt - (to[1] - finger.y) * 0.35 });
    } else {
      steer({ center: draggedView(context.camera, [finger.x, finger.y], to).center });
      this.inertia.track(to[0], to[1]);
    }
    [finger.x, finger.y] = to;
  }

  up(event: PointerEvent): void {
    const { fingers } = this;
    const finger = fingers.get(event.pointerId);
    if (!finger) return;
    fingers.delete(event.pointerId);
    if (this.held && this.moved) {
      this.held([finger.x, finger.y], true);
      this.held = undefined;
      return;
    }
    if (fingers.size === 0 && this.pinch) {
      this.pinch = undefined;
      this.snap();
      return;
    }
    if (fingers.size > 0 || event.type === 'pointercancel') return;
    if (this.moved) {
      if (!this.turning) this.inertia.release();
    } else if (event.button === 0) this.press(finger, event);
    else if (event.button === 2) this.tools.more('contextmenu', [finger.x, finger.y], event);
  }

  private press({ x, y }: Finger, event: PointerEvent): void {
    const { tools, lastPress } = this;
    // When the press happened, not when a busy page came to handle it.
    const now = event.timeStamp;
    const again =
      now - lastPress.t < doublePress.within && Math.hypot(x - lastPress.x, y - lastPress.y) < doublePress.near;
    this.lastPress = { t: again ? 0 : now, x, y };
    if (!again) {
      tools.press([x, y], event);
      return;
    }
    if (!tools.more('dblpress', [x, y], event)) return;
    const { view } = tools.context.state;
    const zoom = withinLimits(tools, Math.round(view.zoom + (event.shiftKey ? -1 : 1)));
    tools.glide(viewAround(tools.context.camera, [x, y], { zoom }), 260);
  }

  /** Comes to rest at a whole level, where the map is to. */
  private snap(): void {
    const { context, glide, wholeLevels } = this.tools;
    if (!wholeLevels) return;
    const { camera } = context;
    glide(viewAround(camera, middleOf(camera), { zoom: Math.round(camera.view.zoom) }), 160);
  }

  leave(event: PointerEvent): void {
    if (!this.fingers.size) this.tools.hover(undefined, event);
  }

  /** Ends a map's gliding on. */
  stop(): void {
    this.inertia.stop();
  }
}
