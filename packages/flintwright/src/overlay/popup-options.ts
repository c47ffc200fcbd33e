import { Fault, type Place } from '@flintwright/core';
import { checkOptions, type OptionTable } from '../base/check-options.js';
import type { PopupImage, PopupLink } from './safe-link.js';

/** Something whose place a popup follows. */
export interface Anchor {
  readonly at: readonly [number, number];
}

export interface PopupOptions {
  /** Where it points to; or a marker, or anything else with a place that may change, which it then follows. */
  readonly at: Place | Anchor;
  readonly title?: string;
  /** A line below the title. */
  readonly text?: string;
  /** Label and value, one pair a line. */
  readonly lines?: Readonly<Record<string, string | PopupLink>>;
  /** A picture above the lines. */
  readonly image?: PopupImage;
  /** HTML below the rest; scripts, handlers, styles and frames are taken out, links open safely in a new tab. */
  readonly html?: string;
  /** An element of the application's own, below the rest. */
  readonly element?: HTMLElement;
  /** CSS pixels between the place and the foot of the leader, for a symbol that stands there; default 0. */
  readonly rise?: number;
  /** Whether the keyboard's focus goes into it, and back when it closes; default true. */
  readonly focus?: boolean;
  /** Whether a press elsewhere leaves it open; default false. */
  readonly stays?: boolean;
  /** Called once when the popup goes, whoever removed it. */
  readonly onClose?: () => void;
}

const table: OptionTable<PopupOptions> = {
  at: 'any',
  title: 'text',
  text: 'text',
  lines: 'object',
  image: 'object',
  html: 'text',
  element: 'element',
  rise: 'number',
  focus: 'switch',
  stays: 'switch',
  onClose: 'function',
};

/** Whether a popup would say nothing. */
export const isEmpty = ({ title, text, lines, image, html, element }: Partial<PopupOptions>): boolean =>
  !title && !text && !html?.trim() && !element && !image && !Object.keys(lines ?? {}).length;

/** Checks the options of a popup. @throws Fault `option.*` or `popup.empty` */
export function checkPopup(options: PopupOptions): void {
  checkOptions('map.popup', options, table, "map.popup({ at: [longitude, latitude], text: 'Hello' })");
  if (isEmpty(options))
    throw new Fault(
      'popup.empty',
      'the popup is empty',
      'Give it a title, a text, lines, a picture, HTML or an element.',
    );
}
