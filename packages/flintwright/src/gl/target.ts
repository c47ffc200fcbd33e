import type { Device } from './device.js';

/** A texture that can be drawn into, made again when its size changes. */
export class Target {
  private texture: WebGLTexture | undefined;
  private buffer: WebGLFramebuffer | undefined;
  width = 0;
  height = 0;

  /** @param format sized internal format, such as `gl.RGBA8` */
  constructor(
    private readonly device: Device,
    private readonly format: number,
  ) {}

  /** Clears the texture, which has a size in texels then, and directs drawing into it. */
  begin(width: number, height: number): void {
    const { device } = this;
    const { gl } = device;
    if (!this.texture || this.width !== width || this.height !== height) {
      this.remove();
      this.texture = device.smoothTexture(this.format, width, height);
      this.buffer = device.framebuffer(this.texture);
      Object.assign(this, { width, height });
    }
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.buffer!);
    gl.viewport(0, 0, width, height);
    gl.clearColor(0, 0, 0, 0);
    gl.clear(gl.COLOR_BUFFER_BIT);
  }

  /** Directs drawing to the screen again; returns the texture. */
  end(): WebGLTexture {
    const { gl } = this.device;
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    gl.viewport(0, 0, gl.drawingBufferWidth, gl.drawingBufferHeight);
    return this.texture!;
  }

  remove(): void {
    if (!this.texture) return;
    this.device.dropFramebuffer(this.buffer!);
    this.device.dropTexture(this.texture);
    this.texture = this.buffer = undefined;
  }
}
