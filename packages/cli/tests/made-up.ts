// Features and archives that the tests make up.
import { cutArchive } from '@flintwright/cli';

/** A point with attributes. */
export const point = (lon: number, lat: number, properties: object = {}) => ({
  type: 'Feature',
  properties,
  geometry: { type: 'Point', coordinates: [lon, lat] },
});
/** Features together. */
export const collection = (...features: object[]) => ({ type: 'FeatureCollection', features });

/** The bytes of an archive of blocks. */
export const pieces = (blocks: Parameters<typeof cutArchive>[0], zooms: [number, number]) =>
  Buffer.concat(cutArchive(blocks, zooms, {}).archive.pieces);
