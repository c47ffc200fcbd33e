import { Fault } from '../../base/fault.js';

/** Throws for bytes that end or break off in the middle of a field. */
export function truncated(offset: number, what: string): never {
  throw new Fault(
    'mvt.truncated',
    `the tile ends inside ${what}`,
    'The file was truncated or is not a vector tile; fetch or write it again.',
    `byte ${offset}`,
  );
}

/** Reads the wire form of protocol buffers field by field (varints, fixed numbers and byte runs). */
export class WireReader {
  constructor(
    readonly bytes: Uint8Array,
    public pos = 0,
    public end = bytes.length,
  ) {}

  /** An unsigned number of up to 32 bits; the bits above are read and dropped. */
  varint(): number {
    const { bytes } = this;
    let value = 0;
    for (let shift = 0; shift < 70; shift += 7) {
      if (this.pos >= this.end) truncated(this.pos, 'a number');
      const byte = bytes[this.pos++];
      if (shift < 32) value |= (byte & 0x7f) << shift;
      if (byte < 0x80) return value >>> 0;
    }
    truncated(this.pos, 'a number longer than 64 bits');
  }

  /** An unsigned number of up to 64 bits as a double; exact below 2^53. */
  varint64(): number {
    let value = 0;
    let weight = 1;
    for (let i = 0; i < 10; i++) {
      if (this.pos >= this.end) truncated(this.pos, 'a number');
      const byte = this.bytes[this.pos++];
      value += (byte & 0x7f) * weight;
      if (byte < 0x80) return value;
      weight *= 128;
    }
    truncated(this.pos, 'a number longer than 64 bits');
  }

  /** A signed number in two's complement of 64 bits. */
  int64(): number {
    const { low, high } = this.halves();
    return (high | 0) * 2 ** 32 + low;
  }

  /** A signed number in zigzag form. */
  sint64(): number {
    const { low, high } = this.halves();
    const magnitude = (high >>> 1) * 2 ** 32 + (((low >>> 1) | (high << 31)) >>> 0);
    return low & 1 ? -magnitude - 1 : magnitude;
  }

  private halves(): { low: number; high: number } {
    let low = 0;
    let high = 0;
    for (let shift = 0; shift < 70; shift += 7) {
      if (this.pos >= this.end) truncated(this.pos, 'a number');
      const byte = this.bytes[this.pos++];
      const bits = byte & 0x7f;
      if (shift < 28) low |= bits << shift;
      else if (shift === 28) {
        low |= bits << 28;
        high |= bits >> 4;
      } else if (shift < 63) high |= bits << (shift - 32);
      else high |= (bits & 1) << 31;
      if (byte < 0x80) return { low: low >>> 0, high };
    }
    truncated(this.pos, 'a number longer than 64 bits');
  }

  /** Bytes in a length-delimited field; leaves the position at its first byte. */
  length(what: string): number {
    const length = this.varint();
    if (this.pos + length > this.end) truncated(this.pos, what);
    return length;
  }

  float(): number {
    const view = this.view(4);
    return view.getFloat32(0, true);
  }

  double(): number {
    return this.view(8).getFloat64(0, true);
  }

  private view(size: number): DataView {
    if (this.pos + size > this.end) truncated(this.pos, 'a fixed-size number');
    this.pos += size;
    return new DataView(this.bytes.buffer, this.bytes.byteOffset + this.pos - size, size);
  }

  /** Steps over a field that the reader does not know. */
  skip(wireType: number): void {
    if (wireType === 0) this.varint64();
    else if (wireType === 1) this.pos += 8;
    else if (wireType === 2) {
      const length = this.length('a field');
      this.pos += length;
    } else if (wireType === 5) this.pos += 4;
    else if (wireType === 3) this.skipGroup();
    else {
      throw new Fault(
        'mvt.wire',
        `wire type ${wireType} does not exist`,
        'The bytes are not a vector tile, or are still compressed.',
        `byte ${this.pos}`,
      );
    }
    if (this.pos > this.end) truncated(this.pos, 'a field');
  }

  /** Steps over a group, a form of messages that protocol buffers gave up, to its end. */
  private skipGroup(): void {
    let depth = 1;
    while (depth) {
      if (this.pos >= this.end) truncated(this.pos, 'a group');
      const wireType = this.varint() & 7;
      if (wireType === 3) depth++;
      else if (wireType === 4) depth--;
      else this.skip(wireType);
    }
  }

  text(length: number): string {
    const { bytes } = this;
    const from = this.pos;
    this.pos += length;
    if (length < 24) {
      let text = '';
      for (let i = from; i < this.pos; i++) {
        if (bytes[i] > 127) return decoder.decode(bytes.subarray(from, this.pos));
        text += String.fromCharCode(bytes[i]);
      }
      return text;
    }
    return decoder.decode(bytes.subarray(from, this.pos));
  }
}

const decoder = new TextDecoder();
