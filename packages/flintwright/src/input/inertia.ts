import type { GestureTools } from './gesture-tools.js';
import { draggedView, middleOf } from './pan-zoom.js';

/** Milliseconds of a drag that decide how fast it was. */
const window = 90;
/** Pixels a millisecond: slower drags stop at once, faster ones go on at no more than the greatest. */
const least = 0.15;
const greatest = 4;
/** Milliseconds in which the speed falls to a third or so. */
const decay = 190;

/** Lets a map that was dragged and let go of glide on. */
export class Inertia {
  private trail: { readonly x: number; readonly y: number; readonly t: number }[] = [];
  private frame = 0;

  constructor(private readonly tools: GestureTools) {}

  /** A drag begins. */
  begin(x: number, y: number): void {
    this.trail = [{ x, y, t: performance.now() }];
  }

  /** It has come to a pixel. */
  track(x: number, y: number): void {
    this.trail.push({ x, y, t: performance.now() });
    if (this.trail.length > 12) this.trail.shift();
  }

  /** It is let go of. */
  release(): void {
    const { context } = this.tools;
    const now = performance.now();
    const recent = this.trail.filter((p) => now - p.t < window);
    if (context.reducedMotion || recent.length < 2) return;
    const [first, last] = [recent[0], recent[recent.length - 1]];
    const span = Math.max(8, last.t - first.t);
    let [vx, vy] = [(last.x - first.x) / span, (last.y - first.y) / span];
    const speed = Math.hypot(vx, vy);
    if (speed < least) return;
    if (speed > greatest) [vx, vy] = [(vx * greatest) / speed, (vy * greatest) / speed];
    let before = now;
    const on = (time: number) => {
      const elapsed = Math.max(0, Math.min(40, time - before));
      before = time;
      const middle = middleOf(context.camera);
      const next = draggedView(context.camera, middle, [middle[0] + vx * elapsed, middle[1] + vy * elapsed]);
      this.tools.steer({ center: next.center });
      const kept = Math.exp(-elapsed / decay);
      [vx, vy] = [vx * kept, vy * kept];
      this.frame = Math.hypot(vx, vy) > 0.02 ? requestAnimationFrame(on) : 0;
    };
    this.frame = requestAnimationFrame(on);
  }

  stop(): void {
    cancelAnimationFrame(this.frame);
    this.frame = 0;
  }
}
