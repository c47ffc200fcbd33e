import { describe, expect, test } from '@jest/globals';
import { findTileMatrixSet, readOgcTiles, readTileMatrixSet, readWmts } from '@flintwright/core';
import { gridHalf, gridOfMatrixSet } from '@flintwright/core/internal';

describe('grids and services', () => {
  test('common tile matrix sets: the figures of OGC 17-083r4, annex D', () => {
    const web = findTileMatrixSet('WebMercatorQuad')!;
    expect(web.matrices[24]).toMatchObject({
      cellSize: expect.closeTo(0.00933069, 7) as unknown as number,
      matrixWidth: 16777216,
    });
    const utm = findTileMatrixSet('UTM31WGS84Quad')!;
    expect([utm.crs.id, utm.matrices[0].matrixHeight]).toEqual(['EPSG:32631', 2]);
    expect(findTileMatrixSet('WorldCRS84Quad')!.matrices[2].matrixWidth).toBe(8);
    const { grid, shift } = gridOfMatrixSet('WorldCRS84Quad');
    expect(shift).toBe(1);
    // 12.5° E, 41° N lies in tile 1/2/0 of the set: column 2 of 4, row 0 of 2.
    const [x, y] = grid.at(12.5, 41);
    expect([Math.floor((0.5 + x / (2 * gridHalf)) * 4), Math.floor((0.5 - y / (2 * gridHalf)) * 4)]).toEqual([2, 0]);
    expect(grid.place(...grid.at(12.5, 41))).toEqual([expect.closeTo(12.5, 9), expect.closeTo(41, 9)]);
    expect(() => gridOfMatrixSet('WebMercatorQuads')).toThrow(/not known/);
    const own = {
      id: 'local',
      crs: 'http://www.opengis.net/def/crs/EPSG/0/32625',
      tileMatrices: [0, 1, 2].map((z) => ({
        id: `L${z}`,
        scaleDenominator: 1e6 / 2 ** z / 0.28,
        pointOfOrigin: [600000, 5000000],
        tileWidth: 256,
        tileHeight: 256,
        matrixWidth: 2 ** z,
        matrixHeight: 2 ** z,
      })),
    };
    expect(readTileMatrixSet(own).matrices[1]).toMatchObject({
      id: 'L1',
      cellSize: expect.closeTo(500, 6) as unknown as number,
      origin: [600000, 5000000],
    });
    expect(() => readTileMatrixSet({ crs: 'EPSG:3857' })).toThrow(/no levels/);
    const uneven = { ...own, tileMatrices: own.tileMatrices.map((m, z) => ({ ...m, scaleDenominator: 1e6 / 3 ** z })) };
    expect(() => gridOfMatrixSet(uneven)).toThrow(/do not halve/);
  });

  const capabilities = (extra: string) => `<?xml version="1.0"?>
<Capabilities xmlns="http://www.opengis.net/wmts/1.0" xmlns:ows="http://www.opengis.net/ows/1.1" xmlns:xlink="http://www.w3.org/1999/xlink" version="1.0.0">
  <ows:ServiceProvider><ows:ProviderName>Reach Conservancy</ows:ProviderName></ows:ServiceProvider>
  <ows:OperationsMetadata><ows:Operation name="GetTile"><ows:DCP><ows:HTTP><ows:Get xlink:href="https://tiles.invalid/wmts?"/></ows:HTTP></ows:DCP></ows:Operation></ows:OperationsMetadata>
  <Contents>
    <Layer><ows:Identifier>relief</ows:Identifier>
      <Style isDefault="true"><ows:Identifier>plain</ows:Identifier></Style>
      <Format>image/png</Format>
      <TileMatrixSetLink><TileMatrixSet>grid</TileMatrixSet></TileMatrixSetLink>
      ${extra}
    </Layer>
    <TileMatrixSet><ows:Identifier>grid</ows:Identifier><ows:SupportedCRS>urn:ogc:def:crs:EPSG::4326</ows:SupportedCRS>
      ${[0, 1].map((z) => `<TileMatrix><ows:Identifier>m${z}</ows:Identifier><ScaleDenominator>${279541132.0143589 / 2 ** z}</ScaleDenominator><TopLeftCorner>90 -180</TopLeftCorner><TileWidth>256</TileWidth><TileHeight>256</TileHeight><MatrixWidth>${2 * 2 ** z}</MatrixWidth><MatrixHeight>${2 ** z}</MatrixHeight></TileMatrix>`).join('')}
    </TileMatrixSet>
  </Contents>
</Capabilities>`;

  test('WMTS capabilities by key-value pairs and by resource template', () => {
    const entry = readWmts(capabilities(''));
    expect(entry.images).toBe(
      'https://tiles.invalid/wmts?SERVICE=WMTS&REQUEST=GetTile&VERSION=1.0.0&LAYER=relief&STYLE=plain&FORMAT=image%2Fpng&TILEMATRIXSET=grid&TILEMATRIX={z}&TILEROW={y}&TILECOL={x}',
    );
    expect(entry).toMatchObject({ credit: 'Reach Conservancy', zooms: [0, 1] });
    // Corners of a geographic system come latitude first.
    const { set, shift } = gridOfMatrixSet(entry.grid!);
    expect([set.matrices[0].origin, set.matrices[0].id, shift]).toEqual([[-180, 90], 'm0', 1]);
    expect(set.matrices[0].cellSize).toBeCloseTo(0.703125, 6);
    const rest = readWmts(
      capabilities(
        '<ResourceURL resourceType="tile" format="image/png" template="https://tiles.invalid/{style}/{TileMatrixSet}/{TileMatrix}/{TileRow}/{TileCol}.png"/>',
      ),
    );
    expect(rest.images).toBe('https://tiles.invalid/plain/grid/{z}/{y}/{x}.png');
    expect(() => readWmts(capabilities(''), { layer: 'reliefs' })).toThrow('the service has no layer "reliefs"');
    expect(() => readWmts('<ServiceExceptionReport/>')).toThrow(/not WMTS capabilities/);
  });

  test('OGC API Tiles metadata', () => {
    const entry = readOgcTiles(
      {
        tileMatrixSetURI: 'http://www.opengis.net/def/tilematrixset/OGC/1.0/WebMercatorQuad',
        attribution: 'Reach',
        links: [{ rel: 'item', type: 'image/png', href: 'WebMercatorQuad/{tileMatrix}/{tileRow}/{tileCol}' }],
        tileMatrixSetLimits: [{ tileMatrix: '3' }, { tileMatrix: '9' }],
      },
      'https://tiles.invalid/relief/tiles/WebMercatorQuad',
    );
    expect(entry).toEqual({
      images: 'https://tiles.invalid/relief/tiles/WebMercatorQuad/{z}/{y}/{x}',
      grid: 'WebMercatorQuad',
      zooms: [3, 9],
      credit: 'Reach',
    });
    expect(() => readOgcTiles({ links: [] }, 'x')).toThrow(/no link to tiles/);
  });
});
