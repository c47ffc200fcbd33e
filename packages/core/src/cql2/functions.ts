import type { Value } from '../features/block.js';
import { instantOf } from './temporal.js';

type Apply = (...args: Value[]) => Value;

/** The type of an operand as far as it is known before anything is worked out. */
export type Sort = 'boolean' | 'number' | 'text' | 'time' | 'span' | 'list' | 'geometry' | 'any';

export interface Operator {
  readonly least: number;
  readonly most: number;
  /** The types that each argument may have; the last entry stands for all further ones. */
  readonly takes: readonly (readonly Sort[])[];
  readonly gives: Sort;
  readonly apply: Apply;
}

const isNull = (v: Value) => v === null || v === undefined;

/** Orders two values of one type; undefined (unknown) for values of different types or without order. */
export function compare(a: Value, b: Value): number | undefined {
  if (isNull(a) || isNull(b) || typeof a !== typeof b) return undefined;
  return a < b ? -1 : a > b ? 1 : 0;
}

/** As {@link compare}, for values that are times. */
export function compareTimes(a: Value, b: Value): number | undefined {
  const [x, y] = [instantOf(a), instantOf(b)];
  return x === undefined || y === undefined ? undefined : x - y;
}

export const comparisons: Readonly<Record<string, (order: number) => boolean>> = {
  '=': (o) => o === 0,
  '<>': (o) => o !== 0,
  '<': (o) => o < 0,
  '<=': (o) => o <= 0,
  '>': (o) => o > 0,
  '>=': (o) => o >= 0,
};

const differentTypes = (a: Value, b: Value) => !isNull(a) && !isNull(b) && typeof a !== typeof b;

/**
 * Whether a value lies between two others, by its order to each: it does not where one of them says so, whatever the other
 * (OGC 21-065r2, clause 7.4: `v >= low AND v <= high`, in three values).
 */
export function isBetween(low: number | undefined, high: number | undefined): boolean | undefined {
  if ((low !== undefined && low < 0) || (high !== undefined && high > 0)) return false;
  return low === undefined || high === undefined ? undefined : true;
}

/**
 * A text for comparisons that do not tell capital letters from small ones: full case folding (Unicode Standard, section 5.18.4), by way of
 * capital letters, which are where the foldings of more than one letter come from. Small dotless i folds to itself, final sigma to sigma.
 */
export const foldedCase = (text: string): string =>
  text
    .toLowerCase()
    .split('ı')
    .map((part) => part.toUpperCase().toLowerCase().replace(/ς/g, 'σ'))
    .join('ı');

/** Turns a LIKE pattern (% any run, _ one character, \ before either for itself) into a test. */
function likePattern(pattern: string): (text: string) => boolean {
  // Pieces between the % signs; in them undefined stands for one letter of any kind.
  const pieces: (string | undefined)[][] = [[]];
  const letters = [...pattern];
  for (let i = 0; i < letters.length; i++) {
    if (letters[i] === '%') pieces.push([]);
    else if (letters[i] === '_') pieces[pieces.length - 1].push(undefined);
    else pieces[pieces.length - 1].push(letters[i] === '\\' && i + 1 < letters.length ? letters[++i] : letters[i]);
  }
  const [first, ...rest] = pieces;
  const last = rest.pop();
  return (text) => {
    const all = [...text];
    const fits = (piece: readonly (string | undefined)[], at: number) =>
      at + piece.length <= all.length && piece.every((letter, k) => letter === undefined || letter === all[at + k]);
    if (!last) return all.length === first.length && fits(first, 0);
    const end = all.length - last.length;
    if (!fits(first, 0) || end < first.length || !fits(last, end)) return false;
    // Each piece where it first fits: no later place can do better, so that nothing is tried twice.
    let at = first.length;
    for (const piece of rest) {
      while (at + piece.length <= end && !fits(piece, at)) at++;
      if (at + piece.length > end) return false;
      at += piece.length;
    }
    return true;
  };
}

const patterns = new Map<string, (text: string) => boolean>();

const accentless = (text: string) => text.normalize('NFD').replace(/\p{M}/gu, '');

const scalar: readonly Sort[] = ['any', 'number', 'text', 'boolean', 'time'];
const number: readonly Sort[] = ['any', 'number'];
const text: readonly Sort[] = ['any', 'text'];

const arithmetic = (apply: (a: number, b: number) => number): Operator => ({
  least: 2,
  most: 2,
  takes: [number],
  gives: 'number',
  apply: (a, b) => {
    if (typeof a !== 'number' || typeof b !== 'number') return undefined;
    const result = apply(a, b);
    return Number.isFinite(result) ? result : undefined;
  },
});

const comparison = (name: string): Operator => {
  const test = comparisons[name];
  const unlike = name === '<>' ? true : name === '=' ? false : undefined;
  return {
    least: 2,
    most: 2,
    takes: [scalar],
    gives: 'boolean',
    apply: (a, b) => {
      if (differentTypes(a, b)) return unlike;
      const order = compare(a, b);
      return order === undefined ? undefined : test(order);
    },
  };
};

const onText = (apply: (value: string) => string): Operator => ({
  least: 1,
  most: 1,
  takes: [text],
  gives: 'text',
  apply: (v) => (typeof v === 'string' ? apply(v) : v),
});

/** Operators that take all their arguments as plain values, by their names in the JSON encoding. */
export const operators: Readonly<Record<string, Operator>> = {
  ...Object.fromEntries(Object.keys(comparisons).map((name) => [name, comparison(name)])),
  between: {
    least: 3,
    most: 3,
    takes: [['any', 'number', 'text', 'time']],
    gives: 'boolean',
    apply: (v, low, high) => {
      return isBetween(compare(v, low), compare(v, high));
    },
  },
  like: {
    least: 2,
    most: 2,
    takes: [text],
    gives: 'boolean',
    apply: (v, pattern) => {
      if (typeof v !== 'string' || typeof pattern !== 'string') return undefined;
      let test = patterns.get(pattern);
      if (!test) patterns.set(pattern, (test = likePattern(pattern)));
      return test(v);
    },
  },
  isNull: { least: 1, most: 1, takes: [[...scalar, 'list']], gives: 'boolean', apply: (v) => isNull(v) },
  '+': arithmetic((a, b) => a + b),
  '-': arithmetic((a, b) => a - b),
  '*': arithmetic((a, b) => a * b),
  '/': arithmetic((a, b) => a / b),
  '%': arithmetic((a, b) => a % b),
  div: arithmetic((a, b) => Math.trunc(a / b)),
  '^': arithmetic((a, b) => a ** b),
  casei: onText(foldedCase),
  accenti: onText(accentless),
  concat: {
    least: 1,
    most: 64,
    takes: [scalar],
    gives: 'text',
    apply: (...parts) => parts.map((p) => (isNull(p) ? '' : String(p))).join(''),
  },
  coalesce: { least: 1, most: 64, takes: [scalar], gives: 'any', apply: (...parts) => parts.find((p) => !isNull(p)) },
  format: {
    least: 2,
    most: 3,
    takes: [scalar, text, text],
    gives: 'text',
    apply: (v, pattern, locale) =>
      isNull(v) ? undefined : formatValue(v, String(pattern), isNull(locale) ? 'en' : String(locale)),
  },
};

const styles = ['short', 'medium', 'long', 'full'] as const;
type Style = (typeof styles)[number];

/**
 * Writes a value by a pattern.
 *
 * - Numbers by a pattern such as `0`, `0.0 t` or `0,0.00 m`: the zeros after the point give the decimals, a comma groups the
 * thousands, what stands before and after is kept.
 * - Dates and times (ISO 8601 text, in UTC) by `date`, `time`, `date time`, `month`, `year` or `weekday`; before `date` or
 * `time` may stand `short`, `medium` (the default), `long` or `full`, as in `long date`.
 *
 * Other values come back as text.
 *
 * @param value a number, or a date as ISO 8601 text
 * @param pattern such as `0.0 t` or `long date`
 * @param locale BCP 47 tag that decides separators and names of months; default `en`
 */
export function formatValue(value: Value, pattern: string, locale = 'en'): string {
  if (typeof value === 'number') {
    const match = /^(\D*?)(0(?:,0)?(?:\.(0+))?)(.*)$/.exec(pattern);
    if (!match) return String(value);
    const decimals = match[3]?.length ?? 0;
    const text = new Intl.NumberFormat(locale, {
      minimumFractionDigits: decimals,
      maximumFractionDigits: decimals,
      useGrouping: match[2].includes(','),
    }).format(value);
    return `${match[1]}${text}${match[4]}`;
  }
  const at = instantOf(value);
  const options = at === undefined ? undefined : dateOptions(pattern);
  return options ? new Intl.DateTimeFormat(locale, { timeZone: 'UTC', ...options }).format(at) : String(value);
}

function dateOptions(pattern: string): Intl.DateTimeFormatOptions | undefined {
  const words = pattern.trim().toLowerCase().split(/\s+/);
  const style: Style = styles.find((name) => name === words[0]) ?? 'medium';
  const rest = words.filter((word) => word !== style).join(' ');
  switch (rest) {
    case 'date':
      return { dateStyle: style };
    case 'time':
      return { timeStyle: style === 'medium' ? 'short' : style };
    case 'date time':
      return { dateStyle: style, timeStyle: 'short' };
    case 'month':
      return { month: 'long', year: 'numeric' };
    case 'year':
      return { year: 'numeric' };
    case 'weekday':
      return { weekday: 'long' };
    default:
      return undefined;
  }
}
