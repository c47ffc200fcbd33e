// Changes of layers on their way from one format to another: attributes chosen, renamed and joined, shapes simplified.
import { Fault } from '../../base/fault.js';
import { nearestSpelling } from '../../base/spelling.js';
import { markSignificance } from '../../geometry/simplify.js';
import { layerTopology, type TopologyLine } from '../topojson/topology.js';
import type { FileFeature, FileGeometry, FileLayer, FilePosition } from './feature-file.js';
import { eachPosition } from './mend.js';
import type { WarningList } from './warnings.js';

/** Returns the names of the attributes of layers, in the order of appearance. */
export const fieldNames = (layers: readonly FileLayer[]): string[] => [
  ...new Set(layers.flatMap(({ features }) => features.flatMap(({ properties }) => Object.keys(properties)))),
];

/** Checks that names are attributes. @throws Fault `field.unknown` for a name that no feature has */
export function assertField(name: string, layers: readonly FileLayer[]): void {
  const known = fieldNames(layers);
  if (known.includes(name)) return;
  const near = nearestSpelling(name, known);
  throw new Fault(
    'field.unknown',
    `no feature has the attribute "${name}"`,
    near ? `Did you mean "${near}"?` : `Available: ${known.join(', ') || 'none'}.`,
  );
}

const withProperties = (
  layer: FileLayer,
  change: (properties: FileFeature['properties']) => Record<string, unknown>,
): FileLayer => ({
  ...layer,
  features: layer.features.map((feature) => ({ ...feature, properties: change(feature.properties) })),
});

/** Returns a layer with some attributes only, in the given order. */
export const withFields = (layer: FileLayer, names: readonly string[]): FileLayer =>
  withProperties(layer, (properties) =>
    Object.fromEntries(names.filter((name) => properties[name] !== undefined).map((name) => [name, properties[name]])),
  );

/** Returns a layer with renamed attributes. */
export const withRenamed = (layer: FileLayer, names: ReadonlyMap<string, string>): FileLayer =>
  withProperties(layer, (properties) =>
    Object.fromEntries(Object.entries(properties).map(([name, value]) => [names.get(name) ?? name, value])),
  );

/**
 * Joins a layer to the rows of a table by equal keys, compared as text. If both have an attribute, the value of the table is used.
 *
 * @param layer features
 * @param rows features of the table, of which only the attributes count
 * @param match attribute of the features, and column of the table
 * @param warnings receives the keys without a match
 * @throws Fault `join.none` if no key matches
 */
export function withJoin(
  layer: FileLayer,
  rows: readonly FileFeature[],
  [attribute, column]: readonly [string, string],
  warnings: WarningList,
): FileLayer {
  const byKey = new Map<string, FileFeature['properties']>();
  for (const { properties } of rows) {
    const key = properties[column];
    if (key === undefined || key === null) continue;
    if (byKey.has(String(key)))
      warnings.add('doubtful.key', 'rows of the table have the same key', 'The first row is used.', String(key));
    else byKey.set(String(key), properties);
  }
  const met = new Set<string>();
  const alone: string[] = [];
  const joined = withProperties(layer, (properties) => {
    const key = properties[attribute];
    const row = key === undefined || key === null ? undefined : byKey.get(String(key));
    if (!row) {
      alone.push(String(key ?? ''));
      return { ...properties };
    }
    met.add(String(key));
    const added = Object.fromEntries(Object.entries(row).filter(([name]) => name !== column));
    return { ...properties, ...added };
  });
  if (!met.size && layer.features.length)
    throw new Fault(
      'join.none',
      `no "${attribute}" of the features is a "${column}" of the table`,
      `Features have ${alone.slice(0, 3).join(', ') || 'none'}; rows have ${[...byKey.keys()].slice(0, 3).join(', ') || 'none'}.`,
    );
  for (const key of alone)
    warnings.add(
      'doubtful.unmatched',
      'features match no row of the table',
      'They were kept without the attributes of the table.',
      key,
    );
  for (const key of byKey.keys())
    if (!met.has(key)) warnings.add('doubtful.row', 'rows of the table match no feature', 'They were left out.', key);
  return joined;
}

/**
 * Simplifies the lines and borders of a layer (Douglas and Peucker 1973). Shared borders stay shared; a ring keeps at least three vertices.
 *
 * @param layer a layer with a known coordinate system
 * @param tolerance greatest displacement in meters
 */
export function simplified(layer: FileLayer, tolerance: number): FileLayer {
  const [stretchX, stretchY] = metersOf(layer);
  const topology = layerTopology(layer.features.map(({ geometry }) => geometry));
  const arcs = topology.arcs.map((arc) => simplerArc(arc, tolerance, stretchX, stretchY));
  let next = 0;
  const lineOf = (refs: TopologyLine): FilePosition[] =>
    refs.flatMap((ref, i) => {
      const way = ref < 0 ? [...arcs[~ref]].reverse() : arcs[ref];
      return i ? way.slice(1) : way;
    });
  const ringOf = (refs: TopologyLine, whole: readonly FilePosition[]): FilePosition[] => {
    const ring = lineOf(refs);
    return ring.length > 3 ? ring : [...whole];
  };
  const take = () => topology.lines[next++];
  const simpler = (geometry: FileGeometry): FileGeometry => {
    switch (geometry.type) {
      case 'LineString':
        return { ...geometry, coordinates: lineOf(take()) };
      case 'MultiLineString':
        return { ...geometry, coordinates: geometry.coordinates.map(() => lineOf(take())) };
      case 'Polygon':
        return { ...geometry, coordinates: geometry.coordinates.map((ring) => ringOf(take(), ring)) };
      case 'MultiPolygon':
        return {
          ...geometry,
          coordinates: geometry.coordinates.map((rings) => rings.map((ring) => ringOf(take(), ring))),
        };
      case 'GeometryCollection':
        return { ...geometry, geometries: geometry.geometries.map(simpler) };
      default:
        return geometry;
    }
  };
  return {
    ...layer,
    features: layer.features.map((feature) =>
      feature.geometry ? { ...feature, geometry: simpler(feature.geometry) } : feature,
    ),
  };
}

function simplerArc(
  arc: readonly FilePosition[],
  tolerance: number,
  stretchX: number,
  stretchY: number,
): readonly FilePosition[] {
  const [first, last] = [arc[0], arc[arc.length - 1]];
  const closed = arc.length > 3 && first[0] === last[0] && first[1] === last[1];
  const open = closed ? arc.slice(0, -1) : arc;
  const flat = open.flatMap(([x, y]) => [x * stretchX, y * stretchY]);
  const marks = new Float64Array(open.length);
  markSignificance(flat, 0, open.length, closed, marks);
  let kept = open.filter((_, i) => marks[i] > tolerance ** 2);
  if (closed && kept.length < 3) {
    const third = [...marks].toSorted((a, b) => b - a)[2];
    kept = open.filter((_, i) => marks[i] >= third);
  }
  return closed ? [...kept, kept[0]] : kept;
}

/** Meters in one unit of x and of y, near the middle of a layer. */
function metersOf({ features, crs }: FileLayer): [number, number] {
  if (crs && !crs.isGeographic) return [crs.definition.unit ?? 1, crs.definition.unit ?? 1];
  let [low, high] = [90, -90];
  for (const { geometry } of features)
    eachPosition(geometry, ([, y]) => {
      low = Math.min(low, y);
      high = Math.max(high, y);
    });
  const degree = (Math.PI / 180) * 6371008.8;
  return [degree * Math.cos(((low + high) / 2) * (Math.PI / 180)), degree];
}
