import { Fault, nearestSpelling, type Sheet, type View, type ViewChange } from '@flintwright/core';
import type { MoveOptions } from './view-animation.js';

export interface BookmarksHost {
  sheet(): Sheet;
  view(): View;
  move(view: ViewChange, options: MoveOptions): Promise<void>;
  changed(): void;
}

/** Views to come back to, by name: those of the sheet's `bookmarks`, and those that the application or its people keep. */
export class Bookmarks {
  private readonly own = new Map<string, ViewChange>();

  constructor(private readonly host: BookmarksHost) {}

  /** All of them; what was kept at run time comes after the sheet's and stands for it under the same name. */
  get all(): Readonly<Record<string, ViewChange>> {
    return { ...this.host.sheet().bookmarks, ...Object.fromEntries(this.own) };
  }

  /** Keeps a view under a name; default the present one. */
  keep(name: string, view: ViewChange = this.host.view()): void {
    this.own.set(name, view);
    this.host.changed();
  }

  /** Lets go of a view kept at run time. */
  drop(name: string): void {
    if (this.own.delete(name)) this.host.changed();
  }

  /** Goes there. @throws Fault `bookmark.unknown` */
  go(name: string, options: MoveOptions = {}): Promise<void> {
    const { all } = this;
    const view = Object.hasOwn(all, name) ? all[name] : undefined;
    if (view) return this.host.move(view, { over: 900, ...options });
    const near = nearestSpelling(name, Object.keys(all));
    throw new Fault(
      'bookmark.unknown',
      `there is no bookmark "${name}"`,
      near ? `Did you mean "${near}"?` : `Bookmarks: ${Object.keys(all).join(', ') || 'none'}.`,
    );
  }
}
