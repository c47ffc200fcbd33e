// Lists as long as the data: a call takes only some hundred thousand arguments, so that they are never spread into one.

/** The least of some numbers; Infinity of none. */
export function least(values: Iterable<number>): number {
  let out = Infinity;
  for (const value of values) if (value < out) out = value;
  return out;
}

/** The greatest of some numbers; -Infinity of none. */
export function greatest(values: Iterable<number>): number {
  let out = -Infinity;
  for (const value of values) if (value > out) out = value;
  return out;
}

/** Puts the items of one list behind those of another. */
export function append<T>(to: T[], items: Iterable<T>): void {
  for (const item of items) to.push(item);
}
