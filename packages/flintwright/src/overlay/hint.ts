import { makeElement, place, removeElement } from './dom.js';
import { adoptStyles } from './adopt-styles.js';

const css = `
.flint-hint { position: absolute; inset: 0; display: grid; place-items: center; padding: 0 24px; text-align: center; font: 500 15px/1.4 var(--flint-font); color: #f7f5ef; background: rgb(34 48 58 / 62%); opacity: 0; transition: opacity .25s; }
.flint-hint[data-on] { opacity: 1; }
@media (prefers-reduced-motion: reduce) { .flint-hint { transition: none; } }
`;

/** A word over the whole map on how it is moved, for a moment. */
export class Hint {
  private box: HTMLElement | undefined;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(private readonly overlay: HTMLElement) {
    adoptStyles(overlay, css);
  }

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
