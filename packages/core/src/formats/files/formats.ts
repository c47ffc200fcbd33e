// The one list of feature files that are known. A format is a folder with a reader, a writer or both, fetched when it is asked for.
import type { FileReader, FileWriter } from './feature-file.js';

/** A format of feature files. */
export interface FileFormat {
  /** Display name. */
  readonly name: string;
  /** File name extensions in lower case, without the dot; the first is used for writing. */
  readonly endings: readonly string[];
  /** Returns whether bytes look like this format. `text` is their beginning as text. */
  recognizes(bytes: Uint8Array, text: string): boolean;
  readonly reader?: () => Promise<FileReader>;
  readonly writer?: () => Promise<FileWriter>;
}

const startsWith = (bytes: Uint8Array, ...head: number[]) => head.every((byte, i) => bytes[i] === byte);
const zipMark = [0x50, 0x4b, 0x03, 0x04];
/** Names in the directory of an archive stand in it as they are. */
const zipHolds = (bytes: Uint8Array, ending: RegExp) =>
  startsWith(bytes, ...zipMark) &&
  ending.test(new TextDecoder('iso-8859-1').decode(bytes.subarray(-Math.min(bytes.length, 65536))));
const xmlRoot = (text: string) => /<(?![?!])(?:[\w.-]+:)?([\w.-]+)/.exec(text.replace(/<!--.*?-->/gs, ''))?.[1];
const sqlite = (bytes: Uint8Array) => new TextDecoder('iso-8859-1').decode(bytes.subarray(0, 15)) === 'SQLite format 3';
/** The schema of a database stands in its first pages. */
const databaseHas = (bytes: Uint8Array, word: string) =>
  sqlite(bytes) && new TextDecoder('iso-8859-1').decode(bytes.subarray(0, 1 << 20)).includes(word);
const isGeoJson = (text: string) =>
  /^\s*[[{]/.test(text) &&
  /"type"\s*:\s*"(Feature(Collection)?|(Multi)?(Point|LineString|Polygon)|GeometryCollection)"/.test(text);

/** All formats that can be read or written, in the order in which they are tried. */
export const fileFormats: readonly FileFormat[] = [
  {
    name: 'Shapefile',
    endings: ['shp', 'zip'],
    recognizes: (bytes) => startsWith(bytes, 0, 0, 0x27, 0x0a) || zipHolds(bytes, /\.shp/i),
    reader: async () => (await import('../shapefile/read.js')).shapefileReader,
    writer: async () => (await import('../shapefile/write.js')).shapefileWriter,
  },
  {
    name: 'KMZ',
    endings: ['kmz'],
    recognizes: (bytes) => zipHolds(bytes, /\.kml/i),
    reader: async () => (await import('../kml/read.js')).kmlReader,
    writer: async () => (await import('../kml/write.js')).kmzWriter,
  },
  {
    name: 'KML',
    endings: ['kml'],
    recognizes: (_, text) => xmlRoot(text) === 'kml',
    reader: async () => (await import('../kml/read.js')).kmlReader,
    writer: async () => (await import('../kml/write.js')).kmlWriter,
  },
  {
    name: 'GPX',
    endings: ['gpx'],
    recognizes: (_, text) => xmlRoot(text) === 'gpx',
    reader: async () => (await import('../gpx/read.js')).gpxReader,
    writer: async () => (await import('../gpx/write.js')).gpxWriter,
  },
  {
    name: 'GeoPackage',
    endings: ['gpkg'],
    recognizes: (bytes) => databaseHas(bytes, 'gpkg_contents'),
    reader: async () => (await import('../geopackage/read.js')).geoPackageReader,
    writer: async () => (await import('../geopackage/write.js')).geoPackageWriter,
  },
  {
    name: 'MBTiles',
    endings: ['mbtiles'],
    recognizes: (bytes) => databaseHas(bytes, 'tile_column'),
    reader: async () => (await import('../archive/tiles.js')).mbtilesReader,
  },
  {
    name: 'PMTiles 3',
    endings: ['pmtiles'],
    recognizes: (_, text) => text.startsWith('PMTiles'),
    reader: async () => (await import('../archive/tiles.js')).pmtilesReader,
  },
  {
    name: 'vector tile',
    endings: ['mvt', 'pbf'],
    recognizes: () => false,
    reader: async () => (await import('../archive/tiles.js')).tileReader,
  },
  {
    name: 'gazetteer',
    endings: ['gazetteer'],
    recognizes: (_, text) => text.startsWith('FWPLACES'),
    reader: async () => (await import('../gazetteer/file.js')).gazetteerReader,
    writer: async () => (await import('../gazetteer/file.js')).gazetteerWriter,
  },
  {
    name: 'TopoJSON',
    endings: ['topojson'],
    recognizes: (_, text) => /^\s*\{/.test(text) && /"type"\s*:\s*"Topology"/.test(text),
    reader: async () => (await import('../topojson/read.js')).topoJsonReader,
    writer: async () => (await import('../topojson/write.js')).topoJsonWriter,
  },
  {
    name: 'GeoJSON text sequence',
    endings: ['geojsons'],
    recognizes: (bytes) => bytes[0] === 0x1e,
    reader: async () => (await import('../geojson/file.js')).geoJsonReader,
    writer: async () => (await import('../geojson/file.js')).geoJsonSequenceWriter,
  },
  {
    name: 'GeoJSON lines',
    endings: ['geojsonl', 'ndjson', 'jsonl'],
    recognizes: (_, text) =>
      isGeoJson(text.split('\n', 1)[0]) && /\n\s*\{\s*"/.test(text) && /\}\s*$/.test(text.split('\n', 1)[0]),
    reader: async () => (await import('../geojson/file.js')).geoJsonReader,
    writer: async () => (await import('../geojson/file.js')).geoJsonLinesWriter,
  },
  {
    name: 'GeoJSON',
    endings: ['geojson', 'json'],
    recognizes: (_, text) => isGeoJson(text),
    reader: async () => (await import('../geojson/file.js')).geoJsonReader,
    writer: async () => (await import('../geojson/file.js')).geoJsonWriter,
  },
  {
    name: 'well-known text',
    endings: ['wkt'],
    recognizes: (_, text) =>
      /^\s*(SRID\s*=\s*\d+\s*;\s*)?(MULTI)?(POINT|LINESTRING|POLYGON|GEOMETRYCOLLECTION)\s*(Z|M|ZM)?\s*(\(|EMPTY)/i.test(
        text,
      ),
    reader: async () => (await import('../wkt/file.js')).wktReader,
    writer: async () => (await import('../wkt/file.js')).wktWriter,
  },
  {
    name: 'well-known binary',
    endings: ['wkb'],
    recognizes: (bytes, text) =>
      (startsWith(bytes, 1) && bytes[1] < 18 && bytes.length > 8) ||
      /^0[01][0-9a-f]{8}[0-9a-f]+\s*$/i.test(text.split('\n', 1)[0]),
    reader: async () => (await import('../wkt/file.js')).wkbReader,
    writer: async () => (await import('../wkt/file.js')).wkbWriter,
  },
  {
    name: 'CSV',
    endings: ['csv', 'tsv', 'txt'],
    recognizes: (_, text) => /^\s*[^\s<{[][^\n]*[,;\t|]/.test(text) && !text.slice(0, 512).includes('\u0000'),
    reader: async () => (await import('../table/file.js')).tableReader,
    writer: async () => (await import('../table/file.js')).tableWriter,
  },
];

/** What a format that is not read is called, by its mark or its ending, and how to get something that is. */
const strangers: readonly {
  readonly name: string;
  readonly how: string;
  recognizes(bytes: Uint8Array, text: string, ending: string): boolean;
}[] = [
  {
    name: 'a table of a spreadsheet (XLSX)',
    how: 'Save the sheet as CSV.',
    recognizes: (bytes, _, ending) => ending === 'xlsx' || zipHolds(bytes, /xl\/workbook/),
  },
  {
    name: 'a table of a spreadsheet (XLS)',
    how: 'Save the sheet as CSV.',
    recognizes: (bytes) => startsWith(bytes, 0xd0, 0xcf, 0x11, 0xe0),
  },
  {
    name: 'a table of a spreadsheet (ODS)',
    how: 'Save the sheet as CSV.',
    recognizes: (bytes, _, ending) => ending === 'ods' || zipHolds(bytes, /content\.xml/),
  },
  {
    name: 'a drawing (DXF)',
    how: 'Export its layers as shapefile or GeoJSON.',
    recognizes: (_, text, ending) => ending === 'dxf' || /^\s*0\s*\r?\n\s*SECTION/.test(text),
  },
  {
    name: 'a drawing (DWG)',
    how: 'Export its layers as shapefile or GeoJSON.',
    recognizes: (_, text) => /^AC10\d\d/.test(text),
  },
  {
    name: 'a picture with a place (GeoTIFF)',
    how: 'Cut it into picture tiles, or save it as PNG and lay it over the map with "bounds".',
    recognizes: (bytes) => startsWith(bytes, 0x49, 0x49, 0x2a) || startsWith(bytes, 0x4d, 0x4d, 0x00, 0x2a),
  },
  {
    name: 'a PNG picture',
    how: 'Lay it over the map as data with "images" and "bounds".',
    recognizes: (bytes) => startsWith(bytes, 0x89, 0x50, 0x4e, 0x47),
  },
  {
    name: 'a JPEG picture',
    how: 'Lay it over the map as data with "images" and "bounds".',
    recognizes: (bytes) => startsWith(bytes, 0xff, 0xd8, 0xff),
  },
  {
    name: 'a PDF document',
    how: 'Ask for the data that it was made from.',
    recognizes: (_, text) => text.startsWith('%PDF'),
  },
  {
    name: 'GML',
    how: 'Ask the service for GeoJSON (outputFormat=application/json), or export it as GeoPackage.',
    recognizes: (_, text) =>
      /<(?:\w+:)?FeatureCollection\b[^>]*opengis\.net\/(gml|wfs)/s.test(text) ||
      /^\s*<\?xml[^]*xmlns:gml=/.test(text.slice(0, 4096)),
  },
  {
    name: 'an HTML page',
    how: 'The address leads to a page, not to data; a login or a mistake in it may be why.',
    recognizes: (_, text) => /^\s*(<!doctype html|<html)/i.test(text),
  },
  { name: 'a Parquet table', how: 'Export it as GeoPackage or CSV.', recognizes: (_, text) => text.startsWith('PAR1') },
  { name: 'FlatGeobuf', how: 'Export it as GeoPackage or GeoJSON.', recognizes: (_, text) => text.startsWith('fgb') },
  { name: 'a 7z archive', how: 'Extract it first.', recognizes: (bytes) => startsWith(bytes, 0x37, 0x7a, 0xbc, 0xaf) },
  { name: 'a RAR archive', how: 'Extract it first.', recognizes: (_, text) => text.startsWith('Rar!') },
];

export const endingOf = (name: string): string => /\.([a-z0-9]+)(?:\.gz)?$/i.exec(name)?.[1].toLowerCase() ?? '';

/** The beginning of a file as text, whatever its encoding. */
export function beginning(bytes: Uint8Array): string {
  const head = bytes.subarray(0, 4096);
  if (head[0] === 0xff && head[1] === 0xfe) return new TextDecoder('utf-16le').decode(head);
  if (head[0] === 0xfe && head[1] === 0xff) return new TextDecoder('utf-16be').decode(head);
  const text = new TextDecoder('utf-8').decode(head).replace(/^\uFEFF/, '');
  // UTF-16 without a mark shows as every other character nought.
  return text[1] === '\u0000' && text[0] !== '\u0000' ? text.replaceAll('\u0000', '') : text;
}

/** The format of some bytes: by what they hold, and by their name where that leaves it open. */
export function recognize(name: string, bytes: Uint8Array): FileFormat | undefined {
  const text = beginning(bytes);
  const ending = endingOf(name);
  const known = fileFormats.find((format) => format.recognizes(bytes, text) && format.name !== 'CSV');
  if (known) return known;
  if (strangers.some((stranger) => stranger.recognizes(bytes, text, ending))) return undefined;
  const named = fileFormats.find(({ endings }) => endings.includes(ending));
  // A text that a name claims to be something else is taken at its word only where nothing speaks against it.
  if (named && named.name !== 'Shapefile') return named;
  return fileFormats.find((format) => format.recognizes(bytes, text));
}

/** What a file of a format that is not read is, and how to get something that is. */
export function stranger(name: string, bytes: Uint8Array): { readonly name: string; readonly how: string } | undefined {
  const text = beginning(bytes);
  return strangers.find((one) => one.recognizes(bytes, text, endingOf(name)));
}
