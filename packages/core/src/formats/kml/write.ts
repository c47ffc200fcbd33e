import { element, escaped } from '../../base/xml.js';
import type { FileFeature, FileGeometry, FileLayer, FilePosition, FileWriter } from '../files/feature-file.js';
import { inLonLat } from '../files/system.js';
import { zip } from '../zip/unpack.js';

const head = '<?xml version="1.0" encoding="UTF-8"?>\n';
const known = new Set(['name', 'description', 'folder', 'fill', 'stroke', 'stroke_width', 'mark_color']);

const tuple = (position: FilePosition) => position.join(',');
const list = (positions: readonly FilePosition[]) => element('coordinates', {}, positions.map(tuple).join(' '));

function geometryOf(geometry: FileGeometry): string {
  const lift = (positions: readonly FilePosition[]) =>
    positions.some((p) => p.length > 2) ? element('altitudeMode', {}, 'absolute') : undefined;
  const polygon = (rings: readonly (readonly FilePosition[])[]) =>
    element(
      'Polygon',
      {},
      lift(rings[0]),
      rings.map((ring, i) =>
        element(i ? 'innerBoundaryIs' : 'outerBoundaryIs', {}, element('LinearRing', {}, list(ring))),
      ),
    );
  const point = (p: FilePosition) => element('Point', {}, lift([p]), list([p]));
  const line = (positions: readonly FilePosition[]) => element('LineString', {}, lift(positions), list(positions));
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
      return many(geometry.geometries.map(geometryOf));
  }
}

/** `#rrggbb[aa]` as KML writes it; other forms of colours have no counterpart. */
function kmlColour(value: unknown): string | undefined {
  const [, red, green, blue, alpha = 'ff'] =
    /^#([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})?$/i.exec(typeof value === 'string' ? value : '') ?? [];
  return red === undefined ? undefined : `${alpha}${blue}${green}${red}`.toLowerCase();
}

function styleOf({ properties }: FileFeature): string | undefined {
  const [stroke, fill, mark] = ['stroke', 'fill', 'mark_color'].map((key) => kmlColour(properties[key]));
  const width = properties['stroke_width'];
  if (stroke === undefined && fill === undefined && mark === undefined) return undefined;
  const color = (value: string | undefined) => (value === undefined ? undefined : element('color', {}, value));
  return element(
    'Style',
    {},
    mark === undefined ? undefined : element('IconStyle', {}, color(mark)),
    stroke === undefined
      ? undefined
      : element(
          'LineStyle',
          {},
          color(stroke),
          typeof width === 'number' ? element('width', {}, String(width)) : undefined,
        ),
    fill === undefined ? undefined : element('PolyStyle', {}, color(fill)),
  );
}

function placemark(feature: FileFeature): string {
  const { properties, geometry, id } = feature;
  const text = (key: string) =>
    ['string', 'number', 'boolean'].includes(typeof properties[key])
      ? element(key, {}, escaped(String(properties[key])))
      : undefined;
  const data = Object.entries(properties)
    .filter(([key, value]) => value !== null && value !== undefined && !(known.has(key) && typeof value !== 'object'))
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
    text('name'),
    text('description'),
    styleOf(feature),
    data.length ? element('ExtendedData', {}, data) : undefined,
    geometry ? geometryOf(geometry) : undefined,
  );
}

function folders(features: readonly FileFeature[]): string[] {
  const loose: string[] = [];
  const groups = new Map<string, string[]>();
  for (const feature of features) {
    const folder = feature.properties['folder'];
    if (typeof folder !== 'string' || !folder) loose.push(placemark(feature));
    else if (groups.has(folder)) groups.get(folder)!.push(placemark(feature));
    else groups.set(folder, [placemark(feature)]);
  }
  return [
    ...loose,
    ...[...groups].map(([name, inner]) => element('Folder', {}, element('name', {}, escaped(name)), inner)),
  ];
}

function documentOf(layers: readonly FileLayer[]): Uint8Array {
  const placed = layers.map(inLonLat);
  const body =
    placed.length === 1
      ? [element('name', {}, escaped(placed[0].name)), ...folders(placed[0].features)]
      : placed.map(({ name, features }) =>
          element('Folder', {}, element('name', {}, escaped(name)), folders(features)),
        );
  const kml = element('kml', { xmlns: 'http://www.opengis.net/kml/2.2' }, element('Document', {}, body));
  return new TextEncoder().encode(`${head}${kml}\n`);
}

/** Writes KML 2.2 (OGC 07-147r2): longitude and latitude on WGS 84, attributes as ExtendedData. */
export const kmlWriter: FileWriter = { write: (layers) => Promise.resolve(documentOf(layers)) };

/** Writes KMZ: the same document, packed. */
export const kmzWriter: FileWriter = { write: (layers) => Promise.resolve(zip({ 'doc.kml': documentOf(layers) })) };
