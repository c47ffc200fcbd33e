// Moorings and squares, as features held in memory.
import { readGeoJson, type FeatureBlock } from '@flintwright/core';

/** Longitude and latitude in degrees. */
export type Place = [number, number];

/** A mooring, or a square with its corner there. */
export interface Thing {
  readonly name: string;
  readonly at: Place;
  readonly berths?: number | undefined;
  readonly isArea: boolean;
}

export const square = ([x, y]: Place): Place[] => [
  [x, y],
  [x + 1, y],
  [x + 1, y + 1],
  [x, y],
];

/** A block of some things. */
export const blockOf = (things: readonly Thing[]): FeatureBlock =>
  readGeoJson({
    type: 'FeatureCollection',
    features: things.map(({ name, at, berths, isArea }) => ({
      type: 'Feature',
      properties: { name, ...(berths === undefined ? {} : { berths }) },
      geometry: isArea ? { type: 'Polygon', coordinates: [square(at)] } : { type: 'Point', coordinates: at },
    })),
  });
