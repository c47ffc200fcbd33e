import { Fault } from '../../base/fault.js';
import { doubleArea, insideRings } from '../../geometry/rings.js';
import type { FileGeometry, FilePosition } from '../files/feature-file.js';
import { together } from '../files/together.js';
import type { Records } from '../files/records.js';
import type { WarningList } from '../files/warnings.js';

/** Kinds of shapes by their codes (the format's technical description of 1998, table 1). */
const kinds: Readonly<Record<number, 'null' | 'point' | 'line' | 'polygon' | 'multipoint' | 'patch'>> = {
  0: 'null',
  1: 'point',
  3: 'line',
  5: 'polygon',
  8: 'multipoint',
  11: 'point',
  13: 'line',
  15: 'polygon',
  18: 'multipoint',
  21: 'point',
  23: 'line',
  25: 'polygon',
  28: 'multipoint',
  31: 'patch',
};
const hasZ = (type: number) => type > 10 && type < 20;
const hasM = (type: number) => type > 20 && type < 30;

/** Shapes that end before their header says. */
export const cutShapes = (at: string) =>
  new Fault('shapefile.cut', 'the shapes are truncated', 'Fetch or write the file again.', at);

/** One record of the main file. */
export interface ShapeRecord {
  /** Its number as written, from 1. */
  readonly number: number;
  readonly geometry: FileGeometry | null;
}

/**
 * Reads the main file of a shapefile: a header of 100 bytes, and records one after the other.
 *
 * @param bytes the .shp file
 * @param name its name, for messages
 * @param warnings takes what was mended
 * @throws Fault `shapefile.magic`, `shapefile.type`, `shapefile.cut`, `shapefile.record`
 */
export function readShapes(bytes: Uint8Array, name: string, warnings: WarningList, reader: Records): ShapeRecord[] {
  if (bytes.length < 100) throw cutShapes(`${name}, byte ${bytes.length}`);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const stated = assertMainHeader(bytes, name);
  const end = Math.min(bytes.length, stated);
  if (stated > bytes.length) throw cutShapes(`${name}, byte ${bytes.length} of ${stated}`);
  const records: ShapeRecord[] = [];
  for (let i = 100; i < end;) {
    if (i + 12 > end) throw cutShapes(`${name}, byte ${i}`);
    const number = view.getInt32(i);
    const length = recordLength(view, i, end, name, 0);
    const record = new DataView(bytes.buffer, bytes.byteOffset + i + 8, length);
    const place = `${name}, record ${number}`;
    const shape = new Shape(record, place, warnings);
    records.push({ number, geometry: reader.geometry(place, () => shape.geometry()) });
    i += 8 + length;
  }
  return records;
}

/**
 * Checks the header of a main file.
 *
 * @param bytes its first 100 bytes, or more
 * @param name its name, for messages
 * @returns length of the file as it is stated there, in bytes
 * @throws Fault `shapefile.magic`, `shapefile.type`
 */
export function assertMainHeader(bytes: Uint8Array, name: string): number {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (view.getInt32(0) !== 9994)
    throw new Fault('shapefile.magic', `${name} does not start like a .shp file`, 'Check the file.', name);
  const type = view.getInt32(32, true);
  if (!(type in kinds))
    throw new Fault('shapefile.type', `${name} contains shapes of type ${type}`, 'This type is not supported.', name);
  return view.getInt32(24) * 2;
}

/**
 * Length of the content of a record.
 *
 * @param view bytes of the file
 * @param at where the record begins in them
 * @param end where the file ends in them, by its header
 * @param name name of the file, for messages
 * @param before bytes of the file before these
 * @throws Fault `shapefile.record`
 */
export function recordLength(view: DataView, at: number, end: number, name: string, before: number): number {
  const length = view.getInt32(at + 4) * 2;
  if (length >= 4 && at + 8 + length <= end) return length;
  throw new Fault(
    'shapefile.record',
    `record ${view.getInt32(at)} says it has ${length} bytes, and ${end - at - 8} are left`,
    'The file is damaged; fetch or write it again.',
    `${name}, byte ${before + at}`,
  );
}

class Shape {
  constructor(
    private readonly view: DataView,
    private readonly at: string,
    private readonly warnings: WarningList,
  ) {}

  geometry(): FileGeometry | null {
    const type = this.view.getInt32(0, true);
    const kind = kinds[type];
    if (!kind) throw new Fault('shapefile.type', `a shape is of type ${type}`, 'This type is not supported.', this.at);
    switch (kind) {
      case 'null':
        return null;
      case 'point': {
        this.need(hasZ(type) ? 28 : 20);
        const z = hasZ(type) ? this.height(20) : undefined;
        this.tellMeasures(hasZ(type) ? 28 : hasM(type) ? 20 : Infinity, 1);
        return { type: 'Point', coordinates: this.position(4, z) };
      }
      case 'multipoint': {
        this.need(40);
        const points = this.points(40, this.count(36, 16), type);
        if (!points.length) return null;
        return points.length === 1
          ? { type: 'Point', coordinates: points[0] }
          : { type: 'MultiPoint', coordinates: points };
      }
      default:
        return this.parts(kind, type);
    }
  }

  private parts(kind: 'line' | 'polygon' | 'patch', type: number): FileGeometry | null {
    this.need(44);
    const partCount = this.count(36, 4);
    const pointCount = this.count(40, 16);
    const patches = kind === 'patch';
    const starts = Array.from({ length: partCount }, (_, k) => {
      this.need(48 + 4 * k);
      return this.view.getInt32(44 + 4 * k, true);
    });
    const points = this.points(44 + (patches ? 8 : 4) * partCount, pointCount, patches ? 15 : type);
    const parts = starts.map((start, k) => {
      const stop = starts[k + 1] ?? pointCount;
      if (start < 0 || stop < start || stop > pointCount)
        throw new Fault(
          'shapefile.parts',
          `part ${k + 1} runs from point ${start} to ${stop} of ${pointCount}`,
          'The file is damaged; fetch or write it again.',
          this.at,
        );
      return points.slice(start, stop);
    });
    if (patches) return this.patches(parts, partCount);
    const filled = parts.filter(({ length }) => length);
    if (!filled.length)
      throw new Fault('shapefile.parts', 'a line or area has no parts', 'It has no geometry; draw it again.', this.at);
    if (kind === 'polygon') return polygons(filled, this.at, this.warnings);
    return filled.length === 1
      ? { type: 'LineString', coordinates: filled[0] }
      : { type: 'MultiLineString', coordinates: filled };
  }

  /** The surfaces of a multi-patch: strips and fans of triangles, and rings. */
  private patches(parts: readonly FilePosition[][], partCount: number): FileGeometry | null {
    const out: FileGeometry[] = [];
    const rings: FilePosition[][] = [];
    parts.forEach((part, k) => {
      const type = this.view.getInt32(44 + 4 * (partCount + k), true);
      if (type > 1) rings.push(part);
      else
        for (let i = 2; i < part.length; i++) {
          const first = type === 1 ? part[0] : part[i - 2];
          out.push({ type: 'Polygon', coordinates: [[first, part[i - 1], part[i], first]] });
        }
    });
    if (rings.length) out.push(polygons(rings, this.at, this.warnings));
    return together(out) ?? null;
  }

  /** Points, and their heights behind them for the types that have some. */
  private points(at: number, count: number, type: number): FilePosition[] {
    this.need(at + 16 * count);
    const heights = at + 16 * count + 16;
    if (hasZ(type)) this.need(heights + 8 * count);
    // Their range stands before them; in shapes with heights, they may be missing.
    this.tellMeasures(hasZ(type) ? heights + 8 * count + 16 : hasM(type) ? heights : Infinity, count);
    return Array.from({ length: count }, (_, k) =>
      this.position(at + 16 * k, hasZ(type) ? this.height(heights + 8 * k) : undefined),
    );
  }

  private position(at: number, z: number | undefined): FilePosition {
    const xy = [this.view.getFloat64(at, true), this.view.getFloat64(at + 8, true)];
    return z === undefined ? xy : [...xy, z];
  }

  /** Tells of measures that are some; values below −10^38 stand for none. */
  private tellMeasures(at: number, count: number): void {
    if (at + 8 * count > this.view.byteLength) return;
    for (let k = 0; k < count; k++)
      if (this.view.getFloat64(at + 8 * k, true) > -1e38) return this.warnings.measures(this.at);
  }

  /** A height; values below −10^38 stand for none. */
  private height(at: number): number | undefined {
    const z = this.view.getFloat64(at, true);
    return z < -1e38 ? undefined : z;
  }

  /** A count, of which each item takes so many bytes of the record. */
  private count(at: number, each: number): number {
    const count = this.view.getInt32(at, true);
    if (count < 0 || count * each > this.view.byteLength) throw cutShapes(this.at);
    return count;
  }

  private need(bytes: number): void {
    if (bytes > this.view.byteLength) throw cutShapes(this.at);
  }
}

const flatOf = (ring: readonly FilePosition[]) => ring.flatMap(([x, y]) => [x, y]);

/** Rings as polygons: those that run clockwise are outer rings, the others holes of the smallest outer ring that holds them. */
function polygons(rings: readonly FilePosition[][], at: string, warnings: WarningList): FileGeometry {
  const all = rings.map((ring) => {
    const flat = flatOf(ring);
    const area = doubleArea(flat, 0, flat.length / 2);
    return { ring, flat, area };
  });
  const outers = all.filter(({ area }) => area <= 0).map((outer) => ({ ...outer, holes: [] as FilePosition[][] }));
  const holes = all.filter(({ area }) => area > 0);
  for (const hole of holes) {
    const around = outers
      .filter(
        ({ flat, area }) =>
          Math.abs(area) >= hole.area && insideRings(flat, [0, flat.length / 2], 0, 1, hole.flat[0], hole.flat[1]),
      )
      .toSorted((a, b) => Math.abs(a.area) - Math.abs(b.area))[0];
    if (around) around.holes.push(hole.ring);
    else {
      warnings.add(
        'mended.ring-order',
        'rings are oriented as holes, but no ring encloses them',
        'They were treated as outer rings.',
        at,
      );
      outers.push({ ...hole, holes: [] });
    }
  }
  const coordinates = outers.map(({ ring, holes: inside }) => [ring, ...inside]);
  return coordinates.length === 1
    ? { type: 'Polygon', coordinates: coordinates[0] }
    : { type: 'MultiPolygon', coordinates };
}
