import { Fault } from '../base/fault.js';
import { nearestSpelling } from '../base/spelling.js';
import type { Crs, Pair } from '../crs/crs.js';
import { getCrs } from '../crs/registry.js';
import { gridHalf, mercatorGrid, type SquareGrid } from './square.js';

/** One level of a tile matrix set (OGC 17-083r4, section 6.2). */
export interface TileMatrix {
  readonly id: string;
  /** Units of the coordinate system in one pixel. */
  readonly cellSize: number;
  /** The upper left corner, x (east) and y (north). */
  readonly origin: readonly [number, number];
  readonly tileWidth: number;
  readonly tileHeight: number;
  readonly matrixWidth: number;
  readonly matrixHeight: number;
}

/** A tile matrix set: a coordinate system and levels of tiles in it. */
export interface TileMatrixSet {
  readonly id: string;
  readonly crs: Crs;
  readonly matrices: readonly TileMatrix[];
}

interface Json {
  readonly [key: string]: unknown;
}

const bad = (what: string, at: string) =>
  new Fault(
    'grid.form',
    `the tile matrix set cannot be read: ${what}`,
    'Give the JSON form of OGC 17-083r4, annex B.',
    at,
  );

/**
 * Reads a tile matrix set in its JSON form (OGC 17-083r4, annex B; the older form of 17-083r2 too).
 *
 * @throws Fault `grid.form`, or as {@link getCrs} does
 */
export function readTileMatrixSet(source: object): TileMatrixSet {
  const json = source as Json;
  if (typeof json !== 'object' || json === null) throw bad('it is not an object', '$');
  const crsSaid = json['crs'] ?? json['supportedCRS'];
  if (crsSaid === undefined) throw bad('it has no coordinate system', 'crs');
  const crs = getCrs(
    typeof crsSaid === 'string'
      ? crsSaid
      : ((crsSaid as { uri?: string; wkt?: object }).uri ?? (crsSaid as { wkt: object }).wkt),
  );
  const list = (json['tileMatrices'] ?? json['tileMatrix']) as readonly Json[] | undefined;
  if (!Array.isArray(list) || !list.length) throw bad('it has no levels', 'tileMatrices');
  const axes = crs.definition.axes ?? (crs.isGeographic ? (['north', 'east'] as const) : (['east', 'north'] as const));
  const ordered = (json['orderedAxes'] as string[] | undefined)?.[0]?.toLowerCase();
  // Corners come in the order of the axes; `orderedAxes` says it where it differs from the authority's.
  const northFirst =
    ordered === undefined
      ? axes[0] === 'north' && axes[1] === 'east'
      : /^(lat|n|north|y)/.test(ordered) && !(ordered === 'y' && axes[0] === 'east');
  const matrices = (list as readonly Json[]).map((one, i): TileMatrix => {
    const at = `tileMatrices[${i}]`;
    const corner = (one['pointOfOrigin'] ?? one['topLeftCorner']) as readonly number[] | undefined;
    if (!Array.isArray(corner) || corner.length < 2 || !corner.slice(0, 2).every(Number.isFinite))
      throw bad('a level has no point of origin', at);
    // One meter of 0.28 mm pixels a unit of scale (section 6.1.1); in degrees, those of the ellipsoid's equator.
    const metersPerUnit = crs.isGeographic ? (crs.definition.ellipsoid.a * Math.PI) / 180 : (crs.definition.unit ?? 1);
    const cellSize =
      (one['cellSize'] as number | undefined) ?? (Number(one['scaleDenominator']) * 0.00028) / metersPerUnit;
    const numbers = ['tileWidth', 'tileHeight', 'matrixWidth', 'matrixHeight'].map((key) => Number(one[key]));
    if (!(cellSize > 0) || numbers.some((n) => !(n > 0 && Number.isInteger(n))))
      throw bad('a level lacks its sizes, or they are no whole numbers', at);
    const [x, y] = northFirst ? [corner[1] as number, corner[0] as number] : [corner[0] as number, corner[1] as number];
    const bottom = one['cornerOfOrigin'] === 'bottomLeft';
    const top = bottom ? y + cellSize * numbers[1] * numbers[3] : y;
    return {
      id: String(one['id'] ?? one['identifier']),
      cellSize,
      origin: [x, top],
      tileWidth: numbers[0],
      tileHeight: numbers[1],
      matrixWidth: numbers[2],
      matrixHeight: numbers[3],
    };
  });
  matrices.sort((a, b) => b.cellSize - a.cellSize);
  return { id: String(json['id'] ?? json['identifier'] ?? crs.id), crs, matrices };
}

const levels = (count: number, cellSize: number, origin: readonly [number, number], width: number, height: number) =>
  Array.from({ length: count }, (_, z): TileMatrix => ({
    id: String(z),
    cellSize: cellSize / 2 ** z,
    origin,
    tileWidth: 256,
    tileHeight: 256,
    matrixWidth: width * 2 ** z,
    matrixHeight: height * 2 ** z,
  }));

/** The common tile matrix sets of OGC 17-083r4, annex D, by their ids. UTM ones are named `UTM31WGS84Quad`, southern zones `UTM31SWGS84Quad`. */
export function findTileMatrixSet(id: string): TileMatrixSet | undefined {
  const make = (code: string, matrices: readonly TileMatrix[]) => ({ id, crs: getCrs(code), matrices });
  switch (id) {
    case 'WebMercatorQuad':
      return make('EPSG:3857', levels(25, 156543.033928041, [-20037508.3427892, 20037508.3427892], 1, 1));
    case 'WorldCRS84Quad':
      return make('OGC:CRS84', levels(18, 0.703125, [-180, 90], 2, 1));
    case 'WorldMercatorWGS84Quad':
      return make('EPSG:3395', levels(25, 156543.033928041, [-20037508.3427892, 20037508.3427892], 1, 1));
    case 'UPSArcticWGS84Quad':
      return make('EPSG:5041', levels(25, 125829.12, [-14440759.350252, 18440759.350252], 1, 1));
    case 'UPSAntarcticWGS84Quad':
      return make('EPSG:5042', levels(25, 125829.12, [-14440759.350252, 18440759.350252], 1, 1));
  }
  const utm = /^UTM(\d{2})(S?)WGS84Quad$/.exec(id);
  const zone = Number(utm?.[1]);
  if (!utm || zone < 1 || zone > 60) return undefined;
  return make(
    `EPSG:${(utm[2] ? 32700 : 32600) + zone}`,
    levels(25, 78271.5169640205, [-9501965.72931276, 20003931.4586255], 1, 2),
  );
}

const names = [
  'WebMercatorQuad',
  'WorldCRS84Quad',
  'WorldMercatorWGS84Quad',
  'UPSArcticWGS84Quad',
  'UPSAntarcticWGS84Quad',
  'UTM25WGS84Quad',
];

/** A tile matrix set, laid into a square that is quartered level by level. */
export interface MatrixGrid {
  readonly grid: SquareGrid;
  /** Levels of the square above the first level of the set. */
  readonly shift: number;
  readonly set: TileMatrixSet;
}

/**
 * The square grid that a tile matrix set is part of. Sets whose levels halve their cells and share one corner can be shown; most do.
 *
 * @param source id of a common set, or its JSON form
 * @throws Fault `grid.unknown`, `grid.levels`, or as {@link readTileMatrixSet} does
 */
export function gridOfMatrixSet(source: string | object): MatrixGrid {
  let set: TileMatrixSet | undefined;
  if (typeof source === 'string') {
    set = findTileMatrixSet(source);
    if (!set) {
      const near = nearestSpelling(source, names);
      throw new Fault(
        'grid.unknown',
        `the tile matrix set "${source}" is not known`,
        near
          ? `Did you mean "${near}"?`
          : `Known are ${names.join(', ')} and the other UTM zones; or give its JSON form.`,
      );
    }
  } else set = readTileMatrixSet(source);
  if (set.id === 'WebMercatorQuad') return { grid: mercatorGrid, shift: 0, set };
  const [first] = set.matrices;
  const regular = set.matrices.every(
    ({ cellSize, origin, tileWidth, tileHeight }, z) =>
      Math.abs((cellSize * 2 ** z) / first.cellSize - 1) < 1e-6 &&
      tileWidth === first.tileWidth &&
      tileHeight === first.tileHeight &&
      tileWidth === tileHeight &&
      Math.hypot(origin[0] - first.origin[0], origin[1] - first.origin[1]) < first.cellSize,
  );
  if (!regular)
    throw new Fault(
      'grid.levels',
      `the levels of the tile matrix set "${set.id}" do not halve from one to the next`,
      'Only sets whose levels halve their cells, with square tiles and one corner for all, can be shown.',
    );
  const shift = Math.ceil(Math.log2(Math.max(first.matrixWidth, first.matrixHeight)));
  const side = first.cellSize * first.tileWidth * 2 ** shift;
  const { crs } = set;
  const xy: Pair = [0, 0];
  const scale = (2 * gridHalf) / side;
  const grid: SquareGrid = {
    id: `set:${set.id}`,
    at: (lon, lat) =>
      crs.forward(lon, lat, xy)
        ? [(xy[0] - first.origin[0]) * scale - gridHalf, gridHalf - (first.origin[1] - xy[1]) * scale]
        : [NaN, NaN],
    place: (x, y) =>
      crs.inverse(first.origin[0] + (x + gridHalf) / scale, first.origin[1] - (gridHalf - y) / scale, xy)
        ? [xy[0], xy[1]]
        : [NaN, NaN],
  };
  return { grid, shift, set };
}
