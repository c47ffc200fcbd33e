import { geodesicOn, insideRings, type Sheet } from '@flintwright/core';
import { areasAbove, mapField, sampleField } from './contour.js';
import type { DemoFeature, Line } from './frame.js';
import { fractal, noiseFrom } from './noise.js';
import { randomFrom } from './random.js';

// Zeblune, a planet with continents and nations, all of it made up: for whole-world projections.

const radians = Math.PI / 180;
type Place = [number, number];

/** Rough noise on a sphere, about −1 to 1. */
function sphereNoise(seed: number, scale: number, octaves: number): (lon: number, lat: number) => number {
  const planes = [0, 1, 2].map((k) => fractal(noiseFrom(seed + k), octaves, 0.55));
  return (lon, lat) => {
    const [l, p] = [lon * radians, lat * radians];
    const [x, y, z] = [Math.cos(p) * Math.cos(l), Math.cos(p) * Math.sin(l), Math.sin(p)].map((v) => v * scale);
    return (planes[0](x + 3, y - 5) + planes[1](y + 11, z + 2) + planes[2](z - 7, x + 13)) / 1.7;
  };
}

/** Brings a place beyond a pole or the antimeridian back to where it lies. */
function brought(lon: number, lat: number): Place {
  if (lat > 90) return [lon + 180, 180 - lat];
  if (lat < -90) return [lon + 180, -180 - lat];
  return [lon, lat];
}

/** The part of a ring on one side of a bound. */
function cut(ring: Line, axis: 0 | 1, bound: number, sign: 1 | -1): Line {
  const out: Place[] = [];
  ring.forEach((to, i) => {
    const from = ring[(i + ring.length - 1) % ring.length];
    const [a, b] = [(from[axis] - bound) * sign, (to[axis] - bound) * sign];
    if (a < 0 !== b < 0) {
      const t = a / (a - b);
      const other = from[1 - axis] + (to[1 - axis] - from[1 - axis]) * t;
      out.push(axis ? [other, bound] : [bound, other]);
    }
    if (b >= 0) out.push([to[0], to[1]]);
  });
  return out;
}

const round = (v: number) => Math.round(v * 1e4) / 1e4;

/** Polygons within the bounds of longitude and latitude, closed, for GeoJSON. */
function world(polygons: readonly Line[][], properties: DemoFeature['properties'], id: number): DemoFeature {
  const coordinates = polygons.flatMap((rings) => {
    const kept = rings
      .map((ring) => ring.map(([x, y]) => [x / 100, y / 100] as Place))
      .map((ring) => cut(cut(cut(cut(ring, 0, -180, 1), 0, 180, -1), 1, -90, 1), 1, 90, -1))
      .filter((ring) => ring.length > 2)
      .map((ring) => [...ring, ring[0]].map(([lon, lat]) => [round(lon), round(lat)] as Place));
    return kept.length ? [kept] : [];
  });
  return { type: 'Feature', id, properties, geometry: { type: 'MultiPolygon', coordinates } } as unknown as DemoFeature;
}

/** Parts of names: three of them make a name of four syllables or more that means nothing in any language. */
const beginnings = ['Vask', 'Quel', 'Zeph', 'Thrun', 'Ovra', 'Yth', 'Drav', 'Umbr', 'Plov', 'Skev', 'Ixal', 'Grov'];
const middles = ['ora', 'ine', 'ebu', 'azi', 'ulo', 'eki', 'ova', 'idre'];
const ends = ['ndrax', 'vune', 'lzora', 'miru', 'quath', 'rvex', 'thune', 'zmir'];
const cityEnds = ['rvo', 'ddle', 'squa', 'ntrop', 'lvaz', 'keru', 'mbri', 'zdo', 'phru'];

export interface Zeblune {
  readonly land: DemoFeature[];
  readonly nations: DemoFeature[];
  readonly cities: DemoFeature[];
  readonly graticule: DemoFeature[];
  readonly sea: DemoFeature[];
}

export function buildPlanet(): Zeblune {
  const random = randomFrom(4242);
  const height = sphereNoise(77, 1.15, 6);
  // Contours are drawn in hundredths of a degree.
  const step = 50;
  const box = [-18600, -9600, 18600, 9600] as const;
  const heights = sampleField(box, step, (lon, lat) => height(...brought(lon / 100, lat / 100)) - 0.06);
  const land = areasAbove(heights, 0, 8000).map((rings, i) => world([rings], { kind: 'land' }, i + 1));

  // Seats of nations, no two of them close to each other.
  const geodesic = geodesicOn();
  const away = (a: Place, b: Place) => geodesic.inverse(a[0], a[1], b[0], b[1]).length;
  const seats: Place[] = [];
  for (let tries = 0; seats.length < 26 && tries < 6000; tries++) {
    const lat = Math.asin(random.between(-1, 1)) / radians;
    const at: Place = [random.between(-180, 180), lat];
    if (height(...at) > 0.1 && seats.every((seat) => away(seat, at) > 1.7e6)) seats.push(at);
  }
  const wobble = [sphereNoise(310, 3.2, 4), sphereNoise(330, 3.2, 4)];
  const unit = ([lon, lat]: Place) => [
    Math.cos(lat * radians) * Math.cos(lon * radians),
    Math.cos(lat * radians) * Math.sin(lon * radians),
    Math.sin(lat * radians),
  ];
  const seatUnits = seats.map(unit);
  // How far each spot of land is from each seat, borders made crooked by noise.
  const spots = Array.from({ length: heights.values.length }, (_, i) => {
    // Far from any land nobody asks.
    if (heights.values[i] < -0.1) return undefined;
    const [l, p] = brought(
      (box[0] + (i % heights.columns) * step) / 100,
      (box[1] + Math.floor(i / heights.columns) * step) / 100,
    );
    return unit([l + 9 * wobble[0](l, p), Math.max(-90, Math.min(90, p + 7 * wobble[1](l, p)))]);
  });
  const far = seatUnits.map(([x, y, z]) =>
    mapField(heights, (_, i) => {
      const spot = spots[i];
      return spot ? Math.acos(Math.max(-1, Math.min(1, spot[0] * x + spot[1] * y + spot[2] * z))) : 9;
    }),
  );
  // Neighbors get different tints: each nation one that none of the nearest has yet.
  const tints: number[] = [];
  seats.forEach((seat, k) => {
    const near = tints
      .map((tint, j) => ({ tint, far: away(seat, seats[j]) }))
      .sort((a, b) => a.far - b.far)
      .slice(0, 5)
      .map(({ tint }) => tint);
    tints[k] = [0, 1, 2, 3, 4, 5, 6].map((t) => (t + 3 * k) % 7).find((t) => !near.includes(t)) ?? k % 7;
  });
  const names = new Set<string>();
  const name = (parts: readonly (readonly string[])[]) => {
    for (;;) {
      const made = parts.map((part) => random.pick(part)).join('');
      if (names.has(made)) continue;
      names.add(made);
      return made;
    }
  };
  // How far the nearest seat of each spot is, which it is, and how far the next.
  const nearest = new Int32Array(spots.length);
  const [least, next] = [new Float64Array(spots.length).fill(Infinity), new Float64Array(spots.length).fill(Infinity)];
  for (let i = 0; i < spots.length; i++)
    for (let k = 0; k < far.length; k++) {
      const value = far[k].values[i];
      if (value < least[i]) {
        next[i] = least[i];
        least[i] = value;
        nearest[i] = k;
      } else if (value < next[i]) next[i] = value;
    }
  const nations = seats.map((_, k) => {
    const field = mapField(heights, (h, i) =>
      Math.min(h * 2, ((nearest[i] === k ? next[i] : least[i]) - far[k].values[i]) * 2),
    );
    const people = Math.round(random.between(2, 90) * 10) / 10;
    return world(
      areasAbove(field, 0, 6000),
      { name: name([beginnings, middles, ends]), people, tint: tints[k] },
      k + 1,
    );
  });
  const cities: DemoFeature[] = [];
  seats.forEach((seat, k) => {
    const nation = nations[k];
    const { coordinates } = nation.geometry as unknown as { coordinates: Place[][][] };
    const isInside = ([lon, lat]: Place) =>
      coordinates.some((rings) => {
        const flat = rings.flat(2);
        const starts = rings.reduce((list, ring) => [...list, list[list.length - 1] + ring.length], [0]);
        return insideRings(flat, starts, 0, rings.length, lon, lat);
      });
    const put = (at: Place, capital: boolean) =>
      cities.push({
        type: 'Feature',
        id: cities.length + 1,
        properties: {
          name: name([beginnings, middles, cityEnds]),
          nation: String(nation.properties['name']),
          rank: capital ? 1 : random() < 0.4 ? 2 : 3,
          thousand: Math.round(capital ? random.between(900, 6000) : random.between(60, 900)),
        },
        geometry: { type: 'Point', coordinates: [round(at[0]), round(at[1])] },
      } as unknown as DemoFeature);
    if (isInside(seat)) put(seat, true);
    for (let tries = 0, found = 0; found < 6 && tries < 80; tries++) {
      const { lon, lat } = geodesic.direct(seat[0], seat[1], random.between(-180, 180), random.between(2e5, 1.6e6));
      if (!isInside([lon, lat])) continue;
      put([lon, lat], false);
      found++;
    }
  });
  const lines: { at: Place[]; kind: string }[] = [];
  for (let lon = -180; lon < 180; lon += 15)
    lines.push({ at: Array.from({ length: 61 }, (_, i) => [lon, -90 + i * 3] as Place), kind: 'meridian' });
  for (let lat = -75; lat <= 75; lat += 15)
    lines.push({
      at: Array.from({ length: 25 }, (_, i) => [-180 + i * 15, lat] as Place),
      kind: lat === 0 ? 'equator' : 'parallel',
    });
  const graticule = lines.map(({ at, kind }, i) => ({
    type: 'Feature',
    id: i + 1,
    properties: { kind },
    geometry: { type: 'LineString', coordinates: at.map(([lon, lat]) => [round(lon), round(lat)]) },
  })) as unknown as DemoFeature[];
  const sea = [
    {
      type: 'Feature',
      id: 1,
      properties: { kind: 'sea' },
      geometry: {
        type: 'Polygon',
        coordinates: [
          [
            [-180, -90],
            [180, -90],
            [180, 90],
            [-180, 90],
            [-180, -90],
          ],
        ],
      },
    },
  ] as unknown as DemoFeature[];
  return { land, nations, cities, graticule, sea };
}

/** The sheet of the planet: an atlas page in chalk and slate. */
export function planetSheet(): Sheet {
  return {
    sheet: 1,
    title: 'Zeblune',
    palette: {
      page: '#ece8dd',
      sea: '#bcd5da',
      line: '#9cbdc5',
      ink: '#22303a',
      border: '#8d7f6d',
      coast: '#6d8790',
      halo: '#fbf8f0',
    },
    data: {
      sea: { features: 'zeblune/sea.geojson', credit: 'Made-up planet' },
      nations: { features: 'zeblune/nations.geojson', id: 'name' },
      land: { features: 'zeblune/land.geojson' },
      graticule: { features: 'zeblune/graticule.geojson' },
      cities: { features: 'zeblune/cities.geojson', id: 'name' },
    },
    view: { center: [0, 0], zoom: 1.6, surface: 'ESRI:54030' },
    background: '@page',
    layers: [
      { id: 'sea', of: 'sea', fill: '@sea', stroke: { color: '@coast', width: 1.2 } },
      { id: 'graticule', of: 'graticule', stroke: { color: '@line', width: 0.8 } },
      { id: 'land', of: 'land', fill: '#efe8d8' },
      {
        id: 'nations',
        title: 'Nations',
        of: 'nations',
        fill: {
          color: {
            by: 'tint',
            categories: {
              '0': '#e6c9a8',
              '1': '#cfd8b0',
              '2': '#e9d9a6',
              '3': '#d9c3c0',
              '4': '#c4d3cb',
              '5': '#e3d3bd',
              '6': '#d3c9dc',
            },
          },
        },
        stroke: { color: '@border', width: 0.9 },
        label: {
          text: { is: 'name' },
          size: {
            by: 'zoom',
            ramp: [
              [1, 10],
              [5, 17],
            ],
          },
          weight: 600,
          spacing: 0.08,
          color: '@ink',
          halo: { color: '@halo', width: 1.4 },
          side: ['on', 'below', 'above', 'right', 'left'],
          distance: 9,
          priority: { is: 'people' },
        },
        states: { hover: { stroke: { width: 2.2, color: '@ink' } }, selected: { fill: { color: '#d98a2b' } } },
        select: 'one',
        legend: false,
        popup: { title: 'name', lines: { People: "format(people, '0.0 million')" } },
      },
      { id: 'coast', of: 'land', stroke: { color: '@coast', width: 0.9 } },
      {
        id: 'cities',
        title: 'Cities',
        legend: false,
        of: 'cities',
        rules: [
          {
            where: 'rank = 1',
            zoom: [1, 24],
            mark: { shape: 'square', size: 5, color: '@ink', outline: { color: '@halo', width: 1 } },
          },
          {
            where: 'rank = 2',
            zoom: [3, 24],
            mark: { shape: 'circle', size: 4.5, color: '@ink', outline: { color: '@halo', width: 1 } },
          },
          {
            otherwise: true,
            zoom: [4, 24],
            mark: { shape: 'circle', size: 3.5, color: '@ink', outline: { color: '@halo', width: 1 } },
          },
        ],
        popup: { title: 'name', lines: { Nation: 'nation', People: "format(thousand, '0')" } },
      },
      {
        id: 'city-names',
        of: 'cities',
        zoom: [3, 24],
        where: 'rank <= 2',
        label: {
          text: { is: 'name' },
          size: 11,
          color: '@ink',
          halo: { color: '@halo', width: 1.2 },
          side: ['right', 'left', 'below'],
          distance: 8,
          priority: { is: '0 - rank' },
        },
      },
    ],
  } as unknown as Sheet;
}
