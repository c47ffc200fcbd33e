import type { PreparedTile } from '@flintwright/core/internal';
import { countLive } from '../base/live-counts.js';
import type { Device } from './device.js';
import { pointTexture } from './quads.js';

/** The buffers of one tile on the GPU. After a lost context the tile is prepared again for others. */
export class TileBuffers {
  readonly areas: WebGLVertexArrayObject | undefined;
  /** The points of the lines and of the marks of all layers. */
  readonly lines: WebGLTexture | undefined;
  readonly marks: WebGLTexture | undefined;
  readonly blocks: WebGLVertexArrayObject | undefined;
  readonly rows: WebGLTexture;
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
    this.lines = pointTexture(device, mesh.lines, 4);
    this.marks = pointTexture(device, mesh.marks, 3);
    for (const points of [this.lines, this.marks]) if (points) countLive('geometryUploads', 1);
    this.rows = device.rows(tile.rows.length / 4);
    this.writeRows(tile.rows, 0, tile.rows.length / 4);
  }

  /** Writes appearance rows again: `texels` texels from `texel` on. */
  writeRows(rows: Float32Array, texel: number, texels: number): void {
    this.device.writeRows(this.rows, rows, texel, texels);
  }

  remove(): void {
    const { device } = this;
    for (const array of [this.areas, this.blocks]) if (array) device.dropVertexArray(array);
    for (const points of [this.lines, this.marks]) if (points) device.dropTexture(points);
    for (const buffer of this.buffers) device.dropBuffer(buffer);
    device.dropTexture(this.rows);
  }
}
