import type { Argument, Expression } from './tree.js';

/** How tightly an operation holds its arguments; a looser one inside a tighter one needs brackets. */
const ranks: Readonly<Record<string, number>> = {
  or: 1,
  and: 2,
  not: 3,
  '=': 4,
  '<>': 4,
  '<': 4,
  '<=': 4,
  '>': 4,
  '>=': 4,
  like: 4,
  between: 4,
  in: 4,
  isNull: 4,
  '+': 5,
  '-': 5,
  '*': 6,
  '/': 6,
  '%': 6,
  div: 6,
  '^': 7,
};

const quoted = (text: string) => `'${text.replaceAll("'", "''")}'`;
const reserved = /^(and|or|not|like|between|in|is|null|true|false|div)$/i;
/** Names that need no quotes (Annex B, identifierStart and identifierPart). */
const isName = (name: string) => plainName.test(name) && !reserved.test(name);
const start =
  'A-Za-z_:\\u{C0}-\\u{D6}\\u{D8}-\\u{F6}\\u{F8}-\\u{2FF}\\u{370}-\\u{37D}\\u{37F}-\\u{1FFF}\\u{200C}-\\u{200D}\\u{2070}-\\u{218F}\\u{2C00}-\\u{2FEF}\\u{3001}-\\u{D7FF}\\u{F900}-\\u{FDCF}\\u{FDF0}-\\u{FFFD}\\u{10000}-\\u{EFFFF}';
const plainName = new RegExp(`^[${start}][\\u{300}-\\u{36F}\\u{203F}-\\u{2040}${start}0-9.\\u{B7}]*$`, 'u');

/** Writes an expression as CQL2 text (OGC 21-065r2, clause 8). Reading it again gives the same expression. */
export function writeCql2(tree: Expression): string {
  return write(tree, 0);
}

function write(node: Argument, within: number): string {
  if (Array.isArray(node)) {
    const items = (node as readonly Argument[]).map((item) => write(item, 0));
    return `(${items.join(', ')})`;
  }
  if (typeof node === 'string') return quoted(node);
  if (typeof node === 'boolean') return node ? 'TRUE' : 'FALSE';
  if (typeof node === 'number') return String(node);
  const object = node as Exclude<Expression, string | number | boolean>;
  if ('property' in object) return isName(object.property) ? object.property : `"${object.property}"`;
  if ('date' in object) return `DATE('${object.date}')`;
  if ('timestamp' in object) return `TIMESTAMP('${object.timestamp}')`;
  if ('interval' in object) {
    const end = (e: Expression) => (e === '..' ? "'..'" : write(e, 0));
    return `INTERVAL(${end(object.interval[0])}, ${end(object.interval[1])})`;
  }
  if ('op' in object) {
    const { op, args } = object;
    const rank = ranks[op];
    if (rank === undefined) return `${op}(${args.map((arg) => write(arg, 0)).join(', ')})`;
    const text = operation(op, args, rank);
    return rank < within ? `(${text})` : text;
  }
  return wkt(object);
}

function operation(op: string, args: readonly Argument[], rank: number): string {
  const inner = (i: number, plus = 0) => write(args[i], rank + plus);
  switch (op) {
    case 'and':
    case 'or':
      return args.map((arg) => write(arg, rank + 1)).join(` ${op.toUpperCase()} `);
    case 'not':
      return `NOT ${inner(0)}`;
    case 'isNull':
      return `${inner(0, 1)} IS NULL`;
    case 'between':
      return `${inner(0, 1)} BETWEEN ${inner(1, 1)} AND ${inner(2, 1)}`;
    case 'in':
      return `${inner(0, 1)} IN (${(args[1] as readonly Argument[]).map((arg) => write(arg, 0)).join(', ')})`;
    case '^':
      return `${inner(0, 1)} ^ ${inner(1)}`;
    default:
      return `${inner(0, rank === 4 ? 1 : 0)} ${/^[a-z]/.test(op) ? op.toUpperCase() : op} ${inner(1, 1)}`;
  }
}

/** Well-known text of a geometry (OGC 06-103r4, clause 7). */
function wkt(shape: object): string {
  const { type, coordinates, geometries, bbox } = shape as Record<string, unknown>;
  if (bbox) return `BBOX(${(bbox as number[]).join(', ')})`;
  if (geometries) return `GEOMETRYCOLLECTION(${(geometries as object[]).map(wkt).join(', ')})`;
  const list = (value: unknown): string =>
    Array.isArray((value as unknown[])[0])
      ? `(${(value as unknown[]).map(list).join(', ')})`
      : (value as number[]).join(' ');
  const text = list(coordinates);
  return `${String(type).toUpperCase()}${text.startsWith('(') ? text : `(${text})`}`;
}
