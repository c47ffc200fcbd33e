import type { Device, Program } from './device.js';
import { screenShader } from './shaders/index.js';

/** A picture of an earlier frame that fades over the present one, for themes that change. */
export class Fade {
  private readonly program: Program;
  private readonly empty: WebGLVertexArrayObject;
  private picture: WebGLTexture | undefined;
  /** 1 when the earlier frame covers all, 0 when it is gone. */
  opacity = 0;

  constructor(private readonly device: Device) {
    this.program = device.program(screenShader);
    this.empty = device.vertexArray();
    device.gl.bindVertexArray(null);
  }

  /** Keeps what has just been drawn. Only sound within the frame that drew it. */
  keep(): void {
    const { gl } = this.device;
    const { drawingBufferWidth: width, drawingBufferHeight: height } = gl;
    this.drop();
    this.picture = this.device.smoothTexture(gl.RGB8, width, height);
    gl.copyTexSubImage2D(gl.TEXTURE_2D, 0, 0, 0, 0, 0, width, height);
    this.opacity = 1;
  }

  draw(): void {
    if (!this.picture) return;
    if (this.opacity <= 0) {
      this.drop();
      return;
    }
    const { gl } = this.device;
    gl.disable(gl.STENCIL_TEST);
    gl.useProgram(this.program.program);
    gl.bindVertexArray(this.empty);
    this.device.bind(0, this.picture);
    gl.uniform1i(this.program.at('u_picture'), 0);
    gl.uniform1f(this.program.at('u_opacity'), this.opacity);
    gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4);
    gl.bindVertexArray(null);
  }

  private drop(): void {
    if (this.picture) this.device.dropTexture(this.picture);
    this.picture = undefined;
    this.opacity = 0;
  }

  destroy(): void {
    this.drop();
    this.device.dropProgram(this.program);
    this.device.dropVertexArray(this.empty);
  }
}
