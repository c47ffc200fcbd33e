import { element, escaped, hasForbidden, type Inner } from '../../base/xml.js';
import { decimalText } from '../decimal.js';
import type { FileFeature, FileGeometry, FileLayer, FilePosition, FileWriter } from '../files/feature-file.js';
import { idsAsAttributes } from '../files/ids.js';
import { inLonLat } from '../files/system.js';
import type { WarningList } from '../files/warnings.js';
import { linesOf } from '../topojson/topology.js';
import { attributeSpace, isContent, isDateTime, lineElements, pointElements, type GpxLink } from './elements.js';

type Json = Readonly<Record<string, unknown>>;

const isObject = (value: unknown): value is Json =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
const isSaid = (value: unknown) => value !== null && value !== undefined;
const textElement = (name: string, value: unknown): Inner =>
  typeof value === 'string' && value.trim() ? element(name, {}, escaped(value)) : undefined;
/** An address as `xs:anyURI` wants it, without blanks (XML Schema part 2, section 3.2.17). */
const isAddress = (value: unknown): value is string =>
  typeof value === 'string' && /^[^\s<>"{}|\\^`]+$/.test(value) && !hasForbidden(value);

const isLink = (value: unknown): value is GpxLink => isObject(value) && isAddress(value['href']);
const linkElement = ({ href, text, type }: GpxLink) =>
  element('link', { href }, textElement('text', text), textElement('type', type));

/** The links of a feature, and the attributes that say them. */
function linksOf(properties: Json): { readonly links: readonly GpxLink[]; readonly names: readonly string[] } {
  const { link, links } = properties;
  const first = isAddress(link) ? link : undefined;
  if (Array.isArray(links) && links.length && links.every(isLink) && links[0].href === (first ?? links[0].href))
    return { links, names: first === undefined ? ['links'] : ['link', 'links'] };
  return first === undefined ? { links: [], names: [] } : { links: [{ href: first }], names: ['link'] };
}

/** An attribute that the schema has no element for, with its type. */
function attributeElement([name, value]: readonly [string, unknown]): string {
  const type = typeof value === 'object' ? 'json' : typeof value === 'string' ? undefined : typeof value;
  return element('fw:attribute', { name, type }, escaped(type === 'json' ? JSON.stringify(value) : String(value)));
}

/** Attributes as the elements that the schema has for them, in its order, and the others as extensions. */
function details(properties: Json, names: readonly string[], written: readonly string[] = []): Inner[] {
  const { links, names: linkNames } = linksOf(properties);
  const plain = names.filter((name) => name !== 'link' && isContent(name, properties[name]));
  const taken = new Set([...plain, ...linkNames, ...written]);
  const rest = Object.entries(properties).filter(([name, value]) => isSaid(value) && !taken.has(name));
  return [
    names.map((name) => {
      if (name === 'link') return links.map(linkElement);
      const value = properties[name];
      if (!plain.includes(name)) return undefined;
      return element(name, {}, escaped(typeof value === 'number' ? decimalText(value) : String(value)));
    }),
    rest.length ? element('extensions', {}, rest.map(attributeElement)) : undefined,
  ];
}

/**
 * A longitude from -180 to below 180, as longitudeType wants it. A point at 180° is at -180°; in a line it would be on the other side of the
 * map there, and stays 1e-12°, a ten-thousandth of a millimeter, this side of it.
 */
const longitude = (lon: number, inLine: boolean) => decimalText(lon < 180 ? lon : inLine ? 179.999999999999 : -180);

function point(name: string, [lon, lat, height]: FilePosition, inside: Inner): string {
  return element(
    name,
    { lat: decimalText(lat), lon: longitude(lon, name !== 'wpt') },
    height === undefined ? undefined : element('ele', {}, decimalText(height)),
    inside,
  );
}

/** Lists of what the points of a line have, by the names of the points' attributes, with the names of the line's. */
function pointLists(
  properties: Json,
  lines: readonly (readonly FilePosition[])[],
): ReadonlyMap<string, { readonly attribute: string; readonly lists: readonly (readonly unknown[])[] }> {
  const found = new Map<string, { readonly attribute: string; readonly lists: readonly (readonly unknown[])[] }>();
  for (const [attribute, lists] of Object.entries(properties)) {
    const name = attribute === 'times' ? 'time' : /^point_(.+)$/s.exec(attribute)?.[1];
    // Lists that do not go with the points any more, such as after a cut, stay attributes of the line.
    const goes =
      Array.isArray(lists) &&
      lists.length === lines.length &&
      lists.every((list, i) => Array.isArray(list) && list.length === lines[i].length);
    if (name !== undefined && goes) found.set(name, { attribute, lists: lists as unknown[][] });
  }
  return found;
}

/** A route or a track. */
function lineElement(
  { properties }: FileFeature,
  lines: readonly (readonly FilePosition[])[],
  isRoute: boolean,
): string {
  const lists = pointLists(properties, lines);
  const { times } = properties;
  const span = lists.has('time') ? (times as unknown[][]).flat().filter(isDateTime) : [];
  const written = [
    ...[...lists.values()].map(({ attribute }) => attribute),
    ...(span.length && properties['begin'] === span[0] ? ['begin'] : []),
    ...(span.length && properties['end'] === span[span.length - 1] ? ['end'] : []),
  ];
  const pointOf = (position: FilePosition, s: number, i: number) => {
    const own = Object.fromEntries([...lists].map(([name, one]) => [name, one.lists[s][i]]));
    return point(isRoute ? 'rtept' : 'trkpt', position, details(own, pointElements));
  };
  const segments = lines.map((line, s) => line.map((position, i) => pointOf(position, s, i)));
  return element(
    isRoute ? 'rte' : 'trk',
    {},
    details(properties, lineElements, written),
    isRoute ? segments : segments.map((points) => element('trkseg', {}, points)),
  );
}

/** A feature with its description where GPX has one. */
function described(feature: FileFeature, warnings: WarningList): FileFeature {
  const { description, ...rest } = feature.properties;
  if (typeof description !== 'string' || isSaid(rest['desc'])) return feature;
  warnings.add('mended.name', 'GPX has its own names for attributes', 'They were renamed.', 'description → desc');
  return { ...feature, properties: { ...rest, desc: description } };
}

function parts(feature: FileFeature, geometry: FileGeometry, isRoute: boolean, warnings: WarningList): string[] {
  switch (geometry.type) {
    case 'Point':
      return [point('wpt', geometry.coordinates, details(feature.properties, pointElements))];
    case 'MultiPoint':
      warnings.add('mended.parts', 'GPX has no sets of points', 'Each was written as a waypoint with the attributes.');
      return geometry.coordinates.map((place) => point('wpt', place, details(feature.properties, pointElements)));
    case 'LineString':
      return [lineElement(feature, [geometry.coordinates], isRoute)];
    case 'MultiLineString':
      return [lineElement(feature, geometry.coordinates, false)];
    case 'Polygon':
    case 'MultiPolygon':
      warnings.add('mended.outline', 'GPX has no areas', 'Their outlines were written as tracks.');
      return [lineElement(feature, linesOf([geometry]), false)];
    case 'GeometryCollection':
      warnings.add('mended.parts', 'GPX has no collections', 'Each part was written with the attributes.');
      return geometry.geometries.flatMap((member) => parts(feature, member, isRoute, warnings));
  }
}

/** What is said of the whole file (metadataType); an e-mail address is split as emailType wants it. */
function metadataElement(metadata: unknown): Inner {
  if (!isObject(metadata)) return undefined;
  const { author, copyright, links, time } = metadata;
  const person = isObject(author) ? author : {};
  const [, id, domain] = /^([^@]*)@(.*)$/.exec(String(person['email'] ?? '')) ?? [];
  const rights = isObject(copyright) ? copyright : {};
  const inner: Inner[] = [
    textElement('name', metadata['name']),
    textElement('desc', metadata['desc']),
    Object.keys(person).length
      ? element(
          'author',
          {},
          textElement('name', person['name']),
          id === undefined || domain === undefined ? undefined : element('email', { id, domain }),
          isLink(person['link']) ? linkElement(person['link']) : undefined,
        )
      : undefined,
    typeof rights['author'] === 'string'
      ? element(
          'copyright',
          { author: rights['author'] },
          /^-?\d{4,}$/.test(String(rights['year'])) ? element('year', {}, String(rights['year'])) : undefined,
          isAddress(rights['license']) ? textElement('license', rights['license']) : undefined,
        )
      : undefined,
    Array.isArray(links) ? links.filter(isLink).map(linkElement) : undefined,
    isDateTime(time) ? element('time', {}, time) : undefined,
    textElement('keywords', metadata['keywords']),
  ];
  return inner.some((part) => (Array.isArray(part) ? part.length : part)) ? element('metadata', {}, inner) : undefined;
}

/**
 * Writes GPX 1.1: points as waypoints, lines as tracks, those of a layer `routes` as routes. Attributes that the schema has no element for,
 * or whose values it does not allow, stand in the extensions with their types.
 */
export const gpxWriter: FileWriter = {
  write(layers: readonly FileLayer[], warnings) {
    const all = layers.map(inLonLat).flatMap(({ name, features }) =>
      idsAsAttributes(features).flatMap((feature) => {
        const isRoute = name === 'routes' || feature.properties['layer'] === 'routes';
        if (feature.geometry) return parts(described(feature, warnings), feature.geometry, isRoute, warnings);
        warnings.add(
          'skipped.placeless',
          'features have no geometry',
          'GPX does not support them; they were left out.',
        );
        return [];
      }),
    );
    // The schema wants waypoints first, then routes.
    const order = ['<wpt', '<rte', '<trk'];
    const sorted = order.flatMap((begin) => all.filter((part) => part.startsWith(begin)));
    const root = element(
      'gpx',
      {
        version: '1.1',
        creator: 'Flintwright',
        xmlns: 'http://www.topografix.com/GPX/1/1',
        ...(sorted.some((part) => part.includes('<fw:attribute')) ? { 'xmlns:fw': attributeSpace } : {}),
      },
      metadataElement(layers.map(({ foreign }) => foreign?.['metadata']).find(isSaid)),
      sorted,
    );
    return Promise.resolve(new TextEncoder().encode(`<?xml version="1.0" encoding="UTF-8"?>\n${root}\n`));
  },
};
