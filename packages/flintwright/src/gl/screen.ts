import type { Device, Program } from './device.js';
import { screenShader } from './shaders/index.js';

/** Takes copies of the screen and lays them over it again. */
export class Screen {
  private readonly program: Program;
  private readonly empty: WebGLVertexArrayObject;

  constructor(private readonly device: Device) {
    this.program = device.program(screenShader);
    this.empty = device.vertexArray();
    device.gl.bindVertexArray(null);
  }

  /** A copy of what has just been drawn. Only sound within the frame that drew it. */
  copy(): WebGLTexture {
    const { gl } = this.device;
    const { drawingBufferWidth: width, drawingBufferHeight: height } = gl;
    // It is to be laid down soon.
    this.program.start();
    const copy = this.device.smoothTexture(gl.RGBA8, width, height);
    gl.copyTexSubImage2D(gl.TEXTURE_2D, 0, 0, 0, 0, 0, width, height);
    return copy;
  }

  /** Lays a copy over all that has been drawn. */
  lay(copy: WebGLTexture, opacity: number): void {
    const { gl } = this.device;
    const { at } = this.program;
    gl.disable(gl.STENCIL_TEST);
    gl.disable(gl.DEPTH_TEST);
    gl.useProgram(this.program.program);
    gl.bindVertexArray(this.empty);
    this.device.bind(0, copy);
    gl.uniform1i(at('u_picture'), 0);
    gl.uniform1f(at('u_opacity'), opacity);
    gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4);
    gl.bindVertexArray(null);
  }

  drop(copy: WebGLTexture): void {
    this.device.dropTexture(copy);
  }

  remove(): void {
    this.device.dropProgram(this.program);
    this.device.dropVertexArray(this.empty);
  }
}

/** A picture of an earlier frame that fades over the present one, for themes that change. */
export class Fade {
  private picture: WebGLTexture | undefined;
  /** 1 when the earlier frame covers all, 0 when it is gone. */
  opacity = 0;

  constructor(private readonly screen: Screen) {}

  /** Keeps what has just been drawn. */
  keep(): void {
    this.drop();
    this.picture = this.screen.copy();
    this.opacity = 1;
  }

  draw(): void {
    if (!this.picture) return;
    if (this.opacity > 0) this.screen.lay(this.picture, this.opacity);
    else this.drop();
  }

  drop(): void {
    if (this.picture) this.screen.drop(this.picture);
    this.picture = undefined;
    this.opacity = 0;
  }
}

/**
 * The ground as it was last drawn, for frames in which only what lies over it differs: markers that move, labels that fade, an older
 * sheet that does. It is copied when a second such frame shows that it pays.
 */
export class KeptGround {
  private picture: WebGLTexture | undefined;

  constructor(private readonly screen: Screen) {}

  /** Puts the ground on the screen as it was; false where there is no copy of it. */
  lay(): boolean {
    if (this.picture) this.screen.lay(this.picture, 1);
    return this.picture !== undefined;
  }

  /** Keeps the ground that has just been drawn. */
  keep(): void {
    this.picture ??= this.screen.copy();
  }

  drop(): void {
    if (this.picture) this.screen.drop(this.picture);
    this.picture = undefined;
  }
}
