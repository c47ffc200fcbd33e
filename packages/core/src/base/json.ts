/** Finds what may be a number that a double does not hold: sixteen digits, or an exponent of three. */
const mayBeLong = /[[:,\s-]\d{16,}\s*[,}\]]|\d[eE]\+?\d{3}/;

/** A string or a number of a JSON text (RFC 8259, sections 6 and 7). */
const token = /"[^"\\]*(?:\\.[^"\\]*)*"|-?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?/gs;

/** Whether a text is a whole number that a double does not hold, such as a long id, or a number beyond its range. */
export const isTooLong = (text: string): boolean => {
  const value = Number(text);
  return !Number.isFinite(value) || (/^-?\d+$/.test(text) && !Number.isSafeInteger(value));
};

/**
 * Parses JSON text as `JSON.parse` does, but for numbers that a double cannot hold: they become strings with the same digits, so that two long
 * ids never become one.
 *
 * @param text a JSON document
 * @throws SyntaxError as `JSON.parse` does
 */
export function parseExactJson(text: string): unknown {
  const value: unknown = JSON.parse(text);
  if (!mayBeLong.test(text)) return value;
  return JSON.parse(text.replace(token, (one) => (one[0] !== '"' && isTooLong(one) ? `"${one}"` : one)));
}
