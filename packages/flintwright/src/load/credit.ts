import type { SheetCredit, SheetData } from '@flintwright/core';
import { safeAddress } from '../overlay/safe-link.js';

/** One piece of a credit: words, with a link or without. */
export type Credit = SheetCredit;

/**
 * Whom to credit, as pieces of text and links.
 *
 * @param own the credit that the sheet gives
 * @param attribution that of a TileJSON document or an archive, which may be HTML: its text and its safe links are taken, nothing else
 */
export function readCredit(own: SheetData['credit'], attribution: unknown): readonly Credit[] {
  if (typeof own === 'string') return own ? [{ text: own }] : [];
  if (own !== undefined) return (Array.isArray(own) ? (own as readonly SheetCredit[]) : [own as SheetCredit]).map(safe);
  return typeof attribution === 'string' ? ofHtml(attribution) : [];
}

/** A credit whose link may be followed, or none. */
function safe({ text, href }: SheetCredit): Credit {
  const address = href === undefined ? undefined : safeAddress(href, document.baseURI);
  return address === undefined ? { text } : { text, href: address };
}

/** Text and links of HTML. A parsed document is never shown: it runs nothing and loads nothing. */
function ofHtml(html: string): Credit[] {
  if (!/[<&]/.test(html)) return html.trim() ? [{ text: html.trim() }] : [];
  const { body } = new DOMParser().parseFromString(html, 'text/html');
  for (const element of body.querySelectorAll('script, style, template, noscript')) element.remove();
  const out: Credit[] = [];
  const walk = (node: Node, href: string | undefined): void => {
    for (const child of node.childNodes) {
      if (child.nodeType === Node.TEXT_NODE) {
        const text = (child.textContent ?? '').replace(/\s+/g, ' ');
        const last = out.at(-1);
        if (last && last.href === href) out[out.length - 1] = { ...last, text: last.text + text };
        else if (text) out.push(href === undefined ? { text } : { text, href });
      } else {
        const link = child instanceof HTMLAnchorElement ? child.getAttribute('href') : null;
        walk(child, (link === null ? undefined : safeAddress(link, document.baseURI)) ?? href);
      }
    }
  };
  walk(body, undefined);
  return out.filter(({ text }) => text.trim());
}
