/**
 * Boxes on the screen that have been given away, in pixels. Boxes may reach beyond the screen; they are kept in a
 * grid of cells so that a question looks only at its neighbours.
 */
export class Crowd {
  private readonly cells = new Map<number, number[]>();
  private readonly boxes: number[] = [];

  constructor(private readonly cell = 64) {}

  /** Whether a box touches none that was given away. */
  isFree(left: number, top: number, right: number, bottom: number): boolean {
    const { boxes, cell, cells } = this;
    for (let cy = Math.floor(top / cell); cy <= Math.floor(bottom / cell); cy++) {
      for (let cx = Math.floor(left / cell); cx <= Math.floor(right / cell); cx++) {
        const list = cells.get((cy + 512) * 4096 + cx + 512);
        if (!list) continue;
        for (const b of list)
          if (left < boxes[b + 2] && right > boxes[b] && top < boxes[b + 3] && bottom > boxes[b + 1]) return false;
      }
    }
    return true;
  }

  /** Gives a box away. */
  take(left: number, top: number, right: number, bottom: number): void {
    const at = this.boxes.push(left, top, right, bottom) - 4;
    const { cell } = this;
    for (let cy = Math.floor(top / cell); cy <= Math.floor(bottom / cell); cy++) {
      for (let cx = Math.floor(left / cell); cx <= Math.floor(right / cell); cx++) {
        const key = (cy + 512) * 4096 + cx + 512;
        const list = this.cells.get(key);
        if (list) list.push(at);
        else this.cells.set(key, [at]);
      }
    }
  }
}
