import { Fault } from '../../base/fault.js';
import { child, childrenOf, readXml, textOf, type XmlNode } from '../../base/xml.js';
import { getCrs } from '../../crs/registry.js';
import type { FileFeature, FileGeometry, FileLayer, FilePosition, FileReader } from '../files/feature-file.js';
import { mendGeometry } from '../files/mend.js';
import { decodeText } from '../files/text.js';
import { Records } from '../files/records.js';
import type { WarningList } from '../files/warnings.js';
import { numericElements, type GpxLink } from './elements.js';

const at = (node: XmlNode) => `line ${node.line}`;
/** Parts of a waypoint, route or track that are no attributes. */
const inner = new Set(['extensions', 'trkseg', 'trkpt', 'rtept', 'link', 'ele']);

/**
 * Reads GPX 1.0 and 1.1: waypoints, routes and tracks, a layer each. What the points of a route or track have stands in lists, one a
 * segment, with an item a point: their times in the attribute `times`, anything else in `point_` and its name. Links stand in `link`,
 * and in `links` where there are several or one has a text. What is said of the file is the member `metadata` of the first layer.
 */
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
    const reader = new GpxReader(warnings, records);
    const layers = [
      layer(
        'waypoints',
        childrenOf(root, 'wpt').map((node) => reader.waypoint(node)),
      ),
      layer(
        'routes',
        childrenOf(root, 'rte').flatMap((node) => reader.line(node, [node], 'rtept')),
      ),
      layer(
        'tracks',
        // GPX 1.0 and 1.1 alike have segments.
        childrenOf(root, 'trk').flatMap((node) => reader.line(node, childrenOf(node, 'trkseg'), 'trkpt')),
      ),
    ].filter(({ features }) => features.length);
    records.finish(layers.flatMap(({ features }) => features));
    if (!layers.length) layers.push(layer('waypoints', []));
    for (const node of childrenOf(root, 'extensions'))
      warnings.add(
        'skipped.extensions',
        'the file has extensions at its root',
        'They were left out; only extensions of points, tracks and routes are read.',
        at(node),
      );
    const metadata = metadataOf(root);
    if (metadata) layers[0] = { ...layers[0], foreign: { metadata } };
    return Promise.resolve(layers);
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

const linkOf = (node: XmlNode): GpxLink => {
  const [text, type] = [textOf(node, 'text'), textOf(node, 'type')];
  return {
    href: node.attributes['href'] ?? node.text.trim(),
    ...(text === undefined ? {} : { text }),
    ...(type === undefined ? {} : { type }),
  };
};

/** A number whose text says all of it: not 007, and not one of more digits than a number has. */
const plainNumber = /^-?(0|[1-9]\d{0,14})(\.\d{1,14})?$/;

/** An element of the extensions that keeps an attribute as GPX was written here, or any other leaf. */
function leafOf(part: XmlNode): readonly [name: string, value: unknown] {
  const text = part.text.trim();
  const { name, type } = part.attributes;
  if (part.name === 'attribute' && name !== undefined) {
    if (type === 'number') return [name, Number(text)];
    if (type === 'boolean') return [name, text === 'true'];
    return [name, type === 'json' ? JSON.parse(text) : part.text];
  }
  return [part.name, plainNumber.test(text) ? Number(text) : text];
}

/** Attributes of a waypoint, route, track or point: its simple elements, links, and the leaves of its extensions. */
function attributesOf(node: XmlNode): Record<string, unknown> {
  const out: Record<string, unknown> = {};
  for (const part of node.children) {
    const text = part.text.trim();
    if (inner.has(part.name) || !text || part.children.length) continue;
    out[part.name] = numericElements.has(part.name) && Number.isFinite(Number(text)) ? Number(text) : text;
  }
  const links = childrenOf(node, 'link').map(linkOf);
  if (links.length) out['link'] = links[0].href;
  if (links.length > 1 || links.some((link) => Object.keys(link).length > 1)) out['links'] = links;
  const leaves = (inside: XmlNode): void => {
    for (const part of inside.children) {
      if (part.children.length) leaves(part);
      else if (part.text.trim() || part.attributes['name'] !== undefined) {
        const [name, value] = leafOf(part);
        let own = name;
        for (let k = 2; own in out; k++) own = `${name}_${k}`;
        out[own] = value;
      }
    }
  };
  childrenOf(node, 'extensions').forEach(leaves);
  return out;
}

class GpxReader {
  constructor(
    private readonly warnings: WarningList,
    private readonly records: Records,
  ) {}

  waypoint(node: XmlNode): FileFeature {
    const geometry = this.records.geometry(`waypoint at ${at(node)}`, () => ({
      type: 'Point' as const,
      coordinates: position(node),
    }));
    return { type: 'Feature', geometry, properties: attributesOf(node) };
  }

  /** A route, or a track with its segments; nothing where it has no place. */
  line(node: XmlNode, parents: readonly XmlNode[], pointName: string): FileFeature[] {
    const segments = parents.flatMap((parent) => {
      const points = this.pointsOf(parent, pointName);
      // Points at the same place are one's standing still, and are kept with their times.
      const [first] = points;
      if (points.some(([[x, y]]) => x !== first[0][0] || y !== first[0][1])) return [points];
      this.warnings.add(
        'skipped.short-line',
        'routes or track segments have fewer than two places',
        'They were left out.',
        at(parent),
      );
      return [];
    });
    if (!segments.length) return [];
    const lines = segments.map((points) => points.map(([place]) => place));
    const plain: FileGeometry =
      lines.length === 1
        ? { type: 'LineString', coordinates: lines[0] }
        : { type: 'MultiLineString', coordinates: lines };
    const geometry = pointName === 'rtept' ? mendGeometry(plain, `route at ${at(node)}`, this.warnings) : plain;
    return [{ type: 'Feature', geometry, properties: { ...attributesOf(node), ...this.details(segments) } }];
  }

  /** The positions of points that can be read, with the points; the others are reported. */
  private pointsOf(parent: XmlNode, name: string): [FilePosition, XmlNode][] {
    return childrenOf(parent, name).flatMap((node): [FilePosition, XmlNode][] => {
      const found = this.records.geometry(`<${name}> at ${at(node)}`, () => position(node));
      return found ? [[found, node]] : [];
    });
  }

  /** What the points of a line have beside their places, in lists. */
  private details(segments: readonly (readonly [FilePosition, XmlNode][])[]): Record<string, unknown> {
    const rows = segments.map((points) => points.map(([, node]) => attributesOf(node)));
    const names = new Set(rows.flat().flatMap((row) => Object.keys(row)));
    const out: Record<string, unknown> = {};
    for (const name of names) {
      const lists = rows.map((points) => points.map((point) => point[name] ?? null));
      if (name === 'time') {
        const told = lists.flat().filter((time) => time !== null);
        Object.assign(out, { begin: told[0], end: told[told.length - 1], times: lists });
      } else out[`point_${name}`] = lists;
    }
    return out;
  }
}

/** What a file says of itself (metadataType; GPX 1.0 has its parts in the root). */
function metadataOf(root: XmlNode): Readonly<Record<string, unknown>> | undefined {
  const node = child(root, 'metadata') ?? root;
  const out: Record<string, unknown> = {};
  for (const name of ['name', 'desc', 'time', 'keywords']) {
    const text = textOf(node, name);
    if (text !== undefined) out[name] = text;
  }
  const author = child(node, 'author');
  const email = child(author, 'email') ?? child(root, 'email');
  const person = {
    name: textOf(author, 'name') ?? (author?.children.length ? undefined : author?.text.trim()),
    email: email && (email.text.trim() || `${email.attributes['id'] ?? ''}@${email.attributes['domain'] ?? ''}`),
    link: childrenOf(author ?? { ...root, children: [] }, 'link').map(linkOf)[0],
  };
  if (Object.values(person).some((value) => value !== undefined)) out['author'] = person;
  const copyright = child(node, 'copyright');
  if (copyright)
    out['copyright'] = {
      author: copyright.attributes['author'],
      year: textOf(copyright, 'year'),
      license: textOf(copyright, 'license'),
    };
  const links = childrenOf(node, 'link').map(linkOf);
  const [url, text] = [textOf(root, 'url'), textOf(root, 'urlname')];
  if (url !== undefined) links.push({ href: url, ...(text === undefined ? {} : { text }) });
  if (links.length) out['links'] = links;
  // What is not told is not there, as after a way through JSON.
  return Object.keys(out).length ? (JSON.parse(JSON.stringify(out)) as Record<string, unknown>) : undefined;
}
