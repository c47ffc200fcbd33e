/** Milliseconds that the page is held up in one go by what comes. */
const longest = 20;

/** Ends a request once nothing has come for a while, or when another signal ends it. */
export class Patience {
  /** Whether it ended because nothing came. */
  late = false;
  private readonly ending = new AbortController();
  private timer: ReturnType<typeof setTimeout> | undefined;
  private readonly stop = () => this.ending.abort(this.outer.reason);

  /**
   * Begins to wait.
   *
   * @param outer signal that ends the request too
   * @param milliseconds without a byte
   */
  constructor(
    private readonly outer: AbortSignal,
    private readonly milliseconds: number,
  ) {
    outer.addEventListener('abort', this.stop);
    this.heard();
  }

  get signal(): AbortSignal {
    return this.ending.signal;
  }

  /** Says that something came. */
  heard(): void {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => {
      this.late = true;
      this.ending.abort();
    }, this.milliseconds);
  }

  /** All of an answer in the pieces that it came in, however slowly, as long as it comes. */
  async all(response: Response): Promise<Uint8Array[]> {
    this.heard();
    if (!response.body) return [new Uint8Array(await response.arrayBuffer())];
    const reader = response.body.getReader();
    const pieces: Uint8Array[] = [];
    let since = performance.now();
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return pieces;
      this.heard();
      pieces.push(value);
      // Pieces that are there already come without end in one task.
      if (performance.now() - since < longest) continue;
      await new Promise((resolve) => setTimeout(resolve));
      since = performance.now();
    }
  }

  /** Waits no longer. */
  end(): void {
    clearTimeout(this.timer);
    this.outer.removeEventListener('abort', this.stop);
  }
}
