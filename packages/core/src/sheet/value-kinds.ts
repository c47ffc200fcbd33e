import { plainText } from '../base/describe-value.js';
import { Fault } from '../base/fault.js';
import { nearestSpelling } from '../base/spelling.js';
import { findHexColor, type Colors, type Rgba } from './hex-color.js';
import type { CompiledExpression, Scope } from '../cql2/compile.js';
import type { Expression } from '../cql2/tree.js';
import type { ClassMethod, ColourSpace, SheetScale } from './symbol-types.js';

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
  /** The value for a feature that the scale says nothing about. */
  readonly other: T;
  readonly wanted: string;
  /** Whether its constants may be names of the palette. */
  readonly colors?: true;
  /** Whether a constant is one elsewhere and cannot be one in a sheet; default never. */
  isUnsupported?(raw: unknown): boolean;
}

/** The color schemes that a compiler may draw on. */
export interface Schemes {
  readonly names: readonly string[];
  /** Undefined for a scheme that there is not, or that is not there yet. */
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

/** Makes values ready that differ from feature to feature, or with the zoom. */
export interface ValueForms {
  /** Compiles an expression. @throws Fault */
  readonly expression: ExpressionCompiler;
  /** Compiles a scale; undefined where it is faulty, which is reported. */
  scale<T>(
    scale: SheetScale<unknown>,
    kind: ValueKind<T>,
    path: string,
    context: Context,
  ): CompiledValue<T> | undefined;
}

/** What reads values of every form. */
export interface ValueTools extends ValueForms {
  readonly colors: Colors;
}

/** Tools of a compiler of values. */
export interface Context extends ValueForms {
  readonly report: Report;
  /** Names in the palette, for spelling. */
  readonly names: readonly string[];
  /** Colors of a scheme; a missing scheme is reported. */
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

/** Lengths: pixels as they are, ground meters as negative numbers. */
export const lengthKind = (other: number): ValueKind<number> => {
  const read = (raw: unknown): number | undefined => {
    if (typeof raw === 'number') return raw >= 0 ? raw : undefined;
    const meters = /^(\d+(?:\.\d+)?)\s*m$/.exec(plainText(raw));
    return meters ? -Number(meters[1]) : undefined;
  };
  return {
    read,
    mix: (from, to) => {
      const [a, b] = [read(from) ?? other, read(to) ?? other];
      return (t) => a + t * (b - a);
    },
    other,
    wanted: 'a number of pixels from 0 up, or meters on the ground like "6m"',
  };
};

export const textKind: ValueKind<string> = {
  read: (raw) => (typeof raw === 'string' ? raw : undefined),
  other: '',
  wanted: 'a text',
};

/** Shown where a scale has no color for a feature: gray, so that what is missing can be seen. */
export const missingColor = '#98a1a5';

/** Colors of a sheet: as they are written, or by their names in its palette. */
export function colorKind(
  palette: Readonly<Record<string, string>>,
  colors: Colors,
): ValueKind<Rgba> & {
  resolve(raw: unknown): unknown;
  mix(from: unknown, to: unknown, space: ColourSpace): (t: number) => Rgba;
} {
  const resolve = (raw: unknown) => (typeof raw === 'string' && raw.startsWith('@') ? palette[raw.slice(1)] : raw);
  return {
    resolve,
    read: (raw) => {
      const text = resolve(raw);
      return typeof text === 'string' ? colors.find(text) : undefined;
    },
    isUnsupported: (raw) => typeof raw === 'string' && colors.isUnsupported?.(raw) === true,
    mix: (from, to, space) => colors.mix(String(resolve(from)), String(resolve(to)), space),
    colors: true,
    other: findHexColor(missingColor)!,
    wanted: 'a CSS color such as "#d98a2b", "rgb(34 48 58)" or "teal", or "@name" from the palette',
  };
}

export const still = { properties: [], usesZoom: false, usesGeometry: false, expressions: [] } as const;

export const marksOf = (expression: CompiledExpression) => ({
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
      `the filter ${filter.text} gives a ${filter.sort}, so that no feature would match it`,
      "Compare it with something, as in kind = 'pier'.",
      path,
    ),
  );
  return undefined;
}

/** A color of CSS that a sheet cannot have. */
export const unsupportedColor = (color: string, path: string): Fault =>
  new Fault(
    'sheet.value',
    `the color ${JSON.stringify(color)} depends on the page and is not supported in a sheet`,
    'Write the color itself, such as "#22303a", or a name of the palette, such as "@ink".',
    path,
  );

export function unreadable(
  raw: unknown,
  { wanted, colors, isUnsupported }: ValueKind<unknown>,
  path: string,
  paletteNames?: readonly string[],
): Fault {
  if (isUnsupported?.(raw)) return unsupportedColor(String(raw), path);
  const names = colors ? paletteNames : undefined;
  const name = typeof raw === 'string' && raw.startsWith('@') ? raw.slice(1) : undefined;
  const near =
    names &&
    nearestSpelling(
      name ?? plainText(raw),
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
