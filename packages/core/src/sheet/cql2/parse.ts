import { Fault } from '../../base/fault.js';
import { parse, SyntaxError as GrammarError } from './grammar.js';

/** An expression in the JSON encoding of CQL2 (OGC 21-065r2, clause 9). */
export type Expression =
  | string
  | number
  | boolean
  | { readonly property: string }
  | { readonly date: string }
  | { readonly timestamp: string }
  | { readonly op: string; readonly args: readonly (Expression | readonly Expression[])[] };

/**
 * Reads CQL2 text.
 *
 * @throws Fault `cql2.syntax` with line and column, and what was expected there
 */
export function parseCql2(text: string): Expression {
  try {
    return parse(text) as Expression;
  } catch (error) {
    if (!(error instanceof GrammarError)) throw error;
    const { line, column } = error.location.start;
    const wanted = [
      ...new Set(
        (error.expected ?? [])
          .filter((e) => e.type !== 'end')
          .map((e) => ('description' in e ? e.description : 'text' in e ? `"${e.text}"` : 'more')),
      ),
    ].filter((what) => what !== 'white space');
    const came = error.found === null || error.found === undefined ? 'the expression ends' : `"${error.found}" stands`;
    const mend = text.includes('==')
      ? 'Equality is written with one = in CQL2.'
      : text.includes('!=')
        ? 'Inequality is written <> in CQL2.'
        : text.includes('&&')
          ? 'Write AND.'
          : text.includes('||')
            ? 'Write OR.'
            : "Texts go in single quotes ('pier'), attribute names in none or in double quotes.";
    throw new Fault(
      'cql2.syntax',
      `in "${text}", ${came} where ${wanted.length ? wanted.join(' or ') : 'the end'} is expected`,
      mend,
      `${line}:${column}`,
      error,
    );
  }
}
