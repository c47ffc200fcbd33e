import type { CompiledLayer } from '@flintwright/core';
import { gridHalf, type Camera } from '@flintwright/core/internal';
import type { SpriteAtlas } from './atlas.js';
import type { Device, Program } from './device.js';
import { preparedIndex, type DrawnTile } from './drawn-tile.js';
import { emptyBlock } from './empty-block.js';
import { eyeIn, isRound } from './eye.js';
import type { Quads } from './quads.js';
import { beginLayer, mixOf, nextShare, type RunView } from './run-brush.js';
import { extrusionShader, markShader, patternShader } from './shaders/index.js';

/** Tools that it draws with. */
interface FigureTools {
  readonly device: Device;
  readonly sprites: SpriteAtlas;
  readonly quads: Quads;
}

export { fancyLineShader } from './shaders/index.js';

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

/** Draws patterns, marks and extrusions, layer by layer. */
export class FigureBrush {
  private readonly programs: Record<'pattern' | 'mark' | 'extrusion', Program>;
  /** Draw calls of what is being drawn. */
  private calls = 0;

  constructor(private readonly tools: FigureTools) {
    const { device } = tools;
    this.programs = {
      pattern: device.program(patternShader),
      mark: device.program(markShader),
      extrusion: device.program(extrusionShader),
    };
  }

  /** Has what a layer will be drawn by compiled. */
  warm({ hasPattern, hasMark, hasExtrusion }: CompiledLayer): void {
    const { pattern, mark, extrusion } = this.programs;
    if (hasPattern) pattern.start();
    if (hasMark) mark.start();
    if (hasExtrusion) extrusion.start();
  }

  /** Draws the areas of a layer with patterns; returns the number of draw calls. */
  patterns(layer: CompiledLayer, tiles: readonly DrawnTile[], view: RunView): number {
    this.calls = 0;
    if (layer.hasPattern) this.areas(this.brush(layer, tiles, view));
    return this.calls;
  }

  /** Draws what stands on the ground: extrusions and marks; returns the number of draw calls. */
  raised(layer: CompiledLayer, tiles: readonly DrawnTile[], view: RunView): number {
    this.calls = 0;
    const brush = this.brush(layer, tiles, view);
    if (layer.hasExtrusion) this.extrusions(brush);
    if (layer.hasMark) this.marks(brush);
    return this.calls;
  }

  private brush(layer: CompiledLayer, tiles: readonly DrawnTile[], { camera, matrices, ratio }: RunView): Brush {
    const { device } = this.tools;
    const { gl } = device;
    const { zoom } = camera.view;
    return {
      layer,
      camera,
      ratio,
      grown: zoom - Math.floor(zoom),
      begin: (program) => beginLayer(device, program, layer.opacity, camera),
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
  }

  private areas({ camera, grown, begin, each }: Brush): void {
    const { device, sprites } = this.tools;
    const { gl } = device;
    const { pattern } = this.programs;
    begin(pattern);
    const metre = 1 / (camera.metresPerPixel * 2 ** grown);
    pattern.float('u_whole', metre);
    pattern.float('u_grown', 2 ** grown);
    pattern.float('u_next', nextShare(grown));
    pattern.int('u_atlas', 1);
    device.bind(1, sprites.texture);
    const corner = pattern.at('u_corner');
    const has = ({ entry }: DrawnTile, index: number) => entry.prepared.layers[index].range.areas[1] > 0;
    each(pattern, true, has, ({ entry, copy }, index) => {
      const [from, length] = entry.prepared.layers[index].range.areas;
      const { wrap } = camera.surface;
      const pixels = (at: number) => ((((at + gridHalf) * metre) % 512) + 512) % 512;
      gl.uniform2f(corner, pixels(entry.frame.anchor[0] + copy * wrap), pixels(entry.frame.anchor[1]));
      gl.bindVertexArray(entry.buffers.areas!);
      gl.drawElements(gl.TRIANGLES, length, gl.UNSIGNED_INT, from * 4);
    });
  }

  /** Raised polygons hide each other by depth; clear ones are laid into the depth first, so that no inner wall shows. */
  private extrusions({ layer, camera, begin, each }: Brush): void {
    const { gl } = this.tools.device;
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

  private marks({ layer, camera, ratio, begin, each }: Brush): void {
    const { gl } = this.tools.device;
    const { mark } = this.programs;
    gl.disable(gl.DEPTH_TEST);
    begin(mark);
    mark.float('u_ratio', ratio);
    mark.pair('u_viewport', camera.size.width, camera.size.height);
    mark.int('u_pass', layer.parts.mark);
    mark.int('u_atlas', 1);
    this.tools.device.bind(1, this.tools.sprites.texture);
    this.tools.quads.begin();
    const has = ({ entry }: DrawnTile, index: number) => entry.prepared.layers[index].range.marks[1] > 0;
    each(mark, false, has, ({ entry }, index) => {
      const [first, amount] = entry.prepared.layers[index].range.marks;
      this.tools.quads.draw(mark, entry.buffers.firstMark + first, amount);
    });
  }

  remove(): void {
    for (const program of Object.values(this.programs)) this.tools.device.dropProgram(program);
  }
}
