// Surfaces without a screen: the camera on planes and on the globe, tiles in view, laying tiles out, grids and services.
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  distortionAt,
  doubleArea,
  ellipsoids,
  findTileMatrixSet,
  getCrs,
  getSurface,
  readGeoJson,
  readOgcTiles,
  readTileMatrixSet,
  readWmts,
  TileCutter,
  transformGeoJson,
  type SurfaceSpec,
} from '@flintwright/core';
import {
  Camera,
  changeView,
  viewPath,
  projectTile,
  fitView,
  globe,
  greatCircles,
  gridHalf,
  gridOfMatrixSet,
  groundOf,
  lonLatGrid,
  mercatorGrid,
  tilesInView,
  unwrapped,
  viewHolding,
} from '@flintwright/core/internal';

const size = { width: 900, height: 600 };
const surfaces: [string, SurfaceSpec, [number, number]][] = [
  ['web Mercator', 'EPSG:3857', [-31.2, 44.6]],
  ['UTM', 'EPSG:32625', [-31.2, 44.6]],
  ['degrees in equal steps', 'EPSG:4326', [-31.2, 44.6]],
  ['polar equal-area', 'EPSG:3575', [20, 80]],
  ['polar stereographic, south', 'EPSG:3031', [70, -75]],
  ['Robinson round 150°', { method: 'robinson', lon0: 150 }, [-175, 10]],
  [
    'Lambert conformal conic',
    { method: 'lambert-conformal-conic', lon0: -31, lat0: 45, lat1: 40, lat2: 50 },
    [-31, 45],
  ],
  ['orthographic', { method: 'orthographic', lon0: -31, lat0: 45 }, [-31, 45]],
  ['the globe', 'globe', [-31.2, 44.6]],
  ['the globe at a pole', 'globe', [10, 88]],
];

describe('the camera', () => {
  test.each(surfaces)(
    'on %s: what is seen at a pixel is drawn at that pixel, close by and far off',
    (_name, spec, center) => {
      const surface = getSurface(spec);
      fc.assert(
        fc.property(
          fc.integer({ min: 0, max: size.width }),
          fc.integer({ min: 0, max: size.height }),
          fc.double({ min: 1, max: 20, noNaN: true }),
          fc.double({ min: -180, max: 180, noNaN: true }),
          fc.double({ min: 0, max: 55, noNaN: true }),
          (x, y, zoom, bearing, tilt) => {
            const camera = new Camera({ center, zoom, bearing, tilt }, surface, size);
            const place = camera.unproject(x, y);
            if (!place) return;
            const [px, py, near] = camera.project(...place);
            expect(near).toBeGreaterThan(0);
            const off = Math.hypot(px - x, py - y);
            // Where a surface repeats itself, or the ground is seen at a glancing angle, a pixel is a long way.
            if (near > 0.2 && (!surface.wrap || zoom > 5)) expect([x, y, zoom, off < 0.02]).toEqual([x, y, zoom, true]);
          },
        ),
        { numRuns: 150, seed: 7 },
      );
    },
  );

  test.each(surfaces)('on %s: many places at once come to the same pixels as one by one', (_name, spec, center) => {
    const surface = getSurface(spec);
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(fc.double({ min: -180, max: 180, noNaN: true }), fc.double({ min: -89, max: 89, noNaN: true })),
          { minLength: 1, maxLength: 30 },
        ),
        fc.double({ min: 1, max: 16, noNaN: true }),
        fc.double({ min: -180, max: 180, noNaN: true }),
        fc.double({ min: 0, max: 55, noNaN: true }),
        (places, zoom, bearing, tilt) => {
          const camera = new Camera({ center, zoom, bearing, tilt }, surface, size);
          const metres = new Float64Array(3 * places.length);
          const at: [number, number, number] = [0, 0, 0];
          places.forEach(([lon, lat], i) =>
            metres.set(surface.forward(lon, lat, at) ? at : [NaN, at[1], at[2]], 3 * i),
          );
          // Every other one is asked for; the rest stays as it was.
          const slots = Int32Array.from(places.keys()).filter((i) => i % 2 === 0);
          const pixels = new Float64Array(2 * places.length).fill(-7);
          camera.pixelsInto(metres, slots, pixels);
          places.forEach(([lon, lat], i) => {
            const [x, y, near] = camera.project(lon, lat);
            if (i % 2) expect([pixels[2 * i], pixels[2 * i + 1]]).toEqual([-7, -7]);
            else if (near <= 0) expect(pixels[2 * i]).toBeNaN();
            else {
              const slack = 1e-6 * (1 + Math.abs(x) + Math.abs(y));
              expect(Math.abs(pixels[2 * i] - x)).toBeLessThan(slack);
              expect(Math.abs(pixels[2 * i + 1] - y)).toBeLessThan(slack);
            }
          });
        },
      ),
      { numRuns: 60, seed: 11 },
    );
  });

  test('the globe hides its far side, and dragging brings the ground under the pointer', () => {
    const view = { center: [0, 20] as [number, number], zoom: 2.5, bearing: 0, tilt: 0 };
    const camera = new Camera(view, globe, size);
    expect(camera.project(180, -20)[2]).toBeLessThanOrEqual(0);
    expect(camera.project(0, 20)).toEqual([450, 300, 1]);
    expect(camera.unproject(5, 5)).toBeUndefined();
    const ground = camera.unproject(500, 350)!;
    const held = viewHolding(view, globe, size, ground, [430, 280]);
    const [x, y] = new Camera(held, globe, size).project(...ground);
    expect(Math.hypot(x - 430, y - 280)).toBeLessThan(0.5);
    // A journey over the globe follows a great circle: half-way between two places on a parallel it is nearer to the pole.
    const from = { ...view, center: [-60, 50] as [number, number], zoom: 5 };
    const half = viewPath(from, { ...from, center: [60, 50] }, globe, size)(0.5);
    expect(half.center[0]).toBeCloseTo(0, 6);
    expect(half.center[1]).toBeCloseTo(67.24, 1);
    const framed = fitView(view, globe, size, [
      [10, 10],
      [20, 10],
      [20, 20],
      [10, 20],
    ]);
    expect(framed.center[0]).toBeCloseTo(15, 1);
    const fits = new Camera(framed, globe, size);
    for (const corner of [
      [10, 10],
      [20, 20],
    ]) {
      const [cx, cy] = fits.project(corner[0], corner[1]);
      expect(cx > 30 && cx < 870 && cy > 30 && cy < 570).toBe(true);
    }
    expect(changeView(view, { center: [0, 89] }, { zoom: [0, 24], tilt: [0, 60], latitude: 89.9 }).center[1]).toBe(89);
  });
});

describe('tiles in view', () => {
  test.each(surfaces)('on %s every pixel of the ground lies on one of them', (_name, spec, center) => {
    const surface = getSurface(spec);
    for (const [zoom, tilt] of [
      [2, 0],
      [5.3, 40],
      [9, 0],
      [14.7, 50],
    ] as const) {
      const camera = new Camera({ center, zoom, bearing: 20, tilt }, surface, size);
      for (const grid of [surface.grid, mercatorGrid]) {
        const tiles = tilesInView(camera, 512, [0, 16], grid);
        expect(tiles.length).toBeLessThan(140);
        for (let k = 0; k < 63; k++) {
          const place = camera.unproject(((k % 9) / 8) * 880 + 10, (Math.floor(k / 9) / 6) * 580 + 10);
          if (!place || (grid === mercatorGrid && Math.abs(place[1]) > 84)) continue;
          const [gx, gy] = grid.at(...place);
          const [u, v] = [0.5 + gx / (2 * gridHalf), 0.5 - gy / (2 * gridHalf)];
          const on = tiles.some(
            ({ z, x, y }) => Math.floor((u - Math.floor(u)) * 2 ** z) === x && Math.floor(v * 2 ** z) === y,
          );
          expect([zoom, grid.id, k, on]).toEqual([zoom, grid.id, k, true]);
        }
      }
    }
  });
});

const box = (west: number, south: number, east: number, north: number) =>
  readGeoJson({
    type: 'Polygon',
    coordinates: [
      [
        [west, south],
        [east, south],
        [east, north],
        [west, north],
        [west, south],
      ],
    ],
  });
const areaOf = (block: ReturnType<typeof box>) => {
  let sum = 0;
  for (let p = 0; p + 1 < block.partRings.length; p++)
    for (let r = block.partRings[p]; r < block.partRings[p + 1]; r++)
      sum +=
        (Math.abs(doubleArea(block.coords, block.ringStarts[r], block.ringStarts[r + 1])) / 2) *
        (r === block.partRings[p] ? 1 : -1);
  return sum;
};

describe('laying tiles out', () => {
  test.each([
    ['equal-area, far from the centre', { method: 'lambert-azimuthal', lon0: 0, lat0: 30 }],
    ['cut by the antimeridian of the surface', { method: 'equal-earth', lon0: 150 }],
    ['in a cone', { method: 'albers', lon0: 0, lat0: 40, lat1: 20, lat2: 60 }],
    ['round a pole', { method: 'lambert-azimuthal', lon0: 0, lat0: -90 }],
  ] as [string, SurfaceSpec][])('keeps areas on equal-area surfaces: %s', (_name, spec) => {
    const surface = getSurface(spec);
    // Half the earth, in one box and in boxes of 60 degrees, from tiles of the surface's own grid.
    let sum = 0;
    for (let lon = -180; lon < 180; lon += 120) {
      const cutter = new TileCutter(box(lon, -40, lon + 120, 50), 16, { grid: surface.grid, buffer: 0 });
      for (let x = 0; x < 8; x++)
        for (let y = 2; y < 6; y++) {
          const block = cutter.tile({ z: 3, x, y });
          if (block) sum += areaOf(projectTile(block, { z: 3, x, y }, surface.grid, surface).fills);
        }
    }
    const { a, b, e } = ellipsoids.wgs84;
    const q = (lat: number) => {
      const s = Math.sin((lat * Math.PI) / 180);
      return b * b * (s / (1 - e * e * s * s) + Math.atanh(e * s) / e);
    };
    const truth = Math.PI * (q(50) - q(-40));
    expect(a).toBe(6378137);
    // The rim that azimuthal surfaces leave out lies outside the box, or takes little of it.
    expect(Math.abs(sum / truth - 1)).toBeLessThan(0.004);
  });

  test('what crosses the edge of a surface is cut there, and no outline runs along the cut', () => {
    const surface = getSurface({ method: 'robinson', lon0: 150 });
    const [west, , east] = surface.bounds;
    // 20 degrees wide across 30° W, where the surface ends.
    const cutter = new TileCutter(box(-40, 10, -20, 20), 16, { grid: surface.grid, buffer: 0 });
    const pieces = [
      [0, 0],
      [1, 0],
    ].map(([x]) => {
      const block = cutter.tile({ z: 1, x, y: 0 })!;
      const { fills, lines, frame } = projectTile(block, { z: 1, x, y: 0 }, surface.grid, surface);
      const xs = (coords: ArrayLike<number>) =>
        Array.from(coords)
          .filter((_, i) => i % 2 === 0)
          .map((v) => v + frame.anchor[0]);
      return { fills: xs(fills.coords), lines: xs(lines.coords), kinds: lines.kinds[0] };
    });
    // One piece at each end of the map, nothing in between.
    expect(Math.max(...pieces[0].fills)).toBeLessThan(west + 0.06 * (east - west));
    expect(Math.min(...pieces[1].fills)).toBeGreaterThan(east - 0.06 * (east - west));
    expect(pieces.map(({ kinds }) => kinds)).toEqual([2, 2]);
  });

  test('on the globe fills are cut small, and the ground of a tile bends with it', () => {
    const block = new TileCutter(box(-10, -10, 100, 70), 16, { grid: lonLatGrid() }).tile({ z: 3, x: 4, y: 3 })!;
    const { fills, frame } = projectTile(block, { z: 3, x: 4, y: 3 }, lonLatGrid(), globe);
    let widest = 0;
    for (let r = 0; r + 1 < fills.ringStarts.length; r++)
      for (let i = fills.ringStarts[r]; i < fills.ringStarts[r + 1]; i++)
        widest = Math.max(
          widest,
          Math.hypot(
            fills.coords[2 * i] - fills.coords[2 * fills.ringStarts[r]],
            fills.coords[2 * i + 1] - fills.coords[2 * fills.ringStarts[r] + 1],
          ),
        );
    // Chords of a ball: a flat piece of that width lies less than 1/900 of the radius below it.
    expect(widest ** 2 / 8 / globe.radius).toBeLessThan(globe.radius / 900);
    expect(Math.hypot(...frame.anchor)).toBeCloseTo(globe.radius, 3);
    const ground = groundOf({ z: 3, x: 4, y: 3 }, lonLatGrid(), globe);
    expect(ground.indices.length).toBeGreaterThan(1000);
    expect(ground.places.every(Number.isFinite)).toBe(true);
  });

  test('rings that leap over the antimeridian run on, rings round a pole are closed by way of it, boxes mean what they say', () => {
    const ring = (coordinates: number[][]) => unwrapped(readGeoJson({ type: 'Polygon', coordinates: [coordinates] }));
    const across = ring([
      [170, 0],
      [-170, 0],
      [-165, 5],
      [-170, 10],
      [170, 10],
      [170, 0],
    ]);
    expect(
      Math.max(...Array.from(across.coords).filter((_, i) => i % 2 === 0)) -
        Math.min(...Array.from(across.coords).filter((_, i) => i % 2 === 0)),
    ).toBeCloseTo(25, 9);
    const cap = ring([
      [-120, -70],
      [0, -75],
      [120, -70],
      [-179, -72],
      [-120, -70],
    ]);
    expect(Array.from(cap.coords)).toContain(-90);
    const whole = readGeoJson({
      type: 'Polygon',
      coordinates: [
        [
          [-170, -80],
          [170, -80],
          [170, 80],
          [-170, 80],
          [-170, -80],
        ],
      ],
    });
    expect(unwrapped(whole)).toBe(whole);
    const arc = greatCircles(
      readGeoJson({
        type: 'LineString',
        coordinates: [
          [-60, 50],
          [60, 50],
        ],
      }),
    );
    expect(Math.max(...Array.from(arc.coords).filter((_, i) => i % 2 === 1))).toBeCloseTo(67.2, 1);
  });
});

test('distortion: none of angles on conformal surfaces, none of areas on equal-area ones', () => {
  expect(distortionAt(getSurface('EPSG:3857'), 10, 60, { ...ellipsoids.wgs84, e2: 0 })).toMatchObject({
    longer: expect.closeTo(2, 4) as unknown as number,
    angle: expect.closeTo(0, 2) as unknown as number,
  });
  expect(distortionAt(getSurface({ method: 'equal-earth' }), 100, 40)?.area).toBeCloseTo(1, 4);
  expect(distortionAt(getSurface({ method: 'orthographic', lat0: 0, lon0: 0 }), 170, 0)).toBeUndefined();
  expect(getSurface({ method: 'equal-earth' }).stretch(100, 40)).toBeCloseTo(1, 4);
  expect(() => getSurface({ method: 'molweide' })).toThrow('the projection method "molweide" is not known');
});

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
    expect(() => readWmts('<ServiceExceptionReport/>')).toThrow(/no WMTS capabilities/);
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

test('GeoJSON goes from system to system with everything in it, and says which places cannot', () => {
  const source = {
    type: 'FeatureCollection',
    name: 'kept',
    bbox: [0, 0, 1, 1],
    features: [
      {
        type: 'Feature',
        id: 'a',
        properties: { deep: { list: [1] } },
        geometry: { type: 'Point', coordinates: [3, 52, 17.5] },
      },
      {
        type: 'Feature',
        id: 'b',
        properties: null,
        geometry: {
          type: 'GeometryCollection',
          geometries: [
            {
              type: 'LineString',
              coordinates: [
                [3, 50],
                [4, 51],
              ],
            },
          ],
        },
      },
    ],
  };
  const [wgs, utm] = [getCrs('OGC:CRS84'), getCrs('EPSG:32631')];
  const there = transformGeoJson(source, { from: wgs, to: utm }) as typeof source & { crs: object };
  expect(there.crs).toEqual({ type: 'name', properties: { name: 'urn:ogc:def:crs:EPSG::32631' } });
  expect(there.features[0].geometry.coordinates).toEqual([500000, expect.closeTo(5761038.212, 2), 17.5]);
  expect(there.features[0].properties).toEqual({ deep: { list: [1] } });
  expect(there.bbox[0]).toBeCloseTo(500000, 6);
  const back = transformGeoJson(there, { from: utm, to: wgs }) as typeof source;
  expect(back.features[0].geometry.coordinates).toEqual([expect.closeTo(3, 11), expect.closeTo(52, 11), 17.5]);
  expect(back).not.toHaveProperty('crs');
  // In the authority's order the northing comes first here.
  const swapped = transformGeoJson(source, {
    from: wgs,
    to: getCrs('EPSG:3035'),
    toAxes: 'authority',
  }) as typeof source;
  const plain = transformGeoJson(source, { from: wgs, to: getCrs('EPSG:3035') }) as typeof source;
  const [x, y] = plain.features[0].geometry.coordinates!;
  expect(swapped.features[0].geometry.coordinates!.slice(0, 2)).toEqual([y, x]);
  expect(() => transformGeoJson({ type: 'Point', coordinates: [170, 0] }, { from: wgs, to: utm })).toThrow(
    '[170, 0] at $.coordinates',
  );
});
