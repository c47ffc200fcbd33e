import type { CompiledLayer } from '@flintwright/core';
import { gridHalf, type Camera } from '@flintwright/core/internal';
import { preparedIndex, type DrawnTile } from './drawn-tile.js';
import type { Device, Program } from './device.js';
import { eyeIn } from './globe-view.js';
import type { Quads } from './quads.js';
import { Ramps } from './ramps.js';
import { heatColorShader, heatShader } from './shaders/index.js';
import { Target } from './target.js';

/** Canvas pixels in one pixel of the sums, either way: heat is soft. */
const coarse = 2;
/** Share of the weights in a circle that its middle receives when they are spread evenly (the mean of the bell). */
const evenly = 0.211;
/** Share of the cells that hold something in view whose density the ramp reaches at its knee. */
const percentile = 0.995;
/** How much denser the middles of crowds are than the cells that hold them. */
const peaks = 1.3;
/** Few points are not to look like many: the ramp never ends at less than this sum within a circle. */
const leastSum = 12;

/** Draws heat: adds the points up in a texture of floats, then colors the sums. */
export class Heat {
  private readonly sum: Program;
  private readonly color: Program;
  private readonly empty: WebGLVertexArrayObject;
  private readonly target: Target;
  /** Weight in a square meter of the surface at which each layer's ramp ends; follows the view smoothly. */
  private readonly levels = new Map<string, number>();
  /** Whether a level is still on its way. */
  moving = false;

  constructor(
    private readonly device: Device,
    private readonly quads: Quads,
  ) {
    this.sum = device.program(heatShader);
    this.color = device.program(heatColorShader);
    this.empty = device.vertexArray();
    device.gl.bindVertexArray(null);
    const { gl } = device;
    this.target = new Target(device, gl.getExtension('EXT_color_buffer_float') ? gl.R16F : gl.RGBA8);
  }

  draw(
    layer: CompiledLayer,
    tiles: readonly DrawnTile[],
    matrices: ReadonlyMap<DrawnTile, Float32Array>,
    camera: Camera,
    ramps: Ramps,
    still: boolean,
  ): number {
    const { device, sum, color } = this;
    const { gl } = device;
    const heat = layer.heat!;
    const { zoom } = camera.view;
    const { drawingBufferWidth: width, drawingBufferHeight: height } = gl;
    const scale = 1 / camera.metresPerPixel;
    const ground = scale * camera.surface.stretch(...camera.view.center);
    const full = heat.max ?? this.level(layer, tiles, camera, ground, still);
    this.target.begin(Math.ceil(width / coarse), Math.ceil(height / coarse));
    gl.disable(gl.STENCIL_TEST);
    gl.blendFunc(gl.ONE, gl.ONE);
    gl.useProgram(sum.program);
    gl.uniform1i(sum.at('u_rows'), 0);
    gl.uniform1f(sum.at('u_ground'), ground);
    gl.uniform1f(sum.at('u_curve'), camera.surface.radius ? 1 / camera.surface.radius : 0);
    gl.disable(gl.DEPTH_TEST);
    gl.uniform2f(sum.at('u_viewport'), camera.size.width, camera.size.height);
    gl.uniform1f(sum.at('u_scale'), 1 / (full * evenly));
    gl.uniform1i(sum.at('u_pass'), layer.parts.heat);
    this.quads.begin();
    let calls = 0;
    for (const tile of tiles) {
      const { entry } = tile;
      const index = preparedIndex(entry, layer);
      if (index < 0) continue;
      const [first, amount] = entry.prepared.layers[index].range.marks;
      if (!amount) continue;
      const [low, high] = entry.steps[index];
      device.bind(0, entry.buffers.rows);
      gl.uniformMatrix4fv(sum.at('u_matrix'), false, matrices.get(tile)!);
      if (camera.eye) gl.uniform3f(sum.at('u_eye'), ...eyeIn(camera, entry.frame));
      gl.uniform1f(sum.at('u_mix'), Math.max(0, Math.min(1, (zoom - low) / (high - low))));
      calls += this.quads.draw(sum, entry.buffers.firstMark + first, amount);
    }
    const sums = this.target.end();
    gl.blendFunc(gl.ONE, gl.ONE_MINUS_SRC_ALPHA);
    gl.useProgram(color.program);
    gl.bindVertexArray(this.empty);
    device.bind(1, ramps.texture);
    device.bind(0, sums);
    gl.uniform1i(color.at('u_sums'), 0);
    gl.uniform1i(color.at('u_ramps'), 1);
    gl.uniform1f(color.at('u_row'), Ramps.at(heat.ramp));
    gl.uniform1f(color.at('u_knee'), heat.max === undefined ? 1 : 0);
    gl.uniform1f(color.at('u_opacity'), layer.opacity * heat.opacity.bind({ block: undefined as never, zoom })(0));
    gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4);
    return calls + 1;
  }

  /** Sum of weights within a circle at which the ramp has its knee, from the dense places in view, followed smoothly. */
  private level(
    layer: CompiledLayer,
    tiles: readonly DrawnTile[],
    camera: Camera,
    ground: number,
    still: boolean,
  ): number {
    const densities: number[] = [];
    let radius = 0;
    for (const { entry } of tiles) {
      const index = preparedIndex(entry, layer);
      if (index < 0) continue;
      const { densities: sums, texel } = entry.prepared.layers[index];
      const cell = (2 * gridHalf) / 2 ** entry.tile.z / 16;
      for (const sum of sums ?? []) densities.push(sum / (cell * cell));
      const written = entry.prepared.rows[(texel + layer.parts.heat) * 4 + 2];
      radius = Math.max(radius, written < 0 ? -written * ground : written);
    }
    densities.sort((a, b) => a - b);
    // A few places that are denser than all others leave the ramp to the rest.
    const densest = densities.length ? densities[Math.floor(percentile * (densities.length - 1))] : 0;
    const known = this.levels.get(layer.id);
    let next = densest;
    if (known && densest && !still) {
      // A third of the way each frame, in even ratios.
      next = Math.abs(Math.log(densest / known)) < 0.02 ? densest : known * (densest / known) ** 0.3;
      if (next !== densest) this.moving = true;
    }
    this.levels.set(layer.id, next);
    return Math.max(leastSum, peaks * next * Math.PI * (radius * camera.metresPerPixel) ** 2);
  }

  remove(): void {
    this.target.remove();
    this.device.dropProgram(this.sum);
    this.device.dropProgram(this.color);
    this.device.dropVertexArray(this.empty);
  }
}
