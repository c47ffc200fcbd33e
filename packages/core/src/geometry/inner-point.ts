import { distanceToPath, insideRings } from './rings.js';

/**
 * A point well inside a polygon: the center of a circle that is, to within `precision`, the largest that fits
 * (pole of inaccessibility). Found by best-first search over a quadtree of cells, each bounded by its center's
 * distance plus half its diagonal. Where several points do as well, as in a long box, the centroid is taken if it is one of them.
 *
 * @param coords x, y by turns
 * @param ringStarts first vertex of each ring, with one further entry
 * @param ringFrom the outer ring of one polygon
 * @param ringTo the ring after its last hole
 * @param precision in the units of the coordinates; default 1/100 of the shorter side of the outer ring's box
 * @returns `[x, y, distance to the nearest edge]`
 */
export function innerPoint(
  coords: ArrayLike<number>,
  ringStarts: ArrayLike<number>,
  ringFrom: number,
  ringTo: number,
  precision?: number,
): [number, number, number] {
  let [west, south, east, north] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = ringStarts[ringFrom]; i < ringStarts[ringFrom + 1]; i++) {
    west = Math.min(west, coords[2 * i]);
    east = Math.max(east, coords[2 * i]);
    south = Math.min(south, coords[2 * i + 1]);
    north = Math.max(north, coords[2 * i + 1]);
  }
  const side = Math.min(east - west, north - south);
  if (!(side > 0) || !Number.isFinite(side)) return [west, south, 0];
  const tolerance = precision ?? side / 100;
  const clearance = (x: number, y: number) => {
    let nearest = Infinity;
    for (let r = ringFrom; r < ringTo; r++)
      nearest = Math.min(nearest, distanceToPath(coords, ringStarts[r], ringStarts[r + 1], true, x, y));
    return insideRings(coords, ringStarts, ringFrom, ringTo, x, y) ? nearest : -nearest;
  };
  type Cell = { x: number; y: number; half: number; bound: number };
  const [middleX, middleY] = centroid(coords, ringStarts[ringFrom], ringStarts[ringFrom + 1]);
  const middle: [number, number, number] = [middleX, middleY, clearance(middleX, middleY)];
  let best = middle;
  const open: Cell[] = [];
  const visit = (x: number, y: number, half: number) => {
    const d = clearance(x, y);
    if (d > best[2]) best = [x, y, d];
    const bound = d + half * Math.SQRT2;
    if (bound > best[2] + tolerance) open.push({ x, y, half, bound });
  };
  // Squares over the box; those of a sliver are wider than it, so that their number is bounded.
  const span = Math.max(side, Math.max(east - west, north - south) / mostSquares);
  const half = span / 2;
  for (let i = 0; i * span < east - west; i++)
    for (let j = 0; j * span < north - south; j++) visit(west + half + i * span, south + half + j * span, half);
  for (let rounds = 0; open.length && rounds < 500; rounds++) {
    let top = 0;
    for (let i = 1; i < open.length; i++) if (open[i].bound > open[top].bound) top = i;
    const [cell] = open.splice(top, 1);
    if (cell.bound <= best[2] + tolerance) break;
    const h = cell.half / 2;
    for (const [dx, dy] of [
      [-h, -h],
      [h, -h],
      [-h, h],
      [h, h],
    ])
      visit(cell.x + dx, cell.y + dy, h);
  }
  const found = middle[2] >= best[2] - tolerance ? middle : best;
  return found[2] > 0 ? found : ((east - west >= north - south ? acrossMiddle(0) : acrossMiddle(1)) ?? found);

  /** The middle of the widest stretch that a line across the middle of the longer side has within the polygon. */
  function acrossMiddle(axis: 0 | 1): [number, number, number] | undefined {
    const at = axis === 0 ? (west + east) / 2 : (south + north) / 2;
    const crossings: number[] = [];
    for (let r = ringFrom; r < ringTo; r++)
      for (let i = ringStarts[r], j = ringStarts[r + 1] - 1; i < ringStarts[r + 1]; j = i++) {
        const [a, b] = [coords[2 * j + axis], coords[2 * i + axis]];
        if (a > at === b > at) continue;
        const [p, q] = [coords[2 * j + 1 - axis], coords[2 * i + 1 - axis]];
        crossings.push(p + ((at - a) / (b - a)) * (q - p));
      }
    crossings.sort((a, b) => a - b);
    let widest: [number, number] | undefined;
    for (let i = 0; i + 1 < crossings.length; i += 2)
      if (!widest || crossings[i + 1] - crossings[i] > widest[1] - widest[0]) widest = [crossings[i], crossings[i + 1]];
    if (!widest) return undefined;
    const other = (widest[0] + widest[1]) / 2;
    const [x, y] = axis === 0 ? [at, other] : [other, at];
    return [x, y, clearance(x, y)];
  }
}

/** Squares along the longer side of a polygon's box to begin with, at most. */
const mostSquares = 64;

/** The centroid of a ring that encloses an area. */
function centroid(coords: ArrayLike<number>, from: number, to: number): [number, number] {
  // Counted from the first vertex, so that nothing is lost far from the origin.
  const [ox, oy] = [coords[2 * from], coords[2 * from + 1]];
  let [sum, x, y] = [0, 0, 0];
  for (let i = from, j = to - 1; i < to; j = i++) {
    const [ax, ay, bx, by] = [coords[2 * j] - ox, coords[2 * j + 1] - oy, coords[2 * i] - ox, coords[2 * i + 1] - oy];
    const cross = ax * by - bx * ay;
    sum += cross;
    x += (ax + bx) * cross;
    y += (ay + by) * cross;
  }
  return sum ? [ox + x / (3 * sum), oy + y / (3 * sum)] : [ox, oy];
}
