import { assertShallow } from '../base/depth.js';
import { Fault } from '../base/fault.js';
import { nearestSpelling } from '../base/spelling.js';
import { findColumn, valueAt, type FeatureBlock, type Value } from '../features/block.js';
import { shapeOf, shapeOfGeometry } from '../features/shape.js';
import type { Shape } from '../geometry/shape.js';
import { setOf } from './array-set.js';
import { geometryColumn } from './geometry-column.js';
import { compare, compareTimes, comparisons, isBetween, operators, type Sort } from './functions.js';
import type { Argument, Expression, Location, Places } from './tree.js';
import { shapeFunctions } from './shape-functions.js';
import { isSpatial, spatialNames, type SpatialName } from './spatial-names.js';
import { spanOf, temporalTests, type Span } from './temporal.js';

/** The input of an expression: a feature of a block, and the zoom of the view. */
export interface Scope {
  readonly block: FeatureBlock;
  readonly zoom: number;
}

export type Evaluate = (feature: number) => Value;

/** A compiled expression: closures only, nothing is evaluated as source text. */
export interface CompiledExpression {
  readonly text: string;
  /** The expression in the JSON encoding. */
  readonly tree: Expression;
  /** Attributes that the expression reads. */
  readonly properties: readonly string[];
  readonly usesZoom: boolean;
  /** Whether the result depends on the geometry of the feature. */
  readonly usesGeometry: boolean;
  /** Whether it calls one of {@link ShapeFunctions}. */
  readonly usesShapes: boolean;
  /** Type of the result, if it is known without a feature. */
  readonly sort: Sort;
  /** Binds the expression to the columns of a block and to a zoom. */
  bind(scope: Scope): Evaluate;
}

type Operand = Value | Span | Shape | readonly Operand[];
type Bound = (feature: number) => Operand;
interface Part {
  readonly sort: Sort;
  bind(scope: Scope): Bound;
}

/**
 * Compiles an expression in the JSON encoding of CQL2. Unknown (null) follows three-valued logic: a comparison with a missing
 * value is unknown, and a filter passes only what is true. An attribute name where a geometry is wanted stands for the
 * feature's geometry, whatever the name; on tiles that is the piece of it within the tile. Attributes that hold dates or times
 * are ISO 8601 texts, those that hold lists are JSON texts.
 *
 * @param text what the expression was read from; default its JSON text
 * @param places where operations begin in that text
 * @throws Fault `cql2.function` or `cql2.type`
 */
export function compileTree(tree: Expression, text?: string, places: Places = new WeakMap()): CompiledExpression {
  assertShallow(tree, 'the expression', 'cql2.depth');
  const compiler = new Compiler(places);
  const part = compiler.part(tree);
  return {
    text: text ?? JSON.stringify(tree),
    tree,
    properties: [...compiler.properties],
    usesZoom: compiler.zoom,
    usesGeometry: compiler.geometry,
    usesShapes: compiler.shapes,
    sort: part.sort,
    bind: (scope) => part.bind(scope) as Evaluate,
  };
}

/** Whether an end of an interval is a time as written. */
const isInstant = (end: Expression): end is string | { readonly date: string } | { readonly timestamp: string } =>
  typeof end === 'string' || (typeof end === 'object' && ('date' in end || 'timestamp' in end));
const textOf = (end: Expression): string =>
  typeof end === 'string'
    ? end
    : 'date' in (end as object)
      ? (end as { date: string }).date
      : (end as { timestamp: string }).timestamp;

/** Functions of our own beside those of {@link operators}; names for messages. */
const ownNames = ['zoom', 'length', 'area'];
const arrayNames = ['a_equals', 'a_contains', 'a_containedBy', 'a_overlaps'];
const sortNames: Record<Sort, string> = {
  boolean: 'true or false',
  number: 'a number',
  text: 'a text',
  time: 'a date or time',
  span: 'an interval',
  list: 'a list',
  geometry: 'a geometry',
  any: 'a value',
};

class Compiler {
  readonly properties = new Set<string>();
  zoom = false;
  geometry = false;
  shapes = false;

  constructor(private readonly places: Places) {}

  part(node: Argument): Part {
    if (Array.isArray(node)) return this.list(node as readonly Argument[]);
    if (typeof node !== 'object') {
      const sort = typeof node === 'string' ? 'text' : (typeof node as 'number' | 'boolean');
      return { sort, bind: () => () => node };
    }
    if ('property' in node) return this.attribute(node.property);
    if ('date' in node || 'timestamp' in node) {
      const text = 'date' in node ? node.date : node.timestamp;
      this.checkTime(text, node);
      return { sort: 'time', bind: () => () => text };
    }
    if ('interval' in node) return this.interval(node);
    if ('op' in node) return this.operation(node);
    this.checkBox(node);
    const shape = shapeOfGeometry(node);
    return { sort: 'geometry', bind: () => () => shape };
  }

  private attribute(name: string): Part {
    this.properties.add(name);
    return {
      sort: 'any',
      bind: ({ block }) => {
        const column = findColumn(block, name);
        return column ? (feature) => valueAt(column, feature) : () => undefined;
      },
    };
  }

  private interval(node: { readonly interval: readonly [Expression, Expression] }): Part {
    const ends = node.interval.map((end) => {
      if (end === '..') return undefined;
      if (typeof end === 'string') this.checkTime(end, node);
      const part = this.part(end);
      if (!['any', 'time', 'text'].includes(part.sort)) this.refuse(node, 'INTERVAL', ['time'], part.sort);
      return part;
    });
    // Both ends as written: a period ends when it began, or later.
    const [low, high] = node.interval.map((end) => (end === '..' || !isInstant(end) ? undefined : spanOf(textOf(end))));
    if (low && high && low.from > high.to)
      throw new Fault(
        'cql2.time',
        `the interval begins on ${textOf(node.interval[0])}, after its end, ${textOf(node.interval[1])}`,
        'Write the earlier time first.',
        this.at(node),
      );
    return {
      sort: 'span',
      bind: (scope) => {
        const [from, to] = ends.map((end) => end?.bind(scope));
        return (feature) => {
          const low = from ? spanOf(from(feature))?.from : -Infinity;
          const high = to ? spanOf(to(feature))?.to : Infinity;
          return low === undefined || high === undefined ? undefined : { from: low, to: high };
        };
      },
    };
  }

  /** Boxes run from south to north and upwards; from west to east they may cross the antimeridian. */
  private checkBox(node: object): void {
    if (!('bbox' in node)) return;
    const box = node.bbox as readonly number[];
    const half = box.length / 2;
    for (const [k, low, high] of [
      [1, 'south', 'north'],
      [2, 'bottom', 'top'],
    ] as const)
      if (k < half && box[k] > box[half + k])
        throw new Fault(
          'cql2.box',
          `the ${low} of BBOX(${box.join(', ')}) is ${box[k]}, which is above its ${high}, ${box[half + k]}`,
          half === 2 ? 'Write BBOX(west, south, east, north).' : 'Write BBOX(west, south, bottom, east, north, top).',
          this.at(node),
        );
  }

  /** Days and hours that do not exist are told of; nothing would ever equal them. */
  private checkTime(text: string, node: object): void {
    const at = new Date(text);
    if (Number.isNaN(at.getTime()) || at.toISOString().slice(0, 10) !== text.slice(0, 10))
      throw new Fault(
        'cql2.time',
        `there is no ${text.includes('T') ? 'time' : 'day'} ${text}`,
        'Check the day of the month and the time of day.',
        this.at(node),
      );
  }

  private list(items: readonly Argument[]): Part {
    const parts = items.map((item) => this.part(item));
    return {
      sort: 'list',
      bind: (scope) => {
        const bound = parts.map((part) => part.bind(scope));
        return (feature) => bound.map((item) => item(feature));
      },
    };
  }

  private operation(node: { readonly op: string; readonly args: readonly Argument[] }): Part {
    const { op, args } = node;
    switch (op) {
      case 'and':
      case 'or':
        return this.logic(node, op === 'or');
      case 'not': {
        this.count(node, 1, 1);
        const [part] = this.parts(node, [['any', 'boolean']]);
        return this.gives('boolean', [part], ([term]) => {
          return (feature) => {
            const value = term(feature);
            return typeof value === 'boolean' ? !value : undefined;
          };
        });
      }
      case 'in':
        return this.in(node);
      case 'zoom':
        this.count(node, 0, 0);
        this.zoom = true;
        return {
          sort: 'number',
          bind:
            ({ zoom }) =>
            () =>
              zoom,
        };
      case 'length':
      case 'area':
        return this.measure(node, op);
    }
    if (isSpatial(op)) return this.spatial(node, op);
    if (Object.hasOwn(temporalTests, op)) {
      this.count(node, 2, 2);
      const test = temporalTests[op];
      return this.gives('boolean', this.parts(node, [['any', 'time', 'span', 'text']]), ([a, b]) => (feature) => {
        const [x, y] = [spanOf(a(feature)), spanOf(b(feature))];
        return x && y ? test(x, y) : undefined;
      });
    }
    if (arrayNames.includes(op)) return this.array(node);
    return this.plain(node, args);
  }

  private plain(node: { readonly op: string; readonly args: readonly Argument[] }, args: readonly Argument[]): Part {
    const { op } = node;
    const known = Object.hasOwn(operators, op) ? operators[op] : undefined;
    if (!known) {
      const names = [
        ...Object.keys(operators).filter(
          (name) => /^[a-z]{3}/.test(name) && !['between', 'like', 'div'].includes(name),
        ),
        ...ownNames,
        ...spatialNames,
        ...Object.keys(temporalTests),
        ...arrayNames,
      ];
      const near = nearestSpelling(op, names);
      throw new Fault(
        'cql2.function',
        `there is no function "${op}"`,
        near ? `Did you mean ${near}()?` : `Known functions: ${names.join(', ')}.`,
        this.at(node),
      );
    }
    this.count(node, known.least, known.most);
    const parts = this.parts(node, known.takes);
    const timely = parts.some(({ sort }) => sort === 'time');
    if (timely && op in comparisons) {
      const test = comparisons[op];
      return this.gives('boolean', parts, ([a, b]) => (feature) => {
        const order = compareTimes(a(feature) as Value, b(feature) as Value);
        return order === undefined ? undefined : test(order);
      });
    }
    if (timely && op === 'between') {
      return this.gives('boolean', parts, ([v, low, high]) => (feature) => {
        const value = v(feature) as Value;
        return isBetween(compareTimes(value, low(feature) as Value), compareTimes(value, high(feature) as Value));
      });
    }
    const { apply } = known;
    if (args.length === 2)
      return this.gives(
        known.gives,
        parts,
        ([a, b]) =>
          (feature) =>
            apply(a(feature) as Value, b(feature) as Value),
      );
    return this.gives(
      known.gives,
      parts,
      (terms) => (feature) => apply(...terms.map((term) => term(feature) as Value)),
    );
  }

  private gives(sort: Sort, parts: readonly Part[], make: (terms: Bound[]) => Bound): Part {
    return { sort, bind: (scope) => make(parts.map((part) => part.bind(scope))) };
  }

  private logic(node: { readonly op: string; readonly args: readonly Argument[] }, decisive: boolean): Part {
    this.count(node, 2, 1e6);
    return this.gives('boolean', this.parts(node, [['any', 'boolean']]), (terms) => (feature) => {
      let unknown = false;
      for (const term of terms) {
        const value = term(feature);
        if (value === decisive) return decisive;
        if (value !== !decisive) unknown = true;
      }
      return unknown ? undefined : !decisive;
    });
  }

  private in(node: { readonly op: string; readonly args: readonly Argument[] }): Part {
    this.count(node, 2, 2);
    const [first, list] = node.args;
    if (!Array.isArray(list) || !list.length)
      throw new Fault('cql2.type', 'IN needs a list', "Write IN ('a', 'b').", this.at(node));
    const left = this.part(first);
    const members = (list as readonly Argument[]).map((item) => this.part(item));
    const timely = left.sort === 'time' || members.some(({ sort }) => sort === 'time');
    const same = timely ? compareTimes : compare;
    if (!timely && (list as readonly Argument[]).every((item) => typeof item !== 'object')) {
      const set = new Set<Operand>(list as readonly Value[]);
      return this.gives('boolean', [left], ([term]) => (feature) => {
        const value = term(feature);
        return value === undefined || value === null ? undefined : set.has(value);
      });
    }
    return this.gives('boolean', [left, ...members], ([term, ...rest]) => (feature) => {
      const value = term(feature) as Value;
      if (value === undefined || value === null) return undefined;
      // As the comparisons with each in turn, joined by OR (clause 7.4): a member that is missing leaves it open.
      let isOpen = false;
      for (const member of rest) {
        const other = member(feature) as Value;
        if (other === undefined || other === null) isOpen = true;
        else if (same(value, other) === 0) return true;
      }
      return isOpen ? undefined : false;
    });
  }

  private spatial(node: { readonly op: string; readonly args: readonly Argument[] }, op: SpatialName): Part {
    this.count(node, 2, 2);
    this.shapes = true;
    const shapes = node.args.map((arg) => this.shape(node, arg));
    return this.remembered(node, 'boolean', (scope) => {
      const [a, b] = shapes.map((part) => part.bind(scope));
      const test = shapeFunctions()?.spatialTest(op);
      return (feature) => test?.(a(feature) as Shape, b(feature) as Shape);
    });
  }

  private measure(node: { readonly op: string; readonly args: readonly Argument[] }, op: 'length' | 'area'): Part {
    this.count(node, 0, 1);
    const shape = this.shape(node, node.args[0] ?? { property: 'geometry' });
    this.shapes = true;
    return this.remembered(node, 'number', (scope) => {
      const of = shape.bind(scope);
      const measure = shapeFunctions()?.[op === 'length' ? 'lengthOf' : 'areaOf'];
      return (feature) => measure?.(of(feature) as Shape);
    });
  }

  /** A geometry operand: a literal, or the feature's own. */
  private shape(node: object, arg: Argument): Part {
    if (typeof arg === 'object' && 'property' in arg) {
      this.geometry = true;
      return {
        sort: 'geometry',
        bind:
          ({ block }) =>
          (feature) =>
            shapeOf(block, feature),
      };
    }
    const part = this.part(arg);
    if (part.sort !== 'geometry')
      this.refuse(node, (node as { op: string }).op.toUpperCase(), ['geometry'], part.sort, arg);
    return part;
  }

  /** An answer that may stand in a column already, worked out when the feature was still whole. */
  private remembered(node: object, sort: Sort, bind: (scope: Scope) => Bound): Part {
    const name = geometryColumn(node);
    return {
      sort,
      bind: (scope) => {
        const column = findColumn(scope.block, name);
        return column ? (feature) => valueAt(column, feature) : bind(scope);
      },
    };
  }

  private array(node: { readonly op: string; readonly args: readonly Argument[] }): Part {
    this.count(node, 2, 2);
    const parts = this.parts(node, [['any', 'list']]);
    return this.gives('boolean', parts, ([a, b]) => (feature) => {
      const [x, y] = [setOf(a(feature)), setOf(b(feature))];
      if (!x || !y) return undefined;
      switch (node.op) {
        case 'a_contains':
          return y.isSubset(x);
        case 'a_containedBy':
          return x.isSubset(y);
        case 'a_overlaps':
          return x.meets(y);
        default:
          return x.isSubset(y) && y.isSubset(x);
      }
    });
  }

  private parts(
    node: { readonly op: string; readonly args: readonly Argument[] },
    takes: readonly (readonly Sort[])[],
  ) {
    return node.args.map((arg, i) => {
      const part = this.part(arg);
      const allowed = takes[Math.min(i, takes.length - 1)];
      if (!allowed.includes(part.sort) && part.sort !== 'any')
        this.refuse(node, node.op.toUpperCase(), allowed, part.sort, arg);
      return part;
    });
  }

  private count(node: { readonly op: string; readonly args: readonly Argument[] }, least: number, most: number): void {
    const came = node.args.length;
    if (came >= least && came <= most) return;
    const wanted = least === most ? String(least) : most > 60 ? `${least} or more` : `${least} to ${most}`;
    throw new Fault(
      'cql2.function',
      `${node.op} takes ${wanted} argument${wanted === '1' ? '' : 's'}, got ${came}`,
      'Pass that number of arguments.',
      this.at(node),
    );
  }

  private refuse(node: object, name: string, allowed: readonly Sort[], came: Sort, arg?: Argument): never {
    const wanted = allowed.filter((sort) => sort !== 'any').map((sort) => sortNames[sort]);
    throw new Fault(
      'cql2.type',
      `${name} expected ${wanted.join(' or ')}, got ${sortNames[came]}`,
      came === 'number' && allowed.includes('text')
        ? 'Put texts in single quotes.'
        : came === 'text' && allowed.includes('number')
          ? 'Write numbers without quotes, and attribute names without or in double quotes.'
          : 'Change the argument.',
      this.at(node, arg),
    );
  }

  /** Where an operation begins, or one of its arguments. */
  private at(node: object, arg?: Argument): string | undefined {
    const { args } = node as { readonly args?: readonly Argument[] };
    const starts = args && (this.places.get(args) as readonly Location[] | undefined);
    const own = arg === undefined || !args ? undefined : starts?.[args.indexOf(arg)];
    const place = own ?? (this.places.get(node) as Location | undefined);
    return place ? `${place.line}:${place.column}` : undefined;
  }
}
