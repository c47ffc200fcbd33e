const type = 'flint-presses';

/** Lets one tool of a map have the presses on it at a time: drawing and measuring exclude each other. */
export class PressOwner {
  private owner: unknown;

  /**
   * @param host of the map
   * @param lost called when another tool takes the presses
   */
  constructor(
    private readonly host: HTMLElement,
    private readonly lost: () => void,
  ) {
    host.addEventListener(type, this.hear);
  }

  private readonly hear = (event: Event): void => {
    const had = this.owner === this;
    this.owner = (event as CustomEvent<unknown>).detail;
    if (had && this.owner !== this) this.lost();
  };

  /** Whether another tool has the presses. */
  get isElsewhere(): boolean {
    return this.owner != null && this.owner !== this;
  }

  /** Takes the presses. */
  claim(): void {
    if (this.owner !== this) this.host.dispatchEvent(new CustomEvent(type, { detail: this }));
  }

  /** Leaves the presses to whatever tool comes next. */
  release(): void {
    if (this.owner === this) {
      this.owner = undefined;
      this.host.dispatchEvent(new CustomEvent(type));
    }
  }

  remove(): void {
    this.release();
    this.host.removeEventListener(type, this.hear);
  }
}
