import { hasDigit, errorsAllowed } from './fold.js';
import { largest } from './largest.js';
import { cutShort, PackReader } from './packing.js';

/** How a word of a query was found. */
export interface WordMatch {
  /** Number of the word. */
  readonly word: number;
  /** `exact`, the beginning of a longer word, or with typing errors. */
  readonly how: 'exact' | 'beginning' | 'errors';
  readonly errors: number;
  /** How well it fits, 0 to 1. */
  readonly fit: number;
}

/** How well a beginning fits a word. */
export const beginningFit = (typed: string, word: string): number => 0.88 + (0.1 * typed.length) / word.length;

/** How well a word with typing errors fits. */
export const errorFit = (errors: number, length: number): number =>
  Math.max(0.3, 1 - (1.1 * errors) / Math.max(4, length));

/** All words of a gazetteer in order, with the place of the list of entries that have each. */
export class Words {
  readonly texts: string[] = [];
  /** How many entries have each word. */
  readonly counts: Uint32Array;
  /** Page of postings that each word's list stands in, and where it begins there. */
  readonly pages: Uint32Array;
  readonly starts: Uint32Array;
  private readonly shared: Uint16Array;
  private readonly ids = new Map<string, number>();

  constructor(bytes: Uint8Array, count: number, firstWords: readonly number[]) {
    const reader = new PackReader(bytes);
    if (count > bytes.length) throw cutShort();
    this.counts = new Uint32Array(count);
    this.pages = new Uint32Array(count);
    this.starts = new Uint32Array(count);
    this.shared = new Uint16Array(count);
    let before = '';
    let [page, at] = [0, 0];
    for (let w = 0; w < count; w++) {
      if (firstWords[page + 1] === w) [page, at] = [page + 1, 0];
      const shared = reader.count();
      if (shared > before.length) throw cutShort();
      before = before.slice(0, shared) + reader.text();
      this.texts.push(before);
      this.ids.set(before, w);
      this.shared[w] = Math.min(shared, 65535);
      this.counts[w] = reader.count();
      this.pages[w] = page;
      this.starts[w] = at;
      at += reader.count();
    }
  }

  find(text: string): number | undefined {
    return this.ids.get(text);
  }

  /** Numbers of the words that begin with a text: from, and up to but without. */
  beginning(text: string): [number, number] {
    const first = (test: (word: string) => boolean) => {
      let [low, high] = [0, this.texts.length];
      while (low < high) {
        const middle = (low + high) >> 1;
        if (test(this.texts[middle])) high = middle;
        else low = middle + 1;
      }
      return low;
    };
    const from = first((word) => word >= text);
    return [from, first((word) => word >= text && !word.startsWith(text))];
  }

  /** The exact word, and where it is still being typed so many that begin with it: those that most entries have. */
  match(text: string, typing: boolean, most: number): WordMatch[] {
    const exact = this.find(text);
    const out: WordMatch[] = exact === undefined ? [] : [{ word: exact, how: 'exact', errors: 0, fit: 1 }];
    if (!typing) return out;
    const [from, to] = this.beginning(text);
    const longer = largest({ from, to }, (word) => this.counts[word], most);
    for (const word of longer)
      if (word !== exact) out.push({ word, how: 'beginning', errors: 0, fit: beginningFit(text, this.texts[word]) });
    return out;
  }

  /**
   * Words that differ by few typing errors, or begin with something that does. The rows of the distance table (Wagner and Fischer 1974,
   * with swaps as Damerau 1964) are shared by words with the same beginning, and a beginning that is too far off is passed over whole.
   */
  near(text: string, typing: boolean): WordMatch[] {
    const most = errorsAllowed(text);
    if (!most) return [];
    const rows: Uint8Array[] = [Uint8Array.from({ length: text.length + 1 }, (_, j) => j)];
    const out: WordMatch[] = [];
    const take = (word: number, errors: number, whole: boolean) => {
      if (errors < 1 || errors > most || hasDigit(this.texts[word])) return;
      out.push({ word, how: 'errors', errors, fit: errorFit(errors, text.length) * (whole ? 1 : 0.92) });
    };
    /** Letters of the last word that rows stand for, from which of them on none can be near, and errors of its best beginning. */
    let [filled, dead, begun] = [0, Infinity, Infinity];
    this.texts.forEach((word, w) => {
      if (this.shared[w] >= dead) {
        if (typing) take(w, begun, false);
        return;
      }
      dead = Infinity;
      filled = Math.min(filled, this.shared[w]);
      while (filled < word.length && dead === Infinity) if (fillRow(rows, ++filled, word, text) > most) dead = filled;
      const whole = dead === Infinity ? rows[word.length][text.length] : Infinity;
      begun = Infinity;
      if (typing) for (let i = 1; i <= filled; i++) begun = Math.min(begun, rows[i][text.length]);
      if (whole <= begun) take(w, whole, true);
      else take(w, begun, false);
    });
    return out;
  }
}

/** Fills a row of the distance table; answers its least number. */
function fillRow(rows: Uint8Array[], i: number, word: string, text: string): number {
  const [last, before] = [rows[i - 1], rows[i - 2]];
  const row = (rows[i] ??= new Uint8Array(text.length + 1));
  row[0] = Math.min(255, i);
  let least = row[0];
  for (let j = 1; j <= text.length; j++) {
    let d = Math.min(last[j] + 1, row[j - 1] + 1, last[j - 1] + (word[i - 1] === text[j - 1] ? 0 : 1));
    if (i > 1 && j > 1 && word[i - 1] === text[j - 2] && word[i - 2] === text[j - 1])
      d = Math.min(d, before[j - 2] + 1);
    row[j] = d;
    if (d < least) least = d;
  }
  return least;
}
