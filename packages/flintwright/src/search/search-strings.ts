/** The texts of a search box. */
export interface SearchStrings {
  readonly label: string;
  readonly clear: string;
  readonly results: string;
  readonly recent: string;
  readonly searching: string;
  readonly nothing: (text: string) => string;
  readonly count: (count: number) => string;
  readonly coordinates: string;
  readonly here: string;
  readonly nothingHere: string;
  /** Names of kinds of places, by the value in the data; default that value, without characters such as `_`. */
  readonly kinds: Readonly<Record<string, string>>;
}

export const englishSearch: SearchStrings = {
  label: 'Search for a place or an address',
  clear: 'Clear search',
  results: 'Search results',
  recent: 'recent',
  searching: 'Searching …',
  nothing: (text) => `No results for “${text}”. Try fewer words.`,
  count: (count) => `${count} place${count === 1 ? '' : 's'} found`,
  coordinates: 'coordinates',
  here: 'At this location',
  nothingHere: 'No named places nearby.',
  kinds: {},
};
