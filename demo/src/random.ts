/** A seeded stream of numbers in [0, 1): the same seed gives the same stream on every machine (mulberry32). */
export type Random = (() => number) & {
  between(low: number, high: number): number;
  pick<T>(from: readonly T[]): T;
};

export function randomFrom(seed: number): Random {
  let state = seed >>> 0;
  const next = () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
  return Object.assign(next, {
    between: (low: number, high: number) => low + (high - low) * next(),
    pick: <T>(from: readonly T[]) => from[Math.floor(next() * from.length)],
  });
}
