// Tables as files: read leniently, rows mended and told, places found in whatever columns have them.
import Papa from 'papaparse';
import { Fault } from '../../base/fault.js';
import type { Crs } from '../../crs/crs.js';
import { crsByCode } from '../../crs/match.js';
import { getCrs } from '../../crs/registry.js';
import type { FileFeature, FileGeometry, FileLayer, FileReader, FileWriter } from '../files/feature-file.js';
import { idsAsAttributes } from '../files/ids.js';
import { mendGeometry } from '../files/mend.js';
import { decodeText } from '../files/text.js';
import type { WarningList } from '../files/warnings.js';
import { often, settle, type FilePart } from '../files/feature-file.js';
import { joined } from '../geojson/file.js';
import { geometryText, looksLikeWkt, parseGeometryText } from '../wkt/geometry-text.js';
import { readAngle, readAnglePair } from './angles.js';
import { withComma, withPoint } from './columns.js';
import { assertQuotes } from './read.js';

const plain = (name: string) => name.toLowerCase().replace(/[\s_.()°-]/g, '');
const spellings = {
  lon: [
    'lon',
    'lng',
    'long',
    'longitude',
    'longitud',
    'längengrad',
    'laengengrad',
    'longitudine',
    'xlon',
    'londeg',
    'longitudedeg',
    'lonwgs84',
    'longitudewgs84',
    'decimallongitude',
    'loncalc',
    'geolon',
    'pointx',
    'x',
    'xcoord',
    'xcoordinate',
  ],
  lat: [
    'lat',
    'latitude',
    'latitud',
    'breitengrad',
    'latitudine',
    'ylat',
    'latdeg',
    'latitudedeg',
    'latwgs84',
    'latitudewgs84',
    'decimallatitude',
    'geolat',
    'pointy',
    'y',
    'ycoord',
    'ycoordinate',
  ],
  east: ['easting', 'eastings', 'east', 'e', 'rechtswert', 'xutm', 'utmx'],
  north: ['northing', 'northings', 'north', 'n', 'hochwert', 'yutm', 'utmy'],
  shape: ['wkt', 'geom', 'geometry', 'thegeom', 'shape', 'wkbgeometry', 'geometrywkt', 'wktgeometry'],
  pair: [
    'coordinates',
    'coordinate',
    'coords',
    'latlon',
    'latlong',
    'position',
    'location',
    'place',
    'point',
    'lonlat',
    'koordinaten',
  ],
} as const;

/** How the rows of a table say where they lie. */
type Placing =
  | { readonly kind: 'pair'; readonly x: number; readonly y: number; readonly planar: boolean }
  | { readonly kind: 'shape'; readonly at: number }
  | { readonly kind: 'text'; readonly at: number }
  | { readonly kind: 'none' };

/** Reads tables (CSV and the like): see {@link FileReader}; a row without a place is kept without a geometry. */
export const tableReader: FileReader = {
  async read({ name, bytes }, warnings, { progress, part }) {
    const text = decodeText(bytes, warnings);
    const { names, rows, commas } = rowsOf(text, warnings, part);
    const placing = settle(part, 'placing', () => placingOf(names, rows));
    if (placing.kind === 'none' && !part?.lines)
      warnings.add(
        'doubtful.no-place',
        `no column says where the rows lie (${names.slice(0, 8).join(', ')}${names.length > 8 ? ', …' : ''})`,
        `${likely(names)}Name two columns "lon" and "lat", or one "wkt"; or join the table to features that have a place.`,
      );
    const columns = settle(part, 'columns', () =>
      names.map((_, c) =>
        numeric(
          rows.map(({ cells }) => cells[c] ?? ''),
          commas,
        ),
      ),
    );
    const placeColumns = placing.kind === 'pair' ? [placing.x, placing.y] : placing.kind === 'none' ? [] : [placing.at];
    const sheet: TableSheet = { names, placing, commas, warnings, srid: undefined };
    const features = rows.map(({ cells, line }, i): FileFeature => {
      if (i % often === 0) progress?.(i / rows.length);
      const properties: Record<string, unknown> = {};
      names.forEach((column, c) => {
        const cell = (cells[c] ?? '').trim();
        if (cell === '' || placeColumns.includes(c)) return;
        // A file that is read in parts may have texts behind its first numbers.
        properties[column] = columns[c] && isNumber(cell, commas) ? toNumber(cell, commas) : cell;
      });
      return { type: 'Feature', geometry: geometryOf(cells, line, sheet), properties };
    });
    const missing = features.flatMap(({ geometry }, i) => (geometry ? [] : [rows[i].line]));
    if (placing.kind !== 'none' && missing.length)
      missing.forEach((line) =>
        warnings.add('doubtful.rows', 'rows have no place', 'They were kept, and are drawn nowhere.', `line ${line}`),
      );
    return [{ name: name.replace(/\.[^.]*$/, ''), features, ...(await systemOf(sheet, features)) }];
  },
};

const likeX = /lon|lng|(^|[^a-z])x([^a-z]|$)|east|(^|[^a-z])e([^a-z]|$)/i;
const likeY = /lat|(^|[^a-z])y([^a-z]|$)|north|(^|[^a-z])n([^a-z]|$)/i;

/** The columns whose names look as if they said where the rows lie, in words; nothing where there are none. */
function likely(names: readonly string[]): string {
  const [x, y] = [likeX, likeY].map((like) => names.find((name) => like.test(name)));
  return x !== undefined && y !== undefined && x !== y ? `"${x}" and "${y}" look like places. ` : '';
}

interface TableSheet {
  readonly names: readonly string[];
  readonly placing: Placing;
  readonly commas: boolean;
  readonly warnings: WarningList;
  /** Code that the well-known text of the rows names. */
  srid: number | undefined;
}

interface Row {
  readonly cells: readonly string[];
  readonly line: number;
}

/** The separator that stands most often in the line of names; a comma where there is but one column. */
function separatorOf(text: string): string {
  const head = text.slice(0, Math.max(0, text.search(/[\r\n]|$/))).replace(/"[^"]*"/g, '');
  const counts = [',', ';', '\t', '|'].map((sign) => [sign, head.split(sign).length] as const);
  return counts.toSorted((a, b) => b[1] - a[1])[0][0];
}

function rowsOf(
  text: string,
  warnings: WarningList,
  part: FilePart | undefined,
): { names: string[]; rows: Row[]; commas: boolean } {
  const source = text.replace(/^\uFEFF/, '').replace(/^sep=(.)\r?\n/i, '');
  const { data, errors, meta } = Papa.parse<string[]>(source, { delimiter: separatorOf(source) });
  assertQuotes(errors);
  // Every part begins with the line of names.
  let line = 1;
  const all = data.map((cells): Row => {
    const row = { cells, line: line === 1 ? 1 : line + (part?.lines ? part.lines - 1 : 0) };
    line += 1 + cells.reduce((sum, cell) => sum + (cell.match(/\n/g)?.length ?? 0), 0);
    return row;
  });
  const filled = all.filter(({ cells }) => cells.some((cell) => cell.trim() !== ''));
  if (!filled.length) throw new Fault('table.empty', 'the table is empty', 'Its first line names the columns.');
  const [head, ...rows] = filled;
  const names = head.cells.map((cell) => cell.trim());
  while (names.length > 1 && names[names.length - 1] === '') names.pop();
  const taken = new Set<string>();
  names.forEach((name, i) => {
    let label = name || `column ${i + 1}`;
    if (taken.has(label)) {
      for (let k = 2; taken.has(label); k++) label = `${name} ${k}`;
      if (!part?.lines)
        warnings.add(
          'mended.column',
          'columns have the same name',
          'The later ones were numbered.',
          `${name} → ${label}`,
        );
    }
    taken.add((names[i] = label));
  });
  for (const { cells, line: at } of rows) {
    const more = cells.slice(names.length).filter((cell) => cell.trim() !== '').length;
    if (more)
      warnings.add(
        'mended.long-row',
        'rows have more cells than there are columns',
        'The cells beyond the last column were dropped. Put cells with a separator in them into double quotes.',
        `line ${at}`,
      );
    else if (cells.length < names.length)
      warnings.add(
        'mended.short-row',
        'rows have fewer cells than there are columns',
        'The rest of them is empty.',
        `line ${at}`,
      );
  }
  const columns = names.map((_, c) => rows.map(({ cells }) => (cells[c] ?? '').trim()).filter(Boolean));
  const points = columns.some(
    (cells) => cells.length && cells.every((cell) => withPoint.test(cell)) && cells.some((cell) => cell.includes('.')),
  );
  return { names, rows, commas: settle(part, 'commas', () => meta.delimiter !== ',' && !points) };
}

/** Whether a column is one of numbers. */
function numeric(cells: readonly string[], commas: boolean): boolean {
  const filled = cells.map((cell) => cell.trim()).filter(Boolean);
  return filled.length > 0 && filled.every((cell) => isNumber(cell, commas));
}

const isNumber = (cell: string, commas: boolean) => withPoint.test(cell) || (commas && withComma.test(cell));

const toNumber = (cell: string, commas: boolean) => Number(commas ? cell.replace(',', '.') : cell);

function placingOf(names: readonly string[], rows: readonly Row[]): Placing {
  const find = (words: readonly string[]) => {
    for (const word of words) {
      const at = names.findIndex((name) => plain(name) === word);
      if (at >= 0) return at;
    }
    return -1;
  };
  const sample = (c: number) => rows.map(({ cells }) => (cells[c] ?? '').trim()).find(Boolean) ?? '';
  const shape = names.findIndex(
    (name, c) => (spellings.shape as readonly string[]).includes(plain(name)) && looksLikeWkt(sample(c)),
  );
  if (shape >= 0) return { kind: 'shape', at: shape };
  const [lon, lat, east, north] = [spellings.lon, spellings.lat, spellings.east, spellings.north].map(find);
  if (lon >= 0 && lat >= 0) return { kind: 'pair', x: lon, y: lat, planar: false };
  if (east >= 0 && north >= 0) return { kind: 'pair', x: east, y: north, planar: true };
  const text = names.findIndex(
    (name, c) => (spellings.pair as readonly string[]).includes(plain(name)) && readAnglePair(sample(c)),
  );
  if (text >= 0) return { kind: 'text', at: text };
  const anyShape = names.findIndex((_, c) => looksLikeWkt(sample(c)));
  return anyShape >= 0 ? { kind: 'shape', at: anyShape } : { kind: 'none' };
}

function geometryOf(cells: readonly string[], line: number, sheet: TableSheet): FileGeometry | null {
  const { placing, commas, warnings, names } = sheet;
  const at = `line ${line}`;
  if (placing.kind === 'none') return null;
  if (placing.kind === 'shape') {
    const cell = (cells[placing.at] ?? '').trim();
    if (!cell) return null;
    const { geometry, srid } = parseGeometryText(cell, at);
    sheet.srid ??= srid;
    return geometry && mendGeometry(geometry, at, warnings);
  }
  if (placing.kind === 'text') {
    const cell = (cells[placing.at] ?? '').trim();
    if (!cell) return null;
    const pair = readAnglePair(cell);
    if (!pair) throw unreadable(cell, names[placing.at], at);
    return { type: 'Point', coordinates: [...pair] };
  }
  const [x, y] = [placing.x, placing.y].map((c) => (cells[c] ?? '').trim());
  if (!x || !y) return null;
  const value = (cell: string, column: number): number => {
    if (withPoint.test(cell) || (commas && withComma.test(cell))) return toNumber(cell, commas);
    const angle = readAngle(cell);
    if (!angle) throw unreadable(cell, names[column], at);
    return angle.degrees;
  };
  return { type: 'Point', coordinates: [value(x, placing.x), value(y, placing.y)] };
}

const unreadable = (cell: string, column: string, at: string) =>
  new Fault(
    'table.angle',
    `"${cell}" in the column "${column}" is no place`,
    'Write degrees as -31.18, or as 31°10\'48"W, or leave the cell empty for a row without a place.',
    at,
  );

async function systemOf(
  { placing, srid }: TableSheet,
  features: readonly FileFeature[],
): Promise<{ readonly crs: Crs | undefined; readonly crsSource: string }> {
  if (srid !== undefined) return { crs: await crsByCode(String(srid)), crsSource: 'the SRID in its well-known text' };
  const far = features.some(
    ({ geometry }) =>
      geometry?.type === 'Point' &&
      Math.max(Math.abs(geometry.coordinates[0]), Math.abs(geometry.coordinates[1])) > 360,
  );
  if (far || (placing.kind === 'pair' && placing.planar)) return { crs: undefined, crsSource: 'nothing says it' };
  return { crs: getCrs('OGC:CRS84'), crsSource: 'taken for longitude and latitude' };
}

/** Writes CSV (RFC 4180): columns `lon` and `lat` where all features are points, else well-known text in a column `wkt`. */
export const tableWriter: FileWriter = {
  write(layers: readonly FileLayer[]) {
    const whole = joined(layers);
    const { crs } = whole;
    const features = idsAsAttributes(whole.features);
    const placed = features.filter(({ geometry }) => geometry);
    const points =
      placed.length > 0 &&
      placed.every(({ geometry }) => geometry?.type === 'Point' && geometry.coordinates.length < 3);
    const [x, y] = crs?.isGeographic === false ? ['x', 'y'] : ['lon', 'lat'];
    const keys = [...new Set(features.flatMap(({ properties }) => Object.keys(properties)))];
    const head = placed.length ? (points ? [x, y] : ['wkt']) : [];
    const clash = (key: string) => (head.includes(key) ? `${key}_` : key);
    const rows = features.map(({ geometry, properties }) => [
      ...(points
        ? ((geometry as { coordinates?: number[] } | null)?.coordinates ?? ['', ''])
        : head.length
          ? [geometry ? geometryText(geometry) : '']
          : []),
      ...keys.map((key) => {
        const value = properties[key];
        return typeof value === 'object' && value !== null ? JSON.stringify(value) : value;
      }),
    ]);
    const text = Papa.unparse({ fields: [...head, ...keys.map(clash)], data: rows }, { newline: '\n' });
    return Promise.resolve(new TextEncoder().encode(`${text}\n`));
  },
};
