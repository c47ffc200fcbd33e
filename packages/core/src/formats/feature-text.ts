import type { FeatureBlock } from '../features/block.js';
import { isGeoJsonLines, readGeoJson, readGeoJsonLines } from './geojson/read.js';
import { blockOfTable, hasPlaces, looksLikeTable, pointsOfTable, readTable } from './table/read.js';

/** What a format needs to know to read features. */
export interface FeatureTextOptions {
  /** Name of the block. */
  readonly name: string;
  /** Coordinates are degrees of longitude and latitude (`lonlat`), or metres (`plan`) that nothing checks. */
  readonly space: 'lonlat' | 'plan';
  /** Attribute whose whole, non-negative number becomes the feature's id; default none. */
  readonly id?: string | undefined;
  /** Whether a table without places is read as features without geometry, in place of a fault; default false. */
  readonly placeless?: boolean | undefined;
}

/** A text format of features. The list {@link featureFormats} is the only place that knows which there are. */
export interface FeatureFormat {
  /** Its name, for people. */
  readonly name: string;
  /** Endings of its files, in lower case, without the dot. Several formats may share one. */
  readonly endings: readonly string[];
  /** Whether a text of unknown origin is of this format. It sees the whole text, and must be quick. */
  recognizes(text: string): boolean;
  /** @throws Fault with the place that is at fault */
  read(text: string, options: FeatureTextOptions): FeatureBlock;
}

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
