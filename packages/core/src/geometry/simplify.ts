/**
 * Marks every vertex of a path with how much it matters: the squared distance at which the Douglas-Peucker
 * method (Douglas and Peucker 1973) would drop it. Keeping the vertices whose mark exceeds a squared tolerance
 * gives the same path as running the method with that tolerance, so one pass serves every zoom level. The two
 * ends are marked Infinity; of a closed ring so are the vertex farthest from the first, and the first.
 *
 * @param coords x, y by turns
 * @param out one mark a vertex, at the vertex's own index
 */
export function markSignificance(
  coords: ArrayLike<number>,
  from: number,
  to: number,
  closed: boolean,
  out: Float64Array,
): void {
  const count = to - from;
  if (count <= 0) return;
  out[from] = Infinity;
  if (count === 1) return;
  if (!closed) {
    out[to - 1] = Infinity;
    split(coords, from, to - 1, from, count, out);
    return;
  }
  let far = from;
  let farthest = -1;
  for (let i = from + 1; i < to; i++) {
    const d = (coords[2 * i] - coords[2 * from]) ** 2 + (coords[2 * i + 1] - coords[2 * from + 1]) ** 2;
    if (d > farthest) [far, farthest] = [i, d];
  }
  out[far] = Infinity;
  split(coords, from, far, from, count, out);
  split(coords, far, to, from, count, out);
}

const stack: number[] = [];

/** Marks the vertices strictly between `first` and `last`; index `from + count` stands for `from` (a closed ring). */
function split(
  coords: ArrayLike<number>,
  first: number,
  last: number,
  from: number,
  count: number,
  out: Float64Array,
): void {
  stack.length = 0;
  stack.push(first, last, Infinity);
  while (stack.length) {
    const limit = stack.pop()!;
    const b = stack.pop()!;
    const a = stack.pop()!;
    if (b - a < 2) continue;
    const bi = b === from + count ? from : b;
    const ax = coords[2 * a];
    const ay = coords[2 * a + 1];
    const dx = coords[2 * bi] - ax;
    const dy = coords[2 * bi + 1] - ay;
    const length2 = dx * dx + dy * dy;
    let worst = -1;
    let at = a + 1;
    for (let i = a + 1; i < b; i++) {
      const px = coords[2 * i] - ax;
      const py = coords[2 * i + 1] - ay;
      let d: number;
      if (length2 === 0) d = px * px + py * py;
      else {
        const t = (px * dx + py * dy) / length2;
        if (t <= 0) d = px * px + py * py;
        else if (t >= 1) d = (px - dx) * (px - dx) + (py - dy) * (py - dy);
        else {
          const cross = px * dy - py * dx;
          d = (cross * cross) / length2;
        }
      }
      if (d > worst) [worst, at] = [d, i];
    }
    // A vertex may not outlast the one whose split brought it in.
    const mark = Math.min(worst, limit);
    out[at] = mark;
    stack.push(a, at, mark, at, b, mark);
  }
}
