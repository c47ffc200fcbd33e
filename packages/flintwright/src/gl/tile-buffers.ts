import type { PreparedTile } from '@flintwright/core/internal';
import { countLive } from '../base/live-counts.js';
import type { Device } from './device.js';

/** The buffers of one tile on the GPU. After a lost context the tile is prepared again for others. */
export class TileBuffers {
  readonly areas: WebGLVertexArrayObject | undefined;
  /** For each layer of the tile: how to draw its lines and marks. */
  readonly lines: (WebGLVertexArrayObject | undefined)[];
  readonly marks: (WebGLVertexArrayObject | undefined)[];
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
    const lines = mesh.lines.byteLength ? keep(device.buffer(gl.ARRAY_BUFFER, mesh.lines, gl.STATIC_DRAW)) : undefined;
    const marks = mesh.marks.byteLength ? keep(device.buffer(gl.ARRAY_BUFFER, mesh.marks, gl.STATIC_DRAW)) : undefined;
    this.lines = tile.layers.map(
      ({
        range: {
          lines: [from, length],
        },
      }) => {
        if (!lines || length < 4) return undefined;
        const array = device.vertexArray();
        gl.bindBuffer(gl.ARRAY_BUFFER, lines);
        const pointer = (location: number, size: number, vertex: number) => {
          gl.enableVertexAttribArray(location);
          gl.vertexAttribPointer(location, size, gl.FLOAT, false, 16, (from + vertex) * 16);
          gl.vertexAttribDivisor(location, 1);
        };
        pointer(0, 2, 0);
        pointer(2, 3, 1);
        pointer(3, 3, 2);
        pointer(4, 2, 3);
        gl.enableVertexAttribArray(1);
        gl.vertexAttribIPointer(1, 1, gl.UNSIGNED_INT, 16, from * 16 + 12);
        gl.vertexAttribDivisor(1, 1);
        return array;
      },
    );
    this.marks = tile.layers.map(
      ({
        range: {
          marks: [from, length],
        },
      }) => {
        if (!marks || !length) return undefined;
        const array = device.vertexArray();
        gl.bindBuffer(gl.ARRAY_BUFFER, marks);
        gl.enableVertexAttribArray(0);
        gl.vertexAttribPointer(0, 2, gl.FLOAT, false, 12, from * 12);
        gl.vertexAttribDivisor(0, 1);
        gl.enableVertexAttribArray(1);
        gl.vertexAttribIPointer(1, 1, gl.UNSIGNED_INT, 12, from * 12 + 8);
        gl.vertexAttribDivisor(1, 1);
        return array;
      },
    );
    gl.bindVertexArray(null);
    this.rows = device.rows(tile.rows.length / 4);
    this.writeRows(tile.rows, 0, tile.rows.length / 4);
  }

  /** Writes appearance rows again: `texels` texels from `texel` on. */
  writeRows(rows: Float32Array, texel: number, texels: number): void {
    this.device.writeRows(this.rows, rows, texel, texels);
  }

  remove(): void {
    const { device } = this;
    for (const array of [this.areas, this.blocks, ...this.lines, ...this.marks])
      if (array) device.dropVertexArray(array);
    for (const buffer of this.buffers) device.dropBuffer(buffer);
    device.dropTexture(this.rows);
  }
}
