import { describe, expect, test } from '@jest/globals';
import { readSheet, readSld, writeSld } from '@flintwright/core';
import { sheet } from './sample-sheets.ts';

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
          { otherwise: true, stroke: { color: '#000000', width: '6m', cap: 'butt' } },
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
          side: 'right',
          distance: 6,
        },
      },
    ]);
    expect(lost).toEqual([
      expect.stringContaining('dashes in metre'),
      expect.stringContaining('offsets in metre'),
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

  test('newer parts of a sheet that a style has no words for are named', () => {
    const { lost } = writeSld(
      readSheet({
        sheet: 1,
        palette: { ink: '#222222' },
        dark: { ink: '#eeeeee' },
        data: { a: { features: 'a.geojson', cluster: {} } },
        layers: [
          { id: 'm', of: 'a', mark: { shape: 'circle', size: 8 }, clusters: { mark: { shape: 'circle', size: 20 } } },
          { id: 's', of: 'a', stroke: { name: 'edge', color: '@ink', width: 2 }, label: { text: 'name', repeat: 300 } },
        ],
      }),
    );
    expect(lost.join('\n')).toMatch(/dark[\s\S]*clusters[\s\S]*repeated labels[\s\S]*names of strokes/);
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

  test('what is not a sheet that was read is a fault', () => {
    for (const given of [undefined, null, { sheet: 1, layers: [] }, 'sheet'])
      expect(() => writeSld(given as never)).toThrow(/expected a compiled sheet, got/);
  });
});
