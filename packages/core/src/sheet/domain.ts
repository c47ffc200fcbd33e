import type { Argument, Expression } from '../cql2/tree.js';

/** A stretch of numbers, each end taken in or left out. */
export interface Stretch {
  readonly low: number;
  readonly high: number;
  readonly lowIn: boolean;
  readonly highIn: boolean;
}

/** The values of one attribute that pass a filter: stretches of numbers, or categories. */
export interface Domain {
  readonly property: string;
  readonly stretches?: readonly Stretch[];
  readonly kinds?: ReadonlySet<string | number | boolean>;
}

type Plain = string | number | boolean;

/** The domain that a filter leaves to a single attribute; undefined for filters about several, or about anything else. */
export function domainOf(tree: Expression): Domain | undefined {
  if (typeof tree !== 'object' || !('op' in tree)) return undefined;
  const { op, args } = tree;
  if (op === 'and') {
    const parts = args.map((arg) => domainOf(arg as Expression));
    return parts.reduce((sum, part) => (sum && part ? both(sum, part) : undefined));
  }
  if (op === 'or') {
    const parts = args.map((arg) => domainOf(arg as Expression));
    return parts.reduce((sum, part) => (sum && part ? either(sum, part) : undefined));
  }
  const property = nameOf(args[0]);
  if (property === undefined) return undefined;
  if (op === 'between' && typeof args[1] === 'number' && typeof args[2] === 'number')
    return { property, stretches: [{ low: args[1], high: args[2], lowIn: true, highIn: true }] };
  if (op === 'in' && (args[1] as readonly Argument[]).every((item) => typeof item !== 'object'))
    return { property, kinds: new Set(args[1] as readonly Plain[]) };
  const value = args[1];
  if (op === '=' && typeof value !== 'object') return { property, kinds: new Set([value]) };
  if (typeof value !== 'number') return undefined;
  const open = { low: -Infinity, high: Infinity, lowIn: false, highIn: false };
  switch (op) {
    case '<':
      return { property, stretches: [{ ...open, high: value }] };
    case '<=':
      return { property, stretches: [{ ...open, high: value, highIn: true }] };
    case '>':
      return { property, stretches: [{ ...open, low: value }] };
    case '>=':
      return { property, stretches: [{ ...open, low: value, lowIn: true }] };
    default:
      return undefined;
  }
}

const nameOf = (arg: Argument | undefined) =>
  typeof arg === 'object' && 'property' in arg ? (arg as { property: string }).property : undefined;

function both(a: Domain, b: Domain): Domain | undefined {
  if (a.property !== b.property || !a.stretches || !b.stretches) return undefined;
  const stretches = a.stretches.flatMap((s) =>
    b.stretches!.flatMap((t) => {
      const low = Math.max(s.low, t.low);
      const high = Math.min(s.high, t.high);
      const lowIn = (s.low < low || s.lowIn) && (t.low < low || t.lowIn);
      const highIn = (s.high > high || s.highIn) && (t.high > high || t.highIn);
      return low < high || (low === high && lowIn && highIn) ? [{ low, high, lowIn, highIn }] : [];
    }),
  );
  return { property: a.property, stretches };
}

function either(a: Domain, b: Domain): Domain | undefined {
  if (a.property !== b.property) return undefined;
  if (a.kinds && b.kinds) return { property: a.property, kinds: new Set([...a.kinds, ...b.kinds]) };
  if (a.stretches && b.stretches) return { property: a.property, stretches: [...a.stretches, ...b.stretches] };
  return undefined;
}

/** Stretches in rising order, with those that touch run together. */
export function runTogether(stretches: readonly Stretch[]): Stretch[] {
  const out: Stretch[] = [];
  for (const next of [...stretches].sort((a, b) => a.low - b.low || Number(b.lowIn) - Number(a.lowIn))) {
    const last = out[out.length - 1];
    const touch = last && (next.low < last.high || (next.low === last.high && (next.lowIn || last.highIn)));
    if (!touch) out.push(next);
    else if (next.high > last.high || (next.high === last.high && next.highIn))
      out[out.length - 1] = { ...last, high: next.high, highIn: next.highIn };
  }
  return out;
}

/** Whether everything in `inner` is in `outer`. */
export function isWithin(inner: Domain, outer: Domain): boolean {
  if (inner.property !== outer.property) return false;
  if (inner.kinds) {
    if (outer.kinds) return [...inner.kinds].every((kind) => outer.kinds!.has(kind));
    return [...inner.kinds].every(
      (kind) =>
        typeof kind === 'number' &&
        outer.stretches!.some(
          (s) => (kind > s.low || (kind === s.low && s.lowIn)) && (kind < s.high || (kind === s.high && s.highIn)),
        ),
    );
  }
  if (!outer.stretches) return false;
  const whole = runTogether(outer.stretches);
  return inner.stretches!.every((s) =>
    whole.some(
      (w) =>
        (s.low > w.low || (s.low === w.low && (w.lowIn || !s.lowIn))) &&
        (s.high < w.high || (s.high === w.high && (w.highIn || !s.highIn))),
    ),
  );
}
