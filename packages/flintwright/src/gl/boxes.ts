/** Floats of one box instance; see the box shader. */
export const boxFloats = 20;

/** Writes boxes for the box shader one after the other, as many as there is room for. */
export class BoxList {
  count = 0;

  constructor(private readonly out: Float32Array) {}

  put(
    box: readonly number[],
    uv: readonly number[],
    color: readonly number[],
    halo: readonly number[],
    [rim, pixel, turn]: readonly [number, number, number],
  ): void {
    const { out } = this;
    const o = this.count * boxFloats;
    if (o + boxFloats > out.length) return;
    this.count++;
    out.set(box, o);
    out.set(uv, o + 4);
    out.set(color, o + 8);
    out.set(halo, o + 12);
    out[o + 16] = rim;
    out[o + 17] = pixel;
    out[o + 18] = turn;
    out[o + 19] = 0;
  }
}
