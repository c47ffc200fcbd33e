import { Fault } from '../base/fault.js';
import { gzip } from '../base/gzip.js';
import { growingBytes, growingCounts } from '../base/growing.js';
import { addressOrderOf, type AddressOrder } from './common-words.js';
import { wordsOf } from './fold.js';
import { gather, type PlaceList } from './gather.js';
import { PackWriter } from './packing.js';
import { fields, placeRoles, type GatheredPlace, type GazetteerContents, type PlaceRole } from './record.js';

/** The first bytes of a gazetteer, and the version of its form. */
export const magic = 'FWPLACES';
export const version = 1;
/** Entries of a page: a search reads a page for each of its candidates, so pages are small. */
const pageEntries = 96;
/** Entries of a page in gazetteers that do not say it. */
export const oldPageEntries = 512;
/** Bytes of word lists that a page holds at least. */
const pageBytes = 24576;
/** Places are kept to this part of a degree: about a centimeter. */
export const perDegree = 1e7;

/** The table of contents of a gazetteer: where each part begins, counted from the end of the table, and how long it is. */
export interface Contents extends GazetteerContents {
  readonly words: number;
  /** Entries of a page; 512 where it is missing. */
  readonly pageEntries?: number;
  /** First word of each page of postings. */
  readonly firstWords: readonly number[];
  readonly parts: {
    readonly words: Part;
    readonly positions: Part;
    readonly outlines: Part;
    readonly postings: readonly Part[];
    readonly entries: readonly Part[];
  };
}

export type Part = readonly [offset: number, length: number];

/** Options of a gazetteer. */
export interface GazetteerOptions {
  /** Order in which addresses are written: `number-first` or `number-last`; default as the names of its streets suggest. */
  readonly addressOrder?: AddressOrder;
}

/** A gazetteer, and statistics of its content. */
export interface BuiltGazetteer {
  readonly bytes: Uint8Array;
  readonly count: number;
  readonly roles: Readonly<Record<PlaceRole, number>>;
  /** Number of features without a name or an address, which were left out. */
  readonly nameless: number;
  /** Number of features with a name but no geometry, which were left out. */
  readonly unplaced: number;
}

/** The place of each text in the order of all of them: numbers are compared many times faster than texts. */
function ranksOf(places: readonly GatheredPlace[], textOf: (place: GatheredPlace) => string): Uint32Array {
  const numbers = new Map<string, number>();
  for (const text of [...new Set(places.map(textOf))].sort()) numbers.set(text, numbers.size);
  return Uint32Array.from(places, (place) => numbers.get(textOf(place))!);
}

/** What matters most first; then what shares its words side by side, which packs well. */
function byWeight(places: readonly GatheredPlace[]): GatheredPlace[] {
  const [role, within, name, number] = (['role', 'within', 'name', 'number'] as const).map((key) =>
    ranksOf(places, (place) => place[key]),
  );
  const weight = Float64Array.from(places, (place) => place.weight);
  const digits = Uint32Array.from(places, (place) => place.number.length);
  const order = Uint32Array.from(places, (_, i) => i).sort(
    (a, b) =>
      weight[b] - weight[a] ||
      role[a] - role[b] ||
      within[a] - within[b] ||
      name[a] - name[b] ||
      digits[a] - digits[b] ||
      number[a] - number[b] ||
      a - b,
  );
  return Array.from(order, (i) => places[i]);
}

/**
 * Builds a gazetteer: a file for searches of names and addresses, as a whole or by range requests.
 *
 * @param lists features in longitude and latitude (degrees), by the names of their lists
 * @param title its subject; default none
 * @param options order of addresses
 * @throws Fault `places.none` if no feature has both a name and a geometry
 */
export function buildGazetteer(
  lists: readonly PlaceList[],
  title = '',
  { addressOrder }: GazetteerOptions = {},
): BuiltGazetteer {
  const { places, nameless, unplaced } = gather(lists);
  if (!places.length) {
    const found = new Set(
      lists.flatMap(({ features }) => features.flatMap(({ properties }) => Object.keys(properties))),
    );
    throw new Fault(
      'places.none',
      'no feature has both a name and a place',
      `Names are read from attributes such as "name" or "title", addresses from "street" and "number"; attributes found: ${[...found].slice(0, 40).join(', ') || 'none'}.`,
    );
  }
  const sorted = byWeight(places);
  const unique = (values: Iterable<string>) => [...new Set(values)].sort();
  const kinds = unique(sorted.map(({ kind }) => kind));
  const names = unique(sorted.map(({ list }) => list));
  const spoken = new Set<string>();
  for (const { names: own } of sorted) for (const [language] of own) if (language) spoken.add(language);
  const languages = unique(spoken);
  const roles = Object.fromEntries(placeRoles.map((role) => [role, 0])) as Record<PlaceRole, number>;
  for (const { role } of sorted) roles[role]++;
  const packed: Uint8Array[] = [];
  let offset = 0;
  const part = (bytes: Uint8Array): Part => {
    const small = gzip(bytes);
    packed.push(small);
    offset += small.length;
    return [offset - small.length, small.length];
  };
  const { words, postings, firstWords } = wordPages(sorted);
  const order = addressOrder ?? addressOrderOf(streetNames(sorted));
  const description = { title, count: sorted.length, roles, kinds, lists: names, languages, addressOrder: order };
  const head = { ...description, words: words.count, firstWords, pageEntries };
  const contents: Contents = {
    ...head,
    parts: {
      words: part(words.bytes),
      positions: part(positionsOf(sorted)),
      outlines: part(outlinesOf(sorted)),
      postings: postings.map(part),
      entries: Array.from({ length: Math.ceil(sorted.length / pageEntries) }, (_, page) =>
        part(entriesOf(sorted.slice(page * pageEntries, (page + 1) * pageEntries), kinds, names)),
      ),
    },
  };
  const table = gzip(new TextEncoder().encode(JSON.stringify(contents)));
  const out = new Uint8Array(13 + table.length + offset);
  out.set(new TextEncoder().encode(magic));
  out[8] = version;
  new DataView(out.buffer).setUint32(9, table.length, true);
  out.set(table, 13);
  let at = 13 + table.length;
  for (const bytes of packed) {
    out.set(bytes, at);
    at += bytes.length;
  }
  return { bytes: out, count: sorted.length, roles, nameless, unplaced };
}

function streetNames(places: readonly GatheredPlace[]): Set<string> {
  const names = new Set<string>();
  for (const { role, name } of places) if (role === 'address' || role === 'street') names.add(name);
  return names;
}

/** Words of texts by numbers, each text taken apart once. */
class WordBook {
  readonly ids = new Map<string, number>();
  private readonly known = new Map<string, Uint32Array>();

  of(text: string): Uint32Array {
    let words = this.known.get(text);
    if (words) return words;
    words = Uint32Array.from(wordsOf(text), (word) => {
      let id = this.ids.get(word);
      if (id === undefined) this.ids.set(word, (id = this.ids.size));
      return id;
    });
    // Names of which each is another are not worth keeping.
    if (this.known.size > 1 << 17) this.known.clear();
    this.known.set(text, words);
    return words;
  }
}

/** Every word of every entry, in the order of the entries, each with the most telling field that it is in. */
function wordsOfAll(places: readonly GatheredPlace[]): {
  readonly book: WordBook;
  readonly words: Uint32Array;
  readonly fieldsOf: Uint8Array;
  /** Where the words of each entry begin. */
  readonly starts: Uint32Array;
} {
  const book = new WordBook();
  const [words, fieldsOf] = [growingCounts(1 << 12), growingBytes(1 << 12)];
  const starts = new Uint32Array(places.length + 1);
  const add = (text: string, field: number, start: number) => {
    for (const id of book.of(text)) {
      let k = start;
      while (k < words.length && words.data[k] !== id) k++;
      if (k < words.length) continue;
      words.push(id);
      fieldsOf.push(field);
    }
  };
  places.forEach((place, i) => {
    const start = words.length;
    starts[i] = start;
    add(place.name, 0, start);
    if (place.number) add(place.number, 1, start);
    for (const [, name] of place.names) add(name, 2, start);
    if (place.within) add(place.within, 3, start);
    if (place.role === 'place') add(place.kind, 4, start);
  });
  starts[places.length] = words.length;
  return { book, words: words.data, fieldsOf: fieldsOf.data, starts };
}

/** All words in order, sharing beginnings with the one before, and for each the entries that have it. */
function wordPages(places: readonly GatheredPlace[]): {
  words: { count: number; bytes: Uint8Array };
  postings: Uint8Array[];
  firstWords: number[];
} {
  const { book, words: all, fieldsOf, starts } = wordsOfAll(places);
  const sorted = [...book.ids.keys()].sort();
  const rank = new Uint32Array(sorted.length);
  sorted.forEach((word, w) => (rank[book.ids.get(word)!] = w));
  // Entries by word, in their order: counted, then laid out behind each other.
  const total = starts[places.length];
  const begins = new Uint32Array(sorted.length + 1);
  for (let k = 0; k < total; k++) begins[rank[all[k]] + 1]++;
  for (let w = 0; w < sorted.length; w++) begins[w + 1] += begins[w];
  const [entries, itsFields] = [new Uint32Array(total), new Uint8Array(total)];
  const next = begins.slice();
  for (let i = 0; i < places.length; i++)
    for (let k = starts[i]; k < starts[i + 1]; k++) {
      const at = next[rank[all[k]]]++;
      entries[at] = i;
      itsFields[at] = fieldsOf[k];
    }
  const words = new PackWriter();
  const postings: Uint8Array[] = [];
  const firstWords: number[] = [];
  let page = new PackWriter();
  let before = '';
  sorted.forEach((word, w) => {
    let shared = 0;
    while (shared < before.length && before[shared] === word[shared]) shared++;
    words.count(shared);
    words.text(word.slice(shared));
    before = word;
    if (!page.length) firstWords.push(w);
    const from = page.length;
    let last = 0;
    for (let k = begins[w]; k < begins[w + 1]; k++) {
      page.count((entries[k] - last) * fields.length + itsFields[k]);
      last = entries[k];
    }
    words.count(begins[w + 1] - begins[w]);
    words.count(page.length - from);
    if (page.length >= pageBytes || w === sorted.length - 1) {
      postings.push(page.finish());
      page = new PackWriter();
    }
  });
  return { words: { count: sorted.length, bytes: words.finish() }, postings, firstWords };
}

function positionsOf(places: readonly GatheredPlace[]): Uint8Array {
  const out = new PackWriter();
  for (const axis of [0, 1]) {
    let last = 0;
    for (const { at } of places) {
      const value = Math.round(at[axis] * perDegree);
      out.signed(value - last);
      last = value;
    }
  }
  for (const { weight } of places) out.count(Math.round(weight * 100));
  return out.finish();
}

/** Vertices of outlines are kept to a tenth of a meter. */
export const outlinePerDegree = 1e6;

function outlinesOf(places: readonly GatheredPlace[]): Uint8Array {
  const out = new PackWriter();
  let before = 0;
  places.forEach(({ outline, at }, i) => {
    if (!outline) return;
    out.count(i - before);
    before = i;
    out.count(outline.paths.length * 2 + (outline.area ? 1 : 0));
    let [x, y] = at.map((v) => Math.round(v * outlinePerDegree));
    for (const path of outline.paths) {
      out.count(path.length >> 1);
      for (let k = 0; k < path.length; k += 2) {
        const [nx, ny] = [Math.round(path[k] * outlinePerDegree), Math.round(path[k + 1] * outlinePerDegree)];
        out.signed(nx - x);
        out.signed(ny - y);
        [x, y] = [nx, ny];
      }
    }
  });
  return out.finish();
}

/** A page of entries, column by column. */
function entriesOf(places: readonly GatheredPlace[], kinds: readonly string[], lists: readonly string[]): Uint8Array {
  const out = new PackWriter();
  out.count(places.length);
  for (const { role } of places) out.count(placeRoles.indexOf(role));
  for (const { kind } of places) out.count(kinds.indexOf(kind));
  for (const { list } of places) out.count(lists.indexOf(list));
  for (const { name } of places) out.text(name);
  for (const { number } of places) out.text(number);
  for (const { within } of places) out.text(within);
  for (const { names } of places) {
    out.count(names.length);
    for (const [language, name] of names) {
      out.text(language);
      out.text(name);
    }
  }
  for (const { id } of places) {
    const form = id === undefined ? 0 : typeof id === 'string' ? 1 : Number.isSafeInteger(id) && id >= 0 ? 2 : 3;
    out.count(form);
    if (form === 2) out.count(id as number);
    else if (form) out.text(String(id));
  }
  for (const { bounds, at } of places) {
    out.count(bounds ? 1 : 0);
    if (bounds) bounds.forEach((value, k) => out.count(Math.round(Math.abs(value - at[k % 2]) * outlinePerDegree)));
  }
  return out.finish();
}
