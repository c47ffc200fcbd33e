import type { CompiledLayer } from '@flintwright/core';
import type { Camera } from '@flintwright/core/internal';
import type { DrawnImage, ImageDrawing } from './drawn-tile.js';
import type { Device, Program } from './device.js';
import { join, type Patch } from './mask.js';
import { imageShader } from './shaders/index.js';

/** Draws image tiles on the ground, each within its place in the stencil. */
export class ImageBrush implements ImageDrawing {
  private readonly program: Program;
  private readonly array: WebGLVertexArrayObject;
  private readonly buffer: WebGLBuffer;
  private readonly at: WebGLBuffer;
  private readonly order: WebGLBuffer;

  constructor(private readonly device: Device) {
    const { gl } = device;
    this.program = device.program(imageShader);
    this.array = device.vertexArray();
    this.buffer = device.buffer(gl.ARRAY_BUFFER, null, gl.DYNAMIC_DRAW);
    gl.enableVertexAttribArray(0);
    gl.vertexAttribPointer(0, 4, gl.FLOAT, false, 16, 0);
    this.at = device.buffer(gl.ARRAY_BUFFER, null, gl.DYNAMIC_DRAW);
    gl.enableVertexAttribArray(1);
    gl.vertexAttribPointer(1, 2, gl.FLOAT, false, 8, 0);
    this.order = device.buffer(gl.ELEMENT_ARRAY_BUFFER, null, gl.DYNAMIC_DRAW);
    gl.bindVertexArray(null);
  }

  draw(layer: CompiledLayer, images: readonly DrawnImage[], patches: readonly Patch[], camera: Camera): number {
    const { gl } = this.device;
    const { at, program } = this.program;
    const image = layer.image!;
    const scope = { block: undefined as never, zoom: camera.view.zoom };
    const [r, g, b, a] = image.tint.bind(scope)(0);
    gl.useProgram(program);
    gl.bindVertexArray(this.array);
    const joined = join(patches);
    gl.bindBuffer(gl.ARRAY_BUFFER, this.buffer);
    gl.bufferData(gl.ARRAY_BUFFER, joined.clip, gl.DYNAMIC_DRAW);
    gl.bindBuffer(gl.ARRAY_BUFFER, this.at);
    gl.bufferData(gl.ARRAY_BUFFER, joined.uv, gl.DYNAMIC_DRAW);
    gl.bufferData(gl.ELEMENT_ARRAY_BUFFER, joined.indices, gl.DYNAMIC_DRAW);
    gl.uniform1i(at('u_picture'), 0);
    gl.uniform1f(at('u_opacity'), layer.opacity * image.opacity.bind(scope)(0));
    gl.uniform1f(at('u_saturation'), image.saturation);
    gl.uniform1f(at('u_contrast'), image.contrast);
    gl.uniform4f(at('u_tint'), r / (a || 1), g / (a || 1), b / (a || 1), image.tintShare * a);
    gl.enable(gl.STENCIL_TEST);
    let from = 0;
    images.forEach(({ entry }, i) => {
      gl.stencilFunc(gl.EQUAL, (i % 255) + 1, 0xff);
      this.device.bind(0, entry.texture);
      gl.drawElements(gl.TRIANGLES, patches[i].indices.length, gl.UNSIGNED_INT, from * 4);
      from += patches[i].indices.length;
    });
    gl.bindVertexArray(null);
    return images.length;
  }

  remove(): void {
    this.device.dropProgram(this.program);
    this.device.dropBuffer(this.buffer);
    this.device.dropBuffer(this.at);
    this.device.dropBuffer(this.order);
    this.device.dropVertexArray(this.array);
  }
}
