// Files whose features follow one another, cut into parts that are files of the same format.
import { Fault } from '../../base/fault.js';

/** A part of a file: a file by itself, and the lines and features that stand in it. */
export interface SplitPart {
  readonly bytes: Uint8Array;
  readonly lines: number;
  readonly features: number;
}

/** Cuts a file that comes piece by piece. */
export interface Splitter {
  /** Takes a piece; answers a part when enough is there. */
  take(piece: Uint8Array): SplitPart | undefined;
  /** The rest of the file. */
  end(): SplitPart | undefined;
}

const [newline, quote, open, close, separator] = [0x0a, 0x22, 0x28, 0x29, 0x1e];

/** Bytes one after the other. */
export function joined(...pieces: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(pieces.reduce((sum, piece) => sum + piece.length, 0));
  let at = 0;
  for (const piece of pieces) {
    out.set(piece, at);
    at += piece.length;
  }
  return out;
}

/** Longest record of a file in parts, in bytes: a mark that never comes must not fill the memory. */
const longest = 1 << 28;

/** Cuts at line ends: of lines, of rows outside of quotes, of geometries outside of brackets, or before separators. */
export class LineSplitter implements Splitter {
  private held: Uint8Array[] = [];
  private size = 0;
  /** Where the last record ends, counted from the beginning of what is held. */
  private cut = 0;
  private quoted = false;
  private depth = 0;
  private lines = 0;
  private linesAtCut = 0;
  private records = 0;
  private recordsAtCut = 0;
  private head: Uint8Array | undefined;

  /**
   * Makes one.
   *
   * @param kind how records end
   * @param wanted bytes of a part, at least
   */
  constructor(
    private readonly kind: 'lines' | 'rows' | 'brackets' | 'separators',
    private readonly wanted: number,
  ) {}

  take(piece: Uint8Array): SplitPart | undefined {
    const { kind } = this;
    for (let i = 0; i < piece.length; i++) {
      const byte = piece[i];
      if (byte === newline) {
        this.lines++;
        if (kind === 'lines' || (kind === 'rows' && !this.quoted) || (kind === 'brackets' && this.depth <= 0)) {
          this.cutAt(this.size + i + 1);
          if (kind === 'rows' && !this.head) this.keepHead(joined(...this.held, piece.subarray(0, i + 1)));
        }
      } else if (byte === quote) this.quoted = !this.quoted;
      else if (byte === open) this.depth++;
      else if (byte === close) this.depth--;
      else if (byte === separator && kind === 'separators' && this.size + i > 0) this.cutAt(this.size + i);
    }
    this.held.push(piece);
    this.size += piece.length;
    if (this.size - this.cut > longest)
      throw new Fault(
        'file.record',
        `a record is longer than ${longest / 2 ** 20} MiB`,
        'A quote or a bracket is perhaps never closed; mend the file.',
        `line ${this.linesAtCut + 1}`,
      );
    return this.cut >= this.wanted ? this.part(this.cut) : undefined;
  }

  private cutAt(at: number): void {
    this.cut = at;
    this.linesAtCut = this.lines;
    this.recordsAtCut = ++this.records;
  }

  private keepHead(head: Uint8Array): void {
    this.head = head;
  }

  end(): SplitPart | undefined {
    this.linesAtCut = this.lines;
    return this.size ? this.part(this.size) : undefined;
  }

  private part(size: number): SplitPart {
    const all = joined(...this.held);
    const own = all.subarray(0, size);
    const rest = all.slice(size);
    const { linesAtCut: lines, recordsAtCut: features } = this;
    // Rows begin with the names of the columns, in every part.
    const bytes = this.kind === 'rows' && this.started && this.head ? joined(this.head, own) : own.slice();
    this.started = true;
    this.held = rest.length ? [rest] : [];
    [this.size, this.cut] = [rest.length, 0];
    this.lines -= lines;
    this.records -= features;
    this.linesAtCut = this.recordsAtCut = 0;
    return { bytes, lines, features };
  }

  private started = false;
}

const [brace, unbrace, bracket, unbracket, backslash] = [0x7b, 0x7d, 0x5b, 0x5d, 0x5c];

/** Cuts a FeatureCollection between its features; what stands before and behind them goes along with every part. */
export class CollectionSplitter implements Splitter {
  private held: Uint8Array[] = [];
  private size = 0;
  private depth = 0;
  private quoted = false;
  private escaped = false;
  /** Texts at the outermost level, to know the key before a bracket. */
  private word: number[] = [];
  private key = '';
  private state: 'before' | 'within' | 'behind' = 'before';
  private head: Uint8Array = new Uint8Array(0);
  private from = 0;
  private cut = 0;
  private count = 0;
  private countAtCut = 0;

  constructor(private readonly wanted: number) {}

  take(piece: Uint8Array): SplitPart | undefined {
    const base = this.size;
    this.held.push(piece);
    this.size += piece.length;
    for (let i = 0; i < piece.length; i++) this.step(piece[i], base + i);
    return this.state === 'within' && this.cut - this.from >= this.wanted ? this.part() : undefined;
  }

  private step(byte: number, at: number): void {
    if (this.quoted) {
      if (this.escaped) this.escaped = false;
      else if (byte === backslash) this.escaped = true;
      else if (byte === quote) {
        this.quoted = false;
        if (this.depth === 1) this.key = String.fromCharCode(...this.word);
        return;
      }
      if (this.depth === 1 && this.word.length < 64) this.word.push(byte);
      return;
    }
    if (byte === quote) {
      this.quoted = true;
      this.word = [];
    } else if (byte === brace || byte === bracket) {
      this.depth++;
      if (this.state === 'before' && byte === bracket && this.depth === 2 && this.key === 'features') {
        this.state = 'within';
        this.from = this.cut = at + 1;
      }
    } else if (byte === unbrace || byte === unbracket) {
      this.depth--;
      if (this.state !== 'within') return;
      if (this.depth === 1) this.state = 'behind';
      else if (this.depth === 2) {
        this.cut = at + 1;
        this.countAtCut = ++this.count;
      }
    }
  }

  /** Features up to the last that is whole, between the head of the collection and a plain end. */
  private part(): SplitPart {
    const all = joined(...this.held);
    if (!this.head.length) this.head = all.slice(0, this.from);
    const own = all.subarray(this.from, this.cut);
    const features = this.countAtCut;
    const bytes = joined(this.head, withoutComma(own), new TextEncoder().encode(']}'));
    const rest = all.slice(this.cut);
    this.held = [rest];
    this.size = rest.length;
    this.from = this.cut = 0;
    this.count -= features;
    this.countAtCut = 0;
    return { bytes, lines: 0, features };
  }

  end(): SplitPart | undefined {
    const all = joined(...this.held);
    if (!this.head.length) return all.length ? { bytes: all, lines: 0, features: this.count } : undefined;
    return { bytes: joined(this.head, withoutComma(all)), lines: 0, features: this.count };
  }
}

/** Bytes without the comma that parts them from what went before. */
function withoutComma(bytes: Uint8Array): Uint8Array {
  let at = 0;
  while (at < bytes.length && (bytes[at] <= 0x20 || bytes[at] === 0x2c)) at++;
  return bytes.subarray(at);
}
