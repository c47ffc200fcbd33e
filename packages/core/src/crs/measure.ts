import type { Shape, Spot } from '../geometry/shape.js';
import { geodesicOn } from './geodesic.js';

/** Length in metres of the geodesic between two places in degrees, on the ellipsoid of WGS 84; see {@link geodesicOn}. */
export const geodesicLength = ([lon1, lat1]: Spot, [lon2, lat2]: Spot): number =>
  geodesicOn().inverse(lon1, lat1, lon2, lat2).length;

/** Area in square metres, on the ellipsoid of WGS 84, of a shape in degrees whose edges are geodesics, its holes taken out. */
export function areaOf({ polygons }: Shape): number {
  let sum = 0;
  for (const polygon of polygons)
    polygon.forEach((ring, i) => (sum += (i ? -1 : 1) * Math.abs(geodesicOn().area(ring as [number, number][]))));
  return sum;
}

/** Length in metres of the lines of a shape in degrees, or of the rims of its areas, holes included. */
export function lengthOf({ lines, polygons }: Shape): number {
  let sum = 0;
  const path = (spots: readonly Spot[], closed: boolean) => {
    for (let i = closed ? 0 : 1; i < spots.length; i++) sum += geodesicLength(spots[(i || spots.length) - 1], spots[i]);
  };
  for (const line of lines) path(line, false);
  for (const polygon of polygons) for (const ring of polygon) path(ring, true);
  return sum;
}
