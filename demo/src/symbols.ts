import type { Sheet, SheetData, SheetLayer, SheetView } from '@flintwright/core';
import { layers, palettes } from './sheets.js';

const quiet = ['depth', 'flats', 'marsh', 'land', 'grass', 'wood', 'coast', 'road-road', 'road-trunk', 'buildings'];
const base = (...ids: string[]) => layers.filter(({ id }) => ids.includes(id));
const ground = base(...quiet);

function sheet(
  title: string,
  view: SheetView,
  own: readonly SheetLayer[],
  data: Record<string, SheetData> = {},
): Sheet {
  return {
    sheet: 1,
    title,
    palette: palettes.chalk,
    data: { reach: { tiles: '../reach.pmtiles' }, ...data },
    view,
    background: '@deep',
    layers: own,
  };
}

const point = (lon: number, lat: number, properties: Record<string, string | number>) => ({
  type: 'Feature',
  geometry: { type: 'Point', coordinates: [lon, lat] },
  properties,
});

/** A word or two about a harbour in many scripts; all of them made up for this sheet. */
const names = [
  ['Latin', 'Old Tide Harbour'],
  ['Arabic', 'ميناء المدّ القديم ٣'],
  ['Hebrew', 'נמל הגאות הישן (3)'],
  ['Devanagari', 'पुराना ज्वार बंदरगाह'],
  ['Chinese', '潮汐舊港，第三號'],
  ['Japanese', '潮の古い港'],
  ['Korean', '오래된 조수 항구'],
  ['Thai', 'ท่าเรือน้ำขึ้นเก่า'],
  ['Greek', 'Παλιό λιμάνι'],
  ['Cyrillic', 'Старая гавань прилива'],
  ['emoji', '🦪 Oyster quay 🐦'],
  ['mixed', 'Quay 3b ميناء'],
] as const;

const scripts = {
  type: 'FeatureCollection',
  features: names.map(([script, name], i) =>
    point(-31.205 + (i % 3) * 0.0215, 44.6325 - Math.floor(i / 3) * 0.0068, { script, name }),
  ),
};

/** One sheet for each symbol, over the Reach. */
export function symbolSheets(): Record<string, Sheet> {
  const beds: SheetData = { features: '../beds.geojson', join: { table: '../yield.csv', match: ['code', 'bed'] } };
  return {
    fill: sheet(
      'Fills',
      { center: [-31.1312, 44.6215], zoom: 14.3 },
      [
        ...base('depth', 'flats'),
        {
          id: 'marsh',
          of: 'reach/shore',
          where: "kind = 'marsh'",
          fill: { color: '@marsh', pattern: { icon: 'reed', color: '#7f9363', size: 13, gap: 24, whole: true } },
          stroke: { color: '@marshEdge', width: 0.8 },
        },
        ...base('land', 'grass'),
        {
          id: 'wood',
          of: 'reach/cover',
          where: "kind = 'wood'",
          fill: { color: '@wood', pattern: { icon: 'tree', color: '#8aa172', size: 12, gap: 22, whole: true } },
        },
        ...base('coast', 'road-road', 'road-trunk', 'buildings'),
        {
          id: 'beds',
          of: 'beds',
          stroke: { color: '@ink', width: 1 },
          rules: [
            {
              where: "kind = 'native'",
              title: 'plain, three quarters solid',
              fill: { color: '#3d7f99', opacity: 0.75 },
            },
            {
              where: "kind = 'rock'",
              title: 'hatched',
              fill: { color: '#f4f0e6', hatch: { color: '#c5523a', angle: 45, gap: 7, width: 1.6 } },
            },
            {
              where: "kind = 'seed'",
              title: 'cross-hatched on clear ground',
              fill: { hatch: { color: '#22303a', angle: 20, gap: 8, width: 1, cross: true } },
            },
          ],
        },
      ],
      { beds },
    ),
    stroke: sheet(
      'Strokes',
      { center: [-31.1655, 44.6205], zoom: 14 },
      [
        ...base('depth', 'flats', 'marsh', 'land', 'grass', 'wood', 'coast'),
        {
          id: 'streets',
          title: 'six meters wide on the ground',
          of: 'reach/roads',
          where: "class IN ('street', 'lane')",
          stroke: { color: '@laneEdge', width: '6m' },
        },
        {
          id: 'trunk',
          title: 'a casing, and a line to either side',
          of: 'reach/roads',
          where: "class = 'trunk'",
          stroke: [
            { color: '@trunkEdge', width: 8 },
            { color: '@trunk', width: 6 },
            { color: '#3d7f99', width: 2, offset: 8 },
            { color: '#c5523a', width: 2, offset: -8, dash: [7, 4], cap: 'butt' },
          ],
        },
        {
          id: 'dashes',
          title: 'dashes',
          of: 'ferries',
          where: "name IN ('Cross-Reach', 'Upper Reach')",
          stroke: { color: '@ferry', width: 2.4, dash: [9, 5, 2, 5], cap: 'butt' },
        },
        {
          id: 'gradient',
          title: 'a gradient along the line',
          of: 'ferries',
          where: "name = 'Outer Roads'",
          stroke: [
            { color: '#ffffff', width: 8 },
            {
              width: 5.5,
              gradient: {
                ramp: [
                  [0, '#1f4e5f'],
                  [0.5, '#d98a2b'],
                  [1, '#b8402a'],
                ],
              },
            },
          ],
        },
        {
          id: 'arrows',
          title: 'marks along the line',
          of: 'ferries',
          where: "name = 'Island Line'",
          stroke: [
            { color: '#22303a', width: 1.2 },
            { color: '#22303a', width: 13, marks: { icon: 'chevron', gap: 44 } },
          ],
        },
      ],
      { ferries: { features: '../reach/ferries.geojson' } },
    ),
    mark: sheet(
      'Marks',
      { center: [-31.1372, 44.6182], zoom: 15.6 },
      [
        ...ground,
        {
          id: 'moorings',
          title: 'shapes and colors by kind',
          of: 'moorings',
          mark: {
            shape: { by: 'kind', categories: { visitor: 'diamond', resident: 'circle', trade: 'square' } },
            color: {
              by: 'kind',
              title: 'Berths',
              categories: { visitor: '#c5523a', resident: '#3d7a6c', trade: '#d98a2b' },
            },
            size: {
              by: 'zoom',
              ramp: [
                [12, 3],
                [16, 11],
              ],
            },
            outline: { color: '#ffffff', width: 1 },
          },
        },
        {
          id: 'stops',
          of: 'reach/stops',
          mark: { icon: 'ferry', size: 24, color: '@ferry', outline: { color: '#fff', width: 2 } },
        },
        {
          id: 'stream',
          title: 'Stream, turned by its course',
          of: 'stream',
          mark: {
            icon: 'arrow',
            rotation: { is: 'course' },
            size: {
              by: 'knots',
              title: 'Stream',
              unit: 'kn',
              ramp: [
                [0.5, 10],
                [3, 26],
              ],
            },
            color: '#1f4e5f',
            outline: { color: '#d6e8ea', width: 1.4 },
          },
        },
      ],
      {
        moorings: { features: '../moorings.geojson' },
        stream: {
          features: {
            type: 'FeatureCollection',
            features: Array.from({ length: 24 }, (_, i) =>
              point(-31.1335 + (i % 8) * 0.0052, 44.6262 - Math.floor(i / 8) * 0.0034 + (i % 2) * 0.0009, {
                course: 68 + (i % 8) * 5 - Math.floor(i / 8) * 9,
                knots: 0.6 + ((i * 7) % 10) / 4,
              }),
            ),
          },
        },
      },
    ),
    label: sheet(
      'Labels',
      { center: [-31.1835, 44.6225], zoom: 14 },
      [
        ...ground,
        ...base('street-names', 'waters', 'towns', 'road-main', 'road-street'),
        {
          id: 'scripts',
          title: 'any script, on whichever side there is room',
          of: 'scripts',
          mark: { shape: 'circle', size: 7, color: '@light', outline: { color: '#fff', width: 1.5 } },
          label: {
            text: 'name',
            size: 17,
            weight: 600,
            halo: { color: '@halo', width: 2 },
            side: ['right', 'left', 'below', 'above'],
            distance: 4,
            wrap: 12,
            priority: 20,
          },
        },
      ],
      { scripts: { features: scripts } },
    ),
    image: sheet(
      'Pictures',
      { center: [-31.2, 44.62], zoom: 11.2 },
      [
        ...base('depth', 'flats', 'marsh', 'land', 'grass', 'wood', 'heath'),
        {
          id: 'relief',
          title: 'relief, tinted and half clear',
          of: 'relief',
          image: { opacity: 0.42, contrast: 1.15, tint: { color: '#8a7a5c', share: 0.7 } },
        },
        ...base('coast', 'road-trunk', 'towns', 'waters', 'islands', 'landmass', 'villages'),
      ],
      { relief: { images: '../relief/{z}/{x}/{y}.png', zooms: [8, 12], credit: 'Made-up relief' } },
    ),
    heat: sheet(
      'Heat',
      { center: [-31.155, 44.618], zoom: 12.6 },
      [
        ...ground,
        {
          id: 'sightings',
          title: 'Birds seen in a year',
          of: 'sightings',
          heat: { weight: { is: 'count' }, radius: 22 },
        },
        ...base('towns', 'waters', 'islands'),
      ],
      { sightings: { features: '../sightings.csv' } },
    ),
    extrusion: sheet('Extrusions', { center: [-31.1843, 44.6247], zoom: 16.1, bearing: 24, tilt: 55 }, [
      ...base(
        'depth',
        'flats',
        'marsh',
        'land',
        'grass',
        'wood',
        'park',
        'coast',
        'piers',
        'paths',
        'road-lane',
        'road-street',
        'road-road',
        'road-main',
        'road-trunk',
      ),
      {
        id: 'houses',
        title: 'Houses',
        of: 'reach/buildings',
        zoom: [14, 25],
        extrusion: {
          top: { is: 'height' },
          color: {
            by: 'height',
            title: 'Height',
            unit: 'm',
            classes: { breaks: [6, 9, 12], values: ['#ece4d4', '#dccdb4', '#c9b08c', '#b08d62'] },
          },
        },
      },
      ...base('street-names', 'towns', 'waters'),
    ]),
    background: {
      sheet: 1,
      title: 'Background',
      palette: palettes.slate,
      data: { reach: { tiles: '../reach.pmtiles' } },
      view: { center: [-31.3, 44.62], zoom: 8.4 },
      background: {
        by: 'zoom',
        ramp: [
          [6, '#0d141a'],
          [9, '#1f4e5f'],
          [12, '#2f7093'],
        ],
      },
      layers: [
        { id: 'land', of: 'reach/land', fill: '@land', stroke: { color: '@shore', width: 1 } },
        ...base('towns', 'landmass'),
      ],
    },
  };
}
