import { element, escaped, type Inner } from '../../base/xml.js';
import { decimalText } from '../decimal.js';
import type { FileFeature, FileGeometry, FileLayer, FilePosition, FileWriter } from '../files/feature-file.js';
import { idsAsAttributes } from '../files/ids.js';
import { inLonLat } from '../files/system.js';
import type { WarningList } from '../files/warnings.js';
import { zip } from '../zip/unpack.js';

const head = '<?xml version="1.0" encoding="UTF-8"?>\n';
/** Namespace of tracks with times, an extension of KML 2.2 that became part of 2.3 (OGC 12-007r2, section 11.6). */
const trackSpace = 'http://www.google.com/kml/ext/2.2';

type Json = Readonly<Record<string, unknown>>;

const tuple = (position: FilePosition) => position.map(decimalText).join(',');
const list = (positions: readonly FilePosition[]) => element('coordinates', {}, positions.map(tuple).join(' '));

/** A date or time as dateTimeType has it (07-147r2, section 16.23): a date and time, a date, a month or a year. */
const isTime = (value: unknown): value is string =>
  typeof value === 'string' &&
  /^-?\d{4,}(-(0[1-9]|1[0-2])(-(0[1-9]|[12]\d|3[01])(T([01]\d|2[0-3]):[0-5]\d:[0-5]\d(\.\d+)?(Z|[+-](0\d|1[0-3]):[0-5]\d)?)?)?)?$/.test(
    value,
  );

const altitudeModes: readonly unknown[] = ['clampToGround', 'relativeToGround', 'absolute'];

/** What lies beside the coordinates in a geometry, in the order of the schema. */
function modes(
  positions: readonly FilePosition[],
  { extrude, tessellate, altitudeMode }: Json,
  isPoint = false,
): Inner {
  const isHigh = positions.some((position) => position.length > 2);
  return [
    extrude === 1 ? element('extrude', {}, '1') : undefined,
    tessellate === 1 && !isPoint ? element('tessellate', {}, '1') : undefined,
    altitudeModes.includes(altitudeMode)
      ? element('altitudeMode', {}, altitudeMode as string)
      : isHigh
        ? element('altitudeMode', {}, 'absolute')
        : undefined,
  ];
}

function geometryOf(geometry: FileGeometry, properties: Json): string {
  const polygon = (rings: readonly (readonly FilePosition[])[]) =>
    element(
      'Polygon',
      {},
      modes(rings[0], properties),
      rings.map((ring, i) =>
        element(i ? 'innerBoundaryIs' : 'outerBoundaryIs', {}, element('LinearRing', {}, list(ring))),
      ),
    );
  const point = (p: FilePosition) => element('Point', {}, modes([p], properties, true), list([p]));
  const line = (positions: readonly FilePosition[]) =>
    element('LineString', {}, modes(positions, properties), list(positions));
  const many = (parts: readonly string[]) => element('MultiGeometry', {}, parts);
  switch (geometry.type) {
    case 'Point':
      return point(geometry.coordinates);
    case 'LineString':
      return line(geometry.coordinates);
    case 'Polygon':
      return polygon(geometry.coordinates);
    case 'MultiPoint':
      return many(geometry.coordinates.map(point));
    case 'MultiLineString':
      return many(geometry.coordinates.map(line));
    case 'MultiPolygon':
      return many(geometry.coordinates.map(polygon));
    case 'GeometryCollection':
      return many(geometry.geometries.map((member) => geometryOf(member, properties)));
  }
}

/** A line as a track, where the attribute `times` has a time for each of its places; undefined otherwise. */
function trackOf({ geometry, properties }: FileFeature): string | undefined {
  const lines =
    geometry?.type === 'LineString'
      ? [geometry.coordinates]
      : geometry?.type === 'MultiLineString'
        ? geometry.coordinates
        : [];
  const times = properties['times'];
  if (!lines.length || !Array.isArray(times) || times.length !== lines.length) return undefined;
  if (!lines.every((line, i) => Array.isArray(times[i]) && times[i].length === line.length && times[i].every(isTime)))
    return undefined;
  const tracks = lines.map((line, s) =>
    element(
      'gx:Track',
      {},
      modes(line, { altitudeMode: properties['altitudeMode'] }),
      (times[s] as string[]).map((time) => element('when', {}, time)),
      line.map((place) => element('gx:coord', {}, place.map(decimalText).join(' '))),
    ),
  );
  return tracks.length === 1 ? tracks[0] : element('gx:MultiTrack', {}, tracks);
}

/** `#rrggbb[aa]` as KML writes it; other forms of colors have no counterpart. */
function kmlColor(value: unknown): string | undefined {
  const [, red, green, blue, alpha = 'ff'] =
    /^#([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})?$/i.exec(typeof value === 'string' ? value : '') ?? [];
  return red === undefined ? undefined : `${alpha}${blue}${green}${red}`.toLowerCase();
}

/** What an element of a placemark says, and the attributes that it says. */
interface Said {
  readonly text: Inner;
  readonly names: readonly string[];
}

function styleOf(properties: Json): Said {
  const [stroke, fill, mark] = ['stroke', 'fill', 'mark_color'].map((key) => kmlColor(properties[key]));
  const width = properties['stroke_width'];
  const hasWidth = typeof width === 'number' && width >= 0 && Number.isFinite(width);
  const color = (value: string | undefined) => (value === undefined ? undefined : element('color', {}, value));
  const names = [
    mark !== undefined && 'mark_color',
    stroke !== undefined && 'stroke',
    hasWidth && 'stroke_width',
    fill !== undefined && 'fill',
  ].filter((name) => name !== false);
  if (!names.length) return { text: undefined, names };
  const text = element(
    'Style',
    {},
    mark === undefined ? undefined : element('IconStyle', {}, color(mark)),
    stroke === undefined && !hasWidth
      ? undefined
      : element('LineStyle', {}, color(stroke), hasWidth ? element('width', {}, decimalText(width)) : undefined),
    fill === undefined ? undefined : element('PolyStyle', {}, color(fill)),
  );
  return { text, names };
}

/** A moment, or a span; only one of them stands in a placemark. */
function timeOf(properties: Json): Said {
  const { time, begin, end } = properties;
  if (isTime(time)) return { text: element('TimeStamp', {}, element('when', {}, time)), names: ['time'] };
  const names = [isTime(begin) && 'begin', isTime(end) && 'end'].filter((name) => name !== false);
  const text = names.map((name) => element(name, {}, properties[name] as string));
  return { text: names.length ? element('TimeSpan', {}, text) : undefined, names };
}

function placemark(feature: FileFeature, warnings: WarningList): string {
  const { properties, geometry, id } = feature;
  const written = new Set<string>(['folder'].filter((name) => typeof properties[name] === 'string'));
  const text = (key: string, name = key): Inner => {
    const value = properties[key];
    if (!['string', 'number', 'boolean'].includes(typeof value) || value === '') return undefined;
    written.add(key);
    return element(name, {}, escaped(typeof value === 'number' ? decimalText(value) : String(value)));
  };
  const hidden = properties['visibility'] === 0;
  const track = trackOf(feature);
  const [style, time] = [styleOf(properties), timeOf(properties)];
  const start: Inner[] = [
    text('name'),
    hidden ? element('visibility', {}, '0') : undefined,
    text('address'),
    text('phone', 'phoneNumber'),
    text('description'),
  ];
  for (const name of [...style.names, ...time.names, ...(hidden ? ['visibility'] : [])]) written.add(name);
  if (track !== undefined) written.add('times');
  else if (typeof properties['times'] === 'object' && properties['times'] !== null)
    warnings.add('changed.list', 'lists and objects became JSON text', 'Read them as JSON, or write GeoJSON.', 'times');
  if (geometry)
    for (const name of ['extrude', 'tessellate']) if (properties[name] === 1 && track === undefined) written.add(name);
  if (geometry && altitudeModes.includes(properties['altitudeMode'])) written.add('altitudeMode');
  const data = Object.entries(properties)
    .filter(([key, value]) => value !== null && value !== undefined && !written.has(key))
    .map(([key, value]) =>
      element(
        'Data',
        { name: key },
        element('value', {}, escaped(typeof value === 'object' ? JSON.stringify(value) : String(value))),
      ),
    );
  return element(
    'Placemark',
    id === undefined ? {} : { id: String(id) },
    start,
    time.text,
    style.text,
    data.length ? element('ExtendedData', {}, data) : undefined,
    track ?? (geometry ? geometryOf(geometry, properties) : undefined),
  );
}

/** `xs:ID`: a name without a colon (XML Schema part 2, section 3.3.8). */
const isXmlId = (id: unknown): id is string => typeof id === 'string' && /^[\p{L}_][\p{L}\p{N}\p{M}_.·-]*$/u.test(id);

/** Features with ids as the document may have them: names, each of them once. Where some are not, all of them become attributes. */
function withIds(layers: readonly FileLayer[], warnings: WarningList): FileLayer[] {
  const ids = layers.flatMap(({ features }) => features.flatMap(({ id }) => (id === undefined ? [] : [id])));
  if (ids.every(isXmlId) && new Set(ids).size === ids.length) return [...layers];
  warnings.add(
    'mended.id',
    'ids in KML are names that must be unique in the document',
    'The ids of the features became attributes.',
    String(ids.find((id, i) => !isXmlId(id) || ids.indexOf(id) < i)),
  );
  return layers.map((layer) => ({
    ...layer,
    features: idsAsAttributes(layer.features).map(({ id: _, ...feature }) => feature),
  }));
}

function folders(features: readonly FileFeature[], warnings: WarningList): string[] {
  const loose: string[] = [];
  const groups = new Map<string, string[]>();
  for (const feature of features) {
    const folder = feature.properties['folder'];
    if (typeof folder !== 'string' || !folder) loose.push(placemark(feature, warnings));
    else if (groups.has(folder)) groups.get(folder)!.push(placemark(feature, warnings));
    else groups.set(folder, [placemark(feature, warnings)]);
  }
  return [
    ...loose,
    ...[...groups].map(([name, inner]) => element('Folder', {}, element('name', {}, escaped(name)), inner)),
  ];
}

function documentOf(layers: readonly FileLayer[], warnings: WarningList): Uint8Array {
  const placed = withIds(layers, warnings).map(inLonLat);
  const body =
    placed.length === 1
      ? [element('name', {}, escaped(placed[0].name)), ...folders(placed[0].features, warnings)]
      : placed.map(({ name, features }) =>
          element('Folder', {}, element('name', {}, escaped(name)), folders(features, warnings)),
        );
  const hasTracks = body.some((part) => part.includes('<gx:'));
  const kml = element(
    'kml',
    { xmlns: 'http://www.opengis.net/kml/2.2', ...(hasTracks ? { 'xmlns:gx': trackSpace } : {}) },
    element('Document', {}, body),
  );
  return new TextEncoder().encode(`${head}${kml}\n`);
}

/**
 * Writes KML 2.2 (OGC 07-147r2): longitude and latitude on WGS 84, names, descriptions, times and looks in the elements that KML has for
 * them, all other attributes as ExtendedData, lines with a time for each place as tracks.
 */
export const kmlWriter: FileWriter = {
  write: (layers, warnings) => Promise.resolve(documentOf(layers, warnings)),
};

/** Writes KMZ: the same document, packed. */
export const kmzWriter: FileWriter = {
  write: (layers, warnings) => Promise.resolve(zip({ 'doc.kml': documentOf(layers, warnings) })),
};
