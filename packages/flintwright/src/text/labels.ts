import {
  Crowd,
  layAlong,
  markTexels,
  type Camera,
  type LabelLook,
  type LabelSpots,
  type PathPiece,
} from '@flintwright/core';
import { textFieldPerPixel, type TextAtlas, type TextRun, type TextStyle } from '../gl/atlas.js';
import type { DrawnTile, TileStore } from '../load/store.js';

/** Floats of one box instance; see the box shader. */
export const boxFloats = 20;

interface Candidate {
  readonly key: string;
  readonly place: readonly [number, number];
  readonly look: LabelLook;
  readonly step: readonly [number, number];
  readonly text: string;
  readonly layer: number;
  readonly priority: number;
  /** Surface x, y of the line that the label follows. */
  readonly trace?: Float64Array;
}

interface Shown {
  candidate: Candidate;
  run: TextRun;
  style: TextStyle;
  opacity: number;
  wanted: boolean;
}

const fadeTime = 220;

/**
 * The labels of the map. They are placed over all tiles at once, the important ones first and those already shown
 * before newcomers of the same rank, and fade in and out instead of jumping.
 */
export class Labels {
  private readonly shown = new Map<string, Shown>();
  private age = -1;

  constructor(private readonly atlas: TextAtlas) {}

  /** Whether a label is still fading. */
  get fading(): boolean {
    for (const { wanted, opacity } of this.shown.values()) if (wanted ? opacity < 1 : opacity > 0) return true;
    return false;
  }

  /** Keys of the labels that are shown, for tests and for reading out. */
  get texts(): string[] {
    return [...this.shown.values()].filter((label) => label.wanted).map((label) => label.candidate.text);
  }

  /** Decides anew which labels stand. `reserved` are boxes on the screen that labels must leave free. */
  place(
    stores: readonly { store: TileStore; drawn: readonly DrawnTile[] }[],
    camera: Camera,
    reserved: readonly (readonly [number, number, number, number])[],
  ): void {
    const { zoom } = camera.view;
    const candidates = collect(stores, camera);
    const present = new Set<string>();
    candidates.sort(
      (a, b) =>
        b.priority - a.priority ||
        b.layer - a.layer ||
        Number(this.shown.get(b.key)?.wanted ?? false) - Number(this.shown.get(a.key)?.wanted ?? false) ||
        (a.key < b.key ? -1 : 1),
    );
    const crowd = new Crowd();
    for (const box of reserved) crowd.take(...box);
    reserveMarks(stores, camera, crowd);
    const { width, height } = camera.size;
    for (const label of this.shown.values()) label.wanted = false;
    for (const candidate of candidates) {
      if (present.has(candidate.key)) continue;
      const [x, y, near] = camera.toPixel(candidate.place[0], candidate.place[1]);
      if (near <= 0.25 || x < -80 || y < -40 || x > width + 80 || y > height + 40) continue;
      const style = styleOf(candidate.look);
      const run = this.atlas.run(candidate.text, style);
      const size = sizeAt(candidate, zoom);
      const boxes = candidate.trace ? alongBoxes(candidate, run, size, camera) : [levelBox(candidate, run, size, x, y)];
      // A label that the edge of the map would cut is left out; it comes when there is room for all of it.
      if (
        !boxes?.every(([l, t, r, b]) => l > -2 && t > -2 && r < width + 2 && b < height + 2 && crowd.isFree(l, t, r, b))
      )
        continue;
      for (const box of boxes) crowd.take(...box);
      present.add(candidate.key);
      const before = this.shown.get(candidate.key);
      if (before) Object.assign(before, { candidate, run, style, wanted: true });
      else this.shown.set(candidate.key, { candidate, run, style, opacity: 0, wanted: true });
    }
  }

  /** Moves fades on by `elapsed` milliseconds and writes the boxes to draw into `out`; returns how many. */
  boxes(camera: Camera, ratio: number, elapsed: number, out: Float32Array, still: boolean): number {
    let n = 0;
    const { zoom } = camera.view;
    const step = still ? 1 : elapsed / fadeTime;
    const draw = [...this.shown];
    if (this.atlas.age !== this.age) this.age = this.atlas.age;
    for (const [key, label] of draw) {
      label.opacity = Math.max(0, Math.min(1, label.opacity + (label.wanted ? step : -step)));
      if (label.opacity === 0 && !label.wanted) {
        this.shown.delete(key);
        continue;
      }
      if ((n + 1) * boxFloats > out.length) continue;
      this.atlas.draw(label.run, label.style);
      const { candidate, run } = label;
      const { look } = candidate;
      const [x, y, near] = camera.toPixel(candidate.place[0], candidate.place[1]);
      if (near <= 0) continue;
      const size = sizeAt(candidate, zoom);
      const t = mixAt(candidate, zoom);
      const [bw, bh] = [(run.box![0] * size) / 2, (run.box![1] * size) / 2];
      const [u0, v0, u1, v1] = run.uv!;
      const field = textFieldPerPixel(size);
      const put = (px: number, py: number, halfWidth: number, left: number, right: number, turn: number) => {
        if ((n + 1) * boxFloats > out.length) return;
        const o = n++ * boxFloats;
        out[o] = px;
        out[o + 1] = py;
        out[o + 2] = halfWidth;
        out[o + 3] = bh;
        out[o + 4] = u0 + (u1 - u0) * left;
        out[o + 5] = v0;
        out[o + 6] = u0 + (u1 - u0) * right;
        out[o + 7] = v1;
        for (let k = 0; k < 4; k++) {
          out[o + 8 + k] = (look.color[0][k] + (look.color[1][k] - look.color[0][k]) * t) * label.opacity;
          out[o + 12 + k] = look.halo[k] * label.opacity;
        }
        out[o + 16] = Math.min(0.46, look.label.haloWidth * field);
        out[o + 17] = field / ratio;
        out[o + 18] = turn;
        out[o + 19] = 0;
      };
      if (candidate.trace) {
        const count = Math.max(1, Math.round((bw * 2) / 9));
        const pieces = layAlong(onScreen(candidate.trace, camera), bw * 2, count, 0.9);
        // Pieces reach half a pixel into each other, so that no gap opens on the outer side of a bend.
        pieces?.forEach(({ x: px, y: py, turn }, k) =>
          put(px, py, bw / count + 0.25, k / count - 0.125 / bw, (k + 1) / count + 0.125 / bw, turn),
        );
        continue;
      }
      const [cx, cy] = middle(look, run, size, x, y);
      // Upright text on whole device pixels is crisp.
      const snapped = [Math.round((cx - bw) * ratio) / ratio + bw, Math.round((cy - bh) * ratio) / ratio + bh];
      put(snapped[0], snapped[1], bw, 0, 1, 0);
    }
    return n;
  }
}

/** Symbols keep the room they stand in free of labels. */
function reserveMarks(
  stores: readonly { store: TileStore; drawn: readonly DrawnTile[] }[],
  camera: Camera,
  crowd: Crowd,
): void {
  const { zoom } = camera.view;
  const { width, height } = camera.size;
  let left = 3000;
  for (const { store, drawn } of stores) {
    for (const { entry, copy } of drawn) {
      const { layers, mesh, rows } = entry.prepared!;
      for (const prepared of layers) {
        const [from, length] = prepared.range.marks;
        if (!length) continue;
        const layer = store.layerOf(prepared);
        if (!layer?.visible || zoom < layer.zoom[0] || zoom >= layer.zoom[1] || (left -= length) < 0) continue;
        const floats = new Float32Array(mesh.marks);
        const words = new Uint32Array(mesh.marks);
        for (let k = from; k < from + length; k++) {
          const [x, y, near] = camera.toPixel(
            entry.anchor[0] + floats[3 * k] + copy * camera.surface.wrap,
            entry.anchor[1] + floats[3 * k + 1],
          );
          if (near <= 0 || x < -20 || y < -20 || x > width + 20 || y > height + 20) continue;
          // The mark is the last part of a row; its sizes stand in its third texel.
          const half = rows[(words[3 * k + 2] + layer.texels - markTexels + 2) * 4] * 0.42;
          if (half > 0) crowd.take(x - half, y - half, x + half, y + half);
        }
      }
    }
  }
}

function collect(stores: readonly { store: TileStore; drawn: readonly DrawnTile[] }[], camera: Camera): Candidate[] {
  const out: Candidate[] = [];
  const { zoom } = camera.view;
  const wrap = camera.surface.wrap;
  for (const { store, drawn } of stores) {
    // Finer tiles first: where a coarse one is drawn beside its children, theirs count.
    for (let i = drawn.length - 1; i >= 0; i--) {
      const { entry, copy } = drawn[i];
      entry.prepared!.layers.forEach((prepared, index) => {
        const { spots } = prepared;
        if (!spots?.texts.length) return;
        const layer = store.layerOf(prepared);
        if (!layer || !layer.visible || zoom < layer.zoom[0] || zoom >= layer.zoom[1]) return;
        const { looks, step } = store.looksOf(entry, index, layer, zoom);
        const { ids } = entry.prepared!.blocks[prepared.block];
        for (let k = 0; k < spots.texts.length; k++) {
          const look = looks[k];
          if (!look) continue;
          const x = entry.anchor[0] + spots.places[2 * k] + copy * wrap;
          const y = entry.anchor[1] + spots.places[2 * k + 1];
          const id = ids[spots.features[k]];
          const where = Number.isNaN(id)
            ? `${Math.round(x / camera.metresPerPixel / 48)},${Math.round(y / camera.metresPerPixel / 48)}`
            : `${id},${copy}`;
          const trace = traceOf(spots, k, entry.anchor, copy * wrap);
          out.push({
            key: `${layer.id}|${spots.texts[k]}|${trace ? `${where},${entry.key}` : where}`,
            place: [x, y],
            look,
            step,
            text: spots.texts[k],
            layer: layer.index,
            priority: look.priority,
            ...(trace ? { trace } : {}),
          });
        }
      });
    }
  }
  return out;
}

function traceOf(
  { traces, traceStarts }: LabelSpots,
  index: number,
  anchor: readonly [number, number],
  shift: number,
): Float64Array | undefined {
  if (!traces || !traceStarts) return undefined;
  const [from, to] = [traceStarts[index], traceStarts[index + 1]];
  if (to - from < 2) return undefined;
  const out = new Float64Array(2 * (to - from));
  for (let i = 0; i < out.length; i += 2) {
    out[i] = anchor[0] + shift + traces[2 * from + i];
    out[i + 1] = anchor[1] + traces[2 * from + i + 1];
  }
  return out;
}

function onScreen(trace: Float64Array, camera: Camera): Float64Array {
  const out = new Float64Array(trace.length);
  for (let i = 0; i < trace.length; i += 2) {
    const [x, y] = camera.toPixel(trace[i], trace[i + 1]);
    out[i] = x;
    out[i + 1] = y;
  }
  return out;
}

type Box = [number, number, number, number];

function levelBox({ look }: Candidate, run: TextRun, size: number, x: number, y: number): Box {
  const [cx, cy] = middle(look, run, size, x, y);
  const [w, h] = [(run.width * size) / 2 + 3, (run.height * size) / 2 + 1];
  return [cx - w, cy - h, cx + w, cy + h];
}

/** Boxes along a line, one for each em or so; undefined where the text does not fit the line. */
function alongBoxes({ trace }: Candidate, run: TextRun, size: number, camera: Camera): Box[] | undefined {
  const length = run.width * size + 12;
  const pieces: PathPiece[] | undefined = layAlong(
    onScreen(trace!, camera),
    length,
    Math.max(2, Math.round(run.width)),
    0.42,
  );
  const half = size * 0.7;
  return pieces?.map(({ x, y }) => [x - half, y - half, x + half, y + half]);
}

const mixAt = ({ step }: Candidate, zoom: number) => Math.max(0, Math.min(1, (zoom - step[0]) / (step[1] - step[0])));
const sizeAt = (candidate: Candidate, zoom: number) =>
  candidate.look.size[0] + (candidate.look.size[1] - candidate.look.size[0]) * mixAt(candidate, zoom);

function styleOf({ label }: LabelLook): TextStyle {
  const align = label.anchor === 'left' ? 'left' : label.anchor === 'right' ? 'right' : 'center';
  return {
    font: label.font,
    weight: label.weight,
    style: label.style,
    spacing: label.spacing,
    wrap: label.wrap,
    align,
  };
}

/** The middle of a label's box for its anchor and offset. */
function middle({ label }: LabelLook, run: TextRun, size: number, x: number, y: number): [number, number] {
  const dx = label.anchor === 'left' ? run.width / 2 : label.anchor === 'right' ? -run.width / 2 : 0;
  const dy = label.anchor === 'top' ? run.height / 2 : label.anchor === 'bottom' ? -run.height / 2 : 0;
  return [x + (label.offset[0] + dx) * size, y + (label.offset[1] + dy) * size];
}
