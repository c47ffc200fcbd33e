import { Fault } from '../base/fault.js';
import { describeValue } from '../base/describe-value.js';
import { nearestSpelling } from '../base/spelling.js';
import { geodesicLength } from '../crs/measure.js';
import { errorsAllowed, foldText, wordsOf } from './fold.js';
import { findEntries } from './find-entries.js';
import { respaced } from './respaced.js';
import { NearIndex, roughMetres } from './near.js';
import { isCommon } from './common-words.js';
import { bestStreets, nearestNumbers, numberedQuery, streetKey } from './house-numbers.js';
import {
  isCandidate,
  readQuery,
  scoreOf,
  type QueryWord,
  type Scored,
  type WordFound,
  type WordMeaning,
} from './score.js';
import { fullName, placeRoles, type GazetteerContents, type PlaceRecord, type PlaceRole } from './record.js';
import { PlaceStore, sourceOfBytes, type PlaceSource } from './store.js';

/** Options of a search. */
export interface FindOptions {
  /** Maximum number of results; default 10. */
  readonly most?: number;
  /** `[longitude, latitude]` in degrees; nearer places rank higher. Default none. */
  readonly near?: readonly [number, number];
  /** `[west, south, east, north]` in degrees; only places within. Default everywhere. */
  readonly bounds?: readonly [number, number, number, number];
  /** Kinds, such as `town`, or roles: `place`, `street`, `crossing`, `address`. Default all. */
  readonly kinds?: readonly string[];
  /** Language of the names to show, such as `de`; default the first name in the data. */
  readonly language?: string;
  /** Whether the last word may be a prefix, as while typing; default true. */
  readonly typing?: boolean;
}

/** A structured search. Omitted fields are ignored. */
export interface FindFields {
  readonly name?: string;
  readonly street?: string;
  readonly number?: string;
  readonly within?: string;
}

/** A result of a search. */
export interface Candidate {
  /** Full name, in the address order of the gazetteer: `12 Hawser Yard`, or `Seilergasse 12`. */
  readonly name: string;
  /** Street and house number of an address; otherwise empty. */
  readonly street: string;
  readonly number: string;
  /** What contains it; empty if unknown. */
  readonly within: string;
  readonly role: PlaceRole;
  readonly kind: string;
  /** `[longitude, latitude]` in degrees. */
  readonly at: readonly [number, number];
  /** `[west, south, east, north]` in degrees of a place with an extent. */
  readonly bounds: readonly [number, number, number, number] | undefined;
  /** Score, 0 to 1. */
  readonly score: number;
  /** How each word of the query was matched. */
  readonly why: readonly WordFound[];
  /** Distance in meters from the requested position, on the ellipsoid of WGS 84; undefined without one. */
  readonly distance: number | undefined;
  /** Name of its list, and its id in the list. */
  readonly list: string;
  readonly id: string | number | undefined;
}

/** Options of a reverse search. */
export interface ReverseOptions {
  /** Maximum number of results; default 5. */
  readonly most?: number;
  /** Maximum distance in meters; default 1000. */
  readonly within?: number;
  readonly kinds?: readonly string[];
  readonly language?: string;
}

/** Looks for the words of a query, with typing errors or not, near a place, among so many entries. */
type Look = (
  query: readonly QueryWord[],
  how?: {
    readonly erring?: boolean;
    readonly place?: readonly [number, number] | undefined;
    readonly many?: number;
    /** Which entries are looked at; default all. */
    readonly only?: (record: PlaceRecord) => boolean;
  },
) => Promise<{ readonly found: readonly Scored[]; readonly meanings: readonly WordMeaning[] }>;

/** Addresses of one street that are looked at. */
const mostOnStreet = 1500;
/** Candidates that are looked at closely. */
const shortlist = 120;
/** Candidates that score less than this share of the best are left out. */
const faintest = 0.4;

/** An index of names and addresses, for searches by text, by fields, and by position. */
export class Gazetteer {
  private near: Promise<NearIndex> | undefined;

  private constructor(private readonly store: PlaceStore) {}

  /**
   * Opens a gazetteer. Words and positions are read at once, the rest on demand.
   *
   * @param source the whole file, or a source of its bytes
   * @throws Fault `places.form`, `places.version` or `places.damaged`
   */
  static async open(source: PlaceSource | Uint8Array): Promise<Gazetteer> {
    const isSource = typeof (source as PlaceSource | undefined)?.read === 'function';
    return new Gazetteer(
      await PlaceStore.open(isSource ? (source as PlaceSource) : sourceOfBytes(source as Uint8Array)),
    );
  }

  /** Statistics of its content. */
  get contents(): GazetteerContents {
    const { title, count, roles, kinds, lists, languages, addressOrder } = this.store.contents;
    return { title, count, roles, kinds, lists, languages, addressOrder };
  }

  /**
   * Searches by one line of text: a name, an address, or a crossing such as `Hawser Yard and Rope Row`. Words may be in any order, contain
   * typing errors, and lack accents.
   *
   * @param text the text, complete or not
   * @param options what narrows the search
   * @returns best first
   * @throws Fault `places.kind`, `places.query` or `places.damaged`
   */
  async find(text: string, options: FindOptions = {}): Promise<Candidate[]> {
    if (typeof text !== 'string')
      throw new Fault('places.query', `${describeValue(text)} is not a text`, 'Write what to search for.');
    const { words, crossing } = readQuery(text, options.typing ?? true);
    return this.search(words, crossing, options);
  }

  /**
   * Searches by fields.
   *
   * @param query texts of single fields
   * @param options what narrows the search
   */
  findFields({ name, street, number, within }: FindFields, options: FindOptions = {}): Promise<Candidate[]> {
    const of = (text: string | undefined, field: QueryWord['field']): QueryWord[] =>
      wordsOf(text ?? '').map((word) => ({ text: word, typing: false, field, link: false }));
    return this.search(
      [...of(number, 'number'), ...of(name ?? street, 'name'), ...of(within, 'within')],
      false,
      options,
    );
  }

  private async search(words: readonly QueryWord[], crossing: boolean, options: FindOptions): Promise<Candidate[]> {
    const { most = 10, near, bounds } = options;
    const wanted = this.kindTest(options.kinds);
    if (!words.length) return [];
    const inside = bounds && ((entry: number) => holds(bounds, this.store.lon(entry), this.store.lat(entry)));
    const look: Look = async (query, { erring = false, place = near, many = shortlist, only } = {}) => {
      const narrowed = { erring, inside, crossing, shortlist: many, near: place };
      const { entries, meanings } = await findEntries(this.store, query, narrowed);
      const found: Scored[] = [];
      for (const entry of entries) {
        const record = this.store.loaded(entry) ?? (await this.store.entry(entry));
        if (only && !only(record)) continue;
        const distance = near && roughMetres(near, record.at);
        const { score, why } = scoreOf(record, query, meanings, { crossing, distance });
        if (score > 0.2 && isCandidate(record, query, why, this.isCommon)) found.push({ entry, record, score, why });
      }
      return { found, meanings };
    };
    const best = new Map<number, Scored>();
    const merge = ({ found }: { readonly found: readonly Scored[] }) => {
      for (const one of found) if (one.score > (best.get(one.entry)?.score ?? 0)) best.set(one.entry, one);
      return [...best.values()].toSorted((a, b) => b.score - a.score);
    };
    // A word that no entry begins with has a typing error, so that looking without any would only bring what is common.
    const isUnknown = ({ text, typing }: QueryWord) =>
      errorsAllowed(text) > 0 && !this.store.words.match(text, typing, 1).length;
    const unknown = words.some(isUnknown);
    let ranked = unknown ? [] : merge(await look(words));
    // Typing errors are looked for only where the best lacks a word that may hold one.
    const lacks = ({ text, link }: QueryWord) =>
      !(link && crossing) && !(ranked[0]?.why.some(({ query }) => query === text) ?? false);
    const erring = unknown || words.some((word) => errorsAllowed(word.text) > 0 && lacks(word));
    if (erring) {
      ranked = merge(await look(words, { erring }));
      for (const other of respaced(words, this.store.words)) ranked = merge(await look(other));
    }
    if (!crossing) ranked = await this.byStreet(words, ranked, erring, look);
    const shown: Candidate[] = [];
    const least = faintest * Math.max(0, ...ranked.map(({ score }) => score));
    for (const { record, score, why } of ranked) {
      if (shown.length >= most) break;
      if (score < least || !wanted(record)) continue;
      const one = this.candidateOf(record, { score, why, distance: undefined }, options.language);
      if (!shown.some((other) => isSame(one, other))) shown.push(one);
    }
    return near ? shown.map((one) => ({ ...one, distance: geodesicLength(near, one.at) })) : shown;
  }

  private readonly foldedNames = new Map<string, string>();

  /** A name folded; addresses of one street ask for it again and again. */
  private foldedName(name: string): string {
    let folded = this.foldedNames.get(name);
    if (folded !== undefined) return folded;
    if (this.foldedNames.size > 10_000) this.foldedNames.clear();
    this.foldedNames.set(name, (folded = foldText(name)));
    return folded;
  }

  /** Whether a word of the gazetteer alone makes no candidate. */
  private readonly isCommon = (word: string): boolean => {
    const { words, count } = this.store;
    const known = words.find(word);
    return isCommon(word, known === undefined ? 0 : words.counts[known], count);
  };

  /**
   * Has the street of an address decide: its house number comes first, or where it has none such, the street and the numbers nearest to it.
   * Addresses on other streets are left out.
   */
  private async byStreet(
    words: readonly QueryWord[],
    ranked: readonly Scored[],
    erring: boolean,
    look: Look,
  ): Promise<Scored[]> {
    const query = numberedQuery(words);
    if (!query) return [...ranked];
    const { found, meanings } = await look(query.street, { erring });
    const records = [...found, ...ranked].map(({ record }) => record);
    const streets = bestStreets(records, query.street, meanings);
    const [top] = ranked;
    if (!streets.length || (top?.record.role === 'place' && top.score > streets[0].score)) return [...ranked];
    const first: Scored[] = [];
    const offered: Scored[] = [];
    for (const street of streets) {
      const of = (text: string, field: QueryWord['field']) =>
        wordsOf(text).map((word): QueryWord => ({ text: word, typing: false, field, link: false }));
      const name = of(street.name, 'name');
      const folded = foldText(street.name);
      const { found: addresses } = await look([...name, ...of(street.within, 'within')], {
        place: street.at,
        many: mostOnStreet,
        only: (record) =>
          record.role === 'address' &&
          record.within === street.within &&
          (record.name === street.name || this.foldedName(record.name) === folded),
      });
      const { exact, addresses: nearest } = nearestNumbers(addresses, query.number);
      const known = (one: Scored) => ranked.find(({ entry }) => entry === one.entry) ?? one;
      const own = found.filter(({ record }) => record.role === 'street' && streetKey(record) === streetKey(street));
      if (exact) {
        first.push(...nearest.map(known));
        offered.push(...own.map(known));
        continue;
      }
      // Where the number is not there, the street itself answers better than its neighbors.
      const { why } = street;
      const as = (share: number) => ({ score: Math.round(share * street.score * 1e4) / 1e4, why });
      offered.push(...own.map((one) => ({ ...one, ...as(0.8) })));
      offered.push(...nearest.map((one, i) => ({ ...one, ...as(0.75 - 0.01 * i) })));
    }
    const others = ranked.filter(({ record }) => record.role !== 'address');
    const seen = new Set<number>();
    let ceiling = 1;
    return [...first.toSorted((a, b) => b.score - a.score), ...offered, ...others].flatMap((one) => {
      if (seen.has(one.entry)) return [];
      seen.add(one.entry);
      ceiling = Math.min(ceiling, one.score);
      return [{ ...one, score: ceiling }];
    });
  }

  /**
   * Finds what is at or near a position: areas that contain it, then by distance.
   *
   * @param place `[longitude, latitude]` in degrees
   * @param options distance and kinds
   * @throws Fault `places.query`, `places.kind` or `places.damaged`
   */
  async reverse(place: readonly [number, number], options: ReverseOptions = {}): Promise<Candidate[]> {
    const { most = 5, within = 1000, language } = options;
    const [lon, lat] = Array.isArray(place) ? (place as readonly unknown[]) : [];
    if (typeof lon !== 'number' || typeof lat !== 'number' || !(Math.abs(lat) <= 90) || !(Math.abs(lon) <= 540))
      throw new Fault(
        'places.query',
        `${describeValue(place)} is not [longitude, latitude] in degrees`,
        Math.abs(Number(lat)) > 90 && Math.abs(Number(lon)) <= 90
          ? 'Longitude comes first.'
          : 'Longitude from -180 to 180 comes first, then latitude from -90 to 90.',
      );
    const wanted = this.kindTest(options.kinds);
    this.near ??= NearIndex.make(this.store);
    const found: Candidate[] = [];
    for (const { entry, at, distance } of (await this.near).search(
      lon,
      lat,
      within,
      options.kinds ? Infinity : 2 * most + 8,
    )) {
      const record = await this.store.entry(entry);
      if (!wanted(record)) continue;
      const score = 1 / (1 + distance / 50);
      found.push({ ...this.candidateOf(record, { score, why: [], distance }, language), at });
      if (found.length >= most) break;
    }
    return found;
  }

  private candidateOf(
    record: PlaceRecord,
    more: Pick<Candidate, 'score' | 'why' | 'distance'>,
    language: string | undefined,
  ): Candidate {
    const { role, kind, within, at, bounds, list, id } = record;
    const named = language && record.names.find(([one]) => one === language)?.[1];
    const name = fullName({ ...record, name: named || record.name }, this.store.contents.addressOrder);
    const street = role === 'address' ? named || record.name : '';
    return { name, street, number: record.number, within, role, kind, at, bounds, ...more, list, id };
  }

  private kindTest(kinds: readonly string[] | undefined): (record: PlaceRecord) => boolean {
    if (kinds === undefined) return () => true;
    const known = [...placeRoles, ...this.store.contents.kinds];
    for (const kind of kinds)
      if (!known.includes(kind)) {
        const near = nearestSpelling(kind, known);
        throw new Fault(
          'places.kind',
          `no place has the kind ${describeValue(kind)}`,
          near ? `Did you mean "${near}"?` : `Kinds: ${known.filter(Boolean).join(', ')}.`,
        );
      }
    return ({ role, kind }) => kinds.includes(role) || kinds.includes(kind);
  }
}

/** Whether two candidates read alike and lie within a kilometer of each other. */
const isSame = (a: Candidate, b: Candidate) =>
  a.name === b.name && a.kind === b.kind && a.within === b.within && roughMetres(a.at, b.at) < 1000;

const holds = ([west, south, east, north]: readonly [number, number, number, number], lon: number, lat: number) =>
  lat >= south && lat <= north && (west <= east ? lon >= west && lon <= east : lon >= west || lon <= east);
