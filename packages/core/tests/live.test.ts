// What changes while a map is up, and what it is drawn on: edits against a plain list, room on the screen against every box, and a tile
// from its features to its buffers.
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  assertSound,
  attributesOf,
  editBlock,
  featureToGeoJson,
  findTileMatrixSet,
  getSurface,
  Kind,
  readGeoJson,
  readSheet,
  TileCutter,
  writeTile,
  readTile,
  type FeatureBlock,
  type Sheet,
} from '@flintwright/core';
import {
  addressKey,
  buffersOfPrepared,
  Camera,
  CollisionGrid,
  gridOfMatrixSet,
  lonLatGrid,
  mercatorGrid,
  prepareTile,
  tilesInView,
  webMercator,
} from '@flintwright/core/internal';

type Place = [number, number];
interface Thing {
  readonly name: string;
  readonly at: Place;
  readonly berths?: number | undefined;
  readonly isArea: boolean;
}

const square = ([x, y]: Place): Place[] => [
  [x, y],
  [x + 1, y],
  [x + 1, y + 1],
  [x, y],
];
const blockOf = (things: readonly Thing[]): FeatureBlock =>
  readGeoJson({
    type: 'FeatureCollection',
    features: things.map(({ name, at, berths, isArea }) => ({
      type: 'Feature',
      properties: { name, ...(berths === undefined ? {} : { berths }) },
      geometry: isArea ? { type: 'Polygon', coordinates: [square(at)] } : { type: 'Point', coordinates: at },
    })),
  });

/** What of a block is there, by name. */
function thingsIn(block: FeatureBlock): Map<string, { at: Place; berths: unknown; isArea: boolean }> {
  const out = new Map<string, { at: Place; berths: unknown; isArea: boolean }>();
  for (let f = 0; f < block.count; f++) {
    if (block.kinds[f] === Kind.none) continue;
    const { name, berths } = attributesOf(block, f);
    expect(out.has(String(name))).toBe(false);
    const { geometry } = featureToGeoJson(block, f) as { geometry: { type: string; coordinates: unknown } };
    const isArea = geometry.type === 'Polygon';
    const at = (isArea ? (geometry.coordinates as Place[][])[0][0] : geometry.coordinates) as Place;
    out.set(String(name), { at, berths, isArea });
  }
  return out;
}

const names = 'abcdefghij'.split('');
const place = fc.tuple(fc.integer({ min: -170, max: 170 }), fc.integer({ min: -80, max: 80 })) as fc.Arbitrary<Place>;
const thing = (name: fc.Arbitrary<string>): fc.Arbitrary<Thing> =>
  fc.record({ name, at: place, berths: fc.option(fc.nat(9), { nil: undefined }), isArea: fc.boolean() });
const things = fc.uniqueArray(thing(fc.constantFrom(...names)), { selector: ({ name }) => name, maxLength: 8 });

describe('edits', () => {
  test('do to features what they would do to a list, number by number', () => {
    const step = fc.record({
      put: things,
      move: fc.dictionary(fc.constantFrom(...names), place, { maxKeys: 3 }),
      remove: fc.uniqueArray(fc.constantFrom(...names), { maxLength: 3 }),
    });
    fc.assert(
      fc.property(things, fc.array(step, { maxLength: 6 }), (first, steps) => {
        let block = blockOf(first);
        const model = new Map(first.map((one) => [one.name, one]));
        for (const { put, move, remove } of steps) {
          const edit = { put: blockOf(put), move, remove };
          const unknown = [...Object.keys(move), ...remove].filter((name) => !model.has(name));
          const areas = Object.keys(move).filter((name) => model.get(name)?.isArea);
          if (unknown.length || areas.length) {
            // Refused as a whole: nothing has changed.
            const before = thingsIn(block);
            expect(() => editBlock(block, edit, 'name')).toThrow(
              expect.objectContaining({ code: unknown.length ? 'edit.key' : 'edit.point' }) as unknown as Error,
            );
            expect(thingsIn(block)).toEqual(before);
            continue;
          }
          const before = block;
          const edited = editBlock(block, edit, 'name');
          block = edited.block;
          assertSound(block);
          for (const [name, at] of Object.entries(move)) model.set(name, { ...model.get(name)!, at });
          for (const name of remove) model.delete(name);
          for (const one of put) model.set(one.name, one);
          expect(thingsIn(block)).toEqual(
            new Map([...model].map(([name, { at, berths, isArea }]) => [name, { at, berths, isArea }])),
          );
          // Features that nothing happened to keep their numbers, and those that came stand at the end.
          const gone = new Set(edited.removed);
          for (let f = 0; f < before.count; f++) {
            if (gone.has(f)) expect(block.kinds[f]).toBe(Kind.none);
            else expect(attributesOf(block, f)).toEqual(attributesOf(before, f));
          }
          expect([...edited.added]).toEqual(put.map((_, i) => before.count + i));
        }
      }),
      { numRuns: 200, seed: 31 },
    );
  });

  test('a move that is also a removal, and a key that two have', () => {
    const block = blockOf([
      { name: 'a', at: [0, 0], isArea: false },
      { name: 'a', at: [5, 5], isArea: false },
    ]);
    // Of two with one key the later one is meant, as it is when they are looked up on the map.
    const { block: after, removed } = editBlock(block, { move: { a: [1, 1] }, remove: ['a'] }, 'name');
    expect(removed).toEqual([1]);
    expect([after.kinds[0], after.kinds[1]]).toEqual([Kind.point, Kind.none]);
  });
});

describe('room on the screen', () => {
  test('a box is free when it touches no other, wherever they lie and however large they are', () => {
    const edge = fc.oneof(fc.integer({ min: -2000, max: 14000 }), fc.integer({ min: 0, max: 300 }));
    const size = fc.oneof(fc.integer({ min: 1, max: 60 }), fc.integer({ min: 1, max: 9000 }));
    const box = fc
      .tuple(edge, edge, size, size)
      .map(([x, y, w, h]) => [x, y, x + w, y + h] as [number, number, number, number]);
    fc.assert(
      fc.property(fc.array(box, { maxLength: 400 }), fc.array(box, { minLength: 1, maxLength: 40 }), (taken, asked) => {
        const crowd = new CollisionGrid();
        // A second use after it has been cleared is as good as the first.
        for (const one of asked) crowd.take(...one);
        crowd.clear();
        for (const one of taken) crowd.take(...one);
        for (const [l, t, r, b] of asked)
          expect(crowd.isFree(l, t, r, b)).toBe(
            taken.every(([l2, t2, r2, b2]) => r <= l2 || l >= r2 || b <= t2 || t >= b2),
          );
      }),
      { numRuns: 60, seed: 32 },
    );
  });
});

describe('tiles in view', () => {
  const size = { width: 900, height: 600 };
  // Near the pole and the antimeridian, far out and close in, turned and tilted.
  const view = fc.record({
    center: fc.tuple(
      fc.oneof(fc.double({ min: -180, max: 180, noNaN: true }), fc.constantFrom(-180, 179.999, -31.18)),
      fc.oneof(fc.double({ min: -80, max: 80, noNaN: true }), fc.constantFrom(89, -84, 44.62)),
    ),
    zoom: fc.double({ min: 1, max: 17, noNaN: true }),
    bearing: fc.constantFrom(0, 0, 33, -120),
    tilt: fc.constantFrom(0, 0, 35, 60),
  });

  test.each([
    ['globe', mercatorGrid],
    ['globe', lonLatGrid(0)],
    ['EPSG:32625', lonLatGrid(-33)],
    ['EPSG:8857', lonLatGrid(0)],
    ['EPSG:3413', lonLatGrid(-45)],
  ] as const)('on %s every place that is seen lies on a tile that is asked for, and on one alone', (name, grid) => {
    const surface = getSurface(name);
    fc.assert(
      fc.property(view, (wanted) => {
        const camera = new Camera({ ...wanted, center: wanted.center }, surface, size);
        const tiles = tilesInView(camera, 512, [0, 14], grid);
        const keys = new Map(tiles.map((tile) => [addressKey(tile.z, tile.x, tile.y), tile]));
        expect(new Set(tiles.map(({ z, x, y, copy }) => `${z}/${x}/${y}/${copy}`)).size).toBe(tiles.length);
        const half = 20037508.342789244;
        for (let i = 0; i <= 12; i++) {
          for (let k = 0; k <= 8; k++) {
            const place = camera.unproject((i / 12) * size.width, (k / 8) * size.height);
            if (!place) continue;
            const [gx, gy] = grid.at(place[0], place[1]);
            if (Number.isNaN(gx) || Math.abs(gy) > half) continue;
            const [u, v] = [0.5 + gx / (2 * half), 0.5 - gy / (2 * half)];
            const holding = [...Array(15).keys()].filter((z) => {
              const n = 2 ** z;
              const column = Math.floor((u - Math.floor(u)) * n);
              return keys.has(addressKey(z, column, Math.min(n - 1, Math.floor(v * n))));
            });
            expect({ place, holding: holding.length }).toEqual({ place, holding: 1 });
          }
        }
        // Away from the poles, where tiles are narrow and many, nothing is asked for by the hundred.
        if (Math.abs(camera.unproject(450, 300)?.[1] ?? 90) < 75) expect(tiles.length).toBeLessThan(120);
      }),
      { numRuns: 40, seed: 33 },
    );
  });
});

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
    const prepared = prepareTile({ tile, blocks: [block], layers, zoom: tile.z, sprites: () => 0 });
    const [areas, places] = prepared.layers;
    const drawn = (one: typeof areas) => [...one.features].map((f) => attributesOf(prepared.blocks[one.block], f));
    expect(drawn(areas).every(({ berths }) => Number(berths) >= 4)).toBe(true);
    expect(drawn(areas).length).toBeGreaterThan(0);
    expect(areas.range.areas[1]).toBeGreaterThan(0);
    expect(areas.range.marks[1]).toBe(0);
    expect(places.range.areas[1]).toBe(0);
    // Marks stand on points, and on those alone that belong to the tile and not to its neighbours; areas of the layer have labels.
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

  test('is the same from features in memory and from the bytes of a tile', () => {
    const cut = [cutter().tile(tile)!];
    const read = readTile(writeTile(cut));
    expect(read.length).toBe(cut.length);
    expect([...read[0].coords]).toEqual([...cut[0].coords]);
    expect([...read[0].ringStarts]).toEqual([...cut[0].ringStarts]);
    for (let f = 0; f < cut[0].count; f++) expect(attributesOf(read[0], f)).toEqual(attributesOf(cut[0], f));
  });
});

describe('tile matrix sets', () => {
  const web = () => JSON.parse(JSON.stringify(findTileMatrixSet('WebMercatorQuad'))) as Record<string, unknown>;
  const level = (id: string, cellSize: number, width: number) => ({
    id,
    cellSize,
    scaleDenominator: cellSize / 0.00028,
    pointOfOrigin: [-20037508.342789244, 20037508.342789244],
    tileWidth: 256,
    tileHeight: 256,
    matrixWidth: width,
    matrixHeight: width,
  });

  test.each([
    [{ tileMatrices: [] }, 'grid.form'],
    [{ crs: 'EPSG:3857', tileMatrices: 'all' }, 'grid.form'],
    [{ crs: 'EPSG:999999', tileMatrices: [level('0', 156543, 1)] }, 'crs.unknown'],
    [{ crs: 'EPSG:3857', tileMatrices: [{ ...level('0', 156543, 1), cellSize: -1 }] }, 'grid.form'],
    [{ crs: 'EPSG:3857', tileMatrices: [{ ...level('0', 156543, 1), pointOfOrigin: ['a', 0] }] }, 'grid.form'],
    [{ crs: 'EPSG:3857', tileMatrices: [{ ...level('0', 156543, 1), matrixWidth: 1.5 }] }, 'grid.form'],
    [{ crs: 'EPSG:3857', tileMatrices: [level('0', 156543, 1), level('1', 156543 / 3, 3)] }, 'grid.levels'],
    [{ crs: 'EPSG:3857', tileMatrices: [{ ...level('0', 156543, 1), tileHeight: 512 }] }, 'grid.levels'],
  ])('%j is refused', (given, code) => {
    expect(() => gridOfMatrixSet({ id: 'own', ...given })).toThrow(
      expect.objectContaining({ code }) as unknown as Error,
    );
  });

  test('a set given in full is the set of that name', () => {
    expect(web()['id']).toBe('WebMercatorQuad');
    const own = gridOfMatrixSet({
      id: 'own',
      crs: 'EPSG:3857',
      tileMatrices: [0, 1, 2].map((z) => level(String(z), 156543.03392804097 / 2 ** z, 2 ** z)),
    });
    const named = gridOfMatrixSet('WebMercatorQuad');
    for (const [lon, lat] of [
      [0, 0],
      [-31.18, 44.62],
      [179, -80],
    ])
      expect(own.grid.at(lon, lat).map((v) => Math.round(v * 1e3))).toEqual(
        named.grid.at(lon, lat).map((v) => Math.round(v * 1e3)),
      );
    expect(own.shift).toBe(named.shift);
  });
});
