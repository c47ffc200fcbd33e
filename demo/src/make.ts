import { once } from 'node:events';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { ArchiveWriter, boundsOfBlocks, gzip, pyramid, readGeoJson, vectorLayers, writeTile } from '@flintwright/core';
import { buildAfloat, buildBeds, buildSightings } from './afloat.js';
import { areasAbove, mapField, sampleField, type Field } from './contour.js';
import { polygon, type DemoFeature, type Line } from './frame.js';
import { buildPlaces } from './places.js';
import { collection, out, putFeatures, putGazetteer, say } from './put.js';
import { buildRoads, roadCourses } from './roads.js';
import { buildTerminal, terminalSheet } from './terminal.js';
import { makeTerrain } from './terrain.js';
import { sentFiles } from './sent-files.js';
import { sheetOf } from './sheets.js';
import { symbolSheets } from './symbols.js';
import { buildTown, towns } from './towns.js';

const terrain = makeTerrain();
const heights = sampleField([-52000, -27000, 22500, 27000], 37, terrain.height);
say(`terrain of ${heights.columns} × ${heights.rows} heights`);
// The planet and the pictures of the relief are made beside the rest.
const aside = new Worker(new URL('./aside.js', import.meta.url), { workerData: heights });
const asideDone = once(aside, 'exit');

const at = (field: Field, index: number) =>
  [
    field.west + (index % field.columns) * field.step,
    field.south + Math.floor(index / field.columns) * field.step,
  ] as const;
const areas = (field: Field, level: number, least: number, properties: DemoFeature['properties']) =>
  areasAbove(field, level, least).map((rings: Line[], i) => polygon(rings, properties, i + 1));

const land = areas(heights, 2.9, 2500, { kind: 'land' });
const sheltered = mapField(heights, (h, i) => (h > 0.1 && h < 3.6 ? terrain.shelter(...at(heights, i)) : 0));
const band = (low: number, high: number, wanted: (i: number) => boolean) =>
  mapField(heights, (h, i) => (wanted(i) ? Math.min(h - low, high - h) : -1));
const shore = [
  ...areas(
    band(0.25, 3.3, () => true),
    0,
    1800,
    { kind: 'flat' },
  ).map((f, i) => ({ ...f, id: i + 1 })),
  ...areas(
    band(1.75, 3.3, (i) => sheltered.values[i] > 0.4),
    0,
    1500,
    { kind: 'marsh' },
  ).map((f, i) => ({ ...f, id: 10000 + i })),
];
const sheltersTown = (x: number, y: number) =>
  towns.some((t) => Math.hypot(x - t.at[0], y - t.at[1]) < t.radius * 1.12);
const woods = mapField(heights, (h, i) => (h < 3.4 ? -1 : terrain.wood(...at(heights, i))));
const woodField = mapField(heights, (h, i) => {
  if (h < 4.2) return -1;
  const [x, y] = at(heights, i);
  return sheltersTown(x, y) ? -1 : Math.min(woods.values[i], (h - 4.2) * 0.1);
});
const cover = [
  ...areas(
    mapField(woods, (w) => w + 0.2),
    0,
    9000,
    { kind: 'grass' },
  ),
  ...areas(woodField, 0, 5000, { kind: 'wood' }),
  ...areas(
    mapField(heights, (h) => h - 62),
    0,
    20000,
    { kind: 'heath' },
  ),
];
// The shelf reaches far beyond the coast; a coarse look at it is enough.
const shelf = sampleField(
  [-230000, -160000, 200000, 160000],
  800,
  (x, y) => terrain.inland(x, y) + 26000 * terrain.bank(x, y),
);
const shelves = [
  [-200, -66000],
  [-100, -40000],
  [-50, -19000],
].flatMap(([above, level]) => areas(shelf, level, 4e6, { above }));
const depth = [-20, -10, -5, -2].flatMap((level) => areas(heights, level, 20000, { above: level }));
say('coast, shore, cover and depths');

const courses = roadCourses();
const townWork = towns.map((town, i) => buildTown(town, terrain, courses, 900 + i));
const afloat = buildAfloat(terrain);
const { beds, yields } = buildBeds(terrain);
const numbered = (features: DemoFeature[]) => features.map((feature, i) => ({ ...feature, id: i + 1 }));
const reach: Record<string, DemoFeature[]> = {
  depth: numbered([...shelves, ...depth]),
  shore,
  land,
  cover: numbered([...cover, ...townWork.flatMap((w) => w.parks)]),
  buildings: numbered(townWork.flatMap((w) => w.buildings)),
  piers: numbered(afloat.piers),
  roads: numbered([...townWork.flatMap((w) => w.streets), ...buildRoads(terrain)]),
  ferries: afloat.ferries,
  seamarks: numbered([...afloat.buoys, ...afloat.gauges, ...afloat.lights]),
  stops: afloat.stops,
  addresses: numbered(townWork.flatMap((w) => w.addresses)),
  places: buildPlaces(),
};
say('towns, roads, waters and places');

putFeatures('reach', reach);
writeFileSync(join(out, 'moorings.geojson'), JSON.stringify(collection(afloat.moorings)));
writeFileSync(join(out, 'beds.geojson'), JSON.stringify(collection(beds)));
writeFileSync(join(out, 'yield.csv'), yields);
writeFileSync(join(out, 'sightings.csv'), buildSightings(terrain));
say(
  `${Object.values(reach).reduce((sum, f) => sum + f.length, 0)} features in ${Object.keys(reach).length} layers, ${afloat.moorings.length} moorings, ${beds.length} beds, 120000 sightings`,
);

mkdirSync(join(out, 'files'), { recursive: true });
const sent = await sentFiles(terrain, reach.seamarks, afloat.gauges, afloat.moorings);
for (const [name, bytes] of Object.entries(sent)) writeFileSync(join(out, 'files', name), bytes);
say(`${Object.keys(sent).join(', ')} as the conservancy was sent them`);

const { places, roads, addresses, stops, seamarks, piers, cover: parks } = reach;
const { moorings } = afloat;
putGazetteer('reach', 'Tessary Reach', { places, roads, addresses, stops, seamarks, piers, parks, beds, moorings });

const blocks = Object.entries(reach).map(([name, features]) => readGeoJson(collection(features), { name }));
const writer = new ArchiveWriter();
const packed = new WeakMap<object, Uint8Array>();
for (const { tile, blocks: layers } of pyramid(blocks, [0, 14])) {
  const bytes = packed.get(layers) ?? gzip(writeTile(layers));
  packed.set(layers, bytes);
  writer.add(tile, bytes);
}
const bounds = boundsOfBlocks(blocks);
const archive = writer.finish({
  metadata: {
    name: 'Tessary Reach',
    attribution: 'Made-up data · Reach Conservancy',
    vector_layers: vectorLayers(blocks, [0, 14]),
  },
  bounds,
  center: [-31.18, 44.62],
  centerZoom: 12,
});
writeFileSync(join(out, 'reach.pmtiles'), Buffer.concat(archive.pieces));
say(`${writer.size} tiles, ${(archive.length / 1e6).toFixed(1)} MB, in demo/data/reach.pmtiles`);

for (const theme of ['chalk', 'slate', 'tide'] as const)
  writeFileSync(join(out, `${theme}.sheet.json`), JSON.stringify(sheetOf(theme, 'reach.pmtiles'), null, 2));
mkdirSync(join(out, 'symbols'), { recursive: true });
for (const [name, sheet] of Object.entries(symbolSheets()))
  writeFileSync(join(out, 'symbols', `${name}.sheet.json`), JSON.stringify(sheet, null, 2));
say('sheets Chalk, Slate and Tide, and one for each symbol');

putFeatures('terminal', buildTerminal());
writeFileSync(join(out, 'terminal.sheet.json'), JSON.stringify(terminalSheet(), null, 2));
say('the terminal and its plan');
const [status] = (await asideDone) as [number];
if (status) process.exitCode = status;
