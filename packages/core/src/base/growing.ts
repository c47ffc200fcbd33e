type Typed = Float64Array | Float32Array | Uint32Array | Int32Array | Uint16Array | Uint8Array;

/** A typed array that grows by doubling; `data` may be replaced on growth, so read it anew after `push`. */
export class Growing<T extends Typed> {
  length = 0;
  data: T;

  constructor(
    private readonly make: (length: number) => T,
    capacity = 256,
  ) {
    this.data = make(capacity);
  }

  /** Makes room for `more` further numbers and returns the array to write them into. */
  reserve(more: number): T {
    const wanted = this.length + more;
    if (wanted > this.data.length) {
      const bigger = this.make(Math.max(wanted, this.data.length * 2));
      bigger.set(this.data.subarray(0, this.length));
      this.data = bigger;
    }
    return this.data;
  }

  push(value: number): void {
    this.reserve(1)[this.length++] = value;
  }

  /** Begins anew in the same room, unless that is larger than `most` numbers. */
  restart(most = 1 << 20): void {
    this.length = 0;
    if (this.data.length > most) this.data = this.make(256);
  }

  /** A copy of just the part in use. */
  finish(): T {
    return this.data.slice(0, this.length) as T;
  }
}

export const growingDoubles = (capacity?: number) => new Growing((n) => new Float64Array(n), capacity);
export const growingFloats = (capacity?: number) => new Growing((n) => new Float32Array(n), capacity);
export const growingCounts = (capacity?: number) => new Growing((n) => new Uint32Array(n), capacity);
export const growingBytes = (capacity?: number) => new Growing((n) => new Uint8Array(n), capacity);
