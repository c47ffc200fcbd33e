// npm run bench: how fast the heart is, each figure as a ratio to a floor measured in the same run.
import { readFileSync, readdirSync, existsSync } from 'node:fs';
import { join, dirname } from 'node:path';
import { fileURLToPath } from 'node:url';
import { gzipSync } from 'node:zlib';
import Table from 'cli-table3';
import earcut from 'earcut';
import KDBush from 'kdbush';
import {
  Archive,
  bufferSource,
  ClusterIndex,
  getCrs,
  gunzip,
  pyramid,
  readGeoJson,
  readSheet,
  readTile,
  writeTile,
} from '@flintwright/core';
import { MeshBuilder, placementOf, Portrayer, selectFeatures, stepOf } from '@flintwright/core/internal';
import { rolldown } from 'rolldown';
import { Bench } from 'tinybench';
import { drawFigures } from './draw.mjs';
import { frameFigures } from './frame.mjs';
import { placeFigures } from './places.mjs';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const data = join(root, 'demo/data');
if (!existsSync(join(data, 'reach.pmtiles'))) throw new Error('run "npm run demo" first');

const rows = [];
const add = (what, ratio, target, detail) => rows.push([what, ratio, target, detail]);

/** Best mean times of two functions run by turns, in milliseconds. */
async function versus(subject, floor, time = 1500) {
  const bench = new Bench({ time, warmupTime: 300 });
  bench.add('subject', subject).add('floor', floor);
  await bench.run();
  return bench.tasks.map((task) => task.result.latency.p50);
}
const ms = (v) => `${v.toFixed(v < 10 ? 2 : 1)} ms`;

// --- decode ---------------------------------------------------------------------------------------
const archive = await Archive.open(bufferSource(readFileSync(join(data, 'reach.pmtiles'))));
let largest;
for await (const entry of archive.entries()) if (!largest || entry.length > largest.length) largest = entry;
const tile = gunzip(await archive.tile(largest.tile));

/**
 * The floor of decoding: walks the tile by its wire format (encoding 2.1, section 4), stores every number of it, packed ones included, and
 * skips the texts. It counts the features and vertices that it came by.
 */
function walk(bytes, out) {
  let pos = 0;
  let stored = 0;
  const seen = { features: 0, vertices: 0, stored: 0 };
  const varint = () => {
    let byte = bytes[pos++];
    if (byte < 0x80) return byte;
    let value = byte & 0x7f;
    for (let shift = 7; ; shift += 7) {
      byte = bytes[pos++];
      value |= (byte & 0x7f) << shift;
      if (byte < 0x80) return value;
    }
  };
  const skip = (type) => {
    if (type === 0) out[stored++] = varint();
    else if (type === 1) pos += 8;
    else if (type === 5) pos += 4;
    else {
      // The length is read first: it moves the position that it is added to.
      const length = varint();
      pos += length;
    }
  };
  const geometry = (end) => {
    while (pos < end) {
      const command = varint();
      out[stored++] = command;
      const count = (command & 7) === 7 ? 0 : command >>> 3;
      seen.vertices += count;
      for (let k = 0; k < 2 * count; k++) out[stored++] = varint();
    }
  };
  const feature = (end) => {
    seen.features++;
    while (pos < end) {
      const key = varint();
      if (key === ((4 << 3) | 2)) {
        const length = varint();
        geometry(pos + length);
      } else if (key === ((2 << 3) | 2)) {
        const length = varint();
        const tagsEnd = pos + length;
        while (pos < tagsEnd) out[stored++] = varint();
      } else skip(key & 7);
    }
  };
  const values = (end) => {
    while (pos < end) skip(varint() & 7);
  };
  const layer = (end) => {
    while (pos < end) {
      const key = varint();
      if (key === ((2 << 3) | 2)) {
        const length = varint();
        feature(pos + length);
      } else if (key === ((4 << 3) | 2)) {
        const length = varint();
        values(pos + length);
      } else skip(key & 7);
    }
  };
  while (pos < bytes.length) {
    const key = varint();
    if (key === ((3 << 3) | 2)) {
      const length = varint();
      layer(pos + length);
    } else skip(key & 7);
  }
  seen.stored = stored;
  return seen;
}
{
  const numbers = new Float64Array(4 * tile.length);
  const blocks = readTile(tile);
  const held = {
    features: blocks.reduce((sum, { count }) => sum + count, 0),
    vertices: blocks.reduce((sum, { coords }) => sum + coords.length / 2, 0),
  };
  const { stored, ...seen } = walk(tile, numbers);
  if (seen.features !== held.features || seen.vertices !== held.vertices)
    throw new Error(`the floor of decoding saw ${JSON.stringify(seen)}, and the tile holds ${JSON.stringify(held)}`);
  const [subject, floor] = await versus(
    () => readTile(tile),
    () => walk(tile, numbers),
  );
  add(
    'decode all of a tile',
    subject / floor,
    '≤ 2.5',
    `${(tile.length / 1000).toFixed(0)} kB tile: ${ms(subject)} against ${ms(floor)} for a bare walk that stores its ${stored} numbers (${seen.features} features, ${seen.vertices} vertices)`,
  );
}

// --- projecting -----------------------------------------------------------------------------------
{
  const count = 1_000_000;
  const places = Float64Array.from({ length: 2 * count }, (_, i) =>
    i % 2 ? 40 + (i % 977) / 100 : -34 + (i % 613) / 100,
  );
  const project = (crs) => () => {
    const out = [0, 0];
    let sum = 0;
    for (let i = 0; i < places.length; i += 2) if (crs.forward(places[i], places[i + 1], out)) sum += out[0];
    return sum;
  };
  // As many calls of the same functions as the series takes a point, and nothing round them.
  const bare = () => {
    let sum = 0;
    const k = Math.PI / 180;
    for (let i = 0; i < places.length; i += 2) {
      const [x, y] = [(places[i] + 33) * k, places[i + 1] * k];
      sum +=
        Math.tan(y) +
        Math.cos(x) +
        Math.sin(x) +
        Math.atan2(y, x) +
        Math.asinh(x) +
        2 * Math.hypot(x, y) +
        Math.sinh(x) +
        Math.atanh(x);
      for (let j = 1; j <= 6; j++) sum += Math.sin(j * y) * Math.cosh(j * x) + Math.cos(j * y) * Math.sinh(j * x);
    }
    return sum;
  };
  const [subject, floor] = await versus(project(getCrs('EPSG:32625')), bare, 2500);
  add(
    'project 1,000,000 points',
    subject / floor,
    '–',
    `transverse Mercator to nanometres: ${ms(subject)} against ${ms(floor)} for the trigonometric calls alone`,
  );
}

// --- buffers --------------------------------------------------------------------------------------
{
  const blocks = readTile(tile);
  const place = placementOf(largest.tile, 4096);
  const all = blocks.map((block) => Uint32Array.from({ length: block.count }, (_, i) => i));
  const polygons = blocks.flatMap((block) =>
    [...Array(block.count).keys()]
      .filter((f) => block.kinds[f] === 3)
      .flatMap((f) => {
        const parts = [];
        for (let p = block.featureParts[f]; p < block.featureParts[f + 1]; p++) {
          const [from, to] = [block.partRings[p], block.partRings[p + 1]];
          const start = block.ringStarts[from];
          const holes = [];
          for (let r = from + 1; r < to; r++) holes.push(block.ringStarts[r] - start);
          parts.push([
            [...block.coords.subarray(2 * start, 2 * block.ringStarts[to])],
            holes.length ? holes : undefined,
          ]);
        }
        return parts;
      }),
  );
  const [subject, floor] = await versus(
    () => {
      const builder = new MeshBuilder(place);
      blocks.forEach((block, i) => builder.add(block, all[i], 0, 6, { fill: true, stroke: true, mark: true }));
      return builder.finish();
    },
    () => {
      for (const [flat, holes] of polygons) earcut(flat, holes);
    },
  );
  add(
    'tile to GPU-ready buffers',
    subject / floor,
    '≤ 1.6',
    `${polygons.length} polygons, areas and all outlines: ${ms(subject)} against ${ms(floor)} for the triangulator alone`,
  );
}

// --- restyle --------------------------------------------------------------------------------------
{
  const features = Array.from({ length: 100000 }, (_, i) => ({
    type: 'Feature',
    id: i,
    properties: { value: (i * 7919) % 1000, kind: ['a', 'b', 'c'][i % 3] },
    geometry: { type: 'Point', coordinates: [0, 0] },
  }));
  const block = readGeoJson({ type: 'FeatureCollection', features });
  const layer = (fill) =>
    readSheet({ sheet: 1, data: { d: { features: '' } }, layers: [{ id: 'l', of: 'd', fill, mark: { size: 6 } }] })
      .layers[0];
  const looks = [
    layer({ color: { by: 'value', classes: { breaks: [200, 400, 600, 800], scheme: 'YlGnBu' } } }),
    layer({
      color: {
        by: 'value',
        ramp: [
          [0, '#f7fcf0'],
          [1000, '#084081'],
        ],
      },
    }),
  ];
  const chosen = selectFeatures(looks[0], block);
  let turn = 0;
  const write = new Float32Array(chosen.length * looks[0].texels * 4);
  const [subject, floor] = await versus(
    () => {
      const look = looks[turn++ % 2];
      new Portrayer(look, block, stepOf(look, 10), () => 0).rows(chosen);
    },
    () => write.fill(turn++),
  );
  add(
    'restyle 100,000 features',
    subject / floor,
    '–',
    `rows worked out in ${ms(subject)} (wanted ≤ 16 ms), against ${ms(floor)} for filling the same array`,
  );
}

// --- tiling ---------------------------------------------------------------------------------------
{
  const texts = readdirSync(join(data, 'reach')).map((name) => [
    name.replace('.geojson', ''),
    readFileSync(join(data, 'reach', name), 'utf8'),
  ]);
  const megabytes = texts.reduce((sum, [, text]) => sum + text.length, 0) / 1e6;
  // Best of three rounds each, by turns.
  const floors = [];
  const times = [];
  for (let i = 0; i < 3; i++) {
    const began = performance.now();
    for (const [, text] of texts) JSON.parse(text);
    floors.push(performance.now() - began);
    const start = performance.now();
    const blocks = texts.map(([name, text]) => readGeoJson(text, { name }));
    const packed = new WeakMap();
    for (const { blocks: layers } of pyramid(blocks, [0, 14]))
      if (!packed.has(layers)) packed.set(layers, gzipSync(writeTile(layers)));
    times.push(performance.now() - start);
  }
  const [subject, floor] = [Math.min(...times), Math.min(...floors)];
  add(
    'tiling to zoom 14',
    subject / floor,
    '≤ 10',
    `${megabytes.toFixed(1)} MB read, cut, written and packed in ${ms(subject)}, against ${ms(floor)} for JSON.parse`,
  );
}

// --- clusters -------------------------------------------------------------------------------------
{
  // The demo's sightings, scattered about their places until there are a million.
  const seen = readFileSync(join(data, 'sightings.csv'), 'utf8').trim().split('\n').slice(1);
  const count = 1e6;
  const places = new Float64Array(2 * count);
  let seed = 7;
  const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
  for (let i = 0; i < count; i++) {
    const [lon, lat] = seen[i % seen.length].split(',');
    places[2 * i] = Number(lon) + (random() - 0.5) * 0.02;
    places[2 * i + 1] = Number(lat) + (random() - 0.5) * 0.015;
  }
  const timed = (work) => {
    const began = performance.now();
    work();
    return performance.now() - began;
  };
  const middle = (list) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)];
  let index;
  const builds = [1, 2, 3].map(() => [
    timed(() => (index = ClusterIndex.build(places))),
    timed(() => {
      const tree = new KDBush(count, 64, Float64Array);
      for (let i = 0; i < count; i++) tree.add(places[2 * i], places[2 * i + 1]);
      tree.finish();
    }),
  ]);
  const [subject, floor] = [0, 1].map((k) => middle(builds.map((pair) => pair[k])));
  add(
    'index of 1,000,000 points',
    subject / floor,
    '≤ 3',
    `${ms(subject)} against ${ms(floor)} for the spatial tree alone on the same points`,
  );
  const asks = [];
  for (let round = 0; round < 20; round++)
    for (let zoom = 8; zoom < 15; zoom++) asks.push(timed(() => index.query([-31.3, 44.55, -31, 44.68], zoom)));
  add(
    'clusters of one view',
    `${middle(asks).toFixed(2)} ms`,
    '≤ 2 ms',
    'the Reach at zoom 8 to 14, out of a million points',
  );
}

// --- frames, in the browser -----------------------------------------------------------------------
for (const row of await frameFigures(root)) add(...row);
for (const row of await drawFigures(root)) add(...row);

// --- searching ------------------------------------------------------------------------------------
for (const row of await placeFigures()) add(...row);

// --- size -----------------------------------------------------------------------------------------
{
  const bundle = await rolldown({
    input: 'app',
    plugins: [
      {
        name: 'app',
        resolveId: (id) => (id === 'app' ? id : null),
        load: (id) =>
          id === 'app'
            ? `import { createMap } from ${JSON.stringify(join(root, 'packages/flintwright/dist/index.js'))}; createMap('#map', {});`
            : null,
      },
    ],
    logLevel: 'silent',
  });
  const { output } = await bundle.generate({ format: 'es', minify: true });
  await bundle.close();
  const size = gzipSync(output[0].code, { level: 9 }).length / 1000;
  add(
    'browser bundle, gzip',
    `${size.toFixed(1)} kB`,
    '≤ 110 kB',
    'the map with its worker inside, as an application bundles it',
  );
}

const table = new Table({
  head: ['', 'ratio', 'target', ''],
  colAligns: ['left', 'right', 'right', 'left'],
  style: { head: [], border: [] },
});
for (const [what, ratio, target, detail] of rows)
  table.push([what, typeof ratio === 'number' ? `${ratio.toFixed(2)} ×` : ratio, target, detail]);
console.log(table.toString());
