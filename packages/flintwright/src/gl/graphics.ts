import type { Icons } from '../base/icons.js';
import type { Device } from './device.js';
import { Renderer, type LateBrushes } from './renderer.js';

/** How often it is looked whether the graphics card has done, before it is given more in any case. */
const mostLooks = 50;

/** The drawing of a map, which comes and goes with the graphics context of its canvas. */
export class Graphics {
  private current: Renderer | undefined;
  private turns: Promise<void> = Promise.resolve();
  /** What takes up drawing when somebody first has something to draw; undefined once that has been. */
  first: (() => void) | undefined;

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

  /** The device, for somebody who has something to draw by it; drawing is taken up if that has not been yet. */
  wake(): Device | undefined {
    this.first?.();
    return this.device;
  }

  /** Takes up drawing, first or after a lost context. @throws Fault `gl.*` */
  begin(): Renderer {
    return (this.current = new Renderer(this.canvas, this.icons, this.late));
  }

  /**
   * Resolves in a task of its own, one after the other, once the graphics card has done with what went up before: so much can go up between
   * frames, and the page is not held up.
   */
  turn(): Promise<void> {
    return (this.turns = this.turns.then(() => this.drained()));
  }

  private async drained(): Promise<void> {
    const gl = this.device?.gl;
    const sync = gl?.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
    gl?.flush();
    for (let looks = 0; looks < mostLooks; looks++) {
      await new Promise((resolve) => setTimeout(resolve));
      if (!gl || !sync || gl.isContextLost() || gl.getSyncParameter(sync, gl.SYNC_STATUS) === gl.SIGNALED) break;
    }
    if (sync) gl?.deleteSync(sync);
  }

  /** Lets go of all that drawing holds. */
  end(): void {
    this.current?.remove();
    this.current = undefined;
  }

  /** Ends drawing for good, and gives the context back. */
  remove(): void {
    this.first = undefined;
    const gl = this.device?.gl;
    this.end();
    gl?.getExtension('WEBGL_lose_context')?.loseContext();
  }
}
