import { innerPoint } from '../geometry/inner-point.js';
import { Kind, type FeatureBlock } from './block.js';

/** Shapes of features, as blocks and cuts hold them. */
export type Shapes = Pick<FeatureBlock, 'kinds' | 'featureParts' | 'partRings' | 'ringStarts' | 'coords'>;

/** Where the one label of a line or polygon goes: the middle of the longest line, well inside the largest polygon. */
export function labelPlace(shapes: Shapes, feature: number): [number, number] | undefined {
  const { kinds, featureParts, partRings, ringStarts, coords } = shapes;
  const [firstPart, endPart] = [featureParts[feature], featureParts[feature + 1]];
  if (kinds[feature] === Kind.line) {
    let best: [number, number] | undefined;
    let longest = 0;
    for (let r = partRings[firstPart]; r < partRings[endPart]; r++) {
      const [length, middle] = middleOfPath(coords, ringStarts[r], ringStarts[r + 1]);
      if (length > longest) [longest, best] = [length, middle];
    }
    return best;
  }
  let best: [number, number, number] | undefined;
  for (let p = firstPart; p < endPart; p++) {
    const inner = innerPoint(coords, ringStarts, partRings[p], partRings[p + 1]);
    if (!best || inner[2] > best[2]) best = inner;
  }
  return best && [best[0], best[1]];
}

/** Length of a path of vertices `from` to `to` (excluded), and the place half-way along it. */
export function middleOfPath(coords: ArrayLike<number>, from: number, to: number): [number, [number, number]] {
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
