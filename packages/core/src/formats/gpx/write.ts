import { element, escaped, type Inner } from '../../base/xml.js';
import type { FileFeature, FileGeometry, FileLayer, FilePosition, FileWriter } from '../files/feature-file.js';
import { tellLostIds } from '../files/ids.js';
import { inLonLat } from '../files/system.js';
import type { WarningList } from '../files/warnings.js';
import { linesOf } from '../topojson/topology.js';

/** The simple elements that GPX 1.1 has, in the order that its schema wants. */
const order = [
  'time',
  'magvar',
  'geoidheight',
  'name',
  'cmt',
  'desc',
  'src',
  'sym',
  'number',
  'type',
  'fix',
  'sat',
  'hdop',
  'vdop',
  'pdop',
];
const ofLines = ['name', 'cmt', 'desc', 'src', 'number', 'type'];

function details({ properties }: FileFeature, names: readonly string[], warnings: WarningList): string[] {
  const described = properties['desc'] ?? properties['description'];
  const all: Record<string, unknown> = { ...properties, ...(described === undefined ? {} : { desc: described }) };
  for (const [key, value] of Object.entries(properties))
    if (
      !names.includes(key) &&
      !['description', 'times', 'begin', 'end', 'link'].includes(key) &&
      value !== null &&
      value !== undefined
    )
      warnings.add('skipped.attribute', 'GPX has no place for some attributes', 'They were left out.', key);
  return names.flatMap((name) => {
    const value = all[name];
    return value === undefined || value === null ? [] : [element(name, {}, escaped(String(value)))];
  });
}

function point(name: string, [lon, lat, height]: FilePosition, inside: Inner): string {
  return element(
    name,
    { lat: String(lat), lon: String(lon) },
    height === undefined ? undefined : element('ele', {}, String(height)),
    inside,
  );
}

function parts(feature: FileFeature, geometry: FileGeometry, warnings: WarningList): string[] {
  const track = (lines: readonly (readonly FilePosition[])[]) => {
    const times = feature.properties['times'] as (string | null)[][] | undefined;
    return element(
      'trk',
      {},
      details(feature, ofLines, warnings),
      lines.map((line, s) =>
        element(
          'trkseg',
          {},
          line.map((position, i) => {
            const time = times?.[s]?.[i];
            return point('trkpt', position, typeof time === 'string' ? element('time', {}, escaped(time)) : undefined);
          }),
        ),
      ),
    );
  };
  switch (geometry.type) {
    case 'Point':
      return [point('wpt', geometry.coordinates, details(feature, order, warnings))];
    case 'MultiPoint':
      return geometry.coordinates.map((position) => point('wpt', position, details(feature, order, warnings)));
    case 'LineString':
      return [track([geometry.coordinates])];
    case 'MultiLineString':
      return [track(geometry.coordinates)];
    case 'Polygon':
    case 'MultiPolygon':
      warnings.add('mended.outline', 'GPX has no areas', 'Their outlines were written as tracks.');
      return [track(linesOf([geometry]))];
    case 'GeometryCollection':
      return geometry.geometries.flatMap((member) => parts(feature, member, warnings));
  }
}

/** Writes GPX 1.1: points as waypoints, lines as tracks. */
export const gpxWriter: FileWriter = {
  write(layers: readonly FileLayer[], warnings) {
    for (const { features } of layers) tellLostIds(features, warnings);
    const all = layers.map(inLonLat).flatMap(({ features }) =>
      features.flatMap((feature) => {
        if (feature.geometry) return parts(feature, feature.geometry, warnings);
        warnings.add('skipped.placeless', 'features have no place', 'GPX cannot hold them; they were left out.');
        return [];
      }),
    );
    // The schema wants waypoints first.
    const sorted = [
      ...all.filter((part) => part.startsWith('<wpt')),
      ...all.filter((part) => !part.startsWith('<wpt')),
    ];
    const root = element(
      'gpx',
      { version: '1.1', creator: 'Flintwright', xmlns: 'http://www.topografix.com/GPX/1/1' },
      sorted,
    );
    return Promise.resolve(new TextEncoder().encode(`<?xml version="1.0" encoding="UTF-8"?>\n${root}\n`));
  },
};
