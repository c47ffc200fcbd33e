import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { demo, run } from './command.ts';

const folder = mkdtempSync(join(tmpdir(), 'flintwright-'));

afterAll(() => rmSync(folder, { recursive: true }));

const file = (name: string, content: unknown) => {
  const path = join(folder, name);
  writeFileSync(path, typeof content === 'string' ? content : JSON.stringify(content));
  return path;
};

describe('flintwright check on faulty sheets says what to do', () => {
  const beds = join(demo, 'beds.geojson');
  const table = join(demo, 'yield.csv');
  const reach = join(demo, 'reach.pmtiles');
  // Paths within a sheet are relative to it; these tests keep copies beside theirs.
  writeFileSync(join(folder, 'beds.geojson'), readFileSync(beds));
  writeFileSync(join(folder, 'yield.csv'), readFileSync(table));
  writeFileSync(join(folder, 'reach.pmtiles'), readFileSync(reach));
  const thing = (name: string, type: string, coordinates: unknown) => ({
    ...{ type: 'Feature', properties: { name } },
    geometry: { type, coordinates },
  });
  const apart = (name: string, lat: number, length: number) => {
    const way = [0, length].map((lon) => [lon, lat]);
    return thing(name, 'LineString', way);
  };
  const alike = ['one', 'two', 'three'].map((name) => thing(name, 'Point', [1, 2]));
  const things = [...alike, thing('alone', 'Point', [2, 2]), apart('A name', 1, 0.01), apart('Another', 3, 5)];
  file('things.geojson', { type: 'FeatureCollection', features: things });
  const sheet = (layer: object, more: object = {}) => ({
    sheet: 1,
    data: { beds: { features: 'beds.geojson', join: { table: 'yield.csv', match: ['code', 'bed'] } } },
    layers: [{ id: 'beds', of: 'beds', ...layer }],
    ...more,
  });
  const tiles = { data: { reach: { tiles: 'reach.pmtiles' } } };
  const cases: [string, number, object | string, string[]][] = [
    [
      'opacity out of 255',
      1,
      sheet({ fill: { color: '#fff', opacity: 200 } }),
      ['200 is not a number from 0 (clear) to 1 (solid)', 'write 0.78 for 200 of 255'],
    ],
    [
      'colors that are none, in a column',
      0,
      sheet({ fill: { color: { is: 'kind' } } }),
      ['42 features of layer "beds" have in "kind" values that are not colors: "', 'drawn in gray'],
    ],
    [
      'names that are longer than their lines, in tiles',
      0,
      sheet({ id: 'names', of: 'reach/roads', zoom: [10, 12], label: { text: 'name', along: true, size: 14 } }, tiles),
      ['no zoom level has room for ', 'labels of layer "names", longer than the line at zoom 12: "'],
    ],
    [
      'names that are longer than their lines, and names in one place, in features',
      0,
      sheet(
        { id: 'names', of: 'things', zoom: [3, 9], label: { text: 'name', along: true, size: 14, side: 'below' } },
        {
          data: {
            things: {
              features: 'things.geojson',
            },
          },
        },
      ),
      [
        'no zoom level has room for 1 label of layer "names", longer than the line at zoom 9: "A name"',
        'no zoom level has room for 2 labels of layer "names", because others are at the same location: "two", "three"',
        'Labels have only one position there',
      ],
    ],
    ['a misspelt key', 1, sheet({ fil: '#fff' }), ['there is no key "fil" here', 'Did you mean "fill"?']],
    [
      'longitude and latitude swapped',
      1,
      sheet({ fill: '#fff' }, { view: { center: [44.62, -131.18] } }),
      ['latitude beyond ±90°', 'longitude, latitude'],
    ],
    [
      'a layer that no tile holds',
      1,
      sheet({ id: 'roads', of: 'reach/raods', stroke: '#000' }, tiles),
      ['no layer "raods"', 'Did you mean "reach/roads"?'],
    ],
    [
      'classes from tiles',
      1,
      sheet(
        { of: 'reach/depth', fill: { color: { by: 'above', classes: { method: 'natural', scheme: 'Blues' } } } },
        tiles,
      ),
      ['cannot be found in tiles', 'Give the limits as "breaks"'],
    ],
    [
      'a filter that gives no truth',
      1,
      sheet({ where: "'native'", fill: '#fff' }),
      ['gives a text, so that no feature would match it', 'Compare it with something'],
    ],
    [
      'a join without a partner',
      1,
      sheet(
        { fill: '#fff' },
        { data: { beds: { features: 'beds.geojson', join: { table: 'yield.csv', match: ['code', 'tenant'] } } } },
      ),
      ['no row of the table matches a feature', 'Tenant', 'OB-01'],
    ],
    [
      'a filter on an attribute that is not there',
      0,
      sheet({ where: "kynd = 'native'", fill: '#fff' }),
      ['no feature has it', 'Did you mean "kind"?', 'draws none of the 42 features', 'inspect beds.geojson --where'],
    ],
    [
      'a gap, and a rule out of reach',
      0,
      sheet({
        fill: '#fff',
        rules: [
          { where: 'tonnes < 20' },
          { where: 'tonnes > 20 AND tonnes < 60' },
          { where: 'tonnes BETWEEN 30 AND 40' },
        ],
      }),
      ['no rule of layer "beds" takes tonnes exactly 20', '"otherwise": true', 'no feature can reach rule 3'],
    ],
    [
      'alpha beyond 1, a pale label, an unknown icon',
      0,
      sheet({ fill: 'rgba(10, 20, 30, 99)', label: { text: 'name', color: '#101e2e', icon: { name: 'bouy' } } }),
      ['is above 1', 'contrast of 1.', 'Did you mean "buoy"?'],
    ],
  ];

  test.each(cases)('%s', async (name, status, content, said) => {
    const path = file(`${name.replace(/\W+/g, '-')}.sheet.json`, content);
    const ran = await run('check', path);
    expect({ status: ran.status, missing: said.filter((text) => !ran.out.includes(text)) }).toEqual({
      status,
      missing: [],
    });
    const { faults, warnings } = JSON.parse((await run('check', path, '--json')).out) as {
      faults: { at: string }[];
      warnings: { at: string }[];
    };
    expect(faults.length > 0).toBe(status === 1);
    expect([...faults, ...warnings].every(({ at }) => at.startsWith('$'))).toBe(true);
  });

  test('a sound sheet with a join tells how the join went', async () => {
    const { status, out } = await run('check', file('sound.sheet.json', sheet({ fill: '#3d7f99' })));
    expect(status).toBe(0);
    expect(out).toContain('39 features joined to the table');
    expect(out).toContain('3 keys of features without a row: OB-14, OB-28, OB-42');
    expect(out).toContain('nothing wrong');
  });
});
