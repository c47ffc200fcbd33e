/** Sections across an area that its curve is fitted to. */
const sections = 24;
/** Share of the area's length that is left clear at either end. */
const margin = 0.06;
/** Pieces of the curve. */
const pieces = 16;

/**
 * A gentle curve along the middle of an area, for a text that follows it: sections are laid across the longer principal axis of the
 * outline, and a cubic is fitted to the middles of the widest stretch of each, the wider ones counting for more.
 *
 * @param rings x and y of the corners, interleaved; holes may follow the outer ring
 * @returns x and y of the curve, interleaved; undefined where the area has no extent
 */
export function areaCurve(rings: readonly ArrayLike<number>[]): number[] | undefined {
  const axis = principalAxis(rings[0]);
  if (!axis) return undefined;
  const { x: mx, y: my, cos, sin } = axis;
  const turned = rings.map((ring) =>
    Array.from({ length: ring.length / 2 }, (_, i): [number, number] => {
      const [dx, dy] = [ring[2 * i] - mx, ring[2 * i + 1] - my];
      return [cos * dx + sin * dy, cos * dy - sin * dx];
    }),
  );
  let [west, east] = [Infinity, -Infinity];
  for (const [u] of turned[0]) [west, east] = [Math.min(west, u), Math.max(east, u)];
  const half = (east - west) / 2;
  const middle = (east + west) / 2;
  if (!(half > 0)) return undefined;
  const samples: [u: number, v: number, weight: number][] = [];
  for (let k = 0; k < sections; k++) {
    const t = ((k + 0.5) / sections) * 2 - 1;
    const widest = widestStretch(turned, middle + t * half);
    if (widest) samples.push([t, (widest[0] + widest[1]) / 2, widest[1] - widest[0]]);
  }
  const cubic = samples.length >= 4 ? fitCubic(samples) : undefined;
  if (!cubic) return undefined;
  const out: number[] = [];
  for (let k = 0; k <= pieces; k++) {
    const t = (1 - margin) * ((2 * k) / pieces - 1);
    const u = middle + t * half;
    const v = cubic[0] + t * (cubic[1] + t * (cubic[2] + t * cubic[3]));
    out.push(mx + cos * u - sin * v, my + sin * u + cos * v);
  }
  return out;
}

/** The centroid of a ring and the direction of its longer principal axis, from the second moments of its area. */
function principalAxis(ring: ArrayLike<number>): { x: number; y: number; cos: number; sin: number } | undefined {
  const [ox, oy] = [ring[0], ring[1]];
  let [area, sx, sy, sxx, syy, sxy] = [0, 0, 0, 0, 0, 0];
  for (let i = 0, j = ring.length - 2; i < ring.length; j = i, i += 2) {
    const [ax, ay, bx, by] = [ring[j] - ox, ring[j + 1] - oy, ring[i] - ox, ring[i + 1] - oy];
    const cross = ax * by - bx * ay;
    area += cross / 2;
    sx += (cross * (ax + bx)) / 6;
    sy += (cross * (ay + by)) / 6;
    sxx += (cross * (ax * ax + ax * bx + bx * bx)) / 12;
    syy += (cross * (ay * ay + ay * by + by * by)) / 12;
    sxy += (cross * (ax * by + 2 * ax * ay + 2 * bx * by + bx * ay)) / 24;
  }
  if (!area) return undefined;
  const [x, y] = [sx / area, sy / area];
  const angle = Math.atan2(2 * (sxy / area - x * y), sxx / area - x * x - (syy / area - y * y)) / 2;
  return { x: ox + x, y: oy + y, cos: Math.cos(angle), sin: Math.sin(angle) };
}

/** The longest stretch inside an area of the line across it at `u`. */
function widestStretch(rings: readonly (readonly [number, number])[][], u: number): [number, number] | undefined {
  const crossings: number[] = [];
  for (const ring of rings)
    for (let i = 0, j = ring.length - 1; i < ring.length; j = i++) {
      const [au, av] = ring[j];
      const [bu, bv] = ring[i];
      if (au > u !== bu > u) crossings.push(av + ((u - au) / (bu - au)) * (bv - av));
    }
  crossings.sort((a, b) => a - b);
  let best: [number, number] | undefined;
  for (let i = 1; i < crossings.length; i += 2)
    if (!best || crossings[i] - crossings[i - 1] > best[1] - best[0]) best = [crossings[i - 1], crossings[i]];
  return best;
}

/** The cubic through weighted samples by least squares: its four coefficients, from the constant one on. */
function fitCubic(samples: readonly (readonly [u: number, v: number, weight: number])[]): number[] | undefined {
  // The normal equations, each row followed by its right side.
  const rows = Array.from({ length: 4 }, (_, r) =>
    Array.from({ length: 5 }, (_, c) =>
      samples.reduce((sum, [u, v, weight]) => sum + weight * u ** r * (c < 4 ? u ** c : v), 0),
    ),
  );
  for (let k = 0; k < 4; k++) {
    const pivot = rows.slice(k).reduce((a, b) => (Math.abs(b[k]) > Math.abs(a[k]) ? b : a));
    rows.splice(rows.indexOf(pivot), 1);
    rows.splice(k, 0, pivot);
    if (!pivot[k]) return undefined;
    for (let r = 0; r < 4; r++)
      if (r !== k) {
        const share = rows[r][k] / pivot[k];
        for (let c = k; c < 5; c++) rows[r][c] -= share * pivot[c];
      }
  }
  return rows.map((row, k) => row[4] / row[k]);
}
