import { compileText } from '../cql2/compile-text.js';
import { readSheet } from '../sheet/read.js';
import type { Sheet, SheetLayer } from '../sheet/types.js';

/**
 * Returns the attributes that a map needs, by the names of its data entries: all that filters, symbols, labels, popups, clusters, joins and ids
 * name.
 *
 * @throws SheetFault for a sheet that is not valid
 */
export function findAttributes(source: Sheet): ReadonlyMap<string, ReadonlySet<string>> {
  const { sheet, layers } = readSheet(source);
  const used = new Map(Object.keys(sheet.data ?? {}).map((name) => [name, new Set<string>()]));
  const add = (data: string, names: readonly string[]) => names.forEach((name) => used.get(data)?.add(name));
  for (const { data, properties, source } of layers) {
    add(data, properties);
    for (const text of popupExpressions(source)) add(data, compileText(text).properties);
  }
  for (const [name, { id, join, cluster }] of Object.entries(sheet.data ?? {})) {
    if (id !== undefined) add(name, [id]);
    if (join) add(name, join.match);
    if (!cluster) continue;
    if (cluster.share !== undefined) add(name, [cluster.share]);
    for (const texts of [cluster.sum, cluster.min, cluster.max])
      for (const text of Object.values(texts ?? {})) add(name, compileText(text).properties);
  }
  return used;
}

function popupExpressions({ popup }: SheetLayer): string[] {
  if (!popup) return [];
  const { title, text, image, lines = {} } = popup;
  const values = Object.values(lines).flatMap((line) => (typeof line === 'string' ? [line] : [line.is, line.href]));
  return [title, text, image, ...values].filter((one) => one !== undefined);
}
