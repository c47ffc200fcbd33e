import { Growing, type Camera } from '@flintwright/core/internal';
import type { Device, Program } from './device.js';
import { FrameRows, type Quads } from './quads.js';
import { clusterShader, clusterTexels, mostShares } from './shaders/cluster.js';

/** A cluster to be drawn: middle and height in CSS pixels, colors from 0 to 1 that are not multiplied by the opacity. */
export interface ClusterFigure {
  readonly x: number;
  readonly y: number;
  readonly height: number;
  /** 0 to 1. */
  readonly opacity: number;
  readonly core: readonly number[];
  readonly outline: readonly number[];
  readonly rimWidth: number;
  /** Colors of the rim and how much of it each takes, clockwise from the top; beyond what there is room for, the last takes the rest. */
  readonly shares: readonly { readonly color: readonly number[]; readonly amount: number }[];
}

/** Clusters for the shader, written one after the other. */
export class ClusterFigures {
  private readonly rows = new Growing((n) => new Float32Array(n), 64 * 4 * clusterTexels);

  get count(): number {
    return this.rows.length / (4 * clusterTexels);
  }

  get floats(): Float32Array {
    return this.rows.data;
  }

  clear(): this {
    this.rows.length = 0;
    return this;
  }

  put({ x, y, height, opacity, core, outline, rimWidth, shares }: ClusterFigure): void {
    this.rows.reserve(4 * clusterTexels);
    const out = this.rows.data;
    const at = this.rows.length;
    const shown = shares.filter(({ amount }) => amount > 0);
    const total = shown.reduce((sum, { amount }) => sum + amount, 0);
    const count = Math.min(shown.length, mostShares);
    out.set([x, y, height, opacity], at);
    out.set(core, at + 4);
    out.set(outline, at + 8);
    out.set([count, rimWidth, 0, 0], at + 12);
    let sum = 0;
    for (let k = 0; k < count; k++) {
      const { color, amount } = shown[k];
      sum += amount;
      out.set([color[0], color[1], color[2], k === count - 1 ? 1 : sum / total], at + 16 + 4 * k);
    }
    this.rows.length += 4 * clusterTexels;
  }
}

/** Draws clusters. */
export class ClusterBrush {
  private readonly program: Program;
  private readonly rows: FrameRows;

  constructor(
    private readonly device: Device,
    private readonly quads: Quads,
  ) {
    this.program = device.program(clusterShader);
    this.rows = new FrameRows(device);
  }

  /** Draws clusters over the ground; returns the number of draw calls. */
  draw(camera: Camera, ratio: number, figures: ClusterFigures): number {
    if (!figures.count) return 0;
    const { device, program } = this;
    const { gl } = device;
    gl.disable(gl.STENCIL_TEST);
    gl.disable(gl.DEPTH_TEST);
    gl.useProgram(program.program);
    this.quads.begin();
    program.pair('u_viewport', camera.size.width, camera.size.height);
    program.float('u_ratio', ratio);
    program.int('u_rows', 0);
    device.bind(0, this.rows.write(figures.floats, figures.count * clusterTexels));
    const calls = this.quads.draw(program, 0, figures.count);
    gl.bindVertexArray(null);
    return calls;
  }

  remove(): void {
    this.device.dropProgram(this.program);
    this.rows.remove();
  }
}
