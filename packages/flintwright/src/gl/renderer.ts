// Room "gl": everything that touches WebGL, and the drawn tile it keeps.
import type { CompiledLayer, CompiledSheet, SquareGrid, TileAddress } from '@flintwright/core';
import { gridHalf, type Camera, type Rgba } from '@flintwright/core/internal';
import type { Ground } from './surfaces.js';
import type { DrawnData, DrawnTile, ImageDrawing } from './drawn-tile.js';
import type { Icons } from '../base/icons.js';
import type { LatePart } from '../base/late-part.js';
import { SpriteAtlas } from './atlas.js';
import { boxFloats, BoxList } from './boxes.js';
import type * as ClusterTools from './cluster-brush.js';
import type * as FigureTools from './figure-brush.js';
import type { Globe } from './globe.js';
import { Device, type Program } from './device.js';
import { emptyBlock } from './empty-block.js';
import { isRound } from './globe-view.js';
import { loadLabelFonts } from './fonts.js';
import type * as HeatTools from './heat.js';
import { flatPatch, Mask, type Patch } from './mask.js';
import { FrameRows, Quads } from './quads.js';
import type * as TextTools from './text-atlas.js';
import { Ramps } from './ramps.js';
import { RunBrush, type RunView } from './run-brush.js';
import { Fade, KeptGround, Screen } from './screen.js';
import { MarkerBrush, type MarkerRows } from './marker-brush.js';
import { boxShader } from './shaders/index.js';

/** What few maps draw with, fetched when a sheet first asks for it. */
export interface LateBrushes {
  readonly heat: LatePart<typeof HeatTools>;
  /** Marks, patterns, extrusions, and lines with gradients or marks. */
  readonly figures: LatePart<typeof FigureTools>;
  /** Texts: of labels, markers and clusters. */
  readonly texts: LatePart<typeof TextTools>;
}

/** Clusters, and what draws them. */
export interface ClusterDrawing {
  readonly figures: ClusterTools.ClusterFigures;
  readonly Brush: typeof ClusterTools.ClusterBrush;
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
  /** Whether features of a layer may be in a state, such as hover. */
  hasStates(layer: CompiledLayer): boolean;
}

/** Draws scenes: everything that touches the GPU from frame to frame. Only this folder knows it. */
export class Renderer {
  readonly device: Device;
  readonly sprites: SpriteAtlas;
  private textAtlas: TextTools.TextAtlas | undefined;
  readonly boxes = new BoxList();
  /** Symbols that stand beside labels. */
  readonly iconBoxes = new BoxList();
  readonly fade: Fade;
  private readonly screen: Screen;
  private readonly kept: KeptGround;
  private heat: HeatTools.Heat | undefined;
  private figures: FigureTools.FigureBrush | undefined;
  private readonly ramps: Ramps;
  private images: ImageDrawing | undefined;
  private readonly box: Program;
  private readonly quads: Quads;
  private readonly runs: RunBrush;
  private readonly mask: Mask;
  private globe: Globe | undefined;
  private clusters: ClusterTools.ClusterBrush | undefined;
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
    this.box = device.program(boxShader);
    this.sprites = new SpriteAtlas(device, icons);
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
    if (sheet.layers.some(isFigured)) this.bringFigures();
    if (this.warmed === sheet) return;
    this.warmed = sheet;
    loadLabelFonts(sheet, zoom);
    // The first frame has nothing to draw by them. It goes ahead of them, and data are on their way meanwhile.
    setTimeout(() => this.warmed === sheet && this.startPrograms(sheet));
  }

  private startPrograms({ layers }: CompiledSheet): void {
    for (const layer of layers) {
      if (layer.hasFill || layer.strokePasses) this.mask.program.start();
      if (layer.hasFill && !layer.hasPattern) this.runs.area.start();
      if (isFigured(layer)) this.figures?.warm(layer);
      if (layer.strokePasses) this.runs.lineOf(layer)?.start();
      if (layer.hasLabel) this.box.start();
    }
  }

  /** The texts, where somebody has wanted them. */
  get knownTexts(): TextTools.TextAtlas | undefined {
    return this.textAtlas;
  }

  /** The texts; undefined while what sets them is on its way. */
  get texts(): TextTools.TextAtlas | undefined {
    const part = this.late.texts.now;
    return (this.textAtlas ??= part && new part.TextAtlas(this.device));
  }

  /** Makes what draws figures, once it is there. */
  private bringFigures(): void {
    const { device, sprites, quads, runs } = this;
    const part = this.late.figures.now;
    if (this.figures || !part) return;
    runs.fancyLine = device.program(part.fancyLineShader);
    this.figures = new part.FigureBrush({ device, sprites, quads });
    for (const layer of this.warmed?.layers ?? []) {
      this.figures.warm(layer);
      if (layer.hasFancyStroke) runs.fancyLine.start();
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
    const { camera, sheet, ratio, data, still, sky, haze, hasStates } = scene;
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
    const view: RunView = { camera, matrices, ratio, hasStates };
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
      this.calls += this.drawLayer(layer, tiles, view);
    }
    end();
    gl.disable(gl.STENCIL_TEST);
    gl.disable(gl.DEPTH_TEST);
    gl.depthMask(true);
    gl.bindVertexArray(null);
  }

  /** Draws a layer that has more than plain areas or lines, or areas beneath heat; returns how many calls that took. */
  private drawLayer(layer: CompiledLayer, tiles: readonly DrawnTile[], view: RunView): number {
    const { figures } = this;
    return (
      (figures?.patterns(layer, tiles, view) ?? 0) +
      (layer.hasFill && layer.heat && !layer.hasPattern ? this.runs.areas([layer], tiles, view) : 0) +
      (layer.strokePasses ? this.runs.lines([layer], tiles, view) : 0) +
      (figures?.raised(layer, tiles, view) ?? 0)
    );
  }

  /** The ground of a tile in clip space. */
  private patch({ camera, ground }: Scene, tile: TileAddress, copy: number, grid: SquareGrid, lattice: boolean): Patch {
    const { surface } = camera;
    if (!ground || (surface.flat && surface.grid === grid)) return flatPatch(camera, tile, copy, 2 * gridHalf);
    return ground.patch(camera, tile, copy, grid, lattice);
  }

  /** Draws the boxes of a list, from the atlas of texts or of sprites, over the ground. */
  drawBoxes(camera: Camera, from: 'texts' | 'sprites', { floats, count }: BoxList): void {
    if (!count) return;
    const { gl } = this.device;
    const program = this.box;
    gl.disable(gl.STENCIL_TEST);
    gl.disable(gl.DEPTH_TEST);
    gl.useProgram(program.program);
    this.quads.begin();
    program.pair('u_viewport', camera.size.width, camera.size.height);
    program.int('u_rows', 0);
    program.int('u_atlas', 1);
    this.device.bind(0, this.boxRows.write(floats, (count * boxFloats) / 4));
    this.device.bind(1, from === 'texts' ? this.textAtlas!.texture : this.sprites.texture);
    this.calls += this.quads.draw(program, 0, count);
    gl.bindVertexArray(null);
  }

  /** Draws clusters over the ground. */
  drawClusters(camera: Camera, ratio: number, { figures, Brush }: ClusterDrawing): void {
    this.clusters ??= new Brush(this.device, this.quads);
    this.calls += this.clusters.draw(camera, ratio, figures);
  }

  /** Draws markers over the ground; see {@link MarkerBrush.draw}. */
  drawMarkers(camera: Camera, ratio: number, rows: MarkerRows, places: Float32Array, amount: number): void {
    if (!amount) return;
    this.markers.draw(camera, ratio, rows, places, amount, this.sprites.texture);
    this.calls++;
  }

  remove(): void {
    const { device } = this;
    this.warmed = undefined;
    device.dropProgram(this.box);
    this.figures?.remove();
    this.runs.remove();
    this.quads.remove();
    this.sprites.remove();
    this.textAtlas?.remove();
    this.ramps.remove();
    this.fade.drop();
    this.kept.drop();
    this.screen.remove();
    this.heat?.remove();
    this.images?.remove();
    this.mask.remove();
    this.globe?.remove();
    this.clusters?.remove();
    this.markers.remove();
    this.boxRows.remove();
  }
}

/** Whether a layer draws what {@link LateBrushes.figures} brings. */
const isFigured = ({ hasPattern, hasExtrusion, hasMark, hasFancyStroke }: CompiledLayer) =>
  hasPattern || hasExtrusion || hasMark || hasFancyStroke;
