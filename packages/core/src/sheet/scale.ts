import { Fault } from '../base/fault.js';
import type { Value } from '../features/block.js';
import type { SheetScale } from './symbol-types.js';
import {
  compileExpression,
  marksOf,
  still,
  unreadable,
  type CompiledValue,
  type Context,
  type Report,
  type ValueKind,
} from './value-kinds.js';

/** Compiles a scale of the sheet; undefined where it is faulty, which is reported. */
export function compileScale<T>(
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
    if (value === undefined) report(unreadable(raw, kind, at, context.names));
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
        `${numbers[fall]} comes after ${numbers[fall - 1]}`,
        'Write the numbers in ascending order.',
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
  const stops = scale.ramp;
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
    const colors =
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
    entries = colors ? list.map((key, i) => [String(key), colors[i]]) : [];
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
          'Name a scheme, or give one value for each class.',
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
          ? `${breaks.length} breaks make ${count} classes, but there are ${raws.length} values`
          : `the sheet asks for ${count} classes, but there are ${raws.length} values`,
        'Give one value for each class.',
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
