type Triple = readonly [number, number, number];

/** East, north and up at a place on a sphere round the origin; at its poles east is that of 90° E. */
export function directions([x, y, z]: Triple): { east: Triple; north: Triple; up: Triple } {
  const r = Math.hypot(x, y, z);
  const p = Math.hypot(x, y);
  const [s, c] = p > 0 ? [y / p, x / p] : [0, 1];
  const [sin, cos] = [z / r, p / r];
  return { east: [-s, c, 0], north: [-sin * c, -sin * s, cos], up: [cos * c, cos * s, sin] };
}
