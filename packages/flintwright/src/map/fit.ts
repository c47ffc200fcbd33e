import { Fault, readPlace, type Place } from '@flintwright/core';
import { fetchPart } from '../base/fetch-part.js';
import type { FrameTarget } from './options.js';

type Bounds = readonly [number, number, number, number];

/** Places all over a box; its corners alone say little where parallels are bent. */
const allOver = ([west, south, east, north]: Bounds): [number, number][] =>
  Array.from({ length: 289 }, (_, k) => [
    west + ((east - west) * (k % 17)) / 16,
    south + ((north - south) * Math.floor(k / 17)) / 16,
  ]);

const isBounds = (target: FrameTarget): target is Bounds =>
  Array.isArray(target) && target.length === 4 && target.every((one) => typeof one === 'number');
const isPlaces = (target: FrameTarget): target is readonly Place[] => Array.isArray(target);

/**
 * The places that something to be framed takes up.
 *
 * @param target what is to be framed
 * @param space what places are: degrees, or the meters of a plan
 * @param boundsOf bounds of the data of a layer, once they are known
 * @throws Fault `frame.bounds`, `place.*`, `geojson.*`
 */
export async function placesOf(
  target: FrameTarget,
  space: 'lonlat' | 'plane',
  boundsOf: (layer: string) => Promise<Bounds | undefined>,
): Promise<[number, number][]> {
  if (isBounds(target)) return allOver(target);
  if (isPlaces(target)) return target.map((place) => readPlace(place, space));
  if (typeof target === 'string') {
    const bounds = await boundsOf(target);
    if (bounds) return allOver(bounds);
    throw new Fault(
      'frame.bounds',
      `the data of layer "${target}" does not say where it lies`,
      'Frame its features or bounds instead.',
    );
  }
  if (typeof target !== 'object' || target === null)
    throw new Fault(
      'frame.target',
      `${String(target)} cannot be framed`,
      'Give a layer by its id, a list of places, [west, south, east, north], or GeoJSON.',
    );
  if ('bounds' in target) return allOver(target.bounds);
  const { placesOfGeoJson } = await fetchPart(() => import('./geojson-places.js'));
  return placesOfGeoJson(target, space);
}
