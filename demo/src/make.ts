import { once } from 'node:events';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { ArchiveWriter, boundsOfBlocks, gzip, pyramid, readGeoJson, vectorLayers, writeTile } from '@flintwright/core';
import { buildAfloat, buildBeds, buildSightings } from './afloat.js';
import { areasAbove, mapField, sampleField, type Field } from './contour.js';
import { point, polygon, toMetres, type DemoFeature, type Line } from './frame.js';
import { buildPlaces } from './places.js';
import { collection, out, putFeatures, putGazetteer, say } from './put.js';
import { buildRoads, roadCourses, trunkCourses } from './roads.js';
import { buildTerminal, terminalSheet } from './terminal.js';
import { builtUp, reliefSteps, villageHouses } from './ground.js';
import { currents, dryingGround, oneTideSheet, sectors, tideCurve } from './one-tide.js';
import { makeTerrain } from './terrain.js';
import { bedOf, bridges, contourLines, depths, soundings, waterCourses } from './waterways.js';
import { sentFiles } from './sent-files.js';
import { sheetOf } from './sheets.js';
import { symbolSheets } from './symbols.js';
import { buildTown, towns, villages } from './towns.js';

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
  // Sand behind the open coast.
  ...areas(
    mapField(heights, (h, i) =>
      h > 3.2 && h < 9.5 && terrain.shelter(...at(heights, i)) < 0.05
        ? Math.min(h - 3.2, 9.5 - h) + 4 * woods.values[i]
        : -1,
    ),
    0,
    24000,
    { kind: 'dune' },
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
const bed = bedOf(heights, terrain);
const depth = depths.toReversed().flatMap((level) => areas(bed, level, 20000, { above: level }));
say('coast, shore, cover and depths');

const courses = roadCourses();
const roadWork = buildRoads(terrain);
const townWork = towns.map((town, i) => buildTown(town, terrain, { courses, trunks: trunkCourses() }, 900 + i));
const afloat = buildAfloat(terrain);
const { beds, yields } = buildBeds(terrain);
const numbered = (features: DemoFeature[]) => features.map((feature, i) => ({ ...feature, id: i + 1 }));
const reach: Record<string, DemoFeature[]> = {
  depth: numbered([...shelves, ...depth]),
  shore,
  land,
  cover: numbered([...cover, ...townWork.flatMap((w) => w.parks)]),
  relief: numbered(reliefSteps(heights)),
  built: numbered(
    builtUp([
      ...towns.map((town, i) => ({ ...town, streets: townWork[i].courses })),
      ...villages.map((village, i) => ({ ...village, streets: roadWork.lanes[i] })),
    ]),
  ),
  buildings: numbered([
    ...townWork.flatMap((w) => w.buildings),
    ...roadWork.lanes.flatMap((lanes, i) => villageHouses(lanes, 940 + i)),
  ]),
  piers: numbered(afloat.piers),
  roads: numbered([...townWork.flatMap((w) => w.streets), ...roadWork.features]),
  bridges: numbered(bridges(roadWork.courses, terrain)),
  contours: numbered(contourLines(bed)),
  soundings: numbered(soundings(terrain)),
  courses: numbered(waterCourses(terrain)),
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
/** Levels from and up to which layers are in the tiles. */
const firstLevels: Record<string, number> = {
  buildings: 13,
  addresses: 14,
  soundings: 11,
  contours: 11,
  bridges: 12,
  built: 7,
  relief: 6,
};
const lastLevels: Record<string, number> = { relief: 12 };
const writer = new ArchiveWriter();
const packed = new WeakMap<object, Uint8Array>();
/** Levels that are cut from the same features: far out, areas of less than 25 square pixels and what only close views show are left out. */
const levels = [
  [0, 6],
  [7, 7],
  [8, 8],
  [9, 9],
  [10, 10],
  [11, 11],
  [12, 12],
  [13, 14],
] as const;
for (const [first, last] of levels)
  for (const { tile, blocks: layers } of pyramid(blocksFor(last), [first, last])) {
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

putFeatures('tide', {
  currents: numbered(currents(terrain)),
  sectors: numbered(sectors(afloat.lights, (at) => toMetres(at as [number, number]))),
  gauge: [point([-30, 160], { name: 'Hallow Quay gauge', every: 5, heights: tideCurve.join(' ') }, 1)],
});
writeFileSync(join(out, 'one-tide.sheet.json'), JSON.stringify(oneTideSheet(), null, 2));
const drying = [readGeoJson(collection(numbered(dryingGround(heights))), { name: 'drying' })];
const tideWriter = new ArchiveWriter();
for (const { tile, blocks: layers } of pyramid(drying, [8, 13])) tideWriter.add(tile, gzip(writeTile(layers)));
const tideArchive = tideWriter.finish({
  metadata: {
    name: 'Ground that falls dry',
    attribution: 'Made-up data · Reach Conservancy',
    vector_layers: vectorLayers(drying, [8, 13]),
  },
  bounds: boundsOfBlocks(drying),
  center: [-31.18, 44.62],
  centerZoom: 12,
});
writeFileSync(join(out, 'tide.pmtiles'), Buffer.concat(tideArchive.pieces));
say(`the chart of one tide, ${(tideArchive.length / 1e6).toFixed(1)} MB, in demo/data/tide.pmtiles`);

putFeatures('terminal', buildTerminal());
writeFileSync(join(out, 'terminal.sheet.json'), JSON.stringify(terminalSheet(), null, 2));
say('the terminal and its plan');
const [status] = (await asideDone) as [number];
if (status) process.exitCode = status;

/** The features that tiles of a level hold. */
function blocksFor(zoom: number) {
  const pixel = (40075016.686 * Math.cos((44.62 * Math.PI) / 180)) / (512 * 2 ** zoom);
  const least = 25 * pixel * pixel;
  return Object.entries(reach).flatMap(([name, features]) => {
    if (zoom < (firstLevels[name] ?? 0) || zoom > (lastLevels[name] ?? 22)) return [];
    const isArea = name === 'cover' || name === 'shore' || name === 'relief' || name === 'built';
    const kept =
      isArea && zoom < 13
        ? features.filter(({ geometry }) => areaOf(geometry.coordinates as [number, number][][]) >= least)
        : features;
    return [readGeoJson(collection(kept), { name })];
  });
}

/** Square meters of a polygon without its holes. */
function areaOf(rings: readonly (readonly [number, number])[][]): number {
  const degree = (Math.PI / 180) * 6371008.8;
  const narrow = Math.cos((44.62 * Math.PI) / 180);
  const [outer, ...holes] = rings.map((ring) => {
    let sum = 0;
    for (let i = 1; i < ring.length; i++)
      sum +=
        (ring[i - 1][0] - ring[0][0]) * (ring[i][1] - ring[0][1]) -
        (ring[i][0] - ring[0][0]) * (ring[i - 1][1] - ring[0][1]);
    return (Math.abs(sum) / 2) * degree * degree * narrow;
  });
  return holes.reduce((left, hole) => left - hole, outer);
}
