import { Fault, type ViewChange } from '@flintwright/core';
import { nearestSpelling } from '@flintwright/core/internal';
import { requireAlive } from '../base/map-context.js';
import { writtenSheet } from '../base/sheet-parts.js';
import type { Context } from './context.js';
import { check } from './option-tables.js';
import type { Arrival, MoveOptions } from './view-animation.js';
import type { ViewControl } from './view-control.js';

/** Views to come back to, by name: those of the sheet's `bookmarks`, and those that the application or its people keep. */
export class Bookmarks {
  private readonly own = new Map<string, ViewChange>();

  /** @internal */
  constructor(
    private readonly context: Context,
    private readonly views: ViewControl,
  ) {}

  /** All of them; what was kept at run time comes after the sheet's and stands for it under the same name. */
  get all(): Readonly<Record<string, ViewChange>> {
    return { ...this.context.state.sheet.sheet.bookmarks, ...Object.fromEntries(this.own) };
  }

  /**
   * Keeps a view under a name.
   *
   * @param name what the view is called
   * @param view default the present one
   */
  keep(name: string, view: ViewChange = this.context.state.view): void {
    requireAlive(this.context);
    check.view('bookmarks.keep', view);
    this.own.set(name, view);
    this.tell();
  }

  /** Lets go of a view kept at run time. */
  drop(name: string): void {
    requireAlive(this.context);
    if (this.own.delete(name)) this.tell();
  }

  /**
   * Goes there.
   *
   * @param name what the view is called
   * @param options of the movement; it takes 900 milliseconds by default
   * @throws Fault `bookmark.unknown`
   */
  go(name: string, options: MoveOptions = {}): Promise<Arrival> {
    requireAlive(this.context);
    const { all } = this;
    const view = Object.hasOwn(all, name) ? all[name] : undefined;
    if (view) return this.views.move(view, { duration: 900, ...options });
    const near = nearestSpelling(name, Object.keys(all));
    throw new Fault(
      'bookmark.unknown',
      `there is no bookmark "${name}"`,
      near ? `Did you mean "${near}"?` : `Bookmarks: ${Object.keys(all).join(', ') || 'none'}.`,
    );
  }

  private tell(): void {
    this.context.emit('sheetchange', writtenSheet(this.context.state.parts));
  }
}
