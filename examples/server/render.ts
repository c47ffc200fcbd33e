// What the server does: the page as text, with the sheet for the browser to go on with.
import { createElement } from 'react';
import { renderToString } from 'react-dom/server';
import type { Sheet } from 'flintwright';
import { Harbour } from './harbour.js';

/**
 * The body of the page.
 *
 * @param sheet the sheet of the map
 */
export function render(sheet: Sheet): string {
  const text = JSON.stringify(sheet).replaceAll('<', '\\u003c');
  const page = renderToString(createElement(Harbour, { sheet }));
  return `<div id="page">${page}</div><script type="application/json" id="sheet">${text}</script>`;
}
