import { Fault } from '../../base/fault.js';
import { parseExactJson } from '../../base/json.js';

/** Deepest nesting of a JSON document. */
const deepest = 512;

/**
 * Parses JSON text; numbers that a double cannot hold become strings with the same digits.
 *
 * @param text the whole document
 * @param at where it stands, for messages; default its beginning
 * @throws Fault `json.syntax` with line and column, `json.depth`
 */
export function parseJson(text: string, at?: string): unknown {
  assertShallow(text, at);
  try {
    return parseExactJson(text);
  } catch (error) {
    const { message } = error as Error;
    const offset = Number(/position (\d+)/.exec(message)?.[1] ?? NaN);
    const before = Number.isNaN(offset) ? undefined : text.slice(0, offset).split('\n');
    const place = before && `line ${before.length}, column ${before[before.length - 1].length + 1}`;
    throw new Fault(
      'json.syntax',
      `the text is not JSON: ${message}`,
      text.trimStart().startsWith('<')
        ? 'It begins like HTML or XML; the address may be wrong.'
        : 'It may be truncated; write or fetch it again.',
      [at, place].filter(Boolean).join(', ') || undefined,
      error,
    );
  }
}

/** Counts brackets outside of texts, so that a document of thousands of levels is refused before it is parsed. */
function assertShallow(text: string, at?: string): void {
  let depth = 0;
  let quoted = false;
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i);
    if (quoted) {
      if (c === 92) i++;
      else if (c === 34) quoted = false;
    } else if (c === 34) quoted = true;
    else if (c === 91 || c === 123) {
      if (++depth > deepest)
        throw new Fault(
          'json.depth',
          `the document is nested more than ${deepest} deep`,
          'No format that is read here needs that; the file may be damaged.',
          [at, `character ${i + 1}`].filter(Boolean).join(', '),
        );
    } else if (c === 93 || c === 125) depth--;
  }
}
