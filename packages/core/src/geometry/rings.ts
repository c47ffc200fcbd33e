type Numbers = ArrayLike<number>;

/**
 * Twice the signed area of a ring by the surveyor's formula, in the units of its coordinates squared. With y
 * up, positive means counter-clockwise; with y down (tile space), positive means clockwise on screen.
 *
 * @param coords x, y by turns
 * @param from index of the first vertex
 * @param to index one past the last vertex; the ring closes by itself
 */
export function doubleArea(coords: Numbers, from: number, to: number): number {
  if (to - from < 3) return 0;
  const x0 = coords[2 * from];
  const y0 = coords[2 * from + 1];
  let sum = 0;
  let px = coords[2 * to - 2] - x0;
  let py = coords[2 * to - 1] - y0;
  for (let i = from; i < to; i++) {
    const x = coords[2 * i] - x0;
    const y = coords[2 * i + 1] - y0;
    sum += px * y - x * py;
    px = x;
    py = y;
  }
  return sum;
}

/**
 * Returns whether a point lies inside the rings `ringFrom` to `ringTo` of a block by the even-odd rule.
 *
 * @param coords x and y of each vertex, interleaved
 * @param ringStarts first vertex of each ring
 * @param ringFrom first ring
 * @param ringTo ring after the last
 * @param x x of the point
 * @param y y of the point
 */
export function insideRings(
  coords: Numbers,
  ringStarts: Numbers,
  ringFrom: number,
  ringTo: number,
  x: number,
  y: number,
): boolean {
  let inside = false;
  for (let ring = ringFrom; ring < ringTo; ring++) {
    const from = ringStarts[ring];
    const to = ringStarts[ring + 1];
    for (let i = from, j = to - 1; i < to; j = i++) {
      const yi = coords[2 * i + 1];
      const yj = coords[2 * j + 1];
      if (yi > y !== yj > y && x < ((coords[2 * j] - coords[2 * i]) * (y - yi)) / (yj - yi) + coords[2 * i])
        inside = !inside;
    }
  }
  return inside;
}

/** Squared distance from a point to a segment. */
export function squaredDistanceToSegment(
  px: number,
  py: number,
  ax: number,
  ay: number,
  bx: number,
  by: number,
): number {
  const dx = bx - ax;
  const dy = by - ay;
  const length2 = dx * dx + dy * dy;
  const t = length2 === 0 ? 0 : Math.max(0, Math.min(1, ((px - ax) * dx + (py - ay) * dy) / length2));
  const ex = px - (ax + t * dx);
  const ey = py - (ay + t * dy);
  return ex * ex + ey * ey;
}

/** Distance from a point to the vertices `from` to `to` joined in order (and closed, for a ring). */
export function distanceToPath(
  coords: Numbers,
  from: number,
  to: number,
  closed: boolean,
  x: number,
  y: number,
): number {
  let best = to - from === 1 ? (coords[2 * from] - x) ** 2 + (coords[2 * from + 1] - y) ** 2 : Infinity;
  for (let i = closed ? from : from + 1; i < to; i++) {
    const j = i === from ? to - 1 : i - 1;
    const d = squaredDistanceToSegment(x, y, coords[2 * j], coords[2 * j + 1], coords[2 * i], coords[2 * i + 1]);
    if (d < best) best = d;
  }
  return Math.sqrt(best);
}
