// A loose shapefile cut into parts that are shapefiles by themselves: its shapes, and the rows of its table beside them.
import { joined, type SplitPart, type Splitter } from '../files/split.js';
import { assertMainHeader, cutShapes, recordLength } from './shapes.js';
import { cutTable, shapefileRows, tableLayout } from './faults.js';

const headBytes = 100;

/** Cuts the main file of a shapefile between its records. */
export class ShapeSplitter implements Splitter {
  private held: Uint8Array = new Uint8Array(0);
  private head: Uint8Array | undefined;
  /** Bytes of the file before what is held, and where its header says it ends. */
  private before = 0;
  private stated = 0;
  private cut = 0;
  private records = 0;

  /**
   * Makes one.
   *
   * @param name name of the file, for messages
   * @param wanted bytes of a part, at least
   */
  constructor(
    private readonly name: string,
    private readonly wanted: number,
  ) {}

  take(piece: Uint8Array): SplitPart | undefined {
    this.held = joined(this.held, piece);
    if (!this.head && this.held.length >= headBytes) {
      this.head = this.held.slice(0, headBytes);
      this.stated = assertMainHeader(this.head, this.name);
      this.drop(headBytes);
    }
    if (!this.head) return undefined;
    this.walk();
    return this.cut >= this.wanted ? this.part() : undefined;
  }

  /** Goes on to the last record that is whole. */
  private walk(): void {
    const { held } = this;
    const view = new DataView(held.buffer, held.byteOffset, held.byteLength);
    const end = Math.min(held.length, this.stated - this.before);
    while (this.cut + 12 <= end) {
      const next = this.cut + 8 + recordLength(view, this.cut, this.stated - this.before, this.name, this.before);
      if (next > end) return;
      this.cut = next;
      this.records++;
    }
  }

  private drop(count: number): void {
    this.held = this.held.slice(count);
    this.before += count;
    this.cut = 0;
  }

  private part(): SplitPart {
    const bytes = joined(this.head!, this.held.subarray(0, this.cut));
    new DataView(bytes.buffer).setInt32(24, bytes.length / 2);
    const features = this.records;
    this.drop(this.cut);
    this.records = 0;
    return { bytes, lines: 0, features };
  }

  end(): SplitPart | undefined {
    if (!this.head || this.before + this.held.length < this.stated)
      throw cutShapes(`${this.name}, byte ${this.before + this.held.length}${this.head ? ` of ${this.stated}` : ''}`);
    if (this.before + this.cut < this.stated) throw cutShapes(`${this.name}, byte ${this.before + this.cut}`);
    // A file without any shape is a part by itself.
    return this.records || this.before === headBytes ? this.part() : undefined;
  }
}

/** The rows of a table that comes piece by piece, handed out beside the shapes that they belong to. */
export class RowSplitter {
  private readonly pieces: AsyncIterator<Uint8Array>;
  private held: Uint8Array = new Uint8Array(0);
  private read = 0;
  private head: Uint8Array | undefined;
  private rowLength = 1;
  private count = 0;
  private given = 0;

  /**
   * Makes one.
   *
   * @param name name of the shapefile, without its ending, for messages
   * @param pieces bytes of its table
   */
  constructor(
    private readonly name: string,
    pieces: AsyncIterable<Uint8Array>,
  ) {
    this.pieces = pieces[Symbol.asyncIterator]();
  }

  private async need(length: number): Promise<Uint8Array> {
    const got = [this.held];
    let size = this.held.length;
    while (size < length) {
      const { value, done } = await this.pieces.next();
      if (done) throw cutTable(`${this.name}.dbf`, this.read);
      got.push(value);
      size += value.length;
      this.read += value.length;
    }
    const all = joined(...got);
    this.held = all.slice(length);
    return all.subarray(0, length);
  }

  /**
   * The table of the next rows, by itself.
   *
   * @param count rows
   * @throws Fault `shapefile.rows` where it has fewer, `dbf.cut`, `dbf.header`
   */
  async next(count: number): Promise<Uint8Array> {
    if (!this.head) {
      const begin = await this.need(33);
      const layout = tableLayout(begin, `${this.name}.dbf`);
      this.head = joined(begin, await this.need(layout.headerLength - 33));
      [this.count, this.rowLength] = [layout.count, layout.rowLength];
    }
    if (this.given + count > this.count) throw shapefileRows(this.name, this.count, `at least ${this.given + count}`);
    const out = joined(this.head, await this.need(count * this.rowLength));
    new DataView(out.buffer).setUint32(4, count, true);
    this.given += count;
    return out;
  }

  /** Says that no shape is left. @throws Fault `shapefile.rows` where rows are */
  end(): void {
    if (this.given < this.count) throw shapefileRows(this.name, this.count, String(this.given));
  }
}
