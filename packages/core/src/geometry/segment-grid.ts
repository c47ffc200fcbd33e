/** A straight edge. */
export interface Segment {
  readonly x1: number;
  readonly y1: number;
  readonly x2: number;
  readonly y2: number;
}

/**
 * Pairs of segments that share a cell of a grid whose cells are twice as wide as the mean segment: all that may meet, in an order that
 * depends on theirs alone. A pair comes once for each cell that it shares.
 *
 * @param segments any number
 * @param slack how near to a cell, in their units, counts as in it; default 0
 */
export function* nearPairs<T extends Segment>(segments: readonly T[], slack = 0): Generator<[T, T]> {
  let sum = 0;
  for (const { x1, y1, x2, y2 } of segments) sum += Math.max(Math.abs(x2 - x1), Math.abs(y2 - y1));
  const cell = Math.max(1e-9, 8 * slack, (2 * sum) / Math.max(1, segments.length));
  const grid = new Map<string, T[]>();
  const first = (a: number, b: number) => Math.floor((Math.min(a, b) - slack) / cell);
  const last = (a: number, b: number) => Math.floor((Math.max(a, b) + slack) / cell);
  for (const segment of segments) {
    const { x1, y1, x2, y2 } = segment;
    const slope = x2 === x1 ? 0 : (y2 - y1) / (x2 - x1);
    for (let x = first(x1, x2); x <= last(x1, x2); x++) {
      // Only the cells that the segment passes through, column by column.
      const from = Math.max(Math.min(x1, x2), x * cell - slack);
      const to = Math.min(Math.max(x1, x2), (x + 1) * cell + slack);
      const [low, high] = x2 === x1 ? [y1, y2] : [y1 + slope * (from - x1), y1 + slope * (to - x1)];
      for (let y = first(low, high); y <= last(low, high); y++) {
        const key = `${x},${y}`;
        const there = grid.get(key);
        if (!there) grid.set(key, [segment]);
        else {
          for (const other of there) yield [other, segment];
          there.push(segment);
        }
      }
    }
  }
}

/**
 * Where two segments meet: in one point; undefined where they do not, or lie on one line.
 *
 * @param a one
 * @param b the other
 * @param slack how far beyond their ends, as shares of their lengths, still counts; default 0
 * @returns the point, and how far along each segment it lies, 0 to 1
 */
export function meetingOf(
  a: Segment,
  b: Segment,
  [slackA, slackB]: readonly [number, number] = [0, 0],
): { readonly at: [number, number]; readonly t: number; readonly u: number } | undefined {
  const [ax, ay, bx, by] = [a.x2 - a.x1, a.y2 - a.y1, b.x2 - b.x1, b.y2 - b.y1];
  const cross = ax * by - ay * bx;
  if (cross === 0) return undefined;
  const t = ((b.x1 - a.x1) * by - (b.y1 - a.y1) * bx) / cross;
  const u = ((b.x1 - a.x1) * ay - (b.y1 - a.y1) * ax) / cross;
  if (t < -slackA || t > 1 + slackA || u < -slackB || u > 1 + slackB) return undefined;
  return { at: [a.x1 + t * ax, a.y1 + t * ay], t, u };
}
