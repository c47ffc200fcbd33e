import { Fault } from '../../base/fault.js';
import type { FileGeometry, FilePosition } from '../files/feature-file.js';
import { deepest, eachPosition } from '../files/mend.js';

const names = {
  POINT: 'Point',
  LINESTRING: 'LineString',
  LINEARRING: 'LineString',
  POLYGON: 'Polygon',
  TRIANGLE: 'Polygon',
  MULTIPOINT: 'MultiPoint',
  MULTILINESTRING: 'MultiLineString',
  MULTIPOLYGON: 'MultiPolygon',
  POLYHEDRALSURFACE: 'MultiPolygon',
  TIN: 'MultiPolygon',
  GEOMETRYCOLLECTION: 'GeometryCollection',
} as const;

/** A geometry of well-known text, and the code of its system where the text begins with one. */
export interface TextGeometry {
  readonly geometry: FileGeometry | null;
  /** Whether its positions have measures, which are left out. */
  readonly measured: boolean;
  readonly srid?: number;
}

/** Whether a text begins as well-known text of a geometry does. */
export const looksLikeWkt = (text: string): boolean =>
  new RegExp(
    `^\\s*(SRID\\s*=\\s*\\d+\\s*;\\s*)?(${Object.keys(names).join('|')})\\s*(Z|M|ZM)?\\s*(\\(|EMPTY)`,
    'i',
  ).test(text.slice(0, 200));

/**
 * Reads the well-known text of a geometry (OGC 06-103r4, section 7), in two, three or four dimensions; measures are left out.
 * `SRID=code;` may stand before it. Empty geometries give null.
 *
 * @param text one geometry
 * @param at where it stands, for messages
 * @throws Fault `wkt.geometry` with the character at fault
 */
export function parseGeometryText(text: string, at: string): TextGeometry {
  const head = /^\s*SRID\s*=\s*(\d+)\s*;/i.exec(text);
  const parser = new GeometryText(text, head?.[0].length ?? 0, at);
  const geometry = parser.geometry(0);
  parser.end();
  return { geometry, measured: parser.measured, ...(head ? { srid: Number(head[1]) } : {}) };
}

class GeometryText {
  measured = false;
  private dimensions = '';

  constructor(
    private readonly text: string,
    private i: number,
    private readonly at: string,
  ) {}

  geometry(depth: number): FileGeometry | null {
    if (depth > deepest) throw this.fault(`collections nested more than ${deepest} deep`);
    const word = this.word();
    let [name, marks] = [word, ''];
    const joined = /^(.*?)(ZM|Z|M)$/.exec(word);
    if (!(word in names) && joined) [name, marks] = [joined[1], joined[2]];
    if (!(name in names)) throw this.fault(`"${word}" is no kind of geometry`);
    const next = this.peekWord();
    if (next === 'Z' || next === 'M' || next === 'ZM') marks = this.word();
    this.dimensions = marks;
    if (this.isEmpty()) return null;
    const type = names[name as keyof typeof names];
    switch (type) {
      case 'Point':
        return { type, coordinates: this.single() };
      case 'MultiPoint':
        return this.filled(
          type,
          this.list(() => (this.isEmpty() ? null : this.next() === '(' ? this.single() : this.position())),
        );
      case 'LineString':
        return { type, coordinates: this.positions() };
      case 'Polygon':
      case 'MultiLineString':
        return this.filled(
          type,
          this.list(() => (this.isEmpty() ? null : this.positions())),
        );
      case 'MultiPolygon':
        return this.filled(
          type,
          this.list(() => (this.isEmpty() ? null : this.list(() => this.positions()))),
        );
      case 'GeometryCollection': {
        const members = this.list(() => this.geometry(depth + 1));
        return { type, geometries: members.filter((member) => member !== null) };
      }
    }
  }

  end(): void {
    this.space();
    if (this.i < this.text.length)
      throw this.fault(`something follows the geometry: "${this.text.slice(this.i, this.i + 12)}"`);
  }

  /** Whether `EMPTY` comes next; it is taken. */
  private isEmpty(): boolean {
    if (this.peekWord() !== 'EMPTY') return false;
    this.word();
    return true;
  }

  /** A geometry of the members that are not empty; null where all are. */
  private filled(type: FileGeometry['type'], members: readonly unknown[]): FileGeometry | null {
    const coordinates = members.filter((member) => member !== null);
    return coordinates.length ? ({ type, coordinates } as unknown as FileGeometry) : null;
  }

  /** The one position of a point. */
  private single(): FilePosition {
    const [position, ...more] = this.list(() => this.position());
    if (more.length) throw this.fault(`expected one position in a point, got ${more.length + 1}`);
    return position;
  }

  private positions(): FilePosition[] {
    return this.list(() => this.position());
  }

  private position(): FilePosition {
    const numbers: number[] = [];
    for (;;) {
      this.space();
      const number = /^[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?/.exec(this.text.slice(this.i, this.i + 48))?.[0];
      if (number === undefined) break;
      numbers.push(Number(number));
      this.i += number.length;
    }
    if (numbers.length < 2 || numbers.length > 4)
      throw this.fault(`a position has two to four numbers, not ${numbers.length}`);
    const isMeasured = this.dimensions === 'M' || numbers.length > 3;
    this.measured ||= isMeasured;
    return this.dimensions === 'M' ? numbers.slice(0, 2) : numbers.slice(0, 3);
  }

  private list<T>(item: () => T): T[] {
    if (this.next() !== '(') throw this.fault(`expected "(", got "${this.text[this.i] ?? 'the end'}"`);
    this.i++;
    const out = [item()];
    for (;;) {
      const sign = this.next();
      if (sign !== ',' && sign !== ')') throw this.fault(`expected "," or ")", got "${sign ?? 'the end'}"`);
      this.i++;
      if (sign === ')') return out;
      out.push(item());
    }
  }

  private space(): void {
    while (/\s/.test(this.text[this.i] ?? '')) this.i++;
  }

  private next(): string | undefined {
    this.space();
    return this.text[this.i];
  }

  private peekWord(): string {
    this.space();
    return (/^[a-z]+/i.exec(this.text.slice(this.i, this.i + 24))?.[0] ?? '').toUpperCase();
  }

  private word(): string {
    const word = this.peekWord();
    this.i += word.length;
    return word;
  }

  private fault(what: string): Fault {
    return new Fault(
      'wkt.geometry',
      `the well-known text of a geometry cannot be read: ${what}`,
      'Write it as in POINT (-31.2 44.6) or POLYGON ((…), (…)).',
      `${this.at}, character ${this.i + 1}`,
    );
  }
}

/**
 * The well-known text of a geometry (OGC 06-103r4), with all digits of its numbers. A geometry has heights where all its positions have one;
 * the standard has no sign for one that is missing.
 */
export function geometryText(geometry: FileGeometry | null): string {
  if (!geometry) return 'GEOMETRYCOLLECTION EMPTY';
  const word = geometry.type.toUpperCase();
  if (geometry.type === 'GeometryCollection')
    return geometry.geometries.length
      ? `${word} (${geometry.geometries.map(geometryText).join(', ')})`
      : `${word} EMPTY`;
  const high = hasEveryHeight(geometry);
  const isPosition = (node: unknown): node is FilePosition => typeof (node as unknown[])[0] === 'number';
  // The members of a set of points are points in brackets of their own.
  const walk = (node: unknown): string =>
    isPosition(node)
      ? node.slice(0, high ? 3 : 2).join(' ')
      : (node as unknown[])
          .map((item) => (isPosition(item) && geometry.type !== 'MultiPoint' ? walk(item) : `(${walk(item)})`))
          .join(', ');
  return `${word}${high ? ' Z' : ''} (${walk(geometry.coordinates)})`;
}

/** Whether every position of a geometry has a height. */
export function hasEveryHeight(geometry: FileGeometry): boolean {
  let every = true;
  eachPosition(geometry, (position) => (every &&= position.length > 2));
  return every;
}

export const hasHeight = (geometry: FileGeometry): boolean => {
  if (geometry.type === 'GeometryCollection') return geometry.geometries.some(hasHeight);
  const walk = (node: unknown): boolean =>
    typeof (node as unknown[])[0] === 'number' ? (node as unknown[]).length > 2 : (node as unknown[]).some(walk);
  return walk(geometry.coordinates);
};
