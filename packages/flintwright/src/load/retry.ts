import { listen } from '../base/live-counts.js';

/** Milliseconds before the first turn; each further one takes twice as long, up to the last. */
const [firstPause, longestPause] = [3000, 60_000];

/** Tries again what failed: after pauses that grow, and at once when the browser is online again. */
export class Retry {
  private timer: ReturnType<typeof setTimeout> | undefined;
  private turns = 0;
  private readonly off: () => void;

  constructor(private readonly work: () => void) {
    this.off = listen(window, 'online', () => {
      if (this.timer !== undefined) this.run();
    });
  }

  /** Something failed that may work later. */
  later(): void {
    this.timer ??= setTimeout(() => this.run(), Math.min(longestPause, firstPause * 2 ** this.turns++));
  }

  /** Something came: the next failure is tried again soon. */
  came(): void {
    this.turns = 0;
  }

  private run(): void {
    clearTimeout(this.timer);
    this.timer = undefined;
    this.work();
  }

  remove(): void {
    clearTimeout(this.timer);
    this.off();
  }
}
