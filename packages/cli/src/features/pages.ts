// The service as pages for people (OGC API – Features, Part 1, 17-069r4, requirement class HTML).
import type { FileFeature } from './feature-file.js';

/** A link of a document. */
export interface Link {
  readonly href: string;
  readonly rel: string;
  readonly type: string;
  readonly title: string;
}

const escapes: Readonly<Record<string, string>> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&#39;',
};
export const escaped = (text: string): string => text.replace(/[&<>"']/g, (sign) => escapes[sign]);

const style = `
:root { color-scheme: light dark; --ink: #22303a; --paper: #f7f5ef; --line: #c9cdc9; --accent: #8a4b08; --quiet: #56646d; }
@media (prefers-color-scheme: dark) { :root { --ink: #e6e9ea; --paper: #182129; --line: #3a4953; --accent: #e9a75a; --quiet: #a5b1b8; } }
body { margin: 0 auto; max-width: 68rem; padding: 2rem 1.25rem 4rem; background: var(--paper); color: var(--ink); font: 1rem/1.5 system-ui, sans-serif; }
h1 { font-size: 1.6rem; line-height: 1.25; margin: .5rem 0 1rem; border-inline-start: .5rem solid var(--accent); padding-inline-start: .75rem; overflow-wrap: anywhere; }
h2 { font-size: 1.1rem; margin: 2rem 0 .5rem; }
a { color: var(--accent); text-underline-offset: .2em; }
nav ol { list-style: none; display: flex; flex-wrap: wrap; gap: .25rem .5rem; margin: 0; padding: 0; font-size: .9rem; }
nav li + li::before { content: '/'; color: var(--quiet); margin-inline-end: .5rem; }
.scroll { overflow-x: auto; }
table { border-collapse: collapse; font-size: .95rem; } .scroll table { width: max-content; } .scroll td { max-width: 22rem; }
th, td { text-align: start; vertical-align: top; padding: .35rem 1.25rem .35rem 0; border-bottom: 1px solid var(--line); }
th { font-weight: 600; white-space: nowrap; } th.number { padding-inline-start: 1rem; }
td { overflow-wrap: anywhere; min-width: 4rem; }
.number { text-align: end; font-variant-numeric: tabular-nums; }
p, dd { margin: .25rem 0; } dt { font-weight: 600; margin-top: .75rem; } dd { margin-inline-start: 0; color: var(--quiet); overflow-wrap: anywhere; }
footer { margin-top: 2.5rem; padding-top: .75rem; border-top: 1px solid var(--line); font-size: .9rem; color: var(--quiet); }
`;

/** What every page has. */
export interface PageHead {
  readonly title: string;
  /** Where it is: names and addresses, from the landing page on. */
  readonly trail: readonly (readonly [name: string, href: string])[];
  readonly links: readonly Link[];
}

/** @param body HTML */
function page({ title, trail, links }: PageHead, body: string): string {
  const others = links.filter(({ rel, type }) => rel === 'alternate' && type !== 'text/html');
  const head = links.map(
    ({ href, rel, type }) => `<link rel="${rel}" type="${escaped(type)}" href="${escaped(href)}">`,
  );
  const steps = trail.map(([name, href]) => `<li><a href="${escaped(href)}">${escaped(name)}</a></li>`).join('');
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>${escaped(title)}</title>
${head.join('\n')}
<style>${style}</style></head><body>
${steps ? `<nav aria-label="Where this is"><ol>${steps}</ol></nav>` : ''}
<main><h1>${escaped(title)}</h1>
${body}</main>
<footer>${others.map(({ href, title: name }) => `<a href="${escaped(href)}">${escaped(name)}</a>`).join(' · ')}</footer>
</body></html>
`;
}

const anchor = (href: string, text: string) => `<a href="${escaped(href)}">${escaped(text)}</a>`;

/** A page of the links in its head. */
export const linkPage = (head: PageHead): string =>
  page(
    head,
    `<ul>${head.links
      .filter(({ rel }) => rel !== 'self' && rel !== 'alternate')
      .map(({ href, title }) => `<li>${anchor(href, title)}</li>`)
      .join('')}</ul>`,
  );

/** A page of lines of text. */
export const listPage = (head: PageHead, lines: readonly string[]): string =>
  page(head, `<ul>${lines.map((line) => `<li>${escaped(line)}</li>`).join('')}</ul>`);

/** A page of terms and their descriptions. */
export const termPage = (
  head: PageHead,
  terms: readonly (readonly [term: string, descriptions: readonly string[]])[],
): string => {
  const list = terms.map(
    ([term, descriptions]) =>
      `<dt>${escaped(term)}</dt>${descriptions.map((text) => `<dd>${escaped(text)}</dd>`).join('')}`,
  );
  const items = head.links
    .filter(({ rel }) => rel === 'items')
    .map(({ href, title }) => `<p>${anchor(href, title.replace(/ as a page$/, ''))}</p>`);
  return page(head, `<dl>${list.join('')}</dl>${items.join('')}`);
};

/** A page of collections, each with its number of features, or why it cannot be read. */
export const collectionsPage = (
  head: PageHead,
  collections: readonly { readonly title: string; readonly href: string; readonly content: string }[],
): string =>
  page(
    head,
    `<table><thead><tr><th>Collection</th><th>Features</th></tr></thead><tbody>${collections
      .map(({ title, href, content }) => `<tr><td>${anchor(href, title)}</td><td>${escaped(content)}</td></tr>`)
      .join('')}</tbody></table>`,
  );

/** Columns of a table of features. */
const mostColumns = 8;

const cell = (value: unknown): string =>
  value === null || value === undefined ? '' : typeof value === 'object' ? JSON.stringify(value) : String(value);

/** A page with a table of features, below a summary. */
export function itemsPage(
  head: PageHead,
  summary: string,
  features: readonly FileFeature[],
  hrefOf: (id: string) => string,
): string {
  const names = [...new Set(features.flatMap(({ value }) => Object.keys(value.properties ?? {})))];
  const columns = names.slice(0, mostColumns);
  const isNumeric = (name: string) =>
    features.every(({ value }) => ['number', 'undefined'].includes(typeof (value.properties?.[name] ?? undefined)));
  const rows = features.map(({ id, value }) => {
    const cells = columns.map((name) => {
      const own = value.properties?.[name];
      return `<td${isNumeric(name) ? ' class="number"' : ''}>${escaped(cell(own))}</td>`;
    });
    const { type } = (value.geometry ?? { type: 'none' }) as { type: string };
    return `<tr><th scope="row">${anchor(hrefOf(id), id)}</th><td>${escaped(type)}</td>${cells.join('')}</tr>`;
  });
  const more =
    names.length > columns.length ? ` ${names.length - columns.length} more attributes are on the page of each.` : '';
  const steps = head.links
    .filter(({ rel }) => rel === 'prev' || rel === 'next')
    .map(({ href, title: name }) => anchor(href, name))
    .join(' · ');
  return page(
    head,
    `<p>${escaped(summary)}${more}</p>${features.length ? `<div class="scroll"><table><thead><tr><th scope="col">Id</th><th scope="col">Geometry</th>${columns.map((name) => `<th scope="col"${isNumeric(name) ? ' class="number"' : ''}>${escaped(name)}</th>`).join('')}</tr></thead><tbody>${rows.join('')}</tbody></table></div>` : ''}<p>${steps}</p>`,
  );
}

/** A page of one feature. */
export function featurePage(head: PageHead, { value }: FileFeature): string {
  const rows = Object.entries(value.properties ?? {}).map(
    ([name, own]) => `<tr><th scope="row">${escaped(name)}</th><td>${escaped(cell(own))}</td></tr>`,
  );
  const { type = 'none' } = (value.geometry ?? {}) as { type?: string };
  const table = rows.length ? `<table><tbody>${rows.join('')}</tbody></table>` : '<p>No attributes.</p>';
  return page(head, `<p>Geometry: ${escaped(type)}</p>${table}`);
}
