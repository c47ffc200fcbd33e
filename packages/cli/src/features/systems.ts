// Coordinate systems of a service of features (OGC API – Features, Part 2, 18-058r1): which there are, by their URIs, and features in them.
import { Fault, getCrs, transformGeoJson, type Crs } from '@flintwright/core';
import { crsByCode } from '@flintwright/core/files';
import { Refusal } from './refusal.js';

/** Longitude and latitude on WGS 84, in which features are answered with unless another system is asked for. */
export const defaultSystem = 'http://www.opengis.net/def/crs/OGC/1.3/CRS84';

/** The URI of a system (OGC 11-135r2). */
export function uriOf({ id }: Crs): string {
  if (id === 'OGC:CRS84') return defaultSystem;
  const [authority, code] = id.split(':');
  return `http://www.opengis.net/def/crs/${authority}/0/${code}`;
}

/** Whether coordinates in a system are longitude and latitude on WGS 84, x first, in a file. */
export const isLonLat = ({ id }: Crs): boolean => id === 'OGC:CRS84' || id === 'EPSG:4326';

/** Systems that features of a collection may be had in: degrees in either order, meters of the web's map, and that of its file. */
export const systemsOf = (storage: Crs): readonly Crs[] => [
  ...new Map(
    [getCrs('OGC:CRS84'), getCrs('EPSG:4326'), getCrs('EPSG:3857'), storage].map((crs) => [crs.id, crs] as const),
  ).values(),
];

/** The system that a file names in its `crs` member. @throws Refusal 422 for one that is not known */
export async function storageOf(name: string | undefined): Promise<Crs> {
  if (name === undefined) return getCrs('OGC:CRS84');
  try {
    const crs = await crsByCode(name);
    return isLonLat(crs) ? getCrs('OGC:CRS84') : crs;
  } catch (error) {
    if (error instanceof Fault) throw new Refusal(422, error.toString());
    throw error;
  }
}

/**
 * The system of a parameter.
 *
 * @param key name of the parameter
 * @param uri as it was given; undefined for the default
 * @param systems those that there are
 * @throws Refusal 400
 */
export function systemNamed(key: string, uri: string | undefined, systems: readonly Crs[]): Crs {
  if (uri === undefined) return getCrs('OGC:CRS84');
  const found = systems.find((crs) => uriOf(crs) === uri.replace(/^<|>$/g, ''));
  if (found) return found;
  throw new Refusal(400, `${key}=${uri} is none of the systems of the collection: ${systems.map(uriOf).join(', ')}`);
}

/** A feature in another system, with the axes that its authority gives it; without a `crs` member, which RFC 7946 has not. */
export function featureIn(feature: object, from: Crs, to: Crs): object {
  try {
    const { crs: _, ...moved } = transformGeoJson(feature, { from, to, toAxes: 'authority' }) as { crs?: unknown };
    return moved;
  } catch (error) {
    if (error instanceof Fault) throw new Refusal(422, error.toString());
    throw error;
  }
}
