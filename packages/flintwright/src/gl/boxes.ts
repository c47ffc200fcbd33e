/** Floats of one box instance; see the box shader. */
export const boxFloats = 20;

/** Boxes for the box shader, written one after the other; the list grows as it has to. */
export class BoxList {
  count = 0;
  floats: Float32Array;

  /** @param room boxes that there is room for at first */
  constructor(room = 256) {
    this.floats = new Float32Array(room * boxFloats);
  }

  /** Begins anew. */
  clear(): this {
    this.count = 0;
    return this;
  }

  put(
    box: readonly number[],
    uv: readonly number[],
    color: readonly number[],
    halo: readonly number[],
    [rim, pixel, turn]: readonly [number, number, number],
  ): void {
    const o = this.reserve(1);
    const out = this.floats;
    out.set(box, o);
    out.set(uv, o + 4);
    out.set(color, o + 8);
    out.set(halo, o + 12);
    out[o + 16] = rim;
    out[o + 17] = pixel;
    out[o + 18] = turn;
    out[o + 19] = 0;
  }

  /** Puts the boxes of another list, moved by some pixels, their colors thinned. */
  putAll(boxes: BoxList, x: number, y: number, opacity: number): void {
    const from = this.reserve(boxes.count);
    const out = this.floats;
    out.set(boxes.floats.subarray(0, boxes.count * boxFloats), from);
    for (let o = from; o < from + boxes.count * boxFloats; o += boxFloats) {
      out[o] += x;
      out[o + 1] += y;
      if (opacity !== 1) for (let k = o + 8; k < o + 16; k++) out[k] *= opacity;
    }
  }

  /** Makes room for some more; the float at which they begin. */
  private reserve(more: number): number {
    const at = this.count * boxFloats;
    this.count += more;
    if (this.count * boxFloats > this.floats.length) {
      const bigger = new Float32Array(Math.max(this.count * boxFloats, 2 * this.floats.length));
      bigger.set(this.floats);
      this.floats = bigger;
    }
    return at;
  }
}
