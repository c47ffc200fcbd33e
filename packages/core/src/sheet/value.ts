import type { CompiledExpression, Scope } from '../cql2/compile.js';
import type { SheetScale, SheetValue } from './symbol-types.js';
import {
  compileExpression,
  marksOf,
  still,
  unreadable,
  type CompiledValue,
  type Context,
  type ValueKind,
} from './value-kinds.js';

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
    return context.scale(raw as SheetScale<unknown>, kind, path, context) ?? constant(fallback);
  }
  const value = kind.read(raw);
  if (value !== undefined) return constant(value);
  context.report(unreadable(raw, kind, path, context.names));
  return constant(fallback);
}

function bindRead<T>(expression: CompiledExpression, kind: ValueKind<T>) {
  return (scope: Scope) => {
    const evaluate = expression.bind(scope);
    return (feature: number) => kind.read(evaluate(feature)) ?? kind.other;
  };
}
