import { Fault, getCrs, type Crs } from '@flintwright/core';
import { FeatureFileText, type FileFeature } from './feature-file.js';
import type { CollectionState } from './collection-state.js';
import { rangeOf, spanOfTime } from './items-query.js';
import { Refusal } from './refusal.js';
import { featureIn, isLonLat, storageOf } from './systems.js';

/** A file of features that is served as a collection. */
export interface CollectionFile {
  readonly path: string;
  /** Changes with the file. */
  readonly stamp: string;
}

/** Pairs of attributes that say from when to when. */
const periods = [
  ['begin', 'end'],
  ['start', 'end'],
  ['from', 'to'],
] as const;

/** How the features of a file say when they are: a pair of attributes, or the first whose values are all days or times. */
function timesOf(features: readonly FileFeature[]): Pick<CollectionState, 'timeOf' | 'interval'> {
  const names = new Set<string>();
  const others = new Set<string>();
  for (const { value } of features)
    for (const [name, text] of Object.entries(value.properties ?? {}))
      if (text !== null) (spanOfTime(text) ? names : others).add(name);
  const timely = [...names].filter((name) => !others.has(name));
  const pair = periods.find((both) => both.every((name) => timely.includes(name)));
  const used: readonly string[] = pair ?? timely.slice(0, 1);
  if (!used.length) return { timeOf: undefined, interval: undefined };
  const [first, last] = [used[0], used[used.length - 1]];
  const timeOf = ({ value }: FileFeature): readonly [number, number] | undefined => {
    const [from, to] = [first, last].map((name) => spanOfTime(value.properties?.[name]));
    return from || to ? [from?.[0] ?? -Infinity, to?.[1] ?? Infinity] : undefined;
  };
  let [begin, end]: [string | null, string | null] = [null, null];
  for (const { value } of features) {
    const [from, to] = [first, last].map((name) => value.properties?.[name] as string | null | undefined);
    if (from && (begin === null || spanOfTime(from)![0] < spanOfTime(begin)![0])) begin = from;
    if (to && (end === null || spanOfTime(to)![1] > spanOfTime(end)![1])) end = to;
  }
  const asTime = (text: string | null, isEnd: boolean) =>
    text === null || text.includes('T') ? text : `${text}T${isEnd ? '23:59:59' : '00:00:00'}Z`;
  return { timeOf, interval: [asTime(begin, false), asTime(end, true)] };
}

function boxOf(features: readonly FileFeature[], storage: Crs): CollectionState['box'] {
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const { value } of features) {
    const { geometry } = isLonLat(storage)
      ? value
      : (featureIn(value, storage, getCrs('OGC:CRS84')) as FileFeature['value']);
    const [[west, east], [south, north]] = [rangeOf(geometry, 0), rangeOf(geometry, 1)];
    box[0] = Math.min(box[0], west);
    box[1] = Math.min(box[1], south);
    box[2] = Math.max(box[2], east);
    box[3] = Math.max(box[3], north);
  }
  return box[0] > box[2] ? undefined : box;
}

/** @throws Refusal 422 for a file that is not a feature collection, or is in a system that is not known */
async function read(path: string): Promise<CollectionState> {
  let file: FeatureFileText;
  try {
    file = await FeatureFileText.read(path);
  } catch (error) {
    if (error instanceof Fault) throw new Refusal(422, error.toString());
    throw error;
  }
  const storage = await storageOf(file.crsName);
  const readOnly =
    file.readOnly ?? (isLonLat(storage) ? undefined : `it is in ${storage.id}, and converted as it is served`);
  return { file, storage, readOnly, box: boxOf(file.features, storage), ...timesOf(file.features) };
}

/** A collection as it is held: read when it is first asked for, and again when another program wrote its file. */
export class Collection {
  private stamp = '';
  private state: CollectionState | undefined;
  private turn: Promise<unknown> = Promise.resolve();

  constructor(private readonly find: () => CollectionFile | undefined) {}

  /** Does one thing after the other, on the file as it is. */
  private next<T>(work: (state: CollectionState, path: string) => Promise<T>): Promise<T> {
    const done = this.turn.then(async () => {
      const { path, stamp } = this.find() ?? { path: '', stamp: '' };
      if (!path) throw new Refusal(404, 'the file of the collection is gone');
      if (!this.state || stamp !== this.stamp) this.state = await read(path);
      this.stamp = stamp;
      return work(this.state, path);
    });
    this.turn = done.catch(() => {
      // The caller gets the error; later calls are not affected.
    });
    return done;
  }

  /** @throws Refusal 404, 422 */
  now(): Promise<CollectionState> {
    return this.next((state) => Promise.resolve(state));
  }

  /**
   * Adds, replaces or removes a feature, and writes the file. The bytes of all other features stay as they are.
   *
   * @param id of the feature
   * @param change text of the feature after the change, undefined to remove it; throws to leave all as it was
   * @throws Refusal 405 where the collection is read-only
   */
  change<T extends string | undefined>(id: string, change: (now: FileFeature | undefined) => T): Promise<T> {
    return this.next(async ({ file, readOnly }, path) => {
      if (readOnly) throw new Refusal(405, `the collection is read-only: ${readOnly}`);
      const after = change(file.find(id));
      await file.write(path, id, after);
      this.stamp = '';
      return after;
    });
  }
}
