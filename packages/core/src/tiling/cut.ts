import { growingCounts, growingDoubles } from '../base/growing.js';
import { Kind, type FeatureBlock } from '../features/block.js';
import { markSignificance } from '../geometry/simplify.js';
import { gridHalf, mercatorGrid, type SquareGrid } from '../grid/square.js';

/**
 * Features on their way into tiles. Coordinates are parts of the square world: x from 0 in the west to 1 in
 * the east, y from 0 in the north to 1 in the south. Each vertex carries its significance (squared, in the
 * same units; see {@link markSignificance}), each feature its row in the block it comes from.
 */
export interface Cut {
  readonly count: number;
  readonly rows: Uint32Array;
  readonly kinds: Uint8Array;
  /** minX, minY, maxX, maxY of each feature. */
  readonly boxes: Float64Array;
  readonly featureParts: Uint32Array;
  readonly partRings: Uint32Array;
  readonly ringStarts: Uint32Array;
  readonly coords: Float64Array;
  readonly marks: Float64Array;
  /** How far along its whole line each vertex lies, 0 to 1, where that is asked for. */
  readonly along?: Float64Array;
}

/**
 * Places a block in a square grid and marks the significance of every vertex.
 *
 * @param measured whether vertices of lines are to say how far along the line they lie
 */
export function cutFromBlock(block: FeatureBlock, measured = false, grid: SquareGrid = mercatorGrid): Cut {
  const coords = new Float64Array(block.coords.length);
  for (let i = 0; i < coords.length; i += 2) {
    const [x, y] = grid.at(block.coords[i], block.coords[i + 1]);
    coords[i] = 0.5 + x / (2 * gridHalf);
    coords[i + 1] = 0.5 - y / (2 * gridHalf);
  }
  const marks = new Float64Array(coords.length / 2);
  const boxes = new Float64Array(4 * block.count);
  const along = measured ? new Float64Array(marks.length) : undefined;
  for (let f = 0; f < block.count; f++) {
    const kind = block.kinds[f];
    const ringFrom = block.partRings[block.featureParts[f]];
    const ringTo = block.partRings[block.featureParts[f + 1]];
    for (let r = ringFrom; r < ringTo; r++) {
      const from = block.ringStarts[r];
      const to = block.ringStarts[r + 1];
      if (kind === Kind.point) marks.fill(Infinity, from, to);
      else markSignificance(coords, from, to, kind === Kind.polygon, marks);
      if (along && kind === Kind.line) measure(coords, from, to, along);
    }
    setBox(boxes, f, coords, block.ringStarts[ringFrom], block.ringStarts[ringTo]);
  }
  const { count, kinds, featureParts, partRings, ringStarts } = block;
  return {
    count,
    rows: Uint32Array.from({ length: count }, (_, i) => i),
    kinds,
    boxes,
    featureParts,
    partRings,
    ringStarts,
    coords,
    marks,
    ...(along ? { along } : {}),
  };
}

function measure(coords: Float64Array, from: number, to: number, along: Float64Array): void {
  for (let i = from + 1; i < to; i++)
    along[i] = along[i - 1] + Math.hypot(coords[2 * i] - coords[2 * i - 2], coords[2 * i + 1] - coords[2 * i - 1]);
  const whole = along[to - 1] || 1;
  for (let i = from; i < to; i++) along[i] /= whole;
}

function setBox(boxes: Float64Array, f: number, coords: Float64Array, from: number, to: number): void {
  let [minX, minY, maxX, maxY] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = from; i < to; i++) {
    const x = coords[2 * i];
    const y = coords[2 * i + 1];
    if (x < minX) minX = x;
    if (x > maxX) maxX = x;
    if (y < minY) minY = y;
    if (y > maxY) maxY = y;
  }
  boxes[4 * f] = minX;
  boxes[4 * f + 1] = minY;
  boxes[4 * f + 2] = maxX;
  boxes[4 * f + 3] = maxY;
}

/**
 * The part of a cut between `low` and `high` on one axis (0 is x, 1 is y). Polygons keep their rings and winding
 * (Sutherland and Hodgman 1974, both bounds in one pass); lines that leave and come back become several.
 */
export function clip(cut: Cut, axis: 0 | 1, low: number, high: number): Cut {
  let [inside, outside] = [0, 0];
  for (let f = 0; f < cut.count; f++) {
    const min = cut.boxes[4 * f + axis];
    const max = cut.boxes[4 * f + 2 + axis];
    if (!(max >= low && min <= high)) outside++;
    else if (min >= low && max <= high) inside++;
  }
  // Most cuts of a deep pyramid are all in or all out, and need no copy.
  if (inside === cut.count) return cut;
  if (outside === cut.count) return nothing;
  const out = writer.begin(cut.along !== undefined);
  for (let f = 0; f < cut.count; f++) {
    const min = cut.boxes[4 * f + axis];
    const max = cut.boxes[4 * f + 2 + axis];
    if (!(max >= low && min <= high)) continue;
    if (min >= low && max <= high) out.copy(cut, f);
    else out.clipped(cut, f, axis, low, high);
  }
  return out.finish();
}

const nothing: Cut = {
  count: 0,
  rows: new Uint32Array(),
  kinds: new Uint8Array(),
  boxes: new Float64Array(),
  featureParts: new Uint32Array(1),
  partRings: new Uint32Array(1),
  ringStarts: new Uint32Array(1),
  coords: new Float64Array(),
  marks: new Float64Array(),
};

/** Several cuts of the same block as one, moved east by `shift` worlds. */
export function shifted(cut: Cut, shift: number): Cut {
  const coords = cut.coords.map((v, i) => (i % 2 ? v : v + shift));
  const boxes = cut.boxes.map((v, i) => (i % 2 ? v : v + shift));
  return { ...cut, coords, boxes };
}

export function joined(cuts: readonly Cut[]): Cut {
  const solid = cuts.filter((cut) => cut.count > 0);
  if (solid.length === 1) return solid[0];
  const out = writer.begin(solid.some((cut) => cut.along !== undefined));
  for (const cut of solid) for (let f = 0; f < cut.count; f++) out.copy(cut, f);
  return out.finish();
}

class CutWriter {
  private readonly rows = growingCounts(16);
  private readonly kinds = growingCounts(16);
  private readonly boxes = growingDoubles(64);
  private readonly featureParts = growingCounts(16);
  private readonly partRings = growingCounts(16);
  private readonly ringStarts = growingCounts(16);
  private readonly coords = growingDoubles(128);
  private readonly marks = growingDoubles(64);
  private readonly along = growingDoubles(64);

  private measured = false;

  begin(measured: boolean): this {
    this.measured = measured;
    for (const list of [this.rows, this.kinds, this.featureParts, this.partRings, this.ringStarts]) list.restart();
    for (const list of [this.boxes, this.coords, this.marks, this.along]) list.restart();
    return this;
  }

  copy(cut: Cut, f: number): void {
    const partFrom = cut.featureParts[f];
    const partTo = cut.featureParts[f + 1];
    const ringFrom = cut.partRings[partFrom];
    const ringTo = cut.partRings[partTo];
    const from = cut.ringStarts[ringFrom];
    const to = cut.ringStarts[ringTo];
    this.featureParts.push(this.partRings.length);
    const ringShift = this.ringStarts.length - ringFrom;
    for (let p = partFrom; p < partTo; p++) this.partRings.push(cut.partRings[p] + ringShift);
    const vertexShift = this.marks.length - from;
    for (let r = ringFrom; r < ringTo; r++) this.ringStarts.push(cut.ringStarts[r] + vertexShift);
    this.coords.reserve(2 * (to - from)).set(cut.coords.subarray(2 * from, 2 * to), this.coords.length);
    this.coords.length += 2 * (to - from);
    this.marks.reserve(to - from).set(cut.marks.subarray(from, to), this.marks.length);
    this.marks.length += to - from;
    if (this.measured) for (let v = from; v < to; v++) this.along.push(cut.along?.[v] ?? 0);
    this.boxes.reserve(4).set(cut.boxes.subarray(4 * f, 4 * f + 4), this.boxes.length);
    this.boxes.length += 4;
    this.rows.push(cut.rows[f]);
    this.kinds.push(cut.kinds[f]);
  }

  clipped(cut: Cut, f: number, axis: 0 | 1, low: number, high: number): void {
    const kind = cut.kinds[f];
    const parts = this.partRings.length;
    const vertexFrom = this.marks.length;
    for (let p = cut.featureParts[f]; p < cut.featureParts[f + 1]; p++) {
      const partStart = this.ringStarts.length;
      for (let r = cut.partRings[p]; r < cut.partRings[p + 1]; r++) {
        const from = cut.ringStarts[r];
        const to = cut.ringStarts[r + 1];
        if (kind === Kind.polygon) {
          const kept = this.ring(cut, from, to, axis, low, high);
          if (!kept && r === cut.partRings[p]) break;
        } else if (kind === Kind.line) this.line(cut, from, to, axis, low, high);
        else {
          const v = cut.coords[2 * from + axis];
          if (v < low || v > high) continue;
          this.partRings.push(this.ringStarts.length);
          this.ringStarts.push(this.marks.length);
          this.vertex(cut.coords[2 * from], cut.coords[2 * from + 1], Infinity, 0);
        }
      }
      if (kind === Kind.polygon && this.ringStarts.length > partStart) this.partRings.push(partStart);
    }
    if (this.partRings.length === parts) return;
    this.featureParts.push(parts);
    this.rows.push(cut.rows[f]);
    this.kinds.push(kind);
    this.boxes.reserve(4);
    this.boxes.length += 4;
    setBox(this.boxes.data, this.rows.length - 1, this.coords.data, vertexFrom, this.marks.length);
  }

  private vertex(x: number, y: number, mark: number, along: number): void {
    const data = this.coords.reserve(2);
    data[this.coords.length++] = x;
    data[this.coords.length++] = y;
    this.marks.push(mark);
    if (this.measured) this.along.push(along);
  }

  /** The point where the edge from vertex `i` to vertex `j` meets `bound`. */
  private crossing(cut: Cut, i: number, j: number, axis: 0 | 1, bound: number): void {
    const a = cut.coords[2 * i + axis];
    const t = (bound - a) / (cut.coords[2 * j + axis] - a);
    const other = cut.coords[2 * i + 1 - axis] + t * (cut.coords[2 * j + 1 - axis] - cut.coords[2 * i + 1 - axis]);
    const along = cut.along ? cut.along[i] + t * (cut.along[j] - cut.along[i]) : 0;
    if (axis === 0) this.vertex(bound, other, Infinity, along);
    else this.vertex(other, bound, Infinity, along);
  }

  private ring(cut: Cut, from: number, to: number, axis: 0 | 1, low: number, high: number): boolean {
    const start = this.marks.length;
    const { coords } = cut;
    let i = to - 1;
    let a = coords[2 * i + axis];
    for (let j = from; j < to; j++) {
      const b = coords[2 * j + axis];
      if (a < low) {
        if (b > low) this.crossing(cut, i, j, axis, low);
      } else if (a > high) {
        if (b < high) this.crossing(cut, i, j, axis, high);
      }
      if (b > high) {
        if (a < high) this.crossing(cut, i, j, axis, high);
      } else if (b < low) {
        if (a > low) this.crossing(cut, i, j, axis, low);
      } else this.vertex(coords[2 * j], coords[2 * j + 1], cut.marks[j], cut.along?.[j] ?? 0);
      i = j;
      a = b;
    }
    if (this.marks.length - start < 3) {
      this.coords.length -= 2 * (this.marks.length - start);
      this.marks.length = start;
      if (this.measured) this.along.length = start;
      return false;
    }
    this.ringStarts.push(start);
    return true;
  }

  private line(cut: Cut, from: number, to: number, axis: 0 | 1, low: number, high: number): void {
    const { coords } = cut;
    let open = false;
    const begin = () => {
      this.partRings.push(this.ringStarts.length);
      this.ringStarts.push(this.marks.length);
      open = true;
    };
    let a = coords[2 * from + axis];
    if (a >= low && a <= high) {
      begin();
      this.vertex(coords[2 * from], coords[2 * from + 1], Infinity, cut.along?.[from] ?? 0);
    }
    for (let i = from, j = from + 1; j < to; i = j++) {
      const b = coords[2 * j + axis];
      if (a < low && b >= low) {
        begin();
        this.crossing(cut, i, j, axis, low);
      } else if (a > high && b <= high) {
        begin();
        this.crossing(cut, i, j, axis, high);
      }
      if (b > high && a <= high && open) {
        this.crossing(cut, i, j, axis, high);
        open = false;
      } else if (b > high && a < low) {
        this.crossing(cut, i, j, axis, high);
        open = false;
      } else if (b < low && a >= low && open) {
        this.crossing(cut, i, j, axis, low);
        open = false;
      } else if (b >= low && b <= high)
        this.vertex(coords[2 * j], coords[2 * j + 1], cut.marks[j], cut.along?.[j] ?? 0);
      a = b;
    }
  }

  finish(): Cut {
    this.featureParts.push(this.partRings.length);
    this.partRings.push(this.ringStarts.length);
    this.ringStarts.push(this.marks.length);
    return {
      count: this.rows.length,
      rows: this.rows.finish(),
      kinds: new Uint8Array(this.kinds.data.subarray(0, this.kinds.length)),
      boxes: this.boxes.finish(),
      featureParts: this.featureParts.finish(),
      partRings: this.partRings.finish(),
      ringStarts: this.ringStarts.finish(),
      coords: this.coords.finish(),
      marks: this.marks.finish(),
      ...(this.measured ? { along: this.along.finish() } : {}),
    };
  }
}

/** A deep pyramid is cut tens of thousands of times; all cuts are written in the same room. */
const writer = new CutWriter();
