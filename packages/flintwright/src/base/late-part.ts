import { notFetched } from './fetch-part.js';
import type { MapContext } from './map-context.js';

/** Milliseconds after which it is tried again to fetch a part. */
const retryAfter = 30_000;

/** A part of the library that is fetched when a map first wants it. The map counts as settled once it is there. */
export class LatePart<T> {
  private part: T | undefined;
  private coming: Promise<void> | undefined;

  /**
   * @param fetch imports the part
   * @param come called once it is there, ahead of the next frame
   */
  constructor(
    private readonly context: MapContext,
    private readonly fetch: () => Promise<T>,
    private readonly come?: (part: T) => void,
  ) {}

  /** The part, where somebody has wanted it before and it is there. */
  get known(): T | undefined {
    return this.part;
  }

  /** The part; undefined while it is on its way. The first call has it fetched. */
  get now(): T | undefined {
    if (this.part === undefined) void this.ready();
    return this.part;
  }

  /** Resolves when the part is there, or a fault says why it is not; it is tried again then from time to time. */
  ready(): Promise<void> {
    return (this.coming ??= this.load());
  }

  private async load(): Promise<void> {
    const { context } = this;
    const end = context.begin();
    try {
      const part = await this.fetch();
      if (context.removed) return;
      this.part = part;
      this.come?.(part);
    } catch (error) {
      setTimeout(() => {
        this.coming = undefined;
        if (!context.removed) void this.ready();
      }, retryAfter);
      context.reportLater(notFetched(error));
    } finally {
      end();
      if (!context.removed) context.invalidate('ground', true);
    }
  }
}
