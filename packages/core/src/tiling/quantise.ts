import { growingCounts, growingDoubles } from '../base/growing.js';
import { gather, Kind, type FeatureBlock } from '../features/block.js';
import { doubleArea } from '../geometry/rings.js';
import type { TileAddress } from '../grid/address.js';
import type { Cut } from './cut.js';

export interface QuantiseOptions {
  /** Tile units across a tile; default 4096. */
  readonly extent: number;
  /** Distance in tile units below which a vertex is dropped; 0 keeps all. */
  readonly tolerance: number;
  /** Tile units in one pixel: smaller polygons, shorter lines and further points of that pixel are dropped; 0 keeps all. */
  readonly pixel: number;
}

/** Tens of thousands of tiles are written in the same room, one after the other. */
const room = {
  coords: growingDoubles(512),
  ringStarts: growingCounts(64),
  partRings: growingCounts(64),
  featureParts: growingCounts(64),
  rows: growingCounts(64),
};

/**
 * One tile of a cut, in whole tile units: vertices of too little significance, repeated vertices, rings
 * without area and features smaller than a pixel are dropped. Ids, attributes and winding are kept.
 */
export function quantise(
  cut: Cut,
  source: FeatureBlock,
  { z, x, y }: TileAddress,
  options: QuantiseOptions,
): FeatureBlock | undefined {
  if (cut.count === 0) return undefined;
  const { extent, pixel } = options;
  const scale = 2 ** z * extent;
  const offsetX = x * extent;
  const offsetY = y * extent;
  const threshold = (options.tolerance / scale) ** 2;
  const leastArea = 2 * pixel * pixel;
  const { coords, ringStarts, partRings, featureParts, rows } = room;
  for (const list of [ringStarts, partRings, featureParts, rows]) list.restart();
  coords.restart();
  const taken = new Set<number>();
  const along = cut.along ? new Float32Array(cut.marks.length) : undefined;

  const run = (from: number, to: number): number => {
    const start = coords.length;
    const data = coords.reserve(2 * (to - from));
    let n = start;
    let px = NaN;
    let py = NaN;
    for (let i = from; i < to; i++) {
      if (cut.marks[i] < threshold) continue;
      const qx = Math.round(cut.coords[2 * i] * scale - offsetX);
      const qy = Math.round(cut.coords[2 * i + 1] * scale - offsetY);
      if (qx === px && qy === py) continue;
      if (along) along[n / 2] = cut.along![i];
      data[n++] = px = qx;
      data[n++] = py = qy;
    }
    coords.length = n;
    return (n - start) / 2;
  };

  for (let f = 0; f < cut.count; f++) {
    const kind = cut.kinds[f];
    const partMark = partRings.length;
    const ringMark = ringStarts.length;
    const coordMark = coords.length;
    let long = 0;
    for (let p = cut.featureParts[f]; p < cut.featureParts[f + 1]; p++) {
      const partStart = ringStarts.length;
      const firstRing = cut.partRings[p];
      for (let r = firstRing; r < cut.partRings[p + 1]; r++) {
        const start = coords.length;
        let count = run(cut.ringStarts[r], cut.ringStarts[r + 1]);
        let keep = true;
        if (kind === Kind.polygon) {
          const last = coords.length - 2;
          if (
            count > 1 &&
            coords.data[start] === coords.data[last] &&
            coords.data[start + 1] === coords.data[last + 1]
          ) {
            coords.length -= 2;
            count--;
          }
          const area = doubleArea(coords.data, start / 2, start / 2 + count);
          // Tile space turns y down, so outer rings (counter-clockwise on the ground) come out negative.
          keep = count >= 3 && Math.abs(area) > leastArea;
          if (keep && area > 0 !== (r === firstRing)) reverse(coords.data, start, coords.length);
        } else if (kind === Kind.line) {
          for (let i = start + 2; i < coords.length; i += 2)
            long += Math.abs(coords.data[i] - coords.data[i - 2]) + Math.abs(coords.data[i + 1] - coords.data[i - 1]);
          keep = count >= 2;
        } else if (pixel > 0) {
          const cell = Math.floor(coords.data[start] / pixel) * 65536 + Math.floor(coords.data[start + 1] / pixel);
          keep = !taken.has(cell);
          taken.add(cell);
        }
        if (!keep) {
          coords.length = start;
          if (kind === Kind.polygon && r === firstRing) break;
          continue;
        }
        if (kind !== Kind.polygon) partRings.push(ringStarts.length);
        ringStarts.push(start / 2);
      }
      if (kind === Kind.polygon && ringStarts.length > partStart) partRings.push(partStart);
    }
    if (partRings.length === partMark || (kind === Kind.line && long < pixel)) {
      partRings.length = partMark;
      ringStarts.length = ringMark;
      coords.length = coordMark;
      continue;
    }
    featureParts.push(partMark);
    rows.push(f);
  }
  if (rows.length === 0) return undefined;
  featureParts.push(partRings.length);
  partRings.push(ringStarts.length);
  ringStarts.push(coords.length / 2);
  const kept = rows.finish();
  const kinds = new Uint8Array(kept.length);
  const ids = new Float64Array(kept.length);
  for (let i = 0; i < kept.length; i++) {
    kinds[i] = cut.kinds[kept[i]];
    kept[i] = cut.rows[kept[i]];
    ids[i] = source.ids[kept[i]];
  }
  return {
    name: source.name,
    space: 'tile',
    extent,
    count: kept.length,
    kinds,
    ids,
    featureParts: featureParts.finish(),
    partRings: partRings.finish(),
    ringStarts: ringStarts.finish(),
    coords: new Int32Array(coords.data.subarray(0, coords.length)),
    columns: source.columns.map((column) => gather(column, kept)),
    ...(along ? { along: along.slice(0, coords.length / 2) } : {}),
  };
}

function reverse(data: Float64Array, from: number, to: number): void {
  for (let i = from, j = to - 2; i < j; i += 2, j -= 2) {
    const [x, y] = [data[i], data[i + 1]];
    data[i] = data[j];
    data[i + 1] = data[j + 1];
    data[j] = x;
    data[j + 1] = y;
  }
}
