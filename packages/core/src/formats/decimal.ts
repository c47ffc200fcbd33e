/**
 * A number in decimal notation without an exponent, as XML Schema has `xs:decimal` (part 2, section 3.2.3), with all the digits that tell
 * it from its neighbors.
 */
export function decimalText(value: number): string {
  const text = String(value);
  const [, sign, whole, part = '', power] = /^(-?)(\d+)(?:\.(\d+))?e([+-]\d+)$/.exec(text) ?? [];
  if (power === undefined) return text;
  const digits = whole + part;
  // Where the point stands among the digits; before the first where it is negative.
  const point = whole.length + Number(power);
  if (point <= 0) return `${sign}0.${'0'.repeat(-point)}${digits}`;
  return `${sign}${digits.slice(0, point).padEnd(point, '0')}${digits.length > point ? `.${digits.slice(point)}` : ''}`;
}
