import { Fault } from '../base/fault.js';
import { nearestSpelling } from '../base/spelling.js';
import type { Value } from '../features/block.js';
import { colourMix, findColour, type Rgba } from './colour.js';
import type { CompiledExpression, Scope } from '../cql2/compile.js';
import type { Expression } from '../cql2/tree.js';
import type { ClassMethod, ColourSpace, SheetScale, SheetValue } from './types.js';

/** A value of the sheet made ready: a constant, or something to be worked out for a feature and a zoom. */
export interface CompiledValue<T> {
  /** Set when the value is the same for all features and zooms. */
  readonly constant?: T;
  readonly properties: readonly string[];
  readonly usesZoom: boolean;
  readonly usesGeometry: boolean;
  /** The expressions in it. */
  readonly expressions: readonly CompiledExpression[];
  bind(scope: Scope): (feature: number) => T;
}

/** How values of one kind are read, mixed and defaulted. */
export interface ValueKind<T> {
  /** Reads a constant; undefined when it is no value of this kind. */
  read(raw: unknown): T | undefined;
  mix?(from: unknown, to: unknown, space: ColourSpace): (t: number) => T;
  /** What a scale gives for a feature that it says nothing about. */
  readonly other: T;
  readonly wanted: string;
  /** Whether its constants may be names of the palette. */
  readonly colours?: true;
}

/** The colour schemes that a compiler may draw on. */
export interface Schemes {
  readonly names: readonly string[];
  find(name: string, count: number): readonly string[] | undefined;
}

/** Receives the faults found on the way, with the JSON path of the part at fault. */
export type Report = (fault: Fault) => void;

/** Class limits that are to be found in the data. */
export interface ClassesWanted {
  readonly by: string;
  readonly method: ClassMethod;
  readonly count: number;
}

/** Makes expressions ready: of trees alone, or of CQL2 text too. */
export type ExpressionCompiler = (source: string | Expression) => CompiledExpression;

/** What a compiler of values works with. */
export interface Context {
  readonly report: Report;
  /** Compiles an expression. @throws Fault */
  readonly expression: ExpressionCompiler;
  /** Names in the palette, for spelling. */
  readonly names: readonly string[];
  /** Colours of a scheme; a missing scheme is reported. */
  scheme(name: string, count: number, at: string): readonly string[] | undefined;
  /** Told of class limits that are to be found in the data. */
  wanted(classes: ClassesWanted, at: string): void;
}

export const numberKind = (other: number): ValueKind<number> => ({
  read: (raw) => (typeof raw === 'number' ? raw : undefined),
  mix: (from, to) => (t) => (from as number) + t * ((to as number) - (from as number)),
  other,
  wanted: 'a number',
});

/** Opacity and other shares of one. */
export const shareKind: ValueKind<number> = {
  ...numberKind(1),
  read: (raw) => (typeof raw === 'number' && raw >= 0 && raw <= 1 ? raw : undefined),
  wanted: 'a number from 0 (clear) to 1 (solid)',
};

/** Lengths: pixels as they are, ground metres as negative numbers. */
export const lengthKind = (other: number): ValueKind<number> => {
  const read = (raw: unknown): number | undefined => {
    if (typeof raw === 'number') return raw >= 0 ? raw : undefined;
    const metres = /^(\d+(?:\.\d+)?)\s*m$/.exec(String(raw));
    return metres ? -Number(metres[1]) : undefined;
  };
  return {
    read,
    mix: (from, to) => {
      const [a, b] = [read(from) ?? other, read(to) ?? other];
      return (t) => a + t * (b - a);
    },
    other,
    wanted: 'a number of pixels from 0 up, or metres on the ground like "6m"',
  };
};

export const textKind: ValueKind<string> = {
  read: (raw) => (typeof raw === 'string' ? raw : undefined),
  other: '',
  wanted: 'a text',
};

/** Shown where a scale has no colour for a feature: grey, so that what is missing can be seen. */
export const missingColour = '#98a1a5';

export function colourKind(
  palette: Readonly<Record<string, string>>,
): ValueKind<Rgba> & { resolve(raw: unknown): unknown } {
  const resolve = (raw: unknown) => (typeof raw === 'string' && raw.startsWith('@') ? palette[raw.slice(1)] : raw);
  return {
    resolve,
    read: (raw) => {
      const text = resolve(raw);
      return typeof text === 'string' ? findColour(text) : undefined;
    },
    mix: (from, to, space) => {
      const mixed = colourMix(String(resolve(from)), String(resolve(to)), space);
      return (t) => findColour(mixed(t))!;
    },
    colours: true,
    other: findColour(missingColour)!,
    wanted: 'a CSS colour such as "#d98a2b", "rgb(34 48 58)" or "teal", or "@name" from the palette',
  };
}

/** Compiles one value of the sheet; what is wrong with it is reported, and `fallback` takes its place. */
export function compileValue<T>(
  raw: SheetValue<unknown> | undefined,
  kind: ValueKind<T>,
  fallback: T,
  path: string,
  context: Context,
): CompiledValue<T> {
  const constant = (value: T): CompiledValue<T> => ({ constant: value, ...still, bind: () => () => value });
  if (raw === undefined) return constant(fallback);
  if (typeof raw === 'object' && raw !== null) {
    if ('is' in raw) {
      const expression = compileExpression(raw.is as string, `${path}.is`, context);
      return expression ? { ...marksOf(expression), bind: bindRead(expression, kind) } : constant(fallback);
    }
    return compileScale(raw as SheetScale<unknown>, kind, path, context) ?? constant(fallback);
  }
  const value = kind.read(raw);
  if (value !== undefined) return constant(value);
  context.report(unreadable(raw, kind.wanted, path, kind.colours ? context.names : undefined));
  return constant(fallback);
}

const still = { properties: [], usesZoom: false, usesGeometry: false, expressions: [] } as const;

const marksOf = (expression: CompiledExpression) => ({
  properties: expression.properties,
  usesZoom: expression.usesZoom,
  usesGeometry: expression.usesGeometry,
  expressions: [expression],
});

/** Compiles CQL2 text; a fault is reported with the JSON path, and nothing comes back. */
export function compileExpression(
  text: string | Expression,
  path: string,
  { expression, report }: Pick<Context, 'expression' | 'report'>,
): CompiledExpression | undefined {
  try {
    return expression(text);
  } catch (error) {
    if (!(error instanceof Fault)) throw error;
    report(new Fault(error.code, error.message, error.hint, error.at ? `${path} (${error.at})` : path, error));
    return undefined;
  }
}

/** Compiles a filter; one that can never be true, because it gives no truth at all, is reported. */
export function compileFilter(
  raw: string | Expression,
  path: string,
  context: Pick<Context, 'expression' | 'report'>,
): CompiledExpression | undefined {
  const { report } = context;
  const filter = compileExpression(raw, path, context);
  if (!filter || filter.sort === 'boolean' || filter.sort === 'any') return filter;
  report(
    new Fault(
      'cql2.filter',
      `the filter ${filter.text} gives a ${filter.sort}, and nothing would ever pass it`,
      "Compare it with something, as in kind = 'pier'.",
      path,
    ),
  );
  return undefined;
}

function unreadable(raw: unknown, wanted: string, path: string, names?: readonly string[]): Fault {
  const name = typeof raw === 'string' && raw.startsWith('@') ? raw.slice(1) : undefined;
  const near =
    names &&
    nearestSpelling(
      name ?? String(raw),
      name === undefined ? ['white', 'black', 'transparent', ...names.map((n) => `@${n}`)] : names,
    );
  const beyond =
    typeof raw === 'number' && raw > 1 && raw <= 255
      ? ` Opacity runs from 0 to 1; write ${Math.round((raw / 255) * 100) / 100} for ${raw} of 255.`
      : '';
  return new Fault(
    'sheet.value',
    `${JSON.stringify(raw)} is not ${wanted}`,
    near
      ? `Did you mean ${JSON.stringify(name === undefined ? near : `@${near}`)}?`
      : beyond.trim() || 'Write one of these.',
    path,
  );
}

function bindRead<T>(expression: CompiledExpression, kind: ValueKind<T>) {
  return (scope: Scope) => {
    const evaluate = expression.bind(scope);
    return (feature: number) => kind.read(evaluate(feature)) ?? kind.other;
  };
}

function compileScale<T>(
  scale: SheetScale<unknown>,
  kind: ValueKind<T>,
  path: string,
  context: Context,
): CompiledValue<T> | undefined {
  const { report } = context;
  const forms = (['ramp', 'classes', 'categories'] as const).filter((form) => scale[form] !== undefined);
  if (forms.length !== 1) {
    report(
      new Fault(
        'sheet.scale',
        `a scale has one of ramp, classes and categories, and this one has ${forms.length ? forms.join(' and ') : 'none'}`,
        'Keep one of them.',
        path,
      ),
    );
    return undefined;
  }
  const read = (raw: unknown, at: string): T => {
    const value = kind.read(raw);
    if (value === undefined) report(unreadable(raw, kind.wanted, at, kind.colours ? context.names : undefined));
    return value ?? kind.other;
  };
  const other = scale.other === undefined ? kind.other : read(scale.other, `${path}.other`);
  const place = scalePlacement(scale, kind, other, path, read, context);
  if (scale.by === 'zoom') {
    return {
      ...still,
      usesZoom: true,
      bind: ({ zoom }) =>
        (
          (value) => () =>
            value
        )(place(zoom)),
    };
  }
  const by = compileExpression(scale.by, `${path}.by`, context);
  if (!by) return undefined;
  return {
    ...marksOf(by),
    bind: (scope) => {
      const evaluate = by.bind(scope);
      return (feature) => place(evaluate(feature));
    },
  };
}

type Read<T> = (raw: unknown, at: string) => T;

function rising(numbers: readonly number[], at: string, report: Report): void {
  const fall = numbers.findIndex((n, i) => i > 0 && !(n > numbers[i - 1]));
  if (fall > 0)
    report(
      new Fault(
        'sheet.order',
        `${numbers[fall]} stands after ${numbers[fall - 1]}`,
        'Put the numbers in rising order.',
        `${at}[${fall}]`,
      ),
    );
}

function scalePlacement<T>(
  scale: SheetScale<unknown>,
  kind: ValueKind<T>,
  other: T,
  path: string,
  read: Read<T>,
  context: Context,
): (value: Value) => T {
  if (scale.categories) return categoriesPlacement(scale, other, path, read, context);
  if (scale.classes) return classesPlacement(scale, other, path, read, context);
  const stops = scale.ramp!;
  rising(
    stops.map(([at]) => at),
    `${path}.ramp`,
    context.report,
  );
  const solid = stops.map(([, raw], i) => read(raw, `${path}.ramp[${i}][1]`));
  const mixes = kind.mix
    ? stops
        .slice(1)
        .map(([, raw], i) =>
          kind.read(raw) === undefined || kind.read(stops[i][1]) === undefined
            ? undefined
            : kind.mix!(stops[i][1], raw, scale.space ?? 'lab'),
        )
    : [];
  return (value) => {
    if (typeof value !== 'number') return other;
    if (value <= stops[0][0]) return solid[0];
    for (let i = 1; i < stops.length; i++) {
      if (value > stops[i][0]) continue;
      const t = (value - stops[i - 1][0]) / (stops[i][0] - stops[i - 1][0]);
      return mixes[i - 1]?.(t ** (scale.ease ?? 1)) ?? solid[i - 1];
    }
    return solid[solid.length - 1];
  };
}

function categoriesPlacement<T>(
  scale: SheetScale<unknown>,
  other: T,
  path: string,
  read: Read<T>,
  context: Context,
): (value: Value) => T {
  const { categories, scheme } = scale;
  let entries: [string, unknown][];
  if (Array.isArray(categories)) {
    const list = categories as readonly unknown[];
    const colours =
      scheme === undefined
        ? (context.report(
            new Fault(
              'sheet.scheme',
              'a list of categories needs a scheme',
              'Add "scheme", or give each category its value.',
              path,
            ),
          ),
          undefined)
        : context.scheme(scheme, list.length, `${path}.scheme`);
    entries = colours ? list.map((key, i) => [String(key), colours[i]]) : [];
  } else entries = Object.entries(categories as Readonly<Record<string, unknown>>);
  const table = new Map(entries.map(([key, raw]) => [key, read(raw, `${path}.categories.${key}`)]));
  return (value) => (value === undefined || value === null ? other : (table.get(String(value)) ?? other));
}

function classesPlacement<T>(
  { by, classes }: SheetScale<unknown>,
  other: T,
  path: string,
  read: Read<T>,
  context: Context,
): (value: Value) => T {
  const { breaks, method, scheme, values } = classes!;
  const { report } = context;
  const count = breaks ? breaks.length + 1 : (classes!.count ?? 5);
  if ((breaks === undefined) === (method === undefined)) {
    const what = breaks ? 'both breaks and a method' : 'neither breaks nor a method';
    report(
      new Fault(
        'sheet.classes',
        `classes have ${what}`,
        'Give limits as breaks, or a method to find them.',
        `${path}.classes`,
      ),
    );
    return () => other;
  }
  if (breaks) rising(breaks, `${path}.classes.breaks`, report);
  const raws = values ?? (scheme === undefined ? undefined : context.scheme(scheme, count, `${path}.classes.scheme`));
  if (!raws) {
    if (scheme === undefined)
      report(
        new Fault(
          'sheet.scheme',
          'classes have neither a scheme nor values',
          'Name a scheme, or give one value a class.',
          `${path}.classes`,
        ),
      );
    return () => other;
  }
  if (raws.length !== count) {
    report(
      new Fault(
        'sheet.classes',
        breaks
          ? `${breaks.length} breaks make ${count} classes, and ${raws.length} values came`
          : `there are to be ${count} classes, and ${raws.length} values came`,
        'Give one value a class.',
        `${path}.classes.values`,
      ),
    );
  }
  const list = raws.map((raw, i) => read(raw, `${path}.classes.values[${i}]`));
  if (!breaks) {
    // Until the limits are found in the data, nothing is in a class.
    context.wanted({ by, method: method!, count }, path);
    return () => other;
  }
  return (value) => {
    if (typeof value !== 'number') return other;
    let at = 0;
    while (at < breaks.length && value >= breaks[at]) at++;
    return list[at] ?? other;
  };
}
