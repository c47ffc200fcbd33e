import { Fault, readGeoJson, readPlace, type Place } from '@flintwright/core';
import type { FrameTarget } from './options.js';

/** Places all over a box; its corners alone say little where parallels are bent. */
const allOver = ([west, south, east, north]: readonly [number, number, number, number]): [number, number][] =>
  Array.from({ length: 289 }, (_, k) => [
    west + ((east - west) * (k % 17)) / 16,
    south + ((north - south) * Math.floor(k / 17)) / 16,
  ]);

/**
 * The places that something to be framed takes up.
 *
 * @param boundsOf bounds of the data of a layer, once they are known
 * @throws Fault `frame.bounds`, `place.*`, `geojson.*`
 */
export async function placesOf(
  target: FrameTarget,
  space: 'lonlat' | 'plane',
  boundsOf: (layer: string) => Promise<readonly [number, number, number, number] | undefined>,
): Promise<[number, number][]> {
  if (Array.isArray(target)) return target.map((item) => readPlace(item as Place, space));
  if (typeof target === 'string') {
    const bounds = await boundsOf(target);
    if (bounds) return allOver(bounds);
    throw new Fault(
      'frame.bounds',
      `the data of layer "${target}" does not say where it lies`,
      'Frame its features or bounds instead.',
    );
  }
  if ('bounds' in target) return allOver(target.bounds as [number, number, number, number]);
  const { coords } = readGeoJson(target, { space: space === 'plane' ? 'plan' : 'lonlat' });
  return Array.from({ length: coords.length / 2 }, (_, i) => [coords[2 * i], coords[2 * i + 1]]);
}
