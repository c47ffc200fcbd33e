// What the chart "One tide" is made of: ground that falls dry, currents, sectors of lights, and the curve of a tide.
import type { Sheet, SheetLayer } from '@flintwright/core';
import { areasAbove, mapField, type Field } from './contour.js';
import { distance, point, polygon, type DemoFeature, type Metres } from './frame.js';
import { palettes, layersOf } from './sheets.js';
import type { Terrain } from './terrain.js';
import { smoothField } from './waterways.js';

/** Heights above low water, in meters, between which the ground falls dry step by step. */
export const dryingHeights = [-1, -0.5, 0, 0.25, 0.5, 0.75, 1, 1.25, 1.5, 1.75, 2, 2.25, 2.5, 2.75];

/** Ground above each of the heights, in and around the Reach. */
export function dryingGround(heights: Field): DemoFeature[] {
  const box = { west: -15600, south: -7400, east: 18000, north: 7400 };
  const [c0, r0] = [
    Math.floor((box.west - heights.west) / heights.step),
    Math.floor((box.south - heights.south) / heights.step),
  ];
  const columns = Math.ceil((box.east - box.west) / heights.step);
  const rows = Math.ceil((box.north - box.south) / heights.step);
  const values = new Float32Array(columns * rows);
  for (let r = 0; r < rows; r++)
    for (let c = 0; c < columns; c++)
      values[r * columns + c] = Math.min(4, heights.values[(r + r0) * heights.columns + c + c0]);
  const cropped = smoothField(
    {
      ...heights,
      west: heights.west + c0 * heights.step,
      south: heights.south + r0 * heights.step,
      columns,
      rows,
      values,
    },
    2,
  );
  // Land lies over all above 2.9 m, so the ground ends a little higher.
  return dryingHeights.flatMap((above) =>
    areasAbove(
      mapField(cropped, (h) => Math.min(h - above, 3.2 - h)),
      0,
      9000,
    ).map((rings) => polygon(rings, { above })),
  );
}

/** Arrows along the channel: the direction of the ebb in degrees clockwise from north, and how strong the stream is there, 0 to 1. */
export function currents(terrain: Terrain): DemoFeature[] {
  const { channel } = terrain;
  const out: DemoFeature[] = [];
  let since = 0;
  for (let i = 2; i < channel.length - 2; i++) {
    since += distance(channel[i - 1], channel[i]);
    const [x, y] = channel[i];
    if (x < -7000 || x > 12500 || since < 560 + Math.max(0, x) * 0.045) continue;
    since = 0;
    const [dx, dy] = [channel[i + 2][0] - channel[i - 2][0], channel[i + 2][1] - channel[i - 2][1]];
    const length = Math.hypot(dx, dy);
    const spread = x < 2500 ? [0] : x < 6000 ? [-420, 420] : [-1500, 0, 1500];
    for (const off of spread) {
      const at: Metres = [x - (dy / length) * off, y + (dx / length) * off];
      if (terrain.height(at[0], at[1]) > -2.5) continue;
      // Farther out the stream fans out and weakens.
      const turn = (off / 1500) * 16;
      const rate = Math.max(0.35, 1.05 - Math.max(0, x - 1500) / 15000);
      const ebb = (((Math.atan2(dx, dy) * 180) / Math.PI - turn + 360) % 360).toFixed(1);
      out.push(point(at, { ebb: Number(ebb), rate: Math.round(rate * 100) / 100 }));
    }
  }
  return out;
}

/** What each light shows in which direction: bearings from the light, clockwise from north, and the color. */
const shown: Readonly<Record<string, readonly (readonly [number, number, 'red' | 'white' | 'green'])[]>> = {
  'Gannet Ledge light': [
    [80, 128, 'red'],
    [128, 232, 'white'],
    [232, 285, 'green'],
  ],
  'Wether light': [
    [20, 66, 'green'],
    [66, 150, 'white'],
    [150, 196, 'red'],
    [250, 330, 'white'],
  ],
  'Bar beacon': [
    [196, 250, 'white'],
    [250, 282, 'red'],
    [160, 196, 'green'],
  ],
  'Sefkin Head light': [
    [60, 104, 'red'],
    [104, 176, 'white'],
  ],
};

/** The sectors of the lights as areas: how far they reach is drawn much shorter than it is. */
export function sectors(lights: readonly DemoFeature[], meters: (at: unknown) => Metres): DemoFeature[] {
  return lights.flatMap(({ geometry, properties }) => {
    const [x, y] = meters(geometry.coordinates);
    const radius = 700 + 45 * Number(properties['range']);
    return (shown[String(properties['name'])] ?? []).map(([from, to, color]) => {
      const steps = Math.ceil((to - from) / 4);
      const arc = Array.from({ length: steps + 1 }, (_, k): Metres => {
        const bearing = ((from + ((to - from) * k) / steps) * Math.PI) / 180;
        return [x + radius * Math.sin(bearing), y + radius * Math.cos(bearing)];
      });
      return polygon([[[x, y], ...arc.toReversed()]], { name: properties['name'], light: properties['light'], color });
    });
  });
}

/**
 * A tide of 12 h 25 min as heights above low water, every five minutes from high water on: a semidiurnal wave, and one of half its period
 * that steepens the flood.
 */
export const tideCurve = Array.from({ length: 150 }, (_, i) => {
  const phase = (2 * Math.PI * i) / 149;
  return Math.round((1.45 + 1.2 * Math.cos(phase) + 0.13 * Math.cos(2 * phase - 0.9)) * 100) / 100;
});

const day = {
  ...palettes.tide,
  land: '#f4e3b8',
  built: '#e6c9a0',
  marsh: '#c9cb8d',
  marshEdge: '#8f9456',
  dry: '#e7d3a6',
  wet: '#c3b68e',
  frame: '#1d2a33',
  current: '#0f3a58',
  red: '#d8442c',
  green: '#1f9a63',
  white: '#f7d673',
};
const night = {
  ...palettes.slate,
  land: '#3b3a35',
  built: '#4c4840',
  dry: '#4b4a43',
  wet: '#343d3f',
  frame: '#d5dfe1',
  current: '#8fc4de',
  red: '#ff5b45',
  green: '#3fd58d',
  white: '#ffe9a0',
};

/** The chart. How the water stands in it is that of half tide; the page of the example sets it for every minute. */
export function oneTideSheet(): Sheet {
  const base = layersOf('tide');
  const kept = (...ids: string[]) => base.filter(({ id }) => ids.includes(id));
  const water: SheetLayer[] = [
    ...kept('depth'),
    {
      id: 'drying',
      of: 'tide/drying',
      fill: {
        color: {
          by: 'above',
          categories: Object.fromEntries(
            dryingHeights.map((above) => [above, above < 0.5 ? '@d2' : above < 1.5 ? '@wet' : '@dry']),
          ),
        },
      },
    },
    {
      id: 'contours',
      of: 'reach/contours',
      stroke: { color: '@contour', width: 0.7 },
      label: {
        text: "format(depth, '0')",
        along: true,
        size: 9.5,
        color: '@waterInk',
        halo: { color: '@waterHalo', width: 1.4 },
        repeat: 520,
        priority: -1,
      },
    },
    {
      id: 'marsh',
      of: 'reach/shore',
      where: "kind = 'marsh'",
      fill: { color: '@marsh', opacity: 0.85 },
      stroke: { color: '@marshEdge', width: 0.6 },
    },
    {
      id: 'marsh-reeds',
      of: 'reach/shore',
      where: "kind = 'marsh'",
      zoom: [13, 25],
      fill: { pattern: { icon: 'reed', color: '@marshEdge', size: 10, gap: 24, whole: true } },
    },
  ];
  const lightLayers: SheetLayer[] = [
    {
      id: 'sectors',
      of: 'sectors',
      fill: { color: { by: 'color', categories: { red: '@red', white: '@white', green: '@green' } }, opacity: 0.14 },
      stroke: { color: '@frame', width: 0.5, opacity: 0.45, dash: [4, 3], cap: 'butt' },
      states: { lit: { fill: { opacity: 0.55 } } },
    },
  ];
  const current: SheetLayer = {
    id: 'currents',
    of: 'currents',
    mark: { icon: 'arrow', size: { is: 'rate * 20' }, rotation: { is: 'ebb' }, color: '@current', opacity: 0.9 },
  };
  const small = base
    .filter(({ id }) => id.startsWith('soundings'))
    .map((layer): SheetLayer => ({
      ...layer,
      zoom: [layer.zoom![0] - 0.6, layer.zoom![1] === 25 ? 25 : layer.zoom![1] - 0.6],
    }));
  return {
    sheet: 1,
    title: 'Tessary Reach, one tide',
    palette: day,
    dark: night,
    data: {
      reach: { tiles: 'reach.pmtiles' },
      tide: { tiles: 'tide.pmtiles' },
      currents: { features: 'tide/currents.geojson' },
      sectors: { features: 'tide/sectors.geojson' },
      gauge: { features: 'tide/gauge.geojson' },
      lines: { features: 'reach/ferries.geojson' },
    },
    view: { center: [-31.128, 44.617], zoom: 13, limits: { zoom: [10.5, 17], bounds: [-31.42, 44.5, -30.94, 44.73] } },
    background: '@deep',
    layers: [
      ...water,
      ...kept('land', 'built', 'coast', 'piers', 'buildings', 'bridges'),
      ...kept('road-lane', 'road-street', 'road-main', 'road-road', 'road-trunk'),
      ...lightLayers,
      { ...kept('ferries')[0], of: 'lines' },
      ...small,
      current,
      ...kept('seamarks', 'gauges', 'lights', 'islands', 'creeks', 'waters', 'villages', 'towns'),
      { id: 'gauge', of: 'gauge', zoom: [22, 25], mark: { size: 1 } },
    ],
  };
}
