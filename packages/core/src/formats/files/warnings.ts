/** Something that a reader repaired, left out or considers wrong. */
export interface FileWarning {
  /** Stable name: `mended.*` for repairs, `skipped.*` for what was left out, `doubtful.*` for what looks wrong. */
  readonly code: string;
  /** What was found. */
  readonly message: string;
  /** What was done about it, or what to do. */
  readonly hint: string;
  /** Number of occurrences. */
  readonly count: number;
  /**
   * The first few places: lines, bytes, records or features; for records that have to be corrected, the first fifty, each with its reason.
   */
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

/** Collects warnings; those with the same code are counted together. */
export class WarningList {
  private readonly found = new Map<string, { message: string; hint: string; count: number; places: string[] }>();

  /**
   * Adds a warning.
   *
   * @param code see {@link FileWarning}
   * @param message what was found
   * @param hint what was done, or what to do
   * @param place the place; default none
   * @param count number of occurrences; default 1
   */
  add(code: string, message: string, hint: string, place?: string, count = 1): void {
    let entry = this.found.get(code);
    if (!entry) this.found.set(code, (entry = { message, hint, count: 0, places: [] }));
    entry.count += count;
    if (place !== undefined && entry.places.length < (listed.includes(code) ? mostListed : mostPlaces))
      entry.places.push(place);
  }

  /** Reports measures (M), which neither attributes nor positions keep. */
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
