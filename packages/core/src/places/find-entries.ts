import { append } from '../base/lists.js';
import { largest } from './largest.js';
import { fields } from './record.js';
import type { PlaceStore } from './store.js';
import type { WordMatch } from './words.js';
import type { QueryWord, WordMeaning } from './score.js';

/** Words of the gazetteer that one word of a query stands for at most. */
const mostMatches = 600;
/** Entries that one longer word, and all longer words of one beginning together, bring at most; the weightiest come first. */
const mostOfOne = 400;
const mostBegun = 6000;

/** Share of a query that an entry must have to be looked at. */
const leastShare = 0.35;

const kinds = fields.length;
/** How many times longer than what is touched a list is that is searched rather than gone through: some steps of bisection and a miss of the cache. */
const muchLonger = 16;

/** Where the first number of a sorted list is that is not below another. */
function lowerBound(list: Uint32Array, least: number): number {
  let [low, high] = [0, list.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (list[middle] < least) low = middle + 1;
    else high = middle;
  }
  return low;
}

interface Wanted {
  /** Whether words may hold typing errors. */
  readonly erring: boolean;
  readonly inside: ((entry: number) => boolean) | undefined;
  readonly crossing: boolean;
  readonly shortlist: number;
  readonly near: readonly [number, number] | undefined;
}

/**
 * The entries that hold most of a query, by the weight of its words: the rarer a word, the more it says.
 *
 * @returns entries, most promising first; the weight of each word of the query; and what each stands for in the gazetteer
 */
export async function findEntries(
  store: PlaceStore,
  words: readonly QueryWord[],
  { erring, inside, crossing, shortlist, near }: Wanted,
): Promise<{ entries: number[]; meanings: WordMeaning[] }> {
  const scratch = takeScratch(store);
  const { sums, best } = scratch;
  const touched: number[] = [];
  const meant = words.map((word) => {
    const matches = matchesOf(store, word, erring);
    const exact = matches.find(({ how }) => how === 'exact');
    const count = exact
      ? store.words.counts[exact.word]
      : Math.min(...matches.map((match) => store.words.counts[match.word]), store.count);
    const weight = word.link && crossing ? 0.05 : 0.15 + 0.85 * (1 - Math.log(1 + count) / Math.log(2 + store.count));
    return { word, matches, weight, many: matches.length ? count : 0 };
  });
  let total = 0;
  let left = meant.reduce((sum, { weight }) => sum + weight, 0);
  // The rarest first: where few entries have them, all of these are looked at closely, and common words need not be gone through.
  for (const { word, matches, weight, many } of meant.toSorted((a, b) => a.many - b.many)) {
    if (touched.length && touched.length <= shortlist && many > shortlist) {
      left -= weight;
      continue;
    }
    total += weight;
    // An entry that none of the rarer words brought has no more than the weight of those that are left. Where that is too little, common words
    // only add to what is there.
    const bringsNone = left < leastShare * total;
    left -= weight;
    const pages = await store.postings(matches.map((match) => match.word));
    const mine: number[] = [];
    const counts = fields.map((one) => !word.field || one === word.field || (word.field === 'name' && one === 'names'));
    let room = mostBegun;
    for (const match of matches) {
      const most = match.how === 'exact' ? store.count : Math.min(mostOfOne, room);
      if (most <= 0) break;
      if (match.how !== 'exact') room -= Math.min(most, store.words.counts[match.word]);
      const value = weight * match.fit;
      const list = store.entriesWith(pages, match.word, most);
      const add = (item: number) => {
        const entry = (item / kinds) | 0;
        if (bringsNone && sums[entry] === 0) return;
        const field = item - entry * kinds;
        if (!counts[field]) return;
        const here = field > 2 ? 0.85 * value : value;
        if (best[entry] === 0) mine.push(entry);
        if (here > best[entry]) best[entry] = here;
      };
      if (bringsNone && list.length > muchLonger * touched.length) {
        // A few entries are looked up in a long list sooner than it is gone through.
        for (const entry of touched) {
          const at = lowerBound(list, entry * kinds);
          if (at < list.length && list[at] < (entry + 1) * kinds) add(list[at]);
        }
      } else for (let k = 0; k < list.length; k++) add(list[k]);
    }
    for (const entry of mine) {
      if (sums[entry] === 0) touched.push(entry);
      sums[entry] += best[entry];
      best[entry] = 0;
    }
  }
  const least = leastShare * total;
  const kept: number[] = [];
  for (const entry of touched) if (sums[entry] >= least && (inside?.(entry) ?? true)) kept.push(entry);
  const close = near && closenessTo(store, near);
  const value = (entry: number) =>
    sums[entry] + total * (0.11 * store.weights[entry] + (close ? 0.05 * close(entry) : 0));
  const entries = largest(kept, value, shortlist);
  for (const entry of touched) sums[entry] = 0;
  giveBack(store, scratch);
  return { entries, meanings: meant.map(({ weight, matches }) => ({ weight, near: nearWords(store, matches) })) };
}

interface Scratch {
  readonly sums: Float32Array;
  readonly best: Float32Array;
}

/** Numbers for each entry, all 0, that no search has at present: making them for each search would take longer than many a search. */
const free = new WeakMap<PlaceStore, Scratch[]>();

const takeScratch = (store: PlaceStore): Scratch =>
  free.get(store)?.pop() ?? { sums: new Float32Array(store.count), best: new Float32Array(store.count) };

function giveBack(store: PlaceStore, scratch: Scratch): void {
  const there = free.get(store);
  if (there) there.push(scratch);
  else free.set(store, [scratch]);
}

/** How near entries are, from 1 at the place to 0 far off; half of it at some four kilometers. */
function closenessTo(store: PlaceStore, [lon, lat]: readonly [number, number]): (entry: number) => number {
  const wide = Math.cos((lat * Math.PI) / 180);
  return (entry) => {
    let x = Math.abs(store.lon(entry) - lon) % 360;
    if (x > 180) x = 360 - x;
    x *= wide;
    const y = store.lat(entry) - lat;
    return 1 / (1 + Math.sqrt(x * x + y * y) / 0.04);
  };
}

const nearWords = ({ words }: PlaceStore, matches: readonly WordMatch[]) =>
  new Map(matches.flatMap((match) => (match.how === 'errors' ? [[words.texts[match.word], match] as const] : [])));

function matchesOf({ words }: PlaceStore, { text, typing }: QueryWord, erring: boolean): WordMatch[] {
  const matches = words.match(text, typing, mostMatches);
  if (erring) append(matches, words.near(text, typing));
  return matches.sort((a, b) => b.fit - a.fit).slice(0, mostMatches);
}
