import { curve, line, nearestOn, point, polygon, type DemoFeature, type Line, type Metres } from './frame.js';
import { randomFrom } from './random.js';
import type { Terrain } from './terrain.js';
import { towns } from './towns.js';

/** Where the quay of a town stands: the first wet place going from its middle towards the channel. */
export function quayOf(name: string, terrain: Terrain): Metres {
  const town = towns.find((t) => t.name === name)!;
  const near = terrain.channel[Math.round(nearestOn(terrain.channel, town.at).index)];
  for (let t = 0; t < 1; t += 0.005) {
    const at: Metres = [town.at[0] + (near[0] - town.at[0]) * t, town.at[1] + (near[1] - town.at[1]) * t];
    if (terrain.height(at[0], at[1]) < 0.6) return at;
  }
  return near;
}

export interface Afloat {
  readonly ferries: DemoFeature[];
  readonly stops: DemoFeature[];
  readonly buoys: DemoFeature[];
  readonly gauges: DemoFeature[];
  readonly moorings: DemoFeature[];
  readonly piers: DemoFeature[];
  readonly lights: DemoFeature[];
}

export function buildAfloat(terrain: Terrain): Afloat {
  const random = randomFrom(71);
  const { channel } = terrain;
  const hallow = quayOf('Hallow Quay', terrain);
  const tamvoril = quayOf('Tamvoril', terrain);
  const sallow = quayOf('Sallowmere', terrain);
  const mid = (x: number): Metres =>
    channel.reduce((best, at) => (Math.abs(at[0] - x) < Math.abs(best[0] - x) ? at : best));
  const stopList: readonly (readonly [string, Metres])[] = [
    ['Hallow Quay', hallow],
    ['Tamvoril Hard', tamvoril],
    ['Sallowmere Steps', sallow],
    ['Inner Skarn', [3020, 20]],
    ['Gannet Ledge', [7250, 1240]],
    ['Wether Island', [8650, -1780]],
  ];
  const stops = stopList.map(([name, at], i) => point(at, { kind: 'ferry', name }, i + 1));
  const routes: readonly (readonly [string, readonly Metres[]])[] = [
    ['Cross-Reach', [hallow, [(hallow[0] + tamvoril[0]) / 2 + 60, (hallow[1] + tamvoril[1]) / 2], tamvoril]],
    ['Upper Reach', [hallow, mid(-900), mid(-2000), mid(-2900), sallow]],
    ['Island Line', [hallow, mid(900), mid(1900), [3020, 20]]],
    ['Outer Roads', [hallow, mid(1300), [2500, 760], [4200, 700], [5900, 350], [7250, 1240]]],
    [
      'Wether Packet',
      [
        [7250, 1240],
        [8300, 300],
        [8500, -700],
        [8650, -1780],
      ],
    ],
  ];
  const ferries = routes.map(([name, path], i) => line(curve(path, 40), { name, minutes: 8 + 6 * i }, i + 1));

  const piers = [...stopList.slice(0, 3)].flatMap(([name, at]) => {
    const near = channel[Math.round(nearestOn(channel, at).index)];
    const far = Math.hypot(near[0] - at[0], near[1] - at[1]);
    const [dx, dy] = [(near[0] - at[0]) / far, (near[1] - at[1]) / far];
    const deck = (from: number, to: number, half: number, shift: number): Line =>
      [
        [from, -half],
        [to, -half],
        [to, half],
        [from, half],
      ].map(([s, t]) => [at[0] + dx * s - dy * (t + shift), at[1] + dy * s + dx * (t + shift)]);
    return [
      polygon([deck(-150, 26, 4, 0)], { name }),
      polygon([deck(20, 29, 24, 0)], { name }),
      ...[-60, 60].map((shift) => polygon([deck(-130, 4, 2.2, shift)], { name })),
    ];
  });

  const buoys: DemoFeature[] = [];
  const along = curve(channel, 60);
  let since = 0;
  for (let i = 1; i < along.length - 1; i++) {
    since += 60;
    const [x, y] = along[i];
    if (x < -7000 || x > 12500 || since < 640 + Math.max(0, x) * 0.06) continue;
    since = 0;
    const [tx, ty] = [along[i + 1][0] - along[i - 1][0], along[i + 1][1] - along[i - 1][1]];
    const length = Math.hypot(tx, ty);
    for (const side of [1, -1]) {
      let off = 40;
      while (off < 900 && terrain.height(x - (side * ty * off) / length, y + (side * tx * off) / length) < -3.4)
        off += 15;
      const number = buoys.length + 1;
      buoys.push(
        point(
          [x - (side * ty * off) / length, y + (side * tx * off) / length],
          {
            kind: side > 0 ? 'north' : 'south',
            name: `R${number}`,
            light: random() < 0.6 ? `Fl ${random.pick([2, 3, 4, 6])}s` : 'unlit',
          },
          number,
        ),
      );
    }
  }
  const gauges = (
    [
      ['Head Bridge', mid(-9500)],
      ['Sallow Bar', mid(-3500)],
      ['Hallow Quay', [hallow[0] + 60, hallow[1]]],
      ['Inner Skarn', [3600, -260]],
      ['Outer Roads', [7900, 300]],
    ] as const
  ).map(([name, at], i) =>
    point(at, { kind: 'gauge', name: `${name} gauge`, datum: Math.round(random.between(1.2, 3.4) * 100) / 100 }, i + 1),
  );
  const lights = (
    [
      ['Gannet Ledge light', [7600, 1260], 'Fl(3) 15 s', 31, 14],
      ['Wether light', [9700, -1960], 'Fl 10 s', 44, 18],
      ['Bar beacon', [5200, 1160], 'Q', 9, 5],
      ['Sefkin Head light', [8650, 5350], 'Fl(2) 20 s', 52, 21],
    ] as const
  ).map(([name, at, light, height, range], i) => point(at, { kind: 'light', name, light, height, range }, i + 1));
  return { ferries, stops, buoys, gauges, moorings: buildMoorings(terrain), piers, lights };
}

function buildMoorings(terrain: Terrain): DemoFeature[] {
  const random = randomFrom(72);
  const out: DemoFeature[] = [];
  const course = curve(
    terrain.channel.filter(([x]) => x > -6600 && x < 8200),
    40,
  );
  const taken = new Set<string>();
  for (let field = 0; out.length < 4000 && field < 4000; field++) {
    const i = 1 + Math.floor(random() ** 0.8 * (course.length - 2));
    const [x, y] = course[i];
    const angle = Math.atan2(course[i + 1][1] - course[i - 1][1], course[i + 1][0] - course[i - 1][0]);
    const side = random() < 0.5 ? 1 : -1;
    const off = side * random.between(90, 260 + Math.max(0, x) * 0.12);
    const kind = random() < 0.2 ? 'visitor' : random() < 0.72 ? 'resident' : 'trade';
    const letter = String.fromCharCode(65 + (field % 26)) + String.fromCharCode(65 + (Math.floor(field / 26) % 26));
    const rows = 2 + Math.floor(random() * 5);
    const columns = 4 + Math.floor(random() * 12);
    let number = 0;
    for (let r = 0; r < rows; r++) {
      for (let c = 0; c < columns && out.length < 4000; c++) {
        const s = (c - columns / 2) * 24 + random.between(-4, 4);
        const t = off + (r - rows / 2) * 27 + random.between(-4, 4);
        const at: Metres = [
          x + Math.cos(angle) * s - Math.sin(angle) * t,
          y + Math.sin(angle) * s + Math.cos(angle) * t,
        ];
        const depth = terrain.height(at[0], at[1]);
        const cell = `${Math.round(at[0] / 18)},${Math.round(at[1] / 18)}`;
        if (depth > -0.7 || depth < -9 || taken.has(cell)) continue;
        taken.add(cell);
        number++;
        out.push(
          point(
            at,
            {
              code: `${letter}${number}`,
              kind: random() < 0.85 ? kind : random.pick(['visitor', 'resident', 'trade']),
              berths: 1 + Math.floor(random() ** 3 * 4),
              draught: Math.round(-depth * 10) / 10,
              name: `Mooring ${letter}${number}`,
            },
            out.length + 1,
          ),
        );
      }
    }
  }
  return out;
}

export interface Beds {
  readonly beds: DemoFeature[];
  readonly yields: string;
}

/** Oyster beds as four-sided plots on the flats, and a separate table of what they yield. */
export function buildBeds(terrain: Terrain): Beds {
  const random = randomFrom(73);
  const beds: DemoFeature[] = [];
  const rows = ['bed,tonnes,density,tenant,since,flag'];
  // Each tenant has a color.
  const flags = ['#b8452f', '#d98a2b', '#6f8f3f', '#2f7a6c', '#3d6f99', '#6a5a8c'];
  const words = [
    'Copper',
    'Lantern',
    'Plover',
    'Thrift',
    'Osier',
    'Winter',
    'Long',
    'Maiden',
    'Penny',
    'Shingle',
    'North',
    'Kettle',
    'Hollow',
    'Far',
    'Amber',
    'Slack',
  ];
  const used: Metres[] = [];
  for (let tries = 0; tries < 6000 && beds.length < 42; tries++) {
    const x = random.between(1500, 6600);
    const near = terrain.channel.reduce((best, at) => (Math.abs(at[0] - x) < Math.abs(best[0] - x) ? at : best));
    const at: Metres = [x, near[1] + random.between(-1500, 1500)];
    const depth = terrain.height(at[0], at[1]);
    if (depth > 0.4 || depth < -5 || used.some(([ux, uy]) => Math.hypot(ux - at[0], uy - at[1]) < 235)) continue;
    const turn = 0.35 + random.between(-0.25, 0.25);
    const [w, h] = [random.between(70, 115), random.between(48, 80)];
    const corners = [
      [-1, -1],
      [1, -1],
      [1, 1],
      [-1, 1],
    ].map(([s, t]): Metres => {
      const u = s * w + random.between(-14, 14) + t * 16;
      const v = t * h + random.between(-12, 12);
      return [at[0] + u * Math.cos(turn) - v * Math.sin(turn), at[1] + u * Math.sin(turn) + v * Math.cos(turn)];
    });
    if (corners.some(([cx, cy]) => terrain.height(cx, cy) > 1.2)) continue;
    used.push(at);
    const code = `OB-${String(beds.length + 1).padStart(2, '0')}`;
    beds.push(
      polygon(
        [corners],
        {
          code,
          name: `${random.pick(words)} ${random.pick(['Lay', 'Bed', 'Ground', 'Plot'])}`,
          kind: random.pick(['native', 'rock', 'seed']),
        },
        beds.length + 1,
      ),
    );
    if (beds.length % 14) {
      const tonnes = (random() ** 2 * 130 + 1).toFixed(1);
      const density = random.pick(['thin', 'fair', 'dense']);
      const tenant = 1 + Math.floor(random() * 18);
      const since = 2004 + Math.floor(random() * 21);
      rows.push(`${code},${tonnes},${density},Tenant ${tenant},${since},${flags[tenant % flags.length]}`);
    }
  }
  rows.push('OB-77,12.0,fair,Tenant 3,2019,#6f8f3f');
  return { beds, yields: rows.join('\n') + '\n' };
}

/** 120,000 sightings of made-up species, thickest on the flats and the islands. */
export function buildSightings(terrain: Terrain): string {
  const random = randomFrom(74);
  const species = [
    'slate tern',
    'reed heron',
    'amber wader',
    'lantern gull',
    'chalk plover',
    'marsh piper',
    'ledge gannet',
    'copper teal',
  ];
  const rows = ['lon,lat,species,count,seen'];
  const hot: Metres[] = Array.from({ length: 90 }, () => [random.between(-8000, 11000), random.between(-3200, 3200)]);
  for (let n = 0; n < 120000;) {
    const [hx, hy] = hot[Math.floor(random() ** 1.6 * hot.length)];
    const r = 520 * Math.sqrt(-2 * Math.log(1 - random()));
    const a = random() * 2 * Math.PI;
    const at: Metres = [hx + r * Math.cos(a), hy + r * 0.7 * Math.sin(a)];
    // Height is dear to compute; one look for a flock of eight.
    const h = terrain.height(at[0], at[1]);
    if (h > 4.5 || h < -7) {
      n += random() < 0.02 ? 1 : 0;
      continue;
    }
    const kind =
      species[Math.floor((((Math.abs(hx * 7 + hy * 3) / 900) % species.length) + random() * 2) % species.length)];
    const day = new Date(Date.UTC(2025, 0, 1) + Math.floor(random() * 365) * 86400000).toISOString().slice(0, 10);
    for (let k = 0; k < 8 && n < 120000; k++, n++) {
      const lon = -31.18 + (at[0] + random.between(-60, 60)) / 79156;
      const lat = 44.62 + (at[1] + random.between(-60, 60)) / 111195;
      rows.push(`${lon.toFixed(6)},${lat.toFixed(6)},${kind},${1 + Math.floor(random() ** 4 * 60)},${day}`);
    }
  }
  return rows.join('\n') + '\n';
}
