// Room "search": finding places by name: a gazetteer, services, and the control that asks them.

/** A request to a finder. */
export interface FindRequest {
  readonly text: string;
  /** `[longitude, latitude]` in degrees; nearer places come first. */
  readonly near: readonly [number, number];
  /** Maximum number of results. */
  readonly most: number;
  /** Language of the page, such as `en`. */
  readonly language: string;
  /** Aborts when the result is no longer needed. */
  readonly signal: AbortSignal;
}

/** A place, as found by a search. */
export interface FoundPlace {
  readonly name: string;
  /** What contains the place, such as its town; default nothing. */
  readonly within?: string;
  /** Kind of the place, such as `town`; default nothing. */
  readonly kind?: string;
  /** `[longitude, latitude]` in degrees. */
  readonly at: readonly [number, number];
  /** `[west, south, east, north]` in degrees of a place with an extent. */
  readonly bounds?: readonly [number, number, number, number];
  /** Zoom that shows the place; default by its kind. */
  readonly zoom?: number;
  /** Label and value pairs for its popup; default none. */
  readonly lines?: Readonly<Record<string, string>>;
}

/** A source of places: a gazetteer, a service, or an object of the application. */
export interface PlaceFinder {
  /** Milliseconds to wait after a keystroke before a request; default 0. */
  readonly pause?: number;
  /**
   * Finds places by text.
   *
   * @param request the text, and what narrows the search
   * @returns best first
   * @throws Fault `search.*`, which the search box shows
   */
  find(request: FindRequest): Promise<readonly FoundPlace[]>;
  /**
   * Finds what is at a position. Finders without this method are not asked.
   *
   * @param at `[longitude, latitude]` in degrees
   * @param request maximum number of results, and a signal
   */
  reverse?(at: readonly [number, number], request: Omit<FindRequest, 'text' | 'near'>): Promise<readonly FoundPlace[]>;
}
