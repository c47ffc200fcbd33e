import { Fault } from '../base/fault.js';
import type { TileAddress } from '../grid/address.js';

/** A value of an attribute. `null` and `undefined` both mean that a feature has no value. */
export type Value = string | number | boolean | null | undefined;

/** Geometry kinds, numbered as in the vector tile encoding 2.1, section 4.3.4. */
export const Kind = { none: 0, point: 1, line: 2, polygon: 3 } as const;
export type Kind = (typeof Kind)[keyof typeof Kind];
export const kindNames = ['none', 'point', 'line', 'polygon'] as const;

/**
 * One attribute of all features of a block. A coded column has `codes` (one for each feature, 0 for "no value", otherwise 1 + index into
 * `values`); a numeric column has `numbers` (one for each feature, NaN for "no value").
 */
export type Column =
  | { readonly name: string; readonly codes: Uint32Array; readonly values: readonly Value[] }
  | { readonly name: string; readonly numbers: Float64Array };

/** Coordinate space of a block: degrees on the ellipsoid, tile units (y down), or meters of a plan. */
export type Space = 'lonlat' | 'tile' | 'plane';

/**
 * Features in columns. A feature has parts (a point, a line or a polygon each), a part has rings (one
 * for points and lines; outer ring, then holes, for polygons), a ring has vertices. Every level is an
 * array of starts with one further entry at the end. Polygon rings are not closed: the last vertex is
 * not the first again. In tile space outer rings have positive area by the surveyor's formula with y down
 * (clockwise on screen); in lon/lat outer rings run counter-clockwise, as RFC 7946 asks.
 *
 * The arrays can be handed from thread to thread; nothing in a block is an object per feature.
 */
export interface FeatureBlock {
  readonly name: string;
  readonly space: Space;
  /** Tile units across one tile; 0 outside tile space. */
  readonly extent: number;
  /** The tile whose units the coordinates are in, where that is known. */
  readonly tile?: TileAddress;
  readonly count: number;
  readonly kinds: Uint8Array;
  /** Numeric ids, NaN where a feature has none. */
  readonly ids: Float64Array;
  readonly featureParts: Uint32Array;
  readonly partRings: Uint32Array;
  readonly ringStarts: Uint32Array;
  /** x, y (or longitude, latitude), interleaved. */
  readonly coords: Float64Array | Int32Array;
  readonly columns: readonly Column[];
  /** Position of each vertex along the whole line, 0 to 1, for lines cut from longer ones. */
  readonly along?: Float32Array;
}

/** Attributes whose names begin so are the library's own and are shown to nobody. */
export const hiddenMark = '\u0000';

/**
 * Returns the column with a name, or undefined.
 *
 * @param block the features
 * @param name name of the attribute
 */
export function findColumn(block: FeatureBlock, name: string): Column | undefined {
  return block.columns.find((column) => column.name === name);
}

/**
 * Returns the value of `column` for feature `index`; undefined if it has none.
 *
 * @param column an attribute
 * @param index row of the feature, from 0
 */
export function valueAt(column: Column, index: number): Value {
  if ('codes' in column) {
    const code = column.codes[index];
    return code === 0 ? undefined : column.values[code - 1];
  }
  const number = column.numbers[index];
  return Number.isNaN(number) ? undefined : number;
}

/** The values of an attribute for some features, in their order. */
export function gather(column: Column, rows: Uint32Array): Column {
  if ('codes' in column) {
    const codes = new Uint32Array(rows.length);
    for (let i = 0; i < rows.length; i++) codes[i] = column.codes[rows[i]];
    return { name: column.name, codes, values: column.values };
  }
  const numbers = new Float64Array(rows.length);
  for (let i = 0; i < rows.length; i++) numbers[i] = column.numbers[rows[i]];
  return { name: column.name, numbers };
}

/**
 * Returns all attributes of feature `index` as a plain object.
 *
 * @param block the features
 * @param index row of the feature, from 0
 */
export function attributesOf(block: FeatureBlock, index: number): Record<string, Value> {
  const entries = block.columns
    .filter(({ name }) => !name.startsWith(hiddenMark))
    .map((column) => [column.name, valueAt(column, index)] as const);
  return Object.fromEntries(entries.filter(([, value]) => value !== undefined));
}

/**
 * Returns the vertex range of feature `index`: first, and one past the last.
 *
 * @param block the features
 * @param index row of the feature, from 0
 */
export function vertexRange(block: FeatureBlock, index: number): [number, number] {
  const firstPart = block.featureParts[index];
  const endPart = block.featureParts[index + 1];
  return [block.ringStarts[block.partRings[firstPart]], block.ringStarts[block.partRings[endPart]]];
}

/**
 * Returns the bounds `[west, south, east, north]` (or x/y) of feature `index`; infinite and inverted if it has no vertex.
 *
 * @param block the features
 * @param index row of the feature, from 0
 */
export function boundsOf(block: FeatureBlock, index: number): [number, number, number, number] {
  const [from, to] = vertexRange(block, index);
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = from; i < to; i++) {
    const x = block.coords[2 * i];
    const y = block.coords[2 * i + 1];
    if (x < box[0]) box[0] = x;
    if (y < box[1]) box[1] = y;
    if (x > box[2]) box[2] = x;
    if (y > box[3]) box[3] = y;
  }
  return box;
}

/** Returns the bounds of all features of a block. */
export function boundsOfAll(block: FeatureBlock): [number, number, number, number] {
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < block.coords.length; i += 2) {
    box[0] = Math.min(box[0], block.coords[i]);
    box[1] = Math.min(box[1], block.coords[i + 1]);
    box[2] = Math.max(box[2], block.coords[i]);
    box[3] = Math.max(box[3], block.coords[i + 1]);
  }
  return box;
}

/** The buffers of a block that may be transferred to another thread. */
export function buffersOf(block: FeatureBlock): ArrayBuffer[] {
  const arrays: ArrayBufferView[] = [
    block.kinds,
    block.ids,
    block.featureParts,
    block.partRings,
    block.ringStarts,
    block.coords,
  ];
  for (const column of block.columns) arrays.push('codes' in column ? column.codes : column.numbers);
  if (block.along) arrays.push(block.along);
  return [...new Set(arrays.map((array) => array.buffer as ArrayBuffer))];
}

/** Checks that the offsets of a block increase and end where the next level ends; throws otherwise. */
export function assertSound(block: FeatureBlock): void {
  const levels = [
    ['featureParts', block.featureParts, block.count, block.partRings.length - 1],
    ['partRings', block.partRings, block.partRings.length - 1, block.ringStarts.length - 1],
    ['ringStarts', block.ringStarts, block.ringStarts.length - 1, block.coords.length / 2],
  ] as const;
  for (const [name, starts, count, end] of levels) {
    const upwards = starts.every((start, i) => i === 0 || start >= starts[i - 1]);
    if (starts.length !== count + 1 || starts[count] !== end || !upwards) {
      throw new Fault(
        'block.offsets',
        `the ${name} of block "${block.name}" do not describe its geometry`,
        'Build blocks with BlockBuilder, which keeps the offsets right.',
      );
    }
  }
}
