import { said } from '../base/said.js';
import { Fault } from '../base/fault.js';
import { locationIn, readGrammar } from './grammar.js';
import type { Expression, Places } from './tree.js';

/** Spellings of other languages, and the CQL2 for each. */
const habits: readonly (readonly [RegExp, string])[] = [
  [/[\u2018-\u201f\u00ab\u00bb]/, 'Write straight quotes: \'text\' and "attribute".'],
  [/==/, 'Equality is written with one = in CQL2.'],
  [/!=/, 'Inequality is written <> in CQL2.'],
  [/&&/, 'Write AND.'],
  [/\|\|/, 'Write OR.'],
  [/(^|[^<>])!/, 'Write NOT.'],
  [/=\s*null\b/i, 'Missing values are asked for with IS NULL.'],
  [/=>|=</, 'Write >= or <=.'],
  [/\[/, 'Lists go in round brackets: (1, 2).'],
  [/\bDATE\s*\(|\bTIMESTAMP\s*\(/i, "Dates are written DATE('2031-04-18'), times TIMESTAMP('2031-04-18T09:30:00Z')."],
  [/\bBBOX\s*\(/i, 'A box is written BBOX(west, south, east, north), in degrees.'],
];

const usual = "Texts go in single quotes ('pier'), attribute names in none or in double quotes.";

/** Deepest nesting of an expression, in text and in JSON. */
export const deepest = 200;

/** Counts brackets outside of texts, so that what is nested without end is refused before it is read. */
function assertShallow(text: string): void {
  if (typeof text !== 'string')
    throw new Fault('cql2.syntax', `${said(text)} came where CQL2 text is wanted`, usual, '1:1');
  let depth = 0;
  let quote = '';
  for (let i = 0; i < text.length; i++) {
    const sign = text[i];
    if (quote) {
      if (sign === quote) quote = '';
    } else if (sign === "'" || sign === '"') quote = sign;
    else if (sign === ')') depth--;
    else if (sign === '(' && ++depth > deepest) {
      const { line, column } = locationIn(text, i);
      throw new Fault(
        'cql2.depth',
        `brackets are nested more than ${deepest} deep`,
        'Take some of them out.',
        `${line}:${column}`,
      );
    }
  }
}

/**
 * Reads CQL2 text.
 *
 * @param text CQL2 text
 * @param places receives where each operation and each argument begins; default none
 * @throws Fault `cql2.syntax` with line and column, and what was expected there; `cql2.number` or `cql2.depth`
 */
export function parseCql2(text: string, places?: Places): Expression {
  assertShallow(text);
  const came = readGrammar(text, places);
  if ('tree' in came) return came.tree;
  const { line, column } = locationIn(text, came.at);
  if (came.number !== undefined)
    throw new Fault(
      'cql2.number',
      `in "${text}", the number ${came.number} is beyond what can be reckoned with`,
      'Numbers reach to some 1.8e308; write a smaller one.',
      `${line}:${column}`,
    );
  const wanted = [...new Set(came.wanted)].filter((what) => what !== 'white space');
  const found = String.fromCodePoint(text.codePointAt(came.at) ?? 0);
  const stands = came.at >= text.length ? 'the expression ends' : `"${found}" stands`;
  // Arithmetic may go on nearly anywhere; it is worth saying only where nothing else is.
  const telling = wanted.filter((what) => !/^"([-+*/%^,]|div)"$/i.test(what));
  const list =
    wanted.includes('an attribute name') && wanted.length > 4
      ? 'a value'
      : (telling.length ? telling : wanted).join(' or ');
  throw new Fault(
    'cql2.syntax',
    `in "${text}", ${stands} where ${list || 'the end'} is expected`,
    habits.find(([sign]) => sign.test(text))?.[1] ?? usual,
    `${line}:${column}`,
  );
}
