import { Fault } from '../../base/fault.js';
import { nearestSpelling } from '../../base/spelling.js';
import { findColumn, valueAt, type FeatureBlock, type Value } from '../../features/block.js';
import { operators } from './functions.js';
import { parseCql2, type Expression } from './parse.js';

/** What an expression is worked out against: a feature of a block, and the zoom of the view. */
export interface Scope {
  readonly block: FeatureBlock;
  readonly zoom: number;
}

export type Evaluate = (feature: number) => Value;

/** An expression made ready: closures only, nothing is ever evaluated as source text. */
export interface CompiledExpression {
  readonly text: string;
  /** Attributes that the expression reads. */
  readonly properties: readonly string[];
  readonly usesZoom: boolean;
  /** Ties the expression to the columns of a block and to a zoom. */
  bind(scope: Scope): Evaluate;
}

type Binder = (scope: Scope) => Evaluate;

/**
 * Compiles CQL2 text or its JSON encoding. Unknown (null) follows three-valued logic: a comparison with a missing
 * value is unknown, and a filter passes only what is true.
 *
 * @throws Fault `cql2.syntax` or `cql2.function`
 */
export function compileCql2(source: string | Expression): CompiledExpression {
  const expression = typeof source === 'string' ? parseCql2(source) : source;
  const properties = new Set<string>();
  const noted = { zoom: false };
  const binder = compileNode(expression, properties, noted);
  return {
    text: typeof source === 'string' ? source : JSON.stringify(source),
    properties: [...properties],
    usesZoom: noted.zoom,
    bind: binder,
  };
}

function compileNode(node: Expression, properties: Set<string>, noted: { zoom: boolean }): Binder {
  if (typeof node !== 'object') return () => () => node;
  if ('property' in node) {
    properties.add(node.property);
    return ({ block }) => {
      const column = findColumn(block, node.property);
      return column ? (feature) => valueAt(column, feature) : () => undefined;
    };
  }
  if ('date' in node) return () => () => node.date;
  if ('timestamp' in node) return () => () => node.timestamp;
  const { op, args } = node;
  const inner = (arg: Expression | readonly Expression[]) => compileNode(arg as Expression, properties, noted);
  if (op === 'zoom') {
    noted.zoom = true;
    return ({ zoom }) =>
      () =>
        zoom;
  }
  if (op === 'and' || op === 'or') {
    const binders = args.map(inner);
    const decisive = op === 'or';
    return (scope) => {
      const terms = binders.map((bind) => bind(scope));
      return (feature) => {
        let unknown = false;
        for (const term of terms) {
          const value = term(feature);
          if (value === decisive) return decisive;
          if (value !== !decisive) unknown = true;
        }
        return unknown ? undefined : !decisive;
      };
    };
  }
  if (op === 'not') {
    const bind = inner(args[0]);
    return (scope) => {
      const term = bind(scope);
      return (feature) => {
        const value = term(feature);
        return typeof value === 'boolean' ? !value : undefined;
      };
    };
  }
  if (op === 'in') return compileIn(inner(args[0]), args[1] as readonly Expression[], inner);
  const known = Object.hasOwn(operators, op) ? operators[op] : undefined;
  if (!known) {
    const names = [...Object.keys(operators).filter((name) => /^[a-z]/.test(name)), 'zoom'];
    const near = nearestSpelling(op, names);
    throw new Fault(
      'cql2.function',
      `there is no function "${op}"`,
      near ? `Did you mean ${near}()?` : `Known functions: ${names.join(', ')}.`,
    );
  }
  if (args.length < known.least || args.length > known.most) {
    throw new Fault(
      'cql2.function',
      `${op} takes ${known.least === known.most ? known.least : `${known.least} or more`} argument(s), and ${args.length} came`,
      'Give it as many as it takes.',
    );
  }
  const binders = args.map(inner);
  const { apply } = known;
  if (binders.length === 2) {
    return (scope) => {
      const [a, b] = [binders[0](scope), binders[1](scope)];
      return (feature) => apply(a(feature), b(feature));
    };
  }
  return (scope) => {
    const terms = binders.map((bind) => bind(scope));
    return (feature) => apply(...terms.map((term) => term(feature)));
  };
}

function compileIn(left: Binder, list: readonly Expression[], inner: (node: Expression) => Binder): Binder {
  if (list.every((item) => typeof item !== 'object')) {
    const members = new Set<Value>(list as readonly Value[]);
    return (scope) => {
      const term = left(scope);
      return (feature) => {
        const value = term(feature);
        return value === undefined || value === null ? undefined : members.has(value);
      };
    };
  }
  const binders = list.map(inner);
  return (scope) => {
    const term = left(scope);
    const members = binders.map((bind) => bind(scope));
    return (feature) => {
      const value = term(feature);
      return value === undefined || value === null ? undefined : members.some((member) => member(feature) === value);
    };
  };
}
