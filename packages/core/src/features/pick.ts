import { distanceToPath, insideRings } from '../geometry/rings.js';
import { Kind, type FeatureBlock } from './block.js';

/**
 * Whether feature `index` of a block lies within `reach` of a place: inside a polygon or near its edge, near a
 * line, near a point. All in the units of the block's coordinates.
 */
export function featureNear(block: FeatureBlock, index: number, x: number, y: number, reach: number): boolean {
  const { coords, partRings, ringStarts, featureParts } = block;
  const kind = block.kinds[index];
  for (let p = featureParts[index]; p < featureParts[index + 1]; p++) {
    const from = partRings[p];
    const to = partRings[p + 1];
    if (kind === Kind.polygon && insideRings(coords, ringStarts, from, to, x, y)) return true;
    if (kind === Kind.polygon && reach <= 0) continue;
    for (let r = from; r < to; r++) {
      if (distanceToPath(coords, ringStarts[r], ringStarts[r + 1], kind === Kind.polygon, x, y) <= reach) return true;
    }
  }
  return false;
}
