import type { FileGeometry } from './feature-file.js';

/** Parts as one geometry: a multi-geometry where they are of one kind, a collection otherwise; undefined for none. */
export function together(parts: readonly FileGeometry[]): FileGeometry | undefined {
  if (parts.length < 2) return parts[0];
  const [{ type }] = parts;
  const alike = parts.every((part) => part.type === type);
  if (alike && (type === 'Point' || type === 'LineString' || type === 'Polygon'))
    return {
      type: `Multi${type}`,
      coordinates: parts.map((part) => (part as { coordinates: unknown }).coordinates),
    } as FileGeometry;
  return { type: 'GeometryCollection', geometries: parts };
}

/** The simple parts of a geometry: collections and multi-geometries taken apart. */
export function apart(geometry: FileGeometry): FileGeometry[] {
  switch (geometry.type) {
    case 'GeometryCollection':
      return geometry.geometries.flatMap(apart);
    case 'MultiPoint':
      return geometry.coordinates.map((coordinates) => ({ type: 'Point', coordinates }));
    case 'MultiLineString':
      return geometry.coordinates.map((coordinates) => ({ type: 'LineString', coordinates }));
    case 'MultiPolygon':
      return geometry.coordinates.map((coordinates) => ({ type: 'Polygon', coordinates }));
    default:
      return [geometry];
  }
}
