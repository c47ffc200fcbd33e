import type { Crs, CrsDefinition } from '../../crs/crs.js';
import type { FileFeature, FileGeometry, FileLayer, FilePosition } from './feature-file.js';
import { eachPosition, mapPositions } from './mend.js';
import type { WarningList } from './warnings.js';

interface Spread {
  count: number;
  low: [number, number];
  high: [number, number];
  /** Positions whose second number is not a latitude. */
  steep: number;
  /** Features with such a position, and features with a geometry. */
  steepFeatures: number[];
  placed: number;
  noughts: number[];
}

function spreadOf(features: readonly FileFeature[]): Spread {
  const spread: Spread = {
    count: 0,
    low: [Infinity, Infinity],
    high: [-Infinity, -Infinity],
    steep: 0,
    steepFeatures: [],
    placed: 0,
    noughts: [],
  };
  features.forEach(({ geometry }, i) => {
    let [nought, steep] = [false, false];
    if (geometry) spread.placed++;
    eachPosition(geometry, ([x, y]) => {
      spread.count++;
      spread.low = [Math.min(spread.low[0], x), Math.min(spread.low[1], y)];
      spread.high = [Math.max(spread.high[0], x), Math.max(spread.high[1], y)];
      if (Math.abs(y) > 90) {
        spread.steep++;
        steep = true;
      }
      if (x === 0 && y === 0 && geometry?.type === 'Point') nought = true;
    });
    if (nought) spread.noughts.push(i);
    if (steep) spread.steepFeatures.push(i);
  });
  return spread;
}

/** How many times the usual distance from the median position counts as far. */
const farTimes = 20;
/** Features of which no median is taken. */
const few = 10;

/**
 * Features that lie far from all others: rows of a table farther from the median position than twenty times the median distance from it. Elsewhere,
 * where towns lie apart by their nature, only the farthest, if it is twenty times as far away as 99 of 100.
 */
function strayOf(features: readonly FileFeature[], areRows: boolean): number[] {
  const firsts: [number, number, number][] = [];
  features.forEach(({ geometry }, i) => {
    let first: [number, number, number] | undefined;
    eachPosition(geometry, ([x, y]) => (first ??= [i, x, y]));
    if (first) firsts.push(first);
  });
  if (firsts.length < few) return [];
  const median = (values: number[]) => values.sort((a, b) => a - b)[values.length >> 1];
  const [cx, cy] = [median(firsts.map(([, x]) => x)), median(firsts.map(([, , y]) => y))];
  const away = firsts.map(([i, x, y]) => [i, Math.hypot(x - cx, y - cy)] as const);
  if (!areRows) {
    const ranked = away.toSorted((a, b) => b[1] - a[1]);
    const rest = ranked[Math.max(1, Math.floor(ranked.length / 100))][1];
    return rest > 0 && ranked[0][1] > farTimes * rest ? [ranked[0][0]] : [];
  }
  const middle = median(away.map(([, distance]) => distance));
  return middle > 0 ? away.filter(([, distance]) => distance > farTimes * middle).map(([i]) => i) : [];
}

/** Whether a line or a border goes more than half round the world between two of its places, without being one that goes all round it. */
function jumps(geometry: FileGeometry): boolean {
  const isPath = (path: readonly FilePosition[]) =>
    path.some(([x], i) => {
      const across = i ? Math.abs(x - path[i - 1][0]) : 0;
      return across > 180 && across < 360 - 1e-6;
    });
  switch (geometry.type) {
    case 'LineString':
      return isPath(geometry.coordinates);
    case 'MultiLineString':
    case 'Polygon':
      return geometry.coordinates.some(isPath);
    case 'MultiPolygon':
      return geometry.coordinates.some((rings) => rings.some(isPath));
    case 'GeometryCollection':
      return geometry.geometries.some(jumps);
    default:
      return false;
  }
}

const swappedHint = 'They were taken as latitude, longitude and swapped. Check that the data lies where it should.';

/**
 * Looks a layer over for what is probably wrong: swapped pairs (put right where nothing else fits), places at 0/0, one place far from
 * all others, meters without a coordinate system, a system that does not fit its numbers.
 *
 * @param layer the layer; it stays as it is
 * @param area area of use of its system; undefined where that is not known
 * @param warnings takes what was found
 * @param before features of the file before these; default none
 * @returns the layer, its pairs swapped if need be
 */
export function withDoubts(
  layer: FileLayer,
  area: CrsDefinition['area'],
  warnings: WarningList,
  before = 0,
): FileLayer {
  const featureName = layer.placeOf ?? ((i: number) => `feature ${i + 1 + before}`);
  const { features, crs, name } = layer;
  const spread = spreadOf(features);
  if (!spread.count) return layer;
  const { low, high, steep, steepFeatures, placed, noughts } = spread;
  const reach = Math.max(Math.abs(low[0]), Math.abs(high[0]));
  const steepest = Math.max(Math.abs(low[1]), Math.abs(high[1]));
  const rounded = (v: number) => String(Number(v.toPrecision(8)));
  const box = `x ${rounded(low[0])} to ${rounded(high[0])}, y ${rounded(low[1])} to ${rounded(high[1])}`;
  let out = layer;
  if (noughts.length && noughts.length < features.length)
    noughts.forEach((i) =>
      warnings.add(
        'doubtful.nought',
        'features are at 0/0',
        'This usually means that the location is missing. They were kept; correct or remove them.',
        featureName(i),
      ),
    );
  if (!crs && layer.planar) return layer;
  if ((!crs || crs.isGeographic) && reach <= 360)
    features.forEach(({ geometry }, i) => {
      if (geometry && jumps(geometry))
        warnings.add(
          'doubtful.jump',
          'lines or borders go more than half round the world between two of their places',
          'They were read as written, the long way round. Where they are to cross the antimeridian, go on beyond 180 degrees, or cut them there (RFC 7946, section 3.1.9).',
          featureName(i),
        );
    });
  if (!crs && (reach > 360 || steepest > 360))
    warnings.add(
      'doubtful.meters',
      `the numbers of "${name}" are not degrees (${box}), and no coordinate system is given`,
      'Name the system, such as EPSG:32625.',
    );
  else if ((!crs || crs.isGeographic) && steep) {
    const isMost = 2 * steepFeatures.length > placed;
    if (isMost && !layer.axesNamed && reach <= 90 && steepest <= 180) {
      warnings.add(
        'mended.swapped',
        `pairs of "${name}" have latitudes beyond ±90° (${box})`,
        swappedHint,
        undefined,
        steep,
      );
      out = {
        ...layer,
        features: features.map((feature) =>
          feature.geometry
            ? { ...feature, geometry: mapPositions(feature.geometry, ([x, y, ...z]) => [y, x, ...z]) }
            : feature,
        ),
      };
    } else if (!isMost && crs) {
      // A few that are impossible say nothing of the others.
      const impossible = new Set(steepFeatures);
      for (const i of steepFeatures) {
        let worst = 0;
        eachPosition(features[i].geometry, ([, y]) => (worst = Math.abs(y) > Math.abs(worst) ? y : worst));
        warnings.add(
          'doubtful.place',
          'features have a latitude beyond ±90°',
          'They were kept without a geometry and are not drawn. Correct them.',
          `${featureName(i)}: latitude ${rounded(worst)}`,
        );
      }
      out = {
        ...layer,
        features: features.map((feature, i) => (impossible.has(i) ? { ...feature, geometry: null } : feature)),
      };
    } else if (crs)
      warnings.add(
        'doubtful.system',
        `the numbers of "${name}" do not fit ${crs.id} (${layer.crsSource}): ${box}`,
        'They are not degrees. Set the coordinate system of the coordinates.',
        undefined,
        steep,
      );
  } else if (crs && !crs.isGeographic && reach <= 180 && steepest <= 90)
    warnings.add(
      'doubtful.system',
      `the numbers of "${name}" do not fit ${crs.id} (${layer.crsSource}): ${box}`,
      'They look like degrees of longitude and latitude; name EPSG:4326 if they are.',
    );
  else if (crs) outsideArea(layer, crs, low, high, area, warnings);
  for (const stray of strayOf(out.features, layer.placeOf !== undefined))
    if (!noughts.includes(stray))
      warnings.add(
        'doubtful.far',
        'features are far from all others',
        'They were kept as they are. Check their places.',
        featureName(stray),
      );
  return out;
}

/** Tells of numbers whose middle lies far outside the area that a system is meant for. */
function outsideArea(
  { name, crsSource }: FileLayer,
  crs: Crs,
  low: readonly [number, number],
  high: readonly [number, number],
  area: CrsDefinition['area'],
  warnings: WarningList,
): void {
  const at: [number, number] = [0, 0];
  const middle = [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2] as const;
  const placed = crs.inverse(middle[0], middle[1], at);
  const [west, south, east, north] = area ?? [-180, -90, 180, 90];
  const beyond = (v: number, a: number, b: number) => v < a - 3 || v > b + 3;
  const wraps = west > east;
  if (placed && !beyond(at[1], south, north) && (wraps || !beyond(at[0], west, east))) return;
  warnings.add(
    'doubtful.system',
    placed
      ? `"${name}" would lie near ${at[0].toFixed(2)}, ${at[1].toFixed(2)}, outside the area of ${crs.id} (${crsSource})`
      : `the numbers of "${name}" lie outside the domain of ${crs.id} (${crsSource})`,
    'Check that the system is the right one, and that x (east) comes first.',
  );
}
