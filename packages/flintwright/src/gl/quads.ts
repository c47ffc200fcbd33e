import type { Device, Program } from './device.js';

/** How many boxes go in one call: as many as 16-bit indices reach. */
const most = 16384;

/** Draws boxes by number; shaders read what a box is for out of a texture. */
export class Quads {
  private readonly array: WebGLVertexArrayObject;
  private readonly corners: WebGLBuffer;

  constructor(private readonly device: Device) {
    const { gl } = device;
    const indices = new Uint16Array(most * 6);
    for (let box = 0; box < most; box++) {
      const corner = box * 4;
      indices.set([corner, corner + 1, corner + 2, corner + 2, corner + 1, corner + 3], box * 6);
    }
    this.array = device.vertexArray();
    this.corners = device.buffer(gl.ELEMENT_ARRAY_BUFFER, indices, gl.STATIC_DRAW);
    gl.bindVertexArray(null);
  }

  /** Takes the corners of boxes up. */
  begin(): void {
    this.device.gl.bindVertexArray(this.array);
  }

  /** Draws boxes by the program in use, from the `first` on; returns the number of draw calls. */
  draw(program: Program, first: number, amount: number): number {
    const { gl } = this.device;
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
