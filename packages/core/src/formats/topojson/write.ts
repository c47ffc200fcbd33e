import type { FileGeometry, FileLayer, FilePosition, FileWriter } from '../files/feature-file.js';
import { inLonLat } from '../files/system.js';
import { layerTopology, type TopologyLine } from './topology.js';

/** Writes TopoJSON (specification 1.0), not quantized: borders that features share are written once. */
export const topoJsonWriter: FileWriter = {
  write(layers: readonly FileLayer[]) {
    const placed = layers.map(inLonLat);
    const topology = layerTopology(placed.flatMap(({ features }) => features.map(({ geometry }) => geometry)));
    let next = 0;
    const objects = Object.fromEntries(
      placed.map(({ name, features }) => [
        name,
        {
          type: 'GeometryCollection',
          geometries: features.map(({ id, geometry, properties }) => ({
            ...(geometry ? coded(geometry, () => topology.lines[next++]) : { type: null }),
            ...(id === undefined ? {} : { id }),
            ...(Object.keys(properties).length ? { properties } : {}),
          })),
        },
      ]),
    );
    const text = JSON.stringify({ type: 'Topology', objects, arcs: topology.arcs });
    return Promise.resolve(new TextEncoder().encode(`${text}\n`));
  },
};

/** A geometry with its lines named by their arcs, which come in the order in which {@link layerTopology} met them. */
function coded(geometry: FileGeometry, line: () => TopologyLine): object {
  const { type } = geometry;
  switch (type) {
    case 'Point':
    case 'MultiPoint':
      return geometry;
    case 'LineString':
      return { type, arcs: line() };
    case 'MultiLineString':
    case 'Polygon':
      return { type, arcs: (geometry.coordinates as readonly FilePosition[][]).map(line) };
    case 'MultiPolygon':
      return { type, arcs: geometry.coordinates.map((rings) => rings.map(line)) };
    case 'GeometryCollection':
      return { type, geometries: geometry.geometries.map((member) => coded(member, line)) };
  }
}
