import { ByteReader, firstHash, hashed } from '../../base/bytes.js';
import { BlockBuilder } from '../../features/builder.js';
import { Kind, type FeatureBlock } from '../../features/block.js';
import type { ColumnBuilder } from '../../features/column-builder.js';
import { isTooLong } from '../../base/json.js';
import { latitudes, longitudes, withPoint } from './columns.js';

const [tab, newline, carriage, space, quote, comma] = [0x09, 0x0a, 0x0d, 0x20, 0x22, 0x2c];

/**
 * Reads a table of points, as `featuresOfCsv` does and with the same result, from the bytes of a plain file: parted by commas, without
 * quotes, a longitude and a latitude among its columns. Several times as fast, as no cell becomes a text but those that are texts.
 *
 * @param bytes UTF-8
 * @param name name of the block
 * @param degrees whether the places are degrees, and are checked
 * @returns undefined for a file that is not as plain as that, or is at fault: `featuresOfCsv` takes it, or tells the fault
 */
export function scanTable(bytes: Uint8Array, name: string, degrees: boolean): FeatureBlock | undefined {
  const lineEnd = bytes.indexOf(newline);
  if (lineEnd < 0) return undefined;
  const start = bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf ? 3 : 0;
  const head = new TextDecoder().decode(bytes.subarray(start, lineEnd)).replace(/\r$/, '');
  // What parts the cells is not guessed here.
  if (/[";\t|]|^\s*[[{<]/.test(head) || /^\s*$/.test(head)) return undefined;
  const names = head.split(',');
  const [lon, lat] = [longitudes, latitudes].map((words) =>
    names.findIndex((one) => words.includes(one.trim().toLowerCase())),
  );
  if (lon < 0 || lat < 0 || new Set(names).size < names.length) return undefined;
  // A column is taken for numbers until a text comes in it; then all begins anew with what is known by then.
  const texts = new Set<number>();
  for (;;) {
    const found = new TablePass(bytes, { names, lon, lat, degrees, texts }).read(name, lineEnd + 1);
    if (typeof found !== 'number') return found;
    if (found === lon || found === lat) return undefined;
    texts.add(found);
  }
}

interface Columns {
  readonly names: readonly string[];
  readonly lon: number;
  readonly lat: number;
  readonly degrees: boolean;
  /** Columns that hold texts. */
  readonly texts: ReadonlySet<number>;
}

/** One walk through the rows. */
class TablePass {
  private readonly reader: ByteReader;
  private readonly row: (string | number | undefined)[];
  /** The byte that is read next. */
  private at = 0;
  /** The column in which a text came among numbers. */
  private mixed = -1;

  constructor(
    private readonly bytes: Uint8Array,
    private readonly columns: Columns,
  ) {
    this.reader = new ByteReader(bytes);
    this.row = columns.names.map(() => undefined);
  }

  /** The features; or the column that turned out to hold texts; undefined where the rows are not plain. */
  read(name: string, start: number): FeatureBlock | number | undefined {
    const builder = new BlockBuilder(name, this.columns.degrees ? 'lonlat' : 'plane');
    const columns = this.columns.names.map((own) => builder.column(own));
    this.at = start;
    while (this.at < this.bytes.length) {
      if (!this.readRow() || !this.take(builder, columns)) return this.mixed < 0 ? undefined : this.mixed;
    }
    return builder.finish();
  }

  /** Reads the cells of a row; false where it is not plain. */
  private readRow(): boolean {
    const { bytes, row } = this;
    for (let c = 0; c < row.length; c++) row[c] = undefined;
    for (let c = 0; ; c++) {
      // A row with too many cells.
      if (c === row.length) return false;
      const end = this.endOfCell(this.at);
      if (end < 0) return false;
      const value = this.cell(this.at, end, c);
      if (value === null) {
        this.mixed = c;
        return false;
      }
      row[c] = value;
      this.at = end + 1;
      if (end >= bytes.length || bytes[end] === newline) return true;
    }
  }

  /** Makes a feature of the row; false where it has no place on the earth. */
  private take(builder: BlockBuilder, columns: readonly ColumnBuilder[]): boolean {
    const { row } = this;
    const { lon, lat, degrees } = this.columns;
    // Lines without a filled cell are none.
    let filled = false;
    for (let c = 0; c < row.length; c++) filled ||= row[c] !== undefined;
    if (!filled) return true;
    const [x, y] = [row[lon] as number | undefined, row[lat] as number | undefined];
    const placed = x !== undefined && y !== undefined;
    if (placed && degrees && Math.abs(y) > 90) return false;
    builder.begin();
    if (placed) {
      builder.part();
      builder.ring();
      builder.vertex(x, y);
    }
    for (let c = 0; c < row.length; c++) {
      const value = row[c];
      if (value !== undefined && c !== lon && c !== lat) columns[c].set(builder.row, value);
    }
    builder.end(placed ? Kind.point : Kind.none);
    return true;
  }

  /** One past the last byte of a cell; −1 where a quote stands in it. */
  private endOfCell(from: number): number {
    const { bytes } = this;
    let end = from;
    for (; end < bytes.length; end++) {
      const byte = bytes[end];
      if (byte === comma || byte === newline) return end;
      if (byte === quote) return -1;
    }
    return end;
  }

  /** The value of a cell; null for a text among numbers. */
  private cell(from: number, to: number, c: number): string | number | undefined | null {
    const { bytes, reader } = this;
    let [start, end] = [from, to];
    while (start < end && isBlank(bytes[start])) start++;
    while (end > start && isBlank(bytes[end - 1])) end--;
    if (start === end) return undefined;
    if (this.columns.texts.has(c)) {
      let hash = firstHash;
      for (let i = start; i < end; i++) hash = hashed(hash, bytes[i]);
      // Blanks of other scripts go, too.
      return reader.text(start, end, hash).trim() || undefined;
    }
    const number = reader.number(start);
    if (!Number.isNaN(number) && reader.end === end)
      // Digits that a double does not hold make an id, not a number.
      return (Number.isFinite(number) && end - start < 16) ||
        Number.isSafeInteger(number) ||
        !isTooLong(reader.decode(start, end))
        ? number
        : null;
    const text = reader.decode(start, end).trim();
    if (text === '') return undefined;
    return withPoint.test(text) && !isTooLong(text) ? Number(text) : null;
  }
}

const isBlank = (byte: number) => byte === space || byte === tab || byte === carriage;
