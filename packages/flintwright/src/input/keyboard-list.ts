import type { Camera } from '@flintwright/core/internal';
import { listen } from '../base/live-counts.js';
import { removeElement, makeElement, place } from '../overlay/dom.js';
import { adoptStyles } from '../overlay/adopt-styles.js';
import { itemsInView, type KeyboardItem, type KeyboardItemsTools } from './keyboard-items.js';
import { keyboardStyle } from './keyboard-style.js';

const ways: Record<string, readonly [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

let lists = 0;

/**
 * The things in view, for the keyboard: a list that comes up when the focus reaches it. Arrow keys choose and read out, with a ring on
 * the map round what is chosen; Enter does what a press would do, Shift with the arrows pushes what can be dragged, Escape goes back
 * to the map (ARIA Authoring Practices, pattern "listbox").
 */
export class KeyboardList {
  /** Made when the list is first open. */
  private ring: HTMLElement | undefined;
  private readonly id = `flint-list-${++lists}`;
  private readonly off: (() => void)[];
  private items: readonly KeyboardItem[] = [];
  private chosen = 0;
  private open = false;
  private refreshed = 0;

  /**
   * @param list holds the options, and has the focus while one chooses
   * @param tools where the things in view come from
   */
  constructor(
    private readonly list: HTMLElement,
    private readonly tools: KeyboardItemsTools,
  ) {
    adoptStyles(tools.context.overlay, keyboardStyle);
    const begin = () => {
      if (!this.ring) place(tools.context.overlay, (this.ring = makeElement('div', 'flint-ring')));
      this.open = true;
      this.refresh();
    };
    this.off = [
      listen(this.list, 'focus', begin),
      listen(this.list, 'blur', () => {
        this.open = false;
        this.ring!.hidden = true;
      }),
      listen(this.list, 'keydown', (event: KeyboardEvent) => this.key(event)),
      listen(this.list, 'click', (event: MouseEvent) => {
        const at = [...this.list.children].indexOf(event.target as Element);
        if (!this.items[at]) return;
        this.choose(at);
        this.act(event);
      }),
    ];
    if (list.matches(':focus')) begin();
  }

  /** Looks anew at what is in view; what was chosen stays chosen while it is there. */
  refresh(): void {
    if (!this.open) return;
    this.refreshed = performance.now();
    const before = this.items[this.chosen] as KeyboardItem | undefined;
    this.items = itemsInView(this.tools);
    const same = this.items.findIndex(
      ({ label, at }) => before?.label === label && at[0] === before.at[0] && at[1] === before.at[1],
    );
    this.list.replaceChildren(
      ...this.items.map(({ label }, i) => {
        const option = makeElement('div', '', label);
        option.id = `${this.id}-${i}`;
        option.setAttribute('role', 'option');
        return option;
      }),
    );
    if (!this.items.length) {
      const none = makeElement('div', '', this.tools.context.strings.nothingInView);
      none.id = `${this.id}-0`;
      none.setAttribute('role', 'option');
      none.setAttribute('aria-disabled', 'true');
      this.list.append(none);
    }
    this.choose(Math.max(0, same));
  }

  private choose(at: number): void {
    this.chosen = Math.max(0, Math.min(this.items.length - 1, at));
    [...this.list.children].forEach((option, i) => option.setAttribute('aria-selected', String(i === this.chosen)));
    this.list.setAttribute('aria-activedescendant', `${this.id}-${this.chosen}`);
    this.list.children[this.chosen]?.scrollIntoView({ block: 'nearest' });
    this.tools.context.invalidate('overlay');
  }

  private key(event: KeyboardEvent): void {
    const item = this.items[this.chosen] as KeyboardItem | undefined;
    const way = Object.hasOwn(ways, event.key) ? ways[event.key] : undefined;
    if (event.shiftKey && way && item?.nudge) item.nudge(way[0] * 8, way[1] * 8);
    else if (event.key === 'ArrowDown' || event.key === 'ArrowRight') this.choose(this.chosen + 1);
    else if (event.key === 'ArrowUp' || event.key === 'ArrowLeft') this.choose(this.chosen - 1);
    else if (event.key === 'Home') this.choose(0);
    else if (event.key === 'End') this.choose(this.items.length - 1);
    else if (event.key === 'Enter' || event.key === ' ') this.act(event);
    else if (event.key === 'Escape') this.tools.context.canvas.focus();
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  /** Does what a press on the chosen one does, if it is still there. */
  private act(event: Event): void {
    const before = this.items[this.chosen] as KeyboardItem | undefined;
    this.refresh();
    const now = this.items[this.chosen] as KeyboardItem | undefined;
    if (before && now?.label === before.label) now.act(event);
  }

  /** Keeps the ring round what is chosen, and the list true to what is in view. */
  follow(camera: Camera): void {
    const now = performance.now();
    if (this.open && now - this.refreshed > 250) this.refresh();
    const item = this.open ? (this.items[this.chosen] as KeyboardItem | undefined) : undefined;
    if (!this.ring) return;
    this.ring.hidden = !item;
    if (!item) return;
    const [x, y] = camera.project(item.at[0], item.at[1]);
    this.ring.style.transform = `translate(${x.toFixed(1)}px, ${(y - (item.rise ?? 0)).toFixed(1)}px)`;
  }

  remove(): void {
    for (const stop of this.off) stop();
    if (this.ring) removeElement(this.ring);
  }
}
