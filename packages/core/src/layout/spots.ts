import { Kind, type FeatureBlock } from '../features/block.js';
import { innerPoint } from '../geometry/inner-point.js';
import type { Placement } from '../mesh/tile-mesh.js';
import { labelTexts } from '../sheet/portray.js';
import type { CompiledLayer } from '../sheet/compile.js';

/** Places for labels of one layer in one tile. */
export interface LabelSpots {
  /** Row of the block for each spot. */
  readonly features: Uint32Array;
  readonly texts: readonly string[];
  /** x, y in metres of the surface from the tile's anchor. */
  readonly places: Float32Array;
  /** For labels along lines: where the line of each spot begins in `traces` (in vertices), with one further entry. */
  readonly traceStarts?: Uint32Array;
  /** x, y of the lines' vertices, as `places`. */
  readonly traces?: Float32Array;
}

/**
 * Finds where the labels of some features go: at each point, at the middle of the longest line, well inside the
 * largest polygon. Spots in the rim are left to the neighbouring tile.
 */
export function labelSpots(
  layer: CompiledLayer,
  block: FeatureBlock,
  features: ArrayLike<number>,
  place: Placement,
): LabelSpots {
  const textOf = labelTexts(layer, block);
  const rows: number[] = [];
  const texts: string[] = [];
  const places: number[] = [];
  const traces: number[] = [];
  const traceStarts: number[] = [];
  const along = layer.rules.some((rule) => rule.symbols.label?.along);
  for (let i = 0; i < features.length; i++) {
    const feature = features[i];
    const text = textOf(feature);
    if (!text) continue;
    if (along && block.kinds[feature] === Kind.line) {
      // The label is laid along the longest stretch inside the tile; neighbours of the same street share its key.
      const stretch = longestInside(block, feature);
      if (!stretch) continue;
      const [from, to] = stretch;
      traceStarts[rows.length] = traces.length / 2;
      for (let v = from; v < to; v++)
        traces.push(
          block.coords[2 * v] * place.scale + place.offsetX,
          place.offsetY - block.coords[2 * v + 1] * place.scale,
        );
      const [, [x, y]] = middleOf(block.coords, from, to);
      rows.push(feature);
      texts.push(text);
      places.push(x * place.scale + place.offsetX, place.offsetY - y * place.scale);
      continue;
    }
    for (const [x, y] of anchorsOf(block, feature)) {
      if (block.extent && (x < 0 || y < 0 || x >= block.extent || y >= block.extent)) continue;
      rows.push(feature);
      texts.push(text);
      places.push(x * place.scale + place.offsetX, place.offsetY - y * place.scale);
    }
  }
  const spots = { features: Uint32Array.from(rows), texts, places: Float32Array.from(places) };
  if (!along) return spots;
  for (let k = rows.length; k >= 0; k--) traceStarts[k] ??= traceStarts[k + 1] ?? traces.length / 2;
  return { ...spots, traceStarts: Uint32Array.from(traceStarts), traces: Float32Array.from(traces) };
}

/** The longest run of a line's vertices that lies inside the tile proper, as first and one past the last vertex. */
function longestInside(
  { coords, extent, partRings, ringStarts, featureParts }: FeatureBlock,
  feature: number,
): [number, number] | undefined {
  let best: [number, number] | undefined;
  let longest = 0;
  const consider = (from: number, to: number) => {
    if (to - from < 2) return;
    const [length] = middleOf(coords, from, to);
    if (length > longest) [longest, best] = [length, [from, to]];
  };
  for (let r = partRings[featureParts[feature]]; r < partRings[featureParts[feature + 1]]; r++) {
    let from = ringStarts[r];
    const end = ringStarts[r + 1];
    for (let v = from; v < end; v++) {
      const outside =
        extent > 0 &&
        (coords[2 * v] < 0 || coords[2 * v + 1] < 0 || coords[2 * v] > extent || coords[2 * v + 1] > extent);
      if (!outside) continue;
      // A vertex in the rim still ends the stretch before it.
      consider(from, v + 1);
      from = v;
    }
    consider(from, end);
  }
  return best;
}

function anchorsOf(block: FeatureBlock, feature: number): [number, number][] {
  const { coords, partRings, ringStarts, featureParts } = block;
  const kind = block.kinds[feature];
  const firstPart = featureParts[feature];
  const endPart = featureParts[feature + 1];
  if (kind === Kind.point) {
    const out: [number, number][] = [];
    for (let v = ringStarts[partRings[firstPart]]; v < ringStarts[partRings[endPart]]; v++)
      out.push([coords[2 * v], coords[2 * v + 1]]);
    return out;
  }
  if (kind === Kind.line) {
    let best: [number, number] | undefined;
    let longest = 0;
    for (let r = partRings[firstPart]; r < partRings[endPart]; r++) {
      const [length, middle] = middleOf(coords, ringStarts[r], ringStarts[r + 1]);
      if (length > longest) [longest, best] = [length, middle];
    }
    return best ? [best] : [];
  }
  let best: [number, number, number] | undefined;
  for (let p = firstPart; p < endPart; p++) {
    const inner = innerPoint(coords, ringStarts, partRings[p], partRings[p + 1]);
    if (!best || inner[2] > best[2]) best = inner;
  }
  return best ? [[best[0], best[1]]] : [];
}

function middleOf(coords: ArrayLike<number>, from: number, to: number): [number, [number, number]] {
  let length = 0;
  for (let i = from + 1; i < to; i++)
    length += Math.hypot(coords[2 * i] - coords[2 * i - 2], coords[2 * i + 1] - coords[2 * i - 1]);
  let rest = length / 2;
  for (let i = from + 1; i < to; i++) {
    const [dx, dy] = [coords[2 * i] - coords[2 * i - 2], coords[2 * i + 1] - coords[2 * i - 1]];
    const step = Math.hypot(dx, dy);
    if (rest <= step && step > 0)
      return [length, [coords[2 * i - 2] + (dx * rest) / step, coords[2 * i - 1] + (dy * rest) / step]];
    rest -= step;
  }
  return [length, [coords[2 * from], coords[2 * from + 1]]];
}
