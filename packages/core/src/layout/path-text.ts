/** A piece of text on a path: the middle of the piece in pixels, and its turn in radians clockwise. */
export interface PathPiece {
  readonly x: number;
  readonly y: number;
  readonly turn: number;
}

/**
 * Lays `count` pieces of equal length along a path on the screen, in the middle of it and so that the text reads
 * from left to right. Undefined where the path is too short or bends too sharply for the text.
 *
 * @param path x, y by turns, in pixels, y down
 * @param length of the whole text in pixels
 * @param sharpest greatest bend between neighbouring pieces in radians; default 0.5
 */
export function layAlong(
  path: ArrayLike<number>,
  length: number,
  count: number,
  sharpest = 0.5,
): PathPiece[] | undefined {
  const vertices = path.length / 2;
  let total = 0;
  for (let i = 1; i < vertices; i++)
    total += Math.hypot(path[2 * i] - path[2 * i - 2], path[2 * i + 1] - path[2 * i - 1]);
  if (total < length) return undefined;
  const start = (total - length) / 2;
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
