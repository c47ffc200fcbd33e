import { assertShallow, jsonOf } from '../../base/depth.js';
import { plainText } from '../../base/describe-value.js';
import { Fault } from '../../base/fault.js';
import { parseExactJson } from '../../base/json.js';
import { BlockBuilder } from '../../features/builder.js';
import { Kind, type FeatureBlock, type Value } from '../../features/block.js';
import { doubleArea } from '../../geometry/rings.js';

type Json = Record<string, unknown>;

export interface ReadGeoJsonOptions {
  /** Name of the block; default `features`. */
  readonly name?: string;
  /** `lonlat` (RFC 7946, the default) or `plan` for a building or seat plan in local meters. */
  readonly space?: 'lonlat' | 'plan';
  /** Attribute whose integer, non-negative number becomes the feature's id if the feature has none. */
  readonly id?: string | undefined;
}

const kinds: Record<string, Kind> = {
  Point: Kind.point,
  MultiPoint: Kind.point,
  LineString: Kind.line,
  MultiLineString: Kind.line,
  Polygon: Kind.polygon,
  MultiPolygon: Kind.polygon,
};

/**
 * Reads GeoJSON (RFC 7946), given as text or as the parsed value: a FeatureCollection, a Feature or a bare
 * geometry. Rings are turned the right way round and their closing vertex is dropped. A GeometryCollection
 * becomes one feature for each kind of geometry in it. Attributes that are arrays or objects are kept as JSON text.
 * Features without geometry are kept, with kind `none`.
 *
 * @param source text, or the parsed value
 * @param options name, space and id attribute
 * @throws Fault `geojson.*`, with the path of the part at fault; a latitude beyond ±90° says whether the pair looks swapped
 */
export function readGeoJson(source: string | object, options: ReadGeoJsonOptions = {}): FeatureBlock {
  const reader = new GeoJsonReader(options);
  reader.read(typeof source === 'string' ? parse(source) : (source as Json));
  return reader.builder.finish();
}

/** RFC 8142, section 2.1. */
const recordSeparator = String.fromCharCode(0x1e);

/** Whether a text holds one GeoJSON feature a line, by its first line. */
export function isGeoJsonLines(text: string): boolean {
  if (text.startsWith(recordSeparator)) return true;
  const end = text.indexOf('\n');
  if (end < 0 || !/\S/.test(text.slice(end, end + 65536))) return false;
  try {
    return (JSON.parse(text.slice(0, end)) as { type?: unknown }).type === 'Feature';
  } catch {
    // A first line that is no whole document belongs to a document of several lines.
    return false;
  }
}

/**
 * Reads newline-delimited GeoJSON (RFC 8142, with or without the record separator), one feature for each line.
 *
 * @param text one feature for each line
 * @param options name, space and id attribute
 */
export function readGeoJsonLines(text: string, options: ReadGeoJsonOptions = {}): FeatureBlock {
  const reader = new GeoJsonReader(options);
  text.split('\n').forEach((line, i) => {
    const record = (line.startsWith(recordSeparator) ? line.slice(1) : line).trim();
    if (record) reader.read(parse(record, `line ${i + 1}`), `line ${i + 1}`);
  });
  return reader.builder.finish();
}

function parse(text: string, at?: string): Json {
  try {
    return parseExactJson(text) as Json;
  } catch (error) {
    const start = text.trimStart().slice(0, 40);
    const guess = start.startsWith('<')
      ? 'It begins like HTML or XML; the address may be wrong.'
      : 'It may be truncated; write or fetch it again.';
    throw new Fault('geojson.json', `the text is not JSON: ${(error as Error).message}`, guess, at, error);
  }
}

class GeoJsonReader {
  readonly builder: BlockBuilder;
  private readonly plan: boolean;

  constructor(private readonly options: ReadGeoJsonOptions) {
    this.plan = options.space === 'plan';
    this.builder = new BlockBuilder(options.name ?? 'features', this.plan ? 'plane' : 'lonlat');
  }

  read(json: Json, at = '$'): void {
    if (typeof json !== 'object' || json === null) throw faulty(at, `expected a GeoJSON object, got ${describe(json)}`);
    if (json['type'] === 'FeatureCollection') {
      const features = json['features'];
      if (!Array.isArray(features))
        throw faulty(`${at}.features`, `expected an array of features, got ${describe(features)}`);
      features.forEach((feature, i) => this.feature(feature as Json, `${at}.features[${i}]`));
    } else this.feature(json, at);
  }

  private feature(json: Json, at: string): void {
    const type = json?.['type'];
    if (type === 'Feature') {
      const geometry = json['geometry'] as Json | null | undefined;
      this.geometry(geometry ?? null, json, `${at}.geometry`);
    } else if (type === 'GeometryCollection' || (typeof type === 'string' && Object.hasOwn(kinds, type)))
      this.geometry(json, {}, at);
    else {
      throw faulty(
        `${at}.type`,
        `type ${jsonOf(type)} is none of FeatureCollection, Feature, GeometryCollection, ${Object.keys(kinds).join(', ')}`,
      );
    }
  }

  private geometry(geometry: Json | null, feature: Json, at: string, depth = 0): void {
    const { builder } = this;
    if (geometry?.['type'] === 'GeometryCollection') {
      const members = geometry['geometries'];
      if (!Array.isArray(members)) throw faulty(`${at}.geometries`, `expected an array, got ${describe(members)}`);
      if (depth > 64) throw faulty(at.slice(0, 80), 'geometry collections are nested more than 64 deep');
      members.forEach((member, i) => this.geometry(member as Json, feature, `${at}.geometries[${i}]`, depth + 1));
      return;
    }
    builder.begin();
    let kind: Kind = Kind.none;
    if (geometry) {
      const type = geometry['type'];
      kind = Object.hasOwn(kinds, plainText(type)) ? kinds[plainText(type)] : Kind.none;
      if (kind === Kind.none) throw faulty(`${at}.type`, `${jsonOf(type)} is no geometry type`);
      this.shape(plainText(type), geometry['coordinates'], `${at}.coordinates`);
    }
    const properties = (feature['properties'] ?? {}) as Json;
    for (const name in properties) {
      const value = properties[name];
      if (typeof value === 'object') assertShallow(value, `the attribute "${name}" of ${at}`, 'geojson.depth');
      builder.set(name, typeof value === 'object' && value !== null ? JSON.stringify(value) : (value as Value));
    }
    builder.end(kind, this.idOf(feature, properties));
  }

  private idOf(feature: Json, properties: Json): number {
    const own = feature['id'] ?? (this.options.id === undefined ? undefined : properties[this.options.id]);
    if (typeof own === 'string' && feature['id'] !== undefined && !/^\d{1,15}$/.test(own)) this.builder.set('id', own);
    const number = typeof own === 'string' && /^\d{1,15}$/.test(own) ? Number(own) : own;
    return typeof number === 'number' && Number.isSafeInteger(number) && number >= 0 ? number : NaN;
  }

  private shape(type: string, coordinates: unknown, at: string): void {
    const list = array(coordinates, at);
    if (type === 'Point') this.point(list, at);
    else if (type === 'MultiPoint') list.forEach((p, i) => this.point(p, `${at}[${i}]`));
    else if (type === 'LineString') this.line(list, at);
    else if (type === 'MultiLineString') list.forEach((l, i) => this.line(l, `${at}[${i}]`));
    else if (type === 'Polygon') this.polygon(list, at);
    else list.forEach((p, i) => this.polygon(p, `${at}[${i}]`));
  }

  private point(position: unknown, at: string): void {
    this.builder.part();
    this.builder.ring();
    this.vertex(position, at);
  }

  private line(positions: unknown, at: string): void {
    const list = array(positions, at);
    if (list.length < 2) throw faulty(at, `a line has two positions or more, and this one has ${list.length}`);
    this.builder.part();
    this.builder.ring();
    for (let i = 0; i < list.length; i++) this.vertex(list[i], at, i);
  }

  private polygon(rings: unknown, at: string): void {
    this.builder.part();
    array(rings, at).forEach((ring, r) => {
      const where = `${at}[${r}]`;
      const list = array(ring, where) as number[][];
      const first = list[0];
      const last = list[list.length - 1];
      const closed = list.length > 1 && first?.[0] === last?.[0] && first?.[1] === last?.[1];
      const count = closed ? list.length - 1 : list.length;
      if (count < 3) throw faulty(where, `a ring has three different positions or more, and this one has ${count}`);
      const flat: number[] = [];
      for (let i = 0; i < count; i++) flat.push(list[i]?.[0], list[i]?.[1]);
      const wantsPositive = r === 0;
      const turn = doubleArea(flat, 0, count) > 0 !== wantsPositive;
      this.builder.ring();
      for (let i = 0; i < count; i++) this.vertex(list[turn ? count - 1 - i : i], where, turn ? count - 1 - i : i);
    });
  }

  private vertex(position: unknown, at: string, index?: number): void {
    const pair = position as number[];
    const x = pair?.[0];
    const y = pair?.[1];
    const where = () => (index === undefined ? at : `${at}[${index}]`);
    if (typeof x !== 'number' || typeof y !== 'number' || !isFinite(x) || !isFinite(y)) {
      throw faulty(where(), `expected a position [longitude, latitude] of numbers, got ${describe(position)}`);
    }
    if (!this.plan) assertDegrees(x, y, where);
    this.builder.vertex(x, y);
  }
}

/** Longitude beyond which a number is no degree: ten times round. */
const farthest = 3600;

function assertDegrees(lon: number, lat: number, where: () => string): void {
  const isFar = Math.abs(lon) > farthest;
  if (lat >= -90 && lat <= 90 && !isFar) return;
  const planar = Math.abs(lon) > 360 || Math.abs(lat) > 360;
  throw new Fault(
    planar ? 'geojson.planar' : 'geojson.swapped',
    lat >= -90 && lat <= 90
      ? `position [${lon}, ${lat}] has a longitude beyond ±${farthest}°, ten times round`
      : `position [${lon}, ${lat}] has a latitude beyond ±90°`,
    planar
      ? 'The numbers look like meters of a projected system, not degrees; name the system as "crs" of the data entry (or with flintwright convert --from), or read it as a plan.'
      : 'The pair looks swapped: write [longitude, latitude].',
    where(),
  );
}

function array(value: unknown, at: string): unknown[] {
  if (!Array.isArray(value)) throw faulty(at, `expected an array, got ${describe(value)}`);
  return value;
}

function describe(value: unknown): string {
  if (value === undefined) return 'nothing';
  return jsonOf(value);
}

function faulty(at: string, message: string): Fault {
  return new Fault('geojson.form', message, 'Mend that part, or write the file again as RFC 7946 GeoJSON.', at);
}
