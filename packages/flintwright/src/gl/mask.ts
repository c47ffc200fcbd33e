import type { TileAddress } from '@flintwright/core';
import type { Camera } from '@flintwright/core/internal';
import type { Device, Program } from './device.js';
import { maskShader } from './shaders/index.js';

/** A piece of ground with its clip coordinates worked out for one view, in doubles, so that neighbors meet to the last bit. */
export interface Patch {
  /** x, y, z, w by turns. */
  readonly clip: Float32Array;
  /** Three a triangle. */
  readonly indices: Uint32Array;
  readonly uv?: Float32Array;
}

const quad = Uint32Array.of(0, 2, 1, 1, 2, 3);
const quadUv = Float32Array.of(0, 0, 1, 0, 0, 1, 1, 1);

/** The four corners of a tile on a surface where tiles are only moved and scaled. */
export function flatPatch(camera: Camera, tile: TileAddress, copy: number, side: number): Patch {
  const clip = new Float32Array(16);
  const m = camera.matrix;
  const size = side / 2 ** tile.z;
  for (let k = 0; k < 4; k++) {
    const x = (tile.x + (k & 1)) * size - side / 2 + copy * camera.surface.wrap - camera.middle[0];
    const y = side / 2 - (tile.y + (k >> 1)) * size - camera.middle[1];
    for (let row = 0; row < 4; row++) clip[4 * k + row] = m[row] * x + m[4 + row] * y + m[12 + row];
  }
  return { clip, indices: quad, uv: quadUv };
}

/** Gives every pixel to exactly one tile, by writing the tile's number into the stencil: finer tiles over coarser ones. */
export class Mask {
  readonly program: Program;
  private readonly array: WebGLVertexArrayObject;
  private readonly places: WebGLBuffer;
  private readonly order: WebGLBuffer;
  private joined: JoinedPatches | undefined;

  constructor(private readonly device: Device) {
    const { gl } = device;
    this.program = device.program(maskShader);
    this.array = device.vertexArray();
    this.places = device.buffer(gl.ARRAY_BUFFER, null, gl.DYNAMIC_DRAW);
    gl.enableVertexAttribArray(0);
    gl.vertexAttribPointer(0, 4, gl.FLOAT, false, 16, 0);
    this.order = device.buffer(gl.ELEMENT_ARRAY_BUFFER, null, gl.DYNAMIC_DRAW);
    gl.bindVertexArray(null);
  }

  draw(patches: readonly Patch[]): void {
    const { gl } = this.device;
    gl.useProgram(this.program.program);
    gl.bindVertexArray(this.array);
    const joined = (this.joined = join(patches, this.joined));
    // Plain tiles need no list of triangles.
    const plain = patches.every(({ indices }) => indices === quad);
    gl.bindBuffer(gl.ARRAY_BUFFER, this.places);
    gl.bufferData(gl.ARRAY_BUFFER, joined.clip, gl.DYNAMIC_DRAW, 0, 4 * joined.vertices);
    if (!plain) gl.bufferData(gl.ELEMENT_ARRAY_BUFFER, joined.indices, gl.DYNAMIC_DRAW, 0, joined.corners);
    gl.enable(gl.STENCIL_TEST);
    gl.stencilMask(0xff);
    gl.clearStencil(0);
    gl.clear(gl.STENCIL_BUFFER_BIT);
    gl.stencilOp(gl.KEEP, gl.KEEP, gl.REPLACE);
    gl.colorMask(false, false, false, false);
    let at = 0;
    patches.forEach(({ indices }, i) => {
      gl.stencilFunc(gl.ALWAYS, (i % 255) + 1, 0xff);
      if (plain) gl.drawArrays(gl.TRIANGLE_STRIP, 4 * i, 4);
      else gl.drawElements(gl.TRIANGLES, indices.length, gl.UNSIGNED_INT, at * 4);
      at += indices.length;
    });
    gl.colorMask(true, true, true, true);
    gl.stencilMask(0);
    gl.stencilOp(gl.KEEP, gl.KEEP, gl.KEEP);
  }

  remove(): void {
    this.device.dropProgram(this.program);
    this.device.dropVertexArray(this.array);
    this.device.dropBuffer(this.places);
    this.device.dropBuffer(this.order);
  }
}

/** Patches one after the other in one list; the arrays may have room for more. */
export interface JoinedPatches {
  readonly clip: Float32Array;
  readonly indices: Uint32Array;
  readonly uv: Float32Array;
  readonly vertices: number;
  readonly corners: number;
}

/** @param room what was joined before, whose arrays are used again where they are large enough */
export function join(patches: readonly Patch[], room?: JoinedPatches): JoinedPatches {
  const vertices = patches.reduce((sum, { clip }) => sum + clip.length / 4, 0);
  const corners = patches.reduce((sum, { indices }) => sum + indices.length, 0);
  const fits = room && room.clip.length >= 4 * vertices && room.indices.length >= corners;
  const { clip, indices, uv } = fits
    ? room
    : { clip: new Float32Array(4 * vertices), indices: new Uint32Array(corners), uv: new Float32Array(2 * vertices) };
  let [base, at] = [0, 0];
  for (const patch of patches) {
    clip.set(patch.clip, 4 * base);
    if (patch.uv) uv.set(patch.uv, 2 * base);
    for (let i = 0; i < patch.indices.length; i++) indices[at + i] = patch.indices[i] + base;
    at += patch.indices.length;
    base += patch.clip.length / 4;
  }
  return { clip, indices, uv, vertices, corners };
}
