import { greatest, least } from '../../base/lists.js';
import { prjText } from '../../crs/match.js';
import { doubleArea } from '../../geometry/rings.js';
import type { FileFeature, FileGeometry, FileLayer, FilePosition, FileWriter } from '../files/feature-file.js';
import { idsAsAttributes } from '../files/ids.js';
import { eachPosition } from '../files/mend.js';
import { apart } from '../files/together.js';
import type { WarningList } from '../files/warnings.js';
import { hasEveryHeight, hasHeight } from '../wkt/geometry-text.js';
import { zip } from '../zip/unpack.js';
import { writeDbf } from './dbf.js';

const suits = { Point: 'points', LineString: 'lines', Polygon: 'areas' } as const;
type Suit = (typeof suits)[keyof typeof suits];

/** Code of the type, without and with heights; a set with heights has measures as well, all of them "no data". */
const codes: Readonly<Record<Suit, readonly [number, number]>> = { points: [8, 18], lines: [3, 13], areas: [5, 15] };
const pointCodes = [1, 11] as const;
const noData = -1e39;

interface Row {
  readonly feature: FileFeature;
  /** Simple parts of one kind; none for a feature without a place. */
  readonly parts: readonly FileGeometry[];
}

/** A shapefile to write: what its name adds to that of the file, and its rows. */
interface ShapeSet {
  readonly layer: FileLayer;
  readonly suit: Suit;
  readonly rows: readonly Row[];
}

/**
 * Writes shapefiles, a set for points, one for lines and one for areas, as the format holds one kind of geometry each: files that stand
 * beside each other, or, for the ending `zip`, in one archive.
 */
export const shapefileWriter: FileWriter = {
  async write(layers, warnings, { ending = 'zip' } = {}) {
    const sets = layers.flatMap((layer): ShapeSet[] => {
      const found = [...setsOf(layer)].map(([suit, rows]) => ({ layer, suit, rows }));
      if (found.length > 1)
        warnings.add(
          'mended.kinds',
          'a shapefile can contain one kind of geometry only',
          'Each kind was written to a separate shapefile.',
          layer.name,
        );
      return found;
    });
    if (!sets.length) sets.push({ layer: layers[0], suit: 'points', rows: [] });
    const packed = ending === 'zip';
    const files: Record<string, Uint8Array> = {};
    for (const { layer, suit, rows } of sets) {
      const isOneOfSeveral = sets.some((other) => other.layer === layer && other.suit !== suit);
      const parts = [
        packed ? layer.name || 'features' : layers.length > 1 && `_${layer.name}`,
        isOneOfSeveral && `_${suit}`,
      ];
      const base = parts.map((part) => (part ? part.replace(/[^\p{L}\p{N}_-]/gu, '_') : '')).join('');
      const prj = layer.crs && (await prjText(layer.crs));
      for (const [end, bytes] of Object.entries(writeSet(suit, rows, prj, warnings))) files[base + end] = bytes;
    }
    return packed ? zip(files) : files;
  },
};

function setsOf({ features }: FileLayer): Map<Suit, Row[]> {
  const sets = new Map<Suit, Row[]>();
  const push = (suit: Suit, row: Row) => void (sets.get(suit) ?? sets.set(suit, []).get(suit)!).push(row);
  const placeless: Row[] = [];
  for (const feature of features) {
    const groups = new Map<Suit, FileGeometry[]>();
    for (const part of feature.geometry ? apart(feature.geometry) : []) {
      const suit = suits[part.type as keyof typeof suits];
      groups.set(suit, [...(groups.get(suit) ?? []), part]);
    }
    if (!groups.size) placeless.push({ feature, parts: [] });
    for (const [suit, parts] of groups) push(suit, { feature, parts });
  }
  if (placeless.length) {
    const first = [...sets.keys()][0] ?? 'points';
    sets.set(first, [...(sets.get(first) ?? []), ...placeless]);
  }
  return sets;
}

/** The files of one set, by their endings. */
function writeSet(
  suit: Suit,
  rows: readonly Row[],
  prj: string | undefined,
  warnings: WarningList,
): Record<string, Uint8Array> {
  const high = rows.some(({ parts }) => parts.some(hasHeight));
  if (high && !rows.every(({ parts }) => parts.every(hasEveryHeight)))
    warnings.add(
      'changed.height',
      'some positions have a height and others do not, and a shapefile has one for all or none',
      'Positions without a height were given height 0.',
      suit,
    );
  const single = suit === 'points' && rows.every(({ parts }) => parts.length < 2);
  const code = (single ? pointCodes : codes[suit])[high ? 1 : 0];
  const contents = rows.map(({ parts }) => (parts.length ? record(parts, code, single, high) : nullShape()));
  const size = contents.reduce((sum, { length }) => sum + 8 + length, 100);
  const [shp, shx] = [new Uint8Array(size), new Uint8Array(100 + 8 * contents.length)];
  const box = boxOf(rows.flatMap(({ parts }) => parts));
  for (const file of [shp, shx]) header(file, code, box);
  const [shapes, index] = [new DataView(shp.buffer), new DataView(shx.buffer)];
  let at = 100;
  contents.forEach((content, i) => {
    index.setInt32(100 + 8 * i, at / 2);
    index.setInt32(104 + 8 * i, content.length / 2);
    shapes.setInt32(at, i + 1);
    shapes.setInt32(at + 4, content.length / 2);
    shp.set(content, at + 8);
    at += 8 + content.length;
  });
  const attributes = idsAsAttributes(rows.map(({ feature }) => feature)).map(({ properties }) => properties);
  const text = (value: string) => new TextEncoder().encode(value);
  return {
    '.shp': shp,
    '.shx': shx,
    '.dbf': writeDbf(
      attributes.length && attributes.every((row) => !Object.keys(row).length)
        ? attributes.map((_, i) => ({ number: i + 1 }))
        : attributes,
      warnings,
    ).dbf,
    '.cpg': text('UTF-8'),
    ...(prj === undefined ? {} : { '.prj': text(prj) }),
  };
}

/** x and y from lowest to highest, then z; nought where there is nothing. */
function boxOf(parts: readonly FileGeometry[]): [number, number, number, number, number, number] {
  const box: [number, number, number, number, number, number] = [
    Infinity,
    Infinity,
    -Infinity,
    -Infinity,
    Infinity,
    -Infinity,
  ];
  for (const part of parts)
    eachPosition(part, ([x, y, z = 0]) => {
      box[0] = Math.min(box[0], x);
      box[1] = Math.min(box[1], y);
      box[2] = Math.max(box[2], x);
      box[3] = Math.max(box[3], y);
      box[4] = Math.min(box[4], z);
      box[5] = Math.max(box[5], z);
    });
  return box[0] > box[2] ? [0, 0, 0, 0, 0, 0] : box;
}

function header(file: Uint8Array, code: number, box: readonly number[]): void {
  const view = new DataView(file.buffer);
  view.setInt32(0, 9994);
  view.setInt32(24, file.length / 2);
  view.setInt32(28, 1000, true);
  view.setInt32(32, code, true);
  box.forEach((value, i) => view.setFloat64(36 + 8 * i, value, true));
}

const nullShape = () => new Uint8Array(4);

/** Rings as the format has them: outer rings clockwise, holes the other way. */
function turned(ring: readonly FilePosition[], outer: boolean): readonly FilePosition[] {
  const flat = ring.flatMap(([x, y]) => [x, y]);
  return doubleArea(flat, 0, ring.length) < 0 === outer ? ring : [...ring].reverse();
}

function record(parts: readonly FileGeometry[], code: number, single: boolean, high: boolean): Uint8Array {
  const lists: (readonly FilePosition[])[] = parts.flatMap((part) =>
    part.type === 'Polygon'
      ? part.coordinates.map((ring, i) => turned(ring, i === 0))
      : part.type === 'LineString'
        ? [part.coordinates]
        : [[(part as { coordinates: FilePosition }).coordinates]],
  );
  const points = lists.flat();
  const multipoint = code === 8 || code === 18;
  const starts = single || multipoint ? 0 : lists.length;
  const heads = single ? 4 : multipoint ? 40 : 44 + 4 * starts;
  const tail = !high ? 0 : single ? 16 : 2 * (16 + 8 * points.length);
  const out = new Uint8Array(heads + 16 * points.length + tail);
  const view = new DataView(out.buffer);
  view.setInt32(0, code, true);
  if (!single) {
    boxOf(parts)
      .slice(0, 4)
      .forEach((value, i) => view.setFloat64(4 + 8 * i, value, true));
    if (multipoint) view.setInt32(36, points.length, true);
    else {
      view.setInt32(36, starts, true);
      view.setInt32(40, points.length, true);
      let first = 0;
      lists.forEach((list, i) => {
        view.setInt32(44 + 4 * i, first, true);
        first += list.length;
      });
    }
  }
  points.forEach(([x, y], i) => {
    view.setFloat64(heads + 16 * i, x, true);
    view.setFloat64(heads + 16 * i + 8, y, true);
  });
  if (!high) return out;
  let at = heads + 16 * points.length;
  const heights = points.map(([, , z = 0]) => z);
  const double = (value: number) => {
    view.setFloat64(at, value, true);
    at += 8;
  };
  if (!single) [least(heights), greatest(heights)].forEach(double);
  heights.forEach(double);
  if (!single) [noData, noData].forEach(double);
  points.forEach(() => double(noData));
  return out;
}
