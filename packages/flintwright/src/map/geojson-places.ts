import { readGeoJson } from '@flintwright/core';

/** The vertices of GeoJSON that is to be framed. Fetched when somebody first frames some. @throws Fault `geojson.*` */
export function placesOfGeoJson(target: object, space: 'lonlat' | 'plane'): [number, number][] {
  const { coords } = readGeoJson(target, { space: space === 'plane' ? 'plan' : 'lonlat' });
  return Array.from({ length: coords.length / 2 }, (_, i) => [coords[2 * i], coords[2 * i + 1]]);
}
