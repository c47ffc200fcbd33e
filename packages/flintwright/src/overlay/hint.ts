import { makeElement, place, removeElement } from './dom.js';

/** A word over the whole map on how it is moved, for a moment. */
export class Hint {
  private box: HTMLElement | undefined;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(private readonly overlay: HTMLElement) {}

  show(text: string): void {
    this.box ??= place(this.overlay, makeElement('div', 'flint-hint'));
    this.box.textContent = text;
    this.box.dataset['on'] = '';
    clearTimeout(this.timer);
    this.timer = setTimeout(() => delete this.box?.dataset['on'], 1400);
  }

  remove(): void {
    clearTimeout(this.timer);
    if (this.box) removeElement(this.box);
    this.box = undefined;
  }
}
