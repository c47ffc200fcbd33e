import type { Device, Program } from './device.js';

/** How many boxes go in one call: as many as 16-bit indices reach. */
const most = 16384;
/** Texels in a line of a texture of points; the shaders know it. */
const lineLength = 2048;

/** Draws boxes by number; shaders read what a box is for out of a texture of points. */
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

  /** Has a program draw boxes for the points of a texture. */
  take(program: Program, points: WebGLTexture): void {
    program.int('u_points', 3);
    this.device.bind(3, points);
    this.begin();
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

/** A texture of points, each of three or four numbers of 32 bits, which shaders read bit by bit; nothing for no points. */
export function pointTexture(device: Device, bytes: ArrayBuffer, numbers: 3 | 4): WebGLTexture | undefined {
  const { gl } = device;
  const points = bytes.byteLength / (numbers * 4);
  if (!points) return undefined;
  const [inner, format] = numbers === 3 ? [gl.RGB32UI, gl.RGB_INTEGER] : [gl.RGBA32UI, gl.RGBA_INTEGER];
  const texture = device.texture();
  gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
  gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
  const whole = Math.floor(points / lineLength);
  const rest = points % lineLength;
  gl.texStorage2D(gl.TEXTURE_2D, 1, inner, Math.min(points, lineLength), whole + (rest ? 1 : 0));
  const data = new Uint32Array(bytes);
  const write = (y: number, width: number, height: number) => {
    if (width && height)
      gl.texSubImage2D(gl.TEXTURE_2D, 0, 0, y, width, height, format, gl.UNSIGNED_INT, data, y * lineLength * numbers);
  };
  write(0, lineLength, whole);
  write(whole, rest, 1);
  return texture;
}
