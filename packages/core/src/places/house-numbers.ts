import { foldText, hasDigit, wordsOf } from './fold.js';
import type { PlaceRecord } from './record.js';
import { scoreOf, type QueryWord, type WordFound, type WordMeaning } from './score.js';

/** House numbers that are offered where a street does not have the one that was asked for. */
export const mostOffered = 5;

/** Streets whose score is at least this share of the best one's are asked for as much: the same name in two towns. */
const asGood = 0.98;

/** A street of the gazetteer: all entries with the same name in the same place. */
export interface Street {
  readonly name: string;
  readonly within: string;
  readonly at: readonly [number, number];
  /** How well the query without its house number names it, 0 to 1. */
  readonly score: number;
  readonly why: readonly WordFound[];
}

const isNumber = ({ text, field }: QueryWord) => field === 'number' || (field === undefined && hasDigit(text));

/** The words of a query that are a house number, and the others; undefined where it has not both. */
export function numberedQuery(
  words: readonly QueryWord[],
): { readonly number: QueryWord; readonly street: readonly QueryWord[] } | undefined {
  const numbers = words.filter(isNumber);
  const street = words.filter((word) => !isNumber(word));
  return numbers.length && street.length ? { number: numbers[0], street } : undefined;
}

/** What makes two entries parts of one street. */
export const streetKey = ({ name, within }: { readonly name: string; readonly within: string }): string =>
  `${foldText(name)}\n${within}`;

/**
 * The streets that a query without its house number names best, at most three.
 *
 * @param records streets and addresses that may be meant
 * @param words of the query without the number
 * @param meanings of these words
 */
export function bestStreets(
  records: Iterable<PlaceRecord>,
  words: readonly QueryWord[],
  meanings: readonly WordMeaning[],
): Street[] {
  const streets = new Map<string, Street>();
  for (const record of records) {
    if (record.role !== 'street' && record.role !== 'address') continue;
    const key = streetKey(record);
    const there = streets.get(key);
    if (there && record.role === 'address') continue;
    const { name, within, at } = record;
    const { score, why } = scoreOf({ ...record, role: 'street', number: '' }, words, meanings, {});
    // The name of the town alone asks for none of its streets.
    if (why.some(({ field }) => field === 'name' || field === 'names'))
      streets.set(key, { name, within, at, score, why });
  }
  const ranked = [...streets.values()].toSorted((a, b) => b.score - a.score);
  return ranked.filter(({ score }) => score > 0 && score >= asGood * ranked[0].score).slice(0, 3);
}

/** How a house number is ordered: its whole number, then what follows. */
function numberParts(number: string): readonly [number, string] {
  const [, digits, rest] = /^\D*(\d+)(.*)$/.exec(foldText(number)) ?? [];
  return digits === undefined ? [Infinity, foldText(number)] : [Number(digits), rest.trim()];
}

/**
 * The addresses of a street that answer a house number: those that have it, else the nearest, those first that begin with what is being typed.
 *
 * @param addresses of the street
 * @param number as it was asked for
 * @returns the addresses, and whether they have that number
 */
export function nearestNumbers<T extends { readonly record: PlaceRecord }>(
  addresses: readonly T[],
  { text, typing }: QueryWord,
): { readonly exact: boolean; readonly addresses: readonly T[] } {
  const own = (one: T) => wordsOf(one.record.number).join('');
  const exact = addresses.filter((one) => own(one) === text);
  if (exact.length) return { exact: true, addresses: exact };
  const [wanted, letter] = numberParts(text);
  const ranked = addresses
    .map((one) => {
      const [value, rest] = numberParts(one.record.number);
      return { one, begun: typing && own(one).startsWith(text), away: Math.abs(value - wanted), value, rest };
    })
    .filter(({ away }) => Number.isFinite(away))
    .toSorted(
      (a, b) =>
        Number(b.begun) - Number(a.begun) ||
        a.away - b.away ||
        Number(b.rest === letter) - Number(a.rest === letter) ||
        a.value - b.value ||
        (a.rest < b.rest ? -1 : 1),
    );
  const seen = new Set<string>();
  const nearest = ranked.flatMap(({ one }) => (seen.has(own(one)) ? [] : (seen.add(own(one)), [one])));
  return { exact: false, addresses: nearest.slice(0, mostOffered) };
}
