import type { Fault } from '@flintwright/core';
import { listen } from '../base/live-counts.js';
import type { Words } from './strings.js';
import { dropElement, makeElement, place } from './dom.js';

/** Faults as a person should see them: on the map itself, until put away. */
export class Notice {
  private box: HTMLElement | undefined;
  private list: HTMLElement | undefined;
  private off: (() => void) | undefined;
  private readonly seen = new Set<string>();

  constructor(
    private readonly over: HTMLElement,
    private readonly words: Words,
  ) {}

  show({ message, mend, at }: Fault): void {
    const key = `${message}${mend}`;
    if (this.seen.has(key) || this.seen.size > 50) return;
    this.seen.add(key);
    if (!this.box) {
      this.box = place(this.over, makeElement('div', 'flint-notice'));
      this.box.setAttribute('role', 'status');
      const card = makeElement('div', 'flint-card');
      const body = makeElement('div');
      this.list = makeElement('ul');
      const away = makeElement('button', '', this.words.putAway);
      away.type = 'button';
      body.append(makeElement('b', '', this.words.problem), this.list, away);
      card.append(body);
      this.box.append(card);
      this.off = listen(away, 'click', () => this.clear());
    }
    const item = makeElement('li', '', /[.!?]$/.test(message) ? message : `${message}. `);
    item.append(makeElement('em', '', `${mend}${at ? ` (${at})` : ''}`));
    this.list!.append(item);
  }

  clear(): void {
    this.off?.();
    if (this.box) dropElement(this.box);
    this.box = this.list = this.off = undefined;
  }
}
