/**
 * Turns the coverage of a drawn shape into a distance field: one byte a pixel, 128 at the edge, rising by `128 / spread` a pixel towards
 * the inside. Distances are Euclidean and exact (Felzenszwalb and Huttenlocher 2012, "Distance transforms of sampled functions", Theory of
 * Computing 8, section 2). Partly covered pixels place the edge within them.
 *
 * @param coverage one byte a pixel, row by row, 0 outside to 255 inside
 * @param width pixels of a row
 * @param height rows
 * @param spread distance in pixels at which the field reaches its limits
 */
export function distanceField(coverage: ArrayLike<number>, width: number, height: number, spread: number): Uint8Array {
  const pixels = width * height;
  const toShape = new Float64Array(pixels);
  const toGround = new Float64Array(pixels);
  for (let i = 0; i < pixels; i++) {
    toShape[i] = squaredOffset[coverage[i]];
    toGround[i] = squaredOffset[255 - coverage[i]];
  }
  const most = (spread + 1) ** 2;
  const envelope = new LowerEnvelope(width, most);
  envelope.spread(toShape, width, height);
  envelope.spread(toGround, width, height);
  const field = new Uint8Array(pixels);
  for (let i = 0; i < pixels; i++) {
    // Most pixels are far from the edge.
    if (toShape[i] >= most) continue;
    const inwards = Math.sqrt(toGround[i]) - Math.sqrt(toShape[i]);
    field[i] = Math.max(0, Math.min(255, Math.round(128 + (inwards * 127) / spread)));
  }
  return field;
}

/**
 * How far the middle of a pixel lies outside a shape that covers so many 255ths of it, in pixels, squared; Infinity where it covers
 * none.
 */
const squaredOffset = Float64Array.from({ length: 256 }, (_, share) =>
  share === 0 ? Infinity : Math.max(0, 0.5 - share / 255) ** 2,
);

/** The lower envelope of parabolas, one rooted at each sample of a row. */
class LowerEnvelope {
  private readonly heights: Float64Array;
  /** Roots of the parabolas that the envelope is made of, from left to right, and where each begins. */
  private readonly roots: Uint32Array;
  private readonly begins: Float64Array;
  /** Squared offset of the last sample of each column, and how many rows ago it was. */
  private readonly offsets: Float64Array;
  private readonly distances: Float64Array;

  /**
   * @param longest samples of a row
   * @param most squared distance from which on it does not matter how far away something is
   */
  constructor(
    longest: number,
    private readonly most: number,
  ) {
    this.heights = new Float64Array(longest);
    this.roots = new Uint32Array(longest);
    this.begins = new Float64Array(longest);
    this.offsets = new Float64Array(longest);
    this.distances = new Float64Array(longest);
  }

  /**
   * Puts in the place of each pixel's squared offset the least sum of a squared distance to another pixel and that one's squared offset,
   * the one axis after the other.
   */
  spread(grid: Float64Array, width: number, height: number): void {
    this.sweep(grid, width, 0, height, 1);
    this.sweep(grid, width, height - 1, -1, -1);
    for (let y = 0; y < height; y++) this.settle(grid, y * width, width);
  }

  /**
   * Carries offsets along the columns, row by row. The nearest sample is the one that counts: squared offsets are quarters at most, and the
   * next one is a whole pixel further away.
   */
  private sweep(grid: Float64Array, width: number, from: number, to: number, step: 1 | -1): void {
    const { offsets, distances } = this;
    offsets.fill(Infinity);
    for (let y = from; y !== to; y += step)
      for (let x = 0, at = y * width; x < width; x++, at++) {
        const height = grid[at];
        // A sweep back meets samples, and what the sweep before it made of those that are none.
        if (height <= 0.25) {
          offsets[x] = height;
          distances[x] = 0;
        } else {
          const distance = ++distances[x];
          const carried = offsets[x] + distance * distance;
          if (carried < height) grid[at] = carried;
        }
      }
  }

  /**
   * Puts the heights of the envelope in the place of a row's samples. Those from the limit on are no part of it, as nothing of theirs lies
   * below the limit. Nor are noughts between noughts: all else is as near to their neighbors.
   */
  private settle(grid: Float64Array, first: number, count: number): void {
    const { heights, roots, begins, most } = this;
    let pieces = 0;
    let before = 0;
    for (let q = 0, at = first; q < count; q++, at++) {
      const height = (heights[q] = grid[at]);
      const between = height === 0 && before === 0 && (q + 1 === count || grid[at + 1] === 0);
      before = height;
      if (between || height >= most) continue;
      // Where its parabola meets those of the roots so far; the ones that it overtakes are no part of the envelope.
      let begin = -Infinity;
      for (; pieces > 0; pieces--) {
        const root = roots[pieces - 1];
        begin = (height + q * q - heights[root] - root * root) / (2 * (q - root));
        if (begin > begins[pieces - 1]) break;
        begin = -Infinity;
      }
      roots[pieces] = q;
      begins[pieces++] = begin;
    }
    if (!pieces) return;
    for (let q = 0, piece = 0, at = first; q < count; q++, at++) {
      if (heights[q] === 0) continue;
      while (piece + 1 < pieces && begins[piece + 1] < q) piece++;
      const away = q - roots[piece];
      grid[at] = heights[roots[piece]] + away * away;
    }
  }
}
