// Room "edit": features under correction: their vertices, whole features moved, cut and joined, snapping, validity, steps and undo.
import { Fault } from '../base/fault.js';
import { describeValue } from '../base/describe-value.js';

/** A position: x (longitude in degrees, or meters on a plan), y, and optionally a height. */
export type EditPosition = readonly number[];

/** A geometry whose vertices can be edited (RFC 7946, section 3.1; rings are closed). */
export type EditGeometry =
  | { readonly type: 'Point'; readonly coordinates: EditPosition }
  | { readonly type: 'MultiPoint' | 'LineString'; readonly coordinates: readonly EditPosition[] }
  | { readonly type: 'MultiLineString' | 'Polygon'; readonly coordinates: readonly (readonly EditPosition[])[] }
  | { readonly type: 'MultiPolygon'; readonly coordinates: readonly (readonly (readonly EditPosition[])[])[] };

/** A sequence of vertices: a line, a ring, or a single point. */
export interface EditPath {
  /** Vertices; the first vertex of a ring is not repeated. */
  readonly spots: readonly EditPosition[];
  /** Whether it is a ring. */
  readonly closed: boolean;
  /** Index of the polygon that contains the ring, and index of the ring in it; 0 is the outer ring. */
  readonly polygon: number;
  readonly ring: number;
}

/** A vertex: index of its path in {@link pathsOf}, and its index in the path. */
export interface VertexName {
  readonly path: number;
  readonly index: number;
}

const open = (spots: readonly EditPosition[]): EditPath => ({ spots, closed: false, polygon: 0, ring: 0 });
const ringOf = (spots: readonly EditPosition[], polygon: number, ring: number): EditPath => {
  const [first, last] = [spots[0], spots[spots.length - 1]];
  const closed = spots.length > 1 && first[0] === last[0] && first[1] === last[1];
  return { spots: closed ? spots.slice(0, -1) : spots, closed: true, polygon, ring };
};

/** Returns the paths of a geometry, in the order of its coordinates. @throws Fault `edit.geometry` */
export function pathsOf(geometry: EditGeometry): EditPath[] {
  switch (geometry?.type) {
    case 'Point':
      return [open([geometry.coordinates])];
    case 'MultiPoint':
      return geometry.coordinates.map((spot) => open([spot]));
    case 'LineString':
      return [open(geometry.coordinates)];
    case 'MultiLineString':
      return geometry.coordinates.map(open);
    case 'Polygon':
      return geometry.coordinates.map((ring, i) => ringOf(ring, 0, i));
    case 'MultiPolygon':
      return geometry.coordinates.flatMap((polygon, p) => polygon.map((ring, i) => ringOf(ring, p, i)));
    default:
      throw new Fault(
        'edit.geometry',
        `${describeValue((geometry as { type?: unknown } | undefined)?.type)} cannot be edited vertex by vertex`,
        'Points, lines and polygons can, and several of one kind; split a GeometryCollection first.',
      );
  }
}

const fewest = ({ closed }: EditPath, type: EditGeometry['type']) =>
  closed ? 3 : type === 'LineString' || type === 'MultiLineString' ? 2 : 1;

/**
 * A geometry with its paths replaced. A path that has too few vertices goes, a polygon goes with its outer ring.
 *
 * @param geometry the geometry; it stays as it is
 * @param change the new vertices of a path, rings not closed
 * @returns undefined where nothing is left
 */
export function withPaths(
  geometry: EditGeometry,
  change: (path: EditPath, number: number) => readonly EditPosition[],
): EditGeometry | undefined {
  const { type } = geometry;
  const kept = pathsOf(geometry).flatMap((path, i) => {
    const spots = change(path, i);
    return spots.length >= fewest(path, type) ? [{ ...path, spots }] : [];
  });
  if (!kept.length) return undefined;
  const closed = (spots: readonly EditPosition[]) => [...spots, spots[0]];
  switch (type) {
    case 'Point':
      return { type, coordinates: kept[0].spots[0] };
    case 'MultiPoint':
      return { type, coordinates: kept.map(({ spots }) => spots[0]) };
    case 'LineString':
      return { type, coordinates: kept[0].spots };
    case 'MultiLineString':
      return { type, coordinates: kept.map(({ spots }) => spots) };
    case 'Polygon':
    case 'MultiPolygon': {
      const outer = new Set(kept.filter(({ ring }) => ring === 0).map(({ polygon }) => polygon));
      const polygons = [...outer].map((polygon) =>
        kept.filter((path) => path.polygon === polygon).map(({ spots }) => closed(spots)),
      );
      if (!polygons.length) return undefined;
      return type === 'Polygon' ? { type, coordinates: polygons[0] } : { type, coordinates: polygons };
    }
  }
}

/** A geometry with every position changed. */
export const withPositions = (
  geometry: EditGeometry,
  change: (at: EditPosition) => readonly [number, number],
): EditGeometry => withPaths(geometry, ({ spots }) => spots.map((spot) => [...change(spot), ...spot.slice(2)]))!;

function pathAt(geometry: EditGeometry, { path, index }: VertexName): EditPath {
  const found = pathsOf(geometry)[path];
  if (!found || !(index >= 0 && index < found.spots.length))
    throw new Fault(
      'edit.vertex',
      `there is no vertex ${index} of path ${path}`,
      'The feature has changed; read it again.',
    );
  return found;
}

/** Returns a geometry with one vertex moved. @throws Fault `edit.vertex` */
export function moveVertex(geometry: EditGeometry, vertex: VertexName, to: EditPosition): EditGeometry {
  const { spots } = pathAt(geometry, vertex);
  const moved = spots.map((spot, i) => (i === vertex.index ? [to[0], to[1], ...spot.slice(2)] : spot));
  return withPaths(geometry, (path, i) => (i === vertex.path ? moved : path.spots))!;
}

/** A vertex with the height between its neighbors, by how near it is to each; without one where a neighbor has none. */
function raisedBetween([x, y]: EditPosition, from: EditPosition, to: EditPosition): EditPosition {
  if (from.length < 3 || to.length < 3) return [x, y];
  const [before, after] = [from, to].map((end) => Math.hypot(x - end[0], y - end[1]));
  const share = before + after ? before / (before + after) : 0.5;
  return [x, y, from[2] + share * (to[2] - from[2])];
}

/** Returns a geometry with a vertex inserted after another; its height is interpolated. @throws Fault `edit.vertex` */
export function insertVertex(geometry: EditGeometry, after: VertexName, at: EditPosition): EditGeometry {
  const { spots, closed } = pathAt(geometry, after);
  const from = spots[after.index];
  const to = spots[after.index + 1] ?? (closed ? spots[0] : undefined);
  const more = spots.toSpliced(after.index + 1, 0, at.length > 2 || !to ? at : raisedBetween(at, from, to));
  return withPaths(geometry, (path, i) => (i === after.path ? more : path.spots))!;
}

/** Returns a geometry without a vertex; undefined if too few vertices remain. @throws Fault `edit.vertex` */
export function deleteVertex(geometry: EditGeometry, vertex: VertexName): EditGeometry | undefined {
  const { spots } = pathAt(geometry, vertex);
  const fewer = spots.toSpliced(vertex.index, 1);
  return withPaths(geometry, (path, i) => (i === vertex.path ? fewer : path.spots));
}

/** Box `[west, south, east, north]` of positions. */
export function boxOfSpots(spots: readonly EditPosition[]): [number, number, number, number] {
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const [x, y] of spots) {
    box[0] = Math.min(box[0], x);
    box[1] = Math.min(box[1], y);
    box[2] = Math.max(box[2], x);
    box[3] = Math.max(box[3], y);
  }
  return box;
}

/** Returns the bounds `[west, south, east, north]` of a geometry. */
export const boxOfGeometry = (geometry: EditGeometry): [number, number, number, number] =>
  boxOfSpots(pathsOf(geometry).flatMap(({ spots }) => spots));
