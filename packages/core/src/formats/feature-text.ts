import type { FeatureBlock } from '../features/block.js';
import type { FeatureFormat, FeatureTextOptions } from './feature-format.js';
import { isGeoJsonLines, readGeoJson, readGeoJsonLines } from './geojson/read.js';
import { scanPoints } from './geojson/scan-points.js';
import { featuresOfCsv, looksLikeTable } from './table/read.js';
import { scanTable } from './table/scan.js';

/** The formats, in the order in which they are asked. GeoJSON comes last: it takes what no other recognizes. */
export const featureFormats: readonly FeatureFormat[] = [
  {
    name: 'CSV',
    endings: ['csv', 'tsv'],
    recognizes: looksLikeTable,
    read: (text, { name, space, placeless }) => featuresOfCsv(text, name, space, placeless),
  },
  {
    name: 'GeoJSON lines',
    endings: ['ndjson', 'geojsonl', 'geojsons', 'jsonl', 'geojson', 'json'],
    recognizes: isGeoJsonLines,
    read: (text, options) => readGeoJsonLines(text, options),
  },
  {
    name: 'GeoJSON',
    endings: ['geojson', 'json'],
    recognizes: () => true,
    read: (text, options) => readGeoJson(text, options),
  },
];

/**
 * The format of a text: by the ending of its file, and by its beginning where the ending leaves a choice.
 *
 * @param text the whole text
 * @param path path or address of the file; default none
 */
export function formatOf(text: string, path = ''): FeatureFormat {
  const ending = /\.([a-z0-9]+)(\.gz)?$/i.exec(path)?.[1].toLowerCase();
  const named = featureFormats.filter(({ endings }) => ending !== undefined && endings.includes(ending));
  const asked = named.length ? named : featureFormats;
  return asked.find((format) => format.recognizes(text)) ?? asked[asked.length - 1];
}

/**
 * Reads the bytes of a file of one of these formats. Points in GeoJSON and in plain CSV are read straight from the bytes.
 *
 * @param bytes UTF-8, unpacked
 * @param options name of the block, space, id attribute
 * @param path path or address of the file; default none
 * @throws Fault with the place that is at fault
 */
export function readFeatureBytes(bytes: Uint8Array, options: FeatureTextOptions, path = ''): FeatureBlock {
  const points = scanPoints(bytes, options) ?? scanTable(bytes, options.name, options.space === 'lonlat');
  if (points) return points;
  const text = new TextDecoder().decode(bytes);
  return formatOf(text, path).read(text, options);
}
