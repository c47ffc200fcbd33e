import { curve, nearestOn, type Line, type Metres } from './frame.js';
import { fractal, noiseFrom } from './noise.js';

/** Course of the Reach from its head in the west to the open sea in the east, with half its width, in meters. */
const course: readonly (readonly [number, number, number])[] = [
  [-14500, 1900, 14],
  [-12500, 900, 30],
  [-10800, 1400, 60],
  [-9000, 700, 110],
  [-7400, -300, 170],
  [-5600, -150, 230],
  [-4100, -750, 280],
  [-2600, -520, 330],
  [-1200, -900, 380],
  [200, -620, 430],
  [1500, -60, 470],
  [2800, 420, 640],
  [4300, 500, 1000],
  [6200, 150, 1600],
  [8600, -500, 2500],
  [11500, -700, 3900],
  [15500, -900, 7000],
];

/** Creeks that run into the Reach: points, and half the width at the mouth. */
const creeks: readonly { readonly path: readonly Metres[]; readonly mouth: number }[] = [
  {
    path: [
      [-6900, -3600],
      [-6100, -2900],
      [-6500, -2100],
      [-5700, -1500],
      [-5500, -300],
    ],
    mouth: 95,
  },
  {
    path: [
      [-3700, 3300],
      [-3300, 2500],
      [-3800, 1800],
      [-3300, 900],
      [-3200, -500],
    ],
    mouth: 80,
  },
  {
    path: [
      [2200, -3900],
      [3100, -3200],
      [2900, -2500],
      [3700, -1900],
      [4200, 200],
    ],
    mouth: 120,
  },
  {
    path: [
      [4200, 4300],
      [4300, 3500],
      [5200, 2900],
      [5000, 2000],
      [5600, 1000],
    ],
    mouth: 130,
  },
  {
    path: [
      [-9400, 3400],
      [-9000, 2500],
      [-9300, 1600],
      [-9000, 700],
    ],
    mouth: 55,
  },
  {
    path: [
      [-900, -3100],
      [-600, -2300],
      [-1100, -1700],
      [-800, -900],
    ],
    mouth: 45,
  },
];

/** Islands and ledges: east, north, radius, height above the bed. */
const bumps: readonly (readonly [number, number, number, number])[] = [
  [3350, 180, 330, 9],
  [-4650, -520, 190, 6],
  [6700, -700, 520, 13],
  [7600, 1250, 300, 11],
  [9400, -1900, 700, 15],
  [-1750, -640, 110, 5],
  [10900, 1300, 420, 14],
  [13200, -3100, 900, 26],
  [5200, 1150, 180, 8],
  [12400, 2900, 380, 20],
  [16500, 800, 500, 30],
];

const smoothStep = (low: number, high: number, v: number) => {
  const t = Math.max(0, Math.min(1, (v - low) / (high - low)));
  return t * t * (3 - 2 * t);
};

/** A smooth function looked up on a coarse grid, each node computed once, with straight mixing in between. */
function coarse(step: number, value: (x: number, y: number) => number): (x: number, y: number) => number {
  const side = 1024;
  const known = new Float64Array(side * side).fill(NaN);
  const node = (c: number, r: number) => {
    const at = r * side + c;
    return Number.isNaN(known[at]) ? (known[at] = value((c - side / 2) * step, (r - side / 2) * step)) : known[at];
  };
  return (x, y) => {
    const u = x / step + side / 2;
    const v = y / step + side / 2;
    const c = Math.floor(u);
    const r = Math.floor(v);
    if (c < 0 || r < 0 || c >= side - 1 || r >= side - 1) return value(x, y);
    const top = node(c, r) + (u - c) * (node(c + 1, r) - node(c, r));
    const low = node(c, r + 1) + (u - c) * (node(c + 1, r + 1) - node(c, r + 1));
    return top + (v - r) * (low - top);
  };
}

export interface Terrain {
  /** Meters above low water. */
  height(x: number, y: number): number;
  /** 0 out at sea to 1 well inside the Reach and its creeks. */
  shelter(x: number, y: number): number;
  /** Woodland where above 0. */
  wood(x: number, y: number): number;
  /** Meters from the open coast, positive inland. */
  inland(x: number, y: number): number;
  /** The bed of the water as a survey finds it: the height, with banks and hollows where the water is deep. */
  bed(x: number, y: number): number;
  /** Uneven ground of the sea-bed, −1 to 1. */
  bank(x: number, y: number): number;
  readonly channel: Line;
  /** Courses of the creeks, from their heads to the Reach. */
  readonly creeks: readonly Line[];
}

export function makeTerrain(): Terrain {
  const rough = fractal(noiseFrom(11), 5, 0.55);
  const hills = fractal(noiseFrom(12), 4);
  const bend = fractal(noiseFrom(13), 3);
  const swell = fractal(noiseFrom(16), 2);
  const trees = fractal(noiseFrom(14), 4, 0.55);
  const runnels = noiseFrom(15);
  const channel = curve(
    course.map(([x, y]) => [x, y]),
    220,
  );
  const widths = curve(
    course.map(([x, , w]) => [x, w]),
    220,
  );
  const halfWidth = (x: number) => {
    let low = 0;
    let high = widths.length - 1;
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (widths[middle][0] < x) low = middle;
      else high = middle;
    }
    const [x0, w0] = widths[low];
    const [x1, w1] = widths[high];
    return w0 + (w1 - w0) * Math.max(0, Math.min(1, (x - x0) / (x1 - x0)));
  };
  const courses = creeks.map(({ path, mouth }) => ({ path: curve(path, 90), mouth }));

  /** Meters from the nearest bank, negative in the water. */
  const bank = coarse(70, (x: number, y: number): number => {
    let best = 1e5;
    if (x > -27000) {
      const near = nearestOn(channel, [x, y]);
      best = near.away - halfWidth(channel[Math.min(channel.length - 1, Math.round(near.index))][0]);
    }
    for (const { path, mouth } of courses) {
      if (Math.abs(x - path[0][0]) > 6000 || Math.abs(y - path[0][1]) > 6000) continue;
      const near = nearestOn(path, [x, y]);
      best = Math.min(best, near.away - mouth * (0.12 + 0.88 * (near.index / path.length)));
    }
    return best;
  });

  const island = coarse(96, (x: number, y: number) => {
    const wx = x + 7200 * bend(x / 19000, y / 19000) + 2600 * rough(x / 8000, y / 8000);
    const wy = y + 7200 * bend(x / 19000 + 40, y / 19000 - 7) + 2600 * rough(x / 8000 + 9, y / 8000);
    const r = Math.sqrt(((wx + 14500) / 29000) ** 2 + ((wy + 600) / 19500) ** 2);
    return (1 - r) * 19500;
  });

  const height = (x: number, y: number): number => {
    const inland = island(x, y);
    if (inland < -4500 && x < 3000) return -40;
    const relief = rough(x / 900, y / 900);
    const fine = rough(x / 230 + 5, y / 230);
    // Open coast: a beach, then hills that grow inland.
    let h = inland * 0.012 + relief * 5 + fine * 1.2;
    if (h > 4) h = 4 + (h - 4) * 0.5 + smoothStep(500, 6000, inland) * (34 + 60 * hills(x / 5200, y / 5200));
    else if (h < -3) h = -3 + (h + 3) * 0.42;
    if (x > -26000 && x < 17000 && Math.abs(y) < 9000) {
      const away = bank(x, y) + 150 * relief + 60 * fine + 150 * swell(x / 1900, y / 1900);
      // Banks: mud, then marsh, then firm ground; the bed deepens to mid-channel.
      const steep = 0.55 + 1.5 * smoothStep(-0.25, 0.45, swell(x / 1300 + 20, y / 1300));
      const shore =
        away < 0
          ? Math.max(-14, away * 0.021)
          : away * 0.0155 * steep < 3.25
            ? away * 0.0155 * steep
            : 3.25 + (away - 210 / steep) * 0.026;
      const runnel = Math.abs(runnels(x / 210, y / 210)) + 0.35 * Math.abs(runnels(x / 95 + 4, y / 95));
      const creeky =
        away > 10 && away < 420
          ? 2.6 * Math.max(0, 0.17 - runnel) * 8 * smoothStep(10, 70, away) * (1 - smoothStep(260, 420, away))
          : 0;
      h = Math.min(h, shore - creeky);
    }
    for (const [bx, by, radius, top] of bumps) {
      if (Math.abs(x - bx) > 2 * radius + 120 || Math.abs(y - by) > 2 * radius + 120) continue;
      const far = Math.sqrt((x - bx + 90 * relief) ** 2 + ((y - by + 60 * fine) * 1.5) ** 2) / radius;
      if (far < 1.9) h = Math.max(h, top * (1 - smoothStep(0.15, 1.9, far)) - top * 0.42 + fine * 1.1);
    }
    return h;
  };

  const bed = (x: number, y: number): number => {
    const h = height(x, y);
    return (
      h +
      smoothStep(7, 13, -h) *
        (2.6 * swell(x / 1500 + 7, y / 1500) + 1.4 * rough(x / 420, y / 420) - 1.2 - 0.00028 * Math.max(0, x - 3000))
    );
  };

  return {
    height,
    bed,
    shelter: (x, y) =>
      (x > -17500 && x < 9500 && Math.abs(y) < 9000 ? 1 - smoothStep(600, 1400, bank(x, y)) : 0) *
      (1 - smoothStep(5200, 9500, x)),
    inland: island,
    bank: (x, y) => bend(x / 52000 + 3, y / 52000) + 0.22 * rough(x / 14000, y / 14000),
    wood: (x, y) => trees(x / 2600, y / 2600) + 0.25 * trees(x / 400 + 3, y / 400) - 0.14,
    channel,
    creeks: courses.map(({ path }) => path),
  };
}
