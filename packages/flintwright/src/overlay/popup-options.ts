import { Fault, type Place } from '@flintwright/core';
import { checkOptions, type OptionTable } from '../base/check-options.js';
import type { PopupImage, PopupLink } from './safe-link.js';

/** Something whose position a popup follows. */
export interface Anchor {
  readonly at: readonly [number, number];
}

export interface PopupOptions {
  /** Position that the popup points at; or a marker, or another object with a position, which the popup then follows. */
  readonly at: Place | Anchor;
  readonly title?: string;
  /** A line below the title. */
  readonly text?: string;
  /** Table of label and value pairs. */
  readonly lines?: Readonly<Record<string, string | PopupLink>>;
  /** A picture above the lines. */
  readonly image?: PopupImage;
  /** HTML below the rest. Scripts, event handlers, styles and frames are removed; links open in a new tab. */
  readonly html?: string;
  /** Element of the application, below the rest. */
  readonly element?: HTMLElement;
  /** Distance in CSS pixels between the position and the foot of the leader line, for a symbol there; default 0. */
  readonly rise?: number;
  /** Whether the popup takes the keyboard focus and returns it when it closes; default true. */
  readonly focus?: boolean;
  /** Whether the popup stays open after a press elsewhere; default false. */
  readonly stays?: boolean;
  /** Called once when the popup is removed, by the reader or the application. */
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
