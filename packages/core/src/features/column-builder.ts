import { Growing } from '../base/growing.js';
import type { Column, Value } from './block.js';

/** Different values of a column of numbers beyond which their table is given up for plain numbers. */
const mostDifferent = 4096;

/** Gathers the values of one attribute, feature by feature: few different ones in a table, many different numbers as they are. */
export class ColumnBuilder {
  private values: Value[] = [];
  private lookup = new Map<Value, number>();
  private codes: Growing<Uint32Array> | undefined = new Growing((n) => new Uint32Array(n));
  private numbers: Growing<Float64Array> | undefined;
  private onlyNumbers = true;
  /** The feature that was given a value last; −1 for none. */
  last = -1;

  constructor(readonly name: string) {}

  /**
   * Gives a feature its value. Features come in order; one that is given a value again has the later one.
   *
   * @param feature row of the feature, from 0
   * @param value what it has; not null and not undefined
   */
  set(feature: number, value: Value): void {
    this.last = feature;
    if (this.numbers) {
      if (typeof value === 'number') {
        write(this.numbers, feature, value, NaN);
        return;
      }
      this.useTable();
    }
    let code = this.lookup.get(value);
    if (code === undefined) {
      if (typeof value !== 'number') this.onlyNumbers = false;
      else if (this.onlyNumbers && this.values.length >= mostDifferent) {
        this.useNumbers();
        write(this.numbers!, feature, value, NaN);
        return;
      }
      code = this.values.push(value);
      this.lookup.set(value, code);
    }
    write(this.codes!, feature, code, 0);
  }

  /** The column of so many features. */
  finish(count: number): Column {
    const { name } = this;
    // A column of mostly different numbers is smaller and faster as plain numbers.
    if (!this.numbers && this.onlyNumbers && this.values.length > 64 && this.values.length > count / 8)
      this.useNumbers();
    if (this.numbers) return { name, numbers: filled(this.numbers, count, NaN) };
    return { name, codes: filled(this.codes!, count, 0), values: this.values };
  }

  private useNumbers(): void {
    const { codes, values } = this;
    const numbers = new Growing((n) => new Float64Array(n), codes!.data.length);
    for (let i = 0; i < codes!.length; i++) {
      const code = codes!.data[i];
      numbers.data[i] = code ? (values[code - 1] as number) : NaN;
    }
    numbers.length = codes!.length;
    this.numbers = numbers;
    this.codes = undefined;
    this.values = [];
    this.lookup.clear();
  }

  /** A text came behind many numbers. */
  private useTable(): void {
    const { numbers } = this;
    this.numbers = undefined;
    this.codes = new Growing((n) => new Uint32Array(n), numbers!.data.length);
    this.onlyNumbers = false;
    for (let i = 0; i < numbers!.length; i++) {
      const value = numbers!.data[i];
      if (Number.isNaN(value)) continue;
      let code = this.lookup.get(value);
      if (code === undefined) this.lookup.set(value, (code = this.values.push(value)));
      write(this.codes, i, code, 0);
    }
  }
}

/** Writes a value at a place, and fills what was left out before it. */
function write<T extends Uint32Array | Float64Array>(list: Growing<T>, at: number, value: number, missing: number) {
  if (at >= list.length) {
    const data = list.reserve(at + 1 - list.length);
    for (let i = list.length; i < at; i++) data[i] = missing;
    list.length = at + 1;
  }
  list.data[at] = value;
}

function filled<T extends Uint32Array | Float64Array>(list: Growing<T>, count: number, missing: number): T {
  if (list.length < count) write(list, count - 1, missing, missing);
  return list.finish();
}
