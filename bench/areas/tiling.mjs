// Cutting the demo's features into tiles: against JSON.parse of the same text, by input, and by tile.
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { pyramid, readGeoJson, readTile, writeTile } from '@flintwright/core';
import { data, ms, quantile } from '../measure.mjs';

export function figures() {
  const texts = readdirSync(join(data, 'reach')).map((name) => [
    name.replace('.geojson', ''),
    readFileSync(join(data, 'reach', name), 'utf8'),
  ]);
  const megabytes = texts.reduce((sum, [, text]) => sum + text.length, 0) / 1e6;
  const [floors, times, writes, cpus] = [[], [], [], []];
  let tiles, features, bytes, written;
  // Three rounds each, by turns.
  for (let round = 0; round < 3; round++) {
    let began = performance.now();
    features = 0;
    for (const [, text] of texts) features += JSON.parse(text).features.length;
    floors.push(performance.now() - began);
    const cpu = process.cpuUsage();
    began = performance.now();
    const blocks = texts.map(([name, text]) => readGeoJson(text, { name }));
    const held = blocks.reduce((sum, { count }) => sum + count, 0);
    if (held !== features) throw new Error(`${held} features were read, and the text holds ${features}`);
    const packed = new Map();
    let writing = 0;
    for (const { blocks: layers } of pyramid(blocks, [0, 14])) {
      if (packed.has(layers)) continue;
      const start = performance.now();
      const tile = writeTile(layers);
      writing += performance.now() - start;
      packed.set(layers, [tile, gzipSync(tile).length]);
    }
    times.push(performance.now() - began);
    writes.push(writing);
    const { user, system } = process.cpuUsage(cpu);
    cpus.push((user + system) / 1000);
    tiles = packed.size;
    bytes = [...packed.values()].reduce((sum, [, size]) => sum + size, 0);
    written = [...packed.values()].map(([tile]) => tile);
  }
  // The floor of writing: the same bytes copied once.
  const began = performance.now();
  const into = new Uint8Array(Math.max(...written.map(({ length }) => length)));
  for (const tile of written) into.set(tile);
  const copied = performance.now() - began;
  const back = written.reduce((sum, tile) => sum + readTile(tile).reduce((some, { count }) => some + count, 0), 0);
  if (back < features) throw new Error(`the tiles hold ${back} features, fewer than the ${features} that were cut`);
  const [subject, floor] = [Math.min(...times), Math.min(...floors)];
  return [
    {
      name: 'tiling to zoom 14',
      value: subject / floor,
      unit: '×',
      target: 10,
      detail: `${megabytes.toFixed(1)} MB read, cut, written and packed in ${ms(subject)}, against ${ms(floor)} for JSON.parse`,
    },
    {
      name: 'tiling, input',
      value: megabytes / (subject / 1000),
      unit: 'MB/s',
      detail: 'GeoJSON text a second, on one core and a little',
    },
    { name: 'tiling, CPU a tile', value: quantile(cpus, 0) / tiles, unit: 'ms', detail: `${tiles} different tiles` },
    {
      name: 'writing tiles',
      value: Math.min(...writes),
      unit: 'ms',
      detail: `${(written.reduce((sum, { length }) => sum + length, 0) / 1e6).toFixed(1)} MB in ${tiles} tiles; copying the bytes ${ms(copied)}`,
    },
    {
      name: 'packed tiles',
      value: bytes / 1000,
      unit: 'kB',
      // The features of the Reach with relief, contours and soundings: a quarter more than before those came.
      limit: 4200,
      detail: `gzip, ${tiles} tiles with ${back} features`,
    },
  ];
}
