import type { CompiledLayer } from '@flintwright/core';
import { gridHalf, type Camera } from '@flintwright/core/internal';
import type { SpriteAtlas } from './atlas.js';
import type { Device, Program } from './device.js';
import { preparedIndex, type DrawnTile } from './drawn-tile.js';
import { emptyBlock } from './empty-block.js';
import { eyeIn, isRound } from './globe-view.js';
import type { Quads } from './quads.js';
import { beginLayer, mixOf, nextShare, type RunView } from './run-brush.js';
import {
  extrusionShader,
  markShader,
  patternEdgeShader,
  patternShader,
  shadeShader,
  shadowShader,
} from './shaders/index.js';
import { Target } from './target.js';

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
  private readonly programs: Record<'pattern' | 'patternEdge' | 'mark' | 'extrusion' | 'shadow' | 'shade', Program>;
  /** Which pattern covers each pixel, for patterns that leave out what the edge would cut. */
  private readonly edges: Target;
  /** Shadows of extrusions, at half the size of the screen. */
  private readonly shadows: Target;
  private readonly empty: WebGLVertexArrayObject;
  /** Draw calls of what is being drawn. */
  private calls = 0;

  constructor(private readonly tools: FigureTools) {
    const { device } = tools;
    this.programs = {
      pattern: device.program(patternShader),
      patternEdge: device.program(patternEdgeShader),
      mark: device.program(markShader),
      extrusion: device.program(extrusionShader),
      shadow: device.program(shadowShader),
      shade: device.program(shadeShader),
    };
    this.edges = new Target(device, device.gl.RGBA8);
    this.shadows = new Target(device, device.gl.RGBA8);
    this.empty = device.vertexArray();
    device.gl.bindVertexArray(null);
  }

  /** Has what a layer will be drawn by compiled. */
  warm({ hasPattern, hasWholePattern, hasMark, hasExtrusion }: CompiledLayer): void {
    const { pattern, patternEdge, mark, extrusion, shadow, shade } = this.programs;
    if (hasPattern) pattern.start();
    if (hasWholePattern) patternEdge.start();
    if (hasMark) mark.start();
    if (hasExtrusion) for (const program of [extrusion, shadow, shade]) program.start();
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

  private areas({ layer, camera, grown, begin, each }: Brush): void {
    const { device, sprites } = this.tools;
    const { gl } = device;
    const { pattern, patternEdge } = this.programs;
    const has = ({ entry }: DrawnTile, index: number) => entry.prepared.layers[index].range.areas[1] > 0;
    const draw = ({ entry }: DrawnTile, index: number) => {
      const [from, length] = entry.prepared.layers[index].range.areas;
      gl.bindVertexArray(entry.buffers.areas!);
      gl.drawElements(gl.TRIANGLES, length, gl.UNSIGNED_INT, from * 4);
    };
    let edges: WebGLTexture | undefined;
    if (layer.hasWholePattern) {
      this.edges.begin(gl.drawingBufferWidth, gl.drawingBufferHeight);
      begin(patternEdge);
      each(patternEdge, false, has, draw);
      edges = this.edges.end();
    }
    begin(pattern);
    pattern.int('u_edges', 2);
    device.bind(2, edges ?? sprites.texture);
    const metre = 1 / (camera.metresPerPixel * 2 ** grown);
    pattern.float('u_whole', metre);
    pattern.float('u_grown', 2 ** grown);
    pattern.float('u_next', nextShare(grown));
    pattern.int('u_atlas', 1);
    device.bind(1, sprites.texture);
    const corner = pattern.at('u_corner');
    each(pattern, true, has, (tile, index) => {
      const { entry, copy } = tile;
      const { wrap } = camera.surface;
      const pixels = (at: number) => ((((at + gridHalf) * metre) % 512) + 512) % 512;
      gl.uniform2f(corner, pixels(entry.frame.anchor[0] + copy * wrap), pixels(entry.frame.anchor[1]));
      draw(tile, index);
    });
  }

  /** Raised polygons hide each other by depth; clear ones are laid into the depth first, so that no inner wall shows. */
  private extrusions(brush: Brush): void {
    const { layer, camera, ratio, begin, each } = brush;
    const { gl } = this.tools.device;
    const { extrusion } = this.programs;
    const opacity = layer.rules
      .map((rule) => rule.symbols.extrusion?.opacity.bind({ block: emptyBlock, zoom: camera.view.zoom })(0) ?? 0)
      .reduce((most, share) => Math.max(most, share), 0);
    if (opacity <= 0) return;
    // Far out on a globe extrusions are too low for shadows and for hiding each other, and the depth there keeps the far side away.
    const round = isRound(camera);
    if (!round) this.layShadows(brush, opacity);
    begin(extrusion);
    extrusion.float('u_ratio', ratio);
    extrusion.float('u_opacity', layer.opacity * opacity);
    extrusion.float('u_metre', camera.surface.stretch(...camera.view.center));
    extrusion.int('u_pass', layer.parts.extrusion);
    gl.enable(gl.DEPTH_TEST);
    gl.depthFunc(gl.LEQUAL);
    gl.depthMask(!round);
    if (!round) gl.clear(gl.DEPTH_BUFFER_BIT);
    const pass = () => this.blocks(each, extrusion);
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

  private blocks(each: Brush['each'], program: Program): void {
    const { gl } = this.tools.device;
    const has = ({ entry }: DrawnTile, index: number) => entry.prepared.layers[index].range.extrusions[1] > 0;
    each(program, false, has, ({ entry }, index) => {
      const [from, length] = entry.prepared.layers[index].range.extrusions;
      gl.bindVertexArray(entry.buffers.blocks!);
      gl.drawElements(gl.TRIANGLES, length, gl.UNSIGNED_INT, from * 4);
    });
  }

  /** Lays the shadows of extrusions on the ground; where several meet, the ground is no darker. */
  private layShadows({ layer, camera, begin, each }: Brush, opacity: number): void {
    const { device } = this.tools;
    const { gl } = device;
    const { shadow, shade } = this.programs;
    gl.disable(gl.DEPTH_TEST);
    this.shadows.begin(Math.ceil(gl.drawingBufferWidth / 2), Math.ceil(gl.drawingBufferHeight / 2));
    begin(shadow);
    shadow.float('u_metre', camera.surface.stretch(...camera.view.center));
    shadow.int('u_pass', layer.parts.extrusion);
    this.blocks(each, shadow);
    device.bind(0, this.shadows.end());
    gl.useProgram(shade.program);
    gl.bindVertexArray(this.empty);
    shade.int('u_shadow', 0);
    shade.float('u_opacity', 0.2 * layer.opacity * opacity);
    gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4);
    this.calls++;
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
    this.edges.remove();
    this.shadows.remove();
    this.tools.device.dropVertexArray(this.empty);
    for (const program of Object.values(this.programs)) this.tools.device.dropProgram(program);
  }
}
