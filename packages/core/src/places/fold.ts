// Room "places": the gazetteer. Names are folded to words, gathered from features, kept in a file of pages, and found again.

/** Letters that the canonical decomposition of Unicode leaves whole, as they are commonly written without their sign. */
const plainLetters: Readonly<Record<string, string>> = {
  ß: 'ss',
  æ: 'ae',
  œ: 'oe',
  ø: 'o',
  ł: 'l',
  đ: 'd',
  ð: 'd',
  þ: 'th',
  ħ: 'h',
  ı: 'i',
};

/** Scripts that write words without a gap: Han, kana, Hangul, Thai, Lao, Khmer and Myanmar. */
const gapless = /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Thai}\p{Script=Lao}\p{Script=Khmer}]/u;

/** Returns text in lower case, without accents and other marks (Unicode Standard Annex 15, form NFKD). */
export function foldText(text: string): string {
  return text
    .normalize('NFKD')
    .toLowerCase()
    .replace(/\p{Mn}/gu, '')
    .replace(/[ßæœøłđðþħı]/g, (letter) => plainLetters[letter]);
}

/**
 * Splits a text into folded words. Apostrophes within a word are dropped; scripts without spaces yield pairs of neighboring characters.
 *
 * @param text any text
 * @returns words in order; a word may occur twice
 */
export function wordsOf(text: string): string[] {
  const words: string[] = [];
  for (const [run] of foldText(text)
    .replace(/['’ʼ]/g, '')
    .matchAll(/[\p{L}\p{N}\p{Mc}]+/gu)) {
    if (!gapless.test(run)) {
      words.push(run);
      continue;
    }
    const letters = [...run];
    if (letters.length === 1) words.push(run);
    for (let i = 1; i < letters.length; i++) words.push(letters[i - 1] + letters[i]);
  }
  return words;
}

/** Whether a word is or holds a number, such as `12` or `12b`. Such words are never taken for another by a typing error. */
export const hasDigit = (word: string): boolean => /\p{N}/u.test(word);

/** How many typing errors a word of some length may hold. */
export const errorsAllowed = (word: string): number =>
  hasDigit(word) || word.length < 3 ? 0 : word.length < 5 ? 1 : 2;
