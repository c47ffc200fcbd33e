import { moveVertex, pathsOf, type EditGeometry, type EditPosition, type VertexName } from './shape.js';

/** A vertex of a feature. */
export interface SharedVertex extends VertexName {
  readonly key: string;
}

/**
 * Finds the vertices of other features that lie exactly at a position, such as those of a shared border.
 *
 * @param features geometries by their keys
 * @param at the position
 * @param except key of the feature to leave out
 */
export function sharedVertices(
  features: Iterable<readonly [key: string, geometry: EditGeometry]>,
  [x, y]: EditPosition,
  except?: string,
): SharedVertex[] {
  const out: SharedVertex[] = [];
  for (const [key, geometry] of features) {
    if (key === except) continue;
    pathsOf(geometry).forEach(({ spots }, path) =>
      spots.forEach((spot, index) => {
        if (spot[0] === x && spot[1] === y) out.push({ key, path, index });
      }),
    );
  }
  return out;
}

/** Returns geometries by their keys with shared vertices moved to one position. */
export function moveShared(
  features: ReadonlyMap<string, EditGeometry>,
  vertices: readonly SharedVertex[],
  to: EditPosition,
): Map<string, EditGeometry> {
  const out = new Map<string, EditGeometry>();
  for (const vertex of vertices) {
    const geometry = out.get(vertex.key) ?? features.get(vertex.key);
    if (geometry) out.set(vertex.key, moveVertex(geometry, vertex, to));
  }
  return out;
}
