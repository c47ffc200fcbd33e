import {
  clearOf,
  distance,
  line,
  nearestOn,
  point,
  polygon,
  type DemoFeature,
  type Line,
  type Metres,
} from './frame.js';
import { fractal, noiseFrom } from './noise.js';
import { randomFrom, type Random } from './random.js';
import type { Terrain } from './terrain.js';

export interface Town {
  readonly name: string;
  readonly at: Metres;
  readonly radius: number;
  /** Direction of the main streets, radians from east. */
  readonly turn: number;
  readonly rank: number;
}

export const towns: readonly Town[] = [
  { name: 'Hallow Quay', at: [-250, 760], radius: 1080, turn: 0.18, rank: 1 },
  { name: 'Tamvoril', at: [1680, -1330], radius: 880, turn: -0.32, rank: 2 },
  { name: 'Sallowmere', at: [-3350, -1800], radius: 680, turn: 0.1, rank: 2 },
];

export const villages: readonly Town[] = [
  { name: 'Ulvrask Steps', at: [-8200, 2600], radius: 260, turn: 0.5, rank: 3 },
  { name: 'Under Sefkin', at: [5600, 3900], radius: 280, turn: -0.4, rank: 3 },
  { name: 'Cold Vandrel', at: [7200, -4600], radius: 260, turn: 0.3, rank: 3 },
  { name: 'Perrindask', at: [-10900, -2600], radius: 250, turn: 0.9, rank: 3 },
  { name: 'Marvuthe', at: [-6600, -5900], radius: 240, turn: -0.2, rank: 3 },
  { name: 'Tazvin Cross', at: [-1500, 5600], radius: 270, turn: 0.2, rank: 3 },
];

const firstParts = [
  'Tanner',
  'Cooper',
  'Sail',
  'Rope',
  'Gull',
  'Lantern',
  'Salt',
  'Pilot',
  'Chandler',
  'Kiln',
  'Osier',
  'Plover',
  'Anchor',
  'Thrift',
  'Weir',
  'Sluice',
  'Curlew',
  'Bellman',
  'Copper',
  'Ferryman',
  'Hawser',
  'Linen',
  'Orchard',
  'Quarry',
  'Samphire',
  'Teasel',
  'Well',
  'Winch',
  'Barley',
  'Shingle',
  'Bramble',
  'Kelp',
  'Mast',
  'Oar',
  'Tern',
  'Yarrow',
];
const lastParts = ['Street', 'Lane', 'Row', 'Walk', 'Rise', 'Hill', 'Passage', 'Gate', 'Yard', 'Side'];

export interface TownWork {
  readonly streets: DemoFeature[];
  /** Courses of the streets, in meters. */
  readonly courses: Line[];
  readonly buildings: DemoFeature[];
  readonly addresses: DemoFeature[];
  readonly parks: DemoFeature[];
}

interface Node {
  readonly at: Metres;
  readonly inTown: boolean;
}

const bendNoise = fractal(noiseFrom(31), 2);

/** Streets on a bent grid, blocks between them, and houses along the sides of the blocks. */
export function buildTown(
  town: Town,
  terrain: Terrain,
  { courses, trunks }: { readonly courses: readonly Line[]; readonly trunks: readonly Line[] },
  seed: number,
): TownWork {
  // Only the pieces of road that come near the town matter.
  const roads = courses
    .map((course) => course.filter((at) => distance(at, town.at) < town.radius * 1.6))
    .filter((course) => course.length > 1);
  const random = randomFrom(seed);
  const work: TownWork = { streets: [], courses: [], buildings: [], addresses: [], parks: [] };
  const gap = 88;
  const reach = Math.ceil(town.radius / gap) + 1;
  const [cos, sin] = [Math.cos(town.turn), Math.sin(town.turn)];
  const nodes = new Map<string, Node>();
  const key = (i: number, j: number) => `${i},${j}`;
  const shiftI = spread(reach, gap, random);
  const shiftJ = spread(reach, gap, random);
  for (let i = -reach; i <= reach; i++) {
    for (let j = -reach; j <= reach; j++) {
      const u = shiftI(i) + random.between(-7, 7);
      const v = shiftJ(j) + random.between(-7, 7);
      const px = town.at[0] + u * cos - v * sin;
      const py = town.at[1] + u * sin + v * cos;
      const at: Metres = [px + 70 * bendNoise(px / 520, py / 520), py + 70 * bendNoise(px / 520 + 31, py / 520)];
      const edge = town.radius * (0.86 + 0.34 * bendNoise(at[0] / 420 + 7, at[1] / 420));
      const dry = [
        [0, 0],
        [24, 0],
        [-24, 0],
        [0, 24],
        [0, -24],
      ].every(([dx, dy]) => terrain.height(at[0] + dx, at[1] + dy) > 3.6);
      nodes.set(key(i, j), { at, inTown: dry && distance(at, town.at) < edge });
    }
  }
  const present = (i: number, j: number) => nodes.get(key(i, j))?.inTown === true;
  const broken = new Set<string>();
  const rank = (index: number) => (index === 0 ? 'main' : index % 4 === 0 ? 'street' : 'lane');
  const edgeKey = (i: number, j: number, along: boolean) => `${i},${j},${along}`;
  for (let i = -reach; i < reach; i++) {
    for (let j = -reach; j < reach; j++) {
      if (rank(j) === 'lane' && random() < 0.13) broken.add(edgeKey(i, j, true));
      if (rank(i) === 'lane' && random() < 0.2) broken.add(edgeKey(i, j, false));
    }
  }
  const names = new Set<string>();
  const streetName = () => {
    for (let tries = 0; tries < 200; tries++) {
      const name = `${random.pick(firstParts)} ${random.pick(lastParts)}`;
      if (!names.has(name)) return (names.add(name), name);
    }
    return `${random.pick(firstParts)} ${random.pick(firstParts)} ${random.pick(lastParts)}`;
  };
  const nameOf = new Map<string, string>();
  const run = (index: number, along: boolean) => {
    const name = index === 0 ? (along ? 'High Street' : `${town.name.split(' ')[0]} Gate`) : streetName();
    nameOf.set(`${index},${along}`, name);
    let path: Line = [];
    const flush = () => {
      if (path.length > 1) {
        work.courses.push(path);
        for (const street of besides(soften(path), trunks))
          work.streets.push(line(street, { class: rank(index), name }));
      }
      path = [];
    };
    for (let k = -reach; k <= reach; k++) {
      const [i, j] = along ? [k, index] : [index, k];
      if (!present(i, j)) flush();
      else {
        path.push(nodes.get(key(i, j))!.at);
        if (broken.has(edgeKey(i, j, along))) flush();
      }
    }
    flush();
  };
  for (let index = -reach; index <= reach; index++) {
    run(index, true);
    run(index, false);
  }
  for (let i = -reach; i < reach; i++) {
    for (let j = -reach; j < reach; j++) {
      if (
        ![
          [i, j],
          [i + 1, j],
          [i + 1, j + 1],
          [i, j + 1],
        ].every(([a, b]) => present(a, b))
      )
        continue;
      const corners = [
        [i, j],
        [i + 1, j],
        [i + 1, j + 1],
        [i, j + 1],
      ].map(([a, b]) => nodes.get(key(a, b))!.at);
      const middle = distance(corners[0], town.at) / town.radius;
      if (random() < 0.035 && middle > 0.15) {
        work.parks.push(polygon([inset(corners, 9)], { kind: 'park', name: `${random.pick(firstParts)} Green` }));
        continue;
      }
      const sideNames = [
        nameOf.get(`${j},true`),
        nameOf.get(`${i + 1},false`),
        nameOf.get(`${j + 1},true`),
        nameOf.get(`${i},false`),
      ];
      const open = [
        !broken.has(edgeKey(i, j, true)),
        !broken.has(edgeKey(i + 1, j, false)),
        !broken.has(edgeKey(i, j + 1, true)),
        !broken.has(edgeKey(i, j, false)),
      ];
      const wide = [j === 0, i + 1 === 0, j + 1 === 0, i === 0];
      fillBlock({
        corners,
        names: sideNames as string[],
        open,
        wide,
        middle,
        random,
        work,
        free: (at) => roads.every((road) => nearestOn(road, at).away > 18),
      });
    }
  }
  return work;
}

/** The parts of a street that are not a trunk road at the same time. */
function besides(street: Line, trunks: readonly Line[]): Line[] {
  const dense = street.flatMap((at, i) => {
    const next = street[i + 1];
    if (!next) return [at];
    const count = Math.ceil(distance(at, next) / 12);
    return Array.from({ length: count }, (_, k): Metres => [
      at[0] + ((next[0] - at[0]) * k) / count,
      at[1] + ((next[1] - at[1]) * k) / count,
    ]);
  });
  const parts = clearOf(dense, trunks);
  return parts.length === 1 && parts[0].length === dense.length ? [street] : parts;
}

/** Uneven spacing of grid lines. */
function spread(reach: number, gap: number, random: Random): (index: number) => number {
  const at = new Map<number, number>([[0, 0]]);
  for (let i = 1; i <= reach; i++) {
    at.set(i, at.get(i - 1)! + gap * random.between(0.82, 1.22));
    at.set(-i, at.get(1 - i)! - gap * random.between(0.82, 1.22));
  }
  return (index) => at.get(index)!;
}

/** Rounds the corners of a street a little. */
function soften(path: Line): Line {
  const out: Line = [path[0]];
  for (let i = 1; i < path.length - 1; i++) {
    const mix = (a: Metres, b: Metres, t: number): Metres => [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t];
    out.push(
      mix(path[i], path[i - 1], 0.14),
      mix(path[i], path[i - 1], 0.03),
      mix(path[i], path[i + 1], 0.03),
      mix(path[i], path[i + 1], 0.14),
    );
  }
  out.push(path[path.length - 1]);
  return out;
}

function inset(corners: readonly Metres[], by: number): Line {
  const cx = corners.reduce((s, c) => s + c[0], 0) / corners.length;
  const cy = corners.reduce((s, c) => s + c[1], 0) / corners.length;
  return corners.map(([x, y]) => {
    const d = Math.hypot(x - cx, y - cy);
    return [cx + ((x - cx) * (d - by * 1.4)) / d, cy + ((y - cy) * (d - by * 1.4)) / d];
  });
}

/** A block of houses between four streets. */
interface Block {
  readonly corners: readonly Metres[];
  /** The street along each side, whether there is one, and whether it is wide. */
  readonly names: readonly string[];
  readonly open: readonly boolean[];
  readonly wide: readonly boolean[];
  /** How far out of town the block lies, 0 to 1. */
  readonly middle: number;
  readonly random: Random;
  readonly work: TownWork;
  /** Whether a house may stand at a place. */
  free(at: Metres): boolean;
}

function fillBlock({ corners, names, open, wide, middle, random, work, free }: Block): void {
  const dense = middle < 0.32;
  const back = dense ? 6.6 : random.between(7.5, 9.5);
  for (let side = 0; side < 4; side++) {
    if (!open[side]) continue;
    const setback = back + (wide[side] ? 3.2 : 0);
    const a = corners[side];
    const b = corners[(side + 1) % 4];
    const length = distance(a, b);
    const [dx, dy] = [(b[0] - a[0]) / length, (b[1] - a[1]) / length];
    // The block lies to the left of its sides, which run counter-clockwise.
    const [nx, ny] = [-dy, dx];
    let along = setback + random.between(2, 6) + (side % 2 ? 17 : 1);
    const end = length - setback - (side % 2 ? 20 : 4);
    let house = 1 + Math.floor(random() * 3);
    while (along < end - 6) {
      const width = dense ? random.between(8, 17) : random.between(8, 14);
      if (along + width > end) break;
      const depth = random.between(8, dense ? 13 : 11);
      const jitter = dense ? 0 : random.between(0, 3);
      const standsAt: Metres = [
        a[0] + dx * (along + width / 2) + nx * (setback + depth / 2),
        a[1] + dy * (along + width / 2) + ny * (setback + depth / 2),
      ];
      if (random() > middle * 0.26 && free(standsAt)) {
        const at = (s: number, t: number): Metres => [
          a[0] + dx * (along + s) + nx * (setback + jitter + t),
          a[1] + dy * (along + s) + ny * (setback + jitter + t),
        ];
        const wing = random() < 0.3 && width > 10;
        const w = width - (dense ? 0.4 : 1.5);
        const shape: Line = wing
          ? [at(0, 0), at(w, 0), at(w, depth), at(w * 0.55, depth), at(w * 0.55, depth * 0.62), at(0, depth * 0.62)]
          : [at(0, 0), at(w, 0), at(w, depth), at(0, depth)];
        const storeys = dense ? 2 + Math.floor(random() * 3) : 1 + Math.floor(random() * 2.4);
        const id = work.buildings.length + 1;
        work.buildings.push(
          polygon(
            [shape],
            {
              height: Math.round((storeys * 3.1 + random.between(1, 3)) * 10) / 10,
              kind: dense && random() < 0.3 ? 'shop' : 'house',
            },
            id,
          ),
        );
        // Within the walls, near the street, where a number finds room.
        work.addresses.push(
          point(at(w / 2, Math.min(3.4, depth * 0.31)), { number: String(house), street: names[side] }),
        );
        house += 2;
      }
      along += width + (dense ? random.between(0, 1.2) : random.between(2.5, 9));
    }
  }
}
