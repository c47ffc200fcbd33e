import { viewHolding, type Camera, type View, type ViewChange } from '@flintwright/core';
import { listen } from '../base/live-counts.js';

/** What the gestures may do to the map. */
export interface GestureHost {
  readonly element: HTMLElement;
  camera(): Camera;
  /** Changes the view at once, ending any movement under way. */
  steer(change: ViewChange): void;
  /** Glides to a change; resolves at the end. */
  glide(change: ViewChange, over: number): void;
  home(): void;
  press(point: [number, number], event: Event): void;
  hover(point: [number, number] | undefined): void;
  /** Takes hold of what can be dragged at a pixel; undefined where the map itself is. */
  grab(point: [number, number]): ((to: readonly [number, number], done: boolean) => void) | undefined;
  readonly wholeLevels: boolean;
  readonly reducedMotion: () => boolean;
}

interface Finger {
  x: number;
  y: number;
  readonly startX: number;
  readonly startY: number;
}

const slop = 5;

/** Turns pointers, the wheel and keys into changes of the view. Returns what takes all of it off again. */
export function attachGestures(host: GestureHost): () => void {
  const { element } = host;
  const fingers = new Map<number, Finger>();
  let turning = false;
  let moved = false;
  /** What of the map's things is being dragged. */
  let held: ReturnType<GestureHost['grab']>;
  let trail: { x: number; y: number; t: number }[] = [];
  let pinch: { distance: number; angle: number; x: number; y: number; mode: 'pinch' | 'tilt' | undefined } | undefined;
  let lastPress = { t: 0, x: 0, y: 0 };
  let coasting = 0;

  const at = (event: MouseEvent): [number, number] => {
    const box = element.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  };

  /** The view with the ground under `from` brought under `to`. */
  const dragged = (from: readonly [number, number], to: readonly [number, number]): View => {
    const camera = host.camera();
    const ground = camera.unproject(from[0], from[1]);
    return ground ? viewHolding(camera.view, camera.surface, camera.size, ground, to) : camera.view;
  };

  /** The view after a change of zoom or bearing that leaves the ground under a pixel where it is. */
  const around = (pixel: readonly [number, number], change: { zoom?: number; bearing?: number }): View => {
    const camera = host.camera();
    const ground = camera.unproject(pixel[0], pixel[1]);
    const view = { ...camera.view, ...change, zoom: Math.max(0, Math.min(24, change.zoom ?? camera.view.zoom)) };
    return ground ? viewHolding(view, camera.surface, camera.size, ground, pixel) : view;
  };

  const endCoasting = () => {
    cancelAnimationFrame(coasting);
    coasting = 0;
  };

  const coast = () => {
    const now = performance.now();
    const recent = trail.filter((p) => now - p.t < 90);
    if (host.reducedMotion() || recent.length < 2) return;
    const [first, last] = [recent[0], recent[recent.length - 1]];
    const span = Math.max(8, last.t - first.t);
    let [vx, vy] = [(last.x - first.x) / span, (last.y - first.y) / span];
    const speed = Math.hypot(vx, vy);
    if (speed < 0.15) return;
    const most = 4 / speed;
    if (most < 1) [vx, vy] = [vx * most, vy * most];
    let before = now;
    const on = (time: number) => {
      const elapsed = Math.max(0, Math.min(40, time - before));
      before = time;
      const { size } = host.camera();
      const middle: [number, number] = [size.width / 2, size.height / 2];
      const next = dragged(middle, [middle[0] + vx * elapsed, middle[1] + vy * elapsed]);
      host.steer({ center: next.center });
      const decay = Math.exp(-elapsed / 190);
      [vx, vy] = [vx * decay, vy * decay];
      coasting = Math.hypot(vx, vy) > 0.02 ? requestAnimationFrame(on) : 0;
    };
    coasting = requestAnimationFrame(on);
  };

  const down = (event: PointerEvent) => {
    if (event.button > 2 || event.target !== element) return;
    endCoasting();
    element.setPointerCapture(event.pointerId);
    const [x, y] = at(event);
    fingers.set(event.pointerId, { x, y, startX: x, startY: y });
    held = fingers.size === 1 && event.button === 0 ? host.grab([x, y]) : undefined;
    if (fingers.size === 1) {
      moved = false;
      turning = event.button === 2 || (event.button === 0 && (event.ctrlKey || event.shiftKey));
      trail = [{ x, y, t: performance.now() }];
    } else if (fingers.size === 2) {
      moved = true;
      pinch = { ...spread(), mode: undefined };
    }
  };

  const spread = () => {
    const [a, b] = [...fingers.values()];
    return {
      distance: Math.hypot(b.x - a.x, b.y - a.y),
      angle: Math.atan2(b.y - a.y, b.x - a.x),
      x: (a.x + b.x) / 2,
      y: (a.y + b.y) / 2,
    };
  };

  const move = (event: PointerEvent) => {
    const [x, y] = at(event);
    const finger = fingers.get(event.pointerId);
    if (!finger) {
      if (event.pointerType === 'mouse' && event.target === element) host.hover([x, y]);
      return;
    }
    const [dx, dy] = [x - finger.x, y - finger.y];
    if (!moved && Math.hypot(x - finger.startX, y - finger.startY) < slop) return;
    if (fingers.size === 1) {
      moved = true;
      host.hover(undefined);
      if (held) {
        held([x, y], false);
        [finger.x, finger.y] = [x, y];
        return;
      }
      if (turning) {
        const { view } = host.camera();
        host.steer({ bearing: view.bearing + dx * 0.4, tilt: view.tilt - dy * 0.35 });
      } else {
        host.steer({ center: dragged([finger.x, finger.y], [x, y]).center });
        trail.push({ x, y, t: performance.now() });
        if (trail.length > 12) trail.shift();
      }
      [finger.x, finger.y] = [x, y];
      return;
    }
    const before = spread();
    [finger.x, finger.y] = [x, y];
    if (!pinch || fingers.size !== 2) return;
    const now = spread();
    if (!pinch.mode) {
      const [grown, risen] = [Math.abs(now.distance - pinch.distance), Math.abs(now.y - pinch.y)];
      const turnedBy = Math.abs(now.angle - pinch.angle) * now.distance * 0.5;
      if (Math.max(grown, risen, turnedBy) < 8) return;
      // Two fingers side by side that rise or sink together tilt the map.
      const flat = Math.abs(Math.sin(now.angle)) < 0.45;
      pinch.mode = flat && risen > 1.6 * Math.max(grown, turnedBy) ? 'tilt' : 'pinch';
    }
    const { view } = host.camera();
    if (pinch.mode === 'tilt') {
      host.steer({ tilt: view.tilt - (now.y - before.y) * 0.45 });
      return;
    }
    const turn = ((now.angle - before.angle) * 180) / Math.PI;
    const small = Math.abs(turn) > 180 ? 0 : turn;
    host.steer({ center: dragged([before.x, before.y], [now.x, now.y]).center });
    host.steer(
      around([now.x, now.y], {
        zoom: view.zoom + Math.log2(now.distance / before.distance),
        bearing: view.bearing - small,
      }),
    );
  };

  const up = (event: PointerEvent) => {
    const finger = fingers.get(event.pointerId);
    if (!finger) return;
    fingers.delete(event.pointerId);
    if (held && moved) {
      held([finger.x, finger.y], true);
      held = undefined;
      return;
    }
    if (fingers.size === 0 && pinch) {
      pinch = undefined;
      snap();
      return;
    }
    if (fingers.size > 0 || event.type === 'pointercancel') return;
    if (moved) {
      if (!turning) coast();
      return;
    }
    if (event.button !== 0) return;
    const now = performance.now();
    const again = now - lastPress.t < 320 && Math.hypot(finger.x - lastPress.x, finger.y - lastPress.y) < 24;
    lastPress = { t: again ? 0 : now, x: finger.x, y: finger.y };
    if (again) {
      const { view } = host.camera();
      host.glide(around([finger.x, finger.y], { zoom: Math.round(view.zoom + (event.shiftKey ? -1 : 1)) }), 260);
    } else host.press([finger.x, finger.y], event);
  };

  const snap = () => {
    if (!host.wholeLevels) return;
    const { view, size } = host.camera();
    host.glide(around([size.width / 2, size.height / 2], { zoom: Math.round(view.zoom) }), 160);
  };

  let wheelTarget = 0;
  let wheelAt = 0;
  let wheelFrame = 0;
  const wheel = (event: WheelEvent) => {
    event.preventDefault();
    endCoasting();
    const pixel = at(event);
    const lines = event.deltaMode === 1 ? 24 : event.deltaMode === 2 ? 400 : 1;
    const delta = Math.max(-260, Math.min(260, event.deltaY * lines));
    const { view } = host.camera();
    const now = performance.now();
    if (host.wholeLevels) {
      if (now - wheelAt < 220 || Math.abs(delta) < 4) return;
      wheelAt = now;
      host.glide(around(pixel, { zoom: Math.round(view.zoom) - Math.sign(delta) }), 220);
      return;
    }
    wheelTarget = Math.max(
      0,
      Math.min(24, (wheelFrame ? wheelTarget : view.zoom) - delta / (event.ctrlKey ? 90 : 320)),
    );
    if (host.reducedMotion()) {
      host.steer(around(pixel, { zoom: wheelTarget }));
      return;
    }
    cancelAnimationFrame(wheelFrame);
    let before = now;
    const on = (time: number) => {
      const { zoom } = host.camera().view;
      const share = 1 - Math.exp(-Math.max(1, time - before) / 70);
      before = time;
      const near = Math.abs(wheelTarget - zoom) < 0.002;
      host.steer(around(pixel, { zoom: near ? wheelTarget : zoom + (wheelTarget - zoom) * share }));
      wheelFrame = near ? 0 : requestAnimationFrame(on);
    };
    wheelFrame = requestAnimationFrame(on);
  };

  const key = (event: KeyboardEvent) => {
    if (event.target !== element || event.altKey || event.metaKey || event.ctrlKey) return;
    const { view, size } = host.camera();
    const middle: [number, number] = [size.width / 2, size.height / 2];
    const over = host.reducedMotion() ? 0 : 180;
    const pan = (dx: number, dy: number) =>
      host.glide({ center: dragged(middle, [middle[0] + dx, middle[1] + dy]).center }, over);
    const far = Math.min(size.width, size.height) / 4;
    const acts: Record<string, () => void> = {
      ArrowLeft: () => (event.shiftKey ? host.glide({ bearing: view.bearing - 15 }, over) : pan(far, 0)),
      ArrowRight: () => (event.shiftKey ? host.glide({ bearing: view.bearing + 15 }, over) : pan(-far, 0)),
      ArrowUp: () => (event.shiftKey ? host.glide({ tilt: view.tilt + 10 }, over) : pan(0, far)),
      ArrowDown: () => (event.shiftKey ? host.glide({ tilt: view.tilt - 10 }, over) : pan(0, -far)),
      '+': () => host.glide({ zoom: Math.floor(view.zoom + 1.001) }, over),
      '=': () => host.glide({ zoom: Math.floor(view.zoom + 1.001) }, over),
      '-': () => host.glide({ zoom: Math.ceil(view.zoom - 1.001) }, over),
      Home: () => host.home(),
      Enter: () => host.press(middle, event),
    };
    const act = Object.hasOwn(acts, event.key) ? acts[event.key] : undefined;
    if (!act) return;
    event.preventDefault();
    endCoasting();
    act();
  };

  const off = [
    listen(element, 'pointerdown', down),
    listen(element, 'pointermove', move),
    listen(element, 'pointerup', up),
    listen(element, 'pointercancel', up),
    listen(element, 'pointerleave', () => fingers.size || host.hover(undefined)),
    listen(element, 'wheel', wheel, { passive: false }),
    listen(element, 'keydown', key),
    listen(element, 'contextmenu', (event: Event) => event.preventDefault()),
  ];
  return () => {
    endCoasting();
    cancelAnimationFrame(wheelFrame);
    for (const stop of off) stop();
  };
}
