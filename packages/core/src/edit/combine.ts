import { difference, union, type Geom } from 'polyclip-ts';
import { asFault, Fault } from '../base/fault.js';
import { withHeights } from './heights.js';
import type { EditGeometry } from './shape.js';

/** Sums, differences of areas: in a chunk of its own, as the arithmetic behind it is large. */
function run(work: () => unknown, name: string): EditGeometry | undefined {
  let polygons: [number, number][][][];
  try {
    polygons = work() as typeof polygons;
  } catch (error) {
    throw asFault(error, 'edit.combine', `The areas could not be ${name}. Check that none of them crosses itself.`);
  }
  if (!polygons.length) return undefined;
  // A single polygon is written as one.
  return polygons.length === 1
    ? { type: 'Polygon', coordinates: polygons[0] }
    : { type: 'MultiPolygon', coordinates: polygons };
}

const withHeightsOf = (geometry: EditGeometry | undefined, ...sources: readonly EditGeometry[]) =>
  geometry && withHeights(geometry, sources);

const areaOnly = (geometry: EditGeometry): Geom => {
  if (geometry.type !== 'Polygon' && geometry.type !== 'MultiPolygon')
    throw new Fault('edit.combine', `a ${geometry.type} has no area`, 'Choose areas.');
  return geometry.coordinates as unknown as Geom;
};

/** Areas in one; heights at shared vertices are averaged. @throws Fault `edit.combine` */
export const joinAreas = (first: EditGeometry, ...others: readonly EditGeometry[]): EditGeometry =>
  withHeightsOf(
    run(() => union(areaOnly(first), ...others.map(areaOnly)), 'joined'),
    first,
    ...others,
  )!;

/** An area without another; undefined where nothing is left. @throws Fault `edit.combine` */
export const withoutArea = (area: EditGeometry, ...taken: readonly EditGeometry[]): EditGeometry | undefined =>
  withHeightsOf(
    run(() => difference(areaOnly(area), ...taken.map(areaOnly)), 'taken apart'),
    area,
    ...taken,
  );
