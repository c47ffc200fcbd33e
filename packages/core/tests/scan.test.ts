// Points read straight from bytes, in arrays, and cut into tiles by their grid: each against the plain way, or against the definition.
import { describe, expect, test } from '@jest/globals';
import {
  attributesOf,
  blockOfColumns,
  boundsOf,
  Fault,
  readGeoJson,
  TileCutter,
  type FeatureBlock,
  type FeatureColumns,
} from '@flintwright/core';
import { formatOf, readFeatureBytes, scanPoints, scanTable } from '@flintwright/core/internal';
import { randomFrom } from './sample-random.ts';

const bytesOf = (text: string) => new TextEncoder().encode(text);

/** Everything that a block says, but for how its columns are stored. */
const saidBy = (block: FeatureBlock) => ({
  name: block.name,
  space: block.space,
  offsets: [block.featureParts, block.partRings, block.ringStarts].map((list) => [...list]),
  coords: [...block.coords],
  columns: block.columns.map(({ name }) => name),
  features: Array.from({ length: block.count }, (_, f) => [block.kinds[f], block.ids[f], attributesOf(block, f)]),
});

/** What comes of some work: a result, or the code of its fault. */
function outcome<T>(work: () => T): T | string {
  try {
    return work();
  } catch (error) {
    if (error instanceof Fault) return error.code;
    throw error;
  }
}

/** A source of chance with a few tools. */
function chance(seed: number) {
  const random = randomFrom(seed);
  const upTo = (most: number) => Math.floor(random() * most);
  return { random, upTo, pick: <T>(list: readonly T[]): T => list[upTo(list.length)] };
}

describe('GeoJSON of points, from bytes', () => {
  const { random, upTo, pick } = chance(20261127);
  const blank = () => pick(['', '', '', ' ', '\n', '\t ', '\r\n']);
  const number = () =>
    pick([
      () => String(upTo(100) - 50),
      () => (random() * 170 - 85).toFixed(upTo(9)),
      () => `${(random() * 9).toFixed(3)}e${pick(['', '+', '-'])}${upTo(3)}`,
      () => `-0.${String(upTo(1e9)).padStart(9, '0')}${upTo(1e9)}`,
      () => '-0',
    ])();
  const word = () =>
    JSON.stringify(pick(['tern', 'gull', 'Möwe', 'rail "7"', 'a\\b', '', '🐦 bird', 'line\nbreak', `n${upTo(9)}`]));
  const long = () => pick(['12345678901234567890', '-9007199254740993', '9007199254740991', '1e400', '7']);
  const value = () => pick([number, word, () => 'null', () => 'true', () => '{"a": [1, "x"]}', () => '[ 1 ,2 ]'])();
  /** Features that are alike, as files have them; now and then one that is not. */
  const collection = () => {
    const keys = Array.from({ length: upTo(4) }, () => word());
    const kinds = keys.map(() => pick([number, word, value, long]));
    const withId = pick(['', '', '"id":7,', '"id":"42",', '"id":"x7",', '"id":1.5,']);
    const [a, b, c] = [blank(), blank(), blank()];
    const feature = () => {
      const own = random() < 0.1 ? keys.slice(1) : keys;
      const attributes = own.map((key, i) => `${key}${a}:${b}${kinds[i]()}`).join(`,${c}`);
      const place = `[${a}${number()},${b}${number()}${random() < 0.1 ? ',7' : ''}]`;
      const geometry =
        random() < 0.05 ? 'null' : `{"type":"Point",${c}"coordinates":${random() < 0.01 ? '[1]' : place}}`;
      const head = random() < 0.02 ? '' : '"type":"Feature",';
      return pick([
        `{${head}${withId}${a}"properties":{${attributes}},"geometry":${geometry}}`,
        `{${withId}"geometry":${geometry},${b}${head}"properties":{${attributes}}}`,
        `{${head}${withId}${a}"properties":{${attributes}},"geometry":${geometry}}`,
      ]);
    };
    const features = Array.from({ length: upTo(6) }, feature).join(`${a},${c}`);
    return `${pick(['', '', '\ufeff'])}{"type":"FeatureCollection",${pick(['', '"name":"x",', '"bbox":[1,2,3,4],'])}"features":${b}[${features}]${c}}`;
  };
  const spoilt = (text: string) => {
    const at = upTo(text.length);
    return pick([
      () => text.slice(0, at),
      () => text.slice(0, at) + pick(['"', '{', '}', ',', '0', '\\', 'e', ' ', '\u0001']) + text.slice(at),
      () => text.slice(0, at) + text.slice(at + 1),
    ])();
  };
  const options = (i: number) => ({ name: 'd', ...(i % 3 ? {} : { id: 'tern' }) });

  test('what is read is what the plain reader reads; what it refuses is left to it', () => {
    let [taken, left] = [0, 0];
    for (let i = 0; i < 3000; i++) {
      // A letter that was cut in two is another one in UTF-8.
      const bytes = bytesOf(i % 2 ? collection() : spoilt(collection()));
      const text = new TextDecoder('utf-8', { ignoreBOM: true }).decode(bytes);
      const found = scanPoints(bytes, options(i));
      const plain = outcome(() => saidBy(readGeoJson(text.replace(/^\ufeff/, ''), options(i))));
      if (found) expect([text, saidBy(found)]).toEqual([text, plain]);
      taken += found ? 1 : 0;
      left += found ? 0 : 1;
    }
    expect([taken > 700, left > 700]).toEqual([true, true]);
  });

  test('plain files of points are taken, whatever stands round the features', () => {
    const feature = '{"type":"Feature","properties":{"a":"x","b":1},"geometry":{"type":"Point","coordinates":[1,2]}}';
    const takes = (text: string) => scanPoints(bytesOf(text))?.count;
    expect(takes(`{"type":"FeatureCollection","features":[${feature},${feature}]}`)).toBe(2);
    expect(
      takes(
        `{"crs":{"type":"name","properties":{"name":"urn:ogc:def:crs:OGC:1.3:CRS84"}},"features":[],"type":"FeatureCollection"}`,
      ),
    ).toBe(0);
    expect(takes(`{"type":"FeatureCollection","features":[${feature.replace('Point', 'LineString')}]}`)).toBe(
      undefined,
    );
    expect(takes(feature)).toBe(undefined);
    // A latitude beyond the poles is a fault, which the plain reader tells.
    expect(takes(`{"type":"FeatureCollection","features":[${feature.replace('[1,2]', '[2,91]')}]}`)).toBe(undefined);
  });

  test('numbers are the nearest doubles, as the language reads them', () => {
    const wrong: string[] = [];
    for (let i = 0; i < 20_000; i++) {
      const digits = Array.from({ length: 1 + upTo(20) }, () => upTo(10)).join('');
      const text = `${pick(['', '-'])}${upTo(2) ? `0.${digits}` : `${1 + upTo(9)}${digits.slice(1)}.${upTo(1e6)}`}${pick(['', '', `e${upTo(40) - 20}`])}`;
      const block = scanPoints(
        bytesOf(
          `{"type":"FeatureCollection","features":[{"type":"Feature","properties":{"v":${text}},"geometry":null}]}`,
        ),
      );
      if (!Object.is(attributesOf(block!, 0)['v'], Number(text))) wrong.push(text);
    }
    expect(wrong).toEqual([]);
  });
});

test('plain tables of points, from bytes: what is read is what the plain reader reads', () => {
  const { random, upTo, pick } = chance(7);
  let taken = 0;
  for (let i = 0; i < 2000; i++) {
    const names = ['lon', 'lat', ...['n', 'kind', ' w ', 'zip'].slice(0, upTo(5))];
    if (random() < 0.1) names.reverse();
    if (random() < 0.05) names.splice(upTo(3), 1);
    const kinds = names.map((name) =>
      name === 'lon' || name === 'lat'
        ? () => (random() < 0.03 ? '' : pick([(random() * 90).toFixed(4), '-.5', '+7', ' 8 ']))
        : pick([
            () => String(upTo(40)),
            () => pick(['tern', 'Möwe', '', ' gull ']),
            () => pick(['1', '2', '007']),
            () => '',
          ]),
    );
    const rows = Array.from({ length: upTo(8) }, () =>
      random() < 0.05
        ? ''
        : kinds.map((cell) => (random() < 0.01 ? pick(['x', '"a,b"', '1e3', '91']) : cell())).join(','),
    );
    const text = [names.join(','), ...rows].join(pick(['\n', '\n', '\r\n'])) + pick(['', '\n']);
    const found = scanTable(bytesOf(text), 'd', true);
    if (!found) continue;
    taken++;
    const plain = outcome(() => saidBy(formatOf(text, 'd.csv').read(text, { name: 'd', space: 'lonlat' })));
    expect([text, saidBy(found)]).toEqual([text, plain]);
  }
  expect(taken).toBeGreaterThan(400);
  // Whatever is taken or left, the bytes of a file give its features.
  const semicolons = readFeatureBytes(bytesOf('lon;lat;t\n1,5;2;x\n'), { name: 'd', space: 'lonlat' });
  expect(saidBy(semicolons).features).toEqual([[1, NaN, { t: 'x' }]]);
});

describe('tiles of points', () => {
  const halfOf = (i: number) => (i % 2 ? 'odd' : 'even');
  const { random, upTo } = chance(99);
  // EPSG guidance note 7-2, "Popular Visualisation Pseudo Mercator", in parts of the square world.
  const place = (lon: number, lat: number): [number, number] => {
    const k = Math.PI / 180;
    return [(lon + 180) / 360, 0.5 - Math.log(Math.tan(Math.PI / 4 + (lat * k) / 2)) / (2 * Math.PI)];
  };

  test.each([
    ['spread over the world', () => [random() * 360 - 180, random() * 160 - 80] as const],
    ['crowded in one place', () => [-31 + random() * random() * 0.01, 44 + random() * 0.01] as const],
    ['over the antimeridian', () => [179 + random() * 2, random() * 4] as const],
    ['all in one spot', () => [10, 20] as const],
  ])('%s: each tile has the points that lie in it or its rim, in their order', (_title, spot) => {
    const spots = Array.from({ length: 1200 }, (_, i) => (i % 50 === 7 ? undefined : spot()));
    const features = spots.map((at, i) => ({
      type: 'Feature',
      id: i,
      properties: { i, half: halfOf(i) },
      geometry: at ? { type: 'Point', coordinates: at } : null,
    }));
    const cutter = new TileCutter(readGeoJson({ type: 'FeatureCollection', features }), 16);
    let found = 0;
    for (let k = 0; k < 60; k++) {
      const z = upTo(13);
      const near = spots[upTo(spots.length)] ?? [0, 0];
      const [nx, ny] = place(near[0], near[1]);
      const [x, y] = [Math.floor((nx - Math.floor(nx)) * 2 ** z), Math.floor(ny * 2 ** z)];
      const wraps = spots.some((at) => at && at[0] > 180);
      const wanted = (wraps ? [-1, 0, 1] : [0]).flatMap((turn) =>
        spots.flatMap((at, i) => {
          if (!at) return [];
          const [px, py] = place(at[0], at[1]);
          const [tx, ty] = [
            ((wraps ? px - Math.floor(px) : px) + turn) * 2 ** z * 4096 - x * 4096,
            py * 2 ** z * 4096 - y * 4096,
          ];
          return tx >= -64 && tx <= 4160 && ty >= -64 && ty <= 4160 ? [[i, tx, ty] as const] : [];
        }),
      );
      const tile = cutter.tile({ z, x, y });
      expect(tile ? [...tile.ids] : []).toEqual(wanted.map(([i]) => i));
      const off = wanted.filter(([i, tx, ty], f) => {
        const [west, north] = boundsOf(tile!, f);
        const { i: own, half } = attributesOf(tile!, f);
        return !(Math.max(Math.abs(west - tx), Math.abs(north - ty)) < 0.51 && own === i && half === halfOf(i));
      });
      expect(off).toEqual([]);
      found += wanted.length;
    }
    expect(found).toBeGreaterThan(60);
  });
});

describe('features in arrays', () => {
  test('points and lines with numbers, values and categories are what GeoJSON makes of them', () => {
    const points = blockOfColumns(
      {
        coordinates: Float64Array.of(-31, 44, -30.5, 44.25),
        ids: Float64Array.of(7, NaN),
        attributes: {
          tonnes: Float32Array.of(1.5, NaN),
          name: ['Yarrow', null],
          kind: { categories: ['tern', 'gull'], codes: Uint8Array.of(1, 255) },
        },
      },
      'd',
    );
    const feature = (coordinates: unknown, type: string, properties: object, id?: number) => ({
      type: 'Feature',
      ...(id === undefined ? {} : { id }),
      properties,
      geometry: { type, coordinates },
    });
    const asJson = (...features: object[]) =>
      saidBy(readGeoJson({ type: 'FeatureCollection', features }, { name: 'd' }));
    expect(saidBy(points)).toEqual(
      asJson(
        feature([-31, 44], 'Point', { tonnes: 1.5, name: 'Yarrow', kind: 'gull' }, 7),
        feature([-30.5, 44.25], 'Point', {}),
      ),
    );
    const lines = blockOfColumns(
      { coordinates: Float32Array.of(0, 0, 1, 1, 2, 0, 3, 0, 3, 1), lineStarts: Uint32Array.of(0, 3) },
      'd',
    );
    expect(saidBy(lines)).toEqual(
      asJson(
        feature([[0, 0], [1, 1], [2, 0]], 'LineString', {}), // prettier-ignore
        feature([[3, 0], [3, 1]], 'LineString', {}), // prettier-ignore
      ),
    );
  });

  test.each<[string, string, FeatureColumns]>([
    ['coordinates', 'locations need pairs', { coordinates: Float64Array.of(1, 2, 3) }],
    ['coordinates', 'not an array of floats', { coordinates: Int32Array.of(1, 2) as never }],
    ['coordinates[0]', 'place 0 is [44, -131]', { coordinates: Float64Array.of(44, -131) }],
    ['attributes.a', 'has 2 values', { coordinates: Float64Array.of(1, 2), attributes: { a: [1, 2] } }],
    ['attributes.a', 'is no list', { coordinates: Float64Array.of(1, 2), attributes: { a: 7 as never } }],
    ['ids', 'there are 2 ids', { coordinates: Float64Array.of(1, 2), ids: Float64Array.of(1, 2) }],
    ['lineStarts[0]', 'from vertex 1', { coordinates: Float64Array.of(1, 2, 3, 4), lineStarts: Uint32Array.of(1) }],
  ])('a fault in %s is told: %s', (at, message, columns) => {
    expect(() => blockOfColumns(columns, 'd')).toThrow(
      expect.objectContaining({
        code: expect.stringMatching(/^columns\./),
        at,
        message: expect.stringContaining(message),
      }),
    );
  });
});

describe('points beside other features', () => {
  test('a tile has the same points, whether all features are points or one is a line far away', () => {
    const { random, upTo } = chance(5);
    const features: object[] = Array.from({ length: 800 }, (_, i) => ({
      type: 'Feature',
      id: i,
      properties: { i, kind: `k${i % 7}`, ...(i % 3 ? { n: random() } : {}) },
      geometry: { type: i % 9 ? 'Point' : 'MultiPoint', coordinates: place(i) },
    }));
    function place(i: number) {
      const at = [20 + random() * 30, 10 + random() * 30];
      return i % 9 ? at : [at];
    }
    const far = {
      type: 'Feature',
      properties: {},
      geometry: { type: 'LineString', coordinates: [[-170, -70], [-169, -70]] }, // prettier-ignore
    };
    const cut = (list: object[]) =>
      new TileCutter(readGeoJson({ type: 'FeatureCollection', features: list }, { name: 'd' }), 14);
    const [alone, beside] = [cut(features), cut([...features, far])];
    let seen = 0;
    for (let k = 0; k < 300; k++) {
      const z = 1 + upTo(9);
      const [x, y] = [
        Math.floor(((200 + random() * 30) / 360) * 2 ** z),
        Math.floor((0.36 + random() * 0.12) * 2 ** z),
      ];
      const tiles = [alone, beside].map((cutter) => cutter.tile({ z, x, y }));
      expect(tiles[0] && saidBy(tiles[0])).toEqual(tiles[1] && saidBy(tiles[1]));
      seen += tiles[0]?.count ?? 0;
    }
    expect(seen).toBeGreaterThan(1000);
  });
});

describe('attributes as they come', () => {
  const { random, upTo, pick } = chance(17);

  test('a column keeps every value, whatever kinds follow each other, and however many there are', () => {
    for (let round = 0; round < 40; round++) {
      const count = pick([0, 3, 90, 700, 9000]);
      const kinds = pick([
        [() => upTo(5)],
        [() => random()],
        [() => upTo(1e6) / 7],
        [() => random(), () => random(), () => `text ${upTo(9)}`],
        [() => upTo(3), () => null, () => true],
      ] as (() => string | number | boolean | null)[][]);
      // Texts may come late, when many numbers have been taken down.
      const late = upTo(count + 1);
      const values = Array.from({ length: count }, (_, i) => (i < late ? kinds[0]() : pick(kinds)()));
      const features = values.map((v) => ({ type: 'Feature', properties: { v }, geometry: null }));
      const block = readGeoJson({ type: 'FeatureCollection', features });
      const wrong = values.filter((value, i) => !Object.is(attributesOf(block, i)['v'] ?? null, value));
      expect(wrong).toEqual([]);
    }
  });
});
