import type { QueryWord } from './score.js';
import type { Words } from './words.js';

/** The query with a gap put in where one is missing, and with one taken out where there is one too many. */
export function respaced(words: readonly QueryWord[], known: Words): QueryWord[][] {
  const out: QueryWord[][] = [];
  words.forEach((word, i) => {
    const replaced = (count: number, ...by: readonly string[]) =>
      words.toSpliced(
        i,
        count,
        ...by.map((text, k) => ({ ...word, text, typing: word.typing && k === by.length - 1 })),
      );
    if (known.find(word.text) === undefined)
      for (let cut = 2; cut < word.text.length - 1; cut++) {
        const parts = [word.text.slice(0, cut), word.text.slice(cut)];
        if (parts.every((part) => known.find(part) !== undefined)) out.push(replaced(1, ...parts));
      }
    const joined = word.text + (words[i + 1]?.text ?? '');
    if (joined !== word.text && known.find(joined) !== undefined) out.push(replaced(2, joined));
  });
  return out;
}
