// Room "gl": everything that touches WebGL, and the drawn tile it keeps.
import type { CompiledLayer, CompiledSheet, SquareGrid, TileAddress } from '@flintwright/core';
import { gridHalf, type Camera, type Rgba } from '@flintwright/core/internal';
import type { Ground } from './surfaces.js';
import { preparedIndex, type DrawnData, type DrawnTile, type ImageDrawing } from './drawn-tile.js';
import type { Icons } from '../base/icons.js';
import type { LatePart } from '../base/late-part.js';
import { bringFonts, SpriteAtlas, TextAtlas } from './atlas.js';
import { boxFloats, BoxList } from './boxes.js';
import type { Globe } from './globe.js';
import { Device, type Program } from './device.js';
import { eyeIn, isRound } from './eye.js';
import type * as HeatTools from './heat.js';
import { flatPatch, Mask, type Patch } from './mask.js';
import { FrameRows, Quads } from './quads.js';
import { Ramps } from './ramps.js';
import { beginLayer, mixOf, nextShare, RunBrush, type RunView } from './run-brush.js';
import { Fade, KeptGround, Screen } from './screen.js';
import { MarkerBrush, type MarkerRows } from './marker-brush.js';
import { extrusionShader, boxShader, markShader, patternShader } from './shaders/index.js';

/** What few maps draw with, fetched when a sheet first asks for it. */
export interface LateBrushes {
  readonly heat: LatePart<typeof HeatTools>;
}

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
  private heat: HeatTools.Heat | undefined;
  private readonly ramps: Ramps;
  private images: ImageDrawing | undefined;
  private readonly programs: Record<'pattern' | 'mark' | 'extrusion' | 'box', Program>;
  private readonly quads: Quads;
  private readonly runs: RunBrush;
  private readonly mask: Mask;
  private globe: Globe | undefined;
  private readonly markers: MarkerBrush;
  /** The sheet whose programs are under way. */
  private warmed: CompiledSheet | undefined;
  private readonly boxRows: FrameRows;
  private readonly matrices = new Map<DrawnTile, Float32Array>();
  private readonly room: Float32Array[] = [];
  /** Draw calls of the last frame. */
  calls = 0;

  constructor(
    readonly canvas: HTMLCanvasElement,
    icons: Icons,
    private readonly late: LateBrushes,
  ) {
    this.device = new Device(canvas);
    const { device } = this;
    this.programs = {
      pattern: device.program(patternShader),
      mark: device.program(markShader),
      extrusion: device.program(extrusionShader),
      box: device.program(boxShader),
    };
    this.sprites = new SpriteAtlas(device, icons);
    this.texts = new TextAtlas(device);
    this.ramps = new Ramps(device);
    this.quads = new Quads(device);
    this.runs = new RunBrush(device, this.sprites, this.ramps, this.quads);
    this.screen = new Screen(device);
    this.fade = new Fade(this.screen);
    this.kept = new KeptGround(this.screen);
    this.mask = new Mask(device);
    this.markers = new MarkerBrush(device);
    this.boxRows = new FrameRows(device);
  }

  /** Whether heat is still on its way to how it will look. */
  get moving(): boolean {
    return this.heat?.moving ?? false;
  }

  /** Has what a sheet will be drawn by compiled, and its fonts brought, while its data is still on the way. */
  warm(sheet: CompiledSheet, zoom: number): void {
    if (this.warmed === sheet) return;
    this.warmed = sheet;
    bringFonts(sheet, zoom);
    const { pattern, mark, extrusion, box } = this.programs;
    for (const layer of sheet.layers) {
      if (layer.hasFill || layer.strokePasses) this.mask.program.start();
      if (layer.hasFill && !layer.heat) (layer.hasPattern ? pattern : this.runs.area).start();
      if (layer.strokePasses) this.runs.lineOf(layer).start();
      if (layer.hasExtrusion) extrusion.start();
      if (layer.hasMark) mark.start();
      if (layer.hasLabel) box.start();
    }
  }

  /** Puts the ground on the screen: draws it, or lays down what was drawn before where it is `unchanged` since. */
  showGround(scene: Scene, unchanged: boolean): void {
    const same = unchanged && !this.moving;
    if (!same) this.kept.drop();
    else if (this.kept.lay()) {
      this.calls = 1;
      return;
    }
    this.drawGround(scene);
    if (same) this.kept.keep();
  }

  /** From tiles to clip space, in arrays that are taken again from frame to frame. */
  private matricesOf({ camera, data }: Scene): ReadonlyMap<DrawnTile, Float32Array> {
    const { matrices, room } = this;
    const { wrap } = camera.surface;
    matrices.clear();
    for (const { tiles } of data.values()) {
      for (const tile of tiles) {
        const matrix = (room[matrices.size] ??= new Float32Array(16));
        camera.frameMatrix(tile.entry.frame, tile.copy * wrap, matrix);
        matrices.set(tile, matrix);
      }
    }
    return matrices;
  }

  /** Draws the ground: background and layers. */
  private drawGround(scene: Scene): void {
    const { camera, sheet, ratio, data, still, sky, haze } = scene;
    const { gl } = this.device;
    const { width, height } = this.canvas;
    const { zoom } = camera.view;
    this.calls = 0;
    if (this.heat) this.heat.moving = false;
    this.ramps.take(sheet);
    gl.viewport(0, 0, width, height);
    const [r, g, b, a] = sheet.background.bind({ block: emptyBlock, zoom })(0);
    gl.clearColor(r, g, b, a);
    gl.disable(gl.STENCIL_TEST);
    gl.clear(gl.COLOR_BUFFER_BIT);
    if (isRound(camera)) {
      this.globe ??= scene.ground!.makeGlobe(this.device);
      this.globe.draw(camera, [r, g, b, a], sky, haze);
      this.calls++;
      gl.disable(gl.DEPTH_TEST);
    }
    const matrices = this.matricesOf(scene);
    const view: RunView = { camera, matrices, ratio };
    let masked: string | undefined;
    // Layers that lay nothing but plain areas, one after the other, are drawn together; so are those that draw nothing but lines: no tile
    // reaches over its border, so that one tile may be finished before the next.
    let [areas, lines]: [CompiledLayer[], CompiledLayer[]] = [[], []];
    const tilesOf = ([{ data: name }]: readonly CompiledLayer[]) => data.get(name)?.tiles ?? [];
    const endAreas = () => {
      if (areas.length) this.calls += this.runs.areas(areas, tilesOf(areas), view);
      areas = [];
    };
    const endLines = () => {
      if (lines.length) this.calls += this.runs.lines(lines, tilesOf(lines), view);
      lines = [];
    };
    const end = () => {
      endAreas();
      endLines();
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
        this.images ??= new drawn.imageBrush!(this.device);
        this.calls += this.images.draw(layer, images, patches, camera);
        continue;
      }
      if (!tiles.length) continue;
      if ((layer.hasFill || layer.strokePasses) && masked !== layer.data) {
        end();
        this.mask.draw(tiles.map(({ entry, copy }) => this.patch(scene, entry.tile, copy, grid, false)));
        masked = layer.data;
      }
      const fills = layer.hasFill && !layer.hasPattern && !layer.heat;
      if (fills) {
        endLines();
        if (areas.length && areas[0].opacity !== layer.opacity) endAreas();
        areas.push(layer);
      }
      if ((fills || !layer.hasFill) && !layer.heat && !layer.hasExtrusion && !layer.hasMark) {
        if (!layer.strokePasses) continue;
        endAreas();
        if (lines.length && lines[0].hasFancyStroke !== layer.hasFancyStroke) endLines();
        lines.push(layer);
        continue;
      }
      end();
      if (layer.heat) {
        const heat = this.late.heat.now;
        if (heat) this.heat ??= new heat.Heat(this.device, this.quads);
        this.calls += this.heat?.draw(layer, tiles, matrices, camera, this.ramps, still) ?? 0;
      }
      this.drawLayer(layer, tiles, view);
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
    return ground.patch(camera, tile, copy, grid, lattice);
  }

  private drawLayer(layer: CompiledLayer, tiles: readonly DrawnTile[], view: RunView): void {
    const { gl } = this.device;
    const { camera, matrices, ratio } = view;
    const { zoom } = camera.view;
    const brush: Brush = {
      layer,
      camera,
      ratio,
      grown: zoom - Math.floor(zoom),
      begin: (program) => beginLayer(this.device, program, layer.opacity, camera),
      each: (program, clipped, has, draw) => {
        const matrix = program.at('u_matrix');
        const eye = camera.eye && program.at('u_eye');
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
          program.float('u_mix', mixOf(entry, index, zoom));
          draw(tile, index);
          this.calls++;
        });
      },
    };
    if (layer.hasFill && (layer.hasPattern || layer.heat)) this.drawAreas(brush);
    if (layer.strokePasses) this.calls += this.runs.lines([layer], tiles, view);
    if (layer.hasExtrusion) this.drawExtrusions(brush);
    if (layer.hasMark) this.drawMarks(brush);
  }

  private drawAreas({ layer, camera, grown, begin, each }: Brush): void {
    const { gl } = this.device;
    const program = layer.hasPattern ? this.programs.pattern : this.runs.area;
    begin(program);
    const metre = 1 / (camera.metresPerPixel * 2 ** grown);
    if (layer.hasPattern) {
      program.float('u_whole', metre);
      program.float('u_grown', 2 ** grown);
      program.float('u_next', nextShare(grown));
      program.int('u_atlas', 1);
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

  /** Raised polygons hide each other by depth; clear ones are laid into the depth first, so that no inner wall shows. */
  private drawExtrusions({ layer, camera, begin, each }: Brush): void {
    const { gl } = this.device;
    const { extrusion } = this.programs;
    const opacity = layer.rules
      .map((rule) => rule.symbols.extrusion?.opacity.bind({ block: emptyBlock, zoom: camera.view.zoom })(0) ?? 0)
      .reduce((most, share) => Math.max(most, share), 0);
    if (opacity <= 0) return;
    begin(extrusion);
    extrusion.float('u_opacity', layer.opacity * opacity);
    extrusion.float('u_metre', camera.surface.stretch(...camera.view.center));
    extrusion.int('u_pass', layer.parts.extrusion);
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
    mark.float('u_ratio', ratio);
    mark.pair('u_viewport', camera.size.width, camera.size.height);
    mark.int('u_pass', layer.parts.mark);
    mark.int('u_atlas', 1);
    this.device.bind(1, this.sprites.texture);
    this.quads.begin();
    const has = ({ entry }: DrawnTile, index: number) => entry.prepared.layers[index].range.marks[1] > 0;
    each(mark, false, has, ({ entry }, index) => {
      const [first, amount] = entry.prepared.layers[index].range.marks;
      this.quads.draw(mark, entry.buffers.firstMark + first, amount);
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
    this.quads.begin();
    program.pair('u_viewport', camera.size.width, camera.size.height);
    program.int('u_rows', 0);
    program.int('u_atlas', 1);
    this.device.bind(0, this.boxRows.write(floats, (count * boxFloats) / 4));
    this.device.bind(1, from === 'texts' ? this.texts.texture : this.sprites.texture);
    this.calls += this.quads.draw(program, 0, count);
    gl.bindVertexArray(null);
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
    this.runs.remove();
    this.quads.remove();
    this.sprites.remove();
    this.texts.remove();
    this.ramps.remove();
    this.fade.drop();
    this.kept.drop();
    this.screen.remove();
    this.heat?.remove();
    this.images?.remove();
    this.mask.remove();
    this.globe?.remove();
    this.markers.remove();
    this.boxRows.remove();
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
