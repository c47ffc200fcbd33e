/** A stretch of time in milliseconds since 1970-01-01T00:00:00Z; an instant begins where it ends. */
export interface Span {
  readonly from: number;
  readonly to: number;
}

const form = /^\d{4}-\d\d(-\d\d(T\d\d:\d\d(:\d\d(\.\d+)?)?(Z|[+-]\d\d:\d\d)?)?)?$/;

/** The instant that a value of an attribute stands for (ISO 8601 text), in milliseconds; undefined for anything else. */
export function instantOf(value: unknown): number | undefined {
  if (typeof value !== 'string' || !form.test(value)) return undefined;
  // A time without a zone is taken as UTC, so that a map looks the same everywhere.
  const time = Date.parse(/T/.test(value) && !/(Z|[+-]\d\d:\d\d)$/.test(value) ? `${value}Z` : value);
  return Number.isNaN(time) ? undefined : time;
}

export function spanOf(value: unknown): Span | undefined {
  if (typeof value === 'object' && value !== null && 'from' in value) return value as Span;
  const at = instantOf(value);
  return at === undefined ? undefined : { from: at, to: at };
}

/**
 * The temporal predicates of CQL2 (OGC 21-065r2, clause 7.7.3, after Allen 1983), by their names in the JSON encoding.
 */
export const temporalTests: Readonly<Record<string, (a: Span, b: Span) => boolean>> = {
  t_after: (a, b) => a.from > b.to,
  t_before: (a, b) => a.to < b.from,
  t_contains: (a, b) => a.from < b.from && a.to > b.to,
  t_disjoint: (a, b) => a.from > b.to || a.to < b.from,
  t_during: (a, b) => a.from > b.from && a.to < b.to,
  t_equals: (a, b) => a.from === b.from && a.to === b.to,
  t_finishedBy: (a, b) => a.from < b.from && a.to === b.to,
  t_finishes: (a, b) => a.from > b.from && a.to === b.to,
  t_intersects: (a, b) => a.from <= b.to && a.to >= b.from,
  t_meets: (a, b) => a.to === b.from,
  t_metBy: (a, b) => a.from === b.to,
  t_overlappedBy: (a, b) => a.from > b.from && a.from < b.to && a.to > b.to,
  t_overlaps: (a, b) => a.from < b.from && a.to > b.from && a.to < b.to,
  t_startedBy: (a, b) => a.from === b.from && a.to > b.to,
  t_starts: (a, b) => a.from === b.from && a.to < b.to,
};
