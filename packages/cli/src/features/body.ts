import { Fault, readGeoJson } from '@flintwright/core';
import type { FastifyRequest } from 'fastify';
import { patchText, type FileFeature } from './feature-file.js';
import { Refusal } from './refusal.js';

/** A body as it came, and what it says. */
export interface Sent {
  readonly text: string;
  readonly value: unknown;
}

/** @throws Refusal 400 without a body */
export function bodyOf({ body }: FastifyRequest): Sent {
  if (body === undefined || body === null) throw new Refusal(400, 'expected a body as application/geo+json');
  return body as Sent;
}

/**
 * The text of a feature that was sent, with an id. Links, which the service adds to each feature that it answers with, are not kept.
 *
 * @throws Refusal 400
 */
export function featureText({ text, value }: Sent, id: string | number): string {
  const {
    type,
    geometry = null,
    properties = null,
  } = (value ?? {}) as Partial<FileFeature['value']> & { type?: unknown };
  if (type !== 'Feature') throw new Refusal(400, 'expected a GeoJSON feature as application/geo+json');
  if (properties !== null && (typeof properties !== 'object' || Array.isArray(properties)))
    throw new Refusal(
      400,
      `expected an object or null for "properties", got ${JSON.stringify(properties).slice(0, 40)}`,
    );
  if (geometry !== null) assertGeometry(geometry);
  const isOwn =
    JSON.stringify((value as { id?: unknown }).id) === JSON.stringify(id) && !('links' in (value as object));
  const own = isOwn ? text.trim() : patchText(text, { id, links: null });
  const missing = {
    ...('geometry' in (value as object) ? {} : { geometry: null }),
    ...('properties' in (value as object) ? {} : { properties: null }),
  };
  // A merge patch cannot write null; members that RFC 7946, section 3.2 requires are put in front of the closing brace.
  const extra = Object.entries(missing).map(([name]) => `,"${name}":null`);
  return extra.length ? `${own.replace(/\}\s*$/, '')}${extra.join('')}}` : own;
}

/** @throws Refusal 400 for a geometry that cannot be read, or a ring that is not closed (RFC 7946, section 3.1.6) */
function assertGeometry(geometry: object): void {
  const { type, coordinates, geometries } = geometry as { type?: unknown; coordinates?: unknown; geometries?: unknown };
  const polygons = type === 'Polygon' ? [coordinates] : type === 'MultiPolygon' ? (coordinates as unknown[]) : [];
  for (const rings of Array.isArray(polygons) ? polygons : [])
    for (const ring of Array.isArray(rings) ? (rings as unknown[]) : [])
      if (!Array.isArray(ring) || ring.length < 4 || String(ring[0]) !== String(ring[ring.length - 1]))
        throw new Refusal(400, 'a ring needs at least four positions, and its last has to repeat its first');
  if (type === 'GeometryCollection' && Array.isArray(geometries))
    for (const one of geometries as object[]) assertGeometry(one);
  try {
    readGeoJson({ type: 'Feature', properties: null, geometry });
  } catch (error) {
    if (error instanceof Fault) throw new Refusal(400, error.toString());
    throw error;
  }
}
