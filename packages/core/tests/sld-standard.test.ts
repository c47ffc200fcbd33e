// Styles against their standards: SLD 1.1 (OGC 05-078r4), SE 1.1 (05-077r4), Filter Encoding 1.1 (04-095) and 2.0 (09-026r2).
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { readSheet, readSld, writeSld, type Sheet } from '@flintwright/core';
import { sheet } from './sample-sheets.ts';
import { schemaFaults } from './sample-xml-schemas.ts';

const written = (layer: object, extra: object = {}) =>
  writeSld(
    readSheet({
      sheet: 1,
      data: { beds: { features: 'beds.geojson' } },
      layers: [{ id: 'l', of: 'beds', ...layer }],
      ...extra,
    } as Sheet),
    10,
  );

const color = fc.constantFrom<unknown>(
  '#0a141e',
  'rgb(300 0 0 / 50%)',
  { by: 'kind', categories: { a: 'red', 'b & <c>': 'oklch(70% 0.1 20)' } },
  { by: 'n', classes: { breaks: [1, 2.5], values: ['red', 'lime', 'blue'] } },
  {
    by: 'n',
    ramp: [
      [0, 'white'],
      [1e-7, 'red'],
      [1e21, 'black'],
    ],
  },
  {
    by: 'zoom',
    ramp: [
      [4, 'white'],
      [12, 'red'],
    ],
  },
);
const number = fc.constantFrom<unknown>(
  1,
  2.5,
  {
    by: 'n',
    ramp: [
      [0, 1],
      [10, 4],
    ],
  },
  { is: 'n * 2' },
  { is: 'n' },
);
const share = fc.constantFrom<unknown>(
  0.5,
  {
    by: 'n',
    ramp: [
      [0, 0],
      [10, 1],
    ],
  },
  { is: 'n / 10' },
);
const text = fc.constantFrom<unknown>('name', "concat(name, ' m')", "concat('Depth: ', depth, ' m <&>')", "'fixed'", {
  by: 'n',
  classes: { breaks: [1], values: ['a', 'b'] },
});
const condition = fc.constantFrom(
  "n > 1 AND (kind = 'a' OR NOT kind IN ('b', 'c'))",
  "name LIKE 'a%' AND CASEI(kind) = CASEI('A')",
  'n IS NULL OR n BETWEEN 1 AND 2',
  'open',
  'S_INTERSECTS(geometry, BBOX(1, 2, 3, 4))',
  'S_WITHIN(geometry, POLYGON((0 0, 1 0, 1 1, 0 0)))',
  'S_CROSSES(geometry, MULTILINESTRING((0 0, 1 0), (2 2, 3 3)))',
  'S_DISJOINT(geometry, MULTIPOLYGON(((0 0, 1 0, 1 1, 0 0))))',
  'S_EQUALS(geometry, MULTIPOINT(0 0, 1 1))',
  'n + 1 < m / 2',
);
const layer = fc.record(
  {
    title: fc.constant('A <title> & more'),
    where: condition,
    fill: fc.oneof(
      fc.constant('#0a141e'),
      fc.record({ color, opacity: share }),
      fc.constant({ pattern: { icon: 'reed', gap: 30 } }),
    ),
    stroke: fc.oneof(
      fc.record(
        { color, width: number, dash: fc.constant([4, 2]), offset: fc.constantFrom(2, { is: 'n' }) },
        { requiredKeys: [] },
      ),
      fc.constant({ width: '60m', dash: [3, 1], offset: 4 }),
      fc.constant([{ color: 'red' }, { marks: { icon: 'tick', gap: 30 } }]),
    ),
    mark: fc.record(
      {
        shape: fc.constantFrom('circle', 'star', 'hexagon'),
        color,
        size: number,
        opacity: fc.constantFrom(0.5, {
          by: 'n',
          ramp: [
            [0, 0],
            [10, 1],
          ],
        }),
        rotation: number,
        outline: fc.record({ color, width: fc.constant(2) }),
      },
      { requiredKeys: [] },
    ),
    label: fc.record(
      {
        text,
        size: number,
        color,
        halo: fc.record({ color }),
        side: fc.constantFrom('right', 'above-left', 'on'),
        along: fc.boolean(),
        font: fc.constant('Serif'),
      },
      { requiredKeys: ['text'] },
    ),
    rules: fc.constant([
      { where: 'n = 1', fill: 'red' },
      { otherwise: true, title: 'rest', fill: 'blue' },
    ]),
    zoom: fc.constant([3, 12]),
  },
  { requiredKeys: ['fill'] },
);

describe('documents that are written', () => {
  test('are valid by the schemas, whatever the sheet', () => {
    const faults: unknown[] = [];
    for (const one of fc.sample(layer, { numRuns: 300, seed: 30 })) {
      const { sld } = written(one);
      for (const fault of schemaFaults('sld', sld)) faults.push([fault, JSON.stringify(one)]);
    }
    expect(faults.slice(0, 4)).toEqual([]);
  });

  test('text stays beside expressions, with its blanks', () => {
    const { sld, lost } = written({
      label: { text: "concat('Depth: ', depth, ' m')", color: { is: "concat('#', hue)" } },
    });
    expect(sld).toContain(
      '<se:Label><ogc:Literal>Depth: </ogc:Literal><ogc:PropertyName>depth</ogc:PropertyName><ogc:Literal> m</ogc:Literal></se:Label>',
    );
    expect(lost).toEqual([]);
    const [back] = readSld(sld).sheet.layers;
    expect(back.label).toMatchObject({ text: "concat('Depth: ', depth, ' m')", color: { is: "concat('#', hue)" } });
  });

  test('a symbolizer has one unit, colors are within sRGB, classes say to which side a limit belongs', () => {
    const meters = written({ stroke: { width: '60m', dash: [4, 2], offset: 3 } });
    expect(meters.sld).toContain('uom="http://www.opengeospatial.org/se/units/metre"');
    expect(meters.sld).not.toMatch(/dasharray|PerpendicularOffset/);
    expect(meters.lost).toEqual([expect.stringContaining('pixels have no counterpart beside a width in meters')]);
    expect(written({ fill: 'color(srgb 1.5 -0.2 0)' }).sld).toContain('#ff0000');
    expect(written({ fill: { color: { by: 'n', classes: { breaks: [1], values: ['red', 'blue'] } } } }).sld).toContain(
      'threshholdsBelongTo="succeeding"',
    );
  });

  test('what Filter Encoding has is written: geometries of several parts, attributes that are true, boxes with their system', () => {
    const cases: [string, RegExp][] = [
      [
        'S_CROSSES(geometry, MULTILINESTRING((0 0, 1 0), (2 2, 3 3)))',
        /<ogc:Crosses>[^]*<gml:MultiLineString srsName="urn:ogc:def:crs:OGC:1.3:CRS84">/,
      ],
      ['open', /<ogc:PropertyIsEqualTo>\s*<ogc:PropertyName>open<[^]*<ogc:Literal>true</],
      ['S_INTERSECTS(geometry, BBOX(1, 2, 3, 4))', /<ogc:BBOX>[^]*<gml:lowerCorner>1 2</],
    ];
    for (const [where, wanted] of cases) {
      const { sld, lost } = written({ where, fill: 'red' });
      expect([where, lost]).toEqual([where, []]);
      expect(sld).toMatch(wanted);
    }
  });
});

describe('documents that are read', () => {
  const document = (rules: string) =>
    `<StyledLayerDescriptor version="1.1.0" xmlns="http://www.opengis.net/sld" xmlns:se="http://www.opengis.net/se" xmlns:ogc="http://www.opengis.net/ogc" xmlns:fes="http://www.opengis.net/fes/2.0" xmlns:gml="http://www.opengis.net/gml" xmlns:xlink="http://www.w3.org/1999/xlink"><NamedLayer><se:Name>beds</se:Name><UserStyle><se:FeatureTypeStyle>${rules}</se:FeatureTypeStyle></UserStyle></NamedLayer></StyledLayerDescriptor>`;
  const read = (inside: string) => {
    const { sheet: own, lost } = readSld(document(`<se:Rule>${inside}</se:Rule>`));
    expect(() => readSheet(own)).not.toThrow();
    const [layer] = own.layers;
    return { layer, where: layer?.where ?? layer?.rules?.[0].where, lost };
  };
  const point = (inner: string) => `<se:PointSymbolizer><se:Graphic>${inner}</se:Graphic></se:PointSymbolizer>`;
  const fill =
    '<se:PolygonSymbolizer><se:Fill><se:SvgParameter name="fill">#112233</se:SvgParameter></se:Fill></se:PolygonSymbolizer>';
  const label = (inner: string) => `<se:TextSymbolizer><se:Label>${inner}</se:Label></se:TextSymbolizer>`;
  const line = (uom: string, inner: string, after = '') =>
    `<se:LineSymbolizer uom="http://www.opengeospatial.org/se/units/${uom}"><se:Stroke>${inner}</se:Stroke>${after}</se:LineSymbolizer>`;

  test('labels of text and expressions in turn', () => {
    const mixed = read(label('Depth: <ogc:PropertyName>depth</ogc:PropertyName> m'));
    expect([mixed.layer.label, mixed.lost]).toMatchObject([{ text: "concat('Depth: ', depth, ' m')" }, []]);
    const laid = read(label('\n   Depth: \n   <ogc:PropertyName>depth</ogc:PropertyName>\n'));
    expect(laid.layer.label).toMatchObject({ text: "concat('Depth:', depth)" });
  });

  test('units: meters and feet for widths; other lengths on the ground are reported', () => {
    const width = '<se:SvgParameter name="stroke-width">10</se:SvgParameter>';
    expect(read(line('foot', width)).layer.stroke).toMatchObject({ width: '3.048m' });
    expect(read(line('pixel', width)).layer.stroke).toMatchObject({ width: 10 });
    const ground = read(
      line(
        'metre',
        `${width}<se:SvgParameter name="stroke-dasharray">4 2</se:SvgParameter>`,
        '<se:PerpendicularOffset>3</se:PerpendicularOffset>',
      ),
    );
    expect(ground.layer.stroke).toEqual({ color: '#000000', width: '10m', cap: 'butt' });
    expect(ground.lost).toEqual([
      expect.stringContaining('dashes in metre'),
      expect.stringContaining('offsets in metre'),
    ]);
    const size = read(
      '<se:PointSymbolizer uom="http://www.opengeospatial.org/se/units/metre"><se:Graphic><se:Mark/><se:Size>20</se:Size></se:Graphic></se:PointSymbolizer>',
    );
    expect(size.lost).toEqual([expect.stringContaining('sizes of symbols in metre')]);
  });

  test('what has no counterpart is reported with its line', () => {
    expect(
      read(point('<se:Mark/><se:Displacement><se:DisplacementX>3</se:DisplacementX></se:Displacement>')).lost,
    ).toEqual(['line 1: <Displacement> in <Graphic> has no counterpart and is left out']);
    const sides = read(
      `<se:PolygonSymbolizer><se:Fill><se:SvgParameter name="fill"><se:Categorize fallbackValue="#000000" threshholdsBelongTo="preceding"><se:LookupValue><ogc:PropertyName>n</ogc:PropertyName></se:LookupValue><se:Value>#ffffff</se:Value><se:Threshold>1</se:Threshold><se:Value>#000000</se:Value></se:Categorize></se:SvgParameter></se:Fill></se:PolygonSymbolizer>`,
    );
    expect(sides.lost).toEqual([expect.stringContaining('values at a limit belong to the class above it here')]);
    const placed = read(
      '<se:TextSymbolizer><se:Label>x</se:Label><se:LabelPlacement><se:LinePlacement><se:PerpendicularOffset>4</se:PerpendicularOffset></se:LinePlacement></se:LabelPlacement></se:TextSymbolizer>',
    );
    expect(placed.lost).toEqual([expect.stringContaining('<PerpendicularOffset> in <LinePlacement>')]);
  });

  test('pictures beside other symbolizers: both are layers', () => {
    const raster = '<se:RasterSymbolizer><se:Opacity>0.5</se:Opacity><se:ColorMap/></se:RasterSymbolizer>';
    const { sheet: own, lost } = readSld(document(`<se:Rule>${raster}</se:Rule><se:Rule>${fill}</se:Rule>`));
    expect(own.layers).toEqual([
      { id: 'beds', of: 'beds', image: { opacity: 0.5 } },
      { id: 'beds-features', of: 'beds', fill: { color: '#112233' } },
    ]);
    expect(lost).toEqual([
      expect.stringContaining('<ColorMap> in <RasterSymbolizer>'),
      expect.stringContaining('give its data entry "images"'),
      expect.stringContaining('draws features as well'),
    ]);
  });

  const box = (srsName: string, low: string, high: string) =>
    `<ogc:Filter><ogc:BBOX><ogc:PropertyName>geom</ogc:PropertyName><gml:Envelope${srsName && ` srsName="${srsName}"`}><gml:lowerCorner>${low}</gml:lowerCorner><gml:upperCorner>${high}</gml:upperCorner></gml:Envelope></ogc:BBOX></ogc:Filter>${fill}`;
  test.each([
    ['', '-31 44', '-30 45'],
    ['urn:ogc:def:crs:EPSG::4326', '44 -31', '45 -30'],
    ['http://www.opengis.net/def/crs/EPSG/0/4326', '44 -31', '45 -30'],
    ['EPSG:4326', '-31 44', '-30 45'],
    ['http://www.opengis.net/gml/srs/epsg.xml#4326', '-31 44', '-30 45'],
    ['urn:ogc:def:crs:OGC:1.3:CRS84', '-31 44', '-30 45'],
  ])('a box in "%s" has the order of its axes', (srsName, low, high) => {
    const { where, lost } = read(box(srsName, low, high));
    expect([where, lost]).toEqual(['s_intersects(geometry, BBOX(-31, 44, -30, 45))', []]);
  });

  test('a box in meters is carried over; one in an unknown system is not, with a word', () => {
    expect(read(box('EPSG:3857', '0 0', '111319.490793 111325.142866')).where).toMatch(
      /BBOX\(0, 0, 1(\.0+\d*|), (1|0\.9{6}\d*)/,
    );
    const { sheet: own, lost } = readSld(document(`<se:Rule>${box('EPSG:99999', '0 0', '1 1')}</se:Rule>`));
    expect(own.layers).toEqual([]);
    expect(lost).toEqual([expect.stringContaining('EPSG:99999'), expect.stringContaining('a rule is left out')]);
  });

  test('filters of version 2.0, with times', () => {
    const fes = (inner: string) => `<fes:Filter>${inner}</fes:Filter>${fill}`;
    const value = '<fes:ValueReference>seen</fes:ValueReference>';
    expect(
      read(fes(`<fes:PropertyIsEqualTo matchCase="false">${value}<fes:Literal>a</fes:Literal></fes:PropertyIsEqualTo>`))
        .where,
    ).toBe("casei(seen) = casei('a')");
    expect(
      read(
        fes(
          `<fes:After>${value}<gml:TimeInstant><gml:timePosition>2031-04-18</gml:timePosition></gml:TimeInstant></fes:After>`,
        ),
      ).where,
    ).toBe("t_after(seen, DATE('2031-04-18'))");
    expect(
      read(
        fes(
          `<fes:During>${value}<gml:TimePeriod><gml:beginPosition>2031-04-18</gml:beginPosition><gml:endPosition>2031-05-01</gml:endPosition></gml:TimePeriod></fes:During>`,
        ),
      ).where,
    ).toBe("t_during(seen, INTERVAL('2031-04-18', '2031-05-01'))");
    expect(read(fes('<fes:PropertyIsNil><fes:ValueReference>a/n</fes:ValueReference></fes:PropertyIsNil>')).where).toBe(
      'n IS NULL',
    );
  });

  test('geometries of several parts, and those of GML 2', () => {
    const within = (gml: string) =>
      read(`<ogc:Filter><ogc:Within><ogc:PropertyName>geom</ogc:PropertyName>${gml}</ogc:Within></ogc:Filter>${fill}`)
        .where;
    const ring = (text: string) => `<gml:LinearRing>${text}</gml:LinearRing>`;
    expect(
      within(
        `<gml:Polygon><gml:outerBoundaryIs>${ring('<gml:coordinates>0,0 1,0 1,1 0,0</gml:coordinates>')}</gml:outerBoundaryIs></gml:Polygon>`,
      ),
    ).toBe('s_within(geometry, POLYGON((0 0, 1 0, 1 1, 0 0)))');
    expect(
      within(
        `<gml:MultiSurface srsName="urn:ogc:def:crs:EPSG::4326"><gml:surfaceMember><gml:Polygon><gml:exterior>${ring('<gml:posList srsDimension="3">0 0 9 0 1 9 1 1 9 0 0 9</gml:posList>')}</gml:exterior></gml:Polygon></gml:surfaceMember></gml:MultiSurface>`,
      ),
    ).toBe('s_within(geometry, MULTIPOLYGON(((0 0, 1 0, 1 1, 0 0))))');
  });
});

test('the sheets of the samples are valid styles', () => {
  const { sld } = writeSld(readSheet(sheet([{ fill: 'red' }])));
  expect(schemaFaults('sld', sld)).toEqual([]);
});
