import { withinLimits, type GestureTools } from './gesture-tools.js';
import { pixelOf, viewAround } from './pan-zoom.js';

/** Pixels of a line and of a page, for wheels that count in them. */
const pixelsOf = { 1: 24, 2: 400 } as Readonly<Record<number, number>>;
/** Pixels of a wheel for one zoom level; on a touchpad pinched with two fingers, fewer. */
const perLevel = { wheel: 320, pinch: 90 };

/** The wheel zooms round the pointer: smoothly, or from whole level to whole level. */
export class Wheel {
  /** Zoom that is being glided to. */
  private target = 0;
  private turnedAt = 0;
  private frame = 0;

  constructor(private readonly tools: GestureTools) {}

  turn(event: WheelEvent): void {
    if (this.tools.shared && !event.ctrlKey && !event.metaKey) {
      this.tools.hint('wheel');
      return;
    }
    event.preventDefault();
    const { context, wholeLevels } = this.tools;
    const pixel = pixelOf(event, context.canvas);
    const delta = Math.max(-260, Math.min(260, event.deltaY * (pixelsOf[event.deltaMode] ?? 1)));
    const { zoom } = context.state.view;
    if (wholeLevels) {
      this.step(pixel, delta, zoom);
      return;
    }
    const levels = delta / (event.ctrlKey ? perLevel.pinch : perLevel.wheel);
    this.target = withinLimits(this.tools, (this.frame ? this.target : zoom) - levels);
    if (context.reducedMotion) this.tools.steer(viewAround(context.camera, pixel, { zoom: this.target }));
    else this.glide(pixel);
  }

  private step(pixel: readonly [number, number], delta: number, zoom: number): void {
    const now = performance.now();
    if (now - this.turnedAt < 220 || Math.abs(delta) < 4) return;
    this.turnedAt = now;
    const next = withinLimits(this.tools, Math.round(zoom) - Math.sign(delta));
    this.tools.glide(viewAround(this.tools.context.camera, pixel, { zoom: next }), 220);
  }

  private glide(pixel: readonly [number, number]): void {
    const { context, steer } = this.tools;
    cancelAnimationFrame(this.frame);
    let before = performance.now();
    const on = (time: number) => {
      const { zoom } = context.state.view;
      const share = 1 - Math.exp(-Math.max(1, time - before) / 70);
      before = time;
      const near = Math.abs(this.target - zoom) < 0.002;
      steer(viewAround(context.camera, pixel, { zoom: near ? this.target : zoom + (this.target - zoom) * share }));
      this.frame = near ? 0 : requestAnimationFrame(on);
    };
    this.frame = requestAnimationFrame(on);
  }

  stop(): void {
    cancelAnimationFrame(this.frame);
  }
}
