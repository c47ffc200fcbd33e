import { Fault } from '../base/fault.js';
import { addressesOf } from './page.js';

/** What a published page holds. */
export interface PageContent {
  /** Features of each data entry. */
  readonly features: Readonly<Record<string, number>>;
  /** Names of the data entries with an archive. */
  readonly archives: readonly string[];
}

const incomplete = (what: string, at: string) =>
  new Fault(
    'publish.incomplete',
    `the page is not complete: ${what}`,
    'Publish it again; if that fails too, report it.',
    at,
  );

/**
 * Checks a published page: its sheet is valid, nothing in it refers to an external URL, each data entry has its features or its archive,
 * and each archive opens.
 *
 * @param page text of the page
 * @returns its content
 * @throws SheetFault, or Fault `publish.incomplete`, `archive.*`
 */
export async function checkPublishedPage(page: string): Promise<PageContent> {
  const [{ Archive, bufferSource }, { readSheet }] = await Promise.all([
    import('../formats/pmtiles/read.js'),
    import('../sheet/read.js'),
  ]);
  const elements = new Map<string, { readonly of: string; readonly json: string }>();
  const pattern = /<script type="application\/json" id="([^"]*)"(?: data-of="([^"]*)")?>([^<]*)<\/script>/g;
  for (const [, id, of = '', json] of page.matchAll(pattern)) elements.set(id, { of: fromMarkup(of), json });
  const sheetText = elements.get('sheet')?.json;
  if (sheetText === undefined) throw incomplete('it has no sheet', '#sheet');
  const { sheet } = readSheet(JSON.parse(sheetText));
  const features: [string, number][] = [];
  const archives: string[] = [];
  for (const [id, { of, json }] of elements) {
    if (id === 'sheet') continue;
    if (!Object.hasOwn(sheet.data ?? {}, of)) throw incomplete(`there is no data entry "${of}"`, `#${id}`);
    const value = JSON.parse(json) as unknown;
    if (typeof value === 'string') {
      const bytes = Uint8Array.from(atob(value), (sign) => sign.charCodeAt(0));
      await Archive.open(bufferSource(bytes));
      archives.push(of);
    } else {
      const list = (value as { features?: unknown }).features;
      features.push([of, Array.isArray(list) ? list.length : 1]);
    }
  }
  for (const { name, key, address } of addressesOf(sheet)) {
    if (key === 'tiles' ? archives.includes(name) : address.startsWith('data:')) continue;
    throw incomplete(
      `the ${key} of "${name}" are not in it`,
      key === 'icon' ? `$.icons.${name}` : `$.data.${name}.${key}`,
    );
  }
  return { features: Object.fromEntries(features), archives };
}

const fromMarkup = (text: string) =>
  text.replace(/&(amp|lt|gt|quot);/g, (_, name: string) => ({ amp: '&', lt: '<', gt: '>', quot: '"' })[name]!);
