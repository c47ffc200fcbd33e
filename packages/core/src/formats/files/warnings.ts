/** What a reader mended, passed over or holds for wrong. */
export interface FileWarning {
  /** Stable name: `mended.*` for what was put right, `skipped.*` for what was left out, `doubtful.*` for what looks wrong. */
  readonly code: string;
  /** What was found. */
  readonly message: string;
  /** What was done about it, or what to do. */
  readonly hint: string;
  /** How often. */
  readonly count: number;
  /** The first few places: lines, bytes, records or features; of records and rows that have to be corrected, the first fifty, each with its reason. */
  readonly places: readonly string[];
}

const mostPlaces = 5;
/** Places that are kept of what a user has to correct one by one. */
const mostListed = 50;
const listed: readonly string[] = [
  'doubtful.record',
  'skipped.record',
  'doubtful.rows',
  'doubtful.place',
  'doubtful.far',
];

/** Gathers warnings; those of one code are counted together. */
export class WarningList {
  private readonly found = new Map<string, { message: string; hint: string; count: number; places: string[] }>();

  /**
   * Adds a warning.
   *
   * @param code see {@link FileWarning}
   * @param message what was found
   * @param hint what was done, or what to do
   * @param place where; default nowhere in particular
   * @param count how often it was found there; default 1
   */
  add(code: string, message: string, hint: string, place?: string, count = 1): void {
    let entry = this.found.get(code);
    if (!entry) this.found.set(code, (entry = { message, hint, count: 0, places: [] }));
    entry.count += count;
    if (place !== undefined && entry.places.length < (listed.includes(code) ? mostListed : mostPlaces))
      entry.places.push(place);
  }

  /** Tells of measures (M), which no attribute or position keeps. */
  measures(place: string): void {
    this.add(
      'skipped.measure',
      'positions have measures (M)',
      'They were left out; places and heights are kept.',
      place,
    );
  }

  get list(): FileWarning[] {
    return [...this.found].map(([code, warning]) => ({ code, ...warning }));
  }
}
