import type { Value } from '../../features/block.js';

type Operator = (...args: Value[]) => Value;

const isNull = (v: Value) => v === null || v === undefined;

/** Orders two values of one type; undefined (unknown) for values of different types or without order. */
function compare(a: Value, b: Value): number | undefined {
  if (isNull(a) || isNull(b) || typeof a !== typeof b) return undefined;
  return a! < b! ? -1 : a! > b! ? 1 : 0;
}

const ordered =
  (test: (order: number) => boolean): Operator =>
  (a, b) => {
    const order = compare(a, b);
    return order === undefined ? undefined : test(order);
  };

const arithmetic =
  (apply: (a: number, b: number) => number): Operator =>
  (a, b) => {
    if (typeof a !== 'number' || typeof b !== 'number') return undefined;
    const result = apply(a, b);
    return Number.isFinite(result) ? result : undefined;
  };

const differentTypes = (a: Value, b: Value) => !isNull(a) && !isNull(b) && typeof a !== typeof b;

/** Turns a LIKE pattern (% any run, _ one character, \ before either for itself) into a test. */
function likePattern(pattern: string): RegExp {
  let source = '';
  for (let i = 0; i < pattern.length; i++) {
    const c = pattern[i];
    if (c === '\\' && i + 1 < pattern.length) source += pattern[++i].replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
    else source += c === '%' ? '[\\s\\S]*' : c === '_' ? '[\\s\\S]' : c.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
  }
  return new RegExp(`^${source}$`, 'u');
}

const patterns = new Map<string, RegExp>();

const accentless = (text: string) => text.normalize('NFD').replace(/\p{M}/gu, '');

/** Operators that take all their arguments as values, by their names in the JSON encoding. */
export const operators: Record<string, { readonly least: number; readonly most: number; readonly apply: Operator }> = {
  '=': { least: 2, most: 2, apply: (a, b) => (differentTypes(a, b) ? false : ordered((o) => o === 0)(a, b)) },
  '<>': { least: 2, most: 2, apply: (a, b) => (differentTypes(a, b) ? true : ordered((o) => o !== 0)(a, b)) },
  '<': { least: 2, most: 2, apply: ordered((o) => o < 0) },
  '<=': { least: 2, most: 2, apply: ordered((o) => o <= 0) },
  '>': { least: 2, most: 2, apply: ordered((o) => o > 0) },
  '>=': { least: 2, most: 2, apply: ordered((o) => o >= 0) },
  between: {
    least: 3,
    most: 3,
    apply: (v, low, high) => {
      const [a, b] = [compare(v, low), compare(v, high)];
      return a === undefined || b === undefined ? undefined : a >= 0 && b <= 0;
    },
  },
  like: {
    least: 2,
    most: 2,
    apply: (v, pattern) => {
      if (typeof v !== 'string' || typeof pattern !== 'string') return undefined;
      let test = patterns.get(pattern);
      if (!test) patterns.set(pattern, (test = likePattern(pattern)));
      return test.test(v);
    },
  },
  isNull: { least: 1, most: 1, apply: (v) => isNull(v) },
  '+': { least: 2, most: 2, apply: arithmetic((a, b) => a + b) },
  '-': { least: 2, most: 2, apply: arithmetic((a, b) => a - b) },
  '*': { least: 2, most: 2, apply: arithmetic((a, b) => a * b) },
  '/': { least: 2, most: 2, apply: arithmetic((a, b) => a / b) },
  '%': { least: 2, most: 2, apply: arithmetic((a, b) => a % b) },
  div: { least: 2, most: 2, apply: arithmetic((a, b) => Math.trunc(a / b)) },
  '^': { least: 2, most: 2, apply: arithmetic((a, b) => a ** b) },
  casei: { least: 1, most: 1, apply: (v) => (typeof v === 'string' ? v.toLowerCase() : v) },
  accenti: { least: 1, most: 1, apply: (v) => (typeof v === 'string' ? accentless(v) : v) },
  concat: { least: 1, most: 64, apply: (...parts) => parts.map((p) => (isNull(p) ? '' : String(p))).join('') },
  coalesce: { least: 1, most: 64, apply: (...parts) => parts.find((p) => !isNull(p)) },
  format: { least: 2, most: 2, apply: (v, pattern) => (isNull(v) ? undefined : formatValue(v, String(pattern))) },
};

/**
 * Writes a number by a pattern such as `0`, `0.0 t` or `0,0.00 m`: the zeros after the point give the decimals,
 * a comma groups the thousands, what follows is kept as the unit. Other values come back as text.
 */
export function formatValue(value: Value, pattern: string): string {
  const match = /^(\D*?)(0(?:,0)?(?:\.(0+))?)(.*)$/.exec(pattern);
  if (typeof value !== 'number' || !match) return String(value);
  const decimals = match[3]?.length ?? 0;
  const text = new Intl.NumberFormat('en', {
    minimumFractionDigits: decimals,
    maximumFractionDigits: decimals,
    useGrouping: match[2].includes(','),
  }).format(value);
  return `${match[1]}${text}${match[4]}`;
}
