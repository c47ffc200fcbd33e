import { plainText } from '../base/describe-value.js';
import { Fault } from '../base/fault.js';

/** Line and column in a text, from 1. */
export interface Location {
  readonly line: number;
  readonly column: number;
}

/** A geometry in an expression: GeoJSON (RFC 7946, section 3.1), or a box. */
export type GeometryLiteral =
  | { readonly type: string; readonly coordinates: unknown }
  | { readonly type: 'GeometryCollection'; readonly geometries: readonly GeometryLiteral[] }
  | { readonly bbox: readonly number[] };

/** An expression in the JSON encoding of CQL2 (OGC 21-065r2, clause 9). */
export type Expression =
  | string
  | number
  | boolean
  | { readonly property: string }
  | { readonly date: string }
  | { readonly timestamp: string }
  | { readonly interval: readonly [Expression, Expression] }
  | GeometryLiteral
  | { readonly op: string; readonly args: readonly Argument[] };

export type Argument = Expression | readonly Argument[];

/** Where the operations of a text begin, and by their lists each of their arguments, for faults found after parsing. */
export type Places = WeakMap<object, Location | readonly Location[]>;

/** The beginning of a value as JSON; of an object only its keys, so that a deep one costs nothing. */
function shownText(node: unknown): string {
  if (typeof node === 'object' && node !== null) {
    const { op } = node as { op?: unknown };
    const keys = Object.keys(node).slice(0, 4).join(', ');
    return typeof op === 'string' ? `{ "op": ${JSON.stringify(op)}, … }` : Array.isArray(node) ? '[…]' : `{ ${keys} }`;
  }
  return JSON.stringify(node)?.slice(0, 60) ?? 'nothing';
}

/**
 * Checks that a parsed JSON value is an expression in the JSON encoding.
 *
 * @param raw the parsed JSON
 * @param path its JSON path, for messages
 * @throws Fault `cql2.json` with the JSON path of the invalid part
 */
export function readCql2Json(raw: unknown, path = '$'): Expression {
  const check = (node: unknown, at: string, depth: number): void => {
    const refuse = (message: string, hint: string): never => {
      throw new Fault('cql2.json', message, hint, at);
    };
    if (depth > 200)
      throw new Fault(
        'cql2.depth',
        'operations are nested more than 200 deep',
        'Remove some of them.',
        at.slice(0, 80),
      );
    const shown = shownText(node);
    if (Array.isArray(node)) {
      node.forEach((item, i) => check(item, `${at}[${i}]`, depth + 1));
      return;
    }
    if (typeof node === 'string' || typeof node === 'boolean') return;
    if (typeof node === 'number') {
      if (!Number.isFinite(node)) refuse(`${String(node)} is not a CQL2 number`, 'Write a finite number.');
      return;
    }
    if (typeof node !== 'object' || node === null)
      return refuse(`${shown} is not an expression`, 'Use { "op": "isNull", "args": […] } to ask for missing values.');
    const object = node as Record<string, unknown>;
    if ('op' in object) {
      if (typeof object['op'] !== 'string')
        refuse(`the "op" of ${shown} is not a text`, 'Name an operation, such as "=".');
      if (!Array.isArray(object['args'])) refuse(`the operation ${shown} has no list "args"`, 'Add its arguments.');
      (object['args'] as unknown[]).forEach((arg, i) => check(arg, `${at}.args[${i}]`, depth + 1));
    } else if ('property' in object) {
      if (typeof object['property'] !== 'string')
        refuse(`the "property" of ${shown} is not a text`, 'Name an attribute.');
    } else if ('date' in object || 'timestamp' in object) {
      const key = 'date' in object ? 'date' : 'timestamp';
      const form = key === 'date' ? /^\d{4}-\d\d-\d\d$/ : /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?Z$/;
      if (!form.test(plainText(object[key])))
        refuse(
          `${shown} is no ${key === 'date' ? 'date' : 'time'}`,
          key === 'date' ? 'Write "2031-04-18".' : 'Write "2031-04-18T09:30:00Z".',
        );
    } else if ('interval' in object) {
      const ends = object['interval'];
      if (!Array.isArray(ends) || ends.length !== 2)
        refuse(`${shown} has no two ends`, 'Write { "interval": [from, to] }, an open end as "..".');
      (ends as unknown[]).forEach((end, i) => check(end, `${at}.interval[${i}]`, depth + 1));
    } else if (!('type' in object) && !('bbox' in object)) {
      refuse(
        `${shown} is not an expression`,
        'Allowed are op with args, property, date, timestamp, interval, bbox, and GeoJSON geometries.',
      );
    }
  };
  check(raw, path, 0);
  if (Array.isArray(raw))
    throw new Fault(
      'cql2.json',
      `${shownText(raw)} is a list, not an expression`,
      'Lists are arguments of "in" and of the functions of arrays; write { "op": …, "args": […] }.',
      path,
    );
  return raw as Expression;
}
