import {
  fromLocal,
  type Camera,
  type LabelAnchors,
  type LabelStyle,
  type LocalFrame,
} from '@flintwright/core/internal';
import type { DataEntry } from '../load/data-entry.js';
import { MarkRoom } from './mark-room.js';

/** A label that may be shown. */
export interface Candidate {
  /** Owner of the label: layer, text, and id where there is one. Only one label a name is shown. */
  readonly name: string;
  readonly place: readonly [number, number, number];
  readonly style: LabelStyle;
  readonly step: readonly [number, number];
  readonly text: string;
  readonly layer: number;
  readonly priority: number;
  /** Whether there may be several of the name, because nothing tells the features apart. */
  readonly many: boolean;
  /** Surface x, y, z of the line that the label follows. */
  readonly trace?: Float64Array;
}

/** Height in CSS pixels from which on a mark keeps its room; a name may cross a dot, where there is no better place. */
const leastMark = 8;

/** The room that symbols stand in: marks, and dots apart. */
export function roomOfMarks(
  entries: readonly DataEntry[],
  camera: Camera,
): { readonly marks: MarkRoom; readonly dots: MarkRoom } {
  const [marksRoom, dots] = [new MarkRoom(), new MarkRoom()];
  const { zoom } = camera.view;
  const { width, height } = camera.size;
  let left = 6000;
  const at: [number, number, number] = [0, 0, 0];
  for (const { tileStore, tiles } of entries) {
    for (const { entry, copy } of tiles) {
      const { layers, marks, rows } = entry.prepared;
      for (const prepared of layers) {
        const [from, length] = prepared.range.marks;
        if (!length) continue;
        const layer = tileStore?.rows.layerOf(prepared);
        if (!layer?.visible || !layer.hasMark || zoom < layer.zoom[0] || zoom >= layer.zoom[1] || (left -= length) < 0)
          continue;
        const floats = new Float32Array(marks);
        const words = new Uint32Array(marks);
        for (let k = from; k < from + length; k++) {
          fromLocal(entry.frame, camera.surface.radius, floats[3 * k], floats[3 * k + 1], at);
          const [x, y, near] = camera.toPixel(at[0] + copy * camera.surface.wrap, at[1], at[2]);
          if (near <= 0 || x < -20 || y < -20 || x > width + 20 || y > height + 20) continue;
          // Sizes stand in the third texel of the mark.
          const size = rows[(words[3 * k + 2] + layer.parts.mark + 2) * 4];
          const half = size * 0.42;
          (size >= leastMark ? marksRoom : dots).add(x, y, half);
        }
      }
    }
  }
  return { marks: marksRoom, dots };
}

/** All labels of the tiles that are drawn. */
export function collect(entries: readonly DataEntry[], camera: Camera): Candidate[] {
  const out: Candidate[] = [];
  const { zoom } = camera.view;
  const wrap = camera.surface.wrap;
  const at: [number, number, number] = [0, 0, 0];
  for (const { tileStore, tiles } of entries) {
    if (!tileStore) continue;
    // Finer tiles first: where a coarse one is drawn beside its children, theirs count.
    for (let i = tiles.length - 1; i >= 0; i--) {
      const { entry, copy } = tiles[i];
      entry.prepared.layers.forEach((prepared, index) => {
        const { labelAnchors } = prepared;
        if (!labelAnchors?.texts.length) return;
        const layer = tileStore.rows.layerOf(prepared);
        if (!layer || !layer.visible || zoom < layer.zoom[0] || zoom >= layer.zoom[1]) return;
        const { styles, step } = tileStore.rows.labelStyles(entry, index, layer, zoom);
        const { ids } = entry.prepared.blocks[prepared.block];
        const traces = tracesOf(labelAnchors, entry.frame, camera.surface.radius, copy * wrap);
        for (let k = 0; k < labelAnchors.texts.length; k++) {
          const style = styles[k];
          // One that cannot be seen holds no room.
          if (!style || (style.halo[3] <= 0 && style.color.every(([, , , alpha]) => alpha <= 0))) continue;
          fromLocal(entry.frame, camera.surface.radius, labelAnchors.places[2 * k], labelAnchors.places[2 * k + 1], at);
          const id = ids[labelAnchors.features[k]];
          const trace = traces[k];
          const many = Number.isNaN(id) || trace !== undefined;
          out.push({
            name: `${layer.id}|${labelAnchors.texts[k]}|${many ? '' : `${id},${copy}`}`,
            many,
            place: [at[0] + copy * wrap, at[1], at[2]],
            style,
            step,
            text: labelAnchors.texts[k],
            layer: layer.index,
            priority: style.priority,
            ...(trace ? { trace } : {}),
          });
        }
      });
    }
  }
  return out;
}

/** The traces of the labels of a layer in a tile, by the tile's frame and its shift on a surface that repeats. */
const known = new WeakMap<LabelAnchors, Map<string, readonly (Float64Array | undefined)[]>>();

function tracesOf(anchors: LabelAnchors, frame: LocalFrame, radius: number, shift: number) {
  const key = `${radius},${shift},${frame.anchor.join()}`;
  let byKey = known.get(anchors);
  if (!byKey) known.set(anchors, (byKey = new Map()));
  let traces = byKey.get(key);
  if (!traces) {
    traces = anchors.texts.map((_, k) => traceOf(anchors, k, frame, radius, shift));
    byKey.set(key, traces);
  }
  return traces;
}

function traceOf(
  { traces, traceStarts }: LabelAnchors,
  index: number,
  frame: LocalFrame,
  radius: number,
  shift: number,
): Float64Array | undefined {
  if (!traces || !traceStarts) return undefined;
  const [from, to] = [traceStarts[index], traceStarts[index + 1]];
  if (to - from < 2) return undefined;
  const out = new Float64Array(3 * (to - from));
  const at: [number, number, number] = [0, 0, 0];
  for (let i = 0; i < to - from; i++) {
    fromLocal(frame, radius, traces[2 * (from + i)], traces[2 * (from + i) + 1], at);
    at[0] += shift;
    out.set(at, 3 * i);
  }
  return out;
}
