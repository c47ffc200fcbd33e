/** A 4 × 4 matrix, column by column, in doubles. */
export type Matrix = Float64Array;

export function multiply(a: Matrix, b: Matrix): Matrix {
  const out = new Float64Array(16);
  for (let c = 0; c < 4; c++) {
    for (let r = 0; r < 4; r++) {
      out[4 * c + r] = a[r] * b[4 * c] + a[4 + r] * b[4 * c + 1] + a[8 + r] * b[4 * c + 2] + a[12 + r] * b[4 * c + 3];
    }
  }
  return out;
}

/** `m` after a move by x, y, z, written into `out`. */
export function translated(m: Matrix, x: number, y: number, z: number, out: Float64Array | Float32Array): void {
  for (let r = 0; r < 4; r++) {
    out[r] = m[r];
    out[4 + r] = m[4 + r];
    out[8 + r] = m[8 + r];
    out[12 + r] = m[r] * x + m[4 + r] * y + m[8 + r] * z + m[12 + r];
  }
}

/** Perspective projection (column vectors, clip space −w to w), looking down −z. */
export function perspective(height: number, aspect: number, near: number, far: number): Matrix {
  const f = 1 / Math.tan(height / 2);
  return Float64Array.of(
    f / aspect,
    0,
    0,
    0,
    0,
    f,
    0,
    0,
    0,
    0,
    (far + near) / (near - far),
    -1,
    0,
    0,
    (2 * far * near) / (near - far),
    0,
  );
}

export function rotation(axis: 'x' | 'z', angle: number): Matrix {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  return axis === 'x'
    ? Float64Array.of(1, 0, 0, 0, 0, c, s, 0, 0, -s, c, 0, 0, 0, 0, 1)
    : Float64Array.of(c, s, 0, 0, -s, c, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1);
}
