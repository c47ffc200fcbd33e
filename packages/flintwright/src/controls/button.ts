import { checkOptions, type Corner, type OptionTable } from '../base/check-options.js';
import type { FlintMap } from '../map/map.js';
import { Control } from './control.js';
import { makeElement } from '../overlay/dom.js';

export interface ButtonOptions {
  /** Accessible name, also shown as a tooltip. */
  readonly label: string;
  /** SVG path data on a grid of 24 units. */
  readonly path: string;
  readonly press: () => void;
  /** Corner of the map; controls in one corner stack. Default: the upper corner at the inline end. */
  readonly position?: Corner | undefined;
}

const table: OptionTable<ButtonOptions> = { label: 'text', path: 'text', press: 'function', position: 'corner' };

/** A button of the application on the map. */
export class Button extends Control {
  /**
   * Adds a button to a map.
   *
   * @param map the map
   * @param options label, icon, and the action of a press
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
