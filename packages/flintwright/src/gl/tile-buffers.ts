import type { PreparedTile } from '@flintwright/core/internal';
import { countLive } from '../base/live-counts.js';
import type { Device } from './device.js';

/** The buffers of one tile on the GPU. After a lost context the tile is prepared again for others. */
export class TileBuffers {
  readonly areas: WebGLVertexArrayObject | undefined;
  readonly blocks: WebGLVertexArrayObject | undefined;
  /** Appearance of the features, and behind it the points of their lines, and their marks. */
  readonly rows: WebGLTexture;
  /** Texel of the rows at which the points of lines begin. */
  readonly firstPoint: number;
  /** How many marks would lie ahead of the first one, if there were nothing but marks. */
  readonly firstMark: number;
  private readonly buffers: WebGLBuffer[] = [];
  /** What is still to be written: from a texel of a list on, into a texel of the rows. */
  private readonly owed: { list: Float32Array | Uint32Array; from: number; texels: number; into: number }[] = [];

  /** Puts geometry on the graphics card; {@link fill} brings the rest. */
  constructor(
    private readonly device: Device,
    tile: PreparedTile,
  ) {
    const { gl } = device;
    const { mesh } = tile;
    const keep = (buffer: WebGLBuffer) => {
      this.buffers.push(buffer);
      countLive('geometryUploads', 1);
      return buffer;
    };
    if (mesh.indices.length) {
      this.areas = device.vertexArray();
      keep(device.buffer(gl.ARRAY_BUFFER, mesh.areas, gl.STATIC_DRAW));
      gl.enableVertexAttribArray(0);
      gl.vertexAttribPointer(0, 2, gl.FLOAT, false, 12, 0);
      gl.enableVertexAttribArray(1);
      gl.vertexAttribIPointer(1, 1, gl.UNSIGNED_INT, 12, 8);
      keep(device.buffer(gl.ELEMENT_ARRAY_BUFFER, mesh.indices, gl.STATIC_DRAW));
      gl.bindVertexArray(null);
    }
    if (mesh.extrusionIndices.length) {
      this.blocks = device.vertexArray();
      keep(device.buffer(gl.ARRAY_BUFFER, mesh.extrusions, gl.STATIC_DRAW));
      gl.enableVertexAttribArray(0);
      gl.vertexAttribPointer(0, 2, gl.FLOAT, false, 20, 0);
      gl.enableVertexAttribArray(1);
      gl.vertexAttribPointer(1, 2, gl.FLOAT, false, 20, 8);
      gl.enableVertexAttribArray(2);
      gl.vertexAttribIPointer(2, 1, gl.UNSIGNED_INT, 20, 16);
      keep(device.buffer(gl.ELEMENT_ARRAY_BUFFER, mesh.extrusionIndices, gl.STATIC_DRAW));
      gl.bindVertexArray(null);
    }
    const points = new Uint32Array(mesh.lines);
    const marks = new Uint32Array(mesh.marks);
    this.firstPoint = tile.rows.length / 4;
    // Three texels hold four marks.
    const behind = Math.ceil((this.firstPoint + points.length / 4) / 3) * 3;
    this.firstMark = (behind * 4) / 3;
    this.rows = device.rows(behind + Math.ceil(marks.length / 4));
    this.owe(tile.rows, 0);
    for (const [list, into] of [
      [points, this.firstPoint],
      [marks, behind],
    ] as const) {
      if (!list.length) continue;
      this.owe(list, into);
      countLive('geometryUploads', 1);
    }
  }

  /** Takes a list up that is to be written into the rows; its last texel may be half full. */
  private owe(list: Float32Array | Uint32Array, into: number): void {
    const texels = Math.floor(list.length / 4);
    this.owed.push({ list, from: 0, texels, into });
    if (list.length % 4 === 0) return;
    const rest = new Uint32Array(4);
    rest.set(list.subarray(texels * 4));
    this.owed.push({ list: rest, from: 0, texels: 1, into: into + texels });
  }

  /** How many texels of the rows are still to be written. */
  get left(): number {
    return this.owed.reduce((sum, { texels }) => sum + texels, 0);
  }

  /** Writes the next `texels` texels of the rows; says whether all are there. Until then the tile cannot be drawn. */
  fill(texels: number): boolean {
    for (let room = texels; room > 0 && this.owed.length;) {
      const part = this.owed[0];
      const amount = Math.min(room, part.texels);
      this.device.writeRows(this.rows, part.list, part.from, amount, part.into);
      part.from += amount;
      part.into += amount;
      part.texels -= amount;
      room -= amount;
      if (!part.texels) this.owed.shift();
    }
    return !this.owed.length;
  }

  /** Writes appearance rows again: `texels` texels from `texel` on. */
  writeRows(rows: Float32Array, texel: number, texels: number): void {
    this.device.writeRows(this.rows, rows, texel, texels);
  }

  remove(): void {
    const { device } = this;
    for (const array of [this.areas, this.blocks]) if (array) device.dropVertexArray(array);
    for (const buffer of this.buffers) device.dropBuffer(buffer);
    device.dropTexture(this.rows);
  }
}
