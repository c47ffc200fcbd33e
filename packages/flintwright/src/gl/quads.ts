import type { Device, Program } from './device.js';

/** How many boxes go in one call: as many as 16-bit indices reach. */
const most = 16384;
/** For how many boxes there are corners at first. */
const atFirst = 256;

/** Draws boxes by number; shaders read what a box is for out of a texture. */
export class Quads {
  private readonly array: WebGLVertexArrayObject;
  private readonly corners: WebGLBuffer;
  /** For how many boxes there are corners. */
  private room = 0;

  constructor(private readonly device: Device) {
    const { gl } = device;
    this.array = device.vertexArray();
    this.corners = device.buffer(gl.ELEMENT_ARRAY_BUFFER, null, gl.STATIC_DRAW);
    gl.bindVertexArray(null);
  }

  /** Has corners for an amount of boxes, whose array is bound. */
  private reserve(amount: number): void {
    if (amount <= this.room) return;
    while (this.room < amount) this.room = Math.max(atFirst, this.room * 4);
    const indices = new Uint16Array(this.room * 6);
    for (let at = 0, corner = 0; at < indices.length; corner += 4) {
      indices[at++] = corner;
      indices[at++] = corner + 1;
      indices[at++] = corner + 2;
      indices[at++] = corner + 2;
      indices[at++] = corner + 1;
      indices[at++] = corner + 3;
    }
    const { gl } = this.device;
    gl.bufferData(gl.ELEMENT_ARRAY_BUFFER, indices, gl.STATIC_DRAW);
  }

  /** Takes the corners of boxes up. */
  begin(): void {
    this.device.gl.bindVertexArray(this.array);
  }

  /** Draws boxes by the program in use, from the `first` on; returns the number of draw calls. */
  draw(program: Program, first: number, amount: number): number {
    const { gl } = this.device;
    this.reserve(Math.min(most, amount));
    let calls = 0;
    for (let at = 0; at < amount; at += most, calls++) {
      program.int('u_first', first + at);
      gl.drawElements(gl.TRIANGLES, Math.min(most, amount - at) * 6, gl.UNSIGNED_SHORT, 0);
    }
    return calls;
  }

  remove(): void {
    this.device.dropVertexArray(this.array);
    this.device.dropBuffer(this.corners);
  }
}

/** A texture of rows that is written anew with every frame, and grows as it has to. */
export class FrameRows {
  private texture: WebGLTexture | undefined;
  private room = 0;

  constructor(private readonly device: Device) {}

  /** Writes the first texels of a list that may have room for more; returns the texture that holds them. */
  write(floats: Float32Array, texels: number): WebGLTexture {
    if (!this.texture || texels > this.room) {
      this.remove();
      this.room = floats.length / 4;
      this.texture = this.device.rows(this.room);
    }
    this.device.writeRows(this.texture, floats, 0, texels);
    return this.texture;
  }

  remove(): void {
    if (this.texture) this.device.dropTexture(this.texture);
    this.texture = undefined;
  }
}
