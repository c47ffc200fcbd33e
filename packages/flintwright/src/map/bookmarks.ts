import { Fault, type ViewChange } from '@flintwright/core';
import { nearestSpelling } from '@flintwright/core/internal';
import { requireAlive } from '../base/map-context.js';
import { writtenSheet } from '../base/sheet-parts.js';
import type { Context } from './context.js';
import { check } from './option-tables.js';
import type { Arrival, MoveOptions } from './view-animation.js';
import type { ViewControl } from './view-control.js';

/** Named views: the `bookmarks` of the sheet, and those that are added at run time. */
export class Bookmarks {
  private readonly own = new Map<string, ViewChange>();

  /** @internal */
  constructor(
    private readonly context: Context,
    private readonly views: ViewControl,
  ) {}

  /** All bookmarks. Those added at run time come last and replace those of the sheet with the same name. */
  get all(): Readonly<Record<string, ViewChange>> {
    return { ...this.context.state.sheet.sheet.bookmarks, ...Object.fromEntries(this.own) };
  }

  /**
   * Adds a bookmark.
   *
   * @param name name of the view
   * @param view default the current view
   */
  keep(name: string, view: ViewChange = this.context.state.view): void {
    requireAlive(this.context);
    check.view('bookmarks.keep', view);
    this.own.set(name, view);
    this.tell();
  }

  /** Removes a bookmark that was added at run time. */
  drop(name: string): void {
    requireAlive(this.context);
    if (this.own.delete(name)) this.tell();
  }

  /**
   * Moves to a bookmarked view.
   *
   * @param name name of the view
   * @param options options of the movement; its duration is 900 ms by default
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
