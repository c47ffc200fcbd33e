// Room "controls": rail, drawer, button, scale bar and position, and views kept in step.
import { Fault } from '@flintwright/core';
import { isPath } from '@flintwright/core/internal';
import { checkOptions, type Corner, type OptionTable } from '../base/check-options.js';
import { plainMark } from '../base/icons.js';
import { listen } from '../base/live-counts.js';
import { dispose, type Removable } from '../base/removable.js';
import type { FlintMap } from '../map/map.js';
import { removeElement, makeElement, place } from '../overlay/dom.js';
import type { Seat } from '../overlay/panels.js';
import { adoptStyles } from '../overlay/adopt-styles.js';
import { controlStyle } from './control-style.js';

/** Placement of a control. */
export interface ControlOptions {
  /** Parent element; default the element of the map. */
  readonly host?: HTMLElement | undefined;
  /** Corner of the map; controls in one corner stack. Default: the {@link ControlOptions.seat}. */
  readonly position?: Corner | undefined;
  /** Place of a control without a position; default `top-end`. */
  readonly seat?: Seat | undefined;
}

const table: OptionTable<ControlOptions> = { host: 'element', position: 'corner', seat: 'seat' };

/** Base class of all controls: an element on the map, event listeners, and removal of both. */
export class Control implements Removable {
  readonly element: HTMLElement;
  private readonly off: (() => void)[] = [];
  private gone = false;

  /**
   * Adds a control to a map.
   *
   * @param map the map; removing it removes the control
   * @param className classes of the element, beside `flint-control`
   * @param options placement
   * @throws Fault `option.*`
   */
  constructor(
    protected readonly map: FlintMap,
    className: string,
    { host, position, seat = 'top-end' }: ControlOptions = {},
  ) {
    checkOptions('new Control', { host, position, seat }, table, "super(map, 'my-control', { position: 'top-left' })");
    this.element = place(host ?? map.host, makeElement('div', `flint-control ${className}`));
    if (!host) this.element.dataset['seat'] = position ?? seat;
    adoptStyles(this.element, controlStyle);
    this.on(map, 'remove', () => this.remove());
  }

  /**
   * Listens for as long as the control is there.
   *
   * @param target a map, a window, an element
   * @param type name of the event
   * @param handler called with each event
   */
  protected on<E extends Event>(target: EventTarget, type: string, handler: (event: E) => void): void {
    this.off.push(listen(target, type, handler));
  }

  /**
   * A button with a drawing on a grid of 24 units.
   *
   * @param label its name, read out and shown
   * @param path SVG path data on a grid of 24 units
   * @param press called when it is pressed
   */
  protected button(label: string, path: string, press: () => void): HTMLButtonElement {
    const button = makeElement('button');
    button.type = 'button';
    button.title = label;
    button.setAttribute('aria-label', label);
    button.append(drawing(isPath(path) ? path : plainMark));
    if (path && !isPath(path))
      this.map.report(
        new Fault(
          'button.path',
          `the drawing of the button "${label}" is not SVG path data: ${JSON.stringify(path.slice(0, 40))}`,
          'Write SVG path data on a grid of 24 units, such as "M5 11H19V13H5Z"; a placeholder is drawn instead.',
        ),
      );
    this.on(button, 'click', press);
    return button;
  }

  /**
   * Does something when the control goes.
   *
   * @param last called once
   */
  protected end(last: () => void): void {
    this.off.push(last);
  }

  /** Removes the control from the map. A second call does nothing. */
  remove(): void {
    if (this.gone) return;
    this.gone = true;
    for (const stop of this.off) stop();
    removeElement(this.element);
  }

  [dispose](): void {
    this.remove();
  }
}

const ns = 'http://www.w3.org/2000/svg';

/** An icon of the interface, in the color of the text. */
export function drawing(path: string): SVGSVGElement {
  const svg = document.createElementNS(ns, 'svg');
  svg.setAttribute('viewBox', '0 0 24 24');
  svg.setAttribute('aria-hidden', 'true');
  const shape = document.createElementNS(ns, 'path');
  shape.setAttribute('d', path);
  shape.setAttribute('fill-rule', 'evenodd');
  svg.append(shape);
  return svg;
}

/** A cross to put something away with. */
export const cross =
  'M5.6 4.2L12 10.6L18.4 4.2L19.8 5.6L13.4 12L19.8 18.4L18.4 19.8L12 13.4L5.6 19.8L4.2 18.4L10.6 12L4.2 5.6Z';
