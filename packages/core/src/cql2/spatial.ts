import {
  boxesMeet,
  contains,
  crosses,
  equalShapes,
  intersects,
  overlaps,
  relate,
  touches,
  within,
  type Relation,
} from '../geometry/relate.js';
import { boxOf, type Shape } from '../geometry/shape.js';
import type { SpatialName } from './spatial-names.js';

const tests: Readonly<Record<SpatialName, (m: Relation, a: Shape, b: Shape) => boolean>> = {
  s_intersects: intersects,
  s_disjoint: (m) => !intersects(m),
  s_equals: equalShapes,
  s_touches: touches,
  s_within: within,
  s_contains: contains,
  s_overlaps: overlaps,
  s_crosses: crosses,
};

/**
 * A spatial predicate of CQL2 (OGC 21-065r2, clauses 7.6 and 7.7.2), by its name in the JSON encoding. Worked out in the
 * plane of longitude and latitude.
 */
export function spatialTest(name: SpatialName): (a: Shape, b: Shape) => boolean {
  const test = tests[name];
  return (a, b) => {
    // Most features lie nowhere near the other geometry.
    if (!boxesMeet(boxOf(a), boxOf(b))) return name === 's_disjoint';
    return test(relate(a, b), a, b);
  };
}
