/** A longer word is no misspelling; comparing its letters with those of all others would take seconds. */
const longestMeant = 200;

/**
 * The allowed word nearest to `word` by edit distance (Levenshtein, with a swap of neighbors counted
 * once), or undefined when none is near enough to be meant: at most a third of its letters differ.
 */
export function nearestSpelling(word: string, allowed: readonly string[]): string | undefined {
  if (typeof word !== 'string' || word.length > longestMeant) return undefined;
  let best: string | undefined;
  let bestDistance = Infinity;
  for (const candidate of allowed) {
    const distance = editDistance(word.toLowerCase(), candidate.toLowerCase());
    if (distance < bestDistance) [best, bestDistance] = [candidate, distance];
  }
  if (best === undefined) return undefined;
  const longer = Math.max(word.length, best.length);
  return bestDistance < longer && bestDistance <= Math.ceil(longer / 3) ? best : undefined;
}

function editDistance(a: string, b: string): number {
  let before: number[] = [];
  let previous = Array.from({ length: b.length + 1 }, (_, j) => j);
  for (let i = 1; i <= a.length; i++) {
    const row = [i];
    for (let j = 1; j <= b.length; j++) {
      const cost = a[i - 1] === b[j - 1] ? 0 : 1;
      row[j] = Math.min(row[j - 1] + 1, previous[j] + 1, previous[j - 1] + cost);
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1])
        row[j] = Math.min(row[j], before[j - 2] + 1);
    }
    before = previous;
    previous = row;
  }
  return previous[b.length];
}
