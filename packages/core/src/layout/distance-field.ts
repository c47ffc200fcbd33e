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
  const shares = new Float64Array(width * height);
  for (let i = 0; i < shares.length; i++) shares[i] = coverage[i] / 255;
  const toShape = squaredDistances(width, height, shares.map(edgeOffset));
  const toGround = squaredDistances(
    width,
    height,
    shares.map((share) => edgeOffset(1 - share)),
  );
  const field = new Uint8Array(shares.length);
  for (let i = 0; i < field.length; i++) {
    const inwards = Math.sqrt(toGround[i]) - Math.sqrt(toShape[i]);
    field[i] = Math.max(0, Math.min(255, Math.round(128 + (inwards * 127) / spread)));
  }
  return field;
}

/** How far the middle of a pixel lies outside a shape that covers a share of it, in pixels; Infinity where it covers none. */
const edgeOffset = (share: number) => (share === 0 ? Infinity : Math.max(0, 0.5 - share));

/** For each pixel the least sum of a squared distance to another pixel and that one's squared offset, the one axis after the other. */
function squaredDistances(width: number, height: number, offsets: Float64Array): Float64Array {
  const grid = offsets.map((offset) => offset * offset);
  const envelope = new LowerEnvelope(Math.max(width, height));
  for (let x = 0; x < width; x++) envelope.settle(grid, x, width, height);
  for (let y = 0; y < height; y++) envelope.settle(grid, y * width, 1, width);
  return grid;
}

/** The lower envelope of parabolas, one rooted at each sample of a row or column. */
class LowerEnvelope {
  private readonly heights: Float64Array;
  /** Roots of the parabolas that the envelope is made of, from left to right, and where each begins. */
  private readonly roots: Uint32Array;
  private readonly begins: Float64Array;

  constructor(longest: number) {
    this.heights = new Float64Array(longest);
    this.roots = new Uint32Array(longest);
    this.begins = new Float64Array(longest);
  }

  /** Puts the heights of the envelope in the place of samples: every `stride`-th of a grid, from `first` on. */
  settle(grid: Float64Array, first: number, stride: number, count: number): void {
    const { heights, roots, begins } = this;
    let pieces = 0;
    for (let q = 0; q < count; q++) {
      heights[q] = grid[first + q * stride];
      if (heights[q] === Infinity) continue;
      let begin = -Infinity;
      for (; pieces > 0; pieces--) {
        begin = this.crossing(roots[pieces - 1], q);
        if (begin > begins[pieces - 1]) break;
        begin = -Infinity;
      }
      roots[pieces] = q;
      begins[pieces++] = begin;
    }
    if (!pieces) return;
    for (let q = 0, piece = 0; q < count; q++) {
      while (piece + 1 < pieces && begins[piece + 1] < q) piece++;
      grid[first + q * stride] = heights[roots[piece]] + (q - roots[piece]) * (q - roots[piece]);
    }
  }

  /** Where the parabolas of two roots meet. */
  private crossing(left: number, right: number): number {
    const { heights } = this;
    return (heights[right] + right * right - heights[left] - left * left) / (2 * (right - left));
  }
}
