/** A seeded stream of numbers in [0, 1) (xorshift, Marsaglia 2003). */
export function randomFrom(seed: number): () => number {
  let state = seed | 1;
  return () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return (state >>> 0) / 4294967296;
  };
}
