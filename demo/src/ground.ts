import { areasAbove, mapField, sampleField, type Field } from './contour.js';
import { distance, nearestOn, polygon, type DemoFeature, type Line, type Metres } from './frame.js';
import { randomFrom } from './random.js';
import { smoothField } from './waterways.js';

/** How far a built-up area reaches beyond the middle of a street, in meters. */
const reach = 58;

/** The built-up areas of some settlements: their streets with the ground beside them, without holes. */
export function builtUp(
  settlements: readonly { readonly at: Metres; readonly radius: number; readonly streets: readonly Line[] }[],
): DemoFeature[] {
  return settlements.flatMap(({ at: [x, y], radius, streets }) => {
    const side = radius * 1.5 + 120;
    const field = sampleField(
      [x - side, y - side, x + side, y + side],
      16,
      (px, py) => reach - streets.reduce((least, street) => Math.min(least, nearestOn(street, [px, py]).away), 1e4),
    );
    return areasAbove(smoothField(field, 2), 0, 20000).map(([outer]) => polygon([outer], { kind: 'built' }));
  });
}

/** Steps of light and shadow on slopes: the share of full light, less than on flat ground, at which each begins. */
const shadows = [-0.05, -0.11, -0.18, -0.26] as const;
const lights = [0.05, 0.1, 0.16] as const;

/**
 * Relief in steps, as if cut from paper: areas that are darker or brighter than flat ground by more and more, lit from the north-west. Each
 * area lies within that of the step before it. Flat ground and water have none.
 */
export function reliefSteps(heights: Field): DemoFeature[] {
  const coarse = thinned(smoothField(heights, 14), 3);
  const { columns, rows, step, values } = coarse;
  const light = smoothField(
    {
      ...coarse,
      values: values.map((h, k) => {
        const [c, r] = [k % columns, Math.floor(k / columns)];
        if (h < 3 || c < 1 || r < 1 || c >= columns - 1 || r >= rows - 1) return 0;
        // Slopes are drawn eight times as steep.
        const nx = (-8 * (values[k + 1] - values[k - 1])) / (2 * step);
        const ny = (-8 * (values[k + columns] - values[k - columns])) / (2 * step);
        return (-0.5 * nx + 0.5 * ny + Math.SQRT1_2) / Math.hypot(nx, ny, 1) - Math.SQRT1_2;
      }),
    },
    3,
  );
  const dark = mapField(light, (v) => -v);
  return [
    ...shadows.flatMap((level, i) =>
      areasAbove(dark, -level, 150000).map((rings) => polygon(rings, { step: -(i + 1) })),
    ),
    ...lights.flatMap((level, i) => areasAbove(light, level, 150000).map((rings) => polygon(rings, { step: i + 1 }))),
  ];
}

/** Every so many columns and rows of a field. */
function thinned(field: Field, every: number): Field {
  const columns = Math.floor((field.columns - 1) / every) + 1;
  const rows = Math.floor((field.rows - 1) / every) + 1;
  const values = new Float32Array(columns * rows);
  for (let r = 0; r < rows; r++)
    for (let c = 0; c < columns; c++) values[r * columns + c] = field.values[r * every * field.columns + c * every];
  return { ...field, step: field.step * every, columns, rows, values };
}

/** Houses on both sides of the lanes of a village. */
export function villageHouses(lanes: readonly Line[], seed: number): DemoFeature[] {
  const random = randomFrom(seed);
  const out: DemoFeature[] = [];
  const taken: Metres[] = [];
  for (const lane of lanes)
    for (let i = 1; i < lane.length; i++) {
      const [a, b] = [lane[i - 1], lane[i]];
      const length = distance(a, b);
      const [dx, dy] = [(b[0] - a[0]) / length, (b[1] - a[1]) / length];
      for (let s = random.between(2, 10); s < length; s += random.between(15, 26))
        for (const side of [1, -1]) {
          if (random() < 0.2) continue;
          const [w, d] = [random.between(8, 14), random.between(7, 10)];
          const off = side * (9 + d / 2 + random.between(0, 5));
          const middle: Metres = [a[0] + dx * s - dy * off, a[1] + dy * s + dx * off];
          if (
            taken.some((at) => distance(at, middle) < 17) ||
            lanes.some((other) => nearestOn(other, middle).away < 6 + d / 2)
          )
            continue;
          taken.push(middle);
          const corner = (u: number, v: number): Metres => [
            middle[0] + dx * u * w - dy * v * d,
            middle[1] + dy * u * w + dx * v * d,
          ];
          const height = Math.round((3.1 * (1 + Math.floor(random() * 2)) + random.between(1, 3)) * 10) / 10;
          out.push(
            polygon([[corner(-0.5, -0.5), corner(0.5, -0.5), corner(0.5, 0.5), corner(-0.5, 0.5)]], {
              height,
              kind: random() < 0.1 ? 'shop' : 'house',
            }),
          );
        }
    }
  return out;
}
