import { describe, expect, test } from '@jest/globals';
import {
  attributesOf,
  Fault,
  readTile,
  writeTile,
  BlockBuilder,
  type FeatureBlock,
  type Violation,
} from '@flintwright/core';
import fc from 'fast-check';

/** A protocol buffer by hand: varint fields, and length-delimited ones. */
const varint = (value: number): number[] =>
  value < 128 ? [value] : [(value & 127) | 128, ...varint(Math.floor(value / 128))];
const field = (number: number, bytes: number[]) => [...varint((number << 3) | 2), ...varint(bytes.length), ...bytes];
const whole = (number: number, value: number) => [...varint(number << 3), ...varint(value)];
const text = (value: string) => [...Buffer.from(value)];
const feature = (type: number, geometry: number[], more: number[] = []) =>
  field(2, [...more, ...whole(3, type), ...field(4, geometry.flatMap(varint))]);
const layer = (...parts: number[][]) => field(3, [...whole(15, 2), ...field(1, text('points')), ...parts.flat()]);
const tile = (...layers: number[][]) => Uint8Array.from(layers.flat());

const point = 1;
const line = 2;
const polygon = 3;

function shapes(block: FeatureBlock, index: number): number[][][] {
  const out: number[][][] = [];
  for (let p = block.featureParts[index]; p < block.featureParts[index + 1]; p++) {
    for (let r = block.partRings[p]; r < block.partRings[p + 1]; r++) {
      out.push(
        Array.from({ length: block.ringStarts[r + 1] - block.ringStarts[r] }, (_, i) => [
          ...block.coords.slice(2 * (block.ringStarts[r] + i), 2 * (block.ringStarts[r] + i) + 2),
        ]),
      );
    }
  }
  return out;
}

// The example geometries of the vector tile specification 2.1, section 4.3.5.
const examples: [string, number, number[], number[][][]][] = [
  ['point', point, [9, 50, 34], [[[25, 17]]]],
  ['multi point', point, [17, 10, 14, 3, 9], [[[5, 7]], [[3, 2]]]],
  [
    'line',
    line,
    [9, 4, 4, 18, 0, 16, 16, 0],
    [
      [
        [2, 2],
        [2, 10],
        [10, 10],
      ],
    ],
  ],
  [
    'multi line',
    line,
    [9, 4, 4, 18, 0, 16, 16, 0, 9, 17, 17, 10, 4, 8],
    [
      [
        [2, 2],
        [2, 10],
        [10, 10],
      ],
      [
        [1, 1],
        [3, 5],
      ],
    ],
  ],
  [
    'polygon',
    polygon,
    [9, 6, 12, 18, 10, 12, 24, 44, 15],
    [
      [
        [3, 6],
        [8, 12],
        [20, 34],
      ],
    ],
  ],
  [
    'multi polygon',
    polygon,
    [9, 0, 0, 26, 20, 0, 0, 20, 19, 0, 15, 9, 22, 2, 26, 18, 0, 0, 18, 17, 0, 15, 9, 4, 13, 26, 0, 8, 8, 0, 0, 7, 15],
    [
      [
        [0, 0],
        [10, 0],
        [10, 10],
        [0, 10],
      ],
      [
        [11, 11],
        [20, 11],
        [20, 20],
        [11, 20],
      ],
      [
        [13, 13],
        [13, 17],
        [17, 17],
        [17, 13],
      ],
    ],
  ],
];

describe('vector tiles', () => {
  test.each(examples)("the specification's %s reads and writes as printed", (_, type, commands, wanted) => {
    const bytes = tile(layer(feature(type, commands)));
    const [block] = readTile(bytes);
    expect(shapes(block, 0)).toEqual(wanted);
    expect(block.extent).toBe(4096);
    const again = writeTile([block]);
    expect(Buffer.from(again).includes(Buffer.from(field(4, commands.flatMap(varint))))).toBe(true);
    expect(shapes(readTile(again)[0], 0)).toEqual(wanted);
  });

  test('the second outer ring begins a second polygon and the hole belongs to it', () => {
    const [block] = readTile(tile(layer(feature(polygon, examples[5][2]))));
    expect([...block.partRings]).toEqual([0, 1, 3]);
  });

  test('all seven value types, ids and unknown fields', () => {
    const float = [...new Uint8Array(new Float32Array([1.5]).buffer)];
    const double = [...new Uint8Array(new Float64Array([-0.1]).buffer)];
    const minus = [0xfe, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0x01];
    const values = [
      field(1, text('Zażółć')),
      [(2 << 3) | 5, ...float],
      [(3 << 3) | 1, ...double],
      [4 << 3, ...minus],
      whole(5, 2 ** 40),
      whole(6, 5),
      whole(7, 1),
    ];
    const keys = ['s', 'f', 'd', 'i', 'u', 'z', 'b'];
    const bytes = tile(
      [...whole(9, 77), ...field(12, [1, 2, 3])],
      layer(
        feature(
          point,
          [9, 2, 2],
          [
            ...whole(1, 2 ** 35),
            ...field(
              2,
              keys.flatMap((_, i) => [i, i]),
            ),
            ...whole(20, 5),
          ],
        ),
        ...keys.map((key) => field(3, text(key))),
        ...values.map((value) => field(4, value)),
        field(90, [9, 9]),
      ),
    );
    const [block] = readTile(bytes);
    expect(attributesOf(block, 0)).toEqual({ s: 'Zażółć', f: 1.5, d: -0.1, i: -2, u: 2 ** 40, z: -3, b: true });
    expect(block.ids[0]).toBe(2 ** 35);
    expect(attributesOf(readTile(writeTile([block]))[0], 0)).toEqual(attributesOf(block, 0));
  });

  test('lists of numbers may come in several pieces or one by one; groups are passed over (Protocol Buffers, Encoding)', () => {
    const names = [
      field(3, text('k')),
      field(3, text('l')),
      field(4, field(1, text('v'))),
      field(4, field(1, text('w'))),
    ];
    const square = [9, 0, 0, 26, 20, 0, 0, 20, 19, 0, 15].flatMap(varint);
    const tags = [0, 0, 1, 1];
    const whole1 = layer(
      field(2, [...whole(1, 7), ...field(2, tags), ...whole(3, polygon), ...field(4, square)]),
      ...names,
    );
    const wanted = readTile(tile(whole1))[0];
    const group = [(31 << 3) | 3, (1 << 3) | 0, 5, (2 << 3) | 3, (2 << 3) | 4, (31 << 3) | 4].flatMap(varint);
    const forms: [string, number[]][] = [
      [
        'split',
        [
          ...field(2, tags.slice(0, 1)),
          ...field(4, square.slice(0, 3)),
          ...whole(1, 7),
          ...field(2, tags.slice(1)),
          ...whole(3, polygon),
          ...field(4, square.slice(3)),
        ],
      ],
      [
        'one by one',
        [
          ...whole(1, 7),
          ...tags.flatMap((one) => whole(2, one)),
          ...whole(3, polygon),
          ...square.flatMap((one) => whole(4, one)),
        ],
      ],
      [
        'with groups',
        [...group, ...whole(1, 7), ...field(2, tags), ...group, ...whole(3, polygon), ...field(4, square)],
      ],
    ];
    for (const [name, bytes] of forms) {
      const [block] = readTile(tile(layer(field(2, bytes), ...names)));
      expect([name, shapes(block, 0), attributesOf(block, 0), block.ids[0]]).toEqual([
        name,
        shapes(wanted, 0),
        { k: 'v', l: 'w' },
        7,
      ]);
    }
    expect(readTile(tile(group, layer()))).toHaveLength(1);
    expect(() => readTile(Uint8Array.from([(9 << 3) | 3]))).toThrow(
      expect.objectContaining({ code: 'mvt.truncated' }) as unknown as Error,
    );
  });

  test('rings of version 1 run either way; outer rings come out as in version 2; no byte is no layer', () => {
    const versioned = (version: number, commands: number[]) =>
      tile(field(3, [...whole(15, version), ...field(1, text('a')), ...feature(polygon, commands)]));
    // A square with a hole, both the other way round than version 2 wants.
    const turned = [9, 0, 0, 26, 0, 20, 20, 0, 0, 19, 15, 9, 4, 13, 26, 8, 0, 0, 8, 7, 0, 15];
    expect(() => readTile(versioned(2, turned))).toThrow(
      expect.objectContaining({ code: 'mvt.geometry.winding' }) as unknown as Error,
    );
    const [block] = readTile(versioned(1, turned));
    const [outer, hole] = shapes(block, 0);
    const area = (ring: number[][]) =>
      ring.reduce((sum, [x, y], i) => sum + x * ring[(i + 1) % ring.length][1] - ring[(i + 1) % ring.length][0] * y, 0);
    expect([[...block.partRings], Math.sign(area(outer)), Math.sign(area(hole))]).toEqual([[0, 2], 1, -1]);
    expect(readTile(new Uint8Array())).toEqual([]);
  });

  // Every rule of the specification that a tile can break, with the code it is reported under.
  const broken: [string, number[]][] = [
    ['mvt.layer.name', field(3, whole(15, 2))],
    ['mvt.layer.version', field(3, field(1, text('a')))],
    ['mvt.layer.version', field(3, [...whole(15, 3), ...field(1, text('a'))])],
    ['mvt.layer.extent', layer(whole(5, 0))],
    ['mvt.layer.twice', [...layer(), ...layer()]],
    ['mvt.value', layer(field(4, []))],
    ['mvt.value', layer(field(4, [...whole(7, 1), ...whole(5, 1)]))],
    ['mvt.tags.odd', layer(feature(point, [9, 2, 2], field(2, [0])))],
    ['mvt.tags.range', layer(feature(point, [9, 2, 2], field(2, [3, 0])))],
    ['mvt.feature.kind', layer(feature(7, [9, 2, 2]))],
    ['mvt.feature.geometry', layer(field(2, whole(3, 1)))],
    ['mvt.geometry.command', layer(feature(point, [12, 2, 2]))],
    ['mvt.geometry.count', layer(feature(line, [17, 2, 2, 2, 2]))],
    ['mvt.geometry.count', layer(feature(point, [1, 2, 2]))],
    ['mvt.geometry.start', layer(feature(line, [10, 2, 2]))],
    ['mvt.geometry.line', layer(feature(line, [9, 2, 2]))],
    ['mvt.geometry.close', layer(feature(line, [9, 2, 2, 10, 2, 2, 15]))],
    ['mvt.geometry.close', layer(feature(polygon, [9, 2, 2, 18, 2, 2, 4, 2]))],
    ['mvt.geometry.ring', layer(feature(polygon, [9, 2, 2, 10, 2, 2, 15]))],
    ['mvt.geometry.winding', layer(feature(polygon, [9, 0, 0, 26, 0, 20, 20, 0, 0, 19, 15]))],
    ['mvt.geometry.truncated', layer(feature(point, [17, 2, 2]))],
    ['mvt.geometry.empty', layer(feature(point, []))],
  ];
  test.each(broken)('a tile that breaks a rule is reported: %s', (code, bytes) => {
    expect(() => readTile(tile(bytes))).toThrow(expect.objectContaining({ code }) as unknown as Error);
    const violations: Violation[] = [];
    const sound = layer(feature(point, [9, 50, 34])).map((byte) => byte);
    sound[sound.indexOf(text('points')[0])] = 'P'.charCodeAt(0);
    const blocks = readTile(tile(bytes, sound), { violations });
    expect(violations).toContainEqual(expect.objectContaining({ code, offset: expect.any(Number) }));
    // The sound layer beside it is read all the same.
    expect(blocks.find((block) => block.name === 'Points')?.count).toBe(1);
  });

  test('bytes cut short never pass and never crash', () => {
    const bytes = tile(
      layer(
        feature(polygon, examples[5][2], field(2, [0, 0])),
        field(3, text('key')),
        field(4, field(1, text('value'))),
      ),
    );
    for (let end = 1; end < bytes.length; end++) {
      expect(() => readTile(bytes.subarray(0, end))).toThrow(Fault);
    }
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), (noise) => {
        try {
          readTile(noise, { violations: [] });
        } catch (error) {
          expect(error).toBeInstanceOf(Fault);
        }
      }),
    );
  });

  test('whole numbers at the edge of exactness come back exactly', () => {
    for (const n of [
      2 ** 52 - 1,
      1 - 2 ** 52,
      Number.MAX_SAFE_INTEGER,
      -Number.MAX_SAFE_INTEGER,
      2 ** 60,
      -(2 ** 31),
      1e300,
    ]) {
      const builder = new BlockBuilder('x', 'tile', 4096);
      builder.begin();
      builder.part();
      builder.ring();
      builder.vertex(1, 1);
      builder.set('n', n);
      builder.end(1);
      expect(attributesOf(readTile(writeTile([builder.finish()]))[0], 0)).toEqual({ n });
    }
  });

  test('whatever is written is read back the same', () => {
    const place = fc.tuple(fc.integer({ min: -9000, max: 9000 }), fc.integer({ min: -9000, max: 9000 }));
    const value = fc.oneof(
      fc.string(),
      fc.double({ noNaN: true, noDefaultInfinity: true }).filter((v) => !Object.is(v, -0)),
      fc.boolean(),
      fc.integer(),
    );
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(
            fc.array(place, { minLength: 2, maxLength: 9 }),
            fc.dictionary(fc.string({ minLength: 1 }), value),
            fc.nat(),
          ),
          { minLength: 1, maxLength: 9 },
        ),
        (features) => {
          const builder = new BlockBuilder('x', 'tile', 4096);
          for (const [path, attributes, id] of features) {
            builder.begin();
            builder.part();
            builder.ring();
            for (const [x, y] of path) builder.vertex(x, y);
            for (const [key, v] of Object.entries(attributes)) builder.set(key, v);
            builder.end(2, id);
          }
          const [back] = readTile(writeTile([builder.finish()]));
          features.forEach(([path, attributes, id], i) => {
            expect(shapes(back, i)).toEqual([path]);
            expect(attributesOf(back, i)).toEqual({ ...attributes });
            expect(back.ids[i]).toBe(id);
          });
        },
      ),
    );
  });
});
