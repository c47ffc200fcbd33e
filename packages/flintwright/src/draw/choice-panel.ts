import type { FlintMap } from '../map/map.js';
import { makeElement, place, removeElement } from '../overlay/dom.js';

/** Something that a person decides: the text of a button, and what a press on it does. */
export type Choice = readonly [label: string, act: () => void];

/** A panel that says something about the draft and offers what can be done. */
export class ChoicePanel {
  private readonly element: HTMLElement;

  constructor(private readonly map: FlintMap) {
    this.element = place(map.host, makeElement('div', 'flint-control flint-draw-panel flint-choice'));
    this.element.dataset['seat'] = 'top-end';
    this.element.setAttribute('role', 'alert');
  }

  /** Shows a text with buttons; a press on any of them closes the panel. */
  show(title: string, text: string, choices: readonly Choice[]): void {
    const [card, inside, row] = [makeElement('div', 'flint-card'), makeElement('div'), makeElement('div')];
    row.className = 'flint-conflict-row';
    for (const [label, act] of choices) {
      const button = makeElement('button', '', label);
      button.type = 'button';
      button.addEventListener('click', () => {
        this.close();
        act();
      });
      row.append(button);
    }
    inside.append(makeElement('h2', '', title), makeElement('p', '', text), row);
    card.append(inside);
    this.element.replaceChildren(card);
  }

  private close(): void {
    const { activeElement } = this.element.getRootNode() as Document | ShadowRoot;
    const hadFocus = this.element.contains(activeElement);
    this.element.replaceChildren();
    if (hadFocus) this.map.host.querySelector<HTMLElement>('.flint-canvas')?.focus({ preventScroll: true });
  }

  remove(): void {
    removeElement(this.element);
  }
}
