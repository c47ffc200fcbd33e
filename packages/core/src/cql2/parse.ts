import { describeValue } from '../base/describe-value.js';
import { assertShallow as assertDepth } from '../base/depth.js';
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

/**
 * Counts brackets, and signs and NOTs in front of each other, outside of texts, so that what is nested without end is refused before it is read.
 */
function assertShallow(text: string): void {
  if (typeof text !== 'string') throw new Fault('cql2.syntax', `${describeValue(text)} is not CQL2 text`, usual, '1:1');
  /** Prefixes in front of what comes next, in each bracket that is open; and all of them with the brackets. */
  const prefixes = [0];
  let depth = 0;
  const close = () => {
    depth -= prefixes[prefixes.length - 1];
    prefixes[prefixes.length - 1] = 0;
  };
  // A text, a word, a prefix or a bracket; other signs part operands and change nothing.
  for (const { 0: token, index } of text.matchAll(/'[^']*'?|"[^"]*"?|not\b|[\p{L}_][\p{L}\p{N}_.]*|[\d.]+|[-+()]/giu)) {
    if (token === ')') {
      if (prefixes.length > 1) {
        close();
        prefixes.pop();
        depth--;
      }
      close();
    } else if (token === '(') {
      prefixes.push(0);
      depth++;
    } else if (token === '-' || token === '+' || /^not$/i.test(token)) {
      prefixes[prefixes.length - 1]++;
      depth++;
    } else close();
    if (depth <= deepest) continue;
    const { line, column } = locationIn(text, index);
    throw new Fault(
      'cql2.depth',
      `brackets, signs and NOTs are nested more than ${deepest} deep`,
      'Remove some of them.',
      `${line}:${column}`,
    );
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
  if ('tree' in came) {
    // A chain such as 1 + 1 + … is a tree as deep as it is long.
    assertDepth(came.tree, 'the expression', 'cql2.depth');
    return came.tree;
  }
  const { line, column } = locationIn(text, came.at);
  if (came.number !== undefined)
    throw new Fault(
      'cql2.number',
      `in "${text}", the number ${came.number} is too large`,
      'The largest number is about 1.8e308.',
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
