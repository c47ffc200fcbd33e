import Papa from 'papaparse';
import { assertShallow, jsonOf } from '../../base/depth.js';
import { Fault } from '../../base/fault.js';
import { isTooLong, parseExactJson } from '../../base/json.js';
import { BlockBuilder } from '../../features/builder.js';
import { Kind, type FeatureBlock, type Value } from '../../features/block.js';
import { latitudes, longitudes, withComma, withPoint } from './columns.js';

/** Rows of a table, by column names. */
export interface Table {
  readonly names: readonly string[];
  readonly rows: readonly Readonly<Record<string, Value>>[];
}

/**
 * Reads a table: CSV text (RFC 4180, the first line names the columns; comma, semicolon or tab), JSON text of a list of
 * objects, or such a list. In CSV a column whose filled cells are all numbers becomes numbers, unless one has a leading zero or plus as
 * in `007`, or more digits than a double holds; empty cells are missing values; `true` and `false` stay texts. Where cells are parted by something else than commas,
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
      rows = parseExactJson(source);
    } catch (error) {
      throw new Fault(
        'table.json',
        `the table is not JSON: ${(error as Error).message}`,
        'Correct the text.',
        at,
        error,
      );
    }
    return fromRows(rows as object[], at);
  }
  const { names, cells, values } = readCells(source, at);
  return {
    names,
    rows: cells.map((row) => {
      const out: Record<string, Value> = {};
      for (let c = 0; c < names.length; c++) {
        const value = values[c](row[c]);
        if (value !== undefined) out[names[c]] = value;
      }
      return out;
    }),
  };
}

/** The cells of a CSV text, and how each column's become values; a cell that is empty becomes undefined. */
interface Cells {
  readonly names: readonly string[];
  readonly cells: readonly (readonly string[])[];
  readonly values: readonly ((cell: string | undefined) => string | number | undefined)[];
}

function readCells(source: string, at?: string): Cells {
  const start = source.slice(0, 64).trimStart() || source.trimStart();
  if (!start) throw new Fault('table.empty', 'the table is empty', 'The first line must name the columns.', at);
  if (start.startsWith('<'))
    throw new Fault(
      'table.form',
      'the table begins like HTML or XML',
      'Check the address; it must lead to CSV or JSON.',
      at,
    );
  const { data, errors, meta } = Papa.parse<string[]>(source.replace(/^\uFEFF/, ''), {
    skipEmptyLines: 'greedy',
    delimitersToGuess: [',', ';', '\t', '|'],
  });
  assertQuotes(errors, at);
  if (!data.length)
    throw new Fault('table.empty', 'the table contains only separators', 'The first line must name the columns.', at);
  const [names, ...cells] = data;
  names.forEach((name, i) => {
    if (names.indexOf(name) !== i)
      throw new Fault('table.twice', `two columns are called "${name}"`, 'Rename one of them.', place(at, 1));
  });
  const long = cells.findIndex((row) => row.length > names.length);
  if (long >= 0)
    throw new Fault(
      'table.cells',
      `a row has ${cells[long].length} cells, and there are ${names.length} columns`,
      'Put cells with a separator in them into double quotes.',
      place(at, long + 2),
    );
  const forms = names.map((_, c) => formOf(cells, c));
  const commas = meta.delimiter !== ',' && !forms.some(({ points, hasPoint }) => points && hasPoint);
  return {
    names,
    cells,
    values: forms.map(({ points, commas: withCommas }) => {
      const convert = points
        ? Number
        : commas && withCommas
          ? (cell: string) => Number(cell.replace(',', '.'))
          : (cell: string) => cell;
      return (cell) => {
        const text = trimmed(cell);
        return text === '' ? undefined : convert(text);
      };
    }),
  };
}

/** A cell without blanks round it. */
const trimmed = (cell: string | undefined) => cell?.trim() ?? '';

/** Whether the filled cells of a column are all numbers, with a decimal point or with a comma, and whether one has a point. */
function formOf(cells: Cells['cells'], c: number) {
  let [points, commas, hasPoint, filled] = [true, true, false, false];
  for (const row of cells) {
    const cell = trimmed(row[c]);
    if (cell === '') continue;
    filled = true;
    points &&= withPoint.test(cell) && !isTooLong(cell);
    commas &&= withComma.test(cell);
    hasPoint ||= cell.includes('.');
    if (!points && !commas) break;
  }
  return { points: filled && points, commas: filled && commas, hasPoint };
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

const place = (at: string | undefined, line: number) => `${at ? `${at}, ` : ''}line ${line}`;

function fromRows(rows: readonly object[], at?: string): Table {
  if (!Array.isArray(rows) || rows.some((row) => typeof row !== 'object' || row === null))
    throw new Fault(
      'table.form',
      'the table is not a list of objects',
      'Write [{ "code": "A1", "tonnes": 12 }, …].',
      at,
    );
  const names = new Set(rows.flatMap((row) => Object.keys(row as object)));
  const plain = (value: unknown): Value => {
    if (typeof value !== 'object' || value === null) return value as Value;
    assertShallow(value, 'a cell of the table', 'table.depth');
    return JSON.stringify(value);
  };
  return {
    names: [...names],
    rows: rows.map((row) => Object.fromEntries(Object.entries(row as object).map(([k, v]) => [k, plain(v)]))),
  };
}

/** The number that a cell holds, also where the column holds a text elsewhere; undefined for an empty one. */
function numberIn(value: Value, column: string, index: number): number | undefined {
  if (value === undefined || value === null) return undefined;
  const number = typeof value === 'string' && withPoint.test(value.replace(/^\+/, '')) ? Number(value) : value;
  if (typeof number === 'number') return number;
  throw new Fault(
    'table.number',
    `row ${index + 1} has ${jsonOf(value)} in the column "${column}"`,
    'Write degrees as a number, such as -31.18, or leave the cell empty for a row without a place.',
    `line ${index + 2}`,
  );
}

/**
 * Converts a table to features without geometry.
 *
 * @param table see {@link readTable}
 * @param name name of the block
 */
export function blockOfTable(table: Table, name: string): FeatureBlock {
  return withoutPlaces(rowsOf(table), name);
}

/** Rows of a table as they are asked for: their number, and the value in a column of each. */
interface Rows {
  readonly names: readonly string[];
  readonly count: number;
  value(row: number, column: number): Value;
}

const rowsOf = ({ names, rows }: Table): Rows => ({
  names,
  count: rows.length,
  value: (row, column) => rows[row][names[column]],
});

function withoutPlaces({ names, count, value }: Rows, name: string): FeatureBlock {
  const builder = new BlockBuilder(name, 'lonlat');
  for (let row = 0; row < count; row++) {
    builder.begin();
    names.forEach((key, c) => builder.set(key, value(row, c)));
    builder.end(Kind.none);
  }
  return builder.finish();
}

const findName = (names: readonly string[], words: readonly string[]) =>
  names.find((column) => words.includes(column.trim().toLowerCase()));

/** Whether a text begins as a table does: with a line of names that separators part. JSON and XML do not. */
export const looksLikeTable = (text: string): boolean => /^\s*[^\s<{[][^\n]*[,;\t]/.test(text);

/** Returns whether a table has columns of positions; see {@link pointsOfTable}. */
export const hasPlaces = ({ names }: Pick<Table, 'names'>): boolean =>
  findName(names, longitudes) !== undefined && findName(names, latitudes) !== undefined;

/**
 * A CSV text as features, straight into columns; see {@link readTable} and {@link pointsOfTable}.
 *
 * @param placeless whether rows of a table without places are features without geometry, in place of a fault; default false
 */
export function featuresOfCsv(
  text: string,
  name: string,
  space: 'lonlat' | 'plan' = 'lonlat',
  placeless = false,
): FeatureBlock {
  if (/^\s*\[/.test(text)) {
    const table = readTable(text);
    return placeless && !hasPlaces(table) ? blockOfTable(table, name) : pointsOfTable(table, name, space);
  }
  const { names, cells, values } = readCells(text);
  const rows: Rows = { names, count: cells.length, value: (row, column) => values[column](cells[row][column]) };
  return placeless && !hasPlaces(rows) ? withoutPlaces(rows, name) : withPlaces(rows, name, space);
}

/**
 * A table with a longitude and a latitude column (`lon`, `lng`, `long`, `longitude` or `x`; `lat`, `latitude` or `y`; degrees)
 * as points. Rows without a place are kept, with no geometry.
 *
 * @param table see {@link readTable}
 * @param name name of the block
 * @param space `lonlat` for degrees (the default), `plan` for meters, which nothing checks
 * @throws Fault `table.place` when there are no such columns, `table.number` for a place that is not a number, `table.swapped` for a
 *   latitude beyond ±90°
 */
export function pointsOfTable(table: Table, name: string, space: 'lonlat' | 'plan' = 'lonlat'): FeatureBlock {
  return withPlaces(rowsOf(table), name, space);
}

function withPlaces({ names, count, value }: Rows, name: string, space: 'lonlat' | 'plan'): FeatureBlock {
  const [lonName, latName] = [findName(names, longitudes), findName(names, latitudes)];
  if (lonName === undefined || latName === undefined)
    throw new Fault(
      'table.place',
      `the table has no columns with locations: its columns are ${names.join(', ')}`,
      'Name two of them "lon" and "lat" (degrees), or join the table to features that have a geometry.',
    );
  const [lonAt, latAt] = [names.indexOf(lonName), names.indexOf(latName)];
  const builder = new BlockBuilder(name, space === 'plan' ? 'plane' : 'lonlat');
  // Attributes keep the order of the columns, also where their first cells are empty.
  names.forEach((own, c) => c !== lonAt && c !== latAt && builder.column(own));
  for (let row = 0; row < count; row++) {
    const lon = numberIn(value(row, lonAt), lonName, row);
    const lat = numberIn(value(row, latAt), latName, row);
    const placed = lon !== undefined && lat !== undefined;
    if (placed && space === 'lonlat' && Math.abs(lat) > 90)
      throw new Fault(
        'table.swapped',
        `row ${row + 1} has the latitude ${lat}`,
        Math.abs(lon) <= 90
          ? `The columns "${lonName}" and "${latName}" look swapped.`
          : 'Write degrees, or name the system of the coordinates as "crs" of the data entry.',
        `line ${row + 2}`,
      );
    builder.begin();
    if (placed) {
      builder.part();
      builder.ring();
      builder.vertex(lon, lat);
    }
    for (let c = 0; c < names.length; c++) if (c !== lonAt && c !== latAt) builder.set(names[c], value(row, c));
    builder.end(placed ? Kind.point : Kind.none);
  }
  return builder.finish();
}
