import { Fault } from '../base/fault.js';
import { nearestSpelling } from '../base/spelling.js';
import { findColumn, valueAt, type Column, type FeatureBlock, type Value } from './block.js';

/** Result of a join: what matched, and what did not, on both sides. */
export interface JoinReport {
  readonly matched: number;
  /** Keys of features without a matching table row, each once, in the order of the features. */
  readonly featuresAlone: readonly string[];
  /** Keys of table rows without a matching feature. */
  readonly rowsAlone: readonly string[];
  /** Keys that occur in more than one table row; the first row is used. */
  readonly rowsTwice: readonly string[];
  /** Number of features or table rows without a key. */
  readonly keyless: { readonly features: number; readonly rows: number };
  /** Attributes that the table added. */
  readonly added: readonly string[];
}

/**
 * Joins the rows of a table to features by equal keys; keys are compared as text, so that 7 and "7" match. If both have an attribute, the
 * value of the table is used where there is one.
 *
 * @param block the features
 * @param table see {@link readTable}
 * @param match attribute of the features, and column of the table
 * @param at origin of the table, for messages; default none
 * @throws Fault `join.attribute` or `join.column` if a key does not exist, `join.none` if no key matches
 */
export function joinTable(
  block: FeatureBlock,
  table: { readonly names: readonly string[]; readonly rows: readonly Readonly<Record<string, Value>>[] },
  match: readonly [string, string],
  at?: string,
): { readonly block: FeatureBlock; readonly report: JoinReport } {
  const [attribute, key] = match;
  const column = findColumn(block, attribute);
  if (!column)
    throw unknown(
      'join.attribute',
      'the features have no attribute',
      attribute,
      block.columns.map(({ name }) => name),
      at,
    );
  if (!table.names.includes(key)) throw unknown('join.column', 'the table has no column', key, table.names, at);
  const byKey = new Map<string, Readonly<Record<string, Value>>>();
  const twice = new Set<string>();
  let rowsKeyless = 0;
  for (const row of table.rows) {
    const value = row[key];
    if (value === undefined || value === null) rowsKeyless++;
    else if (byKey.has(String(value))) twice.add(String(value));
    else byKey.set(String(value), row);
  }
  const met = new Set<string>();
  const alone = new Set<string>();
  let [matched, featuresKeyless] = [0, 0];
  const partners = Array.from({ length: block.count }, (_, f) => {
    const value = valueAt(column, f);
    if (value === undefined || value === null) {
      featuresKeyless++;
      return undefined;
    }
    const row = byKey.get(String(value));
    if (row) {
      matched++;
      met.add(String(value));
    } else alone.add(String(value));
    return row;
  });
  if (!matched && block.count && table.rows.length) {
    const some = (list: Iterable<string>) =>
      [...list]
        .slice(0, 3)
        .map((k) => JSON.stringify(k))
        .join(', ');
    throw new Fault(
      'join.none',
      `no row of the table matches a feature: features have ${attribute} ${some(alone)}, rows have ${key} ${some(byKey.keys())}`,
      'Match attributes with the same keys.',
      at,
    );
  }
  const added = table.names.filter((name) => name !== key);
  const columns = block.columns.filter(({ name }) => !added.includes(name));
  for (const name of added) {
    const before = findColumn(block, name);
    columns.push(columnOf(name, partners, (f) => (before ? valueAt(before, f) : undefined)));
  }
  return {
    block: { ...block, columns },
    report: {
      matched,
      featuresAlone: [...alone],
      rowsAlone: [...byKey.keys()].filter((k) => !met.has(k)),
      rowsTwice: [...twice],
      keyless: { features: featuresKeyless, rows: rowsKeyless },
      added,
    },
  };
}

function columnOf(
  name: string,
  rows: readonly (Readonly<Record<string, Value>> | undefined)[],
  otherwise: (feature: number) => Value,
): Column {
  const values: Value[] = [];
  const lookup = new Map<Value, number>();
  const codes = Uint32Array.from(rows, (row, f) => {
    const value = row?.[name] ?? otherwise(f);
    if (value === undefined || value === null) return 0;
    let code = lookup.get(value);
    if (code === undefined) lookup.set(value, (code = values.push(value)));
    return code;
  });
  return { name, codes, values };
}

function unknown(code: string, what: string, name: string, known: readonly string[], at?: string): Fault {
  const near = nearestSpelling(name, known);
  return new Fault(
    code,
    `${what} "${name}"`,
    near ? `Did you mean "${near}"?` : `Available: ${known.join(', ') || 'none'}.`,
    at,
  );
}
