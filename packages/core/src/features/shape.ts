import { jsonOf } from '../base/depth.js';
import { append } from '../base/lists.js';
import { Fault } from '../base/fault.js';
import { mercatorLat, mercatorLon, webMercatorHalf } from '../crs/web-mercator.js';
import type { Shape, Position } from '../geometry/shape.js';
import { Kind, type FeatureBlock } from './block.js';

/** Turns the coordinates of a block into longitude and latitude in degrees (or leaves meters of a plan as they are). */
export function placerOf(block: FeatureBlock): (x: number, y: number) => Position {
  if (block.space !== 'tile' || !block.tile) return (x, y) => [x, y];
  const { z, x: column, y: row } = block.tile;
  const size = (2 * webMercatorHalf) / 2 ** z;
  return (x, y) => [
    mercatorLon((column + x / block.extent) * size - webMercatorHalf),
    mercatorLat(webMercatorHalf - (row + y / block.extent) * size),
  ];
}

/**
 * Returns the geometry of feature `index` as a {@link Shape}, in degrees; for the features of a tile, the part within it.
 *
 * @param block the features
 * @param index row of the feature, from 0
 * @param place converts a vertex to degrees; default unchanged
 */
export function shapeOf(block: FeatureBlock, index: number, place = placerOf(block)): Shape {
  const { coords, featureParts, partRings, ringStarts } = block;
  const ring = (r: number): Position[] => {
    const out: Position[] = [];
    for (let v = ringStarts[r]; v < ringStarts[r + 1]; v++) out.push(place(coords[2 * v], coords[2 * v + 1]));
    return out;
  };
  const points: Position[] = [];
  const lines: Position[][] = [];
  const polygons: Position[][][] = [];
  for (let p = featureParts[index]; p < featureParts[index + 1]; p++) {
    const rings = Array.from({ length: partRings[p + 1] - partRings[p] }, (_, k) => ring(partRings[p] + k));
    if (block.kinds[index] === Kind.polygon) polygons.push(rings);
    else if (block.kinds[index] === Kind.line) append(lines, rings);
    else append(points, rings.flat());
  }
  return { points, lines, polygons };
}

/**
 * Converts a GeoJSON geometry (RFC 7946, section 3.1) or `{ bbox: [west, south, east, north] }` to a {@link Shape}.
 *
 * @throws Fault `shape.form`
 */
export function shapeOfGeometry(geometry: unknown): Shape {
  const { type, coordinates, geometries, bbox } = (geometry ?? {}) as Record<string, unknown>;
  const wrong = (why: string) =>
    new Fault(
      'shape.form',
      `${why} in ${jsonOf(geometry, 80)}`,
      'Write a GeoJSON geometry, WKT such as POLYGON((0 0, 1 0, 1 1, 0 0)), or BBOX(west, south, east, north).',
    );
  const spot = (raw: unknown): Position => {
    const [x, y] = Array.isArray(raw) ? (raw as unknown[]) : [];
    if (typeof x !== 'number' || typeof y !== 'number') throw wrong('there is no pair of numbers');
    return [x, y];
  };
  const list = (raw: unknown): unknown[] => {
    if (!Array.isArray(raw)) throw wrong('a list is missing');
    return raw as unknown[];
  };
  const line = (raw: unknown): Position[] => list(raw).map(spot);
  const polygon = (raw: unknown) =>
    list(raw).map((part) => {
      const ring = line(part);
      const [first, last] = [ring[0], ring[ring.length - 1]];
      if (ring.length < 4 || first[0] !== last[0] || first[1] !== last[1])
        throw wrong('a ring does not end where it begins');
      return ring.slice(0, -1);
    });
  if (Array.isArray(bbox)) {
    const [w, s, e, n] = bbox.length === 6 ? [bbox[0], bbox[1], bbox[3], bbox[4]] : bbox;
    const sides = [w, s, e, n] as number[];
    if (!sides.every((v) => typeof v === 'number')) throw wrong('a box needs four numbers');
    const [west, south, east, north] = sides;
    const box = (from: number, to: number): Position[][] => [
      [
        [from, south],
        [to, south],
        [to, north],
        [from, north],
      ],
    ];
    // A box whose west lies east of its east crosses the antimeridian (RFC 7946, section 5.2).
    return {
      points: [],
      lines: [],
      polygons: west <= east ? [box(west, east)] : [box(west, 180), box(-180, east)],
    };
  }
  const none: Shape = { points: [], lines: [], polygons: [] };
  switch (type) {
    case 'Point':
      return { ...none, points: [spot(coordinates)] };
    case 'MultiPoint':
      return { ...none, points: line(coordinates) };
    case 'LineString':
      return { ...none, lines: [line(coordinates)] };
    case 'MultiLineString':
      return { ...none, lines: list(coordinates).map(line) };
    case 'Polygon':
      return { ...none, polygons: [polygon(coordinates)] };
    case 'MultiPolygon':
      return { ...none, polygons: list(coordinates).map(polygon) };
    case 'GeometryCollection':
      return list(geometries)
        .map(shapeOfGeometry)
        .reduce(
          (sum, part) => ({
            points: [...sum.points, ...part.points],
            lines: [...sum.lines, ...part.lines],
            polygons: [...sum.polygons, ...part.polygons],
          }),
          none,
        );
    default:
      throw wrong(`there is no geometry type ${jsonOf(type)}`);
  }
}
