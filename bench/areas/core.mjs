// The heart: decoding, projecting, preparing and restyling, each against a floor.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import earcut from 'earcut';
import { Archive, bufferSource, getCrs, gunzip, readGeoJson, readSheet, readTile } from '@flintwright/core';
import { MeshBuilder, placementOf, Portrayer, selectFeatures, stepOf } from '@flintwright/core/internal';
import { data, ms, versus } from '../measure.mjs';

const rows = [];
const add = (name, value, target, detail) =>
  rows.push({ name, value, unit: '×', ...(target ? { target } : {}), detail });

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
    2,
    `${(tile.length / 1000).toFixed(0)} kB tile: ${ms(subject)} against ${ms(floor)} for a bare walk that stores its ${stored} numbers (${seen.features} features, ${seen.vertices} vertices)`,
  );
}

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
    0,
    `transverse Mercator to nanometres: ${ms(subject)} against ${ms(floor)} for the trigonometric calls alone`,
  );
}

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
    1.6,
    `${polygons.length} polygons, areas and all outlines: ${ms(subject)} against ${ms(floor)} for the triangulator alone`,
  );
}

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
    0,
    `rows worked out in ${ms(subject)} (wanted ≤ 16 ms), against ${ms(floor)} for filling the same array`,
  );
}

export const figures = () => rows;
