/** Cells of the grid to either side and up and down, in cells; what lies beyond is kept in the outermost ones. */
const columns = 192;
const rows = 128;
/** Cells that the grid reaches to the left of the screen and above it. */
const before = 16;

/**
 * Boxes on the screen that have been given away, in pixels. Boxes may reach beyond the screen; they are kept in a
 * grid of cells so that a question looks only at its neighbors.
 */
export class CollisionGrid {
  /** Each cell's newest entry, counted from 1; 0 for none. */
  private readonly heads = new Int32Array(columns * rows);
  /** The box of each entry, and the entry before it in the same cell. */
  private entries = new Int32Array(512);
  private entryCount = 0;
  private boxes = new Float64Array(512);
  private boxCount = 0;

  constructor(private readonly cell = 64) {}

  /** Takes all boxes back. */
  clear(): void {
    this.heads.fill(0);
    this.entryCount = this.boxCount = 0;
  }

  /** Whether a box touches none that was given away. */
  isFree(left: number, top: number, right: number, bottom: number): boolean {
    const { boxes, entries, heads } = this;
    const [west, east] = [this.column(left), this.column(right)];
    const south = this.row(bottom);
    for (let y = this.row(top); y <= south; y++) {
      for (let x = west; x <= east; x++) {
        for (let at = heads[y * columns + x]; at; at = entries[2 * at - 1]) {
          const b = entries[2 * at - 2];
          if (left < boxes[b + 2] && right > boxes[b] && top < boxes[b + 3] && bottom > boxes[b + 1]) return false;
        }
      }
    }
    return true;
  }

  /** Gives a box away. */
  take(left: number, top: number, right: number, bottom: number): void {
    const b = 4 * this.boxCount++;
    if (b === this.boxes.length) this.boxes = longer(this.boxes, new Float64Array(2 * b));
    const { boxes, heads } = this;
    boxes[b] = left;
    boxes[b + 1] = top;
    boxes[b + 2] = right;
    boxes[b + 3] = bottom;
    const [west, east] = [this.column(left), this.column(right)];
    const south = this.row(bottom);
    for (let y = this.row(top); y <= south; y++) {
      for (let x = west; x <= east; x++) {
        const e = 2 * this.entryCount++;
        if (e === this.entries.length) this.entries = longer(this.entries, new Int32Array(2 * e));
        this.entries[e] = b;
        this.entries[e + 1] = heads[y * columns + x];
        heads[y * columns + x] = this.entryCount;
      }
    }
  }

  private column(x: number): number {
    return Math.max(0, Math.min(columns - 1, Math.floor(x / this.cell) + before));
  }

  private row(y: number): number {
    return Math.max(0, Math.min(rows - 1, Math.floor(y / this.cell) + before));
  }
}

function longer<T extends Int32Array | Float64Array>(list: T, into: T): T {
  into.set(list);
  return into;
}
