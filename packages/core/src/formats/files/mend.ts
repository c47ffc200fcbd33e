import { Fault } from '../../base/fault.js';
import { doubleArea } from '../../geometry/rings.js';
import type { FileGeometry, FilePosition } from './feature-file.js';
import type { WarningList } from './warnings.js';

/** Deepest nesting of geometry collections. */
export const deepest = 64;

/** How a format wants the rings of a polygon: as RFC 7946 has them, the other way round, or either. */
export type RingOrder = 'outer-left' | 'outer-right' | 'any';

/**
 * Geometry put right: rings closed, repeated positions dropped, outer rings counter-clockwise and holes clockwise (RFC 7946,
 * section 3.1.6).
 *
 * @param geometry as read; it stays as it is
 * @param place where it stands in the file, for warnings and faults
 * @param warnings takes what was mended
 * @param order order in which the format has its rings: another than that is told; default `any`
 * @throws Fault `read.position` for what is not a number, `read.line` and `read.ring` for lines and rings that are too short
 */
export function mendGeometry(
  geometry: FileGeometry,
  place: string,
  warnings: WarningList,
  order: RingOrder = 'any',
): FileGeometry {
  return new Mender(place, warnings, order).geometry(geometry, 0);
}

class Mender {
  constructor(
    private readonly place: string,
    private readonly warnings: WarningList,
    private readonly order: RingOrder,
  ) {}

  geometry(geometry: FileGeometry, depth: number): FileGeometry {
    switch (geometry.type) {
      case 'Point':
        return { type: 'Point', coordinates: this.position(geometry.coordinates) };
      case 'MultiPoint':
        return { type: 'MultiPoint', coordinates: geometry.coordinates.map((p) => this.position(p)) };
      case 'LineString':
        return { type: 'LineString', coordinates: this.line(geometry.coordinates) };
      case 'MultiLineString':
        return { type: 'MultiLineString', coordinates: geometry.coordinates.map((line) => this.line(line)) };
      case 'Polygon':
        return { type: 'Polygon', coordinates: this.polygon(geometry.coordinates) };
      case 'MultiPolygon':
        return { type: 'MultiPolygon', coordinates: geometry.coordinates.map((rings) => this.polygon(rings)) };
      case 'GeometryCollection': {
        if (depth >= deepest)
          throw new Fault(
            'read.depth',
            `geometry collections are nested more than ${deepest} deep`,
            'Write the parts as separate features.',
            this.place,
          );
        return {
          type: 'GeometryCollection',
          geometries: geometry.geometries.map((member) => this.geometry(member, depth + 1)),
        };
      }
    }
  }

  private position(position: FilePosition): FilePosition {
    const [x, y, z] = position;
    if (!Number.isFinite(x) || !Number.isFinite(y))
      throw new Fault(
        'read.position',
        `a position is [${position.map((v) => String(v)).join(', ')}]`,
        'Write two finite numbers.',
        this.place,
      );
    return z === undefined || !Number.isFinite(z) ? [x, y] : [x, y, z];
  }

  /** Positions without those that repeat the one before. */
  private distinct(positions: readonly FilePosition[]): FilePosition[] {
    const out: FilePosition[] = [];
    for (const position of positions) {
      const [before, here] = [out[out.length - 1], this.position(position)];
      if (before && before[0] === here[0] && before[1] === here[1] && (before[2] ?? 0) === (here[2] ?? 0)) {
        this.warnings.add(
          'mended.repeated',
          'positions repeat the one before them',
          'The repeats were dropped.',
          this.place,
        );
        continue;
      }
      out.push(here);
    }
    return out;
  }

  private line(positions: readonly FilePosition[]): FilePosition[] {
    const line = this.distinct(positions);
    if (line.length < 2)
      throw new Fault(
        'read.line',
        `a line has two different positions or more, and this one has ${line.length}`,
        'Correct or remove it.',
        this.place,
      );
    return line;
  }

  private polygon(rings: readonly (readonly FilePosition[])[]): FilePosition[][] {
    return rings.map((ring, r) => {
      const out = this.distinct(ring);
      const [first, last] = [out[0], out[out.length - 1]];
      if (out.length > 1 && (first[0] !== last[0] || first[1] !== last[1])) {
        this.warnings.add('mended.open-ring', 'rings do not end where they begin', 'They were closed.', this.place);
        out.push([...first]);
      }
      if (out.length < 4)
        throw new Fault(
          'read.ring',
          `a ring has four positions or more, the last of them the first again, and this one has ${out.length}`,
          'Correct or remove it.',
          this.place,
        );
      const flat = out.flatMap(([x, y]) => [x, y]);
      const left = doubleArea(flat, 0, out.length - 1) > 0;
      const outer = r === 0;
      if (this.order !== 'any' && left !== (this.order === 'outer-left' ? outer : !outer))
        this.warnings.add(
          'mended.ring-order',
          'rings have the wrong orientation for the format',
          'They were reversed.',
          this.place,
        );
      return left === outer ? out : out.reverse();
    });
  }
}

/** Calls back for every position of a geometry. */
export function eachPosition(geometry: FileGeometry | null, visit: (position: FilePosition) => void): void {
  if (!geometry) return;
  if (geometry.type === 'GeometryCollection') geometry.geometries.forEach((member) => eachPosition(member, visit));
  else {
    const walk = (node: unknown): void => {
      if (typeof (node as unknown[])[0] === 'number') visit(node as FilePosition);
      else (node as unknown[]).forEach(walk);
    };
    if (geometry.coordinates.length) walk(geometry.coordinates);
  }
}

/** A geometry with every position turned into another. */
export function mapPositions(geometry: FileGeometry, turn: (position: FilePosition) => FilePosition): FileGeometry {
  if (geometry.type === 'GeometryCollection')
    return { type: geometry.type, geometries: geometry.geometries.map((member) => mapPositions(member, turn)) };
  const walk = (node: unknown): unknown =>
    typeof (node as unknown[])[0] === 'number' ? turn(node as FilePosition) : (node as unknown[]).map(walk);
  return { type: geometry.type, coordinates: walk(geometry.coordinates) } as FileGeometry;
}
