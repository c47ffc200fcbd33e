/** A position: x and y (longitude and latitude in degrees, unless stated otherwise). */
export type Position = readonly [number, number];

/** Points, lines and polygons of one geometry, separated. Rings are implicitly closed: the first vertex is not repeated. */
export interface Shape {
  readonly points: readonly Position[];
  readonly lines: readonly (readonly Position[])[];
  /** Outer ring first, then holes. */
  readonly polygons: readonly (readonly (readonly Position[])[])[];
}

export const emptyShape: Shape = { points: [], lines: [], polygons: [] };

/** Box `[west, south, east, north]` of a shape; infinite and inverted for an empty one. */
export function boxOf({ points, lines, polygons }: Shape): [number, number, number, number] {
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  const take = ([x, y]: Position) => {
    if (x < box[0]) box[0] = x;
    if (y < box[1]) box[1] = y;
    if (x > box[2]) box[2] = x;
    if (y > box[3]) box[3] = y;
  };
  points.forEach(take);
  for (const line of lines) line.forEach(take);
  for (const polygon of polygons) polygon[0]?.forEach(take);
  return box;
}

/** Greatest dimension in a shape: 0 points, 1 lines, 2 areas; −1 for nothing. */
export const dimensionOf = ({ points, lines, polygons }: Shape): number =>
  polygons.length ? 2 : lines.length ? 1 : points.length ? 0 : -1;
