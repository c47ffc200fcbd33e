import type { Fault } from '@flintwright/core';
import { listen } from '../base/live-counts.js';
import type { Strings } from '../base/strings.js';
import { removeElement, makeElement, place } from './dom.js';

/** Faults as a person should see them: on the map itself, until put away. */
export class Notice {
  private box: HTMLElement | undefined;
  private list: HTMLElement | undefined;
  private off: (() => void) | undefined;
  private readonly seen = new Set<string>();
  private readonly items = new Map<string, HTMLElement>();

  constructor(
    private readonly overlay: HTMLElement,
    private readonly strings: Strings,
  ) {}

  show({ code, message, hint, at }: Fault): void {
    const key = `${code}${message}${hint}`;
    if (this.seen.has(key) || this.seen.size > 50) return;
    this.seen.add(key);
    if (!this.box) {
      this.box = place(this.overlay, makeElement('div', 'flint-notice'));
      this.box.setAttribute('role', 'status');
      this.box.dataset['seat'] = 'bottom-start';
      const card = makeElement('div', 'flint-card');
      const body = makeElement('div');
      this.list = makeElement('ul');
      const away = makeElement('button', '', this.strings.dismiss);
      away.type = 'button';
      body.append(makeElement('b', '', this.strings.problem), this.list, away);
      card.append(body);
      this.box.append(card);
      this.off = listen(away, 'click', () => this.clear());
    }
    const item = makeElement('li', '', /[.!?]$/.test(message) ? message : `${message}. `);
    item.append(makeElement('em', '', `${hint}${at ? ` (${at})` : ''}`));
    this.list!.append(item);
    this.items.set(code, item);
  }

  /** Puts away what was said of faults of a code. */
  withdraw(code: string): void {
    const item = this.items.get(code);
    if (!item) return;
    item.remove();
    this.items.delete(code);
    if (!this.list?.childElementCount) this.clear();
  }

  clear(): void {
    this.items.clear();
    this.off?.();
    if (this.box) removeElement(this.box);
    this.box = this.list = this.off = undefined;
  }
}
