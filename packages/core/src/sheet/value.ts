import { Fault } from '../base/fault.js';
import { nearestSpelling } from '../base/spelling.js';
import type { Value } from '../features/block.js';
import { colourMix, findColour, type Rgba } from './colour.js';
import { compileCql2, type CompiledExpression, type Scope } from './cql2/compile.js';
import type { Expression } from './cql2/parse.js';
import type { SheetScale, SheetValue } from './types.js';

/** A value of the sheet made ready: a constant, or something to be worked out for a feature and a zoom. */
export interface CompiledValue<T> {
  /** Set when the value is the same for all features and zooms. */
  readonly constant?: T;
  readonly properties: readonly string[];
  readonly usesZoom: boolean;
  bind(scope: Scope): (feature: number) => T;
}

/** How values of one kind are read, mixed and defaulted. */
export interface ValueKind<T> {
  /** Reads a constant; undefined when it is no value of this kind. */
  read(raw: unknown): T | undefined;
  mix?(from: unknown, to: unknown, space: 'lab' | 'rgb' | 'hcl'): (t: number) => T;
  /** What a scale gives for a feature that it says nothing about. */
  readonly other: T;
  readonly wanted: string;
}

/** The colour schemes that a compiler may draw on. */
export interface Schemes {
  readonly names: readonly string[];
  find(name: string, count: number): readonly string[] | undefined;
}

/** Receives the faults found on the way, with the JSON path of the part at fault. */
export type Report = (fault: Fault) => void;

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

export function colourKind(palette: Readonly<Record<string, string>>): ValueKind<Rgba> {
  const resolve = (raw: unknown) => (typeof raw === 'string' && raw.startsWith('@') ? palette[raw.slice(1)] : raw);
  return {
    read: (raw) => {
      const text = resolve(raw);
      return typeof text === 'string' ? findColour(text) : undefined;
    },
    mix: (from, to, space) => {
      const mixed = colourMix(String(resolve(from)), String(resolve(to)), space);
      return (t) => findColour(mixed(t))!;
    },
    other: findColour(missingColour)!,
    wanted: 'a CSS colour such as "#d98a2b", "rgb(34 48 58)" or "teal", or "@name" from the palette',
  };
}

/** Compiles one value of the sheet; what is wrong with it goes to `report`, and `fallback` takes its place. */
export function compileValue<T>(
  raw: SheetValue<unknown> | undefined,
  kind: ValueKind<T>,
  fallback: T,
  path: string,
  report: Report,
  names?: readonly string[],
  schemes?: Schemes,
): CompiledValue<T> {
  const constant = (value: T): CompiledValue<T> => ({
    constant: value,
    properties: [],
    usesZoom: false,
    bind: () => () => value,
  });
  if (raw === undefined) return constant(fallback);
  if (typeof raw === 'object' && raw !== null) {
    if ('is' in raw) {
      const expression = compileExpression(String(raw.is), `${path}.is`, report);
      return expression
        ? { properties: expression.properties, usesZoom: expression.usesZoom, bind: bindRead(expression, kind) }
        : constant(fallback);
    }
    return compileScale(raw as SheetScale<unknown>, kind, path, report, names, schemes) ?? constant(fallback);
  }
  const value = kind.read(raw);
  if (value !== undefined) return constant(value);
  report(unreadable(raw, kind.wanted, path, names));
  return constant(fallback);
}

/** Compiles CQL2 text; a fault is reported with the JSON path, and nothing comes back. */
export function compileExpression(
  text: string | Expression,
  path: string,
  report: Report,
): CompiledExpression | undefined {
  try {
    return compileCql2(text);
  } catch (error) {
    if (!(error instanceof Fault)) throw error;
    report(new Fault(error.code, error.message, error.mend, error.at ? `${path} (${error.at})` : path, error));
    return undefined;
  }
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
  report: Report,
  names?: readonly string[],
  schemes?: Schemes,
): CompiledValue<T> | undefined {
  const forms = (['ramp', 'classes', 'kinds'] as const).filter((form) => scale[form] !== undefined);
  if (forms.length !== 1) {
    report(
      new Fault(
        'sheet.scale',
        `a scale has one of ramp, classes and kinds, and this one has ${forms.length ? forms.join(' and ') : 'none'}`,
        'Keep one of them.',
        path,
      ),
    );
    return undefined;
  }
  const read = (raw: unknown, at: string): T => {
    const value = kind.read(raw);
    if (value === undefined) report(unreadable(raw, kind.wanted, at, names));
    return value ?? kind.other;
  };
  const other = scale.other === undefined ? kind.other : read(scale.other, `${path}.other`);
  const place = scalePlacement(scale, kind, other, path, read, report, schemes);
  if (scale.by === 'zoom') {
    return {
      properties: [],
      usesZoom: true,
      bind: ({ zoom }) =>
        (
          (value) => () =>
            value
        )(place(zoom)),
    };
  }
  const by = compileExpression(scale.by, `${path}.by`, report);
  if (!by) return undefined;
  return {
    properties: by.properties,
    usesZoom: by.usesZoom,
    bind: (scope) => {
      const evaluate = by.bind(scope);
      return (feature) => place(evaluate(feature));
    },
  };
}

function scalePlacement<T>(
  scale: SheetScale<unknown>,
  kind: ValueKind<T>,
  other: T,
  path: string,
  read: (raw: unknown, at: string) => T,
  report: Report,
  schemes?: Schemes,
): (value: Value) => T {
  if (scale.kinds) {
    const table = new Map(Object.entries(scale.kinds).map(([key, raw]) => [key, read(raw, `${path}.kinds.${key}`)]));
    return (value) => (value === undefined || value === null ? other : (table.get(String(value)) ?? other));
  }
  const rising = (numbers: readonly number[], at: string) => {
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
  };
  if (scale.classes) {
    const { breaks, scheme, values } = scale.classes;
    rising(breaks, `${path}.classes.breaks`);
    const raws = values ?? (scheme === undefined ? undefined : schemes?.find(scheme, breaks.length + 1));
    if (!raws) {
      const near = scheme === undefined ? undefined : nearestSpelling(scheme, schemes?.names ?? []);
      report(
        new Fault(
          'sheet.scheme',
          scheme === undefined ? 'classes have neither a scheme nor values' : `there is no scheme "${scheme}"`,
          near ? `Did you mean "${near}"?` : `Schemes: ${schemes?.names.join(', ')}.`,
          `${path}.classes`,
        ),
      );
      return () => other;
    }
    if (raws.length !== breaks.length + 1) {
      report(
        new Fault(
          'sheet.classes',
          `${breaks.length} breaks make ${breaks.length + 1} classes, and ${raws.length} values came`,
          'Give one value a class.',
          `${path}.classes.values`,
        ),
      );
    }
    const list = raws.map((raw, i) => read(raw, `${path}.classes.values[${i}]`));
    return (value) => {
      if (typeof value !== 'number') return other;
      let at = 0;
      while (at < breaks.length && value >= breaks[at]) at++;
      return list[at] ?? other;
    };
  }
  const stops = scale.ramp!;
  rising(
    stops.map(([at]) => at),
    `${path}.ramp`,
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
