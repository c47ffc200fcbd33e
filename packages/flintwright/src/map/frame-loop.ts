/** The outcome of a frame: another one is due, something is still on its way, or there is nothing more to draw. */
export type FrameEnd = 'more' | 'loading' | 'rest';

export interface FrameLoopHost {
  /** Draws one frame, `elapsed` milliseconds after the last. */
  draw(time: number, elapsed: number): FrameEnd;
  /** Whether something is still on its way. */
  readonly isLoading: boolean;
  /** Nothing is loading, moving or fading any more. Returns whether it stays so: whoever hears of it may ask for something. */
  settled(): boolean;
}

/** Asks for frames, never more than one at a time, and knows when there is nothing left to draw. */
export class FrameLoop {
  private host: FrameLoopHost | undefined;
  private asked = 0;
  private last = 0;
  private resting = false;
  private stopped = false;
  private readonly waiting: (() => void)[] = [];

  /** Begins to draw: a first frame is due. */
  start(host: FrameLoopHost): void {
    this.host = host;
    this.again();
  }

  /** A frame is due. */
  again(): void {
    this.resting = false;
    if (this.asked || this.stopped || !this.host) return;
    this.asked = requestAnimationFrame((time) => {
      this.asked = 0;
      this.frame(time);
    });
  }

  private frame(time: number): void {
    const elapsed = Math.min(100, Math.max(0, time - this.last));
    this.last = time;
    const { host } = this;
    if (!host) return;
    const end = host.draw(time, elapsed);
    if (this.stopped) return;
    if (end === 'more') this.again();
    else if (end === 'rest' && !this.asked) {
      this.resting = true;
      if (host.settled()) this.release();
      else this.resting = false;
    }
  }

  /** Resolves when nothing is loading, moving or fading, or when the map is gone. */
  settled(): Promise<void> {
    if (this.resting && !this.asked && !this.host?.isLoading) return Promise.resolve();
    return new Promise((resolve) => {
      this.waiting.push(resolve);
      this.again();
    });
  }

  /** Resolves in the first frame in which something holds, or when the map is gone. */
  async until(holds: () => boolean): Promise<void> {
    while (!holds() && !this.stopped) await new Promise((resolve) => requestAnimationFrame(resolve));
  }

  stop(): void {
    this.stopped = true;
    cancelAnimationFrame(this.asked);
    this.release();
  }

  private release(): void {
    for (const resolve of this.waiting.splice(0)) resolve();
  }
}
