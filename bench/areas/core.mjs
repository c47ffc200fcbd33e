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
 * The floor of decoding: walks a tile by its wire format (encoding 2.1, section 4), stores the numbers of its geometries, and skips the rest.
 * It counts the features and vertices.
 */
class Walk {
  /** Field numbers with the wire type of a length (encoding 2.1, section 4 and its appendix). */
  static layer = (3 << 3) | 2;
  static feature = (2 << 3) | 2;
  static geometry = (4 << 3) | 2;

  constructor(bytes, out) {
    this.bytes = bytes;
    this.out = out;
    this.start();
  }

  start() {
    this.pos = this.stored = this.features = this.vertices = 0;
  }

  run() {
    this.start();
    this.fields(this.bytes.length, Walk.layer);
    return this;
  }

  /** Walks the fields of a message, and into those of one number. */
  fields(end, number) {
    while (this.pos < end) {
      const key = this.varint();
      if (key !== number) this.skip(key & 7);
      else {
        const length = this.varint();
        const inner = this.pos + length;
        if (number === Walk.geometry) this.geometry(inner);
        else if (number === Walk.feature) {
          this.features++;
          this.fields(inner, Walk.geometry);
        } else this.fields(inner, Walk.feature);
      }
    }
  }

  geometry(end) {
    const { bytes, out } = this;
    let at = this.pos;
    let next = this.stored;
    while (at < end) {
      let byte = bytes[at++];
      let value = byte & 0x7f;
      for (let shift = 7; byte >= 0x80; shift += 7) {
        byte = bytes[at++];
        value |= (byte & 0x7f) << shift;
      }
      out[next++] = value;
    }
    for (let i = this.stored; i < next;) {
      const command = out[i++];
      if ((command & 7) === 7) continue;
      this.vertices += command >>> 3;
      i += 2 * (command >>> 3);
    }
    this.pos = at;
    this.stored = next;
  }

  varint() {
    const { bytes } = this;
    let byte = bytes[this.pos++];
    let value = byte & 0x7f;
    for (let shift = 7; byte >= 0x80; shift += 7) {
      byte = bytes[this.pos++];
      value |= (byte & 0x7f) << shift;
    }
    return value;
  }

  skip(type) {
    if (type === 0) this.varint();
    else if (type === 1) this.pos += 8;
    else if (type === 5) this.pos += 4;
    else {
      const length = this.varint();
      this.pos += length;
    }
  }
}
{
  const numbers = new Int32Array(tile.length);
  const blocks = readTile(tile);
  const held = {
    features: blocks.reduce((sum, { count }) => sum + count, 0),
    vertices: blocks.reduce((sum, { coords }) => sum + coords.length / 2, 0),
  };
  const walk = new Walk(tile, numbers);
  const { stored, features, vertices } = walk.run();
  const seen = { features, vertices };
  if (seen.features !== held.features || seen.vertices !== held.vertices)
    throw new Error(`the floor of decoding saw ${JSON.stringify(seen)}, and the tile holds ${JSON.stringify(held)}`);
  const [subject, floor] = await versus(
    () => readTile(tile),
    () => walk.run(),
  );
  add(
    'decode all of a tile',
    subject / floor,
    2,
    `${(tile.length / 1000).toFixed(0)} kB tile: ${ms(subject)} against ${ms(floor)} for a bare walk that stores the ${stored} numbers of its geometries (${seen.features} features, ${seen.vertices} vertices)`,
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
    `transverse Mercator to nanometers: ${ms(subject)} against ${ms(floor)} for the trigonometric calls alone`,
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
    `rows worked out in ${ms(subject)} (limit 16 ms), against ${ms(floor)} for filling the same array`,
  );
}

export const figures = () => rows;
