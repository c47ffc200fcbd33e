import type { AddressOrder } from './common-words.js';

/** Role of a place in searches: a named place, a street, a house number on it, or a crossing of two streets. */
export type PlaceRole = 'place' | 'street' | 'crossing' | 'address';

export const placeRoles: readonly PlaceRole[] = ['place', 'street', 'crossing', 'address'];

/** An entry of a gazetteer. */
export interface PlaceRecord {
  readonly role: PlaceRole;
  /** Its name as people write it; that of an address is its street. */
  readonly name: string;
  /** House number of an address; empty for all else. */
  readonly number: string;
  /** Other names, by language where one is told, else by an empty text. */
  readonly names: readonly (readonly [language: string, name: string])[];
  /** What it is, in the words of the data, such as `town` or `lane`. */
  readonly kind: string;
  /** What it lies in, such as the town; empty where nothing says it. */
  readonly within: string;
  /** `[longitude, latitude]` in degrees. */
  readonly at: readonly [number, number];
  /** Box `[west, south, east, north]` in degrees of what is more than a point. */
  readonly bounds: readonly [number, number, number, number] | undefined;
  /** Name of the list of features that it came from, and the id or number of the feature in it. */
  readonly list: string;
  readonly id: string | number | undefined;
  /** How much it matters, 0 to 1. */
  readonly weight: number;
}

/** Lines or rings of an entry, as x, y by turns in degrees. */
export interface PlaceOutline {
  readonly area: boolean;
  readonly paths: readonly Float64Array[];
}

/** An entry as gathered, with its outline. */
export interface GatheredPlace extends PlaceRecord {
  readonly outline: PlaceOutline | undefined;
}

/** A name in full: `12 Hawser Yard` or `Seilergasse 12` for an address. */
export const fullName = ({ number, name }: PlaceRecord, order: AddressOrder): string =>
  number ? (order === 'number-last' ? `${name} ${number}` : `${number} ${name}`) : name;

/** The fields of an entry that words are looked up in, from the most telling to the least. */
export const fields = ['name', 'number', 'names', 'within', 'kind'] as const;

export type PlaceField = (typeof fields)[number];

/** Statistics of a gazetteer. */
export interface GazetteerContents {
  readonly title: string;
  readonly count: number;
  readonly roles: Readonly<Record<PlaceRole, number>>;
  readonly kinds: readonly string[];
  readonly lists: readonly string[];
  readonly languages: readonly string[];
  /** Order in which its addresses are written. */
  readonly addressOrder: AddressOrder;
}
