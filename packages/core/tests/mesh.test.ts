import { describe, expect, test } from '@jest/globals';
import { BlockBuilder, readGeoJson, readSheet, TileCutter } from '@flintwright/core';
import { featureNear, gap, MeshBuilder, labelAnchorsOf, prepareTile, sheetPortrayal } from '@flintwright/core/internal';

function tileBlock(kind: 1 | 2 | 3, rings: number[][][]) {
  const builder = new BlockBuilder('x', 'tile', 4096);
  builder.begin();
  builder.part();
  for (const ring of rings) {
    builder.ring();
    for (const [x, y] of ring) builder.vertex(x, y);
  }
  builder.end(kind, 1);
  return builder.finish();
}

const place = { scale: 2, offsetX: -100, offsetY: 300 };

const wants = { fill: true, stroke: true, mark: true };

describe('from features to buffers', () => {
  test('triangles cover a polygon with a hole exactly, with y turned up and rows numbered', () => {
    const block = tileBlock(3, [
      [
        [0, 0],
        [100, 0],
        [100, 100],
        [0, 100],
      ],
      [
        [20, 20],
        [20, 60],
        [60, 60],
        [60, 20],
      ],
    ]);
    const builder = new MeshBuilder(place);
    const range = builder.add(block, [0], 40, 6, wants);
    const mesh = builder.finish();
    const floats = new Float32Array(mesh.areas);
    let area = 0;
    for (let i = 0; i < mesh.indices.length; i += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => mesh.indices[i + k] * 3);
      area +=
        Math.abs(
          (floats[b] - floats[a]) * (floats[c + 1] - floats[a + 1]) -
            (floats[c] - floats[a]) * (floats[b + 1] - floats[a + 1]),
        ) / 2;
    }
    expect(area).toBe((100 * 100 - 40 * 40) * 4);
    expect([floats[0], floats[1]]).toEqual([-100, 300]);
    expect(new Uint32Array(mesh.areas)[2]).toBe(40);
    expect(range.areas).toEqual([0, mesh.indices.length]);
  });

  test('lines: one vertex before and after, distances along, and gaps where no segment begins', () => {
    const builder = new MeshBuilder({ scale: 1, offsetX: 0, offsetY: 0 });
    builder.add(
      tileBlock(2, [
        [
          [0, 0],
          [3, 4],
          [3, 10],
        ],
      ]),
      [0],
      8,
      4,
      wants,
    );
    builder.add(
      tileBlock(3, [
        [
          [0, 0],
          [10, 0],
          [10, 10],
          [0, 10],
        ],
      ]),
      [0],
      12,
      4,
      { ...wants, fill: false },
    );
    const { lines } = builder.finish();
    const floats = new Float32Array(lines);
    const words = new Uint32Array(lines);
    const along = (k: number) => floats[4 * k + 2];
    expect([0, 1, 2, 3, 4].map(along)).toEqual([0, 0, 5, 11, 11]);
    expect(Array.from({ length: 12 }, (_, k) => words[4 * k + 3])).toEqual([
      8,
      8,
      gap,
      gap,
      gap,
      12,
      12,
      12,
      12,
      gap,
      gap,
      gap,
    ]);
    // The ring's first neighbor is its last vertex.
    expect([floats[20], floats[21]]).toEqual([0, -10]);
  });

  test('a whole tile: features cut, layers chosen by zoom, label spots inside their polygons', () => {
    const sheet = readSheet({
      sheet: 1,
      data: { a: { features: '' } },
      layers: [
        { id: 'areas', of: 'a', fill: 'red', label: { text: 'name' } },
        { id: 'far', of: 'a', zoom: [0, 3], stroke: 'blue' },
      ],
    });
    const block = readGeoJson({
      type: 'Feature',
      id: 4,
      properties: { name: 'Bay' },
      geometry: {
        type: 'Polygon',
        coordinates: [
          [
            [10, 10],
            [60, 10],
            [60, 12],
            [14, 12],
            [14, 50],
            [10, 50],
            [10, 10],
          ],
        ],
      },
    });
    const tile = { z: 1, x: 1, y: 0 };
    const cut = new TileCutter(block, 5).tile(tile)!;
    const prepared = prepareTile({
      tile,
      blocks: [cut],
      layers: sheet.layers,
      zoom: 6,
      portrayal: sheetPortrayal(() => 0),
      anchorsOf: labelAnchorsOf,
      shown: [5, 9],
    });
    expect(prepared.layers.map(({ layer }) => layer)).toEqual(['areas']);
    const [{ labelAnchors }] = prepared.layers;
    expect(labelAnchors!.texts).toEqual(['Bay']);
    const scale = (2 * Math.PI * 6378137) / 2 / 4096;
    expect(
      featureNear(
        cut,
        0,
        [labelAnchors!.places[0] / scale + 2048, 2048 - labelAnchors!.places[1] / scale],
        0,
        [1, 0, 0, 1],
      ),
    ).toBe(true);
    expect(prepared.rows).toHaveLength(2 * 4);
  });
});
