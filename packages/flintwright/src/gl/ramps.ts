import type { CompiledSheet } from '@flintwright/core';
import { rampWidth } from '@flintwright/core/internal';
import type { Device } from './device.js';

/** Ramps that one sheet may have; the shaders know it too. */
const most = 64;

/** The ramps of the sheet in force as rows of one texture. */
export class Ramps {
  readonly texture: WebGLTexture;
  private held: readonly Uint8Array[] = [];

  constructor(private readonly device: Device) {
    this.texture = device.smoothTexture(device.gl.RGBA8, rampWidth, most);
  }

  /** Puts the ramps of a sheet in place of those before. */
  take({ ramps }: CompiledSheet): void {
    if (ramps === this.held) return;
    this.held = ramps;
    const { gl } = this.device;
    gl.bindTexture(gl.TEXTURE_2D, this.texture);
    ramps
      .slice(0, most)
      .forEach((row, i) => gl.texSubImage2D(gl.TEXTURE_2D, 0, 0, i, rampWidth, 1, gl.RGBA, gl.UNSIGNED_BYTE, row));
  }

  /** Where the middle of a ramp's row lies, 0 to 1. */
  static at(ramp: number): number {
    return (ramp + 0.5) / most;
  }

  remove(): void {
    this.device.dropTexture(this.texture);
  }
}
