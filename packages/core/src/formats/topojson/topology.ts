import type { FileGeometry, FilePosition } from '../files/feature-file.js';

/** Arcs of a line, in order; the bitwise complement stands for one that is followed backwards. */
export type TopologyLine = readonly number[];

/** Lines and rings as arcs that are shared where they run along each other. */
export interface LayerTopology {
  readonly arcs: FilePosition[][];
  /** One a line or ring, in the order in which the geometries have them. */
  readonly lines: TopologyLine[];
}

const keyOf = (position: FilePosition) => `${position[0]},${position[1]}`;

/** Every line and ring of some geometries, in order. */
export function linesOf(geometries: readonly (FileGeometry | null)[]): (readonly FilePosition[])[] {
  return geometries.flatMap((geometry): (readonly FilePosition[])[] => {
    switch (geometry?.type) {
      case 'LineString':
        return [geometry.coordinates];
      case 'MultiLineString':
      case 'Polygon':
        return [...geometry.coordinates];
      case 'MultiPolygon':
        return geometry.coordinates.flat();
      case 'GeometryCollection':
        return linesOf(geometry.geometries);
      default:
        return [];
    }
  });
}

const isRing = (line: readonly FilePosition[]) => line.length > 3 && keyOf(line[0]) === keyOf(line[line.length - 1]);

/**
 * Cuts lines and rings into arcs at junctions: where a line ends, and where three or more different ways meet. Lines that run
 * along each other share the arcs between.
 *
 * @param geometries as they come; null for a feature without a place
 */
export function layerTopology(geometries: readonly (FileGeometry | null)[]): LayerTopology {
  const lines = linesOf(geometries);
  const junctions = junctionsOf(lines);
  const arcs: FilePosition[][] = [];
  const known = new Map<string, number>();
  const arcOf = (positions: readonly FilePosition[]): number => {
    const forward = positions.map(keyOf).join(' ');
    const found = known.get(forward);
    if (found !== undefined) return found;
    const index = arcs.push([...positions]) - 1;
    known.set(forward, index);
    const backward = positions.map(keyOf).reverse().join(' ');
    if (!known.has(backward)) known.set(backward, ~index);
    return index;
  };
  return {
    arcs,
    lines: lines.map((line) => {
      const way = isRing(line) ? fromJunction(line, junctions) : line;
      const cuts = way.flatMap((position, i) =>
        i > 0 && i < way.length - 1 && junctions.has(keyOf(position)) ? [i] : [],
      );
      const bounds = [0, ...cuts, way.length - 1];
      return bounds.slice(1).map((end, k) => arcOf(way.slice(bounds[k], end + 1)));
    }),
  };
}

/** Places at which lines have to be cut: two lines come to them, or leave them, by different neighbors. */
function junctionsOf(lines: readonly (readonly FilePosition[])[]): Set<string> {
  const neighbours = new Map<string, string>();
  const junctions = new Set<string>();
  for (const line of lines) {
    const ring = isRing(line);
    const keys = line.map(keyOf);
    const last = ring ? keys.length - 1 : keys.length;
    for (let i = 0; i < last; i++) {
      if (!ring && (i === 0 || i === last - 1)) {
        junctions.add(keys[i]);
        continue;
      }
      const before = i === 0 ? keys[keys.length - 2] : keys[i - 1];
      const pair = [before, keys[i + 1]].sort().join(' ');
      const seen = neighbours.get(keys[i]);
      if (seen === undefined) neighbours.set(keys[i], pair);
      else if (seen !== pair) junctions.add(keys[i]);
    }
  }
  return junctions;
}

/** A ring begun at a junction; at its lowest place where it has none, so that equal rings give equal arcs. */
function fromJunction(ring: readonly FilePosition[], junctions: ReadonlySet<string>): readonly FilePosition[] {
  const open = ring.slice(0, -1);
  let start = open.findIndex((position) => junctions.has(keyOf(position)));
  if (start < 0)
    start = open.reduce(
      (best, [x, y], i) => (x < open[best][0] || (x === open[best][0] && y < open[best][1]) ? i : best),
      0,
    );
  const turned = [...open.slice(start), ...open.slice(0, start)];
  return [...turned, turned[0]];
}
