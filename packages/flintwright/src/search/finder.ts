// Room "search": finding places by name: a gazetteer, services, and the control that asks them.

/** What is asked of a finder. */
export interface FindRequest {
  readonly text: string;
  /** `[longitude, latitude]` in degrees: what lies nearer comes first. */
  readonly near: readonly [number, number];
  /** How many answers at most. */
  readonly most: number;
  /** Language of the page, such as `en`. */
  readonly language: string;
  /** Aborts when the answer is no longer wanted. */
  readonly signal: AbortSignal;
}

/** A place that was found. */
export interface FoundPlace {
  readonly name: string;
  /** What it lies in, such as its town; default nothing. */
  readonly within?: string;
  /** What it is, such as `town`; default nothing. */
  readonly kind?: string;
  /** `[longitude, latitude]` in degrees. */
  readonly at: readonly [number, number];
  /** `[west, south, east, north]` in degrees of what is more than a point. */
  readonly bounds?: readonly [number, number, number, number];
  /** Zoom that shows it well; default by what it is. */
  readonly zoom?: number;
  /** Label and value of what else is known, for its popup; default nothing. */
  readonly lines?: Readonly<Record<string, string>>;
}

/** Something that finds places: a gazetteer, a service, or the application's own. */
export interface PlaceFinder {
  /** Milliseconds to wait after a key before asking; default 0. */
  readonly pause?: number;
  /**
   * Finds places.
   *
   * @param request the text, and what narrows the search
   * @returns best first
   * @throws Fault `search.*`, which the control shows
   */
  find(request: FindRequest): Promise<readonly FoundPlace[]>;
  /**
   * Says what lies at a place. A finder without it is not asked.
   *
   * @param at `[longitude, latitude]` in degrees
   * @param request how many, and a signal
   */
  reverse?(at: readonly [number, number], request: Omit<FindRequest, 'text' | 'near'>): Promise<readonly FoundPlace[]>;
}
