import {
  fillTexels,
  strokeTexels,
  translated,
  type Camera,
  type CompiledLayer,
  type CompiledSheet,
} from '@flintwright/core';
import { boxFloats } from '../text/labels.js';
import { preparedIndex, type DrawnTile, type TileStore } from '../load/store.js';
import { SpriteAtlas, TextAtlas } from './atlas.js';
import { Device, type Program } from './device.js';
import { areaShader, boxShader, lineShader, markShader, maskShader } from './shaders.js';

export interface Scene {
  readonly camera: Camera;
  readonly sheet: CompiledSheet;
  readonly ratio: number;
  readonly stores: ReadonlyMap<string, TileStore>;
  readonly drawn: ReadonlyMap<string, readonly DrawnTile[]>;
}

const mostBoxes = 4000;

/** Draws scenes: everything that touches the GPU from frame to frame. Only this folder knows it. */
export class Renderer {
  readonly device: Device;
  readonly sprites: SpriteAtlas;
  readonly texts: TextAtlas;
  readonly boxes = new Float32Array(mostBoxes * boxFloats);
  private readonly programs: Record<'mask' | 'area' | 'line' | 'mark' | 'box', Program>;
  private readonly maskBuffer: WebGLBuffer;
  private readonly maskArray: WebGLVertexArrayObject;
  private readonly boxBuffer: WebGLBuffer;
  private readonly boxArray: WebGLVertexArrayObject;
  /** Draw calls of the last frame. */
  calls = 0;

  constructor(
    readonly canvas: HTMLCanvasElement,
    sprites: Readonly<Record<string, string>>,
  ) {
    this.device = new Device(canvas);
    const { device } = this;
    const { gl } = device;
    this.programs = {
      mask: device.program(maskShader),
      area: device.program(areaShader),
      line: device.program(lineShader),
      mark: device.program(markShader),
      box: device.program(boxShader),
    };
    this.sprites = new SpriteAtlas(device, sprites);
    this.texts = new TextAtlas(device);
    this.maskArray = device.vertexArray();
    this.maskBuffer = device.buffer(gl.ARRAY_BUFFER, null, gl.DYNAMIC_DRAW);
    gl.enableVertexAttribArray(0);
    gl.vertexAttribPointer(0, 4, gl.FLOAT, false, 16, 0);
    this.boxArray = device.vertexArray();
    this.boxBuffer = device.buffer(gl.ARRAY_BUFFER, this.boxes, gl.DYNAMIC_DRAW);
    for (let location = 0; location < 5; location++) {
      gl.enableVertexAttribArray(location);
      gl.vertexAttribPointer(location, 4, gl.FLOAT, false, boxFloats * 4, location * 16);
      gl.vertexAttribDivisor(location, 1);
    }
    gl.bindVertexArray(null);
  }

  /** Draws the ground: background and layers. */
  drawGround({ camera, sheet, ratio, stores, drawn }: Scene): void {
    const { gl } = this.device;
    const { width, height } = this.canvas;
    const { zoom } = camera.view;
    this.calls = 0;
    gl.viewport(0, 0, width, height);
    const [r, g, b, a] = sheet.background.bind({ block: emptyBlock, zoom })(0);
    gl.clearColor(r, g, b, a);
    gl.disable(gl.STENCIL_TEST);
    gl.clear(gl.COLOR_BUFFER_BIT);
    const matrices = new Map<DrawnTile, Float32Array>();
    const wrap = camera.surface.wrap;
    for (const list of drawn.values()) {
      for (const tile of list) {
        const matrix = new Float32Array(16);
        translated(
          camera.matrix,
          tile.entry.anchor[0] + tile.copy * wrap - camera.middle[0],
          tile.entry.anchor[1] - camera.middle[1],
          0,
          matrix,
        );
        matrices.set(tile, matrix);
      }
    }
    let masked: TileStore | undefined;
    for (const layer of sheet.layers) {
      if (!layer.visible || layer.opacity === 0 || zoom < layer.zoom[0] || zoom >= layer.zoom[1]) continue;
      const store = stores.get(layer.data);
      const tiles = drawn.get(layer.data);
      if (!store || !tiles?.length) continue;
      if ((layer.hasFill || layer.strokePasses) && masked !== store) {
        this.mask(camera, tiles);
        masked = store;
      }
      this.drawLayer(layer, tiles, matrices, camera, ratio);
    }
    gl.disable(gl.STENCIL_TEST);
    gl.bindVertexArray(null);
  }

  /**
   * Gives every pixel to exactly one tile, by writing the tile's number into the stencil: finer tiles over coarser
   * ones. Corners are worked out in doubles, so neighbours share their edges to the last bit and no seam shows.
   */
  private mask(camera: Camera, tiles: readonly DrawnTile[]): void {
    const { gl } = this.device;
    const clip = new Float32Array(tiles.length * 16);
    const m = camera.matrix;
    const wrap = camera.surface.wrap;
    tiles.forEach(({ entry, copy }, i) => {
      const size = wrap / 2 ** entry.tile.z;
      for (let k = 0; k < 4; k++) {
        const x = (entry.tile.x + (k & 1)) * size - wrap / 2 + copy * wrap - camera.middle[0];
        const y = wrap / 2 - (entry.tile.y + (k >> 1)) * size - camera.middle[1];
        const o = i * 16 + k * 4;
        for (let row = 0; row < 4; row++) clip[o + row] = m[row] * x + m[4 + row] * y + m[12 + row];
      }
    });
    gl.useProgram(this.programs.mask.program);
    gl.bindVertexArray(this.maskArray);
    gl.bindBuffer(gl.ARRAY_BUFFER, this.maskBuffer);
    gl.bufferData(gl.ARRAY_BUFFER, clip, gl.DYNAMIC_DRAW);
    gl.enable(gl.STENCIL_TEST);
    gl.stencilMask(0xff);
    gl.clearStencil(0);
    gl.clear(gl.STENCIL_BUFFER_BIT);
    gl.stencilOp(gl.KEEP, gl.KEEP, gl.REPLACE);
    gl.colorMask(false, false, false, false);
    tiles.forEach((_, i) => {
      gl.stencilFunc(gl.ALWAYS, (i % 255) + 1, 0xff);
      gl.drawArrays(gl.TRIANGLE_STRIP, i * 4, 4);
    });
    gl.colorMask(true, true, true, true);
    gl.stencilMask(0);
    gl.stencilOp(gl.KEEP, gl.KEEP, gl.KEEP);
  }

  private drawLayer(
    layer: CompiledLayer,
    tiles: readonly DrawnTile[],
    matrices: ReadonlyMap<DrawnTile, Float32Array>,
    camera: Camera,
    ratio: number,
  ): void {
    const { gl } = this.device;
    const { zoom } = camera.view;
    const begin = ({ program, at }: Program) => {
      gl.useProgram(program);
      gl.uniform1f(at('u_opacity'), layer.opacity);
      gl.uniform1i(at('u_rows'), 0);
      gl.activeTexture(gl.TEXTURE0);
    };
    const each = (
      program: Program,
      clipped: boolean,
      has: (tile: DrawnTile, index: number) => boolean,
      draw: (tile: DrawnTile, index: number) => void,
    ) => {
      const [matrix, mix] = [program.at('u_matrix'), program.at('u_mix')];
      let mixed = -1;
      if (clipped) gl.enable(gl.STENCIL_TEST);
      else gl.disable(gl.STENCIL_TEST);
      tiles.forEach((tile, i) => {
        const { entry } = tile;
        const index = preparedIndex(entry, layer);
        if (index < 0 || !has(tile, index)) return;
        if (clipped) gl.stencilFunc(gl.EQUAL, (i % 255) + 1, 0xff);
        gl.bindTexture(gl.TEXTURE_2D, entry.buffers!.rows);
        gl.uniformMatrix4fv(matrix, false, matrices.get(tile)!);
        const [low, high] = entry.steps[index];
        const t = Math.max(0, Math.min(1, (zoom - low) / (high - low)));
        if (t !== mixed) gl.uniform1f(mix, (mixed = t));
        draw(tile, index);
        this.calls++;
      });
    };
    if (layer.hasFill) {
      const { area } = this.programs;
      begin(area);
      const has = ({ entry }: DrawnTile, index: number) => entry.prepared!.layers[index].range.areas[1] > 0;
      each(area, true, has, ({ entry }, index) => {
        const [from, length] = entry.prepared!.layers[index].range.areas;
        gl.bindVertexArray(entry.buffers!.areas!);
        gl.drawElements(gl.TRIANGLES, length, gl.UNSIGNED_INT, from * 4);
      });
    }
    if (layer.strokePasses) {
      const { line } = this.programs;
      begin(line);
      const scale = 1 / camera.metresPerPixel;
      gl.uniform1f(line.at('u_scale'), scale);
      gl.uniform1f(line.at('u_distance'), camera.distance);
      gl.uniform1f(line.at('u_ratio'), ratio);
      gl.uniform1f(line.at('u_dashScale'), 2 ** (zoom - Math.floor(zoom)));
      gl.uniform1f(line.at('u_ground'), scale * camera.surface.stretch(camera.view.center[1]));
      for (let pass = 0; pass < layer.strokePasses; pass++) {
        gl.uniform1i(line.at('u_pass'), (layer.hasFill ? fillTexels : 0) + pass * strokeTexels);
        const has = ({ entry }: DrawnTile, index: number) => entry.buffers!.lines[index] !== undefined;
        each(line, true, has, ({ entry }, index) => {
          gl.bindVertexArray(entry.buffers!.lines[index]!);
          gl.drawArraysInstanced(gl.TRIANGLE_STRIP, 0, 4, entry.prepared!.layers[index].range.lines[1] - 3);
        });
      }
    }
    if (layer.hasMark) {
      const { mark } = this.programs;
      begin(mark);
      gl.uniform1f(mark.at('u_ratio'), ratio);
      gl.uniform2f(mark.at('u_viewport'), camera.size.width, camera.size.height);
      gl.uniform1i(mark.at('u_pass'), (layer.hasFill ? fillTexels : 0) + layer.strokePasses * strokeTexels);
      gl.uniform1i(mark.at('u_atlas'), 1);
      gl.activeTexture(gl.TEXTURE1);
      gl.bindTexture(gl.TEXTURE_2D, this.sprites.texture);
      gl.activeTexture(gl.TEXTURE0);
      const has = ({ entry }: DrawnTile, index: number) => entry.buffers!.marks[index] !== undefined;
      each(mark, false, has, ({ entry }, index) => {
        gl.bindVertexArray(entry.buffers!.marks[index]!);
        gl.drawArraysInstanced(gl.TRIANGLE_STRIP, 0, 4, entry.prepared!.layers[index].range.marks[1]);
      });
    }
  }

  /** Draws the first `amount` of {@link boxes} from an atlas, over the ground. */
  drawBoxes(camera: Camera, texture: WebGLTexture, amount: number): void {
    if (!amount) return;
    const { gl } = this.device;
    const { box } = this.programs;
    gl.disable(gl.STENCIL_TEST);
    gl.useProgram(box.program);
    gl.bindVertexArray(this.boxArray);
    gl.bindBuffer(gl.ARRAY_BUFFER, this.boxBuffer);
    gl.bufferSubData(gl.ARRAY_BUFFER, 0, this.boxes, 0, amount * boxFloats);
    gl.uniform2f(box.at('u_viewport'), camera.size.width, camera.size.height);
    gl.uniform1i(box.at('u_atlas'), 0);
    gl.activeTexture(gl.TEXTURE0);
    gl.bindTexture(gl.TEXTURE_2D, texture);
    gl.drawArraysInstanced(gl.TRIANGLE_STRIP, 0, 4, amount);
    gl.bindVertexArray(null);
    this.calls++;
  }

  destroy(): void {
    const { device } = this;
    for (const program of Object.values(this.programs)) device.dropProgram(program);
    this.sprites.destroy();
    this.texts.destroy();
    device.dropBuffer(this.maskBuffer);
    device.dropBuffer(this.boxBuffer);
    device.dropVertexArray(this.maskArray);
    device.dropVertexArray(this.boxArray);
  }
}

const emptyBlock = {
  name: '',
  space: 'lonlat' as const,
  extent: 0,
  count: 0,
  kinds: new Uint8Array(),
  ids: new Float64Array(),
  featureParts: new Uint32Array(1),
  partRings: new Uint32Array(1),
  ringStarts: new Uint32Array(1),
  coords: new Float64Array(),
  columns: [],
};
