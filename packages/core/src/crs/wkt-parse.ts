import { malformedCrs } from './crs-definition.js';

/** A node of well-known text: a keyword with texts, numbers, words and further nodes. */
export interface Node {
  readonly word: string;
  readonly values: readonly (string | number)[];
  readonly nodes: readonly Node[];
}

/** Parses well-known text into its tree. */
export function parse(text: string): Node {
  let i = 0;
  const space = () => {
    while (/\s/.test(text[i] ?? '')) i++;
  };
  const node = (depth = 0): Node => {
    // No system is described by more.
    if (depth > 32) throw malformedCrs('it is nested more than 32 deep', `character ${i}`);
    space();
    const word = /^[A-Za-z_][A-Za-z0-9_]*/.exec(text.slice(i, i + 40))?.[0];
    if (!word) throw malformedCrs(`expected a keyword, got "${text.slice(i, i + 12)}"`, `character ${i}`);
    i += word.length;
    space();
    const values: (string | number)[] = [];
    const nodes: Node[] = [];
    if (text[i] !== '[' && text[i] !== '(') return { word: word.toUpperCase(), values, nodes };
    const close = text[i] === '[' ? ']' : ')';
    i++;
    for (;;) {
      space();
      if (text[i] === '"') {
        let said = '';
        for (i++; text[i] !== '"' || text[i + 1] === '"'; i++) {
          if (i >= text.length) throw malformedCrs('a text in quotes has no end', `character ${i}`);
          if (text[i] === '"') i++;
          said += text[i];
        }
        i++;
        values.push(said);
      } else {
        const number = /^[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?/.exec(text.slice(i, i + 40))?.[0];
        if (number) {
          i += number.length;
          values.push(Number(number));
        } else {
          const inner = node(depth + 1);
          if (inner.values.length || inner.nodes.length) nodes.push(inner);
          else values.push(inner.word);
        }
      }
      space();
      if (text[i] === ',') i++;
      else if (text[i] === close) {
        i++;
        return { word: word.toUpperCase(), values, nodes };
      } else
        throw malformedCrs(
          text[i] ? `"${text[i]}" stands where a comma or "${close}" belongs` : 'it is truncated',
          `character ${i}`,
        );
    }
  };
  const root = node();
  space();
  if (i < text.length) throw malformedCrs(`something follows its end: "${text.slice(i, i + 12)}"`, `character ${i}`);
  return root;
}

/** The first node within another that has one of some keywords. */
export const find = (node: Node | undefined, ...words: string[]) =>
  node?.nodes.find(({ word }) => words.includes(word));
