import type { Shape, Position } from '../geometry/shape.js';
import { geodesicOn } from './geodesic.js';

/**
 * Returns the length in meters of the geodesic between two places on the ellipsoid of WGS 84; see {@link geodesicOn}.
 *
 * @param from `[longitude, latitude]` in degrees
 * @param to `[longitude, latitude]` in degrees
 */
export const geodesicLength = ([lon1, lat1]: Position, [lon2, lat2]: Position): number =>
  geodesicOn().inverse(lon1, lat1, lon2, lat2).length;

/** Edges are straight in longitude and latitude (RFC 7946, section 3.1.1); longer ones than this, in degrees, are measured in pieces. */
const longest = 0.5;

/** A path with its long edges in pieces. */
function inPieces(spots: readonly Position[], closed: boolean): Position[] {
  const out: Position[] = [];
  spots.forEach((spot, i) => {
    const from = i > 0 ? spots[i - 1] : closed ? spots[spots.length - 1] : undefined;
    const count = from ? Math.ceil(Math.max(Math.abs(spot[0] - from[0]), Math.abs(spot[1] - from[1])) / longest) : 1;
    for (let k = 1; k < count; k++)
      out.push([from![0] + ((spot[0] - from![0]) * k) / count, from![1] + ((spot[1] - from![1]) * k) / count]);
    out.push(spot);
  });
  return out;
}

/** Returns the area in square meters of a shape in degrees, without its holes, on the ellipsoid of WGS 84. */
export function areaOf({ polygons }: Shape): number {
  let sum = 0;
  for (const polygon of polygons)
    polygon.forEach((ring, i) => {
      sum += (i ? -1 : 1) * Math.abs(geodesicOn().area(inPieces(ring, true)));
    });
  return sum;
}

/** Returns the length in meters of the lines of a shape in degrees, or the perimeter of its areas, holes included. */
export function lengthOf({ lines, polygons }: Shape): number {
  let sum = 0;
  const path = (whole: readonly Position[], closed: boolean) => {
    const spots = inPieces(whole, closed);
    for (let i = closed ? 0 : 1; i < spots.length; i++) sum += geodesicLength(spots[(i || spots.length) - 1], spots[i]);
  };
  for (const line of lines) path(line, false);
  for (const polygon of polygons) for (const ring of polygon) path(ring, true);
  return sum;
}
