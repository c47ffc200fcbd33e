import { liesIn, type Path } from './clip.js';

/** Sharpest turn that marks along a line follow, in radians; a stretch of marks ends where the line turns more sharply. */
const sharpest = 0.35;
const hair = 1e-6;

/**
 * The shares of a segment between which it lies inside some rings: the longest such piece. All of it where there are no rings, undefined
 * where it lies outside.
 */
export function insideOf(
  rings: readonly Path[],
  ax: number,
  ay: number,
  bx: number,
  by: number,
): readonly [number, number] | undefined {
  if (!rings.length) return [0, 1];
  const cuts = [0, 1];
  for (const ring of rings)
    for (let i = 0, j = ring.length - 2; i < ring.length; j = i, i += 2) {
      const [ex, ey] = [ring[i] - ring[j], ring[i + 1] - ring[j + 1]];
      const cross = (bx - ax) * ey - (by - ay) * ex;
      if (!cross) continue;
      const t = ((ring[j] - ax) * ey - (ring[j + 1] - ay) * ex) / cross;
      const s = ((ring[j] - ax) * (by - ay) - (ring[j + 1] - ay) * (bx - ax)) / cross;
      if (t > 0 && t < 1 && s >= 0 && s <= 1) cuts.push(t);
    }
  cuts.sort((a, b) => a - b);
  let best: readonly [number, number] | undefined;
  for (let i = 1; i < cuts.length; i++) {
    const [from, to] = [cuts[i - 1], cuts[i]];
    const middle = (from + to) / 2;
    const place: Path = [ax + (bx - ax) * middle, ay + (by - ay) * middle];
    if (to - from > (best ? best[1] - best[0] : 0) && rings.some((ring) => liesIn(place, ring))) best = [from, to];
  }
  return best;
}

/**
 * Divides a path into stretches along which marks stand: a stretch ends where the path leaves the tile and where it turns sharply, so that
 * no mark is cut there. Writes the distances along the path at which the stretch of each segment begins and ends, two numbers for each
 * segment; both are 0 where a segment carries no marks.
 *
 * @param path x and y of the vertices, interleaved
 * @param along distance of each vertex along the path
 * @param ground rings of the tile, in the units of the path; none where nothing bounds it
 */
export function markSpans(
  path: ArrayLike<number>,
  along: ArrayLike<number>,
  ground: readonly Path[],
  out: number[],
): void {
  const segments = path.length / 2 - 1;
  const first = out.length;
  for (let k = 0; k < 2 * segments; k++) out.push(0);
  let members = 0;
  let from = 0;
  let to = 0;
  const end = (next: number) => {
    for (let k = next - members; k < next; k++) {
      out[first + 2 * k] = from;
      out[first + 2 * k + 1] = to;
    }
    members = 0;
  };
  for (let k = 0; k < segments; k++) {
    const [ax, ay, bx, by] = [path[2 * k], path[2 * k + 1], path[2 * k + 2], path[2 * k + 3]];
    const inside = insideOf(ground, ax, ay, bx, by);
    if (members && (!inside || inside[0] > hair || turnAt(path, k) > sharpest)) end(k);
    if (!inside) continue;
    const run = along[k + 1] - along[k];
    if (!members) from = along[k] + run * inside[0];
    to = along[k] + run * inside[1];
    members++;
    if (inside[1] < 1 - hair) end(k + 1);
  }
  end(segments);
}

/** How much a path turns at a vertex, in radians. */
function turnAt(path: ArrayLike<number>, k: number): number {
  const [ux, uy] = [path[2 * k] - path[2 * k - 2], path[2 * k + 1] - path[2 * k - 1]];
  const [vx, vy] = [path[2 * k + 2] - path[2 * k], path[2 * k + 3] - path[2 * k + 1]];
  return Math.abs(Math.atan2(ux * vy - uy * vx, ux * vx + uy * vy));
}
