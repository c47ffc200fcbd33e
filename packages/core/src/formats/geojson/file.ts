// GeoJSON as a file: read leniently, mended and told, and written as RFC 7946 has it.
import { assertShallow, jsonOf } from '../../base/depth.js';
import { Fault } from '../../base/fault.js';
import type { Crs } from '../../crs/crs.js';
import { getCrs } from '../../crs/registry.js';
import { crsByCode } from '../../crs/match.js';
import { often } from '../files/feature-file.js';
import type {
  FileFeature,
  FileGeometry,
  FileLayer,
  FileReader,
  FileWriter,
  ReadFileOptions,
} from '../files/feature-file.js';
import { parseJson } from '../files/json.js';
import { mendGeometry } from '../files/mend.js';
import { decodeText } from '../files/text.js';
import type { WarningList } from '../files/warnings.js';
import { Bounds, isBox } from './bounds.js';

type Json = Readonly<Record<string, unknown>>;

const separator = String.fromCharCode(0x1e);
const levels: Readonly<Record<string, number>> = {
  Point: 0,
  MultiPoint: 1,
  LineString: 1,
  MultiLineString: 2,
  Polygon: 2,
  MultiPolygon: 3,
};

const geometryOnly = new Set(['geometry']);

function describe(value: unknown): string {
  return jsonOf(value);
}

const faulty = (at: string, message: string) =>
  new Fault('geojson.form', message, 'Mend that part, or write the file again as RFC 7946 GeoJSON.', at);

/** Reads GeoJSON (RFC 7946), newline-delimited GeoJSON, and GeoJSON text sequences (RFC 8142). */
export const geoJsonReader: FileReader = {
  async read({ name, bytes }, warnings, { progress, part, strict }) {
    const { lines: line = 0, features: before = 0 } = part ?? {};
    const text = decodeText(bytes, warnings);
    const reader = new GeoJsonFile(warnings, progress, before);
    let crs: Crs | undefined;
    const sequence = new Sequence(warnings, strict);
    if (text.includes(separator))
      text.split(separator).forEach((record, i) => {
        // Separators may be doubled (RFC 8142, section 2.1), and a record may run over several lines.
        const place = `record ${i + before}`;
        if (record.trim()) sequence.take(place, () => reader.take(parseJson(record, place), place));
      });
    else if (part?.settled.has('lines') || isLines(text) || (!text.trim() && !/\.(geo)?json$/i.test(name)))
      text.split('\n').forEach((one, i) => {
        const place = `line ${i + 1 + line}`;
        if (one.trim()) sequence.take(place, () => reader.take(parseJson(one, place), place));
      });
    else {
      const json = parseJson(text);
      reader.take(json, '$');
      const named = (json as { crs?: { properties?: { name?: unknown } } | null }).crs?.properties?.name;
      if (typeof named === 'string') crs = await crsByCode(named);
    }
    if (!part) sequence.finish(reader.features.length);
    const title = name.replace(/\.[^.]*$/, '');
    return [
      {
        name: title,
        features: reader.features,
        ...reader.whole,
        crs: crs ?? (reader.planar ? undefined : getCrs('OGC:CRS84')),
        crsSource: crs
          ? 'its crs member'
          : reader.planar
            ? 'nothing says it'
            : 'GeoJSON has longitude and latitude on WGS 84 (RFC 7946)',
      },
    ];
  },
};

/** Takes records of a sequence one by one: one that is broken is passed over and reported (RFC 8142, section 2.3), and the rest is read. */
class Sequence {
  private first: Fault | undefined;

  constructor(
    private readonly warnings: WarningList,
    private readonly strict = false,
  ) {}

  take(place: string, read: () => void): void {
    try {
      read();
    } catch (error) {
      if (!(error instanceof Fault) || this.strict) throw error;
      this.first ??= error;
      this.warnings.add(
        'skipped.record',
        'records cannot be read',
        'They were skipped; all others were read. Correct them.',
        `${place}: ${error.message}`,
      );
    }
  }

  /** @throws Fault the first one, where no record could be read */
  finish(read: number): void {
    if (this.first && !read) throw this.first;
  }
}

function isLines(text: string): boolean {
  const end = text.indexOf('\n');
  if (end < 0 || !/\S/.test(text.slice(end, end + 65536))) return false;
  try {
    const { type } = JSON.parse(text.slice(0, end)) as { type?: unknown };
    return type === 'Feature' || (typeof type === 'string' && type in levels);
  } catch {
    // A first line that is no whole document belongs to a document of several lines.
    return false;
  }
}

/** Members that the standard does not know. */
function foreignTo(json: Json, known: readonly string[]): { readonly foreign?: Json } {
  const entries = Object.entries(json).filter(([key]) => !known.includes(key));
  return entries.length ? { foreign: Object.fromEntries(entries) } : {};
}

class GeoJsonFile {
  /** Foreign members and the box of the collection. */
  whole: Pick<FileLayer, 'foreign' | 'bbox'> = {};
  readonly features: FileFeature[] = [];
  /** Whether some number can be no degree. */
  planar = false;

  constructor(
    private readonly warnings: WarningList,
    private readonly progress: ReadFileOptions['progress'],
    /** Features of the file before these. */
    private readonly before: number,
  ) {}

  take(json: unknown, at: string): void {
    if (typeof json !== 'object' || json === null) throw faulty(at, `expected a GeoJSON object, got ${describe(json)}`);
    const { type, features } = json as Json;
    if (type === 'FeatureCollection') {
      if (!Array.isArray(features))
        throw faulty(`${at}.features`, `expected a list of features, got ${describe(features)}`);
      this.whole = {
        ...this.boxOf(json as Json, at),
        ...foreignTo(json as Json, ['type', 'features', 'bbox', 'crs', 'name']),
      };
      features.forEach((feature, i) => {
        if (i % often === 0) this.progress?.(i / features.length);
        this.feature(feature as Json, `${at}.features[${i + this.before}]`);
      });
    } else this.feature(json as Json, at);
  }

  private feature(json: Json, at: string): void {
    const type = json?.['type'];
    if (type === 'Feature') {
      assertShallow(json, 'the feature', 'geojson.depth', geometryOnly);
      const { id, geometry, properties } = json;
      this.features.push({
        type: 'Feature',
        ...(typeof id === 'string' || typeof id === 'number' ? { id } : {}),
        geometry: geometry === null || geometry === undefined ? null : this.mended(geometry as Json, `${at}.geometry`),
        properties: typeof properties === 'object' && properties !== null ? (properties as Json) : {},
        ...this.boxOf(json, at),
        ...foreignTo(json, ['type', 'id', 'geometry', 'properties', 'bbox']),
      });
    } else if (type === 'GeometryCollection' || (typeof type === 'string' && Object.hasOwn(levels, type)))
      this.features.push({ type: 'Feature', geometry: this.mended(json, at), properties: {} });
    else
      throw faulty(
        `${at}.type`,
        `type ${describe(type)} is none of FeatureCollection, Feature, GeometryCollection, ${Object.keys(levels).join(', ')}`,
      );
  }

  private boxOf({ bbox }: Json, at: string): { readonly bbox?: readonly number[] } {
    if (isBox(bbox)) return { bbox };
    if (bbox !== undefined)
      this.warnings.add(
        'mended.box',
        'a box (bbox) is neither four numbers nor six',
        'It was left out.',
        at === '$' ? 'the collection' : at,
      );
    return {};
  }

  private mended(json: Json, at: string): FileGeometry | null {
    const geometry = this.geometry(json, at, 0);
    if (!geometry || (geometry.type !== 'GeometryCollection' && !geometry.coordinates.length)) return null;
    return mendGeometry(geometry, at, this.warnings, 'outer-left');
  }

  private geometry(json: Json, at: string, depth: number): FileGeometry {
    const type = json?.['type'];
    if (type === 'GeometryCollection') {
      const members = json['geometries'];
      if (!Array.isArray(members)) throw faulty(`${at}.geometries`, `expected a list, got ${describe(members)}`);
      if (depth > 64) throw faulty(at, 'geometry collections are nested more than 64 deep');
      return {
        type,
        geometries: members.map((member, i) => this.geometry(member as Json, `${at}.geometries[${i}]`, depth + 1)),
      };
    }
    if (typeof type !== 'string' || !Object.hasOwn(levels, type))
      throw faulty(`${at}.type`, `${describe(type)} is no geometry type`);
    return {
      type,
      coordinates: this.positions(json['coordinates'], levels[type], `${at}.coordinates`),
    } as FileGeometry;
  }

  private positions(value: unknown, level: number, at: string): unknown {
    if (!Array.isArray(value)) throw faulty(at, `expected a list, got ${describe(value)}`);
    if (level) return value.map((item, i) => this.positions(item, level - 1, `${at}[${i}]`));
    const [x, y] = value as unknown[];
    if (!value.length) return [];
    if (!Number.isFinite(x) || !Number.isFinite(y) || typeof x !== 'number' || typeof y !== 'number')
      throw faulty(at, `expected a position [longitude, latitude] of numbers, got ${describe(value)}`);
    if (Math.abs(x) > 360 || Math.abs(y) > 360) this.planar = true;
    if (value.length > 3)
      this.warnings.add(
        'skipped.coordinate',
        'positions have more than three numbers (RFC 7946, section 3.1.1)',
        'Only longitude, latitude and height were read.',
        at,
      );
    return (value as number[]).slice(0, 3);
  }
}

/**
 * Text of a layer as a FeatureCollection, taken apart: what stands before its features, and these, parted by commas. A box of the
 * whole is left to the end, when all features are known.
 */
export function collectionText({ bbox: _box, ...layer }: FileLayer): { readonly head: string; readonly items: string } {
  const head = JSON.stringify(collectionOf({ ...layer, features: [] })).replace(/\]\}$/, '');
  return { head, items: layer.features.map((feature) => JSON.stringify(featureText(feature, layer))).join(',') };
}

const isGeographic = ({ crs }: Pick<FileLayer, 'crs'>) => !crs || crs.isGeographic;

/** The box of a layer as a member of its collection. */
export function boxMember(bounds: Bounds, like: readonly number[] | undefined, layer: Pick<FileLayer, 'crs'>): object {
  const bbox = like && bounds.like(like, isGeographic(layer));
  return bbox ? { bbox } : {};
}

/** A layer as the members of a FeatureCollection; another system than longitude and latitude is named in `crs`, as the form of 2008 has it. */
function collectionOf(layer: FileLayer): object {
  const { features, crs, foreign, bbox } = layer;
  const plain = !crs || crs.id === 'OGC:CRS84' || crs.id === 'EPSG:4326';
  const [authority, code] = crs?.id.split(':') ?? [];
  const urn = code === undefined ? crs?.id : `urn:ogc:def:crs:${authority}::${code}`;
  const bounds = new Bounds();
  if (bbox) for (const { geometry } of features) bounds.add(geometry);
  return {
    type: 'FeatureCollection',
    ...(plain ? {} : { crs: { type: 'name', properties: { name: urn } } }),
    ...boxMember(bounds, bbox, layer),
    ...foreign,
    features: features.map((feature) => featureText(feature, layer)),
  };
}

const featureText = ({ foreign, bbox, ...feature }: FileFeature, layer: Pick<FileLayer, 'crs'>): object => ({
  ...feature,
  ...(bbox && boxMember(new Bounds().add(feature.geometry), bbox, layer)),
  ...foreign,
});

/** Several layers in one list, each feature with the name of its own in the attribute `layer`. */
export function joined(layers: readonly FileLayer[]): FileLayer {
  const [first] = layers;
  if (layers.length === 1) return first;
  const features = layers.flatMap(({ name, features: own }) =>
    own.map((feature) => ({ ...feature, properties: { layer: name, ...feature.properties } })),
  );
  return { ...first, features };
}

const encoded = (text: string) => new TextEncoder().encode(text);

/** Writes a GeoJSON FeatureCollection (RFC 7946). */
export const geoJsonWriter: FileWriter = {
  write: (layers) => Promise.resolve(encoded(`${JSON.stringify(collectionOf(joined(layers)))}\n`)),
};

const lines = (layer: FileLayer, before: string) =>
  // A file without a byte would look as if it had been cut off.
  layer.features.map((feature) => `${before}${JSON.stringify(featureText(feature, layer))}\n`).join('') || '\n';

/** Writes newline-delimited GeoJSON, one feature a line. */
export const geoJsonLinesWriter: FileWriter = {
  write: (layers) => Promise.resolve(encoded(lines(joined(layers), ''))),
};

/** Writes a GeoJSON text sequence (RFC 8142): a record separator before each feature. */
export const geoJsonSequenceWriter: FileWriter = {
  write: (layers) => Promise.resolve(encoded(lines(joined(layers), separator))),
};
