import { checkOptions, type Corner, type OptionTable } from '../base/check-options.js';
import type { FlintMap } from '../map/map.js';
import { Control } from './control.js';
import { makeElement } from '../overlay/dom.js';

export interface ButtonOptions {
  /** Its purpose, read out and shown as a hint. */
  readonly label: string;
  /** SVG path data on a grid of 24 units. */
  readonly path: string;
  readonly press: () => void;
  /** Corner of the map; controls in one corner stack. Default the upper corner at the end of lines. */
  readonly position?: Corner | undefined;
}

const table: OptionTable<ButtonOptions> = { label: 'text', path: 'text', press: 'function', position: 'corner' };

/** A button of the application's own, in the upper right corner of the map. */
export class Button extends Control {
  /**
   * Puts one on a map.
   *
   * @param map the map it stands on
   * @param options label, drawing, and what a press does
   */
  constructor(map: FlintMap, options: ButtonOptions) {
    checkOptions('new Button', options, table, 'new Button(map, { label, path, press })');
    const { label, path, press, position } = options;
    super(map, 'flint-own', { position });
    const [card, body] = [makeElement('div', 'flint-card'), makeElement('div')];
    body.append(this.button(label, path, press));
    card.append(body);
    this.element.append(card);
  }
}
