import { Fault } from '../../base/fault.js';
import { childrenOf, readXml, textOf, type XmlNode } from '../../base/xml.js';
import { getCrs } from '../../crs/registry.js';
import type { FileFeature, FileGeometry, FileLayer, FilePosition, FileReader } from '../files/feature-file.js';
import { mendGeometry } from '../files/mend.js';
import { decodeText } from '../files/text.js';
import { Records } from '../files/records.js';
import type { WarningList } from '../files/warnings.js';

const at = (node: XmlNode) => `line ${node.line}`;
const numeric = new Set(['ele', 'magvar', 'geoidheight', 'sat', 'hdop', 'vdop', 'pdop', 'number', 'speed', 'course']);
const inner = new Set(['extensions', 'trkseg', 'rtept', 'link', 'ele']);

/** Reads GPX 1.0 and 1.1: waypoints, routes and tracks, a layer each. Times of a track stand in its attribute `times`, one list a segment. */
export const gpxReader: FileReader = {
  read({ bytes }, warnings, { progress, strict }) {
    const records = new Records(warnings, strict);
    const root = readXml(decodeText(bytes, warnings), progress);
    if (root.name !== 'gpx')
      throw new Fault(
        'gpx.form',
        `the document is <${root.name}>, and GPX begins with <gpx>`,
        'Check the file.',
        at(root),
      );
    const crs = getCrs('OGC:CRS84');
    const layer = (name: string, features: readonly FileFeature[]): FileLayer => ({
      name,
      features,
      crs,
      crsSource: 'GPX has longitude and latitude on WGS 84',
    });
    const layers = [
      layer(
        'waypoints',
        childrenOf(root, 'wpt').map((node) => waypoint(node, records)),
      ),
      layer(
        'routes',
        childrenOf(root, 'rte').flatMap((node) => route(node, warnings, records)),
      ),
      layer(
        'tracks',
        childrenOf(root, 'trk').flatMap((node) => track(node, warnings, records)),
      ),
    ].filter(({ features }) => features.length);
    records.finish(layers.flatMap(({ features }) => features));
    return Promise.resolve(layers.length ? layers : [layer('waypoints', [])]);
  },
};

function position(node: XmlNode): FilePosition {
  const [lon, lat] = ['lon', 'lat'].map((name) => {
    const text = node.attributes[name]?.trim();
    return text ? Number(text) : NaN;
  });
  if (!Number.isFinite(lon) || !Number.isFinite(lat))
    throw new Fault(
      'gpx.position',
      `a <${node.name}> has lat="${node.attributes['lat'] ?? ''}" lon="${node.attributes['lon'] ?? ''}"`,
      'Write degrees with a decimal point.',
      at(node),
    );
  const height = Number(textOf(node, 'ele') ?? NaN);
  return Number.isFinite(height) ? [lon, lat, height] : [lon, lat];
}

/** Attributes of a waypoint, route or track: its simple elements, links, and the leaves of its extensions. */
function attributesOf(node: XmlNode): Record<string, unknown> {
  const out: Record<string, unknown> = {};
  for (const part of node.children) {
    const text = part.text.trim();
    if (part.name === 'link') out['link'] ??= part.attributes['href'] ?? text;
    if (inner.has(part.name) || !text || part.children.length) continue;
    out[part.name] = numeric.has(part.name) && Number.isFinite(Number(text)) ? Number(text) : text;
  }
  const leaves = (inside: XmlNode): void => {
    for (const part of inside.children) {
      if (part.children.length) leaves(part);
      else if (part.text.trim()) {
        const text = part.text.trim();
        out[part.name] ??= /^[-+]?\d+(\.\d+)?$/.test(text) ? Number(text) : text;
      }
    }
  };
  childrenOf(node, 'extensions').forEach(leaves);
  return out;
}

const waypoint = (node: XmlNode, records: Records): FileFeature => ({
  type: 'Feature',
  geometry: records.geometry(`waypoint at ${at(node)}`, () => ({ type: 'Point', coordinates: position(node) })),
  properties: attributesOf(node),
});

/** A line, or a point where there is but one position; nothing where there is none. */
function lineOf(positions: readonly FilePosition[], node: XmlNode, warnings: WarningList): FilePosition[] | undefined {
  const distinct = positions.filter(([x, y], i) => i === 0 || x !== positions[i - 1][0] || y !== positions[i - 1][1]);
  if (distinct.length > 1) return [...positions];
  warnings.add(
    'skipped.short-line',
    'routes or track segments have fewer than two places',
    'They were left out.',
    at(node),
  );
  return undefined;
}

/** The positions of points that can be read, with the points; the others are reported. */
function positionsOf(nodes: readonly XmlNode[], records: Records): [FilePosition, XmlNode][] {
  return nodes.flatMap((node): [FilePosition, XmlNode][] => {
    const found = records.geometry(`<${node.name}> at ${at(node)}`, () => position(node));
    return found ? [[found, node]] : [];
  });
}

function route(node: XmlNode, warnings: WarningList, records: Records): FileFeature[] {
  const points = positionsOf(childrenOf(node, 'rtept'), records);
  const coordinates = lineOf(
    points.map(([one]) => one),
    node,
    warnings,
  );
  if (!coordinates) return [];
  const geometry = mendGeometry({ type: 'LineString', coordinates }, `route at ${at(node)}`, warnings);
  return [{ type: 'Feature', geometry, properties: attributesOf(node) }];
}

function track(node: XmlNode, warnings: WarningList, records: Records): FileFeature[] {
  // GPX 1.0 and 1.1 alike have segments; points at the same place are one's standing still, and are kept with their times.
  const segments = childrenOf(node, 'trkseg').flatMap((segment) => {
    const points = positionsOf(childrenOf(segment, 'trkpt'), records);
    const coordinates = lineOf(
      points.map(([one]) => one),
      segment,
      warnings,
    );
    return coordinates ? [{ coordinates, times: points.map(([, point]) => textOf(point, 'time') ?? null) }] : [];
  });
  if (!segments.length) return [];
  const geometry: FileGeometry =
    segments.length === 1
      ? { type: 'LineString', coordinates: segments[0].coordinates }
      : { type: 'MultiLineString', coordinates: segments.map(({ coordinates }) => coordinates) };
  const properties = attributesOf(node);
  const times = segments.map((segment) => segment.times);
  const told = times.flat().filter((time) => time !== null);
  if (told.length) {
    properties['begin'] ??= told[0];
    properties['end'] ??= told[told.length - 1];
    properties['times'] = times;
  }
  return [{ type: 'Feature', geometry, properties }];
}
