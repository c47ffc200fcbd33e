import type { EditConflict, EditDocument } from '@flintwright/core/edit';
import type { FlintMap } from '../map/map.js';
import { makeElement, place, removeElement } from '../overlay/dom.js';
import type { DrawStrings } from './draw-strings.js';

/** What a value looks like in a table. */
const shown = (value: unknown) => (value === undefined || value === null ? '–' : String(value));

/** The panel that asks, one after the other, what becomes of features that were changed here and elsewhere. */
export class ConflictPanel {
  private readonly element: HTMLElement;
  private of: EditConflict | undefined;

  constructor(
    private readonly map: FlintMap,
    private readonly document: EditDocument,
    private readonly strings: DrawStrings,
  ) {
    this.element = place(map.host, makeElement('div', 'flint-control flint-draw-panel flint-conflict'));
    this.element.dataset['seat'] = 'top-end';
    this.element.setAttribute('role', 'alert');
  }

  /** The conflict that is asked about; undefined for none. */
  get conflict(): EditConflict | undefined {
    return this.document.conflicts[0];
  }

  /** Shows the first conflict, and nothing where there is none. */
  follow(): void {
    const { conflict, strings } = this;
    if (conflict === this.of) return;
    this.of = conflict;
    this.map.host.classList.toggle('flint-deciding', conflict !== undefined);
    if (!conflict) {
      const had = this.element.contains((this.element.getRootNode() as Document | ShadowRoot).activeElement);
      this.element.replaceChildren();
      if (had) this.map.host.querySelector<HTMLElement>('.flint-canvas')?.focus({ preventScroll: true });
      return;
    }
    const { key, mine, theirs } = conflict;
    const [card, inside, row] = [makeElement('div', 'flint-card'), makeElement('div'), makeElement('div')];
    const state = (feature: unknown) => (feature ? 'changed' : 'deleted');
    inside.append(
      makeElement('h2', '', strings.conflict(this.document.conflicts.length)),
      makeElement('p', '', strings.conflictSays(state(mine), state(theirs))),
    );
    const table = this.differences(conflict);
    if (table) inside.append(table);
    if (mine && theirs && JSON.stringify(mine.geometry) !== JSON.stringify(theirs.geometry))
      inside.append(makeElement('p', '', strings.shapeDiffers));
    for (const side of ['mine', 'theirs'] as const) {
      const button = makeElement('button', '', strings[side]);
      button.type = 'button';
      button.addEventListener('click', () => this.document.resolve(key, side));
      row.append(button);
    }
    row.className = 'flint-conflict-row';
    inside.append(row);
    card.append(inside);
    this.element.replaceChildren(card);
  }

  /** A table of the attributes that differ. */
  private differences({ mine, theirs }: EditConflict): HTMLElement | undefined {
    if (!mine || !theirs) return undefined;
    const names = [...new Set([...Object.keys(mine.properties), ...Object.keys(theirs.properties)])].filter(
      (name) => JSON.stringify(mine.properties[name]) !== JSON.stringify(theirs.properties[name]),
    );
    if (!names.length) return undefined;
    const table = makeElement('table');
    for (const name of names.slice(0, 12)) {
      const [row, head] = [makeElement('tr'), makeElement('th', '', name)];
      head.scope = 'row';
      row.append(
        head,
        makeElement('td', '', shown(mine.properties[name])),
        makeElement('td', '', shown(theirs.properties[name])),
      );
      table.append(row);
    }
    return table;
  }

  remove(): void {
    this.map.host.classList.remove('flint-deciding');
    removeElement(this.element);
  }
}
