import type { FeatureFormat } from './feature-format.js';
import { isGeoJsonLines, readGeoJson, readGeoJsonLines } from './geojson/read.js';
import { blockOfTable, hasPlaces, looksLikeTable, pointsOfTable, readTable } from './table/read.js';

/** The formats, in the order in which they are asked. GeoJSON comes last: it takes what no other recognizes. */
export const featureFormats: readonly FeatureFormat[] = [
  {
    name: 'CSV',
    endings: ['csv', 'tsv'],
    recognizes: looksLikeTable,
    read(text, { name, space, placeless }) {
      const table = readTable(text);
      return placeless && !hasPlaces(table) ? blockOfTable(table, name) : pointsOfTable(table, name, space);
    },
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
