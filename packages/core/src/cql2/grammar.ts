// OGC Common Query Language (CQL2), text encoding: OGC 21-065r2, clause 8 and Annex B. What is read is the JSON encoding of the same
// expression (clause 9).
import { missed, TextReader, type Rule } from './rules.js';
import type { Argument, Expression, GeometryLiteral, Location, Places } from './tree.js';

/** Names of the standard's predicates are written in any case; the JSON encoding has one spelling for each. */
const spellings = new Map(
  (
    'casei accenti s_intersects s_equals s_disjoint s_touches s_within s_overlaps s_crosses s_contains ' +
    't_after t_before t_contains t_disjoint t_during t_equals t_finishedBy t_finishes t_intersects t_meets t_metBy ' +
    't_overlappedBy t_overlaps t_startedBy t_starts a_equals a_contains a_containedBy a_overlaps'
  )
    .split(' ')
    .map((name) => [name.toLowerCase(), name]),
);
const words = (list: string) => new Set(list.split(' '));
const reserved = words('and or not like between in is null true false div');
const arrayTests = words('a_equals a_contains a_containedby a_overlaps');
/** What begins a value of another kind, and so is no name of a function. */
const literals = words(
  'date timestamp interval bbox geometrycollection point linestring polygon multipoint multilinestring multipolygon',
);

// Annex B, identifierStart and identifierPart.
const letter =
  'A-Za-z_:\\xC0-\\xD6\\xD8-\\xF6\\xF8-\\u02FF\\u0370-\\u037D\\u037F-\\u1FFF\\u200C\\u200D\\u2070-\\u218F\\u2C00-\\u2FEF\\u3001-\\uD7FF\\uF900-\\uFDCF\\uFDF0-\\uFFFD\\u{10000}-\\u{10FFFF}';
const part = `${letter}0-9.\\xB7\\u0300-\\u036F\\u203F\\u2040`;
const pattern = (source: string) => new RegExp(source, 'uy');
const namePattern = () => pattern(`[${letter}][${part}]*`);
const numberPattern = () =>
  pattern(`(?:[0-9]+(?:\\.[0-9]*)?(?:[eE][+-]?[0-9]+)?|\\.[0-9]+(?:[eE][+-]?[0-9]+)?)(?![${part}])`);

/** A value, and where it began. */
interface Placed {
  readonly value: Argument;
  readonly from: number;
}
type Tail = (left: Placed, from: number) => Expression;

/** A text that cannot be read: where, and what was wanted there; or a number beyond all reckoning. */
export interface Refusal {
  readonly at: number;
  readonly wanted?: readonly string[];
  readonly number?: string;
}

/** Line and column, from 1, of a place in a text. */
export function locationIn(text: string, at: number): Location {
  const before = text.slice(0, at).split('\n');
  return { line: before.length, column: before[before.length - 1].length + 1 };
}

class NumberBeyond extends Error {
  constructor(
    readonly digits: string,
    readonly at: number,
  ) {
    super(digits);
  }
}

/**
 * Reads an expression by the rules of the grammar. Nothing is read twice on the way to a failure, so that deep nesting costs no more
 * than its length.
 *
 * @param text CQL2 text
 * @param places receives where each operation and each argument begins
 */
export function readGrammar(text: string, places?: Places): { readonly tree: Expression } | Refusal {
  grammar ??= new Grammar();
  const { reader } = grammar;
  reader.begin(text);
  grammar.places = places;
  try {
    const came = grammar.whole();
    if (came !== missed && reader.at === text.length) return { tree: came[1] };
  } catch (error) {
    if (error instanceof NumberBeyond) return { at: error.at, number: error.digits };
    throw error;
  }
  return { at: reader.farthest, wanted: reader.wanted };
}

/** The rules, made once: to make them takes longer than to read most texts. */
class Grammar {
  readonly reader = new TextReader();
  /** Receives where each operation and each argument begins. */
  places: Places | undefined;
  /** An expression, and white space around it. */
  readonly whole: Rule<[string, Expression, string]>;

  constructor() {
    const { expression, space } = rulesOf(this.reader, () => this.places);
    this.whole = this.reader.all(space, expression, space);
  }
}

let grammar: Grammar | undefined;

/** The rules of the grammar over the text that a reader has taken up. */
function rulesOf(
  r: TextReader,
  places: () => Places | undefined,
): { expression: Rule<Expression>; space: Rule<string> } {
  /** A rule that is written further down. */
  const later =
    <T>(rule: () => Rule<T>): Rule<T> =>
    () =>
      rule()();

  const node = (op: string, args: readonly Argument[], from: number): Expression => {
    const made = { op, args };
    places()?.set(made, locationIn(r.text, from));
    return made;
  };
  const placed = (op: string, args: readonly Placed[], from: number): Expression => {
    const values = args.map(({ value }) => value);
    places()?.set(
      values,
      args.map((arg) => locationIn(r.text, arg.from)),
    );
    return node(op, values, from);
  };
  const no = (not: unknown, inner: Expression, from: number) => (not ? node('not', [inner], from) : inner);

  const space = r.like(pattern('[ \\t\\r\\n]*'), 'white space');
  const gap = r.like(pattern('[ \\t\\r\\n]+'), 'white space');
  const [open, close, comma] = ['(', ')', ','].map((sign) => r.is(sign));
  const keyword = (name: string, what = name) => r.like(new RegExp(`${name}(?![${part}])`, 'iuy'), what);
  /** One or more of a rule, parted by commas. */
  const list = <T>(rule: Rule<T>): Rule<T[]> =>
    r.made(r.all(rule, r.many(r.made(r.all(space, comma, space, rule), (all) => all[3]))), ([first, rest]) => [
      first,
      ...rest,
    ]);
  /** A rule within brackets. */
  const bracketed = <T>(rule: Rule<T>): Rule<T> => r.made(r.all(open, space, rule, space, close), (all) => all[2]);
  /** Operands of one level, parted by one of its signs. */
  const chain = (operand: Rule<Expression>, sign: Rule<string>) =>
    r.all(operand, r.many(r.made(r.all(space, sign, space, operand), (all) => [all[1], all[3]] as const)));
  const leftToRight = (operand: Rule<Expression>, sign: Rule<string>) =>
    r.made(chain(operand, sign), ([first, rest], from) =>
      rest.reduce((left, [op, right]) => node(op, [left, right], from), first),
    );
  const together = (op: string, operand: Rule<Expression>) =>
    r.made(chain(operand, keyword(op.toUpperCase())), ([first, rest], from) =>
      rest.length ? node(op, [first, ...rest.map((one) => one[1])], from) : first,
    );
  const sited = (rule: Rule<Argument>) => r.made(rule, (value, from): Placed => ({ value, from }));

  // Numbers, texts and names.
  const number = r.made(r.like(numberPattern(), 'a number'), (digits, from) => {
    const value = Number(digits);
    if (!Number.isFinite(value)) throw new NumberBeyond(digits, from);
    return value;
  });
  const signed = r.made(r.all(r.maybe(r.like(pattern('[+-]'), 'more')), number), ([sign, value]) =>
    sign === '-' ? -value : value,
  );
  const quoted = r.made(r.like(pattern("'(?:''|\\\\'|\\\\(?!')|[^'\\\\])*'(?!')"), 'a text in single quotes'), (came) =>
    came.slice(1, -1).replace(/''|\\'/g, "'"),
  );
  const bare = r.like(namePattern(), 'a name');
  const name: Rule<string> = () => {
    const from = r.at;
    const came = r.ahead(bare) ? bare() : missed;
    if (came !== missed && !reserved.has(came.toLowerCase())) return came;
    r.at = from;
    return r.miss('a name');
  };
  const property = r.under(
    'an attribute name',
    r.made(
      r.any(
        name,
        r.made(r.like(pattern('"[^"]+"'), 'more'), (came) => came.slice(1, -1)),
      ),
      (came) => ({
        property: came,
      }),
    ),
  );

  // Dates and times.
  const unquoted = (came: string) => came.slice(1, -1);
  const day = r.made(r.like(pattern("'\\d{4}-\\d\\d-\\d\\d'"), "a date such as '2031-04-18'"), unquoted);
  const moment = r.made(
    r.like(
      pattern("'\\d{4}-\\d\\d-\\d\\dT\\d\\d:\\d\\d:\\d\\d(?:\\.\\d+)?Z'"),
      "a time in UTC such as '2031-04-18T09:30:00Z'",
    ),
    unquoted,
  );
  const instant: Rule<Expression> = r.any(
    r.made(r.all(r.is('DATE'), space, bracketed(day)), (all) => ({ date: all[2] })),
    r.made(r.all(r.is('TIMESTAMP'), space, bracketed(moment)), (all) => ({ timestamp: all[2] })),
  );
  const bound: Rule<Expression> = r.under(
    "a date, a time, '..' or an attribute",
    r.any(r.made(r.is("'..'"), unquoted), day, moment, instant, property),
  );
  const interval = r.made(
    r.all(r.is('INTERVAL'), space, bracketed(r.all(bound, space, comma, space, bound))),
    (all): Expression => ({ interval: [all[2][0], all[2][4]] }),
  );

  // Geometries.
  const at = r.under(
    'coordinates x y',
    r.made(r.all(signed, gap, signed, r.maybe(r.made(r.all(gap, signed), (all) => all[1]))), ([x, , y, z]) =>
      z === undefined ? [x, y] : [x, y, z],
    ),
  );
  const tuple = bracketed(at);
  /** Two or more of a rule. */
  const several = <T>(rule: Rule<T>) => r.made(list(rule), (all) => (all.length > 1 ? all : missed));
  const line = bracketed(several(at));
  const rings = bracketed(list(line));
  const zOf = r.is('Z');
  const dimension = r.all(space, r.maybe(r.made(r.all(zOf, space), () => (r.ahead(open) ? true : missed))));
  const shaped = (type: string, rule: Rule<unknown>): Rule<GeometryLiteral> =>
    r.made(r.all(r.is(type.toUpperCase()), dimension, rule), (all) => ({ type, coordinates: all[2] }));
  const shape: Rule<GeometryLiteral> = r.any(
    shaped('Point', tuple),
    shaped('LineString', line),
    shaped('Polygon', rings),
    shaped('MultiPoint', bracketed(list(r.any(tuple, at)))),
    shaped('MultiLineString', bracketed(list(line))),
    shaped('MultiPolygon', bracketed(list(rings))),
    r.made(r.all(r.is('GEOMETRYCOLLECTION'), dimension, bracketed(list(later(() => shape)))), (all) => ({
      type: 'GeometryCollection' as const,
      geometries: all[2],
    })),
    r.made(r.all(r.is('BBOX'), space, bracketed(several(signed))), (all) =>
      all[2].length === 4 || all[2].length === 6 ? { bbox: all[2] } : missed,
    ),
  );

  // Values: Annex B, characterExpression, numericExpression and their like, which a text does not tell apart.
  const inner = later(() => expression);
  const inners = list(inner);
  // An expression in brackets, or an array of several.
  const brackets = r.made(
    r.all(open, space, inner, space, r.maybe(r.made(r.all(comma, space, inners, space), (all) => all[2])), close),
    (all) => (all[4] ? [all[2], ...all[4]] : all[2]) as Expression,
  );
  // The arguments of array predicates are arrays (Annex B, arrayExpression): there even one element in brackets is one. What begins with
  // a bracket is nothing else, so that no argument is read twice.
  const array = sited(
    r.any<[Rule<Argument>, Rule<Argument>]>(
      r.made(r.all(open, space, r.maybe(r.made(r.all(inners, space), (all) => all[0])), close), (all) => all[2] ?? []),
      () => (r.ahead(open) ? missed : inner()),
    ),
  );
  const call = (isName: (lower: string) => boolean, argument: Rule<Placed>, named: Rule<string>) =>
    r.made(
      r.all(
        r.made(named, (came) => (isName(came.toLowerCase()) ? came : missed)),
        space,
        open,
        space,
        r.maybe(list(argument)),
        space,
        close,
      ),
      (all, from) => placed(spellings.get(all[0].toLowerCase()) ?? all[0], all[4] ?? [], from),
    );
  const arrayName = r.any(
    ...['A_EQUALS', 'A_CONTAINS', 'A_CONTAINEDBY', 'A_OVERLAPS'].map((one) => keyword(one, `"${one}"`)),
  );
  const primary: Rule<Expression> = r.any(
    brackets,
    number,
    quoted,
    r.made(keyword('TRUE'), () => true),
    r.made(keyword('FALSE'), () => false),
    shape,
    instant,
    interval,
    call(() => true, array, arrayName),
    call((lower) => !literals.has(lower) && !arrayTests.has(lower), sited(inner), name),
    property,
  );
  const unary: Rule<Expression> = r.any(
    r.made(
      r.all(
        r.is('-'),
        space,
        later(() => unary),
      ),
      (all, from) => (typeof all[2] === 'number' ? -all[2] : node('*', [-1, all[2]], from)),
    ),
    // A sign of more stands before numbers alone (Annex B, signedNumericLiteral).
    r.made(r.all(r.is('+'), number), (all) => all[1]),
    primary,
  );
  const power = r.made(chain(unary, r.is('^')), ([base, rest], from) =>
    [base, ...rest.map((one) => one[1])].reduceRight((right, left) => node('^', [left, right], from)),
  );
  const product = leftToRight(
    power,
    r.any(
      r.made(keyword('DIV', '"DIV"'), () => 'div'),
      r.like(pattern('[*/%]'), 'more'),
    ),
  );
  const sum = leftToRight(product, r.like(pattern('[+-]'), 'more'));

  // Conditions.
  const term = sited(sum);
  const not = r.maybe(r.all(keyword('NOT'), space));
  const comparison = r.like(pattern('<>|<=|>=|=|<|>'), 'a comparison (=, <>, <, <=, >, >=)');
  const tail: Rule<Tail> = r.any(
    r.made(
      r.all(comparison, space, term),
      (all): Tail =>
        (left, from) =>
          placed(all[0], [left, all[2]], from),
    ),
    r.made(
      r.all(keyword('IS'), space, not, keyword('NULL')),
      (all): Tail =>
        (left, from) =>
          no(all[2], placed('isNull', [left], from), from),
    ),
    r.made(
      r.all(not, keyword('LIKE'), space, term),
      (all): Tail =>
        (left, from) =>
          no(all[0], placed('like', [left, all[3]], from), from),
    ),
    r.made(
      r.all(not, keyword('BETWEEN'), space, term, space, keyword('AND'), space, term),
      (all): Tail =>
        (left, from) =>
          no(all[0], placed('between', [left, all[3], all[7]], from), from),
    ),
    r.made(
      r.all(not, keyword('IN'), space, bracketed(sited(inners))),
      (all): Tail =>
        (left, from) =>
          no(all[0], placed('in', [left, all[3]], from), from),
    ),
  );
  const predicate = r.made(r.all(term, r.maybe(r.made(r.all(space, tail), (all) => all[1]))), ([left, more], from) =>
    more ? more(left, from) : (left.value as Expression),
  );
  const negation: Rule<Expression> = r.any(
    r.made(
      r.all(
        keyword('NOT'),
        space,
        later(() => negation),
      ),
      (all, from) => node('not', [all[2]], from),
    ),
    predicate,
  );
  const expression = together('or', together('and', negation));
  return { expression, space };
}
