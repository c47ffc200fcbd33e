import { Fault } from '../../base/fault.js';
import { growingBytes } from '../../base/growing.js';
import type { FileGeometry, FilePosition } from '../files/feature-file.js';
import { deepest } from '../files/mend.js';
import { hasHeight, type TextGeometry } from './geometry-text.js';

const types = [
  '',
  'Point',
  'LineString',
  'Polygon',
  'MultiPoint',
  'MultiLineString',
  'MultiPolygon',
  'GeometryCollection',
] as const;

/** Types that well-known text knows as well: PolyhedralSurface, TIN and Triangle (06-103r4, table 7). */
const surfaces: Readonly<Record<number, 'MultiPolygon' | 'Polygon'>> = {
  15: 'MultiPolygon',
  16: 'MultiPolygon',
  17: 'Polygon',
};

/**
 * Reads the well-known binary of a geometry (OGC 06-103r4, section 8; ISO 13249-3 for heights), also with the code of its system in
 * the flags that some databases add. Measures are left out; empty geometries give null.
 *
 * @param bytes one geometry
 * @param at where it stands, for messages
 * @throws Fault `wkb.geometry` with the byte at fault
 */
export function parseGeometryBytes(bytes: Uint8Array, at: string): TextGeometry {
  const reader = new GeometryBytes(bytes, at);
  const geometry = reader.geometry(0);
  return { geometry, measured: reader.measured, ...(reader.srid === undefined ? {} : { srid: reader.srid }) };
}

class GeometryBytes {
  srid: number | undefined;
  measured = false;
  private i = 0;
  private little = true;
  private readonly view: DataView;

  constructor(
    bytes: Uint8Array,
    private readonly at: string,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  geometry(depth: number): FileGeometry | null {
    if (depth > deepest) throw this.fault(`collections are nested more than ${deepest} deep`);
    this.need(5);
    const order = this.view.getUint8(this.i++);
    if (order > 1) throw this.fault(`the byte order is ${order}, and 0 or 1 is allowed`);
    this.little = order === 1;
    const code = this.uint();
    const flags = code >>> 28;
    const iso = Math.floor((code & 0xfffffff) / 1000);
    const kind = (code & 0xfffffff) % 1000;
    const type = types[kind] ?? surfaces[kind];
    if (!type || iso > 3) throw this.fault(`${code} is no type of geometry that is read`);
    const high = (flags & 8) > 0 || iso === 1 || iso === 3;
    const measured = (flags & 4) > 0 || iso > 1;
    this.measured ||= measured;
    if (flags & 2) this.srid = this.uint();
    const size = 2 + Number(high) + Number(measured);
    const position = (): FilePosition => {
      this.need(8 * size);
      const all = Array.from({ length: size }, () => this.double());
      return all.slice(0, high ? 3 : 2);
    };
    const line = () => this.many(8 * size, position);
    const ring = () => this.many(4, line);
    const all = () => this.many(5, () => this.geometry(depth + 1)).filter((member) => member !== null);
    // The members of a multi-geometry are of its own kind.
    const members = <T>(wanted: FileGeometry['type']) =>
      all().map((member) => {
        if (member.type !== wanted) throw this.fault(`a ${type} holds a ${member.type}`);
        return (member as unknown as { coordinates: T }).coordinates;
      });
    const filled = <T extends { readonly coordinates: readonly unknown[] }>(geometry: T): T | null =>
      geometry.coordinates.length ? geometry : null;
    switch (type) {
      case 'Point': {
        const coordinates = position();
        const [x, y, z] = coordinates;
        if (Number.isNaN(x) && Number.isNaN(y)) return null;
        return { type, coordinates: Number.isNaN(z) ? [x, y] : coordinates };
      }
      case 'LineString':
        return filled({ type, coordinates: line() });
      case 'Polygon':
        return filled({ type, coordinates: ring() });
      case 'MultiPoint':
        return filled({ type, coordinates: members<FilePosition>('Point') });
      case 'MultiLineString':
        return filled({ type, coordinates: members<FilePosition[]>('LineString') });
      case 'MultiPolygon':
        return filled({ type, coordinates: members<FilePosition[][]>('Polygon') });
      case 'GeometryCollection':
        return { type, geometries: all() };
    }
  }

  /** A count, and as many items; at least `least` bytes have to be there for each, so that a forged count costs nothing. */
  private many<T>(least: number, item: () => T): T[] {
    const count = this.uint();
    if (count * least > this.view.byteLength - this.i)
      throw this.fault(`${count} items are announced, and the bytes end before`);
    return Array.from({ length: count }, item);
  }

  private need(bytes: number): void {
    if (this.i + bytes > this.view.byteLength) throw this.fault('it is truncated');
  }

  private uint(): number {
    this.need(4);
    this.i += 4;
    return this.view.getUint32(this.i - 4, this.little);
  }

  private double(): number {
    this.i += 8;
    return this.view.getFloat64(this.i - 8, this.little);
  }

  private fault(what: string): Fault {
    return new Fault(
      'wkb.geometry',
      `the well-known binary of a geometry cannot be read: ${what}`,
      'It was truncated or damaged; write it again.',
      `${this.at}, byte ${this.i}`,
    );
  }
}

/** The well-known binary of a geometry (ISO 13249-3), little-endian, with heights where one position has one; those that are missing are NaN. */
export function geometryBytes(geometry: FileGeometry): Uint8Array {
  const out = growingBytes();
  const high = hasHeight(geometry);
  const scratch = new DataView(new ArrayBuffer(8));
  const push = (count: number) => {
    for (let k = 0; k < count; k++) out.push(scratch.getUint8(k));
  };
  const uint = (value: number) => {
    scratch.setUint32(0, value, true);
    push(4);
  };
  const position = ([x, y, z = NaN]: FilePosition) => {
    for (const value of high ? [x, y, z] : [x, y]) {
      scratch.setFloat64(0, value, true);
      push(8);
    }
  };
  const line = (positions: readonly FilePosition[]) => {
    uint(positions.length);
    positions.forEach(position);
  };
  const write = (shape: FileGeometry): void => {
    out.push(1);
    uint(types.indexOf(shape.type) + (high ? 1000 : 0));
    switch (shape.type) {
      case 'Point':
        return position(shape.coordinates);
      case 'LineString':
        return line(shape.coordinates);
      case 'Polygon':
        uint(shape.coordinates.length);
        return shape.coordinates.forEach(line);
      case 'MultiPoint':
        uint(shape.coordinates.length);
        return shape.coordinates.forEach((coordinates) => write({ type: 'Point', coordinates }));
      case 'MultiLineString':
        uint(shape.coordinates.length);
        return shape.coordinates.forEach((coordinates) => write({ type: 'LineString', coordinates }));
      case 'MultiPolygon':
        uint(shape.coordinates.length);
        return shape.coordinates.forEach((coordinates) => write({ type: 'Polygon', coordinates }));
      case 'GeometryCollection':
        uint(shape.geometries.length);
        return shape.geometries.forEach(write);
    }
  };
  write(geometry);
  return out.finish();
}
