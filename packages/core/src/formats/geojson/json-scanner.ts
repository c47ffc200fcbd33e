import { isTooLong, parseExactJson } from '../../base/json.js';
import { ByteReader, firstHash, hashed } from '../../base/bytes.js';

export const quote = 0x22;
export const backslash = 0x5c;
const comma = 0x2c;
const [openBrace, closeBrace, openBracket, closeBracket, colon] = [0x7b, 0x7d, 0x5b, 0x5d, 0x3a];

/**
 * Walks JSON (RFC 8259) in UTF-8 bytes, value by value, and makes nothing but what it is asked for.
 * It takes no text that `JSON.parse` would refuse.
 */
export class JsonScanner {
  /** The byte that is read next. */
  at = 0;
  /** The first byte of the scalar that was read last. */
  from = 0;
  readonly reader: ByteReader;

  /**
   * Begins at the first byte; a byte order mark is passed over.
   *
   * @param bytes UTF-8
   * @param fault thrown for anything that is not JSON, or not the value asked for
   */
  constructor(
    readonly bytes: Uint8Array,
    private readonly fault: Error,
  ) {
    this.reader = new ByteReader(bytes);
    if (bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf) this.at = 3;
  }

  /** Calls `take` with the name of each member of an object; it has to take the value. */
  members(take: (name: string) => void): void {
    this.need(openBrace);
    if (this.peek() === closeBrace) {
      this.at++;
      return;
    }
    for (;;) {
      const name = this.text();
      this.need(colon);
      take(name);
      const next = this.peek();
      this.at++;
      if (next === closeBrace) return;
      if (next !== comma) throw this.fault;
    }
  }

  /** Calls `take` for each value of an array; it has to take the value. */
  items(take: () => void): void {
    this.need(openBracket);
    if (this.peek() === closeBracket) {
      this.at++;
      return;
    }
    for (;;) {
      take();
      const next = this.peek();
      this.at++;
      if (next === closeBracket) return;
      if (next !== comma) throw this.fault;
    }
  }

  /** Passes over `null`; false where something else comes. */
  isNull(): boolean {
    if (this.peek() !== 0x6e) return false;
    this.word('null');
    return true;
  }

  /** A text. */
  text(): string {
    this.need(quote);
    const { bytes } = this;
    const from = this.at;
    this.from = from - 1;
    let hash = firstHash;
    for (let i = from; i < bytes.length; i++) {
      const byte = bytes[i];
      if (byte === quote) {
        this.at = i + 1;
        return this.reader.text(from, i, hash);
      }
      if (byte === backslash) return this.escaped(from);
      if (byte < 0x20) throw this.fault;
      hash = hashed(hash, byte);
    }
    throw this.fault;
  }

  /** A number. */
  number(): number {
    this.peek();
    const { reader } = this;
    this.from = this.at;
    const value = reader.number(this.at);
    if (Number.isNaN(value)) throw this.fault;
    this.at = reader.end;
    return value;
  }

  /** A text, number, truth value or null; a number that a double cannot hold is the text of its digits. */
  scalar(): string | number | boolean | null {
    const byte = this.peek();
    if (byte === quote) return this.text();
    if (byte === 0x74) return (this.word('true'), true);
    if (byte === 0x66) return (this.word('false'), false);
    if (byte === 0x6e) return (this.word('null'), null);
    const value = this.number();
    if (!Number.isInteger(value) || Number.isSafeInteger(value))
      return Number.isFinite(value) ? value : this.lastText();
    const text = this.lastText();
    return isTooLong(text) ? text : value;
  }

  /** The text of the number that was read last. */
  private lastText(): string {
    return this.reader.decode(this.from, this.at);
  }

  /** Whether the value that {@link value} took last was an object or an array. */
  nested = false;

  /** A scalar, or the JSON text of an object or array, without blanks. */
  value(): string | number | boolean | null {
    const byte = this.peek();
    this.nested = byte === openBrace || byte === openBracket;
    if (byte !== openBrace && byte !== openBracket) return this.scalar();
    const from = this.at;
    this.skip();
    return JSON.stringify(parseExactJson(this.reader.decode(from, this.at)));
  }

  /** Passes over a value. */
  skip(depth = 0): void {
    const byte = this.peek();
    if (depth > 64) throw this.fault;
    if (byte === openBrace) this.members(() => this.skip(depth + 1));
    else if (byte === openBracket) this.items(() => this.skip(depth + 1));
    else this.scalar();
  }

  /** Makes sure that nothing follows. */
  end(): void {
    if (this.peek() !== undefined) throw this.fault;
  }

  /** The next byte that is no blank. */
  peek(): number | undefined {
    const { bytes } = this;
    let byte = bytes[this.at];
    while (byte === 0x20 || byte === 0x0a || byte === 0x0d || byte === 0x09) byte = bytes[++this.at];
    return byte;
  }

  private need(byte: number): void {
    if (this.peek() !== byte) throw this.fault;
    this.at++;
  }

  private word(word: string): void {
    for (let i = 0; i < word.length; i++) if (this.bytes[this.at++] !== word.charCodeAt(i)) throw this.fault;
  }

  /** A text with escapes in it. */
  private escaped(from: number): string {
    const { bytes } = this;
    let i = from;
    while (i < bytes.length && bytes[i] !== quote) i += bytes[i] === backslash ? 2 : 1;
    if (i >= bytes.length) throw this.fault;
    this.at = i + 1;
    try {
      return JSON.parse(this.reader.decode(from - 1, i + 1)) as string;
    } catch {
      throw this.fault;
    }
  }
}
