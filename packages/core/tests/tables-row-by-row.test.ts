// Tables and other files with records that cannot be read: everything valid is kept, everything else is listed, nothing is changed in silence.
import { describe, expect, test } from '@jest/globals';
import { attributesOf, readTable } from '@flintwright/core';
import { readFeatureFile, type FeatureFile, type ReadFileOptions } from '@flintwright/core/files';
import { readFeatureBytes } from '@flintwright/core/internal';

const read = (name: string, content: string | Uint8Array, options: ReadFileOptions = {}) =>
  readFeatureFile({ name, bytes: typeof content === 'string' ? new TextEncoder().encode(content) : content }, options);
const places = (file: FeatureFile) =>
  file.layers[0].features.map(({ geometry }) => (geometry?.type === 'Point' ? geometry.coordinates : null));
const warned = (file: FeatureFile) =>
  Object.fromEntries(file.warnings.map(({ code, count, places: at }) => [code, [count, at]]));

describe('a bad cell in 3,000 rows', () => {
  const table = (bad: readonly string[], header = 'lon,lat,name') =>
    [
      header,
      ...Array.from(
        { length: 3000 },
        (_, i) => bad[i - 1500] ?? `${-31 - (i % 50) / 1000},${44 + (i % 70) / 1000},n${i}`,
      ),
    ].join('\n');

  test.each([
    ['a text', 'n/a,44.1,bad', 'doubtful.record', /line 1502: "n\/a" in the column "lon" is not a coordinate/],
    ['half a pair', '-31.1,,bad', 'doubtful.record', /line 1502: the column "lat" is empty/],
    ['a latitude beyond the pole', '-31.1,"91.5",bad', 'doubtful.place', /line 1502: latitude 91.5/],
    ['no place', ',,bad', 'doubtful.rows', /line 1502/],
  ])('%s: the row is kept without a geometry and listed, the others stay where they are', async (_, bad, code, at) => {
    const file = await read('t.csv', table([bad]));
    expect(warned(file)).toEqual({ [code]: [1, [expect.stringMatching(at)]] });
    expect(file.layers[0].features).toHaveLength(3000);
    expect(file.layers[0].features[1500]).toEqual({ type: 'Feature', geometry: null, properties: { name: 'bad' } });
    const others = places(file).filter((one) => one !== null);
    expect(others).toHaveLength(2999);
    expect(others.every(([x, y]) => x < -30 && y > 43)).toBe(true);
    if (code === 'doubtful.record')
      await expect(read('t.csv', table([bad]), { strict: true })).rejects.toThrow(/column "l/);
  });

  test('a row far from all others is listed and stays', async () => {
    const file = await read('t.csv', table(['-31,4.41,far', '-3.1,44,far']));
    expect(warned(file)).toEqual({ 'doubtful.far': [2, ['line 1502', 'line 1503']] });
    expect(places(file)[1500]).toEqual([-31, 4.41]);
  });

  test.each([
    ['names say which is which', 'lon,lat,name', false],
    ['names do not say it', 'x,y,name', true],
  ])('pairs that are impossible as they stand are swapped only where the %s', async (_, header, swapped) => {
    const rows = Array.from({ length: 30 }, (_unused, i) => `${44 + i / 100},${-131 - i / 100},n`);
    const file = await read('t.csv', [header, ...rows].join('\n'));
    expect(places(file)[3]).toEqual(swapped ? [-131.03, 44.03] : [44.03, -131.03]);
    expect(Object.keys(warned(file))).toEqual([swapped ? 'mended.swapped' : 'doubtful.system']);
    // One impossible pair among many is not a reason to turn the rest.
    const few = await read(
      't.csv',
      [header, ...Array.from({ length: 30 }, (_unused, i) => `-31,${44 + i / 100},n`), '44,-131,n'].join('\n'),
    );
    expect(places(few)[30]).toBeNull();
    expect(places(few)[3]).toEqual([-31, 44.03]);
  });
});

describe('records of other formats', () => {
  const kml = (...coordinates: string[]) =>
    `<kml><Document>${coordinates.map((one, i) => `<Placemark><name>p${i}</name><Point><coordinates>${one}</coordinates></Point></Placemark>`).join('\n')}</Document></kml>`;
  const gpx = (...positions: string[]) =>
    `<gpx>${positions.map((one) => `<wpt ${one}><name>w</name></wpt>`).join('\n')}</gpx>`;
  test.each([
    ['k.kml', kml('1,2', 'here', '3,4'), kml('here', 'there'), /line 2.*"here"/],
    ['g.gpx', gpx('lat="2" lon="1"', 'lat="x" lon="1"', 'lat="4" lon="3"'), gpx('lat="x" lon="1"'), /line 2.*lat="x"/],
    ['w.wkt', 'POINT (1 2)\nPOINT (1 x)\nPOINT (3 4)\n', 'POINT (1 x)\n', /line 2/],
    ['w.csv', 'id,wkt\n1,POINT (1 2)\n2,POINT (1 x)\n3,POINT (3 4)\n', 'id,wkt\n1,POINT (1 2\n', /line 3/],
  ])('%s: what is valid is kept, what is not is listed; nothing valid is a fault', async (name, some, none, at) => {
    const file = await read(name, some);
    expect(places(file)).toEqual([[1, 2], null, [3, 4]]);
    expect(warned(file)).toEqual({ 'doubtful.record': [1, [expect.stringMatching(at)]] });
    await expect(read(name, some, { strict: true })).rejects.toThrow();
    await expect(read(name, none)).rejects.toThrow();
  });

  test('shapefiles: a record of no known type', async () => {
    const bytes = new Uint8Array(100 + 3 * 28);
    const view = new DataView(bytes.buffer);
    view.setInt32(0, 9994);
    view.setInt32(24, bytes.length / 2);
    view.setInt32(32, 1, true);
    for (let i = 0; i < 3; i++) {
      const at = 100 + 28 * i;
      view.setInt32(at, i + 1);
      view.setInt32(at + 4, 10);
      view.setInt32(at + 8, i === 1 ? 77 : 1, true);
      view.setFloat64(at + 12, i + 1, true);
      view.setFloat64(at + 20, 2, true);
    }
    const file = await read('s.shp', bytes);
    expect(places(file)).toEqual([[1, 2], null, [3, 2]]);
    expect(warned(file)).toMatchObject({ 'doubtful.record': [1, [expect.stringMatching(/record 2.*type 77/)]] });
    await expect(read('s.shp', bytes, { strict: true })).rejects.toThrow(/type 77/);
  });
});

describe('columns', () => {
  test.each([
    ['Breite', 'Längengrad'],
    ['Breitengrad', 'Länge'],
    ['LAENGENGRAD', 'BREITENGRAD'],
    ['latitud', 'longitud'],
    ['Latitudine', 'Longitudine'],
    ['szerokość geograficzna', 'długość geograficzna'],
    ['breedtegraad', 'lengtegraad'],
    ['широта', 'долгота'],
    ['緯度', '経度'],
    ['gps_lat', 'gps_lng'],
    ['LAT_WGS84', 'LON_WGS84'],
    ['geo:lat', 'geo:long'],
    ['decimalLatitude', 'decimalLongitude'],
    ['y_coord', 'x_coord'],
    ['Y-Koordinate', 'X-Koordinate'],
    ['coord.y', 'coord.x'],
    ['Hochwert', 'Rechtswert'],
    ['northing (m)', 'easting (m)'],
  ])('"%s" and "%s" say where the rows lie', async (a, b) => {
    const isLatFirst = !/LAENGE/.test(a);
    const file = await read('t.csv', `${a};${b};name\n${isLatFirst ? '44;-31' : '-31;44'};n\n`);
    expect(places(file)).toEqual([[-31, 44]]);
  });

  test('others are named by the caller; one that is missing is a fault with those that there are', async () => {
    const text = 'a,b,c\n44,-31,n\n';
    expect(places(await read('t.csv', text, { x: 'b', y: 'a' }))).toEqual([[-31, 44]]);
    await expect(read('t.csv', text, { x: 'b' })).rejects.toThrow(/two different columns/);
    await expect(read('t.csv', text, { x: 'b', y: 'q' })).rejects.toThrow(/no column "q"/);
  });

  test.each([
    ['points and a comma', '6.564,34', '1.000', 6564.34, 1000],
    ['blanks', '1 234,5', '7', 1234.5, 7],
    ['narrow blanks', '12\u202f345', '7,25', 12345, 7.25],
    ['apostrophes', "1'234.5", '1’000’000', 1234.5, 1000000],
    ['commas and a point', '"1,234.5"', '12', 1234.5, 12],
  ])(
    'separators of thousands, %s: numbers where the whole column has them, and reported',
    async (_, a, b, first, second) => {
      const file = await read('t.csv', `lon;lat;n\n1;2;${a}\n1;2;${b}\n`);
      expect(file.layers[0].features.map(({ properties }) => properties['n'])).toEqual([first, second]);
      expect(warned(file)).toEqual({ 'mended.grouped': [1, ['n']] });
      const mixed = await read('t.csv', `lon;lat;n\n1;2;${a}\n1;2;n/a\n`);
      expect(mixed.layers[0].features.map(({ properties }) => properties['n'])).toEqual([a.replaceAll('"', ''), 'n/a']);
    },
  );

  test('northings with separators of thousands are places too', async () => {
    const file = await read('t.csv', 'Rechtswert;Hochwert\n"3.564.340,25";"5.930.000"\n"3.564.341,25";"5.930.001"\n');
    expect(places(file)).toEqual([
      [3564340.25, 5930000],
      [3564341.25, 5930001],
    ]);
  });

  test.each(['12345678901234567890', '-9007199254740993', '+49', '007', '1e999'])(
    '%s stays a text, by each reader of tables',
    async (cell) => {
      const text = `lon,lat,n\n1,2,${cell}\n1,2,5\n`;
      expect((await read('t.csv', text)).layers[0].features.map(({ properties }) => properties['n'])).toEqual([
        cell,
        '5',
      ]);
      const block = readFeatureBytes(new TextEncoder().encode(text), { name: 'd', space: 'lonlat' });
      expect(JSON.stringify(block.columns)).toContain(`"${cell}"`);
    },
  );

  const [first, second] = ['12345678901234567890', '12345678901234567891'];
  const feature = (n: string) =>
    `{"type":"Feature","properties":{"n":${n},"t":"a \\" 12345678901234567890, ","list":[${n}]},"geometry":{"type":"Point","coordinates":[1.2345678901234567,2]}}`;
  test.each([
    ['GeoJSON', 'geojson', `{"type":"FeatureCollection","features":[${feature(first)},${feature(second)}]}`],
    ['GeoJSON lines', 'geojsonl', `${feature(first)}\n${feature(second)}\n`],
    [
      'TopoJSON',
      'topojson',
      `{"type":"Topology","arcs":[],"objects":{"d":{"type":"GeometryCollection","geometries":[${[first, second]
        .map((n) => `{"type":"Point","coordinates":[1.5,2],"properties":{"n":${n},"list":[${n}]}}`)
        .join()}]}}}`,
    ],
  ])('two ids of twenty digits stay two in %s', async (_, ending, text) => {
    const file = await read(`t.${ending}`, text);
    const own = file.layers[0].features.map(({ properties }) => properties['n']);
    expect(own).toEqual([first, second]);
    if (ending === 'topojson') return;
    const block = readFeatureBytes(new TextEncoder().encode(text), { name: 'd', space: 'lonlat' });
    expect([0, 1].map((f) => attributesOf(block, f)['n'])).toEqual([first, second]);
    expect(attributesOf(block, 0)['list']).toMatch(/^\["?12345678901234567890"?\]$/);
  });

  test('and in a JSON table', () => {
    const { rows } = readTable(`[{"code":${first}},{"code":${second}},{"code":7}]`);
    expect(rows.map(({ code }) => code)).toEqual([first, second, 7]);
  });
});
