const far = 1e20;

/**
 * Turns the coverage of a drawn shape into a distance field: one byte a pixel, 128 at the edge, rising by
 * `128 / spread` a pixel towards the inside. Exact Euclidean distances (Felzenszwalb and Huttenlocher 2012,
 * "Distance transforms of sampled functions"), with partly covered pixels placing the edge within them.
 *
 * @param coverage one byte a pixel, row by row, 0 outside to 255 inside
 * @param spread distance in pixels at which the field reaches its limits
 */
export function distanceField(coverage: ArrayLike<number>, width: number, height: number, spread: number): Uint8Array {
  const count = width * height;
  const outer = new Float64Array(count);
  const inner = new Float64Array(count);
  for (let i = 0; i < count; i++) {
    const a = coverage[i] / 255;
    outer[i] = a === 1 ? 0 : a === 0 ? far : Math.max(0, 0.5 - a) ** 2;
    inner[i] = a === 1 ? far : a === 0 ? 0 : Math.max(0, a - 0.5) ** 2;
  }
  const longest = Math.max(width, height);
  const scratch = { f: new Float64Array(longest), v: new Uint32Array(longest), z: new Float64Array(longest + 1) };
  for (const grid of [outer, inner]) {
    for (let x = 0; x < width; x++) transform(grid, x, width, height, scratch);
    for (let y = 0; y < height; y++) transform(grid, y * width, 1, width, scratch);
  }
  const out = new Uint8Array(count);
  for (let i = 0; i < count; i++) {
    const distance = Math.sqrt(inner[i]) - Math.sqrt(outer[i]);
    out[i] = Math.max(0, Math.min(255, Math.round(128 + (distance * 127) / spread)));
  }
  return out;
}

/** Squared distances along one row or column, in place. */
function transform(
  grid: Float64Array,
  offset: number,
  stride: number,
  length: number,
  { f, v, z }: { f: Float64Array; v: Uint32Array; z: Float64Array },
): void {
  v[0] = 0;
  z[0] = -far;
  z[1] = far;
  f[0] = grid[offset];
  for (let q = 1, k = 0; q < length; q++) {
    f[q] = grid[offset + q * stride];
    let s: number;
    do {
      const r = v[k];
      s = (f[q] - f[r] + q * q - r * r) / (q - r) / 2;
    } while (s <= z[k] && --k > -1);
    k++;
    v[k] = q;
    z[k] = s;
    z[k + 1] = far;
  }
  for (let q = 0, k = 0; q < length; q++) {
    while (z[k + 1] < q) k++;
    const r = v[k];
    grid[offset + q * stride] = f[r] + (q - r) * (q - r);
  }
}
