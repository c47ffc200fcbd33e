// Room "gl": everything that touches WebGL, and the drawn tile it keeps.
import type { CompiledLayer, CompiledSheet, SquareGrid, TileAddress } from '@flintwright/core';
import { gridHalf, strokeTexels, type Camera, type Rgba } from '@flintwright/core/internal';
import type { Ground } from './surfaces.js';
import { preparedIndex, type DrawnData, type DrawnTile, type ReadyEntry } from './drawn-tile.js';
import type { Icons } from '../base/icons.js';
import { SpriteAtlas, TextAtlas } from './atlas.js';
import { boxFloats, BoxList } from './boxes.js';
import { Globe } from './globe.js';
import { Device, type Program } from './device.js';
import { eyeIn, isRound } from './eye.js';
import { Heat } from './heat.js';
import { bentPatch, flatPatch, Mask, type Patch } from './mask.js';
import { ImageBrush } from './image-brush.js';
import { Ramps } from './ramps.js';
import { Fade, KeptGround, Screen } from './screen.js';
import { MarkerBrush, type MarkerRows } from './marker-brush.js';
import {
  areaShader,
  extrusionShader,
  boxShader,
  fancyLineShader,
  lineShader,
  markShader,
  patternShader,
} from './shaders/index.js';

export interface Scene {
  readonly camera: Camera;
  readonly sheet: CompiledSheet;
  readonly ratio: number;
  /** By the name of the data entry. */
  readonly data: ReadonlyMap<string, DrawnData>;
  /** Whether nothing is to glide. */
  readonly still: boolean;
  /** Shapes of tiles, on surfaces that bend them. */
  readonly ground: Ground | undefined;
  /** The sky round a globe, and the haze along its rim. */
  readonly sky: Rgba;
  readonly haze: Rgba;
}

type Matrices = ReadonlyMap<DrawnTile, Float32Array>;

/** Draws scenes: everything that touches the GPU from frame to frame. Only this folder knows it. */
export class Renderer {
  readonly device: Device;
  readonly sprites: SpriteAtlas;
  readonly texts: TextAtlas;
  readonly boxes = new BoxList();
  /** Symbols that stand beside labels. */
  readonly iconBoxes = new BoxList();
  readonly fade: Fade;
  private readonly screen: Screen;
  private readonly kept: KeptGround;
  readonly heat: Heat;
  private readonly ramps: Ramps;
  private readonly images: ImageBrush;
  private readonly programs: Record<'area' | 'pattern' | 'line' | 'fancyLine' | 'mark' | 'extrusion' | 'box', Program>;
  private readonly mask: Mask;
  private readonly globe: Globe;
  private readonly markers: MarkerBrush;
  private readonly boxBuffer: WebGLBuffer;
  /** Floats that there is room for in the buffer. */
  private boxRoom: number;
  private readonly boxArray: WebGLVertexArrayObject;
  /** Draw calls of the last frame. */
  calls = 0;

  constructor(
    readonly canvas: HTMLCanvasElement,
    icons: Icons,
  ) {
    this.device = new Device(canvas);
    const { device } = this;
    const { gl } = device;
    this.programs = {
      area: device.program(areaShader),
      pattern: device.program(patternShader),
      line: device.program(lineShader),
      fancyLine: device.program(fancyLineShader),
      mark: device.program(markShader),
      extrusion: device.program(extrusionShader),
      box: device.program(boxShader),
    };
    this.sprites = new SpriteAtlas(device, icons);
    this.texts = new TextAtlas(device);
    this.ramps = new Ramps(device);
    this.screen = new Screen(device);
    this.fade = new Fade(this.screen);
    this.kept = new KeptGround(this.screen);
    this.heat = new Heat(device);
    this.images = new ImageBrush(device);
    this.mask = new Mask(device);
    this.globe = new Globe(device);
    this.markers = new MarkerBrush(device);
    this.boxArray = device.vertexArray();
    this.boxBuffer = device.buffer(gl.ARRAY_BUFFER, this.boxes.floats, gl.DYNAMIC_DRAW);
    this.boxRoom = this.boxes.floats.length;
    for (let location = 0; location < 5; location++) {
      gl.enableVertexAttribArray(location);
      gl.vertexAttribPointer(location, 4, gl.FLOAT, false, boxFloats * 4, location * 16);
      gl.vertexAttribDivisor(location, 1);
    }
    gl.bindVertexArray(null);
  }

  /** Puts the ground on the screen: draws it, or lays down what was drawn before where it is `unchanged` since. */
  showGround(scene: Scene, unchanged: boolean): void {
    const same = unchanged && !this.heat.moving;
    if (!same) this.kept.drop();
    else if (this.kept.lay()) {
      this.calls = 1;
      return;
    }
    this.drawGround(scene);
    if (same) this.kept.keep();
  }

  /** Draws the ground: background and layers. */
  private drawGround(scene: Scene): void {
    const { camera, sheet, ratio, data, still, sky, haze } = scene;
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
    const round = isRound(camera);
    if (round) {
      this.globe.draw(camera, [r, g, b, a], sky, haze);
      this.calls++;
      gl.disable(gl.DEPTH_TEST);
    }
    const matrices = new Map<DrawnTile, Float32Array>();
    const { wrap } = camera.surface;
    for (const { tiles } of data.values()) {
      for (const tile of tiles) {
        const matrix = new Float32Array(16);
        camera.frameMatrix(tile.entry.frame, tile.copy * wrap, matrix);
        matrices.set(tile, matrix);
      }
    }
    let masked: string | undefined;
    // Layers that lay nothing but plain areas, one after the other, are drawn together.
    let run: CompiledLayer[] = [];
    const end = () => {
      if (run.length) this.drawRun(run, data.get(run[0].data)?.tiles ?? [], matrices, camera);
      run = [];
    };
    for (const layer of sheet.layers) {
      if (!layer.visible || layer.opacity === 0 || zoom < layer.zoom[0] || zoom >= layer.zoom[1]) continue;
      const drawn = data.get(layer.data);
      if (!drawn) continue;
      const { tiles, images, grid } = drawn;
      if (layer.image && images.length) {
        end();
        const patches = images.map(({ entry, copy, grid }) => this.patch(scene, entry.tile, copy, grid, true));
        this.mask.draw(patches);
        masked = layer.data;
        this.calls += this.images.draw(layer, images, patches, camera);
        continue;
      }
      if (!tiles.length) continue;
      if ((layer.hasFill || layer.strokePasses) && masked !== layer.data) {
        end();
        this.mask.draw(tiles.map(({ entry, copy }) => this.patch(scene, entry.tile, copy, grid, false)));
        masked = layer.data;
      }
      if (run.length && run[0].opacity !== layer.opacity) end();
      if (layer.hasFill && !layer.hasPattern && !layer.heat) run.push(layer);
      if (run.at(-1) === layer && !layer.strokePasses && !layer.hasExtrusion && !layer.hasMark) continue;
      end();
      if (layer.heat) this.calls += this.heat.draw(layer, tiles, matrices, camera, this.ramps, still);
      this.drawLayer(layer, tiles, matrices, camera, ratio);
    }
    end();
    gl.disable(gl.STENCIL_TEST);
    gl.disable(gl.DEPTH_TEST);
    gl.depthMask(true);
    gl.bindVertexArray(null);
  }

  /** The ground of a tile in clip space. */
  private patch({ camera, ground }: Scene, tile: TileAddress, copy: number, grid: SquareGrid, lattice: boolean): Patch {
    const { surface } = camera;
    if (!ground || (surface.flat && surface.grid === grid)) return flatPatch(camera, tile, copy, 2 * gridHalf);
    return bentPatch(camera, lattice ? ground.lattice(tile, grid) : ground.area(tile, grid), copy);
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
      begin: (program) => this.begin(program, layer.opacity, camera),
      each: (program, clipped, has, draw) => {
        const [matrix, mix] = [program.at('u_matrix'), program.at('u_mix')];
        const eye = camera.eye && program.at('u_eye');
        let mixed = -1;
        if (clipped) gl.enable(gl.STENCIL_TEST);
        else gl.disable(gl.STENCIL_TEST);
        tiles.forEach((tile, i) => {
          const { entry } = tile;
          const index = preparedIndex(entry, layer);
          if (index < 0 || !has(tile, index)) return;
          if (clipped) gl.stencilFunc(gl.EQUAL, (i % 255) + 1, 0xff);
          gl.bindTexture(gl.TEXTURE_2D, entry.buffers.rows);
          gl.uniformMatrix4fv(matrix, false, matrices.get(tile)!);
          if (eye) gl.uniform3f(eye, ...eyeIn(camera, entry.frame));
          const t = mixOf(entry, index, zoom);
          if (t !== mixed) gl.uniform1f(mix, (mixed = t));
          draw(tile, index);
          this.calls++;
        });
      },
    };
    if (layer.hasFill && (layer.hasPattern || layer.heat)) this.drawAreas(brush);
    if (layer.strokePasses) this.drawLines(brush);
    if (layer.hasExtrusion) this.drawExtrusions(brush);
    if (layer.hasMark) this.drawMarks(brush);
  }

  private begin({ program, at }: Program, opacity: number, camera: Camera): void {
    const { gl } = this.device;
    const { radius } = camera.surface;
    gl.useProgram(program);
    gl.uniform1f(at('u_opacity'), opacity);
    gl.uniform1i(at('u_rows'), 0);
    gl.uniform1f(at('u_curve'), radius ? 1 / radius : 0);
    gl.uniform1f(at('u_horizon'), isRound(camera) ? 1 : 0);
    gl.activeTexture(gl.TEXTURE0);
  }

  /** Draws the areas of layers that follow each other, tile by tile; what lies together in a tile's buffers goes in one call. */
  private drawRun(
    run: readonly CompiledLayer[],
    tiles: readonly DrawnTile[],
    matrices: Matrices,
    camera: Camera,
  ): void {
    const { gl } = this.device;
    const { area } = this.programs;
    const { zoom } = camera.view;
    this.begin(area, run[0].opacity, camera);
    gl.enable(gl.STENCIL_TEST);
    let mixed = -1;
    tiles.forEach((tile, i) => {
      const { entry } = tile;
      let [first, amount, mix] = [0, 0, -1];
      let bound = false;
      const draw = () => {
        if (!amount) return;
        if (!bound) {
          gl.stencilFunc(gl.EQUAL, (i % 255) + 1, 0xff);
          gl.bindTexture(gl.TEXTURE_2D, entry.buffers.rows);
          gl.uniformMatrix4fv(area.at('u_matrix'), false, matrices.get(tile)!);
          if (camera.eye) gl.uniform3f(area.at('u_eye'), ...eyeIn(camera, entry.frame));
          gl.bindVertexArray(entry.buffers.areas!);
          bound = true;
        }
        if (mix !== mixed) gl.uniform1f(area.at('u_mix'), (mixed = mix));
        gl.drawElements(gl.TRIANGLES, amount, gl.UNSIGNED_INT, first * 4);
        this.calls++;
      };
      for (const layer of run) {
        const index = preparedIndex(entry, layer);
        if (index < 0) continue;
        const [from, length] = entry.prepared.layers[index].range.areas;
        if (!length) continue;
        const t = mixOf(entry, index, zoom);
        if (amount && from === first + amount && t === mix) amount += length;
        else {
          draw();
          [first, amount, mix] = [from, length, t];
        }
      }
      draw();
    });
  }

  private drawAreas({ layer, camera, grown, begin, each }: Brush): void {
    const { gl } = this.device;
    const program = layer.hasPattern ? this.programs.pattern : this.programs.area;
    begin(program);
    const metre = 1 / (camera.metresPerPixel * 2 ** grown);
    if (layer.hasPattern) {
      gl.uniform1f(program.at('u_whole'), metre);
      gl.uniform1f(program.at('u_grown'), 2 ** grown);
      gl.uniform1f(program.at('u_next'), nextShare(grown));
      gl.uniform1i(program.at('u_atlas'), 1);
      this.device.bind(1, this.sprites.texture);
    }
    const corner = layer.hasPattern ? program.at('u_corner') : null;
    const has = ({ entry }: DrawnTile, index: number) => entry.prepared.layers[index].range.areas[1] > 0;
    each(program, true, has, ({ entry, copy }, index) => {
      const [from, length] = entry.prepared.layers[index].range.areas;
      if (corner) {
        const { wrap } = camera.surface;
        const pixels = (at: number) => ((((at + gridHalf) * metre) % 512) + 512) % 512;
        gl.uniform2f(corner, pixels(entry.frame.anchor[0] + copy * wrap), pixels(entry.frame.anchor[1]));
      }
      gl.bindVertexArray(entry.buffers.areas!);
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
    gl.uniform2f(line.at('u_viewport'), camera.size.width, camera.size.height);
    gl.uniform1f(line.at('u_ratio'), ratio);
    gl.uniform1f(line.at('u_dashScale'), 2 ** grown);
    gl.uniform1f(line.at('u_next'), nextShare(grown));
    gl.uniform1f(line.at('u_ground'), scale * camera.surface.stretch(...camera.view.center));
    if (layer.hasFancyStroke) {
      gl.uniform1i(line.at('u_atlas'), 1);
      gl.uniform1i(line.at('u_ramps'), 2);
      this.device.bind(1, this.sprites.texture);
      this.device.bind(2, this.ramps.texture);
    }
    const passAt = line.at('u_pass');
    const has = ({ entry }: DrawnTile, index: number) => entry.buffers.lines[index] !== undefined;
    // No tile reaches over its border, so each is finished, casing and core, before the next.
    each(line, true, has, ({ entry }, index) => {
      gl.bindVertexArray(entry.buffers.lines[index]!);
      for (let pass = 0; pass < layer.strokePasses; pass++) {
        gl.uniform1i(passAt, layer.parts.stroke + pass * strokeTexels);
        gl.drawArraysInstanced(gl.TRIANGLE_STRIP, 0, 4, entry.prepared.layers[index].range.lines[1] - 3);
      }
      this.calls += layer.strokePasses - 1;
    });
  }

  /** Raised polygons hide each other by depth; clear ones are laid into the depth first, so that no inner wall shows. */
  private drawExtrusions({ layer, camera, begin, each }: Brush): void {
    const { gl } = this.device;
    const { extrusion } = this.programs;
    const opacity = layer.rules
      .map((rule) => rule.symbols.extrusion?.opacity.bind({ block: emptyBlock, zoom: camera.view.zoom })(0) ?? 0)
      .reduce((most, share) => Math.max(most, share), 0);
    if (opacity <= 0) return;
    begin(extrusion);
    gl.uniform1f(extrusion.at('u_opacity'), layer.opacity * opacity);
    gl.uniform1f(extrusion.at('u_metre'), camera.surface.stretch(...camera.view.center));
    gl.uniform1i(extrusion.at('u_pass'), layer.parts.extrusion);
    // Far out on a globe extrusions are too low to hide each other, and the depth there keeps the far side away.
    const round = isRound(camera);
    gl.enable(gl.DEPTH_TEST);
    gl.depthFunc(gl.LEQUAL);
    gl.depthMask(!round);
    if (!round) gl.clear(gl.DEPTH_BUFFER_BIT);
    const has = ({ entry }: DrawnTile, index: number) => entry.prepared.layers[index].range.extrusions[1] > 0;
    const pass = () =>
      each(extrusion, false, has, ({ entry }, index) => {
        const [from, length] = entry.prepared.layers[index].range.extrusions;
        gl.bindVertexArray(entry.buffers.blocks!);
        gl.drawElements(gl.TRIANGLES, length, gl.UNSIGNED_INT, from * 4);
      });
    if (layer.opacity * opacity < 1) {
      gl.colorMask(false, false, false, false);
      pass();
      gl.colorMask(true, true, true, true);
      gl.depthMask(false);
    }
    pass();
    gl.depthMask(!round);
    gl.disable(gl.DEPTH_TEST);
  }

  private drawMarks({ layer, camera, ratio, begin, each }: Brush): void {
    const { gl } = this.device;
    const { mark } = this.programs;
    gl.disable(gl.DEPTH_TEST);
    begin(mark);
    gl.uniform1f(mark.at('u_ratio'), ratio);
    gl.uniform2f(mark.at('u_viewport'), camera.size.width, camera.size.height);
    gl.uniform1i(mark.at('u_pass'), layer.parts.mark);
    gl.uniform1i(mark.at('u_atlas'), 1);
    this.device.bind(1, this.sprites.texture);
    const has = ({ entry }: DrawnTile, index: number) => entry.buffers.marks[index] !== undefined;
    each(mark, false, has, ({ entry }, index) => {
      gl.bindVertexArray(entry.buffers.marks[index]!);
      gl.drawArraysInstanced(gl.TRIANGLE_STRIP, 0, 4, entry.prepared.layers[index].range.marks[1]);
    });
  }

  /** Draws the boxes of a list, from the atlas of texts or of sprites, over the ground. */
  drawBoxes(camera: Camera, from: 'texts' | 'sprites', { floats, count }: BoxList): void {
    if (!count) return;
    const { gl } = this.device;
    const program = this.programs.box;
    gl.disable(gl.STENCIL_TEST);
    gl.disable(gl.DEPTH_TEST);
    gl.useProgram(program.program);
    gl.bindVertexArray(this.boxArray);
    gl.bindBuffer(gl.ARRAY_BUFFER, this.boxBuffer);
    if (floats.length > this.boxRoom) {
      gl.bufferData(gl.ARRAY_BUFFER, floats, gl.DYNAMIC_DRAW);
      this.boxRoom = floats.length;
    } else gl.bufferSubData(gl.ARRAY_BUFFER, 0, floats, 0, count * boxFloats);
    gl.uniform2f(program.at('u_viewport'), camera.size.width, camera.size.height);
    gl.uniform1i(program.at('u_atlas'), 0);
    this.device.bind(0, from === 'texts' ? this.texts.texture : this.sprites.texture);
    gl.drawArraysInstanced(gl.TRIANGLE_STRIP, 0, 4, count);
    gl.bindVertexArray(null);
    this.calls++;
  }

  /** Draws markers over the ground; see {@link MarkerBrush.draw}. */
  drawMarkers(camera: Camera, ratio: number, rows: MarkerRows, places: Float32Array, amount: number): void {
    if (!amount) return;
    this.markers.draw(camera, ratio, rows, places, amount, this.sprites.texture);
    this.calls++;
  }

  remove(): void {
    const { device } = this;
    for (const program of Object.values(this.programs)) device.dropProgram(program);
    this.sprites.remove();
    this.texts.remove();
    this.ramps.remove();
    this.fade.drop();
    this.kept.drop();
    this.screen.remove();
    this.heat.remove();
    this.images.remove();
    this.mask.remove();
    this.globe.remove();
    this.markers.remove();
    device.dropBuffer(this.boxBuffer);
    device.dropVertexArray(this.boxArray);
  }
}

/** Programs for the parts of a layer. */
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

/** How far a tile's layer has come from one end of its zoom step to the other, 0 to 1. */
function mixOf(entry: ReadyEntry, index: number, zoom: number): number {
  const [low, high] = entry.steps[index];
  return Math.max(0, Math.min(1, (zoom - low) / (high - low)));
}

/** How much of the next whole level's dashes and patterns is mixed in: none up to 0.6, all at 1. */
function nextShare(grown: number): number {
  const t = Math.max(0, (grown - 0.6) / 0.4);
  return t * t * (3 - 2 * t);
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
