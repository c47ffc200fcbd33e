import { findColumn, Kind, valueAt, type FeatureBlock } from '../features/block.js';
import { rowName } from '../features/keys.js';
import { doubleArea } from '../geometry/rings.js';
import { areaCurve } from './area-curve.js';
import { labelPlace, middleOfPath } from '../features/label-place.js';
import type { Placement } from '../mesh/tile-mesh.js';
import { labelTexts } from '../sheet/portray.js';
import type { CompiledLayer } from '../sheet/compile.js';

/** Places for labels of one layer in one tile. */
export interface LabelAnchors {
  /** Row of the block for each spot. */
  readonly features: Uint32Array;
  readonly texts: readonly string[];
  /** x, y in meters of the surface from the tile's anchor. */
  readonly places: Float32Array;
  /** For labels along lines: where the line of each spot begins in `traces` (in vertices), with one further entry. */
  readonly traceStarts?: Uint32Array;
  /** x, y of the lines' vertices, as `places`. */
  readonly traces?: Float32Array;
}

/**
 * Where the label of a feature goes as a whole, by its number: parts of the square world, x to the east and y to the south, and how large
 * the feature is; undefined where nothing is known of it.
 */
export type Wholes = (row: number) => readonly [x: number, y: number, size: number] | undefined;

/** Tiles across from which on a feature has a label in every piece: its middle is seldom in view then. */
const large = 2;

/**
 * Finds where the labels of some features go: at each point, at the middle of the longest line, well inside the
 * largest polygon; those that follow their feature also get the path that they follow. Spots in the rim are left to the neighboring tile. Where whole features are known, the labels of those that are
 * not large stand in one place on all levels, and other tiles have none.
 */
export function labelAnchorsOf(
  layer: CompiledLayer,
  block: FeatureBlock,
  features: ArrayLike<number>,
  place: Placement,
  wholes?: Wholes,
): LabelAnchors {
  const textOf = labelTexts(layer, block);
  const wholeOf = wholePlaces(block, wholes);
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
    const course = along ? courseOf(block, feature) : undefined;
    if (along && block.kinds[feature] === Kind.line && !course) continue;
    if (course) {
      traceStarts[rows.length] = traces.length / 2;
      for (let k = 0; k < course.length; k += 2)
        traces.push(course[k] * place.scale + place.offsetX, place.offsetY - course[k + 1] * place.scale);
      const [, [x, y]] = middleOfPath(course, 0, course.length / 2);
      rows.push(feature);
      texts.push(text);
      places.push(x * place.scale + place.offsetX, place.offsetY - y * place.scale);
      continue;
    }
    const whole = wholeOf(feature);
    for (const [x, y] of whole ? [whole] : anchorsOf(block, feature)) {
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

/**
 * The path that a label follows: the longest stretch of a line inside the tile (neighbors of the same street share its name), or the
 * curve of the largest part of an area. Undefined for points and for lines and areas that have none.
 */
function courseOf(block: FeatureBlock, feature: number): ArrayLike<number> | undefined {
  const { coords, kinds, featureParts, partRings, ringStarts } = block;
  if (kinds[feature] === Kind.line) {
    const stretch = longestInside(block, feature);
    return stretch && coords.subarray(2 * stretch[0], 2 * stretch[1]);
  }
  if (kinds[feature] !== Kind.polygon) return undefined;
  let largest: ArrayLike<number>[] = [];
  let most = 0;
  for (let part = featureParts[feature]; part < featureParts[feature + 1]; part++) {
    const rings = Array.from({ length: partRings[part + 1] - partRings[part] }, (_, k) =>
      coords.subarray(2 * ringStarts[partRings[part] + k], 2 * ringStarts[partRings[part] + k + 1]),
    );
    const outer = partRings[part];
    const area = Math.abs(doubleArea(coords, ringStarts[outer], ringStarts[outer + 1]));
    if (area > most) [most, largest] = [area, rings];
  }
  return largest.length ? areaCurve(largest) : undefined;
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
    const [length] = middleOfPath(coords, from, to);
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
  if (block.kinds[feature] !== Kind.point) {
    const place = labelPlace(block, feature);
    return place ? [place] : [];
  }
  const out: [number, number][] = [];
  for (let v = ringStarts[partRings[featureParts[feature]]]; v < ringStarts[partRings[featureParts[feature + 1]]]; v++)
    out.push([coords[2 * v], coords[2 * v + 1]]);
  return out;
}

/** Where the labels of whole features go in tile units; undefined where only the piece in the tile is known. */
function wholePlaces(
  block: FeatureBlock,
  wholes: Wholes | undefined,
): (feature: number) => [number, number] | undefined {
  const rows = findColumn(block, rowName);
  const { tile } = block;
  if (!wholes || !rows || !tile) return () => undefined;
  const { z, x, y } = tile;
  return (feature) => {
    const row = valueAt(rows, feature);
    const at = typeof row === 'number' && block.kinds[feature] !== Kind.point ? wholes(row) : undefined;
    return at && at[2] * 2 ** z <= large
      ? [(at[0] * 2 ** z - x) * block.extent, (at[1] * 2 ** z - y) * block.extent]
      : undefined;
  };
}
