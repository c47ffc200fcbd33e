import { clearOf, curve, distance, line, type DemoFeature, type Line, type Metres } from './frame.js';
import type { Terrain } from './terrain.js';
import { towns, villages } from './towns.js';

/** Trunk roads, laid by hand. */
const trunk: readonly { readonly ref: string; readonly name: string; readonly path: readonly Metres[] }[] = [
  {
    ref: 'N1',
    name: 'North Reach Road',
    path: [
      [-37500, 4200],
      [-30500, 6800],
      [-23000, 5200],
      [-16500, 4600],
      [-12600, 4300],
      [-9700, 3900],
      [-6900, 3000],
      [-4300, 2080],
      [-2400, 1220],
      [-900, 800],
      [-250, 760],
      [480, 1080],
      [1500, 2150],
      [2900, 2950],
      [4600, 3750],
      [5600, 3900],
      [7100, 4500],
      [8700, 6100],
    ],
  },
  {
    ref: 'S1',
    name: 'South Reach Road',
    path: [
      [-34500, -6200],
      [-29500, -8800],
      [-22500, -7600],
      [-16500, -4400],
      [-13200, -3000],
      [-10900, -2600],
      [-8700, -2250],
      [-6700, -1900],
      [-4700, -1850],
      [-3350, -1800],
      [-2000, -2150],
      [-400, -2050],
      [700, -1560],
      [1680, -1330],
      [2750, -1690],
      [3900, -2650],
      [5400, -3900],
      [7200, -4600],
      [7900, -5900],
    ],
  },
  {
    ref: 'X4',
    name: 'Head Road',
    path: [
      [-16500, 4600],
      [-17300, 2500],
      [-17200, 500],
      [-17000, -1800],
      [-16500, -4400],
    ],
  },
];

/** Country roads, by the places they pass. */
const country: readonly (readonly Metres[])[] = [
  [
    [-250, 760],
    [-700, 2500],
    [-1500, 5600],
    [-2200, 8600],
    [-900, 11500],
  ],
  [
    [-1500, 5600],
    [1500, 5200],
    [4600, 3750],
  ],
  [
    [-1500, 5600],
    [-4600, 5100],
    [-8200, 2600],
    [-9700, 3900],
  ],
  [
    [-3350, -1800],
    [-4200, -3900],
    [-6600, -5900],
    [-9600, -8800],
    [-11500, -12000],
  ],
  [
    [1680, -1330],
    [700, -3300],
    [-1500, -5200],
    [-6600, -5900],
    [-10900, -2600],
  ],
  [
    [1680, -1330],
    [3000, -4600],
    [2600, -7600],
    [200, -9800],
    [-4400, -11500],
  ],
  [
    [7200, -4600],
    [5200, -6900],
    [2600, -7600],
  ],
  [
    [-16500, 4600],
    [-18200, 8600],
    [-21500, 12000],
  ],
  [
    [-23000, 5200],
    [-24500, 800],
    [-23500, -3400],
    [-22500, -7600],
  ],
  [
    [-16500, -4400],
    [-18600, -9000],
    [-20500, -13200],
  ],
  [
    [-30500, 6800],
    [-31800, 900],
    [-29500, -8800],
  ],
  [
    [-2200, 8600],
    [-8600, 10600],
    [-18200, 8600],
  ],
  [
    [-9600, -8800],
    [-18600, -9000],
    [-29500, -8800],
  ],
];

/** Whether a road passes just there: places, and where it leaves a trunk road. */
const isFixed = ([x, y]: Metres) =>
  [...towns, ...villages].some(({ at }) => at[0] === x && at[1] === y) ||
  trunk.some(({ path }) => path.some((p) => p[0] === x && p[1] === y));

const countryCourse = (path: readonly Metres[]) =>
  curve(
    path.map((p) => (isFixed(p) ? p : stray(p))),
    60,
  );

/** Courses of the trunk roads, in meters. */
export const trunkCourses = (): Line[] => trunk.map(({ path }) => curve(path, 40));

/** Courses of the trunk and country roads, in meters. */
export const roadCourses = (): Line[] => [...trunkCourses(), ...country.map(countryCourse)];

/** Trunk roads and country roads, as they are in the data. */
export interface Roads {
  readonly features: DemoFeature[];
  /** Courses of the roads that may cross water. */
  readonly courses: readonly { readonly path: Line; readonly class: string }[];
  /** The lanes of each village. */
  readonly lanes: readonly (readonly Line[])[];
}

/** Widest water that a country road crosses by a bridge, in meters. */
const widestBridge = 520;

/** Trunk roads, country roads that end at a place or at another road, and the lanes of the villages. */
export function buildRoads(terrain: Terrain): Roads {
  const trunks = trunkCourses();
  const roads = country
    .flatMap((path) => bridged(countryCourse(path), terrain))
    .flatMap((path) => clearOf(path, trunks));
  const lanes = villages.map((place) =>
    [0, 1, 2, 3].flatMap((k) => {
      const turn = place.turn + (k * Math.PI) / 2;
      const far: Metres = [place.at[0] + Math.cos(turn) * place.radius, place.at[1] + Math.sin(turn) * place.radius];
      return dryRuns(curve([place.at, far], 40), terrain);
    }),
  );
  return {
    features: [
      ...trunk.map(({ ref, name }, i) => line(trunks[i], { class: 'trunk', ref, name })),
      ...roads.map((path) => line(path, { class: 'road' })),
      ...lanes.flat().map((path) => line(path, { class: 'lane' })),
      // Footpaths along the banks between the towns.
      ...towns.flatMap((town) => bankPath(town.at, terrain)),
    ],
    courses: [...trunks.map((path) => ({ path, class: 'trunk' })), ...roads.map((path) => ({ path, class: 'road' }))],
    lanes,
  };
}

/** A path with bridges over narrow water. Where the water is wide, the road ends before it, and what would lead nowhere is left out. */
function bridged(path: Line, terrain: Terrain): Line[] {
  const runs: { from: number; to: number }[] = [];
  path.forEach(([x, y], i) => {
    if (terrain.height(x, y) <= 3.4) return;
    const last = runs.at(-1);
    const gap =
      last && path.slice(last.to, i + 1).reduce((sum, at, k, all) => sum + (k ? distance(all[k - 1], at) : 0), 0);
    if (last && gap !== undefined && gap <= widestBridge) last.to = i;
    else runs.push({ from: i, to: i });
  });
  return runs
    .filter(({ from, to }) => to - from > 3 && (from < 4 || to > path.length - 5))
    .map(({ from, to }) => path.slice(from, to + 1));
}

const stray = ([x, y]: Metres): Metres => [x + 260 * Math.sin(y / 900), y + 260 * Math.cos(x / 1100)];

/** The stretches of a path on ground that stays dry. */
function dryRuns(path: Line, terrain: Terrain): Line[] {
  const runs: Line[] = [];
  let run: Line = [];
  for (const at of path) {
    if (terrain.height(at[0], at[1]) > 3.4) run.push(at);
    else {
      if (run.length > 4) runs.push(run);
      run = [];
    }
  }
  if (run.length > 4) runs.push(run);
  return runs;
}

/** A path that follows the edge of firm ground either way from the shore nearest to a town. */
function bankPath(from: Metres, terrain: Terrain): DemoFeature[] {
  const level = 3.9;
  const slope = ([x, y]: Metres): Metres => [
    terrain.height(x + 15, y) - terrain.height(x - 15, y),
    terrain.height(x, y + 15) - terrain.height(x, y - 15),
  ];
  let shore: Metres | undefined;
  for (let r = 100; r < 1600 && !shore; r += 20) {
    for (let k = 0; k < 48 && !shore; k++) {
      const at: Metres = [from[0] + r * Math.cos((k * Math.PI) / 24), from[1] + r * Math.sin((k * Math.PI) / 24)];
      if (terrain.height(at[0], at[1]) < level) shore = at;
    }
  }
  if (!shore) return [];
  return [1, -1].map((way) => {
    const path: Metres[] = [shore];
    let at = shore;
    for (let i = 0; i < 110; i++) {
      const [gx, gy] = slope(at);
      const steep = Math.hypot(gx, gy) || 1;
      const back = ((level - terrain.height(at[0], at[1])) / steep) * 30;
      const pull = Math.max(-9, Math.min(9, back));
      at = [
        at[0] - (way * gy * 22) / steep + (gx / steep) * pull,
        at[1] + (way * gx * 22) / steep + (gy / steep) * pull,
      ];
      if (i > 20 && distance(at, shore) < 60) break;
      path.push(at);
    }
    return line(
      curve(
        path.filter((_, i) => i % 3 === 0),
        20,
      ),
      { class: 'path', name: 'Bank Walk' },
    );
  });
}
