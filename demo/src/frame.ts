/** Meters east and north of the middle of the Reach. */
export type Metres = readonly [number, number];

export const origin: Metres = [-31.18, 44.62];
const metersPerDegree = (Math.PI / 180) * 6371008.8;
const narrowing = Math.cos((origin[1] * Math.PI) / 180);

/** Degrees `[lon, lat]`, to seven decimals (a centimeter), of a place in meters. */
export function toDegrees([x, y]: Metres): [number, number] {
  const round = (v: number) => Math.round(v * 1e7) / 1e7;
  return [round(origin[0] + x / (metersPerDegree * narrowing)), round(origin[1] + y / metersPerDegree)];
}

/** Meters from the middle of the Reach of a place in degrees. */
export const toMetres = ([lon, lat]: readonly [number, number]): Metres => [
  (lon - origin[0]) * metersPerDegree * narrowing,
  (lat - origin[1]) * metersPerDegree,
];

export type Line = Metres[];

export interface DemoFeature {
  readonly type: 'Feature';
  readonly id?: number;
  readonly geometry: { readonly type: string; readonly coordinates: unknown };
  readonly properties: Record<string, string | number | boolean>;
}

const feature = (
  type: string,
  coordinates: unknown,
  properties: DemoFeature['properties'],
  id?: number,
): DemoFeature => ({
  type: 'Feature',
  ...(id === undefined ? {} : { id }),
  geometry: { type, coordinates },
  properties,
});

export const point = (at: Metres, properties: DemoFeature['properties'], id?: number) =>
  feature('Point', toDegrees(at), properties, id);
export const line = (path: Line, properties: DemoFeature['properties'], id?: number) =>
  feature('LineString', path.map(toDegrees), properties, id);
export const polygon = (rings: readonly Line[], properties: DemoFeature['properties'], id?: number) =>
  feature(
    'Polygon',
    rings.map((ring) => [...ring, ring[0]].map(toDegrees)),
    properties,
    id,
  );

export const distance = (a: Metres, b: Metres) => Math.hypot(a[0] - b[0], a[1] - b[1]);

/** A smooth curve through some points (Catmull-Rom, centripetal spacing not needed here), `step` meters a piece. */
export function curve(through: readonly Metres[], step = 25): Line {
  const out: Line = [];
  for (let i = 0; i < through.length - 1; i++) {
    const p0 = through[Math.max(0, i - 1)];
    const p1 = through[i];
    const p2 = through[i + 1];
    const p3 = through[Math.min(through.length - 1, i + 2)];
    const pieces = Math.max(1, Math.round(distance(p1, p2) / step));
    for (let k = 0; k < pieces; k++) {
      const t = k / pieces;
      const at = (a: number, b: number, c: number, d: number) =>
        0.5 * (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t * t + (3 * b - a - 3 * c + d) * t ** 3);
      out.push([at(p0[0], p1[0], p2[0], p3[0]), at(p0[1], p1[1], p2[1], p3[1])]);
    }
  }
  out.push(through[through.length - 1]);
  return out;
}

/** The nearest distance from a point to a line, and how far along the line that is. */
export function nearestOn(path: readonly Metres[], [x, y]: Metres): { away: number; index: number } {
  let best = { away: Infinity, index: 0 };
  for (let i = 1; i < path.length; i++) {
    const [ax, ay] = path[i - 1];
    const dx = path[i][0] - ax;
    const dy = path[i][1] - ay;
    const t = Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy || 1)));
    const away = Math.sqrt((x - ax - t * dx) ** 2 + (y - ay - t * dy) ** 2);
    if (away < best.away) best = { away, index: i - 1 + t };
  }
  return best;
}

/** The parts of a road that do not run beside a trunk road; they end on it. Where a road merely crosses, it stays whole. */
export function clearOf(path: Line, trunks: readonly Line[]): Line[] {
  const nearest = path.map((at) =>
    trunks.map((course) => ({ course, ...nearestOn(course, at) })).reduce((a, b) => (b.away < a.away ? b : a)),
  );
  const isBeside = nearest.map(({ away }) => away < 25);
  const onTrunk = (i: number): Metres => {
    const { course, index } = nearest[i];
    const k = Math.min(course.length - 2, Math.floor(index));
    const t = index - k;
    return [course[k][0] + (course[k + 1][0] - course[k][0]) * t, course[k][1] + (course[k + 1][1] - course[k][1]) * t];
  };
  const out: Line[] = [];
  let run: Line = [];
  for (let i = 0; i < path.length; i++) {
    if (!isBeside[i]) {
      run.push(path[i]);
      continue;
    }
    let end = i;
    while (end + 1 < path.length && isBeside[end + 1]) end++;
    const isCrossing = i > 0 && end < path.length - 1 && distance(path[i], path[end]) < 120;
    if (isCrossing) run.push(...path.slice(i, end + 1));
    else {
      if (run.length) out.push([...run, onTrunk(i)]);
      run = end < path.length - 1 ? [onTrunk(end)] : [];
    }
    i = end;
  }
  if (run.length > 1) out.push(run);
  return out;
}
