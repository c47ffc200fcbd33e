import earcut from 'earcut';
import { Growing } from '../base/growing.js';
import { Kind, type FeatureBlock } from '../features/block.js';

/** Texel number that marks a vertex as the end of one line and the start of another. */
export const gap = 0xffffffff;

/**
 * The geometry of one tile, ready for the GPU. Positions are x, y in metres of the surface from the tile's anchor,
 * as 32-bit floats; `texel` is where the feature's appearance row begins in the tile's row texture.
 *
 * - Areas: 12 bytes a vertex (float x, float y, uint texel), three indices a triangle.
 * - Lines: 16 bytes a vertex (float x, float y, float distance along, uint texel). Each run of four neighbours is one
 *   segment with the vertices before and after it; runs that begin with a {@link gap} draw nothing.
 * - Marks: 12 bytes a point, as areas.
 */
export interface TileMesh {
  readonly areas: ArrayBuffer;
  readonly indices: Uint32Array;
  readonly lines: ArrayBuffer;
  readonly marks: ArrayBuffer;
}

/** A stretch of a tile's buffers: counted in indices, in line vertices, and in points. */
export interface MeshRange {
  readonly areas: readonly [number, number];
  readonly lines: readonly [number, number];
  readonly marks: readonly [number, number];
}

/** Where tile units lie on the surface: metres from the anchor are `units * scale + offset` (y turned up). */
export interface Placement {
  readonly scale: number;
  readonly offsetX: number;
  readonly offsetY: number;
}

export interface MeshWants {
  readonly fill: boolean;
  readonly stroke: boolean;
  readonly mark: boolean;
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
  private ring: number[] = [];
  private holes: number[] = [];

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
    const from = [this.indices.length, this.lines.count, this.marks.count];
    for (let i = 0; i < features.length; i++) {
      const feature = features[i];
      const kind = block.kinds[feature];
      const row = texel + i * texels;
      if (kind === Kind.polygon) {
        if (wants.fill) this.area(block, feature, row);
        if (wants.stroke) this.outline(block, feature, row, true);
      } else if (kind === Kind.line) {
        if (wants.stroke) this.outline(block, feature, row, false);
      } else if (kind === Kind.point && wants.mark) this.points(block, feature, row);
    }
    return {
      areas: [from[0], this.indices.length - from[0]],
      lines: [from[1], this.lines.count - from[1]],
      marks: [from[2], this.marks.count - from[2]],
    };
  }

  finish(): TileMesh {
    return {
      areas: this.areas.finish(),
      indices: this.indices.finish(),
      lines: this.lines.finish(),
      marks: this.marks.finish(),
    };
  }

  private area(block: FeatureBlock, feature: number, row: number): void {
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
      if (count === 4 && endRing - firstRing === 1 && isConvex(coords, start)) {
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
      for (let k = 0, c = 2 * start; k < ring.length; k++, c++) ring[k] = coords[c];
      this.holes.length = 0;
      for (let r = firstRing + 1; r < endRing; r++) this.holes.push(ringStarts[r] - start);
      const triangles = earcut(ring, this.holes.length ? this.holes : undefined);
      const data = this.indices.reserve(triangles.length);
      let n = this.indices.length;
      for (let k = 0; k < triangles.length; k++) data[n++] = base + triangles[k];
      this.indices.length = n;
    }
  }

  private outline(block: FeatureBlock, feature: number, row: number, closed: boolean): void {
    const { coords, ringStarts } = block;
    const { scale, offsetX, offsetY } = this.place;
    const firstRing = block.partRings[block.featureParts[feature]];
    const endRing = block.partRings[block.featureParts[feature + 1]];
    for (let r = firstRing; r < endRing; r++) {
      const start = ringStarts[r];
      const count = ringStarts[r + 1] - start;
      // One vertex before the first and one (two, for a ring) after the last; an open end is its own neighbour.
      const total = count + (closed ? 3 : 2);
      let w = this.lines.room(total);
      const { floats, words } = this.lines;
      let distance = 0;
      for (let k = -1; k < total - 1; k++) {
        const index = start + (closed ? (k + count) % count : Math.max(0, Math.min(count - 1, k)));
        const x = coords[2 * index] * scale + offsetX;
        const y = offsetY - coords[2 * index + 1] * scale;
        if (k > 0) distance += Math.sqrt((x - floats[w - 4]) ** 2 + (y - floats[w - 3]) ** 2);
        floats[w] = x;
        floats[w + 1] = y;
        floats[w + 2] = distance;
        // The last three vertices of a line cannot begin a segment.
        words[w + 3] = k > total - 5 ? gap : row;
        w += 4;
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
      // A point in the rim belongs to the neighbouring tile.
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
