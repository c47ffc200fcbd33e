import { insideRings, squaredDistanceToSegment } from '../geometry/rings.js';
import { Kind, type FeatureBlock } from './block.js';

/** Pixels across and down for one unit of a block's coordinates to the right, and for one downwards: the scale at a place, which may differ by direction. */
export type PixelScale = readonly [acrossX: number, downX: number, acrossY: number, downY: number];

/**
 * Whether feature `index` of a block lies within `reach` of a place: inside a polygon or near its edge, near a line, near a point.
 *
 * @param at x and y in the units of the block's coordinates
 * @param reach in pixels
 * @param scale pixels per unit at the place
 * @param aside by how many pixels the drawn path lies to the right of the feature's
 */
export function featureNear(
  block: FeatureBlock,
  index: number,
  [x, y]: readonly [number, number],
  reach: number,
  scale: PixelScale,
  aside = 0,
): boolean {
  const { coords, partRings, ringStarts, featureParts } = block;
  const [ax, dx, ay, dy] = scale;
  const across = (i: number) => ax * (coords[2 * i] - x) + ay * (coords[2 * i + 1] - y);
  const down = (i: number) => dx * (coords[2 * i] - x) + dy * (coords[2 * i + 1] - y);
  const pathNear = (from: number, to: number, closed: boolean): boolean => {
    const first = closed || to - from === 1 ? to - 1 : from;
    let [u, v] = [across(first), down(first)];
    for (let i = closed || to - from === 1 ? from : from + 1; i < to; i++) {
      const [nextU, nextV] = [across(i), down(i)];
      const length = aside && Math.hypot(nextU - u, nextV - v);
      const [du, dv] = length ? [(-(nextV - v) * aside) / length, ((nextU - u) * aside) / length] : [0, 0];
      if (squaredDistanceToSegment(0, 0, u + du, v + dv, nextU + du, nextV + dv) <= reach * reach) return true;
      [u, v] = [nextU, nextV];
    }
    return false;
  };
  const kind = block.kinds[index];
  for (let p = featureParts[index]; p < featureParts[index + 1]; p++) {
    const from = partRings[p];
    const to = partRings[p + 1];
    if (kind === Kind.polygon && insideRings(coords, ringStarts, from, to, x, y)) return true;
    if (kind === Kind.polygon && reach <= 0) continue;
    for (let r = from; r < to; r++) {
      if (pathNear(ringStarts[r], ringStarts[r + 1], kind === Kind.polygon)) return true;
    }
  }
  return false;
}
