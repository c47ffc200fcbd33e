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
    this.writeRows(tile.rows, 0, this.firstPoint);
    if (points.length) {
      device.writeRows(this.rows, points, 0, points.length / 4, this.firstPoint);
      countLive('geometryUploads', 1);
    }
    if (marks.length) {
      const whole = Math.floor(marks.length / 4);
      device.writeRows(this.rows, marks, 0, whole, behind);
      const rest = new Uint32Array(4);
      rest.set(marks.subarray(whole * 4));
      if (marks.length % 4) device.writeRows(this.rows, rest, 0, 1, behind + whole);
      countLive('geometryUploads', 1);
    }
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
