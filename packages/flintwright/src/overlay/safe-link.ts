import { makeElement } from './dom.js';

/** A link in a popup. Allowed are `http`, `https`, `mailto`, `tel`, and URLs relative to the page. */
export interface PopupLink {
  readonly href: string;
  readonly text: string;
}

/** A picture in a popup: `http`, `https`, a URL relative to the page, or `data:image`. */
export interface PopupImage {
  readonly src: string;
  /** Alternative text; default none. */
  readonly alt?: string;
}

const followed = new Set(['http:', 'https:', 'mailto:', 'tel:']);

/** An address made whole, where it is one that may be followed; undefined for scripts and the like. */
export function safeAddress(address: string, base: string): string | undefined {
  try {
    const url = new URL(address, base);
    return followed.has(url.protocol) ? url.href : undefined;
  } catch {
    // No address at all: its text is shown without a link.
    return undefined;
  }
}

/** A link that opens safely in a new tab; plain text where its address may not be followed. */
export function linkElement({ href, text }: PopupLink): HTMLElement {
  const address = safeAddress(href, document.baseURI);
  if (address === undefined) return makeElement('span', '', text);
  const link = makeElement('a', '', text);
  link.href = address;
  link.target = '_blank';
  link.rel = 'noopener noreferrer';
  return link;
}

/** The element of a picture; none where its address may not be loaded, and away with it where there is nothing to see. */
export function pictureElement({ src, alt = '' }: PopupImage): HTMLElement[] {
  const address = /^data:image\//.test(src) ? src : safeAddress(src, document.baseURI);
  if (address === undefined || /^(mailto|tel):/.test(address)) return [];
  const picture = makeElement('img', 'flint-picture');
  picture.src = address;
  picture.alt = alt;
  picture.addEventListener('error', () => picture.replaceWith(makeElement('p', '', alt)), { once: true });
  return [picture];
}
