// What is asked of the items of a collection (OGC API – Features, Part 1, 17-069r4, section 7.15; Part 2, 18-058r1, section 6).
import { getCrs, relate, shapeOfGeometry, transformer, type Crs } from '@flintwright/core';
import { authorityAxes } from '@flintwright/core/internal';
import { single } from '../commands/query.js';
import type { CollectionState } from './collection-state.js';
import type { FileFeature } from './feature-file.js';
import { Refusal } from './refusal.js';
import { isLonLat, systemNamed, systemsOf } from './systems.js';

/** Parameters of the items; `key` opens a service that asks for one, `f` says the form of the answer. */
export const itemParameters = ['limit', 'offset', 'bbox', 'bbox-crs', 'crs', 'datetime', 'q', 'f', 'key'];
/** Parameters of all other documents. */
export const plainParameters = ['f', 'key'];
export const featureParameters = ['crs', 'f', 'key'];

/** Most features of one answer. */
export const mostItems = 10_000;
/** Features of an answer that does not say how many. */
export const usualItems = 1000;

export type Query = Readonly<Record<string, unknown>>;

/** @throws Refusal 400 for parameters that there are not, or that are given several times (section 7.2, requirements 8 and 9) */
export function assertParameters(query: Query, known: readonly string[]): void {
  for (const [key, value] of Object.entries(query)) {
    if (!known.includes(key))
      throw new Refusal(
        400,
        `there is no parameter "${key}"; there are ${known.filter((one) => one !== 'key').join(', ')}`,
      );
    if (single(value) === null) throw new Refusal(400, `${key} is given several times; give it once`);
  }
}

function textOf(query: Query, key: string, most: number): string | undefined {
  const value = single(query[key]) ?? undefined;
  if (value !== undefined && value.length > most)
    throw new Refusal(400, `${key} has ${value.length} characters; at most ${most} are read`);
  return value;
}

function numberOf(query: Query, key: string, usual: number, least: number): number {
  const value = textOf(query, key, 20);
  if (value === undefined) return usual;
  if (!/^\d{1,9}$/.test(value) || Number(value) < least)
    throw new Refusal(400, `${key}=${value} is not a whole number from ${least}`);
  return Number(value);
}

/** What was asked for, and the features that are it. */
export interface Items {
  readonly found: readonly FileFeature[];
  readonly limit: number;
  readonly offset: number;
  /** System of the answer. */
  readonly crs: Crs;
}

/** @throws Refusal 400 */
export function itemsOf(state: CollectionState, query: Query): Items {
  assertParameters(query, itemParameters);
  const systems = systemsOf(state.storage);
  const limit = Math.min(mostItems, numberOf(query, 'limit', usualItems, 1));
  const offset = numberOf(query, 'offset', 0, 0);
  const crs = systemNamed('crs', textOf(query, 'crs', 200), systems);
  const boxSystem = systemNamed('bbox-crs', textOf(query, 'bbox-crs', 200), systems);
  let found = state.file.features;
  const box = textOf(query, 'bbox', 400);
  if (box !== undefined) {
    const meets = within(box, boxSystem, state);
    found = found.filter(({ value }) => meets(value.geometry));
  }
  const moment = textOf(query, 'datetime', 100);
  if (moment !== undefined) {
    const span = spanOfInterval(moment);
    const { timeOf } = state;
    // Without an attribute that says when, a collection is of no time, and nothing is left out.
    if (timeOf)
      found = found.filter((feature) => {
        const own = timeOf(feature);
        return own !== undefined && own[0] <= span[1] && own[1] >= span[0];
      });
  }
  const words = textOf(query, 'q', 200)?.toLowerCase().split(/\s+/).filter(Boolean) ?? [];
  if (words.length)
    found = found.filter(({ value: { properties } }) => {
      const all = Object.values(properties ?? {})
        .join(' ')
        .toLowerCase();
      return words.every((word) => all.includes(word));
    });
  return { found, limit, offset, crs };
}

/** Lowest and highest of the numbers at one place of all positions of a geometry. */
export function rangeOf(geometry: object | null, place: number): [number, number] {
  const range: [number, number] = [Infinity, -Infinity];
  const walk = (node: unknown): void => {
    if (!Array.isArray(node)) return;
    if (typeof node[0] === 'number') {
      const value = (node as number[])[place];
      if (value === undefined) return;
      range[0] = Math.min(range[0], value);
      range[1] = Math.max(range[1], value);
    } else node.forEach(walk);
  };
  const { coordinates, geometries } = (geometry ?? {}) as { coordinates?: unknown; geometries?: readonly object[] };
  walk(coordinates);
  for (const one of geometries ?? []) {
    const own = rangeOf(one, place);
    range[0] = Math.min(range[0], own[0]);
    range[1] = Math.max(range[1], own[1]);
  }
  return range;
}

/**
 * Whether a geometry meets a box (Part 1, section 7.15.3): four numbers, or six with heights, in the order of the axes of its system. A box in
 * degrees whose west is greater than its east crosses the antimeridian. A feature without a geometry meets no box; one without heights
 * meets those of any height.
 *
 * @throws Refusal 400
 */
function within(text: string, system: Crs, { storage }: CollectionState): (geometry: object | null) => boolean {
  const numbers = text.split(',').map((one) => (one.trim() === '' ? NaN : Number(one)));
  if (![4, 6].includes(numbers.length) || !numbers.every(Number.isFinite))
    throw new Refusal(400, 'bbox has to be west,south,east,north, or six numbers with heights behind south and north');
  const half = numbers.length / 2;
  const { toXY } = authorityAxes(system);
  const corners = [numbers.slice(0, 2), numbers.slice(half, half + 2)].map(([x, y]) => {
    const at: [number, number] = [x, y];
    toXY(at);
    return at;
  });
  const [[west, south], [east, north]] = corners;
  if (south > north) throw new Refusal(400, `bbox has south ${south} above north ${north}`);
  if (system.isGeographic && [south, north].some((lat) => Math.abs(lat) > 90))
    throw new Refusal(400, `bbox has latitudes ${south} to ${north}, and they end at 90`);
  if (!system.isGeographic && west > east) throw new Refusal(400, `bbox has west ${west} beyond east ${east}`);
  const [bottom, top] = half === 3 ? [numbers[2], numbers[5]] : [-Infinity, Infinity];
  if (bottom > top) throw new Refusal(400, `bbox has ${bottom} above ${top}`);
  const inStorage = boxIn(system, storage, [west, south, east, north]);
  const shape = shapeOfGeometry(inStorage);
  const boxes = shape.polygons.map(([ring]) => [rangeOf({ coordinates: ring }, 0), rangeOf({ coordinates: ring }, 1)]);
  const isRectangle = 'bbox' in inStorage;
  return (geometry) => {
    if (!geometry) return false;
    const [[w, e], [s, n], [low, high]] = [0, 1, 2].map((place) => rangeOf(geometry, place));
    if (low <= high && (low > top || high < bottom)) return false;
    const near = boxes.filter(([[x0, x1], [y0, y1]]) => w <= x1 && e >= x0 && s <= y1 && n >= y0);
    if (!near.length) return false;
    // What lies within a box meets it, whatever its shape.
    if (isRectangle && near.some(([[x0, x1], [y0, y1]]) => w >= x0 && e <= x1 && s >= y0 && n <= y1)) return true;
    const relation = relate(shapeOfGeometry(geometry), shape);
    return [0, 1, 3, 4].some((cell) => relation[cell] >= 0);
  };
}

/** Points along each side of a box whose sides bend on their way into another system. */
const steps = 32;

/** A box as a box or polygon in another system. @throws Refusal 400 where it lies outside of that system's domain */
function boxIn(
  from: Crs,
  to: Crs,
  [west, south, east, north]: readonly [number, number, number, number],
): { readonly bbox: readonly number[] } | { readonly type: 'Polygon'; readonly coordinates: readonly number[][][] } {
  const crs84 = getCrs('OGC:CRS84');
  const [a, b] = [isLonLat(from) ? crs84 : from, isLonLat(to) ? crs84 : to];
  if (a.id === b.id) return { bbox: [west, south, east, north] };
  const turn = west > east ? 360 : 0;
  const sides = [
    [west, south, east + turn, south],
    [east + turn, south, east + turn, north],
    [east + turn, north, west, north],
    [west, north, west, south],
  ];
  const place = transformer(a, b);
  const ring = sides.flatMap(([x0, y0, x1, y1]) =>
    Array.from({ length: steps }, (_, k) => {
      const out: [number, number] = [0, 0];
      const share = k / steps;
      if (!place(x0 + (x1 - x0) * share, y0 + (y1 - y0) * share, out))
        throw new Refusal(400, `the box reaches beyond the domain of ${to.id}`);
      return [...out];
    }),
  );
  return { type: 'Polygon', coordinates: [[...ring, ring[0]]] };
}

const dayOrTime =
  /^(\d{4})-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])(?:T([01]\d|2[0-3]):[0-5]\d:([0-5]\d|60)(?:\.\d+)?(?:Z|[+-]([01]\d|2[0-3]):[0-5]\d))?$/i;

/** First and last millisecond of a day or a moment (RFC 3339, section 5.6); undefined for anything else. */
export function spanOfTime(text: unknown): readonly [number, number] | undefined {
  const match = typeof text === 'string' ? dayOrTime.exec(text) : null;
  if (!match) return undefined;
  const [, year, month, day, hour] = match;
  // There is no February 30.
  if (Number(day) > new Date(Date.UTC(Number(year), Number(month), 0)).getUTCDate()) return undefined;
  const at = Date.parse((text as string).replace(/:60(?=[.Z+-])/i, ':59').toUpperCase());
  return hour === undefined ? [at, at + 86_399_999] : [at, at];
}

/** The time of `datetime` (section 7.15.4): a moment, or an interval that may be open at one end. @throws Refusal 400 */
function spanOfInterval(text: string): readonly [number, number] {
  const wrong = () =>
    new Refusal(400, `datetime=${text} is no time such as 2031-04-18T09:30:00Z, and no interval such as 2031-04-18/..`);
  const ends = text.split('/');
  if (ends.length > 2) throw wrong();
  const [from, to] = ends.map((end) => (end === '' || end === '..' ? undefined : (spanOfTime(end) ?? null)));
  if (from === null || to === null) throw wrong();
  if (ends.length === 1) {
    if (!from) throw wrong();
    return from;
  }
  if (!from && !to) throw wrong();
  const span = [from?.[0] ?? -Infinity, to?.[1] ?? Infinity] as const;
  if (span[0] > span[1]) throw new Refusal(400, `datetime=${text} ends before it begins`);
  return span;
}
