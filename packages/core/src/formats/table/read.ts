import Papa from 'papaparse';
import { Fault } from '../../base/fault.js';
import { BlockBuilder } from '../../features/builder.js';
import { Kind, type FeatureBlock, type Value } from '../../features/block.js';

/** Rows of a table under the names of its columns. */
export interface Table {
  readonly names: readonly string[];
  readonly rows: readonly Readonly<Record<string, Value>>[];
}

/**
 * Reads a table: CSV text (RFC 4180, the first line names the columns; comma, semicolon or tab), JSON text of a list of
 * objects, or such a list. In CSV a column whose filled cells are all numbers becomes numbers, unless one has a leading zero as
 * in `007`; empty cells are missing values; `true` and `false` stay texts. Where cells are parted by something else than commas,
 * and no number has a decimal point, numbers may have a decimal comma.
 *
 * @param source CSV or JSON text, or a list of objects
 * @param at where it came from, for messages; default none
 * @throws Fault `table.*` with the line at fault
 */
export function readTable(source: string | readonly object[], at?: string): Table {
  if (typeof source !== 'string') return fromRows(source, at);
  const start = source.trimStart();
  if (start.startsWith('[')) {
    let rows: unknown;
    try {
      rows = JSON.parse(source);
    } catch (error) {
      throw new Fault('table.json', `the table is not JSON: ${(error as Error).message}`, 'Mend the text.', at, error);
    }
    return fromRows(rows as object[], at);
  }
  if (!start) throw new Fault('table.empty', 'the table is empty', 'Its first line names the columns.', at);
  if (start.startsWith('<'))
    throw new Fault('table.form', 'the table begins like HTML or XML', 'Check the address; CSV or JSON is wanted.', at);
  const { data, errors, meta } = Papa.parse<string[]>(source.replace(/^\uFEFF/, ''), {
    skipEmptyLines: 'greedy',
    delimitersToGuess: [',', ';', '\t', '|'],
  });
  assertQuotes(errors, at);
  if (!data.length)
    throw new Fault('table.empty', 'the table holds nothing but separators', 'Its first line names the columns.', at);
  const [names, ...cells] = data;
  names.forEach((name, i) => {
    if (names.indexOf(name) !== i)
      throw new Fault('table.twice', `two columns are called "${name}"`, 'Rename one of them.', place(at, 1));
  });
  cells.forEach((row, i) => {
    if (row.length > names.length)
      throw new Fault(
        'table.cells',
        `a row has ${row.length} cells, and there are ${names.length} columns`,
        'Put cells with a separator in them into double quotes.',
        place(at, i + 2),
      );
  });
  const filled = names.map((_, c) => cells.map((row) => row[c]?.trim() ?? '').filter(Boolean));
  const isNumeric = (column: readonly string[], form: RegExp) =>
    column.length > 0 && column.every((cell) => form.test(cell));
  const points = filled.map((column) => isNumeric(column, withPoint));
  const commas =
    meta.delimiter !== ',' && !filled.some((column, c) => points[c] && column.some((cell) => /\./.test(cell)));
  const numbers = filled.map((column, c) =>
    points[c]
      ? Number
      : commas && isNumeric(column, withComma)
        ? (cell: string) => Number(cell.replace(',', '.'))
        : String,
  );
  return {
    names,
    rows: cells.map((row) =>
      Object.fromEntries(
        names.flatMap((name, c) => {
          const cell = row[c]?.trim() ?? '';
          return cell === '' ? [] : [[name, numbers[c](cell)]];
        }),
      ),
    ),
  };
}

/** @throws Fault `table.quotes` with the line, where the parser of a table met a quote that is not closed */
export function assertQuotes(
  errors: readonly { readonly type: string; readonly message: string; readonly row?: number | undefined }[],
  at?: string,
): void {
  const quotes = errors.find(({ type }) => type === 'Quotes');
  if (quotes)
    throw new Fault(
      'table.quotes',
      `the table has an unclosed quote: ${quotes.message}`,
      'Double the quotes within a quoted cell, and close it.',
      place(at, (quotes.row ?? 0) + 1),
    );
}

export const withPoint = /^[-+]?((0|[1-9]\d*)(\.\d+)?|\.\d+)([eE][-+]?\d+)?$/;
export const withComma = /^[-+]?((0|[1-9]\d*)(,\d+)?|,\d+)([eE][-+]?\d+)?$/;

const place = (at: string | undefined, line: number) => `${at ? `${at}, ` : ''}line ${line}`;

function fromRows(rows: readonly object[], at?: string): Table {
  if (!Array.isArray(rows) || rows.some((row) => typeof row !== 'object' || row === null))
    throw new Fault('table.form', 'the table is no list of objects', 'Write [{ "code": "A1", "tonnes": 12 }, …].', at);
  const names = new Set(rows.flatMap((row) => Object.keys(row as object)));
  const plain = (value: unknown): Value =>
    typeof value === 'object' && value !== null ? JSON.stringify(value) : (value as Value);
  return {
    names: [...names],
    rows: rows.map((row) => Object.fromEntries(Object.entries(row as object).map(([k, v]) => [k, plain(v)]))),
  };
}

/** The number in a cell, also where the column holds a text elsewhere; undefined for an empty one. */
function numberIn(row: Table['rows'][number], column: string, index: number): number | undefined {
  const value = row[column];
  if (value === undefined || value === null) return undefined;
  const number = typeof value === 'string' && withPoint.test(value) ? Number(value) : value;
  if (typeof number === 'number') return number;
  throw new Fault(
    'table.number',
    `row ${index + 1} has ${JSON.stringify(value)} in the column "${column}"`,
    'Write degrees as a number, such as -31.18, or leave the cell empty for a row without a place.',
    `line ${index + 2}`,
  );
}

/**
 * A table as features without geometry.
 *
 * @param table see {@link readTable}
 * @param name name of the block
 */
export function blockOfTable({ rows }: Table, name: string): FeatureBlock {
  const builder = new BlockBuilder(name, 'lonlat');
  for (const row of rows) {
    builder.begin();
    for (const [key, value] of Object.entries(row)) builder.set(key, value);
    builder.end(Kind.none);
  }
  return builder.finish();
}

const longitudes = ['lon', 'lng', 'long', 'longitude', 'x'];
const latitudes = ['lat', 'latitude', 'y'];

const findName = (names: readonly string[], words: readonly string[]) =>
  names.find((column) => words.includes(column.trim().toLowerCase()));

/** Whether a text begins as a table does: with a line of names that separators part. JSON and XML do not. */
export const looksLikeTable = (text: string): boolean => /^\s*[^\s<{[][^\n]*[,;\t]/.test(text);

/** Whether a table says where its rows lie; see {@link pointsOfTable}. */
export const hasPlaces = ({ names }: Table): boolean =>
  findName(names, longitudes) !== undefined && findName(names, latitudes) !== undefined;

/**
 * A table with a longitude and a latitude column (`lon`, `lng`, `long`, `longitude` or `x`; `lat`, `latitude` or `y`; degrees)
 * as points. Rows without a place are kept, with no geometry.
 *
 * @param table see {@link readTable}
 * @param name name of the block
 * @param space `lonlat` for degrees (the default), `plan` for metres, which nothing checks
 * @throws Fault `table.place` when there are no such columns, `table.number` for a place that is no number, `table.swapped` for a
 *   latitude beyond ±90°
 */
export function pointsOfTable({ names, rows }: Table, name: string, space: 'lonlat' | 'plan' = 'lonlat'): FeatureBlock {
  const [lonName, latName] = [findName(names, longitudes), findName(names, latitudes)];
  if (lonName === undefined || latName === undefined)
    throw new Fault(
      'table.place',
      `the table does not say where its rows lie: its columns are ${names.join(', ')}`,
      'Name two of them "lon" and "lat" (degrees), or join the table to features that have a geometry.',
    );
  const builder = new BlockBuilder(name, space === 'plan' ? 'plane' : 'lonlat');
  rows.forEach((row, i) => {
    const [lon, lat] = [numberIn(row, lonName, i), numberIn(row, latName, i)];
    const placed = lon !== undefined && lat !== undefined;
    if (placed && space === 'lonlat' && Math.abs(lat) > 90)
      throw new Fault(
        'table.swapped',
        `row ${i + 1} has the latitude ${lat}`,
        Math.abs(lon) <= 90
          ? `The columns "${lonName}" and "${latName}" look swapped.`
          : 'Write degrees, or name the system of the coordinates as "crs" of the data entry.',
        `line ${i + 2}`,
      );
    builder.begin();
    if (placed) {
      builder.part();
      builder.ring();
      builder.vertex(lon, lat);
    }
    for (const [key, value] of Object.entries(row)) if (key !== lonName && key !== latName) builder.set(key, value);
    builder.end(placed ? Kind.point : Kind.none);
  });
  return builder.finish();
}
