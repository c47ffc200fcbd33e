import { Fault } from '../base/fault.js';
import { growingBytes } from '../base/growing.js';

const encoder = new TextEncoder();
const decoder = new TextDecoder();
/** ASCII, whose letters are their own bytes. */
const isPlain = /^\p{ASCII}*$/u;

/** Writes numbers in as few bytes as they need, seven bits a byte, and texts with their length before them. */
export class PackWriter {
  private readonly out = growingBytes(1024);

  get length(): number {
    return this.out.length;
  }

  /** A whole number from 0 to 2^53. */
  count(value: number): void {
    while (value > 127) {
      this.out.push((value % 128) + 128);
      value = Math.floor(value / 128);
    }
    this.out.push(value);
  }

  /** A whole number of either sign: even for what is not negative, odd for what is. */
  signed(value: number): void {
    this.count(value < 0 ? -2 * value - 1 : 2 * value);
  }

  text(value: string): void {
    if (isPlain.test(value)) {
      this.count(value.length);
      for (let i = 0; i < value.length; i++) this.out.push(value.charCodeAt(i));
      return;
    }
    const bytes = encoder.encode(value);
    this.count(bytes.length);
    this.bytes(bytes);
  }

  bytes(bytes: Uint8Array): void {
    this.out.reserve(bytes.length).set(bytes, this.out.length);
    this.out.length += bytes.length;
  }

  finish(): Uint8Array {
    return this.out.finish();
  }
}

/** Reads what {@link PackWriter} wrote. */
export class PackReader {
  constructor(
    private readonly bytes: Uint8Array,
    public at = 0,
  ) {}

  get done(): boolean {
    return this.at >= this.bytes.length;
  }

  count(): number {
    let [value, weight] = [0, 1];
    for (let i = 0; i < 8; i++) {
      if (this.at >= this.bytes.length) throw cutShort();
      const byte = this.bytes[this.at++];
      if (byte < 128) return value + byte * weight;
      value += (byte - 128) * weight;
      weight *= 128;
    }
    throw cutShort();
  }

  signed(): number {
    const value = this.count();
    return value % 2 ? -(value + 1) / 2 : value / 2;
  }

  text(): string {
    const length = this.count();
    if (this.at + length > this.bytes.length) throw cutShort();
    this.at += length;
    return decoder.decode(this.bytes.subarray(this.at - length, this.at));
  }
}

/** A gazetteer that ends too early, or holds what it cannot. */
export const cutShort = (): Fault =>
  new Fault('places.damaged', 'the gazetteer is truncated or damaged', 'Create it again with flintwright convert.');
