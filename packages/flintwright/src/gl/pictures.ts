import type { Camera, CompiledLayer } from '@flintwright/core';
import type { DrawnPicture } from '../load/pictures.js';
import type { Device, Program } from './device.js';
import { imageShader } from './shaders/index.js';

/** Draws picture tiles on the ground, each within its place in the stencil. */
export class Pictures {
  private readonly program: Program;
  private readonly array: WebGLVertexArrayObject;
  private readonly buffer: WebGLBuffer;

  constructor(private readonly device: Device) {
    const { gl } = device;
    this.program = device.program(imageShader);
    this.array = device.vertexArray();
    this.buffer = device.buffer(gl.ARRAY_BUFFER, null, gl.DYNAMIC_DRAW);
    gl.enableVertexAttribArray(0);
    gl.vertexAttribPointer(0, 4, gl.FLOAT, false, 16, 0);
    gl.bindVertexArray(null);
  }

  /** @param corners clip coordinates of the tiles' corners, as {@link tileCorners} gives them */
  draw(layer: CompiledLayer, pictures: readonly DrawnPicture[], corners: Float32Array, camera: Camera): number {
    const { gl } = this.device;
    const { at, program } = this.program;
    const image = layer.image!;
    const scope = { block: undefined as never, zoom: camera.view.zoom };
    const [r, g, b, a] = image.tint.bind(scope)(0);
    gl.useProgram(program);
    gl.bindVertexArray(this.array);
    gl.bindBuffer(gl.ARRAY_BUFFER, this.buffer);
    gl.bufferData(gl.ARRAY_BUFFER, corners, gl.DYNAMIC_DRAW);
    gl.uniform1i(at('u_picture'), 0);
    gl.uniform1f(at('u_opacity'), layer.opacity * image.opacity.bind(scope)(0));
    gl.uniform1f(at('u_saturation'), image.saturation);
    gl.uniform1f(at('u_contrast'), image.contrast);
    gl.uniform4f(at('u_tint'), r / (a || 1), g / (a || 1), b / (a || 1), image.tintShare * a);
    gl.enable(gl.STENCIL_TEST);
    pictures.forEach(({ entry }, i) => {
      gl.stencilFunc(gl.EQUAL, (i % 255) + 1, 0xff);
      this.device.bind(0, entry.texture!);
      gl.drawArrays(gl.TRIANGLE_STRIP, i * 4, 4);
    });
    gl.bindVertexArray(null);
    return pictures.length;
  }

  destroy(): void {
    this.device.dropProgram(this.program);
    this.device.dropBuffer(this.buffer);
    this.device.dropVertexArray(this.array);
  }
}
