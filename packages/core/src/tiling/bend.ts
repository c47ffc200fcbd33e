import { Kind, type FeatureBlock } from '../features/block.js';
import type { SquareGrid } from '../grid/square.js';
import { isBox, wrapped } from './unwrap.js';

const radians = Math.PI / 180;
/** Meters that an edge may lie away from where it belongs. */
const tolerance = 0.5;
/** Most pieces of one edge. */
const mostPieces = 4096;

/**
 * A lon/lat block with points along its edges, for a grid in which parallels are curves. Edges stay straight in longitude and latitude; one longer than
 * half way round is taken the short way, as in `unwrapped`.
 */
export function bent(block: FeatureBlock, grid: SquareGrid): FeatureBlock {
  const { coords, ringStarts, kinds, featureParts, partRings } = block;
  const out: number[] = [];
  const along: number[] = [];
  const starts = new Uint32Array(ringStarts.length);
  let f = 0;
  for (let r = 0; r + 1 < ringStarts.length; r++) {
    while (partRings[featureParts[f + 1]] <= r) f++;
    starts[r] = out.length / 2;
    const [from, to] = [ringStarts[r], ringStarts[r + 1]];
    const closed = kinds[f] === Kind.polygon;
    const literal = closed && isBox(coords, from, to);
    for (let i = from; i < to; i++) {
      const [lon, lat] = [coords[2 * i], coords[2 * i + 1]];
      out.push(lon, lat);
      if (block.along) along.push(block.along[i]);
      const next = i + 1 < to ? i + 1 : closed ? from : undefined;
      if (kinds[f] === Kind.point || next === undefined) continue;
      const [across, up] = [coords[2 * next] - lon, coords[2 * next + 1] - lat];
      const turn = literal || Math.abs(across) >= 360 ? across : wrapped(across);
      const radius = Math.max(Math.hypot(...grid.at(lon, lat)), Math.hypot(...grid.at(lon, lat + up)));
      // The sagitta of an arc of angle a is r (1 − cos a/2), about r a²/8.
      const step = Math.sqrt((8 * tolerance) / Math.max(radius, tolerance));
      const pieces = Math.min(mostPieces, Math.ceil((Math.abs(turn) * radians) / step));
      for (let k = 1; k < pieces; k++) {
        out.push(lon + (turn * k) / pieces, lat + (up * k) / pieces);
        if (block.along) along.push(block.along[i] + ((block.along[next] - block.along[i]) * k) / pieces);
      }
    }
  }
  starts[ringStarts.length - 1] = out.length / 2;
  return {
    ...block,
    coords: Float64Array.from(out),
    ringStarts: starts,
    ...(block.along ? { along: Float32Array.from(along) } : {}),
  };
}
