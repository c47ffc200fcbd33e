import type { SheetSide } from '@flintwright/core';
import { layAlong, type Camera, type LabelStyle } from '@flintwright/core/internal';
import type { TextRun, TextStyle } from '../gl/lettering.js';
import type { Candidate } from './candidates.js';

/** Paths in pixels by their traces, for the camera that they were last asked for: while the view rests, labels are placed and drawn often. */
const paths = new WeakMap<Float64Array, { readonly camera: Camera; readonly path: Float64Array }>();

/** A path of the surface in pixels; NaN where it is out of sight. */
export function onScreen(trace: Float64Array, camera: Camera): Float64Array {
  const known = paths.get(trace);
  if (known?.camera === camera) return known.path;
  const path = projectTrace(trace, camera);
  paths.set(trace, { camera, path });
  return path;
}

function projectTrace(trace: Float64Array, camera: Camera): Float64Array {
  const out = new Float64Array((2 * trace.length) / 3);
  for (let i = 0; i < trace.length / 3; i++) {
    const [x, y, near] = camera.toPixel(trace[3 * i], trace[3 * i + 1], trace[3 * i + 2]);
    // A place out of sight is not on the screen.
    out[2 * i] = near > 0 ? x : NaN;
    out[2 * i + 1] = near > 0 ? y : NaN;
  }
  return out;
}

/** Left, top, right and bottom in pixels. */
export type Box = [number, number, number, number];

/** The box of a label that stands upright at a pixel. */
export function levelBox(
  appearance: LabelStyle,
  side: SheetSide,
  run: TextRun,
  size: number,
  x: number,
  y: number,
): Box {
  const [cx, cy] = middle(appearance, side, run, size, x, y);
  const w = (run.width * size + iconRoom(appearance, size)) / 2 + 3;
  const h = Math.max(run.height * size, appearance.icon ? (appearance.icon.size ?? size) : 0) / 2 + 1;
  return [cx - w, cy - h, cx + w, cy + h];
}

/** Pixels that the symbol of a label takes beside the text. */
export const iconRoom = ({ icon }: LabelStyle, size: number) => (icon ? (icon.size ?? size) + icon.gap : 0);

/** Ems over which the line of a text is smoothed. */
export const smoothing = 1.5;

/** Boxes along a path of a length, one for each em or so; undefined where the text does not fit there. */
export function alongBoxes(
  path: Float64Array,
  total: number,
  around: number,
  run: TextRun,
  size: number,
  spare: number,
): Box[] | undefined {
  // The boxes are the same for all, so that what fits as a newcomer fits as an incumbent too.
  const room = run.width * size + spare;
  if (total * around < room / 2 || total * (1 - around) < room / 2) return undefined;
  const pieces = layAlong(path, run.width * size + 6, Math.max(2, Math.round(run.width)), {
    around,
    smooth: smoothing * size,
  });
  const half = size * 0.7;
  return pieces?.map(({ x, y }) => [x - half, y - half, x + half, y + half]);
}

export function lengthOfPath(path: Float64Array): number {
  let sum = 0;
  for (let i = 2; i < path.length; i += 2) sum += Math.hypot(path[i] - path[i - 2], path[i + 1] - path[i - 1]);
  return sum;
}

/** How often a label stands along a line of some pixels: a power of two, so that spots stay where they are while the map zooms. */
export const repetitions = (length: number, spacing: number): number =>
  length >= 2 * spacing ? 2 ** Math.floor(Math.log2(length / spacing)) : 1;

/** Spots of one stretch that are tried. */
const tries = 8;

/**
 * Spots in view along a path that is parted into equal stretches, as shares of its length: for each stretch those nearest its middle
 * first.
 */
export function spotsInView(
  path: Float64Array,
  total: number,
  stretches: number,
  width: number,
  height: number,
): (readonly number[])[] {
  const byStretch = new Map<number, number[]>();
  const count = stretches * tries;
  let run = 0;
  let k = 0;
  for (let i = 2; i < path.length && k < count; i += 2) {
    const [dx, dy] = [path[i] - path[i - 2], path[i + 1] - path[i - 1]];
    const step = Math.hypot(dx, dy);
    for (; k < count && ((k + 0.5) / count) * total <= run + step; k++) {
      const t = step > 0 ? (((k + 0.5) / count) * total - run) / step : 0;
      const [x, y] = [path[i - 2] + dx * t, path[i - 1] + dy * t];
      if (!(x > 0 && y > 0 && x < width && y < height)) continue;
      const stretch = Math.floor(k / tries);
      const spots = byStretch.get(stretch);
      if (spots) spots.push((k + 0.5) / count);
      else byStretch.set(stretch, [(k + 0.5) / count]);
    }
    run += step;
  }
  return [...byStretch].map(([stretch, spots]) => {
    const middle = (stretch + 0.5) / stretches;
    return spots.sort((a, b) => Math.abs(a - middle) - Math.abs(b - middle));
  });
}

/** Whether the box around a path on the screen reaches into the view. */
export function isInView(path: Float64Array, width: number, height: number): boolean {
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

/** How far a zoom has come through a candidate's zoom step, 0 to 1. */
export const mixAt = ({ step }: Candidate, zoom: number) =>
  Math.max(0, Math.min(1, (zoom - step[0]) / (step[1] - step[0])));
/** Size of a candidate's text at a zoom, in pixels. */
export const sizeAt = (candidate: Candidate, zoom: number) =>
  candidate.style.size[0] + (candidate.style.size[1] - candidate.style.size[0]) * mixAt(candidate, zoom);

/** −1, 0 or 1: where the label stands about its place, from left to right and from above to below. */
const sideways = (side: SheetSide) => (side.endsWith('left') ? -1 : side.endsWith('right') ? 1 : 0);
const upright = (side: SheetSide) => (side.startsWith('above') ? -1 : side.startsWith('below') ? 1 : 0);

/** How the text of a label is set. */
export function textStyleOf({ label }: LabelStyle, side: SheetSide, isAlong = false): TextStyle {
  const align = label.align ?? (['right', 'center', 'left'] as const)[sideways(side) + 1];
  const { font, weight, style, spacing } = label;
  // A text along a path is one line.
  return { font, weight, style, spacing, wrap: isAlong ? Infinity : label.wrap, align };
}

/** The middle of a label's box on a side of its place, in CSS pixels. */
export function middle(
  appearance: LabelStyle,
  side: SheetSide,
  run: TextRun,
  size: number,
  x: number,
  y: number,
): [number, number] {
  const [sx, sy] = [sideways(side), upright(side)];
  // A corner of the text lies on the circle that its sides touch.
  const reach = appearance.label.reach * (sx && sy ? Math.SQRT1_2 : 1);
  const width = run.width * size + iconRoom(appearance, size);
  // The line is higher than its letters; a fifth of an em of it is empty on either side.
  const height = Math.max(0, run.height - 0.4) * size;
  return [x + sx * (reach + width / 2), y + sy * (reach + height / 2)];
}
