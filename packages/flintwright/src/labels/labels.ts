// Room "labels": which labels stand, where, and how they come and go.
import type { SheetSide } from '@flintwright/core';
import { CollisionGrid, layAlong, placesAlong, type Camera } from '@flintwright/core/internal';
import { spriteBox } from '../gl/atlas.js';
import { textFieldPerPixel, type TextRun, type TextStyle } from '../gl/lettering.js';
import type { TextAtlas } from '../gl/text-atlas.js';
import type { BoxList } from '../gl/boxes.js';
import type { DataEntry } from '../load/data-entry.js';
import { collect, roomOfMarks, type Candidate } from './candidates.js';
import type { MarkRoom } from './mark-room.js';
import {
  alongBoxes,
  iconRoom,
  isInView,
  lengthOfPath,
  levelBox,
  middle,
  mixAt,
  onScreen,
  repetitions,
  sizeAt,
  smoothing,
  spotsInView,
  textStyleOf,
  type Box,
} from './label-boxes.js';

interface Shown {
  candidate: Candidate;
  /** Which side of the text stands at the place, or where along its line the text stands. */
  spot: SheetSide | number;
  run: TextRun;
  style: TextStyle;
  opacity: number;
  wanted: boolean;
}

/** A label that asks for room. */
interface Contender {
  readonly candidate: Candidate;
  readonly x: number;
  readonly y: number;
  readonly path: Float64Array | undefined;
  /** Length of the path in pixels. */
  readonly total: number;
  readonly zoom: number;
  /** The label that stood there before. */
  readonly stood: Shown | undefined;
}

/** One placing of all labels. */
interface Placing {
  isFree(box: Box, spare: number): boolean;
  /** What no label but its own may stand on. */
  readonly marks: MarkRoom;
  /** What a label stands on only where it has no other place. */
  readonly dots: MarkRoom;
  /** Where labels of a name stand already. */
  readonly named: Map<string, [number, number][]>;
  readonly stoodNow: ReadonlySet<Shown>;
}

/** A free spot of a label. */
interface Seat {
  readonly spot: SheetSide | number;
  readonly boxes: readonly Box[];
  readonly at: [number, number];
  readonly run: Shown['run'];
  readonly style: Shown['style'];
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
  private readonly grid = new CollisionGrid();

  constructor(private readonly atlas: TextAtlas) {}

  /** Whether a label is still fading. */
  get fading(): boolean {
    return this.shown.some(({ wanted, opacity }) => (wanted ? opacity < 1 : opacity > 0));
  }

  /** Texts of the labels that are shown, for tests and for reading out. */
  get texts(): string[] {
    return this.shown.filter(({ wanted }) => wanted).map(({ candidate }) => candidate.text);
  }

  /** Sets all texts anew, after the atlas was cleared. */
  reset(): void {
    for (const label of this.shown) label.run = this.atlas.run(label.candidate.text, label.style);
  }

  /** Forgets what stands, so that nothing of it is kept for its own sake. */
  forget(): void {
    this.shown = [];
  }

  /** Decides anew which labels stand. `reserve` takes the room that labels must leave free. */
  place(entries: readonly DataEntry[], camera: Camera, reserve: (grid: CollisionGrid) => void): void {
    const { zoom } = camera.view;
    const { width, height } = camera.size;
    const before = new Map<string, Shown[]>();
    for (const label of this.shown) {
      const list = before.get(label.candidate.name);
      if (list) list.push(label);
      else before.set(label.candidate.name, [label]);
    }
    const candidates = collect(entries, camera).flatMap((candidate) => {
      const [x, y, near] = camera.toPixel(...candidate.place);
      const off =
        near <= 0.25 ||
        camera.sight(...candidate.place) < 0.12 ||
        x < -80 ||
        y < -40 ||
        x > width + 80 ||
        y > height + 40;
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
    const { grid } = this;
    grid.clear();
    reserve(grid);
    const { marks, dots } = roomOfMarks(entries, camera);
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
      grid.isFree(l - spare, t - spare, r + spare, b + spare) &&
      // Where the whole world is in view a label does not stick out over its rim.
      [l, r].every((x) => camera.unproject(x, (t + b) / 2) !== undefined);
    const placing: Placing = { isFree, marks, dots, named, stoodNow };
    for (const { candidate, x, y, stood } of candidates) {
      const path = candidate.trace && onScreen(candidate.trace, camera);
      const total = path ? lengthOfPath(path) : 0;
      const repeats = repetitions(total, candidate.style.label.repeat);
      if (path && repeats > 1) {
        for (const spots of spotsInView(path, total, repeats, width, height)) {
          const stood = stoodAt(before.get(candidate.name), spots, x, y, camera);
          const order = stood ? [stood.spot, ...spots] : spots;
          this.put({ candidate, x, y, path, total, zoom, stood }, order, placing);
        }
        continue;
      }
      const twins = named.get(candidate.name);
      if (twins && (!candidate.many || twins.some(([tx, ty]) => Math.hypot(tx - x, ty - y) < same))) continue;
      // Where it stood is tried first, so that labels stay as long as they can.
      const { sides } = candidate.style.label;
      const spots: readonly (SheetSide | number)[] = path ? placesAlong(total) : sides;
      const order = stood && spots.includes(stood.spot) ? [stood.spot, ...spots] : spots;
      this.put({ candidate, x, y, path, total, zoom, stood }, order, placing);
    }
  }

  /** Puts a label at the first of some spots that is free; where each of those crosses a dot, at the first. */
  private put(contender: Contender, order: readonly (SheetSide | number)[], placing: Placing): void {
    let crossing: Seat | undefined;
    for (const spot of order) {
      const seat = this.seatAt(contender, spot, placing);
      if (!seat) continue;
      if (seat.boxes.every((box) => placing.dots.isFree(box, [contender.x, contender.y])))
        return this.take(contender, seat, placing);
      crossing ??= seat;
    }
    if (crossing) this.take(contender, crossing, placing);
  }

  /** Where a label would stand at a spot, if that is free. */
  private seatAt(
    { candidate, x, y, path, total, zoom, stood }: Contender,
    spot: SheetSide | number,
    { isFree, marks, named, stoodNow }: Placing,
  ): Seat | undefined {
    const size = sizeAt(candidate, zoom);
    const side = typeof spot === 'number' ? 'on' : spot;
    const style = textStyleOf(candidate.style, side, path !== undefined);
    const run = this.atlas.run(candidate.text, style);
    const stands = stood?.wanted === false && stood.spot === spot && stoodNow.has(stood);
    const boxes = path
      ? alongBoxes(path, total, spot as number, run, size, stands ? 6 : 16)
      : [levelBox(candidate.style, side, run, size, x, y)];
    if (!boxes?.every((box) => isFree(box, stands ? 0 : 3) && marks.isFree(box, [x, y]))) return undefined;
    const [left, top, right, bottom] = boxes[boxes.length >> 1];
    const at: [number, number] = path ? [(left + right) / 2, (top + bottom) / 2] : [x, y];
    // Along a line the same name stands again only after some way, also where one tile follows another.
    const apart = candidate.style.label.repeat * 0.45;
    if (path && named.get(candidate.name)?.some(([tx, ty]) => Math.hypot(tx - at[0], ty - at[1]) < apart))
      return undefined;
    return { spot, boxes, at, run, style };
  }

  private take({ candidate, stood }: Contender, { spot, boxes, at, run, style }: Seat, { named }: Placing): void {
    for (const box of boxes) this.grid.take(...box);
    const twins = named.get(candidate.name);
    if (twins) twins.push(at);
    else named.set(candidate.name, [at]);
    if (stood && stood.spot === spot && !stood.wanted) Object.assign(stood, { candidate, run, style, wanted: true });
    else this.shown.push({ candidate, spot, run, style, opacity: 0, wanted: true });
  }

  /**
   * Moves fades on by `elapsed` milliseconds and writes the boxes to draw: texts into one list, symbols beside them into
   * another.
   */
  boxes(
    camera: Camera,
    ratio: number,
    elapsed: number,
    { texts, symbols }: { readonly texts: BoxList; readonly symbols: BoxList },
    still: boolean,
  ): void {
    const { zoom } = camera.view;
    const step = still ? 1 : elapsed / fadeTime;
    for (const label of this.shown)
      label.opacity = Math.max(0, Math.min(1, label.opacity + (label.wanted ? step : -step)));
    this.shown = this.shown.filter(({ opacity, wanted }) => wanted || opacity > 0);
    for (const { candidate, spot, run, style, opacity: faded } of this.shown) {
      const { style: appearance } = candidate;
      const [x, y, near] = camera.toPixel(...candidate.place);
      if (near <= 0) continue;
      const size = sizeAt(candidate, zoom);
      const within = Math.max(0, Math.min(1, (camera.sight(...candidate.place) - 0.06) / 0.14));
      const opacity = faded * within;
      const t = mixAt(candidate, zoom);
      const { box, uv } = this.atlas.draw(run, style);
      const [bw, bh] = [(box[0] * size) / 2, (box[1] * size) / 2];
      const [u0, v0, u1, v1] = uv;
      const field = textFieldPerPixel(size);
      const color = appearance.color[0].map((from, k) => (from + (appearance.color[1][k] - from) * t) * opacity);
      const halo = appearance.halo.map((v) => v * opacity);
      const rim = Math.min(0.46, appearance.label.haloWidth * field);
      const put = (px: number, py: number, halfWidth: number, left: number, right: number, turn: number) =>
        texts.put([px, py, halfWidth, bh], [u0 + (u1 - u0) * left, v0, u0 + (u1 - u0) * right, v1], color, halo, [
          rim,
          field / ratio,
          turn,
        ]);
      if (candidate.trace) {
        const count = Math.max(1, Math.round((bw * 2) / 9));
        // Between two placings a turning map may bend it a little more than where it was placed.
        const limits = { sharpest: 0.9, total: 2 };
        const pieces = layAlong(onScreen(candidate.trace, camera), bw * 2, count, {
          ...{ around: spot as number, smooth: smoothing * size },
          ...limits,
        });
        // Pieces reach half a pixel into each other, so that no gap opens on the outer side of a bend.
        pieces?.forEach(({ x: px, y: py, turn }, k) =>
          put(px, py, bw / count + 0.25, k / count - 0.125 / bw, (k + 1) / count + 0.125 / bw, turn),
        );
        continue;
      }
      const room = iconRoom(appearance, size);
      const [cx, cy] = middle(appearance, spot as SheetSide, run, size, x, y);
      // Upright text on whole device pixels is crisp.
      const snap = (v: number) => Math.round(v * ratio) / ratio;
      put(snap(cx + room / 2 - bw) + bw, snap(cy - bh) + bh, bw, 0, 1, 0);
      if (!appearance.icon) continue;
      const side = appearance.icon.size ?? size;
      const icon = spriteBox(appearance.icon.sprite);
      const half = (side * icon.cellPerSize) / 2;
      symbols.put(
        [snap(cx - (run.width * size) / 2 - room / 2 + side / 2), snap(cy), half, half],
        icon.uv,
        appearance.icon.color.map((v) => v * opacity),
        halo,
        [(appearance.label.haloWidth * icon.fieldPerPixel) / side, icon.fieldPerPixel / side / ratio, 0],
      );
    }
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

/** The label of a name that stood at one of some spots along the same line. */
function stoodAt(
  labels: readonly Shown[] | undefined,
  spots: readonly number[],
  x: number,
  y: number,
  camera: Camera,
): Shown | undefined {
  return labels?.find(({ spot, candidate }) => {
    if (typeof spot !== 'number' || !spots.includes(spot)) return false;
    const [px, py] = camera.toPixel(...candidate.place);
    return Math.hypot(px - x, py - y) < same;
  });
}
