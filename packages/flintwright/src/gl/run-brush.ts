import type { CompiledLayer } from '@flintwright/core';
import { strokeTexels, type Camera } from '@flintwright/core/internal';
import type { SpriteAtlas } from './atlas.js';
import type { Device, Program } from './device.js';
import { preparedIndex, type DrawnTile, type ReadyEntry } from './drawn-tile.js';
import { eyeIn, isRound } from './globe-view.js';
import type { Quads } from './quads.js';
import type { Ramps } from './ramps.js';
import { areaShader, lineShader } from './shaders/index.js';

/** What tiles are drawn for. */
export interface RunView {
  readonly camera: Camera;
  readonly matrices: ReadonlyMap<DrawnTile, Float32Array>;
  /** Device pixels in a CSS pixel. */
  readonly ratio: number;
  /** Whether features of a layer may be in a state, such as hover. */
  hasStates(layer: CompiledLayer): boolean;
}

const [together, others, inState] = [0, 1, 2];
/** What fancy lines draw: everything, all but marks along lines, or those. */
const [anyStroke, plainStrokes, lineMarks] = [0, 1, 2];
const plainRound = [together];
const raisedRounds = [others, inState];

/** Draws runs of layers that are alike, tile by tile, so that each tile is taken up once for all of them. */
export class RunBrush {
  readonly area: Program;
  private readonly line: Program;
  /** What draws lines with gradients or marks, once it is there. */
  fancyLine: Program | undefined;

  constructor(
    private readonly device: Device,
    private readonly sprites: SpriteAtlas,
    private readonly ramps: Ramps,
    private readonly quads: Quads,
  ) {
    this.area = device.program(areaShader);
    this.line = device.program(lineShader);
  }

  /** Draws the areas of layers that follow each other, tile by tile; what lies together in a tile's buffers goes in one call.
   * Returns how many there were. */
  areas(run: readonly CompiledLayer[], tiles: readonly DrawnTile[], view: RunView): number {
    const { device, area } = this;
    let calls = 0;
    beginLayer(device, area, run[0].opacity, view.camera);
    device.gl.enable(device.gl.STENCIL_TEST);
    for (let i = 0; i < tiles.length; i++) calls += this.tileAreas(run, tiles[i], i, view);
    return calls;
  }

  /** Draws the areas of a tile; `i` is its number in the mask. Nothing is made anew here, as it runs for each tile of each frame. */
  private tileAreas(run: readonly CompiledLayer[], tile: DrawnTile, i: number, view: RunView): number {
    const { area } = this;
    const { gl } = this.device;
    const { entry } = tile;
    const { zoom } = view.camera.view;
    let calls = 0;
    let first = 0;
    let amount = 0;
    let mix = -1;
    // The round after the last layer draws what is left.
    for (let k = 0; k <= run.length; k++) {
      let from = 0;
      let length = 0;
      let t = mix;
      if (k < run.length) {
        const index = preparedIndex(entry, run[k]);
        if (index < 0) continue;
        [from, length] = entry.prepared.layers[index].range.areas;
        if (!length) continue;
        t = mixOf(entry, index, zoom);
        if (amount && from === first + amount && t === mix) {
          amount += length;
          continue;
        }
      }
      if (amount) {
        if (!calls) {
          this.bindTile(area, tile, i, view);
          gl.bindVertexArray(entry.buffers.areas!);
        }
        area.float('u_mix', mix);
        gl.drawElements(gl.TRIANGLES, amount, gl.UNSIGNED_INT, first * 4);
        calls++;
      }
      first = from;
      amount = length;
      mix = t;
    }
    return calls;
  }

  /** What draws the lines of a layer; undefined where it is on its way. */
  lineOf({ hasFancyStroke }: CompiledLayer): Program | undefined {
    return hasFancyStroke ? this.fancyLine : this.line;
  }

  /** Draws the lines of layers that follow each other, tile by tile; returns the number of draw calls. */
  lines(run: readonly CompiledLayer[], tiles: readonly DrawnTile[], view: RunView): number {
    const { gl } = this.device;
    const { camera, ratio } = view;
    const { zoom, center } = camera.view;
    const grown = zoom - Math.floor(zoom);
    const fancy = run[0].hasFancyStroke;
    const line = this.lineOf(run[0]);
    if (!line) return 0;
    let calls = 0;
    beginLayer(this.device, line, run[0].opacity, camera);
    const scale = 1 / camera.metresPerPixel;
    line.float('u_scale', scale);
    line.float('u_distance', camera.distance);
    line.pair('u_viewport', camera.size.width, camera.size.height);
    line.float('u_ratio', ratio);
    line.float('u_dashScale', 2 ** grown);
    line.float('u_next', nextShare(grown));
    line.float('u_ground', scale * camera.surface.stretch(...center));
    if (fancy) {
      line.int('u_atlas', 1);
      line.int('u_ramps', 2);
      this.device.bind(1, this.sprites.texture);
      this.device.bind(2, this.ramps.texture);
    }
    gl.enable(gl.STENCIL_TEST);
    const networks = networksOf(run);
    this.quads.begin();
    let bound = -1;
    const draw = (i: number, layer: CompiledLayer, round: number, pass: number) => {
      const tile = tiles[i];
      const { entry } = tile;
      const index = preparedIndex(entry, layer);
      if (index < 0) return;
      const [first, length] = entry.prepared.layers[index].range.lines;
      // A segment lies between two points, with a neighbor on either side.
      if (length < 4) return;
      if (bound !== i) this.bindTile(line, tile, i, view);
      bound = i;
      line.float('u_opacity', layer.opacity);
      line.float('u_mix', mixOf(entry, index, zoom));
      line.int('u_raise', round);
      line.int('u_pass', layer.parts.stroke + pass * strokeTexels);
      if (fancy) line.int('u_spans', length);
      calls += this.quads.draw(line, entry.buffers.firstPoint + first, length - 3);
    };
    if (!run.some(({ hasLineMarks }) => hasLineMarks)) {
      for (let i = 0; i < tiles.length; i++)
        for (const network of networks) drawNetwork(network, view, (layer, round, pass) => draw(i, layer, round, pass));
      return calls;
    }
    // A mark stands in one tile and reaches over its border, so it is drawn when the strokes below it are there in all tiles.
    const isOneLevel = tiles.every(({ entry }) => entry.tile.z === tiles[0].entry.tile.z);
    for (const network of networks)
      drawNetwork(network, view, (layer, round, pass) => {
        for (const only of [plainStrokes, lineMarks]) {
          if (only === lineMarks && isOneLevel) gl.disable(gl.STENCIL_TEST);
          line.int('u_only', only);
          for (let i = 0; i < tiles.length; i++) draw(i, layer, round, pass);
          gl.enable(gl.STENCIL_TEST);
        }
      });
    line.int('u_only', anyStroke);
    return calls;
  }

  /** Has a program draw a tile within the tile's own ground; `i` is its number in the mask. */
  private bindTile(program: Program, tile: DrawnTile, i: number, { matrices, camera }: RunView): void {
    const { gl } = this.device;
    const { entry } = tile;
    gl.stencilFunc(gl.EQUAL, (i % 255) + 1, 0xff);
    gl.bindTexture(gl.TEXTURE_2D, entry.buffers.rows);
    gl.uniformMatrix4fv(program.at('u_matrix'), false, matrices.get(tile)!);
    if (camera.eye) gl.uniform3f(program.at('u_eye'), ...eyeIn(camera, entry.frame));
  }

  remove(): void {
    for (const program of [this.area, this.line, this.fancyLine]) if (program) this.device.dropProgram(program);
  }
}

/** Layers that follow each other, by the networks that they share; a layer without one stands alone. */
function networksOf(run: readonly CompiledLayer[]): CompiledLayer[][] {
  const out: CompiledLayer[][] = [];
  for (const layer of run) {
    const { network } = layer.source;
    const last = out.at(-1);
    if (network !== undefined && last?.[0].source.network === network) last.push(layer);
    else out.push([layer]);
  }
  return out;
}

/**
 * Draws the strokes of a network's layers in one order: those of features in a state above the others, and the last strokes of all
 * lists above all casings.
 */
function drawNetwork(
  layers: readonly CompiledLayer[],
  view: RunView,
  draw: (layer: CompiledLayer, round: number, pass: number) => void,
): void {
  const passes = Math.max(...layers.map(({ strokePasses }) => strokePasses));
  const states = layers.some((layer) => view.hasStates(layer));
  for (const round of states ? raisedRounds : plainRound)
    for (let pass = 0; pass < passes; pass++)
      for (const layer of layers) {
        const own = pass - passes + layer.strokePasses;
        if (own >= 0) draw(layer, round, own);
      }
}

/** Takes a program up for a layer. */
export function beginLayer({ gl }: Device, program: Program, opacity: number, camera: Camera): void {
  const { radius } = camera.surface;
  gl.useProgram(program.program);
  program.float('u_opacity', opacity);
  program.int('u_rows', 0);
  program.float('u_curve', radius ? 1 / radius : 0);
  program.float('u_horizon', isRound(camera) ? 1 : 0);
  gl.activeTexture(gl.TEXTURE0);
}

/** How far a tile's layer has come from one end of its zoom step to the other, 0 to 1. */
export function mixOf(entry: ReadyEntry, index: number, zoom: number): number {
  const [low, high] = entry.steps[index];
  return Math.max(0, Math.min(1, (zoom - low) / (high - low)));
}

/** How much of the next whole level's dashes and patterns is mixed in: none up to 0.6, all at 1. */
export function nextShare(grown: number): number {
  const t = Math.max(0, (grown - 0.6) / 0.4);
  return t * t * (3 - 2 * t);
}
