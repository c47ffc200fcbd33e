/** The spatial predicates of CQL2 (OGC 21-065r2, clauses 7.6 and 7.7.2), by their names in the JSON encoding. */
export const spatialNames = [
  's_intersects',
  's_disjoint',
  's_equals',
  's_touches',
  's_within',
  's_contains',
  's_overlaps',
  's_crosses',
] as const;

export type SpatialName = (typeof spatialNames)[number];

export const isSpatial = (name: string): name is SpatialName => (spatialNames as readonly string[]).includes(name);
