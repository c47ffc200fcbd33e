/** A piece of text on a path: the middle of the piece in pixels, and its turn in radians clockwise. */
export interface PathPiece {
  readonly x: number;
  readonly y: number;
  readonly turn: number;
}

/**
 * Lays `count` pieces of equal length along a path on the screen, around a place on it and so that the text reads
 * from left to right. Undefined where the path is too short or bends too sharply for the text.
 *
 * @param path x, y by turns, in pixels, y down
 * @param length of the whole text in pixels
 * @param sharpest greatest bend between neighbouring pieces in radians; default 0.5
 * @param around share of the path's length at which the middle of the text lies; default 0.5
 */
export function layAlong(
  path: ArrayLike<number>,
  length: number,
  count: number,
  sharpest = 0.5,
  around = 0.5,
): PathPiece[] | undefined {
  const vertices = path.length / 2;
  let total = 0;
  for (let i = 1; i < vertices; i++)
    total += Math.hypot(path[2 * i] - path[2 * i - 2], path[2 * i + 1] - path[2 * i - 1]);
  const start = total * around - length / 2;
  if (start < 0 || start + length > total) return undefined;
  const points: [number, number][] = [];
  let run = 0;
  let i = 1;
  for (let k = 0; k <= count; k++) {
    const wanted = start + (length * k) / count;
    let step = Math.hypot(path[2 * i] - path[2 * i - 2], path[2 * i + 1] - path[2 * i - 1]);
    while (run + step < wanted && i < vertices - 1) {
      run += step;
      i++;
      step = Math.hypot(path[2 * i] - path[2 * i - 2], path[2 * i + 1] - path[2 * i - 1]);
    }
    const t = step > 0 ? Math.min(1, (wanted - run) / step) : 0;
    points.push([
      path[2 * i - 2] + (path[2 * i] - path[2 * i - 2]) * t,
      path[2 * i - 1] + (path[2 * i + 1] - path[2 * i - 1]) * t,
    ]);
  }
  if (points[count][0] < points[0][0]) points.reverse();
  const pieces: PathPiece[] = [];
  for (let k = 0; k < count; k++) {
    const [ax, ay] = points[k];
    const [bx, by] = points[k + 1];
    const turn = Math.atan2(by - ay, bx - ax);
    const bend = k ? Math.abs(((turn - pieces[k - 1].turn + 3 * Math.PI) % (2 * Math.PI)) - Math.PI) : 0;
    if (bend > sharpest) return undefined;
    pieces.push({ x: (ax + bx) / 2, y: (ay + by) / 2, turn });
  }
  return pieces;
}

/**
 * Places along a path of a length in pixels at which a text may stand, as shares of the length: the middle first, then the
 * middles of the halves and so on, as long as they lie well apart. The same places come back when the path grows.
 */
export function placesAlong(length: number, apart = 420): number[] {
  const out = [0.5];
  for (let parts = 4; length / parts >= apart && parts <= 64; parts *= 2)
    for (let i = 1; i < parts; i += 2) out.push(i / parts);
  return out;
}
