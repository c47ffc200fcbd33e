import type { Icons } from '../base/icons.js';
import type { Device } from './device.js';
import { Renderer, type LateBrushes } from './renderer.js';

/** The drawing of a map, which comes and goes with the graphics context of its canvas. */
export class Graphics {
  private current: Renderer | undefined;
  private turns: Promise<void> = Promise.resolve();

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly icons: Icons,
    private readonly late: LateBrushes,
  ) {}

  /** Undefined while there is no graphics context. */
  get renderer(): Renderer | undefined {
    return this.current;
  }

  get device(): Device | undefined {
    return this.current?.device;
  }

  /** Takes up drawing, first or after a lost context. @throws Fault `gl.*` */
  begin(): Renderer {
    return (this.current = new Renderer(this.canvas, this.icons, this.late));
  }

  /** Resolves in a task of its own, one after the other, so that much can go up to the graphics card between frames. */
  turn(): Promise<void> {
    return (this.turns = this.turns.then(() => new Promise((resolve) => setTimeout(resolve))));
  }

  /** Lets go of all that drawing holds. */
  end(): void {
    this.current?.remove();
    this.current = undefined;
  }

  /** Ends drawing for good, and gives the context back. */
  remove(): void {
    const gl = this.device?.gl;
    this.end();
    gl?.getExtension('WEBGL_lose_context')?.loseContext();
  }
}
