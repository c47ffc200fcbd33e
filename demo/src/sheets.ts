import type { Sheet, SheetFill, SheetLabel, SheetLayer, SheetScale, SheetStroke } from '@flintwright/core';

/** The colors of one theme. */
interface Palette extends Record<string, string> {
  readonly deep: string;
}

/** Colors of the base sheets. Covers differ from each other by at least 7 (CIE76), the five upper steps of the water by 3. */
export const palettes = {
  chalk: {
    deep: '#90baca',
    d200: '#9ac1d0',
    d100: '#a4c8d5',
    d50: '#afd0da',
    d20: '#b9d7df',
    d10: '#c3dfe4',
    d5: '#cee6ea',
    d2: '#d8eeef',
    contour: '#9fc0cb',
    flat: '#d8d2c8',
    flatEdge: '#c2bbaf',
    marsh: '#ded8b3',
    marshEdge: '#bdb68e',
    land: '#f5f0e7',
    shore: '#93a49a',
    grass: '#e3e8ce',
    wood: '#cfdcba',
    heath: '#f0e0cf',
    dune: '#f8eac3',
    park: '#d0e6ae',
    built: '#eddfe1',
    shade: '#4a5d6e',
    glow: '#fff6dd',
    pier: '#8f8675',
    building: '#ddcec6',
    buildingEdge: '#bfa99d',
    parapet: '#8d8474',
    lane: '#ffffff',
    laneEdge: '#d9cfc0',
    main: '#fdf3d8',
    mainEdge: '#cdb98f',
    trunk: '#f3c486',
    trunkEdge: '#b5854c',
    road: '#ffffff',
    roadEdge: '#c3b8a2',
    path: '#94805f',
    ferry: '#3a6b82',
    ink: '#22303a',
    soft: '#4c5a61',
    halo: '#fbf8f0',
    waterInk: '#1d4f66',
    waterHalo: '#d8eeef',
    woodInk: '#42582c',
    mark: '#35505e',
    markRim: '#ffffff',
    north: '#2b6a5c',
    south: '#b23f28',
    light: '#98560f',
  },
  slate: {
    deep: '#0c1f34',
    d200: '#0c1f34',
    d100: '#0d1f34',
    d50: '#0e2034',
    d20: '#112434',
    d10: '#132834',
    d5: '#152c34',
    d2: '#173034',
    contour: '#2a4657',
    flat: '#465055',
    flatEdge: '#56615f',
    marsh: '#1d4345',
    marshEdge: '#31585a',
    land: '#353c41',
    shore: '#64757a',
    grass: '#32443d',
    wood: '#203b2e',
    heath: '#474441',
    dune: '#504836',
    park: '#294931',
    built: '#434758',
    shade: '#04090e',
    glow: '#b7c4c8',
    pier: '#7a868a',
    building: '#565d6b',
    buildingEdge: '#6c7484',
    parapet: '#12191f',
    lane: '#515c66',
    laneEdge: '#515c66',
    main: '#616d76',
    mainEdge: '#616d76',
    trunk: '#d9963f',
    trunkEdge: '#8c6a3f',
    road: '#5f6b75',
    roadEdge: '#5f6b75',
    path: '#7d8990',
    ferry: '#86bcd6',
    ink: '#f3f4ee',
    soft: '#c3ced2',
    halo: '#1b242b',
    waterInk: '#9cc9df',
    waterHalo: '#112434',
    woodInk: '#b5d1b0',
    mark: '#d5dfe1',
    markRim: '#101a22',
    north: '#71c9b3',
    south: '#f0907a',
    light: '#ffbf5e',
  },
  tide: {
    deep: '#5ba1c4',
    d200: '#64a7c9',
    d100: '#6aadcd',
    d50: '#71b4d2',
    d20: '#84bfd8',
    d10: '#96cade',
    d5: '#a7d5e3',
    d2: '#c8ecee',
    contour: '#4d8fb3',
    flat: '#e2cfb7',
    flatEdge: '#b89d7c',
    marsh: '#c7c479',
    marshEdge: '#8f9149',
    land: '#fcecd1',
    shore: '#55757a',
    grass: '#eae8b1',
    wood: '#bdcd8e',
    heath: '#edd2ae',
    dune: '#ffe0a4',
    park: '#d0e697',
    built: '#f5d3c2',
    shade: '#3d4a63',
    glow: '#fff3c4',
    pier: '#6d5b44',
    building: '#d79f82',
    buildingEdge: '#a4694a',
    parapet: '#5f4a33',
    lane: '#fffdf5',
    laneEdge: '#cda986',
    main: '#ffe9a8',
    mainEdge: '#b8904a',
    trunk: '#e8793f',
    trunkEdge: '#8f3f1c',
    road: '#fffdf5',
    roadEdge: '#a98c5e',
    path: '#7a5a30',
    ferry: '#123c5c',
    ink: '#17232c',
    soft: '#374347',
    halo: '#fff7e2',
    waterInk: '#06304b',
    waterHalo: '#d5f0f2',
    woodInk: '#2d4a18',
    mark: '#16384c',
    markRim: '#ffffff',
    north: '#0d6049',
    south: '#a92d18',
    light: '#96500a',
  },
} satisfies Record<string, Palette>;

export type Theme = keyof typeof palettes;

const width = (...ramp: [number, number][]): SheetScale<number> => ({ by: 'zoom', ramp });
const halo = (color: string, w: number) => ({ color, width: w });

/** How wide roads are by day: stops of zoom and pixels. */
const roadWidths: Record<string, [number, number][]> = {
  lane: [
    [13, 0.7],
    [14, 1.5],
    [15, 3],
    [16, 5.5],
    [18, 18],
    [20, 60],
  ],
  street: [
    [12, 0.5],
    [13, 1.2],
    [14, 2.4],
    [15, 4.4],
    [16, 8],
    [18, 24],
    [20, 80],
  ],
  road: [
    [9, 0.4],
    [11, 1],
    [13, 2.2],
    [14, 3],
    [16, 8.5],
    [18, 26],
    [20, 84],
  ],
  main: [
    [12, 0.9],
    [13, 1.8],
    [14, 3.2],
    [15, 5.6],
    [16, 9],
    [18, 27],
    [20, 86],
  ],
  trunk: [
    [7, 0.6],
    [9, 1.2],
    [11, 2],
    [13, 3.6],
    [14, 5],
    [16, 12],
    [18, 34],
    [20, 110],
  ],
};

/** Zoom levels at which roads begin. */
const roadStarts: Record<string, number> = { lane: 13, street: 12, road: 9, main: 12, trunk: 7 };

/** Roads by night have no casings, and are narrower the closer they are seen. */
const atNight = (stops: [number, number][]) => stops.map(([z, w]): [number, number] => [z, w * (z < 14 ? 0.85 : 0.6)]);

function roads(theme: Theme): SheetLayer[] {
  return Object.entries(roadWidths).map(([kind, stops]): SheetLayer => {
    const color = kind === 'street' ? '@lane' : `@${kind}`;
    const edge = kind === 'street' ? '@laneEdge' : `@${kind}Edge`;
    const casing = stops.map(([z, w]): [number, number] => [z, w + (z < 13 ? 1 : 1.8)]);
    const day: SheetStroke[] = [
      { color: edge, width: width(...casing) },
      { color, width: width(...stops) },
    ];
    // The one warm line of the night gives way to the lights where streets are seen.
    const night: SheetStroke['color'] =
      kind === 'trunk'
        ? {
            by: 'zoom',
            ramp: [
              [13, '@trunk'],
              [16, '@trunkEdge'],
            ],
          }
        : color;
    return {
      id: `road-${kind}`,
      of: 'reach/roads',
      where: `class = '${kind}'`,
      zoom: [roadStarts[kind], 25],
      network: 'roads',
      stroke: theme === 'slate' ? [{ color: night, width: width(...atNight(stops)) }] : day,
    };
  });
}

/** Bridges: parapets to both sides of a road, below it. */
function bridgesOf(theme: Theme): SheetLayer {
  const parapets = (kind: string): SheetStroke => {
    const stops = theme === 'slate' ? atNight(roadWidths[kind]) : roadWidths[kind];
    const edge = stops.filter(([z]) => z >= 13).map(([z, w]): [number, number] => [z, w + (z < 14 ? 3 : 4.4)]);
    return { color: '@parapet', width: width(...edge), cap: 'butt' };
  };
  return {
    id: 'bridges',
    of: 'reach/bridges',
    zoom: [13, 25],
    rules: [
      { where: "class = 'trunk'", stroke: parapets('trunk') },
      { otherwise: true, stroke: parapets('road') },
    ],
  };
}

/** What covers the ground, from the water up. */
function ground(theme: Theme): SheetLayer[] {
  const cover = (kind: string, from = 0, fill: SheetFill | string = `@${kind}`): SheetLayer => ({
    id: kind,
    of: 'reach/cover',
    where: `kind = '${kind}'`,
    ...(from ? { zoom: [from, 25] as const } : {}),
    fill,
  });
  const edge = (kind: string) => ({ color: `@${kind}Edge`, width: width([11, 0.3], [15, 1]) });
  const shore = (kind: string, id: string, fill: SheetFill | string): SheetLayer => ({
    id,
    of: 'reach/shore',
    where: `kind = '${kind}'`,
    zoom: [9, 25],
    fill,
    stroke: edge(kind),
  });
  const isTide = theme === 'tide';
  const patterned = (id: string, of: string, kind: string, from: number, fill: SheetFill): SheetLayer => ({
    id,
    of,
    where: `kind = '${kind}'`,
    zoom: [from, 25],
    fill,
  });
  return [
    {
      id: 'depth',
      of: 'reach/depth',
      fill: {
        color: {
          by: 'above',
          categories: {
            '-200': '@d200',
            '-100': '@d100',
            '-50': '@d50',
            '-20': '@d20',
            '-10': '@d10',
            '-5': '@d5',
            '-2': '@d2',
          },
        },
      },
    },
    ...(theme === 'chalk'
      ? []
      : [
          {
            id: 'contours',
            of: 'reach/contours',
            zoom: [12, 25],
            stroke: { color: '@contour', width: width([12, 0.4], [16, 0.9]), opacity: 0.8 },
          } satisfies SheetLayer,
        ]),
    shore('flat', 'flats', '@flat'),
    shore('marsh', 'marsh', '@marsh'),
    ...(isTide
      ? [
          patterned('flat-dots', 'reach/shore', 'flat', 13, {
            pattern: { icon: 'dot', color: '#a88d68', size: 4, gap: 13, whole: true },
          }),
          patterned('marsh-reeds', 'reach/shore', 'marsh', 13, {
            pattern: { icon: 'reed', color: '#7c8038', size: 11, gap: 24, whole: true },
          }),
        ]
      : []),
    { id: 'land', of: 'reach/land', fill: '@land' },
    cover('grass'),
    cover('heath'),
    cover('dune', 10),
    cover('wood'),
    ...(isTide
      ? [
          patterned('dune-dots', 'reach/cover', 'dune', 13, {
            pattern: { icon: 'dot', color: '#c08f3c', size: 3, gap: 9, whole: true },
          }),
          patterned('wood-trees', 'reach/cover', 'wood', 14, {
            pattern: { icon: 'tree', color: '#86a05a', size: 11, gap: 28, whole: true },
          }),
        ]
      : []),
    ...relief(theme),
    {
      id: 'built',
      of: 'reach/built',
      zoom: [8, 15.5],
      // Chalk does without the fade, so that all its covers are drawn in one go.
      fill:
        theme === 'chalk' ? '@built' : { color: '@built', opacity: width([8, 0.6], [10, 1], [14.5, 1], [15.5, 0.25]) },
    },
    cover('park', 13),
    {
      id: 'coast',
      of: 'reach/land',
      stroke: { color: '@shore', width: width([4, 0.4], [10, 0.6], [14, 1], [18, 1.5]) },
    },
    { id: 'piers', of: 'reach/piers', zoom: [13, 25], fill: '@pier' },
  ];
}

/** Light and shadow on slopes, in steps that lie over each other. */
function relief(theme: Theme): SheetLayer[] {
  const strength = { chalk: 0.055, slate: 0.16, tide: 0.085 }[theme];
  const zooms = { zoom: [7, 12.5] as const };
  const fading = (most: number) => width([7, most], [11, most], [12.5, most * 0.25]);
  return [
    {
      id: 'relief-shade',
      of: 'reach/relief',
      where: 'step < 0',
      ...zooms,
      fill: { color: '@shade', opacity: fading(strength) },
    },
    {
      id: 'relief-light',
      of: 'reach/relief',
      where: 'step > 0',
      ...zooms,
      fill: { color: '@glow', opacity: fading({ chalk: 0.3, slate: 0.035, tide: 0.26 }[theme]) },
    },
  ];
}

function houses(theme: Theme): SheetLayer {
  const from = theme === 'chalk' ? 14.5 : 14;
  return {
    id: 'buildings',
    of: 'reach/buildings',
    zoom: [from, 25],
    fill: { color: '@building', opacity: width([from, 0], [15.2, 1]) },
    stroke: { color: '@buildingEdge', width: width([16, 0], [16.6, 0.8], [19, 1.2]), join: 'miter' },
  };
}

/** What stands in and beside the water. */
function seamarks(theme: Theme): SheetLayer[] {
  const from = theme === 'chalk' ? 14 : 13;
  const rim = (w: number) => ({ color: '@markRim', width: w });
  const label = (text: string, color: string, distance: number, priority: number): SheetLabel => ({
    text,
    size: 11.5,
    color,
    halo: halo('@halo', 1.4),
    side: ['below', 'right', 'left', 'above'],
    distance,
    priority,
  });
  const lightsFrom = theme === 'chalk' ? 14 : 11;
  return [
    ...(theme === 'slate'
      ? [
          {
            id: 'light-glow',
            of: 'reach/seamarks',
            where: "kind = 'light'",
            zoom: [9, 25],
            mark: { shape: 'circle', size: width([9, 12], [12, 30], [16, 60]), color: '@light', opacity: 0.16 },
          } satisfies SheetLayer,
        ]
      : []),
    {
      id: 'seamarks',
      of: 'reach/seamarks',
      where: "kind IN ('north', 'south')",
      zoom: [from, 25],
      mark: {
        shape: { by: 'kind', categories: { north: 'triangle', south: 'square' } },
        size: width([13, 5], [16, 10], [19, 14]),
        color: { by: 'kind', categories: { north: '@north', south: '@south' } },
        outline: rim(theme === 'tide' ? 1.6 : 1.2),
      },
    },
    {
      id: 'gauges',
      of: 'reach/seamarks',
      where: "kind = 'gauge'",
      zoom: [from, 25],
      mark: { icon: 'gauge', size: 15, color: '@mark', outline: rim(1.6) },
    },
    {
      id: 'lights',
      of: 'reach/seamarks',
      where: "kind = 'light'",
      zoom: [lightsFrom, 25],
      mark: { icon: 'light', size: 19, color: '@light', outline: rim(1.6) },
      label: label('name', '@soft', 10, 3),
    },
    {
      id: 'stops',
      of: 'reach/stops',
      zoom: [theme === 'chalk' ? 14 : 12, 25],
      mark: { icon: 'ferry', size: 16, color: '@ferry', outline: rim(1.8) },
      label: label('name', theme === 'slate' ? '@ink' : '@waterInk', 9, 2),
    },
  ];
}

/** Depths in meters and decimeters, as charts print them. */
const soundingLayers: SheetLayer[] = [
  [0, 12, 13.2],
  [1, 13.2, 14.4],
  [2, 14.4, 25],
].map(([rank, from, to]): SheetLayer => ({
  id: `soundings-${rank}`,
  of: 'reach/soundings',
  where: `rank <= ${rank}`,
  zoom: [from, to],
  label: {
    text: "format(depth, '0.0')",
    size: 10,
    style: 'italic',
    font: '"Noto Serif", Georgia, serif',
    weight: 400,
    color: '@waterInk',
    side: ['on', 'right', 'left'],
    distance: 1,
    priority: -3,
  },
}));

/** Names, from the streets to the land as a whole. */
function names(theme: Theme): SheetLayer[] {
  const isChalk = theme === 'chalk';
  const serif = { style: 'italic', font: '"Noto Serif", Georgia, serif', weight: 400 } as const;
  const water = { ...serif, color: '@waterInk', halo: halo('@waterHalo', 1.2) };
  return [
    {
      id: 'numbers',
      of: 'reach/addresses',
      zoom: [isChalk ? 17.8 : 17.2, 25],
      label: { text: 'number', size: 10, color: '@ink', halo: halo('@building', 1), priority: -5 },
    },
    {
      id: 'street-names',
      of: 'reach/roads',
      where: 'name IS NOT NULL',
      zoom: [isChalk ? 15.2 : 14.6, 25],
      label: {
        text: 'name',
        along: true,
        size: width([15, 10.5], [18, 14]),
        color:
          theme === 'slate' ? '@ink' : { by: 'class', categories: { trunk: '@ink', main: '@ink' }, other: '@soft' },
        halo: halo('@halo', 1.6),
        priority: { by: 'class', categories: { trunk: 1, main: 0.8, street: 0.5, lane: 0.2 }, other: 0 },
      },
    },
    {
      id: 'islands',
      of: 'reach/places',
      where: "kind IN ('island', 'headland', 'wood', 'hill')",
      zoom: [isChalk ? 12.8 : 11.5, 25],
      label: {
        text: 'name',
        size: 12,
        style: 'italic',
        color: { by: 'kind', categories: { wood: '@woodInk' }, other: '@soft' },
        halo: halo('@halo', 1.4),
        spacing: 0.03,
        priority: 4,
        wrap: 7,
      },
    },
    {
      id: 'creeks',
      of: 'reach/courses',
      zoom: [isChalk ? 12.6 : 12, 25],
      label: {
        text: 'name',
        along: true,
        size: { by: 'kind', categories: { reach: 17, creek: 12.5 } },
        ...water,
        spacing: 0.12,
        repeat: 900,
        priority: { by: 'kind', categories: { reach: 7 }, other: 5 },
      },
    },
    {
      id: 'waters',
      of: 'reach/places',
      where: "kind = 'water' AND name <> 'Tessary Reach'",
      zoom: [10, 25],
      label: {
        text: 'name',
        size: width([10, 11], [13, 15], [16, 22]),
        ...water,
        // Clear of the buoys: in the middle, or a little above or below it.
        side: ['on', 'above', 'below'],
        distance: 6,
        spacing: 0.14,
        wrap: 20,
        priority: {
          by: 'rank',
          ramp: [
            [1, 6],
            [3, 3],
          ],
        },
      },
    },
    {
      id: 'villages',
      of: 'reach/places',
      where: "kind = 'village'",
      zoom: [isChalk ? 11.5 : 10.5, 25],
      label: {
        text: 'name',
        size: width([10, 10.5], [15, 14]),
        weight: 500,
        color: '@ink',
        halo: halo('@halo', 1.6),
        priority: 5,
      },
    },
    {
      id: 'towns-far',
      of: 'reach/places',
      where: "kind = 'town'",
      zoom: [7, 11],
      mark: {
        shape: 'circle',
        size: { by: 'rank', categories: { 1: 7.5, 2: 6 } },
        color: '@halo',
        outline: { color: '@ink', width: 1.6 },
      },
      label: {
        text: 'name',
        size: { by: 'rank', categories: { 1: 14, 2: 12 } },
        weight: 600,
        color: '@ink',
        halo: halo('@halo', 1.8),
        side: ['right', 'left', 'above', 'below'],
        distance: 3,
        priority: {
          by: 'rank',
          ramp: [
            [1, 14],
            [3, 11],
          ],
        },
      },
    },
    {
      id: 'towns',
      of: 'reach/places',
      where: "kind = 'town'",
      zoom: [11, 15.5],
      label: {
        text: 'name',
        size: {
          by: 'zoom',
          ramp: [
            [11, 14],
            [14, 22],
            [15.5, 25],
          ],
        },
        weight: 700,
        color: '@ink',
        halo: halo('@halo', 2),
        priority: {
          by: 'rank',
          ramp: [
            [1, 10],
            [3, 8],
          ],
        },
      },
    },
    {
      id: 'landmass',
      of: 'reach/places',
      where: "kind = 'landmass'",
      zoom: [4, 11],
      label: {
        text: 'name',
        upper: true,
        size: width([4, 11], [9, 17], [11, 26]),
        weight: 600,
        spacing: 0.3,
        color: '@soft',
        halo: halo('@halo', 1.6),
        priority: 9,
      },
    },
  ];
}

/**
 * The base map of the Reach. Chalk stays behind data: few names, and no icons before zoom 14. Slate is a night: water darker than land, roads
 * without casings, lights as the accent. Tide shows everything: relief, patterns, soundings and buoys with rims.
 */
export function layersOf(theme: Theme): SheetLayer[] {
  const paths: SheetLayer = {
    id: 'paths',
    of: 'reach/roads',
    where: "class = 'path'",
    zoom: [theme === 'chalk' ? 14.5 : 13.5, 25],
    stroke: { color: '@path', width: width([13, 0.8], [18, 2.2]), dash: [5, 3], cap: 'butt' },
  };
  const ferries: SheetLayer = {
    id: 'ferries',
    of: 'reach/ferries',
    zoom: [theme === 'chalk' ? 11.5 : 10, 25],
    stroke: { color: '@ferry', width: width([10, 0.8], [14, 1.5], [18, 2.4]), dash: [6, 4], cap: 'butt' },
  };
  return [
    ...ground(theme),
    paths,
    houses(theme),
    bridgesOf(theme),
    ...roads(theme),
    ferries,
    ...(theme === 'tide' ? soundingLayers : []),
    ...seamarks(theme),
    ...names(theme),
  ];
}

/** The layers of Chalk. */
export const layers = layersOf('chalk');

export function sheetOf(theme: Theme, tiles: string): Sheet {
  return {
    sheet: 1,
    title: `Tessary Reach, ${{ chalk: 'Chalk', slate: 'Slate', tide: 'Tide' }[theme]}`,
    palette: palettes[theme],
    // By night Chalk has the colors of Slate.
    ...(theme === 'chalk' ? { dark: palettes.slate } : {}),
    data: { reach: { tiles } },
    view: { center: [-31.18, 44.62], zoom: 13.4, limits: { zoom: [3, 20] } },
    background: '@deep',
    layers: layersOf(theme),
  };
}
