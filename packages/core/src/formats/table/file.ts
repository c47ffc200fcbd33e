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
import { Records } from '../files/records.js';
import type { WarningList } from '../files/warnings.js';
import { often, settle, type FilePart } from '../files/feature-file.js';
import { joined } from '../geojson/file.js';
import { tellUneven } from '../wkt/uneven.js';
import { geometryText, looksLikeWkt, parseGeometryText } from '../wkt/geometry-text.js';
import { readAngle, readAnglePair } from '../../base/angles.js';
import { isTooLong } from '../../base/json.js';
import { groupings, withComma, withPoint } from './columns.js';
import { assertQuotes } from './read.js';

/** A name without case, marks, blanks and signs: `Längen-Grad` is `langengrad`, as is `LAENGENGRAD` but for its spelling. */
const plain = (name: string) =>
  name
    .normalize('NFKD')
    .toLowerCase()
    .replace(/\p{M}/gu, '')
    .replace(/[^\p{L}\p{N}]/gu, '')
    .replaceAll('ø', 'o')
    .replaceAll('ł', 'l');

const before = '(?:geo|gps|dec|decimal|wgs|wgs84|point|pt|coord|koord|geographische?|geograficzna)?';
const after =
  '(?:deg|degrees?|dd|decimal|wgs|wgs84|gps|coord|koord|calc|geograficzna|e|w|n|s|m|meters?|meters?|ft|feet|4326)?';
const named = (words: string) => new RegExp(`^${before}(?:${words})${after}$`);

/** Names of columns in common languages, by what they hold; compared as {@link plain} makes them. */
const columnNames = {
  lon: named(
    'lon|lng|long|longitude?|longitudine|xlon|lange|laenge|langengrad|laengengrad|lengte|lengtegraad|lengdegrad|langdgrad|longitud|dlugosc|zemepisnadelka|delka|hosszusag|boylam|pituus|pituusaste|dolgota|долгота|довгота|經度|经度|経度|경도|longitudem',
  ),
  lat: named(
    'lat|latitude?|latitudine|ylat|breite|breitengrad|breedte|breedtegraad|breddegrad|breddgrad|latitud|szerokosc|zemepisnasirka|sirka|szelesseg|enlem|leveys|leveysaste|sirina|широта|緯度|纬度|위도|latitudem',
  ),
  east: named('easting|eastings|east|e|rechtswert|rw|ostwert|xutm|utmx|este|estings?|ostlich|oosting|coordest|utme'),
  north: named(
    'northing|northings|north|n|hochwert|hw|nordwert|yutm|utmy|norte|nordings?|nordlich|noording|coordnord|utmn',
  ),
  x: named('x|xcoords?|xcoordinates?|xkoordinate|coordinatex|coordenadax|coordonneex|koordinatex|posx|xpos|xwert'),
  y: named('y|ycoords?|ycoordinates?|ykoordinate|coordinatey|coordenaday|coordonneey|koordinatey|posy|ypos|ywert'),
  shape: /^(?:wkt|geom|geometry|thegeom|shape|wkbgeometry|geometrywkt|wktgeometry|geometrie|geometria)$/,
  pair: /^(?:coordinates?|coords|latlon|latlong|lonlat|position|location|place|point|koordinaten?|coordenadas|coordonnees|posizione|standort|lage)$/,
} as const;

/** How the rows of a table say where they lie. */
type Placing =
  | {
      readonly kind: 'pair';
      readonly x: number;
      readonly y: number;
      readonly planar: boolean;
      /** Whether the names say which is which. */
      readonly named: boolean;
    }
  | { readonly kind: 'shape'; readonly at: number }
  | { readonly kind: 'text'; readonly at: number }
  | { readonly kind: 'none' };

/** Reads tables (CSV and the like): see {@link FileReader}; a row without a place, or with one that cannot be read, is kept without a geometry. */
export const tableReader: FileReader = {
  async read({ name, bytes }, warnings, { progress, part, strict = false, x, y }) {
    const text = decodeText(bytes, warnings);
    const { names, rows, commas } = rowsOf(text, /\.tsv$/i.test(name) ? '\t' : undefined, warnings, part);
    const placing = settle(part, 'placing', () => placingOf(names, rows, { x, y }));
    if (placing.kind === 'none' && !part?.lines)
      warnings.add(
        'doubtful.no-place',
        `no column contains the location of the rows (${names.slice(0, 8).join(', ')}${names.length > 8 ? ', …' : ''})`,
        `${likely(names)}Name the columns with --x and --y, or call them "lon" and "lat", or one "wkt"; or join the table to features that have a place.`,
      );
    const forms = settle(part, 'columns', () =>
      names.map((_, c) =>
        formOf(
          rows.map(({ cells }) => cells[c] ?? ''),
          commas,
        ),
      ),
    );
    if (!part?.lines)
      forms.forEach((form, c) => {
        if (form.grouped)
          warnings.add(
            'mended.grouped',
            'numbers have separators of thousands',
            'They were read as numbers, as the whole column has them.',
            names[c],
          );
      });
    const placeColumns = placing.kind === 'pair' ? [placing.x, placing.y] : placing.kind === 'none' ? [] : [placing.at];
    const sheet: TableSheet = { names, placing, forms, commas, warnings, srid: undefined };
    const records = new Records(warnings, strict);
    const features = rows.map(({ cells, line }, i): FileFeature => {
      if (i % often === 0) progress?.(i / rows.length);
      const properties: Record<string, unknown> = {};
      names.forEach((column, c) => {
        const cell = (cells[c] ?? '').trim();
        if (cell === '' || placeColumns.includes(c)) return;
        // A file that is read in parts may have texts behind its first numbers.
        properties[column] = forms[c].read(cell) ?? cell;
      });
      const geometry = records.geometry(`line ${line}`, () => geometryOf(cells, line, sheet));
      if (!geometry && placing.kind !== 'none' && !placeColumns.some((c) => (cells[c] ?? '').trim()))
        warnings.add('doubtful.rows', 'rows have no location', 'They were kept and are not drawn.', `line ${line}`);
      return { type: 'Feature', geometry, properties };
    });
    if (!part) records.finish(features);
    return [
      {
        name: name.replace(/\.[^.]*$/, ''),
        features,
        axesNamed: placing.kind === 'pair' && placing.named,
        placeOf: (i) => `line ${rows[i].line}`,
        ...(await systemOf(sheet, features)),
      },
    ];
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
  readonly forms: readonly ColumnForm[];
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
  separator: string | undefined,
  warnings: WarningList,
  part: FilePart | undefined,
): { names: string[]; rows: Row[]; commas: boolean } {
  const source = text.replace(/^\uFEFF/, '').replace(/^sep=(.)\r?\n/i, '');
  const { data, errors, meta } = Papa.parse<string[]>(source, { delimiter: separator ?? separatorOf(source) });
  assertQuotes(errors);
  // Every part begins with the line of names.
  let line = 1;
  const all = data.map((cells): Row => {
    const row = { cells, line: line === 1 ? 1 : line + (part?.lines ? part.lines - 1 : 0) };
    line += 1 + cells.reduce((sum, cell) => sum + (cell.match(/\n/g)?.length ?? 0), 0);
    return row;
  });
  const filled = all.filter(({ cells }) => cells.some((cell) => cell.trim() !== ''));
  if (!filled.length) throw new Fault('table.empty', 'the table is empty', 'The first line must name the columns.');
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

/** How the cells of a column become values. */
interface ColumnForm {
  /** The number of a cell; undefined for a text. */
  read(cell: string): number | undefined;
  /** Whether its numbers have separators of thousands. */
  readonly grouped: boolean;
}

const asText: ColumnForm = { read: () => undefined, grouped: false };

/** The form of a column: numbers where all its filled cells agree in how they write them, and texts otherwise. */
function formOf(cells: readonly string[], commas: boolean): ColumnForm {
  const filled = cells.map((cell) => cell.trim()).filter(Boolean);
  if (!filled.length) return asText;
  const plainly: ColumnForm = {
    read: (cell) => (isNumber(cell, commas) && !isTooLong(toPoint(cell, commas)) ? toNumber(cell, commas) : undefined),
    grouped: false,
  };
  if (filled.every((cell) => plainly.read(cell) !== undefined)) return plainly;
  for (const { pattern, plain: ungrouped, toNumber: convert } of groupings) {
    const read = (cell: string) => (pattern.test(cell) || ungrouped.test(cell) ? convert(cell) : undefined);
    if (
      filled.some((cell) => pattern.test(cell)) &&
      filled.every((cell) => Number.isSafeInteger(Math.trunc(read(cell) ?? NaN)))
    )
      return { read, grouped: true };
  }
  return asText;
}

const isNumber = (cell: string, commas: boolean) => withPoint.test(cell) || (commas && withComma.test(cell));

const toPoint = (cell: string, commas: boolean) => (commas ? cell.replace(',', '.') : cell);
const toNumber = (cell: string, commas: boolean) => Number(toPoint(cell, commas));

function placingOf(
  names: readonly string[],
  rows: readonly Row[],
  { x: ownX, y: ownY }: { readonly x: string | undefined; readonly y: string | undefined },
): Placing {
  if (ownX !== undefined || ownY !== undefined) return statedPlacing(names, ownX, ownY);
  const plains = names.map(plain);
  const find = (pattern: RegExp) => plains.findIndex((name) => pattern.test(name));
  const sample = (c: number) => rows.map(({ cells }) => (cells[c] ?? '').trim()).find(Boolean) ?? '';
  const shape = plains.findIndex((name, c) => columnNames.shape.test(name) && looksLikeWkt(sample(c)));
  if (shape >= 0) return { kind: 'shape', at: shape };
  for (const [first, second, planar, named] of [
    ['lon', 'lat', false, true],
    ['east', 'north', true, true],
    ['x', 'y', false, false],
  ] as const) {
    const [x, y] = [find(columnNames[first]), find(columnNames[second])];
    if (x >= 0 && y >= 0) return { kind: 'pair', x, y, planar, named };
  }
  const text = plains.findIndex((name, c) => columnNames.pair.test(name) && readAnglePair(sample(c)));
  if (text >= 0) return { kind: 'text', at: text };
  const anyShape = names.findIndex((_, c) => looksLikeWkt(sample(c)));
  return anyShape >= 0 ? { kind: 'shape', at: anyShape } : { kind: 'none' };
}

/** @throws Fault `table.columns` for columns that do not exist, or one without the other */
function statedPlacing(names: readonly string[], x: string | undefined, y: string | undefined): Placing {
  const [atX, atY] = [x, y].map((name) => (name === undefined ? -1 : names.indexOf(name)));
  if (atX >= 0 && atY >= 0 && atX !== atY) return { kind: 'pair', x: atX, y: atY, planar: false, named: true };
  const missing = [x, y].filter((name) => name !== undefined && !names.includes(name));
  throw new Fault(
    'table.columns',
    missing.length
      ? `the table has no column ${missing.map((name) => `"${name}"`).join(' and ')}`
      : 'two different columns are needed for x and y',
    `Name both x and y; the columns are ${names.join(', ')}.`,
  );
}

function geometryOf(cells: readonly string[], line: number, sheet: TableSheet): FileGeometry | null {
  const { placing, commas, warnings, names, forms } = sheet;
  const at = `line ${line}`;
  if (placing.kind === 'none') return null;
  if (placing.kind === 'shape') {
    const cell = (cells[placing.at] ?? '').trim();
    if (!cell) return null;
    const { geometry, srid, measured } = parseGeometryText(cell, at);
    if (measured) warnings.measures(at);
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
  if (!x && !y) return null;
  if (!x || !y) throw unreadable('', names[x ? placing.y : placing.x], at);
  const value = (cell: string, column: number): number => {
    const number = forms[column].read(cell);
    if (number !== undefined) return number;
    if (isNumber(cell.replace(/^\+/, ''), commas)) return toNumber(cell, commas);
    const angle = readAngle(cell);
    if (!angle) throw unreadable(cell, names[column], at);
    return angle.degrees;
  };
  return { type: 'Point', coordinates: [value(x, placing.x), value(y, placing.y)] };
}

const unreadable = (cell: string, column: string, at: string) =>
  new Fault(
    'table.angle',
    cell ? `"${cell}" in the column "${column}" is not a coordinate` : `the column "${column}" is empty`,
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
  write(layers: readonly FileLayer[], warnings, { ending } = {}) {
    const whole = joined(layers);
    const { crs } = whole;
    const features = idsAsAttributes(whole.features);
    const placed = features.filter(({ geometry }) => geometry);
    const points =
      placed.length > 0 &&
      placed.every(({ geometry }) => geometry?.type === 'Point' && geometry.coordinates.length < 3);
    const [x, y] = crs?.isGeographic === false ? ['x', 'y'] : ['lon', 'lat'];
    const keys = [...new Set(features.flatMap(({ properties }) => Object.keys(properties)))];
    const head = placed.length ? (points ? [x, y] : ['wkt']) : keys.length ? [] : [x, y];
    if (placed.length && !points) tellUneven(features, warnings);
    const taken = new Set<string>(head);
    const labels = keys.map((key) => {
      let label = key.trim() || 'column';
      for (let k = 2; taken.has(label); k++) label = `${key.trim() || 'column'}_${k}`;
      taken.add(label);
      if (label !== key)
        warnings.add(
          'mended.name',
          'names of attributes are not free in a table',
          'They were changed.',
          `${key} → ${label}`,
        );
      return label;
    });
    const rows = features.map(({ geometry, properties }) => [
      ...(points
        ? ((geometry as { coordinates?: number[] } | null)?.coordinates ?? ['', ''])
        : head.length
          ? head.map(() => (geometry ? geometryText(geometry) : ''))
          : []),
      ...keys.map((key) => {
        const value = properties[key];
        return typeof value === 'object' && value !== null ? JSON.stringify(value) : value;
      }),
    ]);
    rows.forEach((row, i) => {
      if (row.every((cell) => cell === null || cell === undefined || cell === ''))
        warnings.add(
          'skipped.empty',
          'features have neither a geometry nor attributes',
          'Their rows are empty and are skipped when the table is read.',
          `feature ${i + 1}`,
        );
    });
    // Records end with CRLF (RFC 4180, section 2).
    const text = Papa.unparse(
      { fields: [...head, ...labels], data: rows },
      { newline: '\r\n', delimiter: ending === 'tsv' ? '\t' : ',' },
    );
    return Promise.resolve(new TextEncoder().encode(rows.length ? `${text}\r\n` : text));
  },
};
