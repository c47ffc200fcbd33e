// Scales, tables, joins, warnings, legends, and styles of the open standard in and out.
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  blockOfTable,
  classBreaks,
  joinTable,
  legendOf,
  lintSheet,
  pointsOfTable,
  readGeoJson,
  readSheet,
  readSld,
  readTable,
  valueAt,
  writeSld,
  type Sheet,
} from '@flintwright/core';
import { compileSheet, findColour, Portrayer, selectFeatures, selfContained } from '@flintwright/core/internal';

const sheet = (layers: object[], more: object = {}) =>
  ({
    sheet: 1,
    palette: { sea: '#b7d3d6', ink: '#22303a' },
    data: { a: { features: 'a.geojson' }, t: { tiles: 't.pmtiles' } },
    background: '#f7f5ef',
    layers: layers.map((layer, i) => ({ id: `l${i}`, of: 'a', ...layer })),
    ...more,
  }) as unknown as Sheet;

describe('class limits', () => {
  test('equal, quantile and natural, against values worked out by hand', () => {
    const values = [1, 2, 3, 10, 11, 12, 20, 21, 25];
    expect(classBreaks(values, 'equal', 4)).toEqual([7, 13, 19]);
    // Hyndman and Fan, definition 7: position (n − 1)p.
    expect(classBreaks(values, 'quantile', 4)).toEqual([3, 11, 20]);
    expect(classBreaks([1, 2, 3, 4], 'quantile', 2)).toEqual([2.5]);
    expect(classBreaks(values, 'natural', 3)).toEqual([10, 20]);
    expect([
      classBreaks([], 'equal', 3),
      classBreaks([4, 4, 4], 'quantile', 3),
      classBreaks([NaN, 1, 2], 'equal', 2),
    ]).toEqual([[], [4], [1.5]]);
    // Ties allow fewer classes than asked for.
    expect(classBreaks([1, 1, 1, 1, 9], 'quantile', 4)).toEqual([]);
  });

  test('natural breaks are the best there are', () => {
    const cost = (values: number[], limits: number[]) => {
      const groups: number[][] = [[]];
      for (const v of values) {
        if (limits.includes(v) && groups[groups.length - 1].every((w) => w < v) && groups[groups.length - 1].length)
          groups.push([]);
        groups[groups.length - 1].push(v);
      }
      return groups.reduce((sum, group) => {
        const mean = group.reduce((a, b) => a + b, 0) / group.length;
        return sum + group.reduce((a, b) => a + (b - mean) ** 2, 0);
      }, 0);
    };
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer({ min: 0, max: 200 }), { minLength: 4, maxLength: 9 }), (numbers) => {
        const values = [...numbers].sort((a, b) => a - b);
        const found = cost(values, classBreaks(values, 'natural', 3));
        for (let i = 1; i < values.length - 1; i++)
          for (let j = i + 1; j < values.length; j++)
            expect(found).toBeLessThanOrEqual(cost(values, [values[i], values[j]]) + 1e-6);
      }),
      { numRuns: 150, seed: 3 },
    );
  });
});

describe('tables', () => {
  test('separators, quotes, numbers, leading zeros and missing cells', () => {
    const table = readTable('\uFEFFcode;name;t;zip\r\nA;"Long; Lay";1,5;007\r\nB;"with ""quotes""";;010\r\n\r\n');
    expect(table).toEqual({
      names: ['code', 'name', 't', 'zip'],
      rows: [
        { code: 'A', name: 'Long; Lay', t: 1.5, zip: '007' },
        { code: 'B', name: 'with "quotes"', zip: '010' },
      ],
    });
    expect(readTable('n\n1\n-2.5e3\n.5').rows.map(({ n }) => n)).toEqual([1, -2500, 0.5]);
    expect(readTable('[{"a": 1, "b": [1, 2]}]').rows).toEqual([{ a: 1, b: '[1,2]' }]);
  });

  test('decimal commas are taken for what they are, and for nothing else', () => {
    const values = (text: string) => readTable(text).rows.map((row) => Object.values(row));
    expect(values('a;b\n1,5;2\n-0,25;3')).toEqual([
      [1.5, 2],
      [-0.25, 3],
    ]);
    expect(values('a\tb\n1,5e3\tx')).toEqual([[1500, 'x']]);
    // A file with decimal points means something else by its commas, such as thousands.
    expect(values('a;b\n1,500;2.5')).toEqual([['1,500', 2.5]]);
    // Parted by commas, a quoted comma is a comma.
    expect(values('a,b\n"1,5",2')).toEqual([['1,5', 2]]);
    expect(values('a;b\n1,5;2\nnone;3')).toEqual([
      ['1,5', 2],
      ['none', 3],
    ]);
    expect(values('a;b\n1,2,3;4')).toEqual([['1,2,3', 4]]);
    const block = pointsOfTable(readTable('lon;lat;n\n-31,25;44,5;a'), 'p');
    expect([...block.coords]).toEqual([-31.25, 44.5]);
  });

  test('whatever is written as a table with any separator is read as it was', () => {
    const cell = fc.oneof(
      fc
        .double({ noNaN: true, noDefaultInfinity: true, min: -1e9, max: 1e9 })
        .map((v) => Math.round(v * 1e4) / 1e4 || 0),
      fc.string({ minLength: 1 }).filter((text) => text === text.trim() && !/\d/.test(text)),
      fc.constant(undefined),
    );
    const columns = fc.array(fc.array(cell, { minLength: 6, maxLength: 6 }), { minLength: 2, maxLength: 5 });
    fc.assert(
      fc.property(columns, fc.constantFrom(',', ';', '\t'), (given, separator) => {
        // A column holds numbers or texts, not both.
        const made = given.map((column) => {
          const texts = column.some((v) => typeof v === 'string');
          return column.map((v) =>
            texts && typeof v === 'number' ? `t${'x'.repeat(Math.floor(Math.abs(v)) % 9)}` : v,
          );
        });
        const quoted = (v: string) => `"${v.replaceAll('"', '""')}"`;
        const written = (v: string | number | undefined) =>
          v === undefined ? '' : typeof v === 'number' ? String(v) : quoted(v);
        const heading = made.map((_, c) => quoted(`c ${'abcde'[c]}`)).join(separator);
        const lines = Array.from({ length: 6 }, (_, r) => made.map((column) => written(column[r])).join(separator));
        const { names, rows } = readTable([heading, ...lines].join('\n'));
        expect(names).toEqual(made.map((_, c) => `c ${'abcde'[c]}`));
        // Lines of nothing but separators are passed over.
        const kept = Array.from({ length: 6 }, (_, r) => made.map((column) => column[r])).filter((row) =>
          row.some((v) => v !== undefined),
        );
        expect(rows.map((row) => names.map((name) => row[name]))).toEqual(kept);
      }),
      { numRuns: 200, seed: 3 },
    );
  });

  test.each([
    ['', 'table.empty', ''],
    ['<html>', 'table.form', 'address'],
    ['[1, 2]', 'table.form', 'Write'],
    ['[{]', 'table.json', 'Mend'],
    ['a,a\n1,2', 'table.twice', 'Rename'],
    ['a,b\n1,2,3', 'table.cells', 'double quotes'],
    ['a,b\n"1,2', 'table.quotes', 'close'],
  ])('%j is refused', (text, code, hint) => {
    expect(() => readTable(text, 't.csv')).toThrow(
      expect.objectContaining({ code, hint: expect.stringContaining(hint) }) as unknown as Error,
    );
  });

  test('rows with places become points; swapped columns are named', () => {
    const block = pointsOfTable(readTable('Lat,Lon,n\n44.6,-31.2,1\n,,2'), 'p');
    expect([...block.coords, ...block.kinds]).toEqual([-31.2, 44.6, 1, 0]);
    expect(() => pointsOfTable(readTable('lat,lon\n-131.2,44.6'), 'p')).toThrow(
      expect.objectContaining({ code: 'table.swapped', at: 'line 2' }) as unknown as Error,
    );
    expect(() => pointsOfTable(readTable('a,b\n1,2'), 'p')).toThrow('its columns are a, b');
    // One cell that is no number must not take the places of all others.
    expect(() => pointsOfTable(readTable('lon,lat\n-31.2,44.6\nn/a,44.7'), 'p')).toThrow(
      expect.objectContaining({
        code: 'table.number',
        at: 'line 3',
        message: expect.stringContaining('"n/a"'),
      }) as unknown as Error,
    );
    // A dash for a missing value is no number either, alone in its column or not.
    for (const dash of ['lon,lat\n-31.2,44.6\n-,-', 'lon,lat\n-,-', 'lon,lat\ne5,+'])
      expect(() => pointsOfTable(readTable(dash), 'p')).toThrow(
        expect.objectContaining({ code: 'table.number' }) as unknown as Error,
      );
    expect([...pointsOfTable(readTable([{ lon: '-31.2', lat: 44.6 }]), 'p').coords]).toEqual([-31.2, 44.6]);
  });

  test('a join counts and lists what meets nothing, on both sides', () => {
    const block = blockOfTable(readTable([{ code: 1, t: 9 }, { code: 2 }, { code: 3 }, { code: 3 }, {}]), 'beds');
    const table = readTable('key,t,who\n1,,x\n3,7,y\n3,8,z\n4,5,w\n,1,v');
    const { block: joined, report } = joinTable(block, table, ['code', 'key']);
    expect(report).toEqual({
      matched: 3,
      featuresAlone: ['2'],
      rowsAlone: ['4'],
      rowsTwice: ['3'],
      keyless: { features: 1, rows: 1 },
      added: ['t', 'who'],
    });
    const column = (name: string) => joined.columns.find((c) => c.name === name)!;
    // A missing cell leaves what the feature had.
    expect([0, 1, 2, 3, 4].map((f) => [valueAt(column('t'), f), valueAt(column('who'), f)])).toEqual([
      [9, 'x'],
      [undefined, undefined],
      [7, 'y'],
      [7, 'y'],
      [undefined, undefined],
    ]);
    expect(() => joinTable(block, table, ['cod', 'key'])).toThrow(
      expect.objectContaining({ code: 'join.attribute', hint: 'Did you mean "code"?' }) as unknown as Error,
    );
    expect(() => joinTable(block, readTable('key\nx'), ['code', 'key'])).toThrow(
      expect.objectContaining({ code: 'join.none' }) as unknown as Error,
    );
  });
});

describe('warnings', () => {
  const cases: [string, Sheet, string[]][] = [
    [
      'a rule behind one that takes all',
      sheet([{ fill: '#fff', rules: [{ zoom: [0, 25] }, { where: 'k = 1' }] }]),
      ['unreachable $.layers[0].rules[1]'],
    ],
    [
      'a rule within earlier ones',
      sheet([
        {
          fill: '#fff',
          rules: [
            { where: 'n < 5' },
            { where: 'n >= 5 AND n < 9' },
            { where: 'n BETWEEN 2 AND 8' },
            { otherwise: true },
          ],
        },
      ]),
      ['unreachable $.layers[0].rules[2]'],
    ],
    [
      'categories taken already',
      sheet([
        { fill: '#fff', rules: [{ where: "k IN ('a', 'b')" }, { where: "k = 'a'" }, { where: "k IN ('b', 'c')" }] },
      ]),
      ['unreachable $.layers[0].rules[1]'],
    ],
    [
      'limits the wrong way round',
      sheet([{ fill: '#fff', rules: [{ where: 'n > 9 AND n < 5' }, { otherwise: true }] }]),
      ['unreachable $.layers[0].rules[0]'],
    ],
    [
      'zooms that miss the layer',
      sheet([{ fill: '#fff', zoom: [10, 25], rules: [{ zoom: [0, 8] }, { zoom: [8, 25] }] }]),
      ['unreachable $.layers[0].rules[0]'],
    ],
    [
      'a gap between ranges',
      sheet([{ fill: '#fff', rules: [{ where: 'n < 5' }, { where: 'n >= 7' }] }]),
      ['gap between 5 and 7'],
    ],
    [
      'a limit that both leave out',
      sheet([{ fill: '#fff', rules: [{ where: 'n < 5' }, { where: 'n > 5' }] }]),
      ['gap exactly 5'],
    ],
    [
      'a gap between zooms',
      sheet([{ fill: '#fff', rules: [{ zoom: [0, 8] }, { zoom: [9, 25] }] }]),
      ['gap between 8 and 9'],
    ],
    [
      'no gap where the rest is taken',
      sheet([{ fill: '#fff', rules: [{ where: 'n < 5' }, { where: 'n >= 7' }, { otherwise: true }] }]),
      [],
    ],
    ['alpha out of 255', sheet([{ fill: 'rgba(10, 20, 30, 128)' }, { fill: 'rgb(10 20 30 / 0.5)' }]), ['alpha 0.5']],
    [
      'text without contrast',
      sheet([
        { fill: '#ffffff', label: { text: 'n', color: '#f4f4f4' } },
        { label: { text: 'n', color: '#ffffff', halo: { color: '#eeeeee', width: 2 } } },
        { label: { text: 'n' } },
      ]),
      ['contrast $.layers[0].label', 'contrast $.layers[1].label'],
    ],
    [
      'data that nothing draws',
      sheet([{ fill: '#fff' }], { data: { a: { features: 'a.geojson' }, b: { features: 'b.geojson' } } }),
      ['unused $.data.b'],
    ],
  ];
  test.each(cases)('%s', (_, raw, wanted) => {
    const found = lintSheet(
      readSheet({ ...raw, data: raw.data && 'b' in raw.data ? raw.data : { a: { features: 'a.geojson' } } }),
    );
    expect(found.map(({ code, message, hint, at }) => ({ code, text: `${message} ${hint} ${at}` }))).toEqual(
      wanted.map((want) => {
        const [code, ...rest] = want.split(' ');
        return { code: `warn.${code}`, text: expect.stringContaining(rest.join(' ')) };
      }),
    );
  });

  test('alpha beyond 1 counts as 1; both ways of writing colours are read', () => {
    expect(findColour('rgba(255, 0, 0, 128)')).toEqual([1, 0, 0, 1]);
    expect(findColour('rgb(255 0 0 / 50%)')).toEqual([0.5, 0, 0, 0.5]);
    expect([findColour('#ff000000'), findColour('hsl(120 100% 50%)'), findColour('rgb(1 2)')]).toEqual([
      [0, 0, 0, 0],
      [0, 1, 0, 1],
      undefined,
    ]);
  });
});

test('the legend says what the sheet does, at a zoom', () => {
  const compiled = readSheet(
    sheet([
      {
        title: 'Beds',
        fill: {
          color: {
            by: 'tonnes',
            title: 'Yield',
            unit: 't',
            classes: { breaks: [5, 1200], values: ['#111', '#222', '#333'] },
          },
        },
        stroke: '@ink',
      },
      {
        title: 'Berths',
        zoom: [10, 25],
        mark: {
          shape: { by: 'kind', categories: { v: 'star', r: 'circle' } },
          color: { by: 'kind', categories: { v: '#f00', r: '#0f0' }, other: '#00f', names: { v: 'visitors' } },
        },
      },
      {
        title: 'Depth',
        fill: {
          color: {
            by: 'd',
            unit: 'm',
            ramp: [
              [0, '#ffffff'],
              [50, '@sea'],
            ],
          },
        },
      },
      {
        rules: [
          {
            where: 'n = 1',
            title: 'dashed',
            stroke: {
              color: '#123456',
              dash: [4, 2],
              width: {
                by: 'zoom',
                ramp: [
                  [10, 1],
                  [14, 5],
                ],
              },
            },
          },
          { otherwise: true, zoom: [0, 11], title: 'far', stroke: '#000' },
        ],
      },
      { title: 'hidden', visible: false, fill: '#fff' },
      { fill: '#eee' },
    ]),
  );
  const at = (zoom: number) =>
    legendOf(compiled, zoom).map(({ title, scale, items, ramp }) => [
      title,
      scale?.form,
      items.map(({ label }) => label),
      ramp?.ends,
    ]);
  expect(at(12)).toEqual([
    ['Beds', 'classes', ['under 5 t', '5 – 1,200 t', '1,200 t and more'], undefined],
    ['Berths', 'categories', ['visitors', 'r', 'other'], undefined],
    ['Depth', 'ramp', [], ['0 m', '50 m']],
    ['l3', undefined, ['dashed'], undefined],
  ]);
  expect(at(9).map(([title]) => title)).toEqual(['Beds', 'Depth', 'l3']);
  const [beds, berths, depth, lines] = legendOf(compiled, 12);
  expect(beds.items[1]).toEqual({
    label: '5 – 1,200 t',
    range: [5, 1200],
    swatch: { kind: 'area', fill: '#222', opacity: 1, strokes: [{ color: '#22303a', width: 1, dash: [] }] },
  });
  expect(berths.items.map(({ swatch }) => [swatch.mark!.icon, swatch.mark!.color])).toEqual([
    ['star', '#f00'],
    ['circle', '#0f0'],
    ['circle', '#00f'],
  ]);
  expect([depth.ramp!.colors[0], depth.ramp!.colors[8]]).toEqual(['rgb(255 255 255)', 'rgb(183 211 214)']);
  expect(lines.items[0].swatch.strokes).toEqual([{ color: '#123456', width: 3, dash: [4, 2] }]);
});

describe('styles of the open standard', () => {
  // After the examples of OGC 05-077r4, sections 10 and 11, and OGC 04-095, annex A.
  const document = `<?xml version="1.0"?>
<StyledLayerDescriptor version="1.1.0" xmlns="http://www.opengis.net/sld" xmlns:se="http://www.opengis.net/se" xmlns:ogc="http://www.opengis.net/ogc" xmlns:gml="http://www.opengis.net/gml">
 <NamedLayer><se:Name>beds</se:Name><UserStyle><se:Name>density</se:Name><se:FeatureTypeStyle>
  <se:Rule><se:Description><se:Title>sparse</se:Title></se:Description>
   <ogc:Filter><ogc:And><ogc:PropertyIsGreaterThanOrEqualTo><ogc:PropertyName>n</ogc:PropertyName><ogc:Literal>1</ogc:Literal></ogc:PropertyIsGreaterThanOrEqualTo><ogc:PropertyIsLessThan><ogc:PropertyName>n</ogc:PropertyName><ogc:Literal>5</ogc:Literal></ogc:PropertyIsLessThan></ogc:And></ogc:Filter>
   <se:MinScaleDenominator>17061.84</se:MinScaleDenominator>
   <se:PolygonSymbolizer><se:Fill><se:SvgParameter name="fill">
     <se:Categorize fallbackValue="#999999"><se:LookupValue><ogc:PropertyName>tonnes</ogc:PropertyName></se:LookupValue><se:Value>#ffffcc</se:Value><se:Threshold>5</se:Threshold><se:Value>#41b6c4</se:Value></se:Categorize>
    </se:SvgParameter><se:SvgParameter name="fill-opacity">0.5</se:SvgParameter></se:Fill>
    <se:Stroke><se:SvgParameter name="stroke">#000000</se:SvgParameter><se:SvgParameter name="stroke-linejoin">mitre</se:SvgParameter></se:Stroke></se:PolygonSymbolizer>
  </se:Rule>
  <se:Rule><se:ElseFilter/><se:LineSymbolizer uom="http://www.opengeospatial.org/se/units/metre"><se:Stroke><se:SvgParameter name="stroke-width">6</se:SvgParameter><se:SvgParameter name="stroke-dasharray">4 2</se:SvgParameter></se:Stroke><se:PerpendicularOffset>-3</se:PerpendicularOffset></se:LineSymbolizer></se:Rule>
 </se:FeatureTypeStyle></UserStyle></NamedLayer>
 <NamedLayer><se:Name>marks</se:Name><UserStyle><se:FeatureTypeStyle>
  <se:Rule><ogc:Filter><ogc:PropertyIsLike wildCard="*" singleChar="?" escapeChar="!"><ogc:PropertyName>name</ogc:PropertyName><ogc:Literal>R?_*!*</ogc:Literal></ogc:PropertyIsLike></ogc:Filter>
   <se:PointSymbolizer><se:Graphic><se:Mark><se:WellKnownName>star</se:WellKnownName><se:Fill><se:SvgParameter name="fill">
    <se:Recode fallbackValue="#808080"><se:LookupValue><ogc:PropertyName>kind</ogc:PropertyName></se:LookupValue><se:MapItem><se:Data>north</se:Data><se:Value>#00ff00</se:Value></se:MapItem></se:Recode></se:SvgParameter></se:Fill></se:Mark>
    <se:Size><se:Interpolate fallbackValue="4" mode="linear"><se:LookupValue><ogc:PropertyName>n</ogc:PropertyName></se:LookupValue><se:InterpolationPoint><se:Data>0</se:Data><se:Value>4</se:Value></se:InterpolationPoint><se:InterpolationPoint><se:Data>10</se:Data><se:Value>20</se:Value></se:InterpolationPoint></se:Interpolate></se:Size>
    <se:Rotation><ogc:Add><ogc:PropertyName>course</ogc:PropertyName><ogc:Literal>90</ogc:Literal></ogc:Add></se:Rotation></se:Graphic></se:PointSymbolizer></se:Rule>
  <se:Rule><ogc:Filter><ogc:BBOX><ogc:PropertyName>geom</ogc:PropertyName><gml:Envelope><gml:lowerCorner>1 2</gml:lowerCorner><gml:upperCorner>3 4</gml:upperCorner></gml:Envelope></ogc:BBOX></ogc:Filter>
   <se:TextSymbolizer><se:Label><ogc:PropertyName>name</ogc:PropertyName><ogc:Literal>!</ogc:Literal></se:Label><se:Font><se:SvgParameter name="font-size">12</se:SvgParameter><se:SvgParameter name="font-weight">bold</se:SvgParameter></se:Font>
    <se:LabelPlacement><se:PointPlacement><se:AnchorPoint><se:AnchorPointX>0</se:AnchorPointX><se:AnchorPointY>0.5</se:AnchorPointY></se:AnchorPoint><se:Displacement><se:DisplacementX>6</se:DisplacementX><se:DisplacementY>0</se:DisplacementY></se:Displacement></se:PointPlacement></se:LabelPlacement>
    <se:Halo><se:Radius>2</se:Radius></se:Halo></se:TextSymbolizer></se:Rule>
  <se:Rule><ogc:Filter><ogc:PropertyIsEqualTo><ogc:Function name="strange"/><ogc:Literal>1</ogc:Literal></ogc:PropertyIsEqualTo></ogc:Filter></se:Rule>
 </se:FeatureTypeStyle></UserStyle></NamedLayer>
</StyledLayerDescriptor>`;

  test('a document becomes a sheet, and what is lost is listed', () => {
    const { sheet: read, lost } = readSld(document);
    expect(() => readSheet(read)).not.toThrow();
    expect(read.layers).toEqual([
      {
        id: 'density',
        of: 'beds',
        rules: [
          {
            title: 'sparse',
            where: 'n >= 1 AND n < 5',
            // 1 : 17 061.84 is level 15 of WebMercatorQuad (OGC 17-083r4, annex D.1).
            zoom: [0, 15],
            fill: {
              color: { by: 'tonnes', classes: { breaks: [5], values: ['#ffffcc', '#41b6c4'] }, other: '#999999' },
              opacity: 0.5,
            },
            stroke: { color: '#000000', cap: 'butt', join: 'miter' },
          },
          { otherwise: true, stroke: { color: '#000000', width: '6m', offset: 3, dash: [4, 2], cap: 'butt' } },
        ],
      },
      {
        id: 'marks-1',
        of: 'marks',
        where: "name LIKE 'R_\\_%*'",
        mark: {
          shape: 'star',
          size: {
            by: 'n',
            ramp: [
              [0, 4],
              [10, 20],
            ],
            other: 4,
          },
          color: { by: 'kind', categories: { north: '#00ff00' }, other: '#808080' },
          rotation: { is: 'course + 90' },
        },
      },
      {
        id: 'marks-2',
        of: 'marks',
        where: 'S_INTERSECTS(geometry, BBOX(1, 2, 3, 4))'.toLowerCase().replace('bbox', 'BBOX'),
        label: {
          text: "concat(name, '!')",
          size: 12,
          color: '#000000',
          weight: 700,
          halo: { color: '#ffffff', width: 2 },
          anchor: 'left',
          offset: [0.5, 0],
        },
      },
    ]);
    expect(lost).toEqual([
      expect.stringContaining('the function strange'),
      expect.stringContaining('a rule is left out'),
    ]);
  });

  test('a sheet written and read again draws the same; what the standard cannot say is listed', () => {
    const own = sheet([
      {
        title: 'Beds',
        fill: {
          color: {
            by: 'tonnes',
            classes: { breaks: [5, 20], values: ['#ffffff', '#888888', '#000000'] },
            other: '#ff0000',
          },
          opacity: 0.5,
        },
        stroke: [
          { color: '#22303a', width: 4, cap: 'butt', join: 'round' },
          { color: '#ffffff', width: 2, cap: 'butt', join: 'round' },
        ],
        states: { hover: { stroke: { width: 9 } } },
      },
      {
        rules: [
          { where: "kind IN ('a', 'b')", zoom: [10, 25], fill: '#112233' },
          { where: "casei(kind) = casei('C')", fill: { hatch: { color: '#f00' } } },
        ],
      },
      { where: 'area() > 5', mark: { icon: 'anchor', size: 12, outline: { color: '#ffffff', width: 2 } } },
    ]);
    const { sld, lost } = writeSld(readSheet({ ...own, data: { a: { features: 'a.geojson' } } }));
    const back = readSld(sld);
    expect(() => readSheet(back.sheet)).not.toThrow();
    expect(back.sheet.layers[0]).toMatchObject({
      id: 'l0',
      title: 'Beds',
      fill: own.layers[0].fill,
      stroke: own.layers[0].stroke,
    });
    expect(back.sheet.layers[1]).toMatchObject({
      where: "kind = 'a' OR kind = 'b'",
      zoom: [10, 25],
      fill: { color: '#112233' },
    });
    expect(lost.join('\n')).toMatch(
      /background[\s\S]*hover[\s\S]*hatches[\s\S]*area has no counterpart[\s\S]*lost its filter/,
    );
  });

  test.each([
    ['<a><b></a>', 'xml.syntax', '1:'],
    ['<Map/>', 'sld.form', 'line 1'],
    ['not xml', 'xml.syntax', '1:'],
  ])('%s is refused with its place', (text, code, at) => {
    expect(() => readSld(text)).toThrow(
      expect.objectContaining({ code, at: expect.stringContaining(at) }) as unknown as Error,
    );
  });
});

test('a sheet made self-contained compiles to the same layers, without a parser and without schemes', () => {
  const raw = sheet([
    { where: "kind = 'a'", fill: { color: { by: 'n * 2', classes: { breaks: [5], scheme: 'Blues' } } } },
    {
      rules: [
        { where: "name LIKE 'x%'", label: { text: "concat(name, ' ', area())" } },
        { otherwise: true, mark: { color: { by: 'kind', categories: ['a', 'b'], scheme: 'Set2' } } },
      ],
    },
    {
      label: { text: { by: 'kind', categories: { a: 'one', b: 'two' } } },
      states: { hover: { label: { text: 'name' } } },
    },
  ]);
  const [ours, theirs] = [
    readSheet(raw),
    compileSheet(JSON.parse(JSON.stringify(selfContained(raw))) as Sheet, (fault) => {
      throw fault;
    }),
  ];
  expect(theirs.layers.map(({ signature }) => signature)).toEqual(ours.layers.map(({ signature }) => signature));
  const block = readGeoJson({
    type: 'FeatureCollection',
    features: [
      {
        type: 'Feature',
        properties: { kind: 'a', n: 1, name: 'xy' },
        geometry: {
          type: 'Polygon',
          coordinates: [
            [
              [0, 0],
              [1, 0],
              [1, 1],
              [0, 0],
            ],
          ],
        },
      },
    ],
  });
  for (const [i, layer] of ours.layers.entries()) {
    const rows = (l: typeof layer) => [...new Portrayer(l, block, [0, 25], () => 0).rows(selectFeatures(l, block))];
    expect(rows(theirs.layers[i])).toEqual(rows(layer));
  }
});
