import type { Camera } from '@flintwright/core/internal';
import type { Device, Program } from './device.js';
import { shardShader } from './shaders/index.js';

/** Appearance of drawn markers: boxes of five texels each, two a marker, as the shader reads them. */
export interface MarkerRows {
  readonly texels: Float32Array;
  /** First and last texel written since {@link written} was called; nothing for none. */
  readonly changed: readonly [number, number] | undefined;
  written(): void;
}

/** Draws markers: what they look like stays in a texture, and only where they stand goes up with every frame. */
export class MarkerBrush {
  private readonly program: Program;
  private readonly array: WebGLVertexArrayObject;
  private readonly places: WebGLBuffer;
  private texture: WebGLTexture | undefined;
  private held: Float32Array | undefined;

  constructor(private readonly device: Device) {
    const { gl } = device;
    this.program = device.program(shardShader);
    this.array = device.vertexArray();
    this.places = device.buffer(gl.ARRAY_BUFFER, null, gl.DYNAMIC_DRAW);
    gl.enableVertexAttribArray(0);
    gl.vertexAttribPointer(0, 4, gl.FLOAT, false, 16, 0);
    gl.vertexAttribDivisor(0, 1);
    gl.bindVertexArray(null);
  }

  /**
   * @param places x, y in CSS pixels, the first texel of the box, and the share of its size that is shown, by turns
   * @param amount how many boxes
   */
  draw(
    camera: Camera,
    ratio: number,
    rows: MarkerRows,
    places: Float32Array,
    amount: number,
    atlas: WebGLTexture,
  ): void {
    const { gl } = this.device;
    const { program, at } = this.program;
    const texture = this.upload(rows);
    gl.disable(gl.STENCIL_TEST);
    gl.disable(gl.DEPTH_TEST);
    gl.useProgram(program);
    gl.bindVertexArray(this.array);
    gl.bindBuffer(gl.ARRAY_BUFFER, this.places);
    gl.bufferData(gl.ARRAY_BUFFER, places, gl.DYNAMIC_DRAW, 0, amount * 4);
    gl.uniform2f(at('u_viewport'), camera.size.width, camera.size.height);
    gl.uniform1f(at('u_ratio'), ratio);
    gl.uniform1i(at('u_rows'), 0);
    gl.uniform1i(at('u_atlas'), 1);
    this.device.bind(1, atlas);
    this.device.bind(0, texture);
    gl.drawArraysInstanced(gl.TRIANGLE_STRIP, 0, 4, amount);
    gl.bindVertexArray(null);
  }

  private upload(rows: MarkerRows): WebGLTexture {
    const { texels, changed } = rows;
    if (this.held !== texels || !this.texture) {
      if (this.texture) this.device.dropTexture(this.texture);
      this.held = texels;
      this.texture = this.device.rows(texels.length / 4);
      this.device.writeRows(this.texture, texels, 0, texels.length / 4);
    } else if (changed) {
      const [first, last] = changed;
      this.device.writeRows(this.texture, texels, first, last - first + 1);
    }
    rows.written();
    return this.texture;
  }

  remove(): void {
    this.device.dropProgram(this.program);
    this.device.dropVertexArray(this.array);
    this.device.dropBuffer(this.places);
    if (this.texture) this.device.dropTexture(this.texture);
  }
}
