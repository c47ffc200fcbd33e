import type { Camera } from '@flintwright/core/internal';
import type { Device, Program } from './device.js';
import { FrameRows, type Quads } from './quads.js';
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
  private readonly places: FrameRows;
  private texture: WebGLTexture | undefined;
  private held: Float32Array | undefined;

  constructor(
    private readonly device: Device,
    private readonly quads: Quads,
  ) {
    this.program = device.program(shardShader);
    this.places = new FrameRows(device);
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
    this.quads.begin();
    gl.uniform2f(at('u_viewport'), camera.size.width, camera.size.height);
    gl.uniform1f(at('u_ratio'), ratio);
    gl.uniform1i(at('u_rows'), 0);
    gl.uniform1i(at('u_atlas'), 1);
    gl.uniform1i(at('u_places'), 2);
    this.device.bind(2, this.places.write(places, amount));
    this.device.bind(1, atlas);
    this.device.bind(0, texture);
    this.quads.draw(this.program, 0, amount);
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
    this.places.remove();
    if (this.texture) this.device.dropTexture(this.texture);
  }
}
