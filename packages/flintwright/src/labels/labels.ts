import {
  Crowd,
  fromFrame,
  layAlong,
  placesAlong,
  type Camera,
  type LabelLook,
  type LabelSpots,
  type SheetAnchor,
  type TileFrame,
} from '@flintwright/core';
import { spriteBox, textFieldPerPixel, type TextAtlas, type TextRun, type TextStyle } from '../gl/atlas.js';
import { BoxList } from '../gl/boxes.js';
import type { DrawnTile, TileStore } from '../load/tile-store.js';

interface Candidate {
  /** What the label belongs to: layer, text, and id where there is one. Only one label a name is shown. */
  readonly name: string;
  readonly place: readonly [number, number, number];
  readonly look: LabelLook;
  readonly step: readonly [number, number];
  readonly text: string;
  readonly layer: number;
  readonly priority: number;
  /** Whether there may be several of the name, because nothing tells the features apart. */
  readonly many: boolean;
  /** Surface x, y, z of the line that the label follows. */
  readonly trace?: Float64Array;
}

interface Shown {
  candidate: Candidate;
  /** Which side of the text stands at the place, or where along its line the text stands. */
  anchor: SheetAnchor | number;
  run: TextRun;
  style: TextStyle;
  opacity: number;
  wanted: boolean;
}

const fadeTime = 220;
/** A label found again within this many pixels of where it stood is the same one. */
const same = 28;

/**
 * The labels of the map. They are placed over all tiles at once, the important ones first and those already shown before
 * newcomers of the same rank. Whatever comes, goes, or stands elsewhere than before fades.
 */
export class Labels {
  private shown: Shown[] = [];
  /** Room that is taken, while labels are placed. */
  private readonly crowd = new Crowd();

  constructor(private readonly atlas: TextAtlas) {}

  /** Whether a label is still fading. */
  get fading(): boolean {
    return this.shown.some(({ wanted, opacity }) => (wanted ? opacity < 1 : opacity > 0));
  }

  /** Texts of the labels that are shown, for tests and for reading out. */
  get texts(): string[] {
    return this.shown.filter(({ wanted }) => wanted).map(({ candidate }) => candidate.text);
  }

  /** Decides anew which labels stand. `reserve` takes the room that labels must leave free. */
  place(
    stores: readonly { store: TileStore; drawn: readonly DrawnTile[] }[],
    camera: Camera,
    reserve: (crowd: Crowd) => void,
  ): void {
    const { zoom } = camera.view;
    const { width, height } = camera.size;
    const before = new Map<string, Shown[]>();
    for (const label of this.shown) {
      const list = before.get(label.candidate.name);
      if (list) list.push(label);
      else before.set(label.candidate.name, [label]);
    }
    const candidates = collect(stores, camera).flatMap((candidate) => {
      const [x, y, near] = camera.toPixel(...candidate.place);
      const off = near <= 0.25 || x < -80 || y < -40 || x > width + 80 || y > height + 40;
      if (off && !(candidate.trace && isInView(onScreen(candidate.trace, camera), width, height))) return [];
      return [{ candidate, x, y, stood: stoodBefore(before.get(candidate.name), x, y, camera) }];
    });
    candidates.sort(
      (a, b) =>
        b.candidate.priority - a.candidate.priority ||
        b.candidate.layer - a.candidate.layer ||
        Number(b.stood?.wanted ?? false) - Number(a.stood?.wanted ?? false) ||
        (a.candidate.name < b.candidate.name ? -1 : a.candidate.name > b.candidate.name ? 1 : 0),
    );
    const { crowd } = this;
    crowd.clear();
    reserve(crowd);
    reserveMarks(stores, camera, crowd);
    const stoodNow = new Set(this.shown.filter(({ wanted }) => wanted));
    for (const label of this.shown) label.wanted = false;
    const named = new Map<string, [number, number][]>();
    // A label that the edge of the map would cut is left out; it comes when there is room for all of it. Newcomers need a
    // little more room than what stands already, so that nothing comes and goes on a hair.
    const isFree = ([l, t, r, b]: Box, spare: number) =>
      l > spare - 2 &&
      t > spare - 2 &&
      r < width + 2 - spare &&
      b < height + 2 - spare &&
      crowd.isFree(l - spare, t - spare, r + spare, b + spare);
    for (const { candidate, x, y, stood } of candidates) {
      const twins = named.get(candidate.name);
      if (twins && (!candidate.many || twins.some(([tx, ty]) => Math.hypot(tx - x, ty - y) < same))) continue;
      const size = sizeAt(candidate, zoom);
      // Where it stood is tried first, so that labels stay as long as they can.
      const path = candidate.trace && onScreen(candidate.trace, camera);
      const { anchors } = candidate.look.label;
      const spots: readonly (SheetAnchor | number)[] = path ? placesAlong(lengthOfPath(path)) : anchors;
      const order = stood && spots.includes(stood.anchor) ? [stood.anchor, ...spots] : spots;
      for (const anchor of order) {
        const side = typeof anchor === 'number' ? 'center' : anchor;
        const style = styleOf(candidate.look, side);
        const run = this.atlas.run(candidate.text, style);
        const stands = stood?.wanted === false && stood.anchor === anchor && stoodNow.has(stood);
        const boxes = path
          ? alongBoxes(path, anchor as number, run, size, stands ? 6 : 16)
          : [levelBox(candidate.look, side, run, size, x, y)];
        if (!boxes?.every((box) => isFree(box, stands ? 0 : 3))) continue;
        for (const box of boxes) crowd.take(...box);
        if (twins) twins.push([x, y]);
        else named.set(candidate.name, [[x, y]]);
        if (stood && stood.anchor === anchor && !stood.wanted)
          Object.assign(stood, { candidate, run, style, wanted: true });
        else this.shown.push({ candidate, anchor, run, style, opacity: 0, wanted: true });
        break;
      }
    }
  }

  /**
   * Moves fades on by `elapsed` milliseconds and writes the boxes to draw: texts into `out`, symbols beside them into `icons`.
   * Returns how many of each.
   */
  boxes(
    camera: Camera,
    ratio: number,
    elapsed: number,
    out: Float32Array,
    icons: Float32Array,
    still: boolean,
  ): { texts: number; icons: number } {
    const texts = new BoxList(out);
    const symbols = new BoxList(icons);
    const { zoom } = camera.view;
    const step = still ? 1 : elapsed / fadeTime;
    for (const label of this.shown)
      label.opacity = Math.max(0, Math.min(1, label.opacity + (label.wanted ? step : -step)));
    this.shown = this.shown.filter(({ opacity, wanted }) => wanted || opacity > 0);
    for (const { candidate, anchor, run, style, opacity } of this.shown) {
      this.atlas.draw(run, style);
      const { look } = candidate;
      const [x, y, near] = camera.toPixel(...candidate.place);
      if (near <= 0) continue;
      const size = sizeAt(candidate, zoom);
      const t = mixAt(candidate, zoom);
      const [bw, bh] = [(run.box![0] * size) / 2, (run.box![1] * size) / 2];
      const [u0, v0, u1, v1] = run.uv!;
      const field = textFieldPerPixel(size);
      const color = look.color[0].map((from, k) => (from + (look.color[1][k] - from) * t) * opacity);
      const halo = look.halo.map((v) => v * opacity);
      const rim = Math.min(0.46, look.label.haloWidth * field);
      const put = (px: number, py: number, halfWidth: number, left: number, right: number, turn: number) =>
        texts.put([px, py, halfWidth, bh], [u0 + (u1 - u0) * left, v0, u0 + (u1 - u0) * right, v1], color, halo, [
          rim,
          field / ratio,
          turn,
        ]);
      if (candidate.trace) {
        const count = Math.max(1, Math.round((bw * 2) / 9));
        const pieces = layAlong(onScreen(candidate.trace, camera), bw * 2, count, 0.9, anchor as number);
        // Pieces reach half a pixel into each other, so that no gap opens on the outer side of a bend.
        pieces?.forEach(({ x: px, y: py, turn }, k) =>
          put(px, py, bw / count + 0.25, k / count - 0.125 / bw, (k + 1) / count + 0.125 / bw, turn),
        );
        continue;
      }
      const room = iconRoom(look, size);
      const [cx, cy] = middle(look, anchor as SheetAnchor, run, size, x, y);
      // Upright text on whole device pixels is crisp.
      const snap = (v: number) => Math.round(v * ratio) / ratio;
      put(snap(cx + room / 2 - bw) + bw, snap(cy - bh) + bh, bw, 0, 1, 0);
      if (!look.icon) continue;
      const side = look.icon.size ?? size;
      const { uv, cellPerSize, fieldPerPixel } = spriteBox(look.icon.sprite);
      const half = (side * cellPerSize) / 2;
      symbols.put(
        [snap(cx - (run.width * size) / 2 - room / 2 + side / 2), snap(cy), half, half],
        uv,
        look.icon.color.map((v) => v * opacity),
        halo,
        [(look.label.haloWidth * fieldPerPixel) / side, fieldPerPixel / side / ratio, 0],
      );
    }
    return { texts: texts.count, icons: symbols.count };
  }
}

/** The label of a name that stood nearest to a pixel, if near enough to be the same. */
function stoodBefore(labels: readonly Shown[] | undefined, x: number, y: number, camera: Camera): Shown | undefined {
  let best: Shown | undefined;
  let nearest = same;
  for (const label of labels ?? []) {
    const [px, py] = camera.toPixel(...label.candidate.place);
    // One that is on its way out serves only where none stands.
    const away = Math.hypot(px - x, py - y) + (label.wanted ? 0 : 8);
    if (away < nearest) [best, nearest] = [label, away];
  }
  return best;
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
  const at: [number, number, number] = [0, 0, 0];
  for (const { store, drawn } of stores) {
    for (const { entry, copy } of drawn) {
      const { layers, mesh, rows } = entry.prepared!;
      for (const prepared of layers) {
        const [from, length] = prepared.range.marks;
        if (!length) continue;
        const layer = store.layerOf(prepared);
        if (!layer?.visible || !layer.hasMark || zoom < layer.zoom[0] || zoom >= layer.zoom[1] || (left -= length) < 0)
          continue;
        const floats = new Float32Array(mesh.marks);
        const words = new Uint32Array(mesh.marks);
        for (let k = from; k < from + length; k++) {
          fromFrame(entry.frame, camera.surface.radius, floats[3 * k], floats[3 * k + 1], at);
          const [x, y, near] = camera.toPixel(at[0] + copy * camera.surface.wrap, at[1], at[2]);
          if (near <= 0 || x < -20 || y < -20 || x > width + 20 || y > height + 20) continue;
          // Sizes stand in the third texel of the mark.
          const half = rows[(words[3 * k + 2] + layer.parts.mark + 2) * 4] * 0.42;
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
  const at: [number, number, number] = [0, 0, 0];
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
          fromFrame(entry.frame, camera.surface.radius, spots.places[2 * k], spots.places[2 * k + 1], at);
          const id = ids[spots.features[k]];
          const trace = traceOf(spots, k, entry.frame, camera.surface.radius, copy * wrap);
          const many = Number.isNaN(id) || trace !== undefined;
          out.push({
            name: `${layer.id}|${spots.texts[k]}|${many ? '' : `${id},${copy}`}`,
            many,
            place: [at[0] + copy * wrap, at[1], at[2]],
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
  frame: TileFrame,
  radius: number,
  shift: number,
): Float64Array | undefined {
  if (!traces || !traceStarts) return undefined;
  const [from, to] = [traceStarts[index], traceStarts[index + 1]];
  if (to - from < 2) return undefined;
  const out = new Float64Array(3 * (to - from));
  const at: [number, number, number] = [0, 0, 0];
  for (let i = 0; i < to - from; i++) {
    fromFrame(frame, radius, traces[2 * (from + i)], traces[2 * (from + i) + 1], at);
    at[0] += shift;
    out.set(at, 3 * i);
  }
  return out;
}

function onScreen(trace: Float64Array, camera: Camera): Float64Array {
  const out = new Float64Array((2 * trace.length) / 3);
  for (let i = 0; i < trace.length / 3; i++) {
    const [x, y, near] = camera.toPixel(trace[3 * i], trace[3 * i + 1], trace[3 * i + 2]);
    // What is out of sight has no place on the screen.
    out[2 * i] = near > 0 ? x : NaN;
    out[2 * i + 1] = near > 0 ? y : NaN;
  }
  return out;
}

type Box = [number, number, number, number];

function levelBox(look: LabelLook, anchor: SheetAnchor, run: TextRun, size: number, x: number, y: number): Box {
  const [cx, cy] = middle(look, anchor, run, size, x, y);
  const w = (run.width * size + iconRoom(look, size)) / 2 + 3;
  const h = Math.max(run.height * size, look.icon ? (look.icon.size ?? size) : 0) / 2 + 1;
  return [cx - w, cy - h, cx + w, cy + h];
}

/** Pixels that the symbol of a label takes beside the text. */
const iconRoom = ({ icon }: LabelLook, size: number) => (icon ? (icon.size ?? size) + icon.gap : 0);

/** Boxes along a path, one for each em or so; undefined where the text does not fit there. */
function alongBoxes(path: Float64Array, around: number, run: TextRun, size: number, spare: number): Box[] | undefined {
  // The boxes are the same for all, so that what fits as a newcomer fits as an incumbent too.
  const total = lengthOfPath(path);
  const room = run.width * size + spare;
  if (total * around < room / 2 || total * (1 - around) < room / 2) return undefined;
  const pieces = layAlong(path, run.width * size + 6, Math.max(2, Math.round(run.width)), 0.42, around);
  const half = size * 0.7;
  return pieces?.map(({ x, y }) => [x - half, y - half, x + half, y + half]);
}

function lengthOfPath(path: Float64Array): number {
  let sum = 0;
  for (let i = 2; i < path.length; i += 2) sum += Math.hypot(path[i] - path[i - 2], path[i + 1] - path[i - 1]);
  return sum;
}

/** Whether the box around a path on the screen reaches into the view. */
function isInView(path: Float64Array, width: number, height: number): boolean {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < path.length; i += 2) {
    if (!Number.isFinite(path[i])) return false;
    left = Math.min(left, path[i]);
    right = Math.max(right, path[i]);
    top = Math.min(top, path[i + 1]);
    bottom = Math.max(bottom, path[i + 1]);
  }
  return left < width && right > 0 && top < height && bottom > 0;
}

const mixAt = ({ step }: Candidate, zoom: number) => Math.max(0, Math.min(1, (zoom - step[0]) / (step[1] - step[0])));
const sizeAt = (candidate: Candidate, zoom: number) =>
  candidate.look.size[0] + (candidate.look.size[1] - candidate.look.size[0]) * mixAt(candidate, zoom);

/** −1, 0 or 1: where the anchor lies on the label, from left to right and from top to bottom. */
const sideways = (anchor: SheetAnchor) => (anchor.endsWith('left') ? -1 : anchor.endsWith('right') ? 1 : 0);
const upright = (anchor: SheetAnchor) => (anchor.startsWith('top') ? -1 : anchor.startsWith('bottom') ? 1 : 0);

function styleOf({ label }: LabelLook, anchor: SheetAnchor): TextStyle {
  const align = label.align ?? (['left', 'center', 'right'] as const)[sideways(anchor) + 1];
  const { font, weight, style, spacing, wrap } = label;
  return { font, weight, style, spacing, wrap, align };
}

/**
 * The middle of a label's box for its anchor and offset. A label whose place has a choice of sides keeps the distance that
 * its offset gives on every one of them.
 */
function middle(
  look: LabelLook,
  anchor: SheetAnchor,
  run: TextRun,
  size: number,
  x: number,
  y: number,
): [number, number] {
  const { label } = look;
  const [sx, sy] = [sideways(anchor), upright(anchor)];
  const dx = (-sx * (run.width * size + iconRoom(look, size))) / 2;
  const dy = (-sy * run.height * size) / 2;
  if (label.anchors.length === 1) return [x + label.offset[0] * size + dx, y + label.offset[1] * size + dy];
  const [away, down] = label.offset.map(Math.abs);
  // Corners lie nearer in both directions.
  const slant = sx && sy ? Math.SQRT1_2 : 1;
  return [
    x - sx * Math.max(away, sy ? 0 : down) * size * slant + dx,
    y - sy * Math.max(down, sx ? 0 : away) * size * slant + dy,
  ];
}
