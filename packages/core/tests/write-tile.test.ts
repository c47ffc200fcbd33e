// What is written as vector tiles, walked by a reader of the wire format of its own (encoding 2.1, section 4), which knows nothing of ours.
import { describe, expect, test } from '@jest/globals';
import { BlockBuilder, pyramid, readGeoJson, writeTile, type FeatureBlock, type Value } from '@flintwright/core';
import { randomFrom } from './sample-random.ts';

/** Fields of a message: number, and a varint or bytes. */
type Field = readonly [number: number, value: bigint | Uint8Array];

function fieldsOf(bytes: Uint8Array): Field[] {
  let at = 0;
  const varint = () => {
    let value = 0n;
    for (let shift = 0n; ; shift += 7n) {
      const byte = bytes[at++];
      if (byte === undefined) throw new Error('the bytes break off');
      value |= BigInt(byte & 127) << shift;
      // The shortest form: no empty group at the end.
      if (byte < 128) {
        if (byte === 0 && shift > 0n) throw new Error('a number is longer than it has to be');
        return value;
      }
    }
  };
  const out: Field[] = [];
  while (at < bytes.length) {
    const key = varint();
    const [field, wire] = [Number(key >> 3n), Number(key & 7n)];
    if (wire === 0) out.push([field, varint()]);
    else if (wire === 1 || wire === 2) {
      const length = wire === 1 ? 8 : Number(varint());
      if (at + length > bytes.length) throw new Error('a field reaches beyond the end');
      out.push([field, bytes.subarray(at, (at += length))]);
    } else throw new Error(`wire type ${wire}`);
  }
  return out;
}

const all = (fields: readonly Field[], number: number) => fields.flatMap(([n, value]) => (n === number ? [value] : []));
const only = (fields: readonly Field[], number: number) => {
  const found = all(fields, number);
  if (found.length > 1) throw new Error(`field ${number} stands ${found.length} times`);
  return found[0];
};
const textOf = (bytes: unknown) => new TextDecoder('utf-8', { fatal: true }).decode(bytes as Uint8Array);
const numbers = (bytes: Uint8Array) => {
  const list: number[] = [];
  let [value, weight] = [0, 1];
  for (const byte of bytes) {
    value += (byte & 127) * weight;
    weight *= 128;
    if (byte < 128) {
      list.push(value);
      [value, weight] = [0, 1];
    }
  }
  return list;
};

function valueOf(bytes: Uint8Array): Value {
  const [[field, value]] = fieldsOf(bytes);
  if (field === 1) return textOf(value);
  if (field === 3) {
    const eight = value as Uint8Array;
    return new DataView(eight.buffer, eight.byteOffset, 8).getFloat64(0, true);
  }
  if (field === 7) return value === 1n;
  if (field === 6) return Number((value as bigint) & 1n ? -((value as bigint) >> 1n) - 1n : (value as bigint) >> 1n);
  return Number(value);
}

/** Rings and lines by the commands of section 4.3, in absolute units. */
function shapesOf(commands: readonly number[]): number[][] {
  const out: number[][] = [];
  let [x, y, i] = [0, 0, 0];
  while (i < commands.length) {
    const [id, count] = [commands[i] & 7, commands[i++] >> 3];
    if (id === 7) continue;
    for (let k = 0; k < count; k++) {
      const [dx, dy] = [commands[i++], commands[i++]].map((v) => (v >>> 1) ^ -(v & 1));
      [x, y] = [x + dx, y + dy];
      if (id === 1) out.push([]);
      out.at(-1)!.push(x, y);
    }
  }
  return out;
}

/** Layers of a tile as the specification has them. */
function layersOf(bytes: Uint8Array) {
  return all(fieldsOf(bytes), 3).map((layer) => {
    const fields = fieldsOf(layer as Uint8Array);
    const keys = all(fields, 3).map(textOf);
    const values = all(fields, 4).map((value) => valueOf(value as Uint8Array));
    return {
      name: textOf(only(fields, 1)),
      version: only(fields, 15),
      extent: Number(only(fields, 5)),
      keys,
      values,
      features: all(fields, 2).map((feature) => {
        const parts = fieldsOf(feature as Uint8Array);
        const tags = numbers((only(parts, 2) as Uint8Array | undefined) ?? new Uint8Array());
        const pairs = Array.from({ length: tags.length / 2 }, (_, k) => [keys[tags[2 * k]], values[tags[2 * k + 1]]]);
        return {
          id: only(parts, 1),
          kind: Number(only(parts, 3)),
          tags: pairs,
          shapes: shapesOf(numbers(only(parts, 4) as Uint8Array)),
        };
      }),
    };
  });
}

describe('tiles, by the wire format', () => {
  const random = randomFrom(271);
  const upTo = (most: number) => Math.floor(random() * most);
  const pick = <T>(list: readonly T[]): T => list[upTo(list.length)];
  /** A block of chance, and what a tile is to say of it. */
  function chance(name: string) {
    const builder = new BlockBuilder(name, 'tile', 4096);
    const names = ['a', 'b', 'Straße', 'd'.repeat(200)].slice(0, 1 + upTo(4));
    const values = [0, -1, 1, 2 ** 40, -(2 ** 40), 0.5, -1e300, true, false, '', 'x', 'ü'.repeat(70), '7'];
    const wanted: unknown[] = [];
    for (let i = upTo(30); i > 0; i--) {
      const kind = upTo(4) as 0 | 1 | 2 | 3;
      const id = pick([NaN, 0, 7, 2 ** 45]);
      const shapes: number[][] = [];
      builder.begin();
      for (let part = kind ? 1 + upTo(2) : 0; part > 0; part--) {
        builder.part();
        for (let ring = kind === 3 ? 1 + upTo(2) : 1; ring > 0; ring--) {
          builder.ring();
          const shape: number[] = [];
          // A tile of many vertices makes lengths of several bytes.
          for (let v = kind === 1 ? 1 : kind + upTo(pick([4, 4, 90])); v > 0; v--) {
            const place: [number, number] = [upTo(8192) - 2048, upTo(8192) - 2048];
            builder.vertex(...place);
            shape.push(...place);
          }
          shapes.push(shape);
        }
      }
      const tags = names.flatMap((key) => {
        const value = random() < 0.3 ? null : pick(values);
        builder.set(key, value);
        return value === null ? [] : [[key, value]];
      });
      builder.end(kind, id);
      if (kind) wanted.push({ id: Number.isNaN(id) ? undefined : BigInt(id), kind, tags, shapes });
    }
    return { block: builder.finish(), wanted };
  }

  test('every layer, feature, tag and vertex is there, once, in the shortest form', () => {
    let features = 0;
    for (let i = 0; i < 400; i++) {
      const made = Array.from({ length: upTo(4) }, (_, k) => chance(`layer ${k}`));
      const layers = layersOf(writeTile(made.map(({ block }) => block)));
      const filled = made.filter(({ wanted }) => wanted.length > 0);
      expect(layers.map(({ name, version, extent }) => [name, version, extent])).toEqual(
        filled.map(({ block }) => [block.name, 2n, 4096]),
      );
      filled.forEach(({ wanted }, k) => {
        // The order of columns is that of their first values.
        const sorted = (list: unknown) =>
          (list as { tags: [string, unknown][] }[]).map(({ tags, ...rest }) => ({
            ...rest,
            tags: tags.toSorted(([x], [y]) => (x < y ? -1 : 1)),
          }));
        expect(sorted(layers[k].features)).toEqual(sorted(wanted));
        expect(new Set(layers[k].keys).size).toBe(layers[k].keys.length);
        expect(new Set(layers[k].values).size).toBe(layers[k].values.length);
        features += wanted.length;
      });
    }
    expect(features).toBeGreaterThan(2000);
  });

  test('blocks that share a table of values, as tiles of one source do, keep theirs apart', () => {
    const features = Array.from({ length: 400 }, (_, i) => ({
      type: 'Feature',
      properties: { kind: `kind ${i % 90}`, other: `kind ${(i * 7) % 90}`, n: i % 5 },
      geometry: { type: 'Point', coordinates: [(i % 20) * 8 - 80, Math.floor(i / 20) * 6 - 60] },
    }));
    const source = readGeoJson({ type: 'FeatureCollection', features }, { name: 'd' });
    const tiles = [...pyramid([source], [0, 3])];
    const say = ({ blocks }: { blocks: FeatureBlock[] }) => JSON.stringify(layersOf(writeTile(blocks)), plain);
    const plain = (_: string, value: unknown) => (typeof value === 'bigint' ? Number(value) : value);
    const first = tiles.map(say);
    // In another order, and again: no tile leaves anything behind for the next.
    expect(tiles.toReversed().map(say).toReversed()).toEqual(first);
    for (const { blocks } of tiles)
      for (const { tags } of layersOf(writeTile(blocks))[0].features) {
        const said = Object.fromEntries(tags) as { kind: string; other: string; n: number };
        const [i, k] = [said.kind, said.other].map((text) => Number(text.slice(5)));
        expect((i * 7) % 90).toBe(k);
        expect(said.n).toBe(i % 5);
      }
  });
});
