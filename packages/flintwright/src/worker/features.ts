import {
  blockOfColumns,
  classBreaks,
  ClusterIndex,
  editBlock,
  findColumn,
  joinTable,
  readGeoJson,
  readTable,
  valueAt,
  vertexRange,
  type ClusterData,
  type Expression,
  type FeatureBlock,
  type JoinReport,
} from '@flintwright/core';
import {
  categoryNumber,
  compileTree,
  formatOf,
  greatCircles,
  isColumns,
  joined,
  numbered,
  readFeatureBytes,
  withGeometryAnswers,
  type FeatureTextOptions,
} from '@flintwright/core/internal';
import type { ClassesQuery, ClusterQuery, FeatureEdit, FeaturesRequest } from './messages.js';

/** Takes coordinates of a system to longitude and latitude in degrees. */
export type ToDegrees = (x: number, y: number) => [number, number];

/** Options of reading features, beside the request. */
export interface ReadFeaturesOptions {
  /** Whether the map is drawn on a plan, in meters. */
  readonly plan: boolean;
  /** For coordinates of another system. */
  readonly toDegrees: ToDegrees | undefined;
  /** Whether features without ids are numbered; default true. */
  readonly number?: boolean;
}

/** The features of a request, numbered and joined to their table. */
export function readFeatures(
  {
    data,
    source,
    pieces,
    block: given,
    idName,
    join,
    greatCircles: bends,
  }: Pick<FeaturesRequest, 'data' | 'source' | 'pieces' | 'block' | 'idName' | 'join' | 'greatCircles'>,
  { plan, toDegrees, number = true }: ReadFeaturesOptions,
): { readonly block: FeatureBlock; readonly report?: JoinReport } {
  const options = { name: data, space: plan || toDegrees ? ('plan' as const) : ('lonlat' as const), id: idName };
  const read = given
    ? inDegrees(given, undefined, bends ?? false)
    : inDegrees(
        pieces ? readFeatureBytes(joined(pieces), options) : readSource(source, options),
        toDegrees,
        bends ?? false,
      );
  const block = number ? numbered(read) : read;
  if (!join) return { block };
  return joinTable(block, readTable(join.table, join.at), join.match, `the join of "${data}"`);
}

function readSource(source: string | object, options: FeatureTextOptions): FeatureBlock {
  if (typeof source === 'string') return formatOf(source).read(source, options);
  return isColumns(source) ? blockOfColumns(source, options.name, options.space) : readGeoJson(source, options);
}

/** Features brought to longitude and latitude, and their edges bent along great circles, as the data entry asks. */
function inDegrees(block: FeatureBlock, toDegrees: ToDegrees | undefined, bends: boolean): FeatureBlock {
  let out = block;
  if (toDegrees) {
    const coords = new Float64Array(block.coords.length);
    for (let i = 0; i < coords.length; i += 2) coords.set(toDegrees(block.coords[i], block.coords[i + 1]), i);
    out = { ...block, space: 'lonlat', coords };
  }
  return bends ? greatCircles(out) : out;
}

/** For each query the lowest value, the class limits and the highest value of some features; an empty list where there are no numbers. */
export function classesOf(block: FeatureBlock, wanted: readonly ClassesQuery[]): number[][] {
  return wanted.map(({ by, method, count }) => {
    const evaluate = compileTree(by).bind({ block, zoom: 0 });
    const numbers = Array.from({ length: block.count }, (_, f) => evaluate(f)).filter((v) => typeof v === 'number');
    const limits = classBreaks(numbers, method, count);
    if (!limits.length) return [];
    const finite = numbers.filter(Number.isFinite);
    const [low, high] = finite.reduce(
      ([least, most], v) => [Math.min(least, v), Math.max(most, v)],
      [Infinity, -Infinity],
    );
    return [low, ...limits, high];
  });
}

/** The clusters of the points of a block: its first vertices, one a feature. */
export function clustersOf(block: FeatureBlock, { where, share, sum, min, max, ...rest }: ClusterQuery): ClusterData {
  const places = new Float64Array(2 * block.count).fill(NaN);
  const passes = where === undefined ? undefined : compileTree(where).bind({ block, zoom: 0 });
  for (let f = 0; f < block.count; f++) {
    if (passes && passes(f) !== true) continue;
    const [from, to] = vertexRange(block, f);
    if (to > from) places.set([block.coords[2 * from], block.coords[2 * from + 1]], 2 * f);
  }
  const numbers = (trees: Readonly<Record<string, Expression>> | undefined) =>
    Object.fromEntries(
      Object.entries(trees ?? {}).map(([name, tree]) => {
        const evaluate = compileTree(tree).bind({ block, zoom: 0 });
        return [name, Float64Array.from({ length: block.count }, (_, f) => Number(evaluate(f) ?? NaN))];
      }),
    );
  const categories = share?.categories;
  const column = share && findColumn(block, share.attribute);
  return ClusterIndex.build(places, {
    ...rest,
    space: block.space === 'plane' ? 'plane' : 'lonlat',
    sums: numbers(sum),
    minima: numbers(min),
    maxima: numbers(max),
    ...(categories && column
      ? {
          // Features in none of the categories come last.
          categoryCount: categories.length + 1,
          categories: Uint8Array.from({ length: block.count }, (_, f) =>
            categoryNumber(categories, valueAt(column, f)),
          ),
        }
      : {}),
  }).data;
}

/** A block after an edit; `read` reads the features that come with it. @throws Fault `edit.*` */
function edited(
  before: FeatureBlock,
  { put, ...rest }: FeatureEdit,
  idName: string | undefined,
  read: (source: string | object) => FeatureBlock,
): FeatureBlock {
  return editBlock(before, { ...rest, ...(put === undefined ? {} : { put: read(put) }) }, idName).block;
}

/** What a worker needs for all that can be done with features. */
export const featureTools = { read: readFeatures, classesOf, clustersOf, edited, withGeometryAnswers };

export type FeatureTools = typeof featureTools;
