import { pathsOf, withPaths, type EditGeometry, type EditPosition } from './shape.js';

/**
 * The height of a place on an edge.
 *
 * @param from one end of the edge
 * @param to the other end
 * @param share how far along the place lies, 0 to 1
 * @returns undefined where an end has no height
 */
export function heightBetween(from: EditPosition, to: EditPosition, share: number): number | undefined {
  return from.length > 2 && to.length > 2 ? from[2] + share * (to[2] - from[2]) : undefined;
}

/** A position with a height, where there is one. */
export const raised = ([x, y]: EditPosition, height: number | undefined): EditPosition =>
  height === undefined ? [x, y] : [x, y, height];

const mean = (values: readonly number[]): number | undefined =>
  values.length ? values.reduce((sum, value) => sum + value, 0) / values.length : undefined;

/** How far along an edge a place lies, 0 to 1; undefined where it does not lie on it. */
function shareOf([x, y]: EditPosition, [ax, ay]: EditPosition, [bx, by]: EditPosition): number | undefined {
  const [dx, dy] = [bx - ax, by - ay];
  const squared = dx * dx + dy * dy;
  if (!squared) return undefined;
  const share = ((x - ax) * dx + (y - ay) * dy) / squared;
  if (share < 0 || share > 1) return undefined;
  // A meeting point is rounded to doubles: off the edge by a few units in the last place of its coordinates.
  const off = Math.abs((x - ax) * dy - (y - ay) * dx) / Math.sqrt(squared);
  return off <= 8 * Number.EPSILON * Math.max(Math.abs(x), Math.abs(y), 1) ? share : undefined;
}

/**
 * Gives a geometry that was made from others their heights: at their vertices the mean of the heights there, on their edges the height
 * between the ends. Places that lie on none of them stay without.
 *
 * @param geometry made from the sources, in two dimensions
 * @param sources geometries with heights
 */
export function withHeights<G extends EditGeometry>(geometry: G, sources: readonly EditGeometry[]): G {
  const paths = sources.flatMap(pathsOf).filter(({ spots }) => spots.some((spot) => spot.length > 2));
  if (!paths.length) return geometry;
  const atVertex = new Map<string, number[]>();
  for (const { spots } of paths)
    for (const [x, y, ...rest] of spots)
      if (rest.length) {
        const there = atVertex.get(`${x},${y}`);
        if (there) there.push(rest[0]);
        else atVertex.set(`${x},${y}`, [rest[0]]);
      }
  const onEdges = (spot: EditPosition) =>
    paths.flatMap(({ spots, closed }) =>
      spots.flatMap((to, i) => {
        if (!i && !closed) return [];
        const from = spots[(i || spots.length) - 1];
        const share = shareOf(spot, from, to);
        const height = share === undefined ? undefined : heightBetween(from, to, share);
        return height === undefined ? [] : [height];
      }),
    );
  return withPaths(geometry, ({ spots }) =>
    spots.map((spot) => raised(spot, mean(atVertex.get(`${spot[0]},${spot[1]}`) ?? onEdges(spot)))),
  ) as G;
}
