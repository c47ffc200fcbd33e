import { append } from '../base/lists.js';
import { Kind, type FeatureBlock } from '../features/block.js';

const radians = Math.PI / 180;
/** Degrees of arc between points that are added. */
const step = 1;

/** A lon/lat block whose edges follow great circles: points are added every degree of the way, longitudes run on across the antimeridian. */
export function greatCircles(block: FeatureBlock): FeatureBlock {
  const { coords, ringStarts, kinds, featureParts, partRings } = block;
  const out: number[] = [];
  const starts = new Uint32Array(ringStarts.length);
  let f = 0;
  for (let r = 0; r + 1 < ringStarts.length; r++) {
    while (partRings[featureParts[f + 1]] <= r) f++;
    starts[r] = out.length / 2;
    const [from, to] = [ringStarts[r], ringStarts[r + 1]];
    const closed = kinds[f] === Kind.polygon;
    const bends = kinds[f] !== Kind.point;
    for (let i = from; i < to; i++) {
      out.push(coords[2 * i], coords[2 * i + 1]);
      const next = i + 1 < to ? i + 1 : closed ? from : undefined;
      if (bends && next !== undefined)
        append(out, arc(coords[2 * i], coords[2 * i + 1], coords[2 * next], coords[2 * next + 1]));
    }
  }
  starts[ringStarts.length - 1] = out.length / 2;
  const { along: _, ...rest } = block;
  return { ...rest, coords: Float64Array.from(out), ringStarts: starts };
}

/** The points between two places on their great circle, without the ends. */
function arc(lon1: number, lat1: number, lon2: number, lat2: number): number[] {
  const unit = (lon: number, lat: number) => {
    const c = Math.cos(lat * radians);
    return [c * Math.cos(lon * radians), c * Math.sin(lon * radians), Math.sin(lat * radians)];
  };
  const [a, b] = [unit(lon1, lat1), unit(lon2, lat2)];
  const cross = Math.hypot(a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]);
  const angle = Math.atan2(cross, a[0] * b[0] + a[1] * b[1] + a[2] * b[2]);
  const count = Math.ceil(angle / radians / step);
  const out: number[] = [];
  // Opposite places have no shortest way between them.
  if (cross < 1e-12) return out;
  for (let k = 1; k < count; k++) {
    const [p, q] = [Math.sin(angle * (1 - k / count)), Math.sin((angle * k) / count)];
    const [x, y, z] = [0, 1, 2].map((i) => p * a[i] + q * b[i]);
    out.push(Math.atan2(y, x) / radians, Math.atan2(z, Math.hypot(x, y)) / radians);
  }
  return out;
}
