import { areasAbove, mapField, type Field } from './contour.js';
import { distance, line, nearestOn, point, type DemoFeature, type Line, type Metres } from './frame.js';
import { randomFrom } from './random.js';
import type { Terrain } from './terrain.js';

/** Depths in meters at which the color of the water changes, from the shallowest on. */
export const depths = [-2, -5, -10, -20] as const;

/** A field smoothed by the mean of its neighbors, some times over. */
export function smoothField(field: Field, rounds: number): Field {
  const { columns, rows } = field;
  let values = Float32Array.from(field.values);
  for (let round = 0; round < rounds; round++) {
    const next = values.slice();
    for (let r = 1; r < rows - 1; r++)
      for (let c = 1; c < columns - 1; c++) {
        const k = r * columns + c;
        next[k] = (values[k - 1] + values[k + 1] + values[k - columns] + values[k + columns] + 2 * values[k]) / 6;
      }
    values = next;
  }
  return { ...field, values };
}

/** The bed of the water, without the small bumps; dry land counts as 3 m high, so that hills do not reach into the water. */
export const bedOf = (heights: Field, terrain: Terrain): Field =>
  smoothField(
    mapField(heights, (h, i) => {
      if (h > -7) return Math.min(3, h);
      const [column, row] = [i % heights.columns, Math.floor(i / heights.columns)];
      return terrain.bed(heights.west + column * heights.step, heights.south + row * heights.step);
    }),
    10,
  );

/** Lines of equal depth; closed where they run around a bank or a basin. */
export function contourLines(bed: Field): DemoFeature[] {
  const far = { east: bed.west + (bed.columns - 2) * bed.step, north: bed.south + (bed.rows - 2) * bed.step };
  // Along the edge of the field there is no contour.
  const isAtEdge = ([x, y]: Metres) =>
    x < bed.west + bed.step || y < bed.south + bed.step || x > far.east || y > far.north;
  return depths.flatMap((depth) =>
    areasAbove(bed, depth, 60000)
      .flat()
      .flatMap((ring) => stretches([...ring, ring[0]], (at) => !isAtEdge(at)))
      .filter((run) => run.length > 12)
      .map((run) => line(run, { depth: -depth })),
  );
}

/** The stretches of a path whose places pass a test. */
export function stretches(path: Line, passes: (at: Metres) => boolean): Line[] {
  const out: Line[] = [];
  let run: Line = [];
  for (const at of path) {
    if (passes(at)) run.push(at);
    else {
      if (run.length > 1) out.push(run);
      run = [];
    }
  }
  if (run.length > 1) out.push(run);
  return out;
}

/**
 * Depths as a survey would leave them: a jittered grid, denser in the Reach than out at sea. `rank` is 0 for the few that are to be seen from
 * far out and 2 for those that only a large scale has room for.
 */
export function soundings(terrain: Terrain): DemoFeature[] {
  const random = randomFrom(77);
  const out: DemoFeature[] = [];
  const step = 190;
  for (let row = 0; row < 64; row++)
    for (let column = 0; column < 132; column++) {
      const [x, y] = [-7600 + column * step, -6100 + row * step];
      const at: Metres = [x + random.between(-60, 60), y + random.between(-60, 60)];
      const depth = -terrain.bed(at[0], at[1]);
      if (depth < 1 || depth > 60) continue;
      const rank = row % 4 === 0 && column % 4 === 0 ? 0 : row % 2 === 0 && column % 2 === 0 ? 1 : 2;
      out.push(point(at, { depth: Math.round(depth * 10) / 10, rank }));
    }
  return out;
}

/** Names of waters along the course that they take. */
export function waterCourses(terrain: Terrain): DemoFeature[] {
  const named: readonly (readonly [string, number | undefined, readonly [number, number]])[] = [
    ['Sallow Creek', 0, [0, 1]],
    ['Osier Creek', 1, [0, 1]],
    ['Long Mud Creek', 2, [0, 1]],
    ['Sefkin Creek', 3, [0, 1]],
    ['Head Water', undefined, [-13000, -8200]],
    ['Tessary Reach', undefined, [-2200, 3000]],
  ];
  return named.map(([name, creek, [from, to]]) =>
    line(creek === undefined ? terrain.channel.filter(([x]) => x >= from && x <= to) : terrain.creeks[creek], {
      name,
      kind: creek === undefined && name === 'Tessary Reach' ? 'reach' : 'creek',
    }),
  );
}

/** The stretches of roads that cross water or mud, a little longer than it. */
export function bridges(
  roads: readonly { readonly path: Line; readonly class: string }[],
  terrain: Terrain,
): DemoFeature[] {
  return roads.flatMap(({ path, class: kind }) => {
    const dense = path.flatMap((at, i) => (i ? between(path[i - 1], at, 12) : [at]));
    return stretches(dense, ([x, y]) => terrain.height(x, y) < 3.3)
      .map((run) => ({
        run,
        first: dense.indexOf(run[0]),
        length: run.reduce((sum, at, i) => sum + (i ? distance(run[i - 1], at) : 0), 0),
      }))
      .filter(({ length }) => length > 30)
      .map(({ run, first }) => line(dense.slice(Math.max(0, first - 2), first + run.length + 2), { class: kind }));
  });
}

const between = (a: Metres, b: Metres, step: number): Line => {
  const pieces = Math.max(1, Math.round(distance(a, b) / step));
  return Array.from({ length: pieces }, (_, k): Metres => {
    const t = (k + 1) / pieces;
    return [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t];
  });
};

/** Whether a place lies within some meters of one of some paths. */
export const isNear = (paths: readonly Line[], at: Metres, within: number) =>
  paths.some((path) => nearestOn(path, at).away < within);
