const [zero, nine, minus, plus, point] = [0x30, 0x39, 0x2d, 0x2b, 0x2e];

/** Powers of ten that a double holds exactly. */
const tens = Array.from({ length: 23 }, (_, k) => 10 ** k);
/** Whole numbers below are exact, too. */
const mostExact = 2 ** 53;

/** Texts that are kept, so that the next of the same bytes costs no decoding. */
const keptTexts = 4096;
const longestKept = 48;

/** Pieces of bytes as one. */
export function joined(pieces: readonly Uint8Array[]): Uint8Array {
  if (pieces.length === 1) return pieces[0];
  const out = new Uint8Array(pieces.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const piece of pieces) {
    out.set(piece, at);
    at += piece.length;
  }
  return out;
}

/** The buffers of pieces, each once, as they may be handed from thread to thread. */
export const buffersOfPieces = (pieces: readonly Uint8Array[]): ArrayBuffer[] => [
  ...new Set(pieces.map(({ buffer }) => buffer as ArrayBuffer)),
];

/** Reads texts and numbers out of UTF-8 bytes, without a text for every number, and each short text once. */
export class ByteReader {
  /** One past the last byte of the number that was read last. */
  end = 0;
  private readonly decoder = new TextDecoder('utf-8', { ignoreBOM: true });
  private readonly texts = new Map<number, { readonly from: number; readonly length: number; readonly text: string }>();

  constructor(readonly bytes: Uint8Array) {}

  /**
   * The number that begins at a byte, by the grammar of JSON (RFC 8259, section 6); `end` is behind it.
   *
   * @returns NaN where none begins
   */
  number(from: number): number {
    const { bytes } = this;
    let i = bytes[from] === minus ? from + 1 : from;
    const first = i;
    let whole = 0;
    let places = 0;
    for (; bytes[i] >= zero && bytes[i] <= nine; i++) whole = 10 * whole + (bytes[i] - zero);
    if (i === first || (i > first + 1 && bytes[first] === zero)) return NaN;
    if (bytes[i] === point) {
      const start = ++i;
      for (; bytes[i] >= zero && bytes[i] <= nine; i++) whole = 10 * whole + (bytes[i] - zero);
      places = i - start;
      if (!places) return NaN;
    }
    const hasPower = (bytes[i] | 0x20) === 0x65;
    if (hasPower) {
      i++;
      if (bytes[i] === plus || bytes[i] === minus) i++;
      const start = i;
      while (bytes[i] >= zero && bytes[i] <= nine) i++;
      if (i === start) return NaN;
    }
    this.end = i;
    // A whole number and a power of ten that are both exact give the nearest double (Clinger 1990, section 3).
    if (!hasPower && whole < mostExact && places < tens.length) {
      const size = whole / tens[places];
      return bytes[from] === minus ? -size : size;
    }
    return Number(this.decode(from, i));
  }

  /** The text between two bytes, decoded anew. */
  decode(from: number, to: number): string {
    return this.decoder.decode(this.bytes.subarray(from, to));
  }

  /**
   * The text between two bytes; the same bytes are decoded once, as long as they are short and their kind is not too many.
   *
   * @param hash a number that the same bytes have in common, see {@link hashed}
   */
  text(from: number, to: number, hash: number): string {
    const { bytes, texts } = this;
    const length = to - from;
    const known = texts.get(hash);
    if (known?.length === length) {
      let same = 0;
      while (same < length && bytes[known.from + same] === bytes[from + same]) same++;
      if (same === length) return known.text;
    }
    const text = this.decode(from, to);
    if (length <= longestKept) {
      if (texts.size >= keptTexts) texts.clear();
      texts.set(hash, { from, length, text });
    }
    return text;
  }
}

/** The hash of no bytes. */
export const firstHash = 7;

/** The hash of bytes, with one more of them. */
export const hashed = (hash: number, byte: number): number => (Math.imul(hash, 31) + byte) | 0;
