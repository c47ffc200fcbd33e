import { greatest } from '../../base/lists.js';
import { Fault } from '../../base/fault.js';
import { settle, type FilePart } from '../files/feature-file.js';
import type { WarningList } from '../files/warnings.js';
import { cutTable, tableLayout } from './faults.js';
import { decoderFor, driverCodePage, type Decode } from './code-pages.js';

/** A row of the attribute file; undefined for one that is marked as deleted. */
export type DbfRow = Readonly<Record<string, unknown>> | undefined;

interface Field {
  readonly name: string;
  readonly type: string;
  readonly at: number;
  readonly length: number;
  readonly decimals: number;
}

/**
 * Reads the attribute file of a shapefile (dBASE III to 7 tables without memo files).
 *
 * @param bytes the .dbf file
 * @param name its name, for messages
 * @param codePage what the .cpg file says; default the driver byte of the table
 * @param warnings takes what was guessed
 * @param part the part of a file that it is; default the whole of it
 * @throws Fault `dbf.cut`, `dbf.header`, `dbf.field`
 */
export async function readDbf(
  bytes: Uint8Array,
  name: string,
  codePage: string | undefined,
  warnings: WarningList,
  part?: FilePart,
): Promise<DbfRow[]> {
  const { count, headerLength, rowLength } = tableLayout(bytes, name);
  if (headerLength > bytes.length) throw cutTable(name, bytes.length);
  const decode = await settle(part, 'decoder', () => decoderOf(codePage, bytes[29], name, warnings));
  const fields = fieldsOf(bytes, headerLength, rowLength, name, decode);
  if (headerLength + count * rowLength > bytes.length) throw cutTable(name, bytes.length);
  const [used, more] = [
    1 + fields.reduce((sum, { length }) => sum + length, 0),
    bytes.length - headerLength - count * rowLength,
  ];
  if (used < rowLength || (more > rowLength && !part))
    warnings.add(
      'doubtful.dbf',
      used < rowLength
        ? `the fields of the table take ${used} bytes of a row, and its header says ${rowLength}`
        : `the header of the table says ${count} rows, and there are bytes for ${Math.floor(more / rowLength)} more`,
      'The header may be wrong. Compare some attributes with the original data.',
      name,
    );
  let deleted = 0;
  const rows = Array.from({ length: count }, (_, r): DbfRow => {
    const row = bytes.subarray(headerLength + r * rowLength, headerLength + (r + 1) * rowLength);
    if (row[0] === 0x2a) {
      deleted++;
      return undefined;
    }
    const out: Record<string, unknown> = {};
    for (const field of fields) {
      const value = valueOf(row.subarray(field.at, field.at + field.length), field, decode);
      if (value !== undefined) out[field.name] = value;
    }
    return out;
  });
  if (deleted)
    warnings.add(
      'skipped.deleted',
      'rows are marked as deleted',
      'They were left out, with their shapes.',
      name,
      deleted,
    );
  return rows;
}

async function decoderOf(
  codePage: string | undefined,
  driver: number,
  name: string,
  warnings: WarningList,
): Promise<Decode> {
  const said = codePage ?? driverCodePage(driver);
  const decode = said === undefined ? undefined : await decoderFor(said);
  if (decode) return decode;
  if (said !== undefined)
    warnings.add(
      'mended.code-page',
      `the code page "${said.trim()}" is not known`,
      'Texts were read as UTF-8, or else as Windows-1252.',
      name,
    );
  else
    warnings.add(
      'mended.no-cpg',
      'no .cpg file and no mark in the table says how its texts are encoded',
      'They were read as UTF-8, or else as Windows-1252. If letters look wrong, add a .cpg file with the name of the encoding.',
      name,
    );
  const [strict, old] = [new TextDecoder('utf-8', { fatal: true }), new TextDecoder('windows-1252')];
  return (text) => {
    try {
      return strict.decode(text);
    } catch {
      // A text that is no UTF-8 is one of the older encoding.
      return old.decode(text);
    }
  };
}

function fieldsOf(bytes: Uint8Array, headerLength: number, rowLength: number, name: string, decode: Decode): Field[] {
  const fields: Field[] = [];
  const names = new Set<string>();
  let at = 1;
  for (let i = 32; i + 32 <= headerLength && bytes[i] !== 0x0d; i += 32) {
    const raw = bytes.subarray(i, i + 11);
    const end = raw.indexOf(0);
    let label = decode(end < 0 ? raw : raw.subarray(0, end)).trim() || `field_${fields.length + 1}`;
    for (let k = 2; names.has(label); k++) label = `${label.replace(/_\d+$/, '')}_${k}`;
    names.add(label);
    const type = String.fromCharCode(bytes[i + 11]);
    // Texts longer than 255 keep the upper byte of their length where numbers keep their decimals.
    const length = type === 'C' ? bytes[i + 16] + 256 * bytes[i + 17] : bytes[i + 16];
    fields.push({ name: label, type, at, length, decimals: bytes[i + 17] });
    at += length;
  }
  if (at > rowLength)
    throw new Fault(
      'dbf.field',
      `the fields of ${name} are ${at} bytes long, and its rows ${rowLength}`,
      'The table is damaged; write it again.',
      name,
    );
  return fields;
}

function valueOf(bytes: Uint8Array, { type }: Field, decode: Decode): unknown {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (type === 'I' || type === '+') return bytes.length >= 4 ? view.getInt32(0, true) : undefined;
  if (type === 'O' || (type === 'B' && bytes.length === 8)) return view.getFloat64(0, true);
  if (type === '@' || type === 'T') {
    // Julian day number, and milliseconds of the day.
    if (bytes.length < 8) return undefined;
    const [day, milliseconds] = [view.getInt32(0, true), view.getInt32(4, true)];
    return day > 0 ? new Date((day - 2440588) * 86400000 + milliseconds).toISOString() : undefined;
  }
  // Some writers fill up with noughts.
  const text = decode(bytes).split('\u0000', 1)[0].trimEnd();
  const trimmed = text.trim();
  if (type === 'L') return /^[ytj]$/i.test(trimmed) ? true : /^[nf]$/i.test(trimmed) ? false : undefined;
  if (type === 'D')
    return /^\d{8}$/.test(trimmed) ? `${trimmed.slice(0, 4)}-${trimmed.slice(4, 6)}-${trimmed.slice(6)}` : undefined;
  if (type === 'N' || type === 'F') {
    // Stars fill a number that found no room.
    if (!trimmed || /^\*+$/.test(trimmed)) return undefined;
    const number = Number(trimmed.replace(',', '.'));
    return Number.isFinite(number) ? number : trimmed;
  }
  return trimmed === '' ? undefined : text;
}

/** A row count and the bytes of a table, for writing. */
export interface WrittenTable {
  readonly dbf: Uint8Array;
  /** Names as written, by the names of the attributes. */
  readonly renamed: ReadonlyMap<string, string>;
}

/** Writes rows as a dBASE III table with texts in UTF-8; names are cut to ten bytes, and kept apart. */
export function writeDbf(rows: readonly Readonly<Record<string, unknown>>[], warnings: WarningList): WrittenTable {
  const encoder = new TextEncoder();
  const names = [...new Set(rows.flatMap((row) => Object.keys(row)))];
  const renamed = new Map<string, string>();
  const taken = new Set<string>();
  for (const name of names) {
    const short = fit(name.replace(/[^\p{L}\p{N}_]/gu, '_'), 10);
    let label = short;
    for (let k = 2; taken.has(label.toLowerCase()); k++) label = `${fit(short, 9 - String(k).length)}_${k}`;
    taken.add(label.toLowerCase());
    renamed.set(name, label);
    if (label !== name)
      warnings.add(
        'mended.name',
        'names of attributes do not fit the ten bytes of the format',
        'They were shortened.',
        `${name} → ${label}`,
      );
  }
  const columns = names.map((name) =>
    columnOf(
      rows.map((row) => row[name]),
      name,
      encoder,
      warnings,
    ),
  );
  const rowLength = 1 + columns.reduce((sum, { length }) => sum + length, 0);
  const headerLength = 32 + 32 * columns.length + 1;
  const out = new Uint8Array(headerLength + rowLength * rows.length + 1).fill(0x20, headerLength);
  const view = new DataView(out.buffer);
  const today = new Date();
  out.set([0x03, today.getFullYear() - 1900, today.getMonth() + 1, today.getDate()]);
  view.setUint32(4, rows.length, true);
  view.setUint16(8, headerLength, true);
  view.setUint16(10, rowLength, true);
  columns.forEach(({ type, length, decimals }, i) => {
    const at = 32 + 32 * i;
    out.set(encoder.encode(renamed.get(names[i])!).subarray(0, 10), at);
    out[at + 11] = type.charCodeAt(0);
    out[at + 16] = length;
    out[at + 17] = decimals;
  });
  out[headerLength - 1] = 0x0d;
  rows.forEach((_, r) => {
    let at = headerLength + r * rowLength + 1;
    for (const { cells, length, type } of columns) {
      const cell = cells[r];
      // Numbers stand to the right.
      out.set(cell, type === 'N' ? at + length - cell.length : at);
      at += length;
    }
  });
  out[out.length - 1] = 0x1a;
  return { dbf: out, renamed };
}

/** A text cut to so many bytes of UTF-8, at a whole letter. */
function fit(text: string, most: number): string {
  // A unit of a string takes at most three bytes.
  return text.length * 3 <= most ? text : text.slice(0, new TextEncoder().encodeInto(text, new Uint8Array(most)).read);
}

interface WrittenColumn {
  readonly type: 'N' | 'C' | 'L' | 'D';
  readonly length: number;
  readonly decimals: number;
  readonly cells: readonly Uint8Array[];
}

/** Most characters of a number (dBASE IV, field type N). */
const numberBytes = 20;

/** Share of a number by which rounding may change it: nine digits stay. */
const leastPrecision = 5e-10;

/** Decimals that keep every number, as far as the longest leaves room for them. */
function decimalsFor(numbers: readonly number[]): number {
  const needed = greatest(
    numbers.map((value) => {
      const [digits, power = '0'] = String(Math.abs(value)).split('e');
      return Math.max(0, (digits.split('.')[1]?.length ?? 0) - Number(power));
    }),
  );
  // The point takes one character.
  const room =
    numberBytes -
    1 -
    greatest(numbers.map((value) => Math.trunc(value).toFixed(0).length + Number(value < 0 && value > -1)));
  return Math.max(0, Math.min(needed, room));
}

function columnOf(
  values: readonly unknown[],
  name: string,
  encoder: TextEncoder,
  warnings: WarningList,
): WrittenColumn {
  const filled = values.filter((value) => value !== null && value !== undefined);
  const is = (type: string) => filled.length > 0 && filled.every((value) => typeof value === type);
  const cellsOf = (text: (value: unknown) => string) =>
    values.map((value) => encoder.encode(value === null || value === undefined ? '' : text(value)));
  if (is('boolean'))
    return { type: 'L', length: 1, decimals: 0, cells: cellsOf((value) => (value === true ? 'T' : 'F')) };
  if (is('number')) {
    const numbers = filled as number[];
    const decimals = decimalsFor(numbers);
    const cells = cellsOf((value) => (value as number).toFixed(decimals));
    const length = greatest(cells.map((cell) => cell.length));
    const rounded = numbers.filter((value) => Number(value.toFixed(decimals)) !== value);
    const off = (value: number) => Math.abs(Number(value.toFixed(decimals)) - value);
    if (
      numbers.every((value) => Math.abs(value) < 1e20) &&
      length <= numberBytes &&
      rounded.every((value) => off(value) <= Math.abs(value) * leastPrecision)
    ) {
      if (rounded.length)
        warnings.add(
          'mended.digits',
          `numbers have more than the ${numberBytes} characters of a number hold`,
          `They were rounded to ${decimals} decimals.`,
          name,
          rounded.length,
        );
      return { type: 'N', length, decimals, cells };
    }
    warnings.add(
      'mended.number-text',
      `numbers do not fit into the ${numberBytes} characters of a number`,
      'They were written as texts, with all their digits.',
      name,
    );
  }
  if (filled.length && filled.every((value) => typeof value === 'string' && /^\d{4}-\d\d-\d\d$/.test(value)))
    return { type: 'D', length: 8, decimals: 0, cells: cellsOf((value) => (value as string).replaceAll('-', '')) };
  const texts = values.map((value) => {
    const text =
      value === null || value === undefined ? '' : typeof value === 'object' ? JSON.stringify(value) : String(value);
    const short = fit(text, 254);
    if (short !== text)
      warnings.add('mended.long-text', 'texts are longer than the 254 bytes of the format', 'They were cut.', name);
    return encoder.encode(short);
  });
  return { type: 'C', length: Math.max(1, greatest(texts.map(({ length }) => length))), decimals: 0, cells: texts };
}
