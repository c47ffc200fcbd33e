import { Kind, type FeatureBlock } from '../features/block.js';

export const wrapped = (d: number) => d - 360 * Math.round(d / 360);

/** Whether a ring is a box along meridians and parallels. */
export function isBox(coords: ArrayLike<number>, from: number, to: number): boolean {
  if (to - from !== 4) return false;
  const sides = [0, 1].map((axis) => new Set([0, 1, 2, 3].map((k) => coords[2 * (from + k) + axis])).size);
  return sides[0] === 2 && sides[1] === 2;
}

/**
 * A lon/lat block whose lines and rings run on across the antimeridian instead of leaping back over the whole world, and whose rings
 * round a pole are closed by way of it. An edge longer than half way round is taken the short way, as nobody draws the other; only boxes
 * of four corners, and edges from one side of the antimeridian to the other, mean what they say (RFC 7946, section 3.1.9). The same
 * block where nothing leaps.
 */
export function unwrapped(block: FeatureBlock): FeatureBlock {
  const { coords, ringStarts, kinds, featureParts, partRings } = block;
  const leaps: boolean[] = [];
  let any = false;
  for (let f = 0; f < block.count; f++) {
    if (kinds[f] === Kind.point) continue;
    for (let r = partRings[featureParts[f]]; r < partRings[featureParts[f + 1]]; r++) {
      const closed = kinds[f] === Kind.polygon;
      const [from, to] = [ringStarts[r], ringStarts[r + 1]];
      if (closed && isBox(coords, from, to)) continue;
      for (let i = from + 1; i < to + (closed ? 1 : 0); i++) {
        const d = Math.abs(coords[2 * (i < to ? i : from)] - coords[2 * i - 2]);
        if (d > 180 && d < 360) leaps[r] = any = true;
      }
    }
  }
  if (!any) return block;
  const out: number[] = [];
  const starts = new Uint32Array(ringStarts.length);
  const along: number[] = [];
  let f = 0;
  for (let r = 0; r + 1 < ringStarts.length; r++) {
    while (partRings[featureParts[f + 1]] <= r) f++;
    starts[r] = out.length / 2;
    const [from, to] = [ringStarts[r], ringStarts[r + 1]];
    for (let i = from; i < to; i++) {
      const before = out[out.length - 2];
      const lon = coords[2 * i];
      const runs = leaps[r] && i > from;
      out.push(runs ? before + wrapped(lon - before) : lon, coords[2 * i + 1]);
      if (block.along) along.push(block.along[i]);
    }
    if (leaps[r] && kinds[f] === Kind.polygon) {
      const [first, last] = [out[2 * starts[r]], out[out.length - 2]];
      const round = Math.round((last + wrapped(first - last) - first) / 360);
      if (round) {
        // It goes round the pole that it lies nearer to.
        let sum = 0;
        for (let i = from; i < to; i++) sum += coords[2 * i + 1];
        const pole = sum >= 0 ? 90 : -90;
        out.push(first + 360 * round, out[2 * starts[r] + 1], first + 360 * round, pole, first, pole);
      }
    }
  }
  starts[ringStarts.length - 1] = out.length / 2;
  return {
    ...block,
    coords: Float64Array.from(out),
    ringStarts: starts,
    ...(block.along && along.length === out.length / 2 ? { along: Float32Array.from(along) } : {}),
  };
}
