import { Fault } from '@flintwright/core';
import type { MapContext } from '../base/map-context.js';

/** Milliseconds over which failures are gathered before they are told. */
const gatherFor = 400;

interface Group {
  readonly first: Fault;
  count: number;
  told: boolean;
}

/**
 * Tells of the tiles of one data entry that failed: those that failed alike as one fault with a count, and again only after a tile has
 * come in between.
 */
export class TileFaults {
  private readonly groups = new Map<string, Group>();
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private readonly name: string,
    private readonly context: MapContext,
  ) {}

  failed(fault: Fault): void {
    const group = this.groups.get(fault.code);
    if (group) group.count++;
    else this.groups.set(fault.code, { first: fault, count: 1, told: false });
    this.timer ??= setTimeout(() => this.tell(), gatherFor);
  }

  /** A tile has come: what fails from now on is news. */
  came(): void {
    for (const [code, { told }] of this.groups) if (told) this.groups.delete(code);
  }

  /** Tells now: nothing more is on its way. */
  flush(): void {
    clearTimeout(this.timer);
    this.tell();
  }

  private tell(): void {
    this.timer = undefined;
    for (const group of this.groups.values()) {
      if (group.told) continue;
      group.told = true;
      const { first, count } = group;
      const { code, message, hint, at } = first;
      this.context.report(
        count === 1
          ? first
          : new Fault(code, `${count} tiles of "${this.name}" failed alike, the first so: ${message}`, hint, at),
      );
    }
  }

  remove(): void {
    clearTimeout(this.timer);
  }
}
