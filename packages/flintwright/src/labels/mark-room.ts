const cell = 64;
const columns = 4096;

/** The room that marks stand in, kept free of labels; only the label of a mark may stand on it. */
export class MarkRoom {
  /** Middle and half the side of each mark, by cell. */
  private readonly cells = new Map<number, number[]>();

  /** Takes the room of a mark. */
  add(x: number, y: number, half: number): void {
    for (const key of this.keys(x - half, y - half, x + half, y + half)) {
      const held = this.cells.get(key);
      if (held) held.push(x, y, half);
      else this.cells.set(key, [x, y, half]);
    }
  }

  /**
   * Whether a box is free of marks.
   *
   * @param box left, top, right and bottom in pixels
   * @param own the place that the label belongs to: a mark that stands just there is its own
   */
  isFree(
    [left, top, right, bottom]: readonly [number, number, number, number],
    own: readonly [number, number],
  ): boolean {
    for (const key of this.keys(left, top, right, bottom)) {
      const held = this.cells.get(key) ?? [];
      for (let i = 0; i < held.length; i += 3) {
        const [x, y, half] = [held[i], held[i + 1], held[i + 2]];
        if (x + half <= left || x - half >= right || y + half <= top || y - half >= bottom) continue;
        if (Math.abs(x - own[0]) > 1.5 || Math.abs(y - own[1]) > 1.5) return false;
      }
    }
    return true;
  }

  private *keys(left: number, top: number, right: number, bottom: number): Generator<number> {
    for (let y = Math.floor(top / cell); y <= Math.floor(bottom / cell); y++)
      for (let x = Math.floor(left / cell); x <= Math.floor(right / cell); x++) yield y * columns + x;
  }
}
