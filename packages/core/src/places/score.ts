import { foldText, hasDigit, wordsOf } from './fold.js';
import { type PlaceField, type PlaceRecord } from './record.js';
import { beginningFit, type WordMatch } from './words.js';

/** A word of a query. */
export interface QueryWord {
  readonly text: string;
  /** Whether it may be the beginning of a longer word. */
  readonly typing: boolean;
  /** The field that it is looked for in; undefined for any. */
  readonly field: 'name' | 'number' | 'within' | undefined;
  /** Whether it may only link two names, as `and` does. */
  readonly link: boolean;
}

/** How a word of the query was matched in an entry. */
export interface WordFound {
  readonly query: string;
  readonly found: string;
  readonly field: PlaceField;
  readonly how: WordMatch['how'];
  readonly errors: number;
  /** 0 to 1. */
  readonly fit: number;
}

/** An entry that a query found, and how well. */
export interface Scored {
  readonly entry: number;
  readonly record: PlaceRecord;
  readonly score: number;
  readonly why: readonly WordFound[];
}

/** Words that stand between the names of two streets that meet. */
const links = ['and', 'at', 'und', 'et', 'y', 'e', 'i', 'og', 'och', 'corner', 'of', 'x', 'near'];

/** The words of a query, and whether it names two streets that meet. */
export function readQuery(text: string, typing: boolean): { words: QueryWord[]; crossing: boolean } {
  const plain = foldText(text);
  const all = wordsOf(text).slice(0, 12);
  const open = typing && !/[\s,;]$/.test(text);
  const crossing = / (?:and|at|und|et|y|og|och|x) |\S\s*[&/@+×]\s*\S|\bcorner\b/.test(plain);
  const words = all.map((word, i): QueryWord => ({
    text: word,
    typing: open && i === all.length - 1,
    field: undefined,
    link: i > 0 && i < all.length - 1 && links.includes(word),
  }));
  return { words, crossing };
}

/** How much a word in each field counts. */
const fieldValue: Readonly<Record<PlaceField, number>> = { name: 1, number: 1, names: 0.97, within: 0.9, kind: 0.7 };

interface EntryWord {
  readonly text: string;
  readonly field: PlaceField;
}

const known = new WeakMap<PlaceRecord, readonly EntryWord[]>();

/** The words of an entry, by their fields. */
function entryWords(record: PlaceRecord): readonly EntryWord[] {
  const there = known.get(record);
  if (there) return there;
  const of = (text: string, field: PlaceField) => wordsOf(text).map((word) => ({ text: word, field }));
  const words = [
    ...of(record.name, 'name'),
    ...of(record.number, 'number'),
    ...record.names.flatMap(([, name]) => of(name, 'names')),
    ...of(record.within, 'within'),
    ...(record.role === 'place' ? of(record.kind, 'kind') : []),
  ];
  known.set(record, words);
  return words;
}

/** How a word of the query fits a word of an entry. */
function fitOf({ text, typing }: QueryWord, { near }: WordMeaning, word: string): Fit | undefined {
  if (word === text) return { how: 'exact', errors: 0, fit: 1 };
  if (typing && word.startsWith(text)) return { how: 'beginning', errors: 0, fit: beginningFit(text, word) };
  return near.get(word);
}

type Fit = Pick<WordMatch, 'how' | 'errors' | 'fit'>;

/** What a word of a query stands for: how much it says, and the words of the gazetteer that it is with typing errors. */
export interface WordMeaning {
  readonly weight: number;
  readonly near: ReadonlyMap<string, WordMatch>;
}

/**
 * How well an entry answers a query, 0 to 1: what share of the query it holds, by the weight of its words; what share of its own name
 * was asked for; how much it matters; and how near it is.
 *
 * @param record the entry
 * @param words of the query
 * @param meanings of these words
 * @param context whether two streets are asked for, and meters from where the asker is, if that is known
 */
export function scoreOf(
  record: PlaceRecord,
  words: readonly QueryWord[],
  meanings: readonly WordMeaning[],
  { crossing = false, distance }: { readonly crossing?: boolean; readonly distance?: number | undefined },
): { score: number; why: WordFound[] } {
  const own = entryWords(record);
  const used = new Uint8Array(own.length);
  const why: WordFound[] = [];
  let [asked, held, lacking, inOrder, last] = [0, 0, 0, 0, -1];
  // Plain loops: this runs for each candidate of each key.
  for (let i = 0; i < words.length; i++) {
    const word = words[i];
    let [at, best]: [number, number] = [-1, 0];
    let bestFit: Fit | undefined;
    for (let k = 0; k < own.length; k++) {
      if (used[k] || (word.field && !inField(word.field, own[k].field))) continue;
      const fit = fitOf(word, meanings[i], own[k].text);
      if (!fit) continue;
      const value = fit.fit * fieldValue[own[k].field];
      if (!bestFit || value > best) [at, best, bestFit] = [k, value, fit];
    }
    const weight = word.link && (crossing || !bestFit) ? 0.02 : meanings[i].weight;
    asked += weight;
    if (!bestFit) {
      lacking += weight;
      continue;
    }
    held += weight * best;
    used[at] = 1;
    if (at > last) inOrder++;
    last = at;
    const { how, errors, fit } = bestFit;
    why.push({ query: word.text, found: own[at].text, field: own[at].field, how, errors, fit });
  }
  if (!why.length) return { score: 0, why };
  // Of several names only the one that was meant has to be named in full.
  let [mainWords, mainUsed] = [0, 0];
  for (let k = 0; k < own.length; k++)
    if (own[k].field === 'name' || own[k].field === 'number') {
      mainWords++;
      mainUsed += used[k];
    }
  const others = record.names.map(([, name]) => wordsOf(name)).filter(({ length }) => length);
  const usedMain = mainUsed / Math.max(1, mainWords);
  const usedOther = Math.max(
    0,
    ...others.map((name) => name.filter((text) => why.some(({ found }) => found === text)).length / name.length),
  );
  const query = (held / asked) ** 1.5 * (1 - (0.4 * lacking) / asked);
  const name = Math.max(usedMain, usedOther);
  const numbered = why.some(({ field }) => field === 'number');
  const unasked = record.role === 'address' && !numbered ? 0.75 : 1;
  const role = record.role === 'crossing' ? (crossing ? 1 : 0.85) : crossing && record.role !== 'place' ? 0.9 : 1;
  const order = 0.98 + 0.02 * (inOrder / words.length);
  const close = distance === undefined ? 0.5 : 1 / (1 + distance / 4000);
  const score = query * (0.72 + 0.28 * name) * role * unasked * order * (0.84 + 0.11 * record.weight + 0.05 * close);
  return { score: Math.round(Math.min(1, score) * 1e4) / 1e4, why };
}

const inField = (wanted: 'name' | 'number' | 'within', field: PlaceField) =>
  field === wanted || (wanted === 'name' && field === 'names');

/**
 * Whether what was found of a query in an entry is enough to be a candidate: a word that says something, or else every word that is not a number.
 * A street, an address or a crossing must have that word in its own name, not only in that of its town.
 *
 * @param words of the query
 * @param why what was found
 * @param isCommon whether a word of the gazetteer is one that many names share
 */
export function isCandidate(
  { role }: PlaceRecord,
  words: readonly QueryWord[],
  why: readonly WordFound[],
  isCommon: (word: string) => boolean,
): boolean {
  const names = words.filter(({ text, link }) => !link && !hasDigit(text));
  if (!names.length) return true;
  const found = (text: string) => why.some(({ query }) => query === text);
  if (names.every(({ text }) => found(text))) return true;
  return why.some(
    ({ query, found, field }) =>
      !hasDigit(query) && !isCommon(found) && (role === 'place' || field === 'name' || field === 'names'),
  );
}
