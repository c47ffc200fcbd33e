import type { Camera } from '@flintwright/core/internal';
import { LatePart } from '../base/late-part.js';
import { listen } from '../base/live-counts.js';
import { makeElement, place, removeElement } from '../overlay/dom.js';
import type { KeyboardItemsTools } from './keyboard-items.js';
import type * as ListTools from './keyboard-list.js';

/** The way of the keyboard to the things in view: the stop of their list among those of Tab. The list comes when the map has the focus. */
export class Keyboard {
  private readonly stop: HTMLElement;
  private list: ListTools.KeyboardList | undefined;
  private readonly off: (() => void)[];

  constructor(tools: KeyboardItemsTools) {
    const { context } = tools;
    const stop = makeElement('div', 'flint-list');
    stop.tabIndex = 0;
    stop.dataset['seat'] = 'bottom-start';
    stop.setAttribute('role', 'listbox');
    stop.setAttribute('aria-label', context.strings.inView);
    place(context.overlay, stop);
    this.stop = stop;
    const part = new LatePart(
      context,
      () => import('./keyboard-list.js'),
      ({ KeyboardList }) => (this.list = new KeyboardList(stop, tools)),
    );
    this.off = [context.canvas, stop].map((element) => listen(element, 'focus', () => void part.ready()));
  }

  /** Looks anew at what is in view. */
  refresh(): void {
    this.list?.refresh();
  }

  /** Keeps the list true to what is in view. */
  follow(camera: Camera): void {
    this.list?.follow(camera);
  }

  remove(): void {
    for (const stop of this.off) stop();
    this.list?.remove();
    removeElement(this.stop);
  }
}
