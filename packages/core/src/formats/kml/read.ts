import { Fault } from '../../base/fault.js';
import { child, childrenOf, readXml, textOf, type XmlNode } from '../../base/xml.js';
import { getCrs } from '../../crs/registry.js';
import type {
  FileFeature,
  FileGeometry,
  FileInput,
  FileLayer,
  FilePosition,
  FileReader,
} from '../files/feature-file.js';
import { mendGeometry } from '../files/mend.js';
import { decodeText } from '../files/text.js';
import { together } from '../files/together.js';
import { Records } from '../files/records.js';
import type { WarningList } from '../files/warnings.js';
import { isZip, unzip } from '../zip/unpack.js';
import { StyleBook } from './styles.js';

const at = (node: XmlNode) => `line ${node.line}`;

/** Reads KML 2.2 and 2.3 (OGC 12-007r2), also packed as KMZ. Folders become the attribute `folder`, styles attributes of their own. */
export const kmlReader: FileReader = {
  read({ name, bytes }, warnings, { unpacked, progress, strict }) {
    const document = isZip(bytes) ? mainDocument({ name, bytes }, warnings, unpacked) : bytes;
    const root = readXml(decodeText(document, warnings), progress);
    if (root.name !== 'kml' && root.name !== 'Document' && root.name !== 'Folder' && root.name !== 'Placemark')
      throw new Fault('kml.form', `the document is <${root.name}>, expected <kml>`, 'Check the file.', at(root));
    return Promise.resolve([new KmlReader(root, warnings, strict ?? false).layer(name)]);
  },
};

/** The document of a KMZ archive: `doc.kml`, or the first one in it (12-007r2, annex C). */
function mainDocument({ name, bytes }: FileInput, warnings: WarningList, most: number | undefined): Uint8Array {
  const files = unzip(bytes, name, most);
  const names = [...files.keys()].filter((file) => /\.kml$/i.test(file));
  const main = names.find((file) => /^doc\.kml$/i.test(file)) ?? names[0];
  if (main === undefined)
    throw new Fault('kml.archive', `the archive ${name} contains no .kml document`, 'Check the file.', name);
  if (names.length > 1)
    warnings.add(
      'skipped.document',
      `the archive holds ${names.length} documents`,
      `Only ${main} was read; the others are for network links.`,
      undefined,
      names.length - 1,
    );
  return files.get(main)!;
}

const overlays = ['GroundOverlay', 'ScreenOverlay', 'PhotoOverlay'];

class KmlReader {
  private readonly features: FileFeature[] = [];
  private readonly records: Records;
  private readonly styles: StyleBook;
  private readonly schemas = new Map<string, Map<string, string>>();

  constructor(
    private readonly root: XmlNode,
    private readonly warnings: WarningList,
    strict: boolean,
  ) {
    this.records = new Records(warnings, strict);
    this.styles = new StyleBook(root);
    this.findSchemas(root);
  }

  layer(name: string): FileLayer {
    this.walk(this.root, []);
    this.records.finish(this.features);
    const look = this.styles.used ? this.styles.look(this.features) : undefined;
    return {
      name: name.replace(/\.[^.]*$/, ''),
      features: this.features,
      crs: getCrs('OGC:CRS84'),
      crsSource: 'KML has longitude and latitude on WGS 84 (OGC 12-007r2)',
      ...(look ? { look } : {}),
    };
  }

  private findSchemas(node: XmlNode): void {
    for (const inner of node.children) {
      if (inner.name === 'Schema') {
        const fields = childrenOf(inner, 'SimpleField').map(
          ({ attributes }) => [attributes['name'] ?? '', attributes['type'] ?? 'string'] as const,
        );
        this.schemas.set(inner.attributes['id'] ?? inner.attributes['name'] ?? '', new Map(fields));
      } else this.findSchemas(inner);
    }
  }

  private walk(node: XmlNode, folders: readonly string[]): void {
    if (node.name === 'Placemark') return this.placemark(node, folders);
    if (node.name === 'NetworkLink') {
      this.warnings.add(
        'skipped.link',
        'the document links to others',
        'Nothing was fetched. Get those documents yourself and add them.',
        at(node),
      );
      return;
    }
    if (overlays.includes(node.name)) {
      this.warnings.add(
        'skipped.overlay',
        'the document contains ground overlays',
        'They were left out. Add the picture as data with "images" and "bounds".',
        at(node),
      );
      return;
    }
    const inside = node.name === 'Folder' ? [...folders, textOf(node, 'name') ?? ''] : folders;
    for (const inner of node.children) this.walk(inner, inside);
  }

  private placemark(node: XmlNode, folders: readonly string[]): void {
    const properties: Record<string, unknown> = {};
    const put = (key: string, value: unknown) => {
      if (value !== undefined && value !== '') properties[key] = value;
    };
    put('name', textOf(node, 'name'));
    put('description', textOf(node, 'description'));
    put('address', textOf(node, 'address'));
    put('phone', textOf(node, 'phoneNumber'));
    put('folder', folders.filter(Boolean).join(' / '));
    put('time', textOf(node, 'TimeStamp', 'when'));
    put('begin', textOf(node, 'TimeSpan', 'begin'));
    put('end', textOf(node, 'TimeSpan', 'end'));
    if (textOf(node, 'visibility') === '0') put('visibility', 0);
    put('snippet', textOf(node, 'Snippet'));
    for (const [key, value] of Object.entries(geometryModes(node))) put(key, value);
    const times = trackTimes(node);
    if (times) {
      const told = times.flat().filter((time) => time !== null);
      put('begin', properties['begin'] ?? told[0]);
      put('end', properties['end'] ?? told[told.length - 1]);
      put('times', times);
    }
    this.extended(child(node, 'ExtendedData'), put);
    for (const [key, value] of Object.entries(this.styles.attributesOf(node))) put(key, value);
    const id = node.attributes['id'];
    const place = `placemark at ${at(node)}`;
    const geometry = this.records.geometry(place, () => {
      const [first] = node.children.flatMap((inner) => this.geometry(inner) ?? []);
      // Places of a track that are the same are one's standing still, and are kept with their times.
      if (first && properties['times']) return first;
      return first ? mendGeometry(first, place, this.warnings, 'outer-left') : null;
    });
    this.features.push({ type: 'Feature', ...(id === undefined ? {} : { id }), geometry, properties });
  }

  /** Attributes of one's own (12-007r2, section 9.2). */
  private extended(node: XmlNode | undefined, put: (key: string, value: unknown) => void): void {
    if (!node) return;
    for (const data of childrenOf(node, 'Data'))
      put(data.attributes['name'] ?? '', typed(textOf(data, 'value'), undefined));
    for (const schemaData of childrenOf(node, 'SchemaData')) {
      const types = this.schemas.get((schemaData.attributes['schemaUrl'] ?? '').replace(/^.*#/, ''));
      for (const data of childrenOf(schemaData, 'SimpleData')) {
        const name = data.attributes['name'] ?? '';
        put(name, typed(data.text.trim(), types?.get(name)));
      }
    }
  }

  private geometry(node: XmlNode): FileGeometry | undefined {
    switch (node.name) {
      case 'Point': {
        const [first] = this.coordinates(node);
        return first && { type: 'Point', coordinates: first };
      }
      case 'Model': {
        const place = child(node, 'Location');
        const numbers = ['longitude', 'latitude', 'altitude'].map((part) =>
          Number(textOf(place, part) ?? (part === 'altitude' ? 0 : NaN)),
        );
        return { type: 'Point', coordinates: numbers };
      }
      case 'LineString':
      case 'LinearRing': {
        const coordinates = this.coordinates(node);
        return coordinates.length ? { type: 'LineString', coordinates } : undefined;
      }
      case 'Polygon': {
        const rings = node.children
          .filter(({ name }) => name === 'outerBoundaryIs' || name === 'innerBoundaryIs')
          .toSorted((a, b) => Number(b.name === 'outerBoundaryIs') - Number(a.name === 'outerBoundaryIs'))
          .flatMap((boundary) => childrenOf(boundary, 'LinearRing').map((ring) => this.coordinates(ring)));
        return rings.length ? { type: 'Polygon', coordinates: rings } : undefined;
      }
      case 'Track': {
        const coordinates = childrenOf(node, 'coord').map((coord) =>
          this.position(coord.text.trim().split(/\s+/), coord),
        );
        if (coordinates.length === 1) return { type: 'Point', coordinates: coordinates[0] };
        return coordinates.length ? { type: 'LineString', coordinates } : undefined;
      }
      case 'MultiGeometry':
      case 'MultiTrack':
        return together(node.children.flatMap((inner) => this.geometry(inner) ?? []));
      default:
        return undefined;
    }
  }

  private coordinates(node: XmlNode): FilePosition[] {
    const inner = child(node, 'coordinates');
    const text = inner?.text.trim();
    if (!inner || !text) {
      this.warnings.add(
        'mended.empty-geometry',
        'geometries have no coordinates',
        'Their placemarks have no place.',
        at(node),
      );
      return [];
    }
    // Blanks around the commas within a tuple are common, and not allowed. Piece by piece, so that a run of blanks is read once.
    const tuples: string[] = [];
    for (const piece of text.split(/\s+/)) {
      const last = tuples[tuples.length - 1];
      if (last !== undefined && (last.endsWith(',') || piece.startsWith(','))) tuples[tuples.length - 1] += piece;
      else tuples.push(piece);
    }
    return tuples.map((tuple) => this.position(tuple.split(','), inner));
  }

  private position(texts: readonly string[], node: XmlNode): FilePosition {
    const numbers = texts.slice(0, 3).map((part) => (part === '' ? NaN : Number(part)));
    if (numbers.length < 2 || numbers.some(Number.isNaN))
      throw new Fault(
        'kml.coordinates',
        `"${texts.join(',')}" is not longitude,latitude[,height]`,
        'Write degrees with a decimal point, tuples separated by spaces.',
        at(node),
      );
    return numbers;
  }
}

const geometryNames = ['Point', 'LineString', 'LinearRing', 'Polygon', 'Model', 'Track', 'MultiTrack', 'MultiGeometry'];

/** Descendants that are geometries of one place or line. */
const simpleGeometries = (node: XmlNode): XmlNode[] =>
  node.children
    .filter(({ name }) => geometryNames.includes(name))
    .flatMap((one) => (/^Multi/.test(one.name) ? simpleGeometries(one) : [one]));

const wholeText = (node: XmlNode): string => `${node.text} ${node.children.map(wholeText).join(' ')}`;

/** How the heights of a placemark are meant (07-147r2, section 9.20), where it is not `absolute`, as they are written. */
function geometryModes(placemark: XmlNode): Readonly<Record<string, unknown>> {
  const out: Record<string, unknown> = {};
  for (const node of simpleGeometries(placemark)) {
    for (const name of ['extrude', 'tessellate']) if (/^(1|true)$/.test(textOf(node, name) ?? '')) out[name] = 1;
    const mode = textOf(node, 'altitudeMode');
    if (mode !== undefined && mode !== 'absolute') out['altitudeMode'] = mode;
    // Without a mode, heights are not used; a place at height 0 lies on the ground either way.
    else if (mode === undefined && /,[^,\s]+,-?0*\.?0*[1-9]/.test(wholeText(node)))
      out['altitudeMode'] = 'clampToGround';
  }
  return out;
}

/** The times of tracks, a list for each; undefined where there are none. */
function trackTimes(placemark: XmlNode): (string | null)[][] | undefined {
  const tracks = simpleGeometries(placemark).filter(({ name }) => name === 'Track');
  const times = tracks.map((track) => childrenOf(track, 'when').map(({ text }) => text.trim() || null));
  return times.some((list) => list.some((time) => time !== null)) ? times : undefined;
}

const number = /^[-+]?(0|[1-9]\d*)(\.\d+)?([eE][-+]?\d+)?$/;

/** A text as the type that a schema gives it; without one, what looks like a number is one. */
function typed(text: string | undefined, type: string | undefined): unknown {
  if (text === undefined) return undefined;
  if (type === 'string') return text;
  if (type === 'bool') return text === '1' || text === 'true';
  return number.test(text) && Math.abs(Number(text)) <= Number.MAX_SAFE_INTEGER ? Number(text) : text;
}
