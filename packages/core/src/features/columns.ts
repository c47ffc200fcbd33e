import { Fault } from '../base/fault.js';
import { Kind, type Column, type FeatureBlock, type Value } from './block.js';

type Numbers =
  | Float64Array
  | Float32Array
  | Int32Array
  | Uint32Array
  | Int16Array
  | Uint16Array
  | Int8Array
  | Uint8Array;

/** Values of one attribute: a number for each feature (NaN for none), a value for each, or indices of categories. */
export type AttributeColumn =
  | Numbers
  | readonly Value[]
  | {
      /** The distinct values. */
      readonly categories: readonly Value[];
      /** Index of each feature's value, from 0; a number beyond the last for none. */
      readonly codes: Uint8Array | Uint16Array | Uint32Array;
    };

/**
 * Features of an application in arrays. No object is created for each feature; typed arrays are copied as memory to the worker that draws
 * them, or shared with it if they lie in a `SharedArrayBuffer`.
 */
export interface FeatureColumns {
  /** Longitude and latitude in degrees, interleaved; x and y in meters on a plan, or in the system that the data entry names as `crs`. */
  readonly coordinates: Float64Array | Float32Array;
  /** Index of the first vertex of each line, increasing from 0; without it each pair of coordinates is a point. */
  readonly lineStarts?: Uint32Array;
  /** Integer, non-negative ids, one for each feature; NaN for none. */
  readonly ids?: Float64Array;
  /** Attributes by their names. */
  readonly attributes?: Readonly<Record<string, AttributeColumn>>;
}

/** Whether features are given in arrays. */
export const isColumns = (source: unknown): source is FeatureColumns =>
  typeof source === 'object' && source !== null && ArrayBuffer.isView((source as FeatureColumns).coordinates);

const faulty = (at: string, message: string, hint: string) => new Fault('columns.form', message, hint, at);

/**
 * Converts features in arrays to a block.
 *
 * @param columns coordinates, ids and attributes
 * @param name name of the block
 * @param space `lonlat` for degrees (the default), `plan` for meters, which are not checked
 * @throws Fault `columns.form` for arrays of unequal length, `columns.place` for an invalid position
 */
export function blockOfColumns(
  { coordinates, lineStarts, ids, attributes = {} }: FeatureColumns,
  name: string,
  space: 'lonlat' | 'plan' = 'lonlat',
): FeatureBlock {
  if (!(coordinates instanceof Float64Array || coordinates instanceof Float32Array))
    throw faulty('coordinates', 'the coordinates are not an array of floats', 'Give a Float64Array or a Float32Array.');
  if (coordinates.length % 2)
    throw faulty(
      'coordinates',
      `there are ${coordinates.length} numbers, but locations need pairs`,
      'Write longitude and latitude by turns.',
    );
  const vertices = coordinates.length / 2;
  const count = lineStarts?.length ?? vertices;
  for (let i = 0; i < count && lineStarts; i++) {
    const end = i + 1 < count ? lineStarts[i + 1] : vertices;
    if ((i === 0 && lineStarts[0] !== 0) || end - lineStarts[i] < 2 || end > vertices)
      throw faulty(
        `lineStarts[${i}]`,
        `line ${i} goes from vertex ${lineStarts[i]} to ${end} of ${vertices}`,
        'The first line begins at 0, each has two vertices or more, and begins where the one before ends.',
      );
  }
  for (let i = 0; i < coordinates.length; i += 2) {
    const [x, y] = [coordinates[i], coordinates[i + 1]];
    if (Number.isFinite(x) && Number.isFinite(y) && (space === 'plan' || (Math.abs(y) <= 90 && Math.abs(x) <= 3600)))
      continue;
    throw new Fault(
      'columns.place',
      `place ${i / 2} is [${x}, ${y}]`,
      Math.abs(x) <= 90 && Math.abs(y) > 90 && Math.abs(y) <= 180
        ? 'The pair looks swapped: write longitude first.'
        : 'Write degrees in finite numbers, longitude first, or name the system of the coordinates as "crs" of the data entry.',
      `coordinates[${i}]`,
    );
  }
  const columns = Object.entries(attributes).map(([key, column]) => columnOf(key, column, count));
  if (ids && ids.length !== count)
    throw faulty('ids', `there are ${ids.length} ids, and ${count} features`, 'Give one a feature.');
  const steps = Uint32Array.from({ length: count + 1 }, (_, i) => i);
  return {
    name,
    space: space === 'plan' ? 'plane' : 'lonlat',
    extent: 0,
    count,
    kinds: new Uint8Array(count).fill(lineStarts ? Kind.line : Kind.point),
    ids: ids ?? new Float64Array(count).fill(NaN),
    featureParts: steps,
    partRings: steps,
    ringStarts: lineStarts ? withEnd(lineStarts, vertices) : steps,
    coords: coordinates instanceof Float64Array ? coordinates : Float64Array.from(coordinates),
    columns,
  };
}

function withEnd(starts: Uint32Array, end: number): Uint32Array {
  const out = new Uint32Array(starts.length + 1);
  out.set(starts);
  out[starts.length] = end;
  return out;
}

function columnOf(name: string, column: AttributeColumn, count: number): Column {
  const hasCodes = typeof column === 'object' && column !== null && 'codes' in column;
  const values = hasCodes ? column.codes : column;
  if (typeof values !== 'object' || values === null || !('length' in values))
    throw faulty(
      `attributes.${name}`,
      `the attribute "${name}" is no list`,
      'Give a value a feature, or { categories, codes }.',
    );
  if (values.length !== count)
    throw faulty(
      `attributes.${name}`,
      `the attribute "${name}" has ${values.length} values, and there are ${count} features`,
      'Give one a feature; NaN, null or undefined for none.',
    );
  if (hasCodes) {
    const { categories, codes } = column;
    return {
      name,
      codes: Uint32Array.from(codes, (code) => (code < categories.length ? code + 1 : 0)),
      values: categories,
    };
  }
  if (ArrayBuffer.isView(column))
    return { name, numbers: column instanceof Float64Array ? column : Float64Array.from(column as Float32Array) };
  const lookup = new Map<Value, number>();
  const different: Value[] = [];
  const codes = Uint32Array.from(column, (value) => {
    if (value === null || value === undefined || Number.isNaN(value)) return 0;
    let code = lookup.get(value);
    if (code === undefined) lookup.set(value, (code = different.push(value)));
    return code;
  });
  return { name, codes, values: different };
}
