import earcut from 'earcut';
import { Growing } from '../base/growing.js';
import { Kind, type FeatureBlock } from '../features/block.js';
import type { Path } from './clip.js';
import { markSpans } from './spans.js';

/** Texel number that marks a vertex as the end of one line and the start of another. */
export const gap = 0xffffffff;

/**
 * The geometry of one tile, ready for the GPU. Positions are x, y in meters of the surface from the tile's anchor,
 * as 32-bit floats; `texel` is where the feature's appearance row begins in the tile's row texture.
 *
 * - Areas: 12 bytes a vertex (float x, float y, uint texel), three indices a triangle.
 * - Lines: 16 bytes a vertex (float x, float y, float distance along, uint texel). Each run of four neighbors is one
 *   segment with the vertices before and after it; runs that begin with a {@link gap} draw nothing.
 *   In layers with gradients the third number is the share of the whole line's length in place of the distance. In layers with
 *   marks along lines one more vertex follows for each of the layer's, outside its range: the distances along the line at which the
 *   stretch of marks that holds the segment after the vertex begins and ends (two floats; the rest is 0).
 * - Marks: 12 bytes a point, as areas; also the points of heat.
 * - Blocks: 20 bytes a vertex (float x, float y, float x and y of the wall's outward normal, or 0 and 0 on the roof, uint
 *   2 × texel, plus 1 at the top), three indices a triangle.
 */
export interface TileMesh {
  readonly areas: ArrayBuffer;
  readonly indices: Uint32Array;
  readonly lines: ArrayBuffer;
  readonly marks: ArrayBuffer;
  readonly extrusions: ArrayBuffer;
  readonly extrusionIndices: Uint32Array;
}

/** A stretch of a tile's buffers: counted in indices, in line vertices, and in points. */
export interface MeshRange {
  readonly areas: readonly [number, number];
  readonly lines: readonly [number, number];
  readonly marks: readonly [number, number];
  readonly extrusions: readonly [number, number];
}

/** Where tile units lie on the surface: meters from the anchor are `units * scale + offset` (y turned up). */
export interface Placement {
  readonly scale: number;
  readonly offsetX: number;
  readonly offsetY: number;
}

export interface MeshWants {
  readonly fill: boolean;
  readonly stroke: boolean;
  readonly mark: boolean;
  /** Whether line vertices carry shares of the length, for gradients. */
  readonly shares?: boolean;
  /** The ground of the tile in the block's units, for layers whose lines carry marks; empty where nothing bounds it. */
  readonly spans?: readonly Path[] | undefined;
  readonly extrusion?: boolean;
  /** Areas to fill, where they differ from the features' own areas; the same features row by row. */
  readonly fills?: FeatureBlock;
  /** Where the corners of those lie for being triangulated; see `Draped`. */
  readonly plan?: Float64Array;
}

class Bytes {
  private readonly store: Growing<Uint32Array>;
  floats: Float32Array;

  constructor(private readonly stride: number) {
    this.store = new Growing((n) => new Uint32Array(n), 4096);
    this.floats = new Float32Array(this.store.data.buffer);
  }

  /** Vertices so far. */
  get count(): number {
    return this.store.length / this.stride;
  }

  /** Room for `vertices` more; returns the word at which they begin. */
  room(vertices: number): number {
    const before = this.store.data;
    this.store.reserve(vertices * this.stride);
    if (this.store.data !== before) this.floats = new Float32Array(this.store.data.buffer);
    const at = this.store.length;
    this.store.length += vertices * this.stride;
    return at;
  }

  get words(): Uint32Array {
    return this.store.data;
  }

  finish(): ArrayBuffer {
    return this.store.finish().buffer as ArrayBuffer;
  }
}

/** Builds the buffers of one tile, layer by layer. */
export class MeshBuilder {
  private readonly areas = new Bytes(3);
  private readonly lines = new Bytes(4);
  private readonly marks = new Bytes(3);
  private readonly indices = new Growing((n) => new Uint32Array(n), 4096);
  private readonly extrusions = new Bytes(5);
  private readonly blockIndices = new Growing((n) => new Uint32Array(n), 64);
  private ring: number[] = [];
  private holes: number[] = [];
  /** The ground of the tile where the layer's lines carry marks, and two numbers for each vertex of its lines. */
  private ground: readonly Path[] | undefined;
  private readonly spans: number[] = [];

  constructor(private place: Placement) {}

  /** The same buffers, for a block of another extent. */
  at(place: Placement): this {
    this.place = place;
    return this;
  }

  /**
   * Adds the chosen features of a block.
   *
   * @param features rows of the block
   * @param texel texel at which the first feature's appearance row begins
   * @param texels texels in one row
   */
  add(block: FeatureBlock, features: ArrayLike<number>, texel: number, texels: number, wants: MeshWants): MeshRange {
    const from = [this.indices.length, this.lines.count, this.marks.count, this.blockIndices.length];
    const shares = wants.shares ?? false;
    this.ground = wants.spans;
    this.spans.length = 0;
    for (let i = 0; i < features.length; i++) {
      const feature = features[i];
      const kind = block.kinds[feature];
      const row = texel + i * texels;
      if (kind === Kind.polygon) {
        if (wants.fill) this.area(wants.fills ?? block, feature, row, wants.plan);
        if (wants.stroke) this.outline(block, feature, row, true, shares);
        if (wants.extrusion) this.raise(block, feature, row);
      } else if (kind === Kind.line) {
        // An area whose outline the edge of the surface has opened.
        if (wants.fill && wants.fills?.kinds[feature] === Kind.polygon)
          this.area(wants.fills, feature, row, wants.plan);
        if (wants.stroke) this.outline(block, feature, row, false, shares);
      } else if (kind === Kind.point && wants.mark) this.points(block, feature, row);
    }
    const range: MeshRange = {
      areas: [from[0], this.indices.length - from[0]],
      lines: [from[1], this.lines.count - from[1]],
      marks: [from[2], this.marks.count - from[2]],
      extrusions: [from[3], this.blockIndices.length - from[3]],
    };
    const at = this.lines.room(this.spans.length / 2);
    for (let k = 0, w = at; k < this.spans.length; k += 2, w += 4)
      this.lines.floats.set([this.spans[k], this.spans[k + 1], 0, 0], w);
    return range;
  }

  finish(): TileMesh {
    return {
      areas: this.areas.finish(),
      indices: this.indices.finish(),
      lines: this.lines.finish(),
      marks: this.marks.finish(),
      extrusions: this.extrusions.finish(),
      extrusionIndices: this.blockIndices.finish(),
    };
  }

  private area(block: FeatureBlock, feature: number, row: number, plan: ArrayLike<number> = block.coords): void {
    const { coords, partRings, ringStarts } = block;
    const { scale, offsetX, offsetY } = this.place;
    for (let part = block.featureParts[feature]; part < block.featureParts[feature + 1]; part++) {
      const firstRing = partRings[part];
      const endRing = partRings[part + 1];
      const start = ringStarts[firstRing];
      const count = ringStarts[endRing] - start;
      const base = this.areas.count;
      const at = this.areas.room(count);
      const { floats, words } = this.areas;
      for (let v = 0, w = at, c = 2 * start; v < count; v++, w += 3, c += 2) {
        floats[w] = coords[c] * scale + offsetX;
        floats[w + 1] = offsetY - coords[c + 1] * scale;
        words[w + 2] = row;
      }
      if (count === 4 && endRing - firstRing === 1 && isConvex(plan, start)) {
        const data = this.indices.reserve(6);
        let n = this.indices.length;
        data[n++] = base;
        data[n++] = base + 1;
        data[n++] = base + 2;
        data[n++] = base;
        data[n++] = base + 2;
        data[n++] = base + 3;
        this.indices.length = n;
        continue;
      }
      const ring = this.ring;
      ring.length = 2 * count;
      for (let k = 0, c = 2 * start; k < ring.length; k++, c++) ring[k] = plan[c];
      this.holes.length = 0;
      for (let r = firstRing + 1; r < endRing; r++) this.holes.push(ringStarts[r] - start);
      const triangles = earcut(ring, this.holes.length ? this.holes : undefined);
      const data = this.indices.reserve(triangles.length);
      let n = this.indices.length;
      for (let k = 0; k < triangles.length; k++) data[n++] = base + triangles[k];
      this.indices.length = n;
    }
  }

  private outline(block: FeatureBlock, feature: number, row: number, closed: boolean, shares: boolean): void {
    const { coords, ringStarts, along } = block;
    const { scale, offsetX, offsetY } = this.place;
    const firstRing = block.partRings[block.featureParts[feature]];
    const endRing = block.partRings[block.featureParts[feature + 1]];
    for (let r = firstRing; r < endRing; r++) {
      const start = ringStarts[r];
      const count = ringStarts[r + 1] - start;
      // One vertex before the first and one (two, for a ring) after the last; an open end is its own neighbor.
      const total = count + (closed ? 3 : 2);
      let w = this.lines.room(total);
      const { floats, words } = this.lines;
      let distance = 0;
      for (let k = -1; k < total - 1; k++) {
        const index = start + (closed ? (k + count) % count : Math.max(0, Math.min(count - 1, k)));
        const x = coords[2 * index] * scale + offsetX;
        const y = offsetY - coords[2 * index + 1] * scale;
        if (shares && along && !closed) distance = along[index];
        else if (k > 0) distance += Math.sqrt((x - floats[w - 4]) ** 2 + (y - floats[w - 3]) ** 2);
        floats[w] = x;
        floats[w + 1] = y;
        floats[w + 2] = distance;
        // The last three vertices of a line cannot begin a segment.
        words[w + 3] = k > total - 5 ? gap : row;
        w += 4;
      }
      if (shares && (closed || !along) && distance > 0)
        for (let k = 0, v = w - 4 * total; k < total; k++, v += 4)
          floats[v + 2] = Math.min(1, floats[v + 2] / distance);
      if (this.ground) {
        const [path, runs]: [number[], number[]] = [[], []];
        for (let k = 0, v = w - 4 * (total - 1); k < total - 2; k++, v += 4) {
          const index = start + (k % count);
          path.push(coords[2 * index], coords[2 * index + 1]);
          runs.push(floats[v + 2]);
        }
        this.spans.push(0, 0);
        markSpans(path, runs, this.ground, this.spans);
        this.spans.push(0, 0, 0, 0);
      }
    }
  }

  /** Walls and roof of a polygon; walls along the border of the tile, where a neighbor goes on, are left out. */
  private raise(block: FeatureBlock, feature: number, row: number): void {
    const { coords, partRings, ringStarts, extent } = block;
    const { scale, offsetX, offsetY } = this.place;
    const put = (index: number, nx: number, ny: number, top: number) => {
      const w = this.extrusions.room(1);
      const { floats, words } = this.extrusions;
      floats[w] = coords[2 * index] * scale + offsetX;
      floats[w + 1] = offsetY - coords[2 * index + 1] * scale;
      floats[w + 2] = nx;
      floats[w + 3] = ny;
      words[w + 4] = 2 * row + top;
    };
    const join = (...corners: number[]) => {
      const data = this.blockIndices.reserve(corners.length);
      for (const corner of corners) data[this.blockIndices.length++] = corner;
    };
    for (let part = block.featureParts[feature]; part < block.featureParts[feature + 1]; part++) {
      const [firstRing, endRing] = [partRings[part], partRings[part + 1]];
      const start = ringStarts[firstRing];
      const end = ringStarts[endRing];
      const roof = this.extrusions.count;
      for (let v = start; v < end; v++) put(v, 0, 0, 1);
      const flat = Array.from({ length: 2 * (end - start) }, (_, k) => coords[2 * start + k]);
      const holes = Array.from({ length: endRing - firstRing - 1 }, (_, k) => ringStarts[firstRing + 1 + k] - start);
      join(...earcut(flat, holes.length ? holes : undefined).map((corner) => roof + corner));
      for (let r = firstRing; r < endRing; r++) {
        const [from, to] = [ringStarts[r], ringStarts[r + 1]];
        for (let v = from; v < to; v++) {
          const next = v + 1 < to ? v + 1 : from;
          const [ax, ay, bx, by] = [coords[2 * v], coords[2 * v + 1], coords[2 * next], coords[2 * next + 1]];
          const outside = (p: number, q: number) => p === q && (p < 0 || p > extent);
          if (extent && (outside(ax, bx) || outside(ay, by))) continue;
          const length = Math.hypot(bx - ax, by - ay);
          if (!length) continue;
          // Outer rings run clockwise on the screen, so the outside lies to the left of the way (y down).
          const [nx, ny] = [(by - ay) / length, (bx - ax) / length];
          const wall = this.extrusions.count;
          put(v, nx, ny, 0);
          put(next, nx, ny, 0);
          put(v, nx, ny, 1);
          put(next, nx, ny, 1);
          join(wall, wall + 1, wall + 2, wall + 2, wall + 1, wall + 3);
        }
      }
    }
  }

  private points(block: FeatureBlock, feature: number, row: number): void {
    const { coords, ringStarts } = block;
    const { scale, offsetX, offsetY } = this.place;
    const from = ringStarts[block.partRings[block.featureParts[feature]]];
    const to = ringStarts[block.partRings[block.featureParts[feature + 1]]];
    for (let v = from; v < to; v++) {
      const x = coords[2 * v];
      const y = coords[2 * v + 1];
      // A point in the rim belongs to the neighboring tile.
      if (block.extent && (x < 0 || y < 0 || x >= block.extent || y >= block.extent)) continue;
      const w = this.marks.room(1);
      this.marks.floats[w] = x * scale + offsetX;
      this.marks.floats[w + 1] = offsetY - y * scale;
      this.marks.words[w + 2] = row;
    }
  }
}

function isConvex(coords: ArrayLike<number>, start: number): boolean {
  let turns = 0;
  for (let i = 0; i < 4; i++) {
    const a = 2 * (start + i);
    const b = 2 * (start + ((i + 1) & 3));
    const c = 2 * (start + ((i + 2) & 3));
    const cross =
      (coords[b] - coords[a]) * (coords[c + 1] - coords[b + 1]) -
      (coords[b + 1] - coords[a + 1]) * (coords[c] - coords[b]);
    if (cross > 0) turns++;
    else if (cross < 0) turns--;
  }
  return turns === 4 || turns === -4;
}
