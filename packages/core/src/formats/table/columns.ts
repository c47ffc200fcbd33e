// What the readers of tables know of columns.

/** Names of columns that hold degrees of longitude, in lower case: those that the fast readers take. */
export const longitudes = ['lon', 'lng', 'long', 'longitude', 'x'];
/** Names of columns that hold degrees of latitude, in lower case. */
export const latitudes = ['lat', 'latitude', 'y'];

/** A number with a decimal point; one with a leading zero or plus, as in `007`, is a text. */
export const withPoint = /^-?((0|[1-9]\d*)(\.\d+)?|\.\d+)([eE][-+]?\d+)?$/;
/** A number with a decimal comma. */
export const withComma = /^-?((0|[1-9]\d*)(,\d+)?|,\d+)([eE][-+]?\d+)?$/;

/** A number with separators of thousands, by the sign that separates them, and its decimal sign. */
export interface Grouping {
  readonly pattern: RegExp;
  /** A number of the same style without separators. */
  readonly plain: RegExp;
  toNumber(cell: string): number;
}

const grouping = (sign: string, decimal: string): Grouping => ({
  pattern: new RegExp(`^-?[1-9]\\d{0,2}(?:[${sign}]\\d{3})+(?:[${decimal}]\\d+)?$`),
  plain: new RegExp(`^-?(?:0|[1-9]\\d*)(?:[${decimal}]\\d+)?$`),
  toNumber: (cell) => Number(cell.replace(new RegExp(`[${sign}]`, 'g'), '').replace(/,/, '.')),
});

/** Separators of thousands that are common: blank (also those that do not break a line), apostrophe, point, comma. */
export const groupings: readonly Grouping[] = [
  grouping(' \u00a0\u202f', '.,'),
  grouping("'’", '.,'),
  grouping('.', ','),
  grouping(',', '.'),
];
