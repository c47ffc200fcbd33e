import { Fault } from '../base/fault.js';
import { gunzip } from '../base/gzip.js';
import { describeValue } from '../base/describe-value.js';
import { cutShort, PackReader } from './packing.js';
import { fields, placeRoles, type PlaceOutline, type PlaceRecord } from './record.js';
import { Words } from './words.js';
import { magic, oldPageEntries, outlinePerDegree, perDegree, version, type Contents, type Part } from './write.js';

/** Source of the bytes of a gazetteer: a file in memory, on disk, or on a server that supports range requests. */
export interface PlaceSource {
  /** Reads up to `length` bytes from `offset`; fewer only where the source ends. */
  read(offset: number, length: number): Promise<Uint8Array>;
}

/** The parts of a gazetteer, fetched and unpacked when they are first asked for. */
export class PlaceStore {
  /** Lists of common words, as nearly every query has one. */
  private readonly common = new Map<number, Uint32Array>();
  private readonly records: PlaceRecord[] = [];
  private readonly entryPages = new Map<number, Promise<void>>();
  private readonly postingPages = new Map<number, Promise<Uint8Array>>();
  private outlinesRead: Promise<Map<number, PlaceOutline>> | undefined;

  private constructor(
    private readonly source: PlaceSource,
    private readonly from: number,
    readonly contents: Contents,
    readonly words: Words,
    /** Longitudes, then latitudes, in ten-millionths of a degree. */
    private readonly positions: Int32Array,
    readonly weights: Float32Array,
  ) {}

  /** @throws Fault `places.form`, `places.version` or `places.damaged` */
  static async open(source: PlaceSource): Promise<PlaceStore> {
    const head = await source.read(0, 13);
    if (new TextDecoder().decode(head.subarray(0, 8)) !== magic)
      throw new Fault(
        'places.form',
        head.length ? 'the bytes are not a gazetteer' : 'the gazetteer is empty',
        'Make one with flintwright convert FEATURES… -o NAME.gazetteer.',
      );
    if (head[8] !== version)
      throw new Fault(
        'places.version',
        `the gazetteer has version ${head[8]}; version ${version} is read here`,
        'Make it again with the flintwright convert of this version.',
      );
    if (head.length < 13) throw cutShort();
    const length = new DataView(head.buffer, head.byteOffset).getUint32(9, true);
    const from = 13 + length;
    const contents = contentsOf(await unpacked(source, 13, length));
    const [words, positions] = await Promise.all(
      [contents.parts.words, contents.parts.positions].map(([offset, size]) => unpacked(source, from + offset, size)),
    );
    const reader = new PackReader(positions);
    const places = new Int32Array(2 * contents.count);
    for (let i = 0, last = 0; i < places.length; i++) {
      if (i === contents.count) last = 0;
      places[i] = last += reader.signed();
    }
    const weights = Float32Array.from({ length: contents.count }, () => reader.count() / 100);
    return new PlaceStore(
      source,
      from,
      contents,
      new Words(words, contents.words, contents.firstWords),
      places,
      weights,
    );
  }

  get count(): number {
    return this.contents.count;
  }

  lon(entry: number): number {
    return this.positions[entry] / perDegree;
  }

  lat(entry: number): number {
    return this.positions[this.count + entry] / perDegree;
  }

  private part([offset, length]: Part): Promise<Uint8Array> {
    return unpacked(this.source, this.from + offset, length);
  }

  /** An entry whose page was read before. */
  loaded(index: number): PlaceRecord | undefined {
    return this.records[index];
  }

  async entry(index: number): Promise<PlaceRecord> {
    const { pageEntries = oldPageEntries } = this.contents;
    const page = Math.floor(index / pageEntries);
    await kept(this.entryPages, page, async () => {
      const entries = this.readEntries(await this.part(this.contents.parts.entries[page]), page * pageEntries);
      entries.forEach((entry, i) => (this.records[page * pageEntries + i] = entry));
    });
    const entry = this.records[index];
    if (!entry) throw cutShort();
    return entry;
  }

  /** The pages that hold the lists of some words, to be read by {@link entriesWith}. */
  async postings(words: readonly number[]): Promise<ReadonlyMap<number, Uint8Array>> {
    const pages = [...new Set(words.map((word) => this.words.pages[word]))];
    const read = await Promise.all(
      pages.map((page) => kept(this.postingPages, page, () => this.part(this.contents.parts.postings[page]))),
    );
    return new Map(pages.map((page, i) => [page, read[i]]));
  }

  /**
   * The entries that have a word, the weightiest first: for each, its number times that of the fields, plus the field that has the word.
   *
   * @param pages of postings, as {@link postings} brings them
   * @param word number of the word
   * @param most how many at most
   */
  entriesWith(pages: ReadonlyMap<number, Uint8Array>, word: number, most: number): Uint32Array {
    const count = Math.min(most, this.words.counts[word]);
    const known = this.common.get(word);
    if (known && known.length >= count) return known.subarray(0, count);
    const bytes = pages.get(this.words.pages[word])!;
    const out = new Uint32Array(count);
    let at = this.words.starts[word];
    const kinds = fields.length;
    for (let i = 0, entry = 0; i < count; i++) {
      // As `PackReader.count`, in place: a common word has hundreds of thousands of entries.
      let [value, scale] = [0, 1];
      for (;;) {
        if (at >= bytes.length) throw cutShort();
        const byte = bytes[at++];
        value += (byte & 127) * scale;
        if (byte < 128) break;
        scale *= 128;
      }
      const field = value % kinds;
      entry += (value - field) / kinds;
      if (entry >= this.count) throw cutShort();
      out[i] = entry * kinds + field;
    }
    if (count > commonCount) {
      // The one that was kept first goes.
      if (this.common.size >= mostCommon) this.common.delete(this.common.keys().next().value!);
      this.common.set(word, out);
    }
    return out;
  }

  /** Outlines of streets and areas, by their entries. */
  outlines(): Promise<Map<number, PlaceOutline>> {
    return (this.outlinesRead ??= (async () => {
      const reader = new PackReader(await this.part(this.contents.parts.outlines));
      const out = new Map<number, PlaceOutline>();
      for (let entry = 0; !reader.done;) {
        entry += reader.count();
        if (entry >= this.count) throw cutShort();
        const head = reader.count();
        let x = Math.round(this.lon(entry) * outlinePerDegree);
        let y = Math.round(this.lat(entry) * outlinePerDegree);
        const paths = Array.from({ length: head >> 1 }, () => {
          const path = new Float64Array(2 * reader.count());
          for (let i = 0; i < path.length; i += 2) {
            path[i] = (x += reader.signed()) / outlinePerDegree;
            path[i + 1] = (y += reader.signed()) / outlinePerDegree;
          }
          return path;
        });
        out.set(entry, { area: head % 2 === 1, paths });
      }
      return out;
    })());
  }

  private readEntries(bytes: Uint8Array, first: number): PlaceRecord[] {
    const { kinds, lists } = this.contents;
    const reader = new PackReader(bytes);
    const count = reader.count();
    if (count > (this.contents.pageEntries ?? oldPageEntries)) throw cutShort();
    const column = <T>(read: () => T): T[] => Array.from({ length: count }, read);
    const roles = column(() => placeRoles[reader.count()] ?? 'place');
    const [kind, list] = [column(() => kinds[reader.count()] ?? ''), column(() => lists[reader.count()] ?? '')];
    const [name, number, within] = [0, 1, 2].map(() => column(() => reader.text()));
    const names = column(() =>
      Array.from({ length: reader.count() }, () => [reader.text(), reader.text()] as [string, string]),
    );
    const ids = column(() => {
      const form = reader.count();
      return form === 0 ? undefined : form === 1 ? reader.text() : form === 2 ? reader.count() : Number(reader.text());
    });
    return column(() => 0).map((_, i): PlaceRecord => {
      const at: [number, number] = [this.lon(first + i), this.lat(first + i)];
      const reach = reader.count() ? Array.from({ length: 4 }, () => reader.count() / outlinePerDegree) : undefined;
      const bounds = reach && ([at[0] - reach[0], at[1] - reach[1], at[0] + reach[2], at[1] + reach[3]] as const);
      return {
        ...{ role: roles[i], name: name[i], number: number[i], names: names[i], kind: kind[i], within: within[i] },
        ...{ at, bounds, list: list[i], id: ids[i], weight: this.weights[first + i] },
      };
    });
  }
}

async function unpacked(source: PlaceSource, offset: number, length: number): Promise<Uint8Array> {
  const bytes = await source.read(offset, length);
  if (bytes.length !== length) throw cutShort();
  try {
    return gunzip(bytes);
  } catch (error) {
    if (error instanceof Fault) throw cutShort();
    throw error;
  }
}

/** What a map holds under a key, or what is made for it; a promise that fails is forgotten, so that it is tried anew. */
function kept<T>(map: Map<number, Promise<T>>, key: number, make: () => Promise<T>): Promise<T> {
  let there = map.get(key);
  if (!there) {
    there = make();
    map.set(key, there);
    there.catch(() => map.delete(key));
  }
  return there;
}

function contentsOf(bytes: Uint8Array): Contents {
  let contents: Contents;
  try {
    contents = JSON.parse(new TextDecoder().decode(bytes)) as Contents;
  } catch {
    // Not JSON: what stands where the table should be is damaged.
    throw cutShort();
  }
  const parts = contents?.parts;
  const isPart = (part: unknown) => Array.isArray(part) && part.length === 2 && part.every(Number.isSafeInteger);
  const whole =
    Number.isSafeInteger(contents?.count) &&
    Number.isSafeInteger(contents.words) &&
    contents.count >= 0 &&
    contents.count < 2 ** 28 &&
    (contents.pageEntries === undefined || (Number.isSafeInteger(contents.pageEntries) && contents.pageEntries > 0)) &&
    [contents.kinds, contents.lists, contents.languages, contents.firstWords].every(Array.isArray) &&
    isPart(parts?.words) &&
    isPart(parts.positions) &&
    isPart(parts.outlines) &&
    [parts.postings, parts.entries].every((list) => Array.isArray(list) && list.every(isPart));
  if (!whole) throw cutShort();
  // Gazetteers of before wrote the number first.
  return { ...contents, addressOrder: contents.addressOrder === 'number-last' ? 'number-last' : 'number-first' };
}

/** Entries that a common word has at least, and how many of these words are kept as lists: 16 MB in a gazetteer of a million entries. */
const [commonCount, mostCommon] = [1 << 14, 16];

/** Bytes in memory as a source. @throws Fault `places.form` for what is no bytes */
export function sourceOfBytes(bytes: Uint8Array): PlaceSource {
  if (!(bytes instanceof Uint8Array))
    throw new Fault('places.form', `${describeValue(bytes)} is not bytes`, 'Pass a Uint8Array.');
  return { read: (offset, length) => Promise.resolve(bytes.subarray(offset, offset + length)) };
}
