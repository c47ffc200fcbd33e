// Gazetteers: what is gathered from features, what is found, in which order, and what is refused.
import { describe, expect, test } from '@jest/globals';
import { Fault, getCrs } from '@flintwright/core';
import {
  buildGazetteer,
  Gazetteer,
  positionsInText,
  wordsOf,
  type Candidate,
  type PlaceFeature,
} from '@flintwright/core/places';
import { readFeatureFile } from '@flintwright/core/files';
import { randomFrom } from './sample-random.ts';

const point = (at: readonly number[], properties: object, id?: string | number): PlaceFeature => ({
  geometry: { type: 'Point', coordinates: at },
  properties: properties as Record<string, unknown>,
  ...(id === undefined ? {} : { id }),
});
const street = (name: string, ...coordinates: number[][]): PlaceFeature => ({
  geometry: { type: 'LineString', coordinates },
  properties: { name, class: 'lane' },
});
const lists = [
  {
    name: 'towns',
    features: [
      point([10, 50], { name: 'Marrowby', kind: 'town', 'name:fr': 'Moellebourg', population: 20000 }, 'm1'),
      point([10.4, 50], { name: 'Østerøy', kind: 'town', population: 9000 }),
      point([10.9, 50], { name: '霧谷町', kind: 'village' }),
    ],
  },
  {
    name: 'roads',
    features: [
      street('Hawser Yard', [10, 50.001], [10.01, 50.001]),
      street('Rope Row', [10.005, 50], [10.005, 50.001]),
      street('Rope Row', [10.005, 50.001], [10.005, 50.004]),
      street('Rope Row', [10.4, 50], [10.41, 50]),
      street('Seagull Rise', [10.002, 50], [10.002, 50.01]),
    ],
  },
  {
    name: 'houses',
    features: ['2', '12', '12b', '121'].map((number, i) =>
      point([10.001 + i / 1000, 50.0012], { street: 'Hawser Yard', housenumber: number }),
    ),
  },
  {
    name: 'zones',
    features: [
      {
        geometry: {
          type: 'Polygon',
          coordinates: [
            [
              [9.9, 49.9],
              [10.1, 49.9],
              [10.1, 50.1],
              [9.9, 50.1],
              [9.9, 49.9],
            ],
          ],
        },
        properties: { name: 'Osier Fen', kind: 'reserve' },
      },
      { geometry: null, properties: { name: 'Nowhere' } },
      point([10, 50], { color: 'red' }),
    ],
  },
];
const built = buildGazetteer(lists, 'Marrowby and about');
const gazetteer = await Gazetteer.open(built.bytes);
const said = ({ name, within }: Candidate) => [name, within].filter(Boolean).join(', ');
const first = async (text: string, options = {}) =>
  said((await gazetteer.find(text, options))[0] ?? { name: '', within: '' });

describe('what is gathered', () => {
  test('names, streets in one piece, addresses, and where streets meet, each within its town', () => {
    expect(built).toMatchObject({ nameless: 1, unplaced: 1 });
    // Rope Row is two streets in two towns; it meets Hawser Yard once, and Seagull Rise meets Hawser Yard.
    expect(built.roles).toEqual({ place: 4, street: 4, crossing: 2, address: 4 });
    expect(gazetteer.contents).toMatchObject({ title: 'Marrowby and about', count: 14, languages: ['fr'] });
  });

  test('words lose case, accents and gaps that a script does not write', () => {
    expect(wordsOf("L'Été à Øster-Straße 12b")).toEqual(['lete', 'a', 'oster', 'strasse', '12b']);
    expect(wordsOf('霧谷町 x')).toEqual(['霧谷', '谷町', 'x']);
  });
});

describe('what is found first', () => {
  test.each([
    ['marrowby', 'Marrowby'],
    ['Marow', 'Marrowby'],
    ['marorwby', 'Marrowby'],
    ['moellebourg', 'Marrowby'],
    ['osteroy', 'Østerøy'],
    ['霧谷', '霧谷町'],
    ['12 hawser yard', '12 Hawser Yard, Marrowby'],
    ['Yard Hawser 12b, Marrowby', '12b Hawser Yard, Marrowby'],
    ['hawser', 'Hawser Yard, Marrowby'],
    ['500 Hawser Yard', 'Hawser Yard, Marrowby'],
    ['Rope Row & Hawser Yard', 'Hawser Yard & Rope Row, Marrowby'],
    ['hawsr yard and rope row', 'Hawser Yard & Rope Row, Marrowby'],
    ['corner of seagull rise and hawser yard', 'Hawser Yard & Seagull Rise, Marrowby'],
    ['rope row oster', 'Rope Row, Østerøy'],
    ['sea gull rise', 'Seagull Rise, Marrowby'],
    ['roperow marrowby', 'Rope Row, Marrowby'],
    ['reserve', 'Osier Fen'],
  ])('%s: %s', async (text, expected) => expect(await first(text)).toBe(expected));

  test('a score from 0 to 1, and why', async () => {
    const [best] = await gazetteer.find('12 hawsr ya');
    expect(best.score).toBeGreaterThan(0.6);
    expect(best.score).toBeLessThan(1);
    expect(best.why.map(({ query, found, how, errors }) => [query, found, how, errors])).toEqual([
      ['12', '12', 'exact', 0],
      ['hawsr', 'hawser', 'errors', 1],
      ['ya', 'yard', 'beginning', 0],
    ]);
    expect(best).toMatchObject({ role: 'address', list: 'houses', id: 1 });
  });

  test('nearness ranks, bounds and kinds narrow, languages name', async () => {
    expect(await first('rope row', { near: [10.4, 50] })).toBe('Rope Row, Østerøy');
    expect(await first('rope row', { near: [10, 50] })).toBe('Rope Row, Marrowby');
    expect(await first('rope row', { bounds: [10.3, 49, 10.5, 51] })).toBe('Rope Row, Østerøy');
    expect(await first('hawser yard', { kinds: ['address'] })).toMatch(/^2 Hawser Yard/);
    expect(await first('marrowby', { language: 'fr' })).toBe('Moellebourg');
    expect(await gazetteer.find('zzqqx')).toEqual([]);
    expect(await gazetteer.find(' , ')).toEqual([]);
    const fields = await gazetteer.findFields({ street: 'Hawser Yard', number: '121', within: 'Marrowby' });
    expect(said(fields[0])).toBe('121 Hawser Yard, Marrowby');
  });
});

describe('an address', () => {
  const random = randomFrom(29);
  const names = [
    'Ilverbeck Row',
    'Neue Fischgasse',
    'Alte Fischgasse',
    'Fischgasse',
    'Neue Gasse',
    'Torweg',
    'Dornallee',
  ];
  const houses = names.flatMap((name, s) =>
    Array.from({ length: 60 }, (_, i) => i + 1)
      .filter(() => random() < 0.3)
      .flatMap((number) => (random() < 0.2 ? [`${number}`, `${number}b`] : [`${number}`]))
      .map((number, i) => ({ name, number, at: [10 + i / 1000, 50 + s / 100] })),
  );
  const all = [
    { name: 'towns', features: [point([10, 50], { name: 'Ilverund', kind: 'town' })] },
    { name: 'roads', features: names.map((name, s) => street(name, [10, 50 + s / 100], [10.02, 50 + s / 100])) },
    {
      name: 'houses',
      features: houses.map(({ name, number, at }) => point(at, { street: name, housenumber: number })),
    },
  ];
  const open = async (options = {}) => Gazetteer.open(buildGazetteer(all, '', options).bytes);
  const shown = async (text: string, options = {}) => (await (await open(options)).find(text)).map(({ name }) => name);
  const misspelled = (name: string) => name.replace(/[a-z](?=[a-z]{2}$)/, '');

  test('the street decides; where it has not that number, it comes first, then its nearest numbers, at most five', async () => {
    const own = await open();
    for (let i = 0; i < 150; i++) {
      const name = names[Math.floor(random() * names.length)];
      const wanted = 1 + Math.floor(random() * 70);
      const typed = i % 3 ? name : misspelled(name);
      const found = (await own.find(i % 2 ? `${wanted} ${typed}` : `${typed} ${wanted}`, { typing: false })).map(
        ({ name }) => name,
      );
      const numbers = houses.filter((house) => house.name === name).map(({ number }) => number);
      const away = (number: string) => Math.abs(parseInt(number) - wanted);
      if (numbers.includes(`${wanted}`)) expect([typed, found[0]]).toEqual([typed, `${name} ${wanted}`]);
      else {
        expect([typed, found[0]]).toEqual([typed, name]);
        const nearest = numbers.map(away).sort((a, b) => a - b);
        const offered = found.filter((one) => /\d/.test(one));
        expect(offered.every((one) => one.startsWith(`${name} `))).toBe(true);
        expect(offered.map((one) => away(one.slice(name.length + 1)))).toEqual(nearest.slice(0, 5));
      }
    }
  });

  test.each([
    ['Xyzzy Gasse 12', []],
    ['Gasse', ['Neue Gasse']],
  ])('what shares only a number or a common word is no candidate: %s', async (text, expected) =>
    expect((await shown(text)).filter((name) => !/\d/.test(name))).toEqual(expected),
  );

  test('it is written in the order of the data, or as asked', async () => {
    const [{ number }] = houses.filter(({ name }) => name === 'Torweg');
    expect((await open()).contents.addressOrder).toBe('number-last');
    expect((await shown(`torweg ${number}`))[0]).toBe(`Torweg ${number}`);
    expect((await shown(`torweg ${number}`, { addressOrder: 'number-first' }))[0]).toBe(`${number} Torweg`);
    expect(gazetteer.contents.addressOrder).toBe('number-first');
  });
});

describe('positions in a text', () => {
  const rounded = async (text: string) =>
    (await positionsInText(text)).map(({ at, as }) => [as, ...at.map((v) => Math.round(v * 1e4) / 1e4)]);

  test.each<[string, unknown[]]>([
    [
      '52.5 13.4',
      [
        ['degrees', 13.4, 52.5],
        ['degrees', 52.5, 13.4],
      ],
    ],
    [
      '44,62 -31,18',
      [
        ['degrees', -31.18, 44.62],
        ['degrees', 44.62, -31.18],
      ],
    ],
    [
      '44,62; -31,18',
      [
        ['degrees', -31.18, 44.62],
        ['degrees', 44.62, -31.18],
      ],
    ],
    ['44.62,-131.18', [['degrees', -131.18, 44.62]]],
    ['-131.18, 44.62', [['degrees', -131.18, 44.62]]],
    ['7 7', [['degrees', 7, 7]]],
    ['44°37\'12"N 31°10\'48"W', [['degrees', -31.18, 44.62]]],
    ['EPSG:32625 641000 4942000', [['system', -31.2228, 44.6175]]],
    ['25T 641000 4942000', [['UTM', -31.2228, 44.6175]]],
    ['25N 641000E 4942000N', [['UTM', -31.2228, 44.6175]]],
    ['UTM 25 T 641000,0 4942000,0', [['UTM', -31.2228, 44.6175]]],
    // Band S lies north of the equator, and S is the southern hemisphere.
    [
      '33S 500000 4000000',
      [
        ['UTM', 15, 36.1447],
        ['UTM', 15, -54.1481],
      ],
    ],
    ['200 100', []],
    ['12 Hawser Yard', []],
    ['25I 641000 4942000', []],
    ['61T 641000 4942000', []],
  ])('%s', async (text, expected) => expect(await rounded(text)).toEqual(expected));

  test('references of the military grid lead back to their squares, in every zone and band', async () => {
    const random = randomFrom(5);
    const columns = ['ABCDEFGH', 'JKLMNPQR', 'STUVWXYZ'];
    const rows = ['ABCDEFGHJKLMNPQRSTUV', 'FGHJKLMNPQRSTUVABCDE'];
    for (let i = 0; i < 600; i++) {
      const zone = 1 + (i % 60);
      const [lon, lat] = [6 * zone - 183 + (random() - 0.5) * 5.8, -79.9 + random() * 163.8];
      const band = 'CDEFGHJKLMNPQRSTUVWX'[Math.min(19, Math.floor((lat + 80) / 8))];
      const xy: [number, number] = [0, 0];
      getCrs(`EPSG:${(lat < 0 ? 32700 : 32600) + zone}`).forward(lon, lat, xy);
      const square =
        columns[(zone - 1) % 3][Math.floor(xy[0] / 1e5) - 1] + rows[(zone - 1) % 2][Math.floor(xy[1] / 1e5) % 20];
      const digits = xy.map((v) => String(Math.floor(v % 1e5)).padStart(5, '0'));
      for (const text of [
        `${zone}${band}${square}${digits.join('')}`,
        `${zone}${band} ${square} ${digits.join(' ')}`,
      ]) {
        const [found] = await positionsInText(text);
        expect([text, found.as]).toEqual([text, 'MGRS']);
        const meters = [(found.at[0] - lon) * Math.cos((lat * Math.PI) / 180), found.at[1] - lat].map(
          (v) => v * 111320,
        );
        expect(Math.hypot(...meters)).toBeLessThan(0.9);
      }
    }
  });

  test('a system that there is not is a fault', async () => {
    expect(await positionsInText('EPSG:32625 here')).toEqual([]);
    await expect(positionsInText('EPSG:99999 1 2')).rejects.toThrow(Fault);
  });
});

describe('what lies at a place', () => {
  test('areas that hold it, then by distance, measured to the nearest point of a street', async () => {
    const found = await gazetteer.reverse([10.0051, 50.0025], { most: 3 });
    expect(found.map(said)).toEqual(['Osier Fen', 'Rope Row, Marrowby', '121 Hawser Yard, Marrowby']);
    expect(found[1].distance).toBeCloseTo(7.17, 1);
    expect(await gazetteer.reverse([30, 10])).toEqual([]);
  });

  test('the same as looking at every point, also across the antimeridian', async () => {
    const random = randomFrom(31);
    const at = () => [179.5 + random(), -17 + random()].map((v, i) => (i ? v : v > 180 ? v - 360 : v));
    const spots = Array.from({ length: 400 }, at);
    const own = await Gazetteer.open(
      buildGazetteer([{ name: 'spots', features: spots.map((spot, i) => point(spot, { name: `Spot ${i}` })) }]).bytes,
    );
    for (let k = 0; k < 60; k++) {
      const [x, y] = at();
      const away = ([a, b]: readonly number[]) =>
        Math.hypot((((a - x + 540) % 360) - 180) * Math.cos((y * Math.PI) / 180), b - y);
      const nearest = spots.toSorted((a, b) => away(a) - away(b))[0];
      const [found] = await own.reverse([x, y], { most: 1, within: 100_000 });
      expect(away(found.at)).toBeCloseTo(away(nearest), 4);
    }
  });
});

describe('as a file', () => {
  test('it is read by range, and no more of it than a search needs', async () => {
    let read = 0;
    const source = {
      read: (offset: number, length: number) => {
        read += length;
        return Promise.resolve(built.bytes.subarray(offset, offset + length));
      },
    };
    const ranged = await Gazetteer.open(source);
    expect(said((await ranged.find('marrowby'))[0])).toBe('Marrowby');
    expect(read).toBeLessThan(built.bytes.length);
  });

  test('it is a file of features too', async () => {
    const { format, layers } = await readFeatureFile({ name: 'nameless', bytes: built.bytes });
    expect(format).toBe('gazetteer');
    expect(layers[0].features).toHaveLength(14);
    expect(layers[0].features[0]).toMatchObject({
      geometry: { coordinates: [10, 50] },
      properties: { name: 'Marrowby', 'name:fr': 'Moellebourg', kind: 'town', list: 'towns', source: 'm1' },
    });
  });

  const fault = async (work: () => Promise<unknown>) => {
    try {
      await work();
      return 'nothing';
    } catch (error) {
      return error instanceof Fault ? error.code : String(error);
    }
  };

  test('another version, other bytes, and any cut are refused', async () => {
    const other = built.bytes.slice();
    other[8] = 9;
    expect(await fault(() => Gazetteer.open(other))).toBe('places.version');
    expect(await fault(() => Gazetteer.open(new Uint8Array(40)))).toBe('places.form');
    expect(await fault(() => Gazetteer.open(null as never))).toBe('places.form');
    for (let length = 0; length < built.bytes.length - 1; length += 41)
      expect(
        await fault(async () => {
          const cut = await Gazetteer.open(built.bytes.slice(0, length));
          await cut.reverse([10, 50]);
          for (const text of ['marrowby', 'hawser yard', 'rope']) await cut.find(text);
        }),
      ).toMatch(/^places\.(damaged|form)$/);
  });

  test('misspelt kinds, places beyond the world, and lists without names are told', async () => {
    expect(await fault(() => gazetteer.find('x', { kinds: ['towm'] }))).toBe('places.kind');
    expect(await fault(() => gazetteer.reverse([50, 100]))).toBe('places.query');
    expect(await fault(() => gazetteer.reverse('here' as never))).toBe('places.query');
    expect(await fault(() => gazetteer.find(7 as never))).toBe('places.query');
    expect(() => buildGazetteer([{ name: 'x', features: [point([1, 2], {})] }])).toThrow(/both a name and a place/);
  });
});
