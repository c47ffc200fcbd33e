import { describe, expect, test } from '@jest/globals';
import { attributesOf, Kind, readSheet, TileCutter, writeTile, readTile, type Sheet } from '@flintwright/core';
import {
  buffersOfPrepared,
  Camera,
  labelAnchorsOf,
  plainLayer,
  plainPortrayal,
  prepareTile,
  sheetPortrayal,
  tilesInView,
  webMercator,
} from '@flintwright/core/internal';
import { blockOf, type Thing } from './sample-things.ts';

describe('a tile on its way', () => {
  const sheet = (layers: object[]): Sheet => ({ sheet: 1, data: { d: { features: '' } }, layers }) as unknown as Sheet;
  const reach = blockOf(
    Array.from({ length: 60 }, (_, i): Thing => ({
      name: `n${i}`,
      at: [(i % 10) * 2 - 10, Math.floor(i / 10) * 2 - 6],
      berths: i % 9,
      isArea: i % 3 === 0,
    })),
  );
  const cutter = () => new TileCutter(reach, 6);
  const [tile] = tilesInView(
    new Camera({ center: [0, 0], zoom: 3, bearing: 0, tilt: 0 }, webMercator, { width: 200, height: 200 }),
    512,
    [2, 2],
  );

  test('holds a row for each feature that its layers draw, a label for each that has a text, and no geometry of others', () => {
    const block = cutter().tile(tile)!;
    const { layers } = readSheet(
      sheet([
        { id: 'areas', of: 'd', where: 'berths >= 4', fill: '#336699', stroke: [{ width: 2 }, { width: 1 }] },
        { id: 'places', of: 'd', mark: { size: 8 }, label: { text: 'name' } },
        { id: 'none', of: 'd', where: 'berths > 99', fill: '#000000' },
      ]),
    );
    const prepared = prepareTile({
      tile,
      blocks: [block],
      layers,
      zoom: tile.z,
      portrayal: sheetPortrayal(() => 0),
      anchorsOf: labelAnchorsOf,
    });
    const [areas, places] = prepared.layers;
    const drawn = (one: typeof areas) => [...one.features].map((f) => attributesOf(prepared.blocks[one.block], f));
    expect(drawn(areas).every(({ berths }) => Number(berths) >= 4)).toBe(true);
    expect(drawn(areas).length).toBeGreaterThan(0);
    expect(areas.range.areas[1]).toBeGreaterThan(0);
    expect(areas.range.marks[1]).toBe(0);
    expect(places.range.areas[1]).toBe(0);
    // Marks stand on points, and on those alone that belong to the tile and not to its neighbors; areas of the layer have labels.
    const source = prepared.blocks[places.block];
    const own = [...places.features].filter((f) => {
      const [u, v] = source.coords.subarray(2 * source.ringStarts[source.partRings[source.featureParts[f]]]);
      return source.kinds[f] === Kind.point && u >= 0 && v >= 0 && u < source.extent && v < source.extent;
    });
    expect(places.range.marks[1]).toBe(own.length);
    expect(own.length).toBeGreaterThan(0);
    const texts = places.labelAnchors!.texts;
    for (const f of own) expect(texts.filter((text) => text === attributesOf(source, f)['name'])).toHaveLength(1);
    // Every vertex names a texel within the rows of its layer.
    const { texels } = layers[0];
    const ends = areas.texel + areas.features.length * texels;
    const vertices = new Uint32Array(prepared.mesh.areas);
    for (let i = 2; i < vertices.length; i += 3) {
      expect(vertices[i]).toBeGreaterThanOrEqual(areas.texel);
      expect(vertices[i]).toBeLessThan(ends);
      expect((vertices[i] - areas.texel) % texels).toBe(0);
    }
    const { indices } = prepared.mesh;
    expect(indices.every((index) => index < vertices.length / 3)).toBe(true);
    // All of it can be handed to another thread, once.
    const buffers = buffersOfPrepared(prepared);
    expect(new Set(buffers).size).toBe(buffers.length);
    expect(structuredClone(prepared, { transfer: buffers }).layers.length).toBe(prepared.layers.length);
  });

  test('is the same by plain layers, handed over as data, as by those of the sheet', () => {
    const block = cutter().tile(tile)!;
    const compiled = readSheet(
      sheet([
        {
          id: 'areas',
          of: 'd',
          fill: { color: '#336699cc', opacity: 0.5 },
          stroke: [{ width: '3m' }, { color: '#fff', dash: [4, 2] }],
        },
        { id: 'blocks', of: 'd', zoom: [0, 9], opacity: 0.4, extrusion: { top: 12, color: '#123' } },
        { id: 'places', of: 'd', mark: { shape: 'star', size: 9, outline: { color: '#abcd', width: 2 } } },
      ]),
    );
    expect(compiled.plain).toBe(true);
    const { layers } = compiled;
    const sprites = (name: string) => (name === 'star' ? 6 : 0);
    const task = { tile, blocks: [block], zoom: 5.3 };
    const whole = prepareTile({ ...task, layers, portrayal: sheetPortrayal(sprites), anchorsOf: labelAnchorsOf });
    const handed = structuredClone(layers.map((layer) => plainLayer(layer, sprites)));
    const plain = prepareTile({ ...task, layers: handed, portrayal: plainPortrayal });
    const { layers: steps, ...rest } = whole;
    const { layers: plainSteps, ...plainRest } = plain;
    expect(plainRest).toEqual(rest);
    // How long an appearance holds does not matter where it holds for good.
    const still = (list: typeof steps) => list.map(({ step: _, ...layer }) => layer);
    expect(still(plainSteps)).toEqual(still(steps));
    expect(rest.rows.some((value) => value !== 0)).toBe(true);
  });

  test.each([
    ['an expression', { fill: { color: { is: 'kind' } } }],
    ['a filter', { where: 'berths > 3', fill: '#336699' }],
    [
      'a scale by zoom',
      {
        stroke: {
          width: {
            by: 'zoom',
            ramp: [
              [3, 1],
              [9, 4],
            ],
          },
        },
      },
    ],
    ['a label', { label: { text: 'name' } }],
    ['a rule for some zooms', { rules: [{ zoom: [3, 9], fill: '#336699' }] }],
    ['a color by its name', { fill: 'teal' }],
    ['a look of clusters that goes by count', { mark: {}, clusters: { mark: { size: { is: 'count' } } } }],
  ])('is not plain with %s', (_, layer) => {
    const one = { id: 'one', of: 'd', ...layer };
    const { plain } = readSheet({ sheet: 1, data: { d: { features: '', cluster: {} } }, layers: [one] });
    expect(plain).toBe(false);
  });

  test('is the same from features in memory and from the bytes of a tile', () => {
    const cut = [cutter().tile(tile)!];
    const read = readTile(writeTile(cut));
    expect(read.length).toBe(cut.length);
    expect([...read[0].coords]).toEqual([...cut[0].coords]);
    expect([...read[0].ringStarts]).toEqual([...cut[0].ringStarts]);
    for (let f = 0; f < cut[0].count; f++) expect(attributesOf(read[0], f)).toEqual(attributesOf(cut[0], f));
  });
});
