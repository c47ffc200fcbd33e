import {
  strokeTexels,
  translated,
  type Camera,
  type CompiledLayer,
  type CompiledSheet,
  type TileAddress,
} from '@flintwright/core';
import type { DrawnPicture } from '../load/pictures.js';
import { preparedIndex, type DrawnTile, type TileStore } from '../load/store.js';
import { SpriteAtlas, TextAtlas } from './atlas.js';
import { boxFloats } from './boxes.js';
import { Device, type Program } from './device.js';
import { Fade } from './fade.js';
import { Heat } from './heat.js';
import { Pictures } from './pictures.js';
import { Ramps } from './ramps.js';
import {
  areaShader,
  blockShader,
  boxShader,
  fancyLineShader,
  lineShader,
  markShader,
  maskShader,
  patternShader,
  textShader,
} from './shaders/index.js';

export interface Scene {
  readonly camera: Camera;
  readonly sheet: CompiledSheet;
  readonly ratio: number;
  readonly stores: ReadonlyMap<string, TileStore>;
  readonly drawn: ReadonlyMap<string, readonly DrawnTile[]>;
  readonly pictures: ReadonlyMap<string, readonly DrawnPicture[]>;
  /** Whether nothing is to glide. */
  readonly still: boolean;
}

type Matrices = ReadonlyMap<DrawnTile, Float32Array>;

const mostBoxes = 4000;

/** Draws scenes: everything that touches the GPU from frame to frame. Only this folder knows it. */
export class Renderer {
  readonly device: Device;
  readonly sprites: SpriteAtlas;
  readonly texts: TextAtlas;
  readonly boxes = new Float32Array(mostBoxes * boxFloats);
  /** Symbols that stand beside labels. */
  readonly iconBoxes = new Float32Array(800 * boxFloats);
  readonly fade: Fade;
  readonly heat: Heat;
  private readonly ramps: Ramps;
  private readonly pictures: Pictures;
  private readonly programs: Record<
    'mask' | 'area' | 'pattern' | 'line' | 'fancyLine' | 'mark' | 'block' | 'box' | 'text',
    Program
  >;
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
      pattern: device.program(patternShader),
      line: device.program(lineShader),
      fancyLine: device.program(fancyLineShader),
      mark: device.program(markShader),
      block: device.program(blockShader),
      box: device.program(boxShader),
      text: device.program(textShader),
    };
    this.sprites = new SpriteAtlas(device, sprites);
    this.texts = new TextAtlas(device);
    this.ramps = new Ramps(device);
    this.fade = new Fade(device);
    this.heat = new Heat(device);
    this.pictures = new Pictures(device);
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
  drawGround({ camera, sheet, ratio, stores, drawn, pictures, still }: Scene): void {
    const { gl } = this.device;
    const { width, height } = this.canvas;
    const { zoom } = camera.view;
    this.calls = 0;
    this.heat.moving = false;
    this.ramps.take(sheet);
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
    let masked: string | undefined;
    for (const layer of sheet.layers) {
      if (!layer.visible || layer.opacity === 0 || zoom < layer.zoom[0] || zoom >= layer.zoom[1]) continue;
      const shown = pictures.get(layer.data);
      if (layer.image && shown?.length) {
        const corners = tileCorners(camera, shown);
        this.mask(corners);
        masked = layer.data;
        this.calls += this.pictures.draw(layer, shown, corners, camera);
        continue;
      }
      const tiles = drawn.get(layer.data);
      if (!stores.has(layer.data) || !tiles?.length) continue;
      if ((layer.hasFill || layer.strokePasses) && masked !== layer.data) {
        this.mask(tileCorners(camera, tiles));
        masked = layer.data;
      }
      if (layer.heat) this.calls += this.heat.draw(layer, tiles, matrices, camera, this.ramps, still);
      this.drawLayer(layer, tiles, matrices, camera, ratio);
    }
    gl.disable(gl.STENCIL_TEST);
    gl.bindVertexArray(null);
  }

  /** Gives every pixel to exactly one tile, by writing the tile's number into the stencil: finer tiles over coarser ones. */
  private mask(clip: Float32Array): void {
    const { gl } = this.device;
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
    for (let i = 0; i < clip.length / 16; i++) {
      gl.stencilFunc(gl.ALWAYS, (i % 255) + 1, 0xff);
      gl.drawArrays(gl.TRIANGLE_STRIP, i * 4, 4);
    }
    gl.colorMask(true, true, true, true);
    gl.stencilMask(0);
    gl.stencilOp(gl.KEEP, gl.KEEP, gl.KEEP);
  }

  private drawLayer(
    layer: CompiledLayer,
    tiles: readonly DrawnTile[],
    matrices: Matrices,
    camera: Camera,
    ratio: number,
  ): void {
    const { gl } = this.device;
    const { zoom } = camera.view;
    const brush: Brush = {
      layer,
      camera,
      ratio,
      grown: zoom - Math.floor(zoom),
      begin: ({ program, at }) => {
        gl.useProgram(program);
        gl.uniform1f(at('u_opacity'), layer.opacity);
        gl.uniform1i(at('u_rows'), 0);
        gl.activeTexture(gl.TEXTURE0);
      },
      each: (program, clipped, has, draw) => {
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
      },
    };
    if (layer.hasFill) this.drawAreas(brush);
    if (layer.strokePasses) this.drawLines(brush);
    if (layer.hasBlock) this.drawBlocks(brush);
    if (layer.hasMark) this.drawMarks(brush);
  }

  private drawAreas({ layer, camera, grown, begin, each }: Brush): void {
    const { gl } = this.device;
    const program = layer.hasMotif ? this.programs.pattern : this.programs.area;
    begin(program);
    const metre = 1 / (camera.metresPerPixel * 2 ** grown);
    if (layer.hasMotif) {
      gl.uniform1f(program.at('u_whole'), metre);
      gl.uniform1f(program.at('u_grown'), 2 ** grown);
      gl.uniform1f(program.at('u_next'), nextShare(grown));
      gl.uniform1i(program.at('u_atlas'), 1);
      this.device.bind(1, this.sprites.texture);
    }
    const corner = layer.hasMotif ? program.at('u_corner') : null;
    const has = ({ entry }: DrawnTile, index: number) => entry.prepared!.layers[index].range.areas[1] > 0;
    each(program, true, has, ({ entry, copy }, index) => {
      const [from, length] = entry.prepared!.layers[index].range.areas;
      if (corner) {
        const { wrap } = camera.surface;
        const pixels = (at: number) => ((((at + wrap / 2) * metre) % 512) + 512) % 512;
        gl.uniform2f(corner, pixels(entry.anchor[0] + copy * wrap), pixels(entry.anchor[1]));
      }
      gl.bindVertexArray(entry.buffers!.areas!);
      gl.drawElements(gl.TRIANGLES, length, gl.UNSIGNED_INT, from * 4);
    });
  }

  private drawLines({ layer, camera, ratio, grown, begin, each }: Brush): void {
    const { gl } = this.device;
    const line = layer.hasFancyStroke ? this.programs.fancyLine : this.programs.line;
    begin(line);
    const scale = 1 / camera.metresPerPixel;
    gl.uniform1f(line.at('u_scale'), scale);
    gl.uniform1f(line.at('u_distance'), camera.distance);
    gl.uniform1f(line.at('u_ratio'), ratio);
    gl.uniform1f(line.at('u_dashScale'), 2 ** grown);
    gl.uniform1f(line.at('u_next'), nextShare(grown));
    gl.uniform1f(line.at('u_ground'), scale * camera.surface.stretch(camera.view.center[1]));
    if (layer.hasFancyStroke) {
      gl.uniform1i(line.at('u_atlas'), 1);
      gl.uniform1i(line.at('u_ramps'), 2);
      this.device.bind(1, this.sprites.texture);
      this.device.bind(2, this.ramps.texture);
    }
    for (let pass = 0; pass < layer.strokePasses; pass++) {
      gl.uniform1i(line.at('u_pass'), layer.parts.stroke + pass * strokeTexels);
      const has = ({ entry }: DrawnTile, index: number) => entry.buffers!.lines[index] !== undefined;
      each(line, true, has, ({ entry }, index) => {
        gl.bindVertexArray(entry.buffers!.lines[index]!);
        gl.drawArraysInstanced(gl.TRIANGLE_STRIP, 0, 4, entry.prepared!.layers[index].range.lines[1] - 3);
      });
    }
  }

  /** Raised polygons hide each other by depth; clear ones are laid into the depth first, so that no inner wall shows. */
  private drawBlocks({ layer, camera, begin, each }: Brush): void {
    const { gl } = this.device;
    const { block } = this.programs;
    const opacity = layer.rules
      .map((rule) => rule.symbols.block?.opacity.bind({ block: emptyBlock, zoom: camera.view.zoom })(0) ?? 0)
      .reduce((most, share) => Math.max(most, share), 0);
    if (opacity <= 0) return;
    begin(block);
    gl.uniform1f(block.at('u_opacity'), layer.opacity * opacity);
    gl.uniform1f(block.at('u_metre'), camera.surface.stretch(camera.view.center[1]));
    gl.uniform1i(block.at('u_pass'), layer.parts.block);
    gl.enable(gl.DEPTH_TEST);
    gl.depthFunc(gl.LEQUAL);
    gl.clear(gl.DEPTH_BUFFER_BIT);
    const has = ({ entry }: DrawnTile, index: number) => entry.prepared!.layers[index].range.blocks[1] > 0;
    const pass = () =>
      each(block, false, has, ({ entry }, index) => {
        const [from, length] = entry.prepared!.layers[index].range.blocks;
        gl.bindVertexArray(entry.buffers!.blocks!);
        gl.drawElements(gl.TRIANGLES, length, gl.UNSIGNED_INT, from * 4);
      });
    if (layer.opacity * opacity < 1) {
      gl.colorMask(false, false, false, false);
      pass();
      gl.colorMask(true, true, true, true);
      gl.depthMask(false);
    }
    pass();
    gl.depthMask(true);
    gl.disable(gl.DEPTH_TEST);
  }

  private drawMarks({ layer, camera, ratio, begin, each }: Brush): void {
    const { gl } = this.device;
    const { mark } = this.programs;
    begin(mark);
    gl.uniform1f(mark.at('u_ratio'), ratio);
    gl.uniform2f(mark.at('u_viewport'), camera.size.width, camera.size.height);
    gl.uniform1i(mark.at('u_pass'), layer.parts.mark);
    gl.uniform1i(mark.at('u_atlas'), 1);
    this.device.bind(1, this.sprites.texture);
    const has = ({ entry }: DrawnTile, index: number) => entry.buffers!.marks[index] !== undefined;
    each(mark, false, has, ({ entry }, index) => {
      gl.bindVertexArray(entry.buffers!.marks[index]!);
      gl.drawArraysInstanced(gl.TRIANGLE_STRIP, 0, 4, entry.prepared!.layers[index].range.marks[1]);
    });
  }

  /** Draws the first `amount` boxes of a list, from the atlas of texts or of sprites, over the ground. */
  drawBoxes(camera: Camera, from: 'texts' | 'sprites', boxes: Float32Array, amount: number): void {
    if (!amount) return;
    const { gl } = this.device;
    const program = from === 'texts' ? this.programs.text : this.programs.box;
    gl.disable(gl.STENCIL_TEST);
    gl.useProgram(program.program);
    gl.bindVertexArray(this.boxArray);
    gl.bindBuffer(gl.ARRAY_BUFFER, this.boxBuffer);
    gl.bufferSubData(gl.ARRAY_BUFFER, 0, boxes, 0, amount * boxFloats);
    gl.uniform2f(program.at('u_viewport'), camera.size.width, camera.size.height);
    gl.uniform1i(program.at('u_atlas'), 0);
    this.device.bind(0, from === 'texts' ? this.texts.texture : this.sprites.texture);
    gl.drawArraysInstanced(gl.TRIANGLE_STRIP, 0, 4, amount);
    gl.bindVertexArray(null);
    this.calls++;
  }

  destroy(): void {
    const { device } = this;
    for (const program of Object.values(this.programs)) device.dropProgram(program);
    this.sprites.destroy();
    this.texts.destroy();
    this.ramps.destroy();
    this.fade.destroy();
    this.heat.destroy();
    this.pictures.destroy();
    device.dropBuffer(this.maskBuffer);
    device.dropBuffer(this.boxBuffer);
    device.dropVertexArray(this.maskArray);
    device.dropVertexArray(this.boxArray);
  }
}

/** What the parts of a layer are drawn with. */
interface Brush {
  readonly layer: CompiledLayer;
  readonly camera: Camera;
  readonly ratio: number;
  /** Zoom beyond the whole level. */
  readonly grown: number;
  begin(program: Program): void;
  each(
    program: Program,
    clipped: boolean,
    has: (tile: DrawnTile, index: number) => boolean,
    draw: (tile: DrawnTile, index: number) => void,
  ): void;
}

/** How much of the next whole level's dashes and patterns is mixed in: none up to 0.6, all at 1. */
function nextShare(grown: number): number {
  const t = Math.max(0, (grown - 0.6) / 0.4);
  return t * t * (3 - 2 * t);
}

/**
 * Clip coordinates of the four corners of each tile. Worked out in doubles, so neighbours share their edges to the last bit
 * and no seam shows.
 */
function tileCorners(
  camera: Camera,
  tiles: readonly { readonly entry: { readonly tile: TileAddress }; readonly copy: number }[],
): Float32Array {
  const clip = new Float32Array(tiles.length * 16);
  const m = camera.matrix;
  const wrap = camera.surface.wrap;
  tiles.forEach(({ entry: { tile }, copy }, i) => {
    const size = wrap / 2 ** tile.z;
    for (let k = 0; k < 4; k++) {
      const x = (tile.x + (k & 1)) * size - wrap / 2 + copy * wrap - camera.middle[0];
      const y = wrap / 2 - (tile.y + (k >> 1)) * size - camera.middle[1];
      const o = i * 16 + k * 4;
      for (let row = 0; row < 4; row++) clip[o + row] = m[row] * x + m[4 + row] * y + m[12 + row];
    }
  });
  return clip;
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
