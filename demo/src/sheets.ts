import type { Sheet, SheetLayer, SheetScale, SheetStroke } from '@flintwright/core';

/** The colours of one theme. */
interface Palette extends Record<string, string> {
  readonly deep: string;
}

export const palettes = {
  chalk: {
    deep: '#a9c8d0', d200: '#aecbd2', d100: '#b3cfd5', d50: '#b9d4d9', d20: '#c1d9dd', d10: '#c9dfe2', d5: '#d1e5e6', d2: '#daebea', flat: '#e0dac9', flatEdge: '#cdc5b0', marsh: '#d3dcba', marshEdge: '#b4c29a',
    land: '#f4f0e6', shore: '#9fae9c', grass: '#e9ebd8', wood: '#d8e1c3', heath: '#e6e0d0', park: '#d3e0bd', pier: '#8f8675',
    building: '#e3d7c4', buildingEdge: '#cbbca4', lane: '#ffffff', laneEdge: '#d9cfbc', main: '#fdf3d8', mainEdge: '#cdb98f', trunk: '#f3c486', trunkEdge: '#b5854c', road: '#ffffff', roadEdge: '#c3b8a2', path: '#a5947a',
    ferry: '#4a7d94', ink: '#22303a', soft: '#5d6a70', halo: '#fbf8f0', waterInk: '#3d6f86', waterHalo: '#d6e8ea', woodInk: '#5f7444', mark: '#3f5661', markRim: '#ffffff', north: '#3d7a6c', south: '#c5523a', light: '#d98a2b',
  },
  slate: {
    deep: '#0d141a', d200: '#0f171e', d100: '#111a22', d50: '#131d25', d20: '#15202a', d10: '#182530', d5: '#1b2a36', d2: '#1f303d', flat: '#2a3234', flatEdge: '#353d3c', marsh: '#26372f', marshEdge: '#385042',
    land: '#222c33', shore: '#4b5c62', grass: '#243028', wood: '#26362d', heath: '#2b3030', park: '#294034', pier: '#5d6a70',
    building: '#33404a', buildingEdge: '#46555f', lane: '#44525c', laneEdge: '#1b242b', main: '#5a6670', mainEdge: '#1b242b', trunk: '#b98238', trunkEdge: '#1a2026', road: '#4b5963', roadEdge: '#1b242b', path: '#55636b',
    ferry: '#6fa3bb', ink: '#eef0ea', soft: '#a9b6bb', halo: '#18222a', waterInk: '#83b4ca', waterHalo: '#16212b', woodInk: '#8fae8c', mark: '#c3cfd2', markRim: '#18222a', north: '#5fb39f', south: '#e27a5f', light: '#f0ad54',
  },
  tide: {
    deep: '#2f7093', d200: '#387b9d', d100: '#4286a6', d50: '#5092b0', d20: '#5fa0ba', d10: '#74b0c5', d5: '#8fc2d0', d2: '#aed5dc', flat: '#d8c79c', flatEdge: '#b8a574', marsh: '#a9bf73', marshEdge: '#7f9a4d',
    land: '#f6e9c8', shore: '#5f7f77', grass: '#dde3ab', wood: '#a9c785', heath: '#d9c9a1', park: '#b5d68a', pier: '#6d5b44',
    building: '#d9a98a', buildingEdge: '#b07a58', lane: '#fffdf5', laneEdge: '#c9ab7c', main: '#ffe9a8', mainEdge: '#b8904a', trunk: '#e8793f', trunkEdge: '#8f3f1c', road: '#fffdf5', roadEdge: '#b59a6c', path: '#8d6b41',
    ferry: '#173f5c', ink: '#1d2a33', soft: '#4d5a5f', halo: '#fff7e2', waterInk: '#0f3f5c', waterHalo: '#bfe0e6', woodInk: '#3f6229', mark: '#1d3f52', markRim: '#ffffff', north: '#17735c', south: '#c03a22', light: '#e08a12',
  },
} satisfies Record<string, Palette>;

const width = (...ramp: [number, number][]): SheetScale<number> => ({ by: 'zoom', ramp });

/** A stroke with a darker edge to both sides. */
const cased = (color: string, edge: string, ...ramp: [number, number][]): SheetStroke[] => [
  { color: edge, width: width(...ramp.map(([z, w]): [number, number] => [z, w + (z < 13 ? 1 : 1.8)])) },
  { color, width: width(...ramp) },
];

const street = (cls: string, from: number, strokes: SheetStroke[]): SheetLayer => ({ id: `road-${cls}`, of: 'reach/roads', where: `class = '${cls}'`, zoom: [from, 25], stroke: strokes });

/** The base map of the Reach: the same layers for every theme. */
const layers: SheetLayer[] = [
  { id: 'depth', of: 'reach/depth', fill: { color: { by: 'above', kinds: { '-200': '@d200', '-100': '@d100', '-50': '@d50', '-20': '@d20', '-10': '@d10', '-5': '@d5', '-2': '@d2' } } } },
  { id: 'flats', of: 'reach/shore', where: "kind = 'flat'", zoom: [9, 25], fill: '@flat', stroke: { color: '@flatEdge', width: width([11, 0.3], [15, 1]) } },
  { id: 'marsh', of: 'reach/shore', where: "kind = 'marsh'", zoom: [9, 25], fill: '@marsh', stroke: { color: '@marshEdge', width: width([11, 0.3], [15, 1]) } },
  { id: 'land', of: 'reach/land', fill: '@land' },
  { id: 'grass', of: 'reach/cover', where: "kind = 'grass'", fill: '@grass' },
  { id: 'heath', of: 'reach/cover', where: "kind = 'heath'", fill: '@heath' },
  { id: 'wood', of: 'reach/cover', where: "kind = 'wood'", fill: '@wood' },
  { id: 'park', of: 'reach/cover', where: "kind = 'park'", zoom: [13, 25], fill: '@park' },
  { id: 'coast', of: 'reach/land', stroke: { color: '@shore', width: width([4, 0.5], [10, 0.7], [14, 1.1], [18, 1.6]) } },
  { id: 'piers', of: 'reach/piers', zoom: [13, 25], fill: '@pier' },
  { id: 'paths', of: 'reach/roads', where: "class = 'path'", zoom: [13.5, 25], stroke: { color: '@path', width: width([13, 0.8], [18, 2.2]), dash: [5, 3], cap: 'butt' } },
  street('lane', 13, cased('@lane', '@laneEdge', [13, 0.7], [14, 1.5], [15, 3], [16, 5.5], [18, 18], [20, 60])),
  street('street', 12, cased('@lane', '@laneEdge', [12, 0.5], [13, 1.2], [14, 2.4], [15, 4.4], [16, 8], [18, 24], [20, 80])),
  street('road', 9, cased('@road', '@roadEdge', [9, 0.4], [11, 1], [13, 2.2], [14, 3], [16, 8.5], [18, 26], [20, 84])),
  street('main', 12, cased('@main', '@mainEdge', [12, 0.9], [13, 1.8], [14, 3.2], [15, 5.6], [16, 9], [18, 27], [20, 86])),
  { id: 'buildings', of: 'reach/buildings', zoom: [13.6, 25], fill: { color: '@building', opacity: { by: 'zoom', ramp: [[13.6, 0.25], [14.6, 1]] } }, stroke: { color: '@buildingEdge', width: width([14, 0.3], [16, 0.8], [19, 1.2]), join: 'miter' } },
  street('trunk', 7, cased('@trunk', '@trunkEdge', [7, 0.6], [9, 1.2], [11, 2], [13, 3.6], [14, 5], [16, 12], [18, 34], [20, 110])),
  { id: 'ferries', of: 'reach/ferries', zoom: [10, 25], stroke: { color: '@ferry', width: width([10, 0.8], [14, 1.5], [18, 2.4]), dash: [6, 4], cap: 'butt' } },
  { id: 'seamarks', of: 'reach/seamarks', where: "kind IN ('north', 'south')", zoom: [13, 25],
    mark: { shape: { by: 'kind', kinds: { north: 'triangle', south: 'square' } }, size: width([13, 5], [16, 10], [19, 14]), color: { by: 'kind', kinds: { north: '@north', south: '@south' } }, outline: { color: '@markRim', width: 1.2 } } },
  { id: 'gauges', of: 'reach/seamarks', where: "kind = 'gauge'", zoom: [13, 25], mark: { icon: 'gauge', size: 15, color: '@mark', outline: { color: '@markRim', width: 1.6 } } },
  { id: 'lights', of: 'reach/seamarks', where: "kind = 'light'", zoom: [11, 25], mark: { icon: 'light', size: 19, color: '@light', outline: { color: '@markRim', width: 1.6 } },
    label: { text: 'name', size: 11.5, color: '@soft', halo: { color: '@halo', width: 1.4 }, anchor: 'top', offset: [0, 0.95], priority: 3 } },
  { id: 'stops', of: 'reach/stops', zoom: [12, 25], mark: { icon: 'ferry', size: 16, color: '@ferry', outline: { color: '@markRim', width: 1.8 } },
    label: { text: 'name', size: 11.5, color: '@ferry', halo: { color: '@halo', width: 1.4 }, anchor: 'top', offset: [0, 0.85], priority: 2 } },
  { id: 'numbers', of: 'reach/addresses', zoom: [17.2, 25], label: { text: 'number', size: 10, color: '@soft', halo: { color: '@building', width: 1 }, priority: -5 } },
  { id: 'street-names', of: 'reach/roads', where: 'name IS NOT NULL', zoom: [14.6, 25], label: { text: 'name', along: true, size: { by: 'zoom', ramp: [[15, 10.5], [18, 14]] }, color: '@soft', halo: { color: '@halo', width: 1.6 },
    priority: { by: 'class', kinds: { trunk: 1, main: 0.8, street: 0.5, lane: 0.2 }, other: 0 } } },
  { id: 'islands', of: 'reach/places', where: "kind IN ('island', 'headland', 'wood', 'hill')", zoom: [11.5, 25],
    label: { text: 'name', size: 12, style: 'italic', color: { by: 'kind', kinds: { wood: '@woodInk' }, other: '@soft' }, halo: { color: '@halo', width: 1.4 }, spacing: 0.03, priority: 4, wrap: 7 } },
  { id: 'waters', of: 'reach/places', where: "kind IN ('water', 'creek')", zoom: [10, 25],
    label: { text: 'name', size: { by: 'zoom', ramp: [[10, 11], [13, 15], [16, 22]] }, style: 'italic', font: 'Georgia, "Noto Serif", serif', weight: 400, color: '@waterInk', halo: { color: '@waterHalo', width: 1.2 }, spacing: 0.14, wrap: 20, priority: { by: 'rank', ramp: [[1, 6], [3, 3]] } } },
  { id: 'villages', of: 'reach/places', where: "kind = 'village'", zoom: [10.5, 25], label: { text: 'name', size: width([10, 10.5], [15, 14]), weight: 500, color: '@ink', halo: { color: '@halo', width: 1.6 }, priority: 5 } },
  { id: 'towns', of: 'reach/places', where: "kind = 'town'", zoom: [7, 25],
    label: { text: 'name', size: { by: 'zoom', ramp: [[7, 11], [11, 14], [14, 22], [17, 28]] }, weight: 700, color: '@ink', halo: { color: '@halo', width: 2 }, priority: { by: 'rank', ramp: [[1, 10], [3, 8]] } } },
  { id: 'landmass', of: 'reach/places', where: "kind = 'landmass'", zoom: [4, 9.5], label: { text: 'name', upper: true, size: width([4, 11], [9, 20]), weight: 600, spacing: 0.3, color: '@soft', halo: { color: '@halo', width: 1.6 }, priority: 12 } },
];

export function sheetOf(theme: keyof typeof palettes, tiles: string): Sheet {
  return {
    sheet: 1,
    title: `Tessary Reach, ${{ chalk: 'Chalk', slate: 'Slate', tide: 'Tide' }[theme]}`,
    palette: palettes[theme],
    data: { reach: { tiles } },
    view: { center: [-31.18, 44.62], zoom: 13.4, limits: { zoom: [3, 20] } },
    background: '@deep',
    layers,
  };
}
