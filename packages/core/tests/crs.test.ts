// Projections against the worked examples of their standards; systems as the texts of the EPSG data set describe them. What each method is by
// its definition is in second-formulas.test.ts.
import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  addCrs,
  crsCodes,
  ellipsoid,
  ellipsoids,
  Fault,
  findCrs,
  geodesicOn,
  getCrs,
  makeCrs,
  methods,
  readCrs,
  transformer,
  type CrsDefinition,
  type Ellipsoid,
  type MethodName,
  type ProjectionParameters,
} from '@flintwright/core';
import { openRegister } from '@flintwright/core/files';
import { randomFrom } from './sample-random.ts';

const fixture = <T>(name: string) =>
  JSON.parse(readFileSync(new URL(`fixtures/${name}.json`, import.meta.url), 'utf8')) as T;
const systems = fixture<{ code: string; wkt1?: string; wkt2: string; projjson: object }[]>('crs');

const dms = (d: number, m = 0, s = 0) => Math.sign(d || 1) * (Math.abs(d) + m / 60 + s / 3600);
const sphere = (radius: number) => ellipsoid(radius, 0);
/** As the examples give it: e² = 0.00676866. */
const clarke = ellipsoid(6378206.4, 1 / (1 - Math.sqrt(1 - 0.00676866)));
const { wgs84, airy1830, bessel1841, international1924, grs80 } = ellipsoids;
const ftUs = 1200 / 3937;

type Example = [
  name: string,
  shape: Ellipsoid,
  method: MethodName,
  parameters: ProjectionParameters,
  place: [number, number],
  xy: [number, number],
  digits: number,
  unit?: number,
];

/** IOGP Publication 373-7-2 (EPSG Guidance Note 7-2), the examples that follow each method; the digits printed there. */
const guidance: Example[] = [
  [
    '3.2.1.1 Mercator A',
    bessel1841,
    'mercator',
    { lon0: 110, k0: 0.997, x0: 3900000, y0: 900000 },
    [120, -3],
    [5009726.58, 569150.82],
    2,
  ],
  [
    '3.2.1.1 Mercator B',
    ellipsoid(6378245, 298.3),
    'mercator',
    { lat1: 42, lon0: 51 },
    [53, 53],
    [165704.29, 5171848.07],
    2,
  ],
  [
    '3.2.1.2 pseudo-Mercator',
    wgs84,
    'pseudo-mercator',
    {},
    [-100 - 20 / 60, dms(24, 22, 54.433)],
    [-11169055.58, 2800000.0],
    2,
  ],
  [
    '3.2.2 Cassini-Soldner',
    ellipsoid(20926348, 20926348 / (20926348 - 20855233)),
    'cassini',
    { lat0: dms(10, 26, 30), lon0: dms(-61, 20), x0: 430000 * 0.66, y0: 325000 * 0.66 },
    [-62, 10],
    [66644.94, 82536.22],
    1,
    0.66,
  ],
  [
    '3.2.3 transverse Mercator',
    airy1830,
    'transverse-mercator',
    { lat0: 49, lon0: -2, k0: 0.9996013, x0: 400000, y0: -100000 },
    [0.5, 50.5],
    [577274.99, 69740.5],
    2,
  ],
  ['3.2.5 equidistant cylindrical', wgs84, 'equirectangular', {}, [10, 55], [1113194.91, 6097230.31], 2],
  [
    '3.2.7 Hotine B',
    ellipsoid(6377298.556, 300.8017),
    'hotine-b',
    {
      lat0: 4,
      lon0: 115,
      azimuth: dms(53, 18, 56.9537),
      gridAngle: dms(53, 7, 48.3685),
      k0: 0.99984,
      x0: 590476.87,
      y0: 442857.65,
    },
    [dms(115, 48, 19.8196), dms(5, 23, 14.1129)],
    [679245.73, 596562.78],
    2,
  ],
  [
    '3.2.7 Hotine A',
    ellipsoid(6377298.556, 300.8017),
    'hotine-a',
    { lat0: 4, lon0: 115, azimuth: dms(53, 18, 56.9537), gridAngle: dms(53, 7, 48.3685), k0: 0.99984 },
    [dms(115, 48, 19.8196), dms(5, 23, 14.1129)],
    [679245.73, 596562.78],
    2,
  ],
  [
    '3.1.1.1 Lambert, one parallel',
    clarke,
    'lambert-conformal-conic',
    { lat0: 18, lon0: -77, x0: 250000, y0: 150000 },
    [-dms(76, 56, 37.26), dms(17, 55, 55.8)],
    [255966.58, 142493.51],
    2,
  ],
  [
    '3.1.1.2 Lambert, two parallels',
    clarke,
    'lambert-conformal-conic',
    { lat0: dms(27, 50), lon0: -99, lat1: dms(28, 23), lat2: dms(30, 17), x0: 2000000 * ftUs },
    [-96, 28.5],
    [2963503.91, 254759.8],
    2,
    ftUs,
  ],
  [
    '3.1.2 Krovak',
    bessel1841,
    'krovak',
    { lat0: 49.5, lon0: dms(24, 50), axis: dms(30, 17, 17.3031), pseudo: 78.5, k0: 0.9999 },
    [dms(16, 50, 59.179), dms(50, 12, 32.442)],
    [-568991.0, -1050538.63],
    2,
  ],
  [
    '3.3.1 Lambert azimuthal',
    grs80,
    'lambert-azimuthal',
    { lat0: 52, lon0: 10, x0: 4321000, y0: 3210000 },
    [5, 50],
    [3962799.45, 2999718.85],
    2,
  ],
  [
    '3.3.2 oblique stereographic',
    bessel1841,
    'oblique-stereographic',
    { lat0: dms(52, 9, 22.178), lon0: dms(5, 23, 15.5), k0: 0.9999079, x0: 155000, y0: 463000 },
    [6, 53],
    [196105.283, 557057.739],
    3,
  ],
  [
    'stereographic on the ellipsoid (USGS PP 1395, appendix A)',
    ellipsoid(6378206.4, 1 / (1 - Math.sqrt(1 - 0.00676866))),
    'stereographic',
    { lat0: 40, lon0: -100, k0: 0.9999 },
    [-90, 30],
    [971630.8, -1063049.3],
    1,
  ],
  [
    '3.3.3 polar stereographic A',
    wgs84,
    'polar-stereographic',
    { lat0: 90, k0: 0.994, x0: 2e6, y0: 2e6 },
    [44, 73],
    [3320416.75, 632668.43],
    2,
  ],
  [
    '3.3.3 polar stereographic B',
    wgs84,
    'polar-stereographic',
    { lat1: -71, lon0: 70, x0: 6e6, y0: 6e6 },
    [120, -75],
    [7255380.79, 7053389.56],
    2,
  ],
  [
    '3.3.5 orthographic',
    wgs84,
    'orthographic',
    { lat0: 55, lon0: 5 },
    [dms(2, 7, 46.38), dms(53, 48, 33.82)],
    [-189011.711, -128640.567],
    3,
  ],
  [
    '3.3.4 modified azimuthal equidistant',
    clarke,
    'azimuthal-equidistant',
    { lat0: dms(9, 32, 48.15), lon0: dms(138, 10, 7.48), x0: 40000, y0: 60000 },
    [dms(138, 11, 34.908), dms(9, 35, 47.493)],
    [42665.9, 65509.82],
    2,
  ],
];

/** J. P. Snyder, "Map Projections: A Working Manual", USGS Professional Paper 1395, appendix A: numerical examples. */
const snyder: Example[] = [
  ['Mercator, sphere', sphere(1), 'mercator', { lon0: -180 }, [-75, 35], [1.8325957, 0.6528366], 7],
  ['Mercator, ellipsoid', clarke, 'mercator', { lon0: -180 }, [-75, 35], [11688673.7, 4139145.6], 1],
  [
    'transverse Mercator, ellipsoid',
    clarke,
    'transverse-mercator',
    { lon0: -75, k0: 0.9996 },
    [-73.5, 40.5],
    [127106.5, 4484124.4],
    1,
  ],
  [
    'cylindrical equal-area, sphere',
    sphere(1),
    'cylindrical-equal-area',
    { lat1: 30, lon0: -75 },
    [80, 35],
    [2.3428242, 0.662309],
    7,
  ],
  [
    'cylindrical equal-area, ellipsoid',
    clarke,
    'cylindrical-equal-area',
    { lat1: 5, lon0: -75 },
    [-78, 5],
    [-332699.8, 554248.5],
    1,
  ],
  [
    'Albers, sphere',
    sphere(1),
    'albers',
    { lat0: 23, lon0: -96, lat1: 29.5, lat2: 45.5 },
    [-75, 35],
    [0.295272, 0.2416774],
    7,
  ],
  [
    'Albers, ellipsoid',
    clarke,
    'albers',
    { lat0: 23, lon0: -96, lat1: 29.5, lat2: 45.5 },
    [-75, 35],
    [1885472.7, 1535925.0],
    1,
  ],
  [
    'Lambert conformal conic, sphere',
    sphere(1),
    'lambert-conformal-conic',
    { lat0: 23, lon0: -96, lat1: 33, lat2: 45 },
    [-75, 35],
    [0.2966785, 0.2462112],
    7,
  ],
  [
    'Lambert conformal conic, ellipsoid',
    clarke,
    'lambert-conformal-conic',
    { lat0: 23, lon0: -96, lat1: 33, lat2: 45 },
    [-75, 35],
    [1894410.9, 1564649.5],
    1,
  ],
  ['polyconic, ellipsoid', clarke, 'polyconic', { lat0: 30, lon0: -96 }, [-75, 40], [1776774.5, 1319657.8], 1],
  [
    'orthographic, sphere',
    sphere(1),
    'orthographic',
    { lat0: 40, lon0: -100 },
    [-110, 30],
    [-0.1503837, -0.1651911],
    7,
  ],
  [
    'stereographic, sphere',
    sphere(1),
    'oblique-stereographic',
    { lat0: 40, lon0: -100 },
    [-75, 30],
    [0.3807224, -0.1263802],
    7,
  ],
  [
    'polar stereographic, ellipsoid',
    international1924,
    'polar-stereographic',
    { lat1: -71, lon0: -100 },
    [150, -75],
    [-1540033.6, -560526.4],
    1,
  ],
  ['gnomonic, sphere', sphere(1), 'gnomonic', { lat0: 40, lon0: -100 }, [-110, 30], [-0.1542826, -0.1694739], 7],
  [
    'Lambert azimuthal, sphere',
    sphere(3),
    'lambert-azimuthal',
    { lat0: 40, lon0: -100 },
    [100, -20],
    [-4.2339303, 4.0257775],
    7,
  ],
  [
    'Lambert azimuthal, ellipsoid',
    clarke,
    'lambert-azimuthal',
    { lat0: 40, lon0: -100 },
    [-110, 30],
    [-965932.1, -1056814.9],
    1,
  ],
  [
    'Lambert azimuthal, polar',
    international1924,
    'lambert-azimuthal',
    { lat0: 90, lon0: -100 },
    [5, 80],
    [1077459.7, 288704.5],
    1,
  ],
  [
    'azimuthal equidistant, sphere',
    sphere(3),
    'azimuthal-equidistant',
    { lat0: 40, lon0: -100 },
    [100, -20],
    [-5.8311398, 5.5444634],
    7,
  ],
  ['Mollweide', sphere(1), 'mollweide', { lon0: -90 }, [-75, -50], [0.1788845, -0.9208758], 7],
  ['sinusoidal, sphere', sphere(1), 'sinusoidal', { lon0: -90 }, [-75, -50], [0.1682814, -0.8726646], 7],
  ['sinusoidal, ellipsoid', clarke, 'sinusoidal', { lon0: -90 }, [-75, -50], [1075471.5, -5540628.0], 1],
  ['Bonne, sphere', sphere(1), 'bonne', { lat1: 40, lon0: -75 }, [-85, 30], [-0.1508418, -0.1661807], 7],
  ['Bonne, ellipsoid', clarke, 'bonne', { lat1: 40, lon0: -75 }, [-85, 30], [-962915.1, -1056065.0], 1],
];

describe('the worked examples of the standards', () => {
  test.each([
    ...guidance.map((e) => ['Guidance Note 7-2', ...e] as const),
    ...snyder.map((e) => ['Snyder', ...e] as const),
  ])('%s, %s', (_source, name, shape, method, parameters, [lon, lat], [x, y], digits, unit = 1) => {
    const crs = makeCrs({ id: name, ellipsoid: shape, method, parameters, unit });
    const out: [number, number] = [0, 0];
    expect(crs.forward(lon, lat, out)).toBe(true);
    // To the last digit printed.
    const within = 10 ** -digits;
    expect([Math.abs(out[0] - x) < within, Math.abs(out[1] - y) < within, ...out]).toEqual([true, true, ...out]);
  });
});

describe('systems', () => {
  test.each(systems.map((system) => [system.code, system] as const))(
    '%s by its code, its well-known texts and its PROJJSON is the same to a micrometre, and comes back',
    async (code, { wkt1, wkt2, projjson }) => {
      const sources = [code, wkt2, projjson, ...(wkt1 === undefined ? [] : [wkt1])].map((source) => getCrs(source));
      const [west, south, east, north] = (await openRegister()).areaOf(code) ?? [-180, -85, 180, 85];
      const width = (east < west ? east + 360 : east) - west;
      const random = randomFrom(code.length + Number(code.replace(/\D/g, '')));
      const [first, out]: [[number, number], [number, number]] = [
        [0, 0],
        [0, 0],
      ];
      for (let k = 0; k < 40; k++) {
        const [lon, lat] = [west + width * random(), south + (north - south) * random()];
        expect([lon, lat, sources[0].forward(lon, lat, first)]).toEqual([lon, lat, true]);
        for (const crs of sources) {
          expect(crs.forward(lon, lat, out)).toBe(true);
          expect(Math.hypot(out[0] - first[0], out[1] - first[1])).toBeLessThan(1e-6);
          expect(crs.inverse(out[0], out[1], out)).toBe(true);
          const turn = Math.abs(((out[0] - lon + 540) % 360) - 180);
          expect(Math.hypot(turn * Math.cos((lat * Math.PI) / 180), out[1] - lat)).toBeLessThan(1e-9);
        }
      }
      const [, second] = sources;
      const axes = ({ definition: { axes, method } }: typeof second) =>
        axes ?? (method ? ['east', 'north'] : ['north', 'east']);
      expect(axes(sources[0])).toEqual(axes(second));
      // The datum's own geographic system is there too.
      const base = (projjson as { base_crs?: { id?: { authority: string; code: number } } }).base_crs?.id;
      if (base) expect(findCrs(`${base.authority}:${base.code}`)?.isGeographic).toBe(true);
    },
  );

  test('codes are understood however they are written; others are refused with what is near', () => {
    for (const written of [
      'EPSG:32625',
      'epsg:32625',
      '32625',
      'urn:ogc:def:crs:EPSG::32625',
      'http://www.opengis.net/def/crs/EPSG/0/32625',
    ])
      expect(getCrs(written).id).toBe('EPSG:32625');
    expect(getCrs('CRS84').isGeographic).toBe(true);
    const fault = (source: string | object) => {
      try {
        getCrs(source);
        return undefined;
      } catch (error) {
        expect(error).toBeInstanceOf(Fault);
        return error as Fault;
      }
    };
    expect(fault('EPSG:38571')).toMatchObject({
      code: 'crs.unknown',
      hint: expect.stringContaining('Is "EPSG:3857') as unknown as string,
    });
    expect(fault('PROJCS["x",GEOGCS["y",DATUM["d",SPHEROID["s",6378137,298')).toMatchObject({
      code: 'crs.wkt',
      message: expect.stringContaining('truncated') as unknown as string,
    });
    expect(fault('LOCAL_CS["x"]')).toMatchObject({ code: 'crs.wkt' });
    expect(fault('{"type": "ProjectedCRS"')).toMatchObject({ code: 'crs.wkt' });
    const { wkt2 } = systems[2];
    expect(fault(wkt2.replace(/METHOD\["[^"]*",ID\["EPSG",\d+\]\]/, 'METHOD["Mercater"]'))).toMatchObject({
      code: 'crs.method',
      hint: 'Is "mercator" meant?',
    });
    expect(() =>
      makeCrs({ id: 'cone', ellipsoid: wgs84, method: 'albers', parameters: { lat1: 30, lat2: -30 } }),
    ).toThrow(/cylinder/);
    expect(() => makeCrs({ id: 'far', ellipsoid: wgs84, method: 'bonne', parameters: { lat1: 91 } })).toThrow(
      /lat1 of far is 91/,
    );
    expect(() => ellipsoid(-1, 300)).toThrow(/cannot be/);
  });

  test('a system of one’s own joins the registry, and every code of it works', () => {
    const definition: CrsDefinition = {
      id: 'reach:local',
      ellipsoid: wgs84,
      method: 'transverse-mercator',
      parameters: { lat0: 44.6, lon0: -31.2 },
    };
    expect(addCrs(definition)).toBe(getCrs('REACH:LOCAL'));
    const out: [number, number] = [0, 0];
    for (const code of crsCodes()) {
      const { parameters = {}, area } = getCrs(code).definition;
      const lat = area ? (area[1] + area[3]) / 2 : (parameters.lat1 ?? parameters.lat0 ?? 10) * 0.9;
      const lon = (parameters.lon0 ?? 0) + 1;
      expect([code, getCrs(code).forward(lon, lat, out)]).toEqual([code, true]);
    }
  });
});

describe('datums', () => {
  test('seven parameters: the worked example of Guidance Note 7-2, section 4.3.3, and a way back that ends where it began', () => {
    // Position vector: WGS 72 to WGS 84, 0, 0, 4.5 m, 0, 0, 0.554", 0.219 ppm; geocentric 3657660.66, 255768.55, 5201382.11.
    const wgs72: CrsDefinition = {
      id: 'wgs72',
      ellipsoid: ellipsoid(6378135, 298.26),
      toWgs84: [0, 0, 4.5, 0, 0, 0.554, 0.219],
    };
    const to84 = transformer(makeCrs(wgs72), getCrs('EPSG:4326'));
    const out: [number, number] = [0, 0];
    // The example goes on to 3657660.78, 255778.43, 5201387.75, which is 55° 00' 00.090" N (55° 00' 00" before it), 4° 00' 00.554" E.
    expect(to84(4, 55, out)).toBe(true);
    expect(out[0]).toBeCloseTo(4 + 0.554 / 3600, 8);
    expect(Math.abs(out[1] - (55 + 0.09 / 3600))).toBeLessThan(0.002 / 3600 + 1e-7);
    const back = transformer(getCrs('EPSG:4326'), makeCrs(wgs72));
    expect(back(out[0], out[1], out)).toBe(true);
    expect(Math.hypot(out[0] - 4, out[1] - 55)).toBeLessThan(2e-11);
  });

  test('systems on different datums meet within the accuracy of their transformations', () => {
    // The same ground in two systems of one country, 2 cm to 1 m apart by their published relation: LV03 and LV95.
    const out: [number, number] = [0, 0];
    expect(transformer(getCrs('EPSG:21781'), getCrs('EPSG:2056'))(600000, 200000, out)).toBe(true);
    expect(Math.hypot(out[0] - 2600000, out[1] - 1200000)).toBeLessThan(1);
    // A shift drops the height that it brings about, so that a way there and back may end a millimeter off.
    for (const [code, lon, lat] of [
      ['EPSG:27700', -1.5, 53],
      ['EPSG:31467', 9.5, 50],
      ['EPSG:5514', 15, 50],
      ['EPSG:28992', 5.3, 52.2],
    ] as const) {
      const place: [number, number] = [0, 0];
      expect(getCrs(code).forward(lon, lat, place)).toBe(true);
      const [x, y] = place;
      expect(transformer(getCrs(code), getCrs('EPSG:3857'))(x, y, out)).toBe(true);
      expect(transformer(getCrs('EPSG:3857'), getCrs(code))(out[0], out[1], out)).toBe(true);
      expect(Math.hypot(out[0] - x, out[1] - y)).toBeLessThan(2e-3);
    }
  });
});

describe('domains', () => {
  const parameters: Partial<Record<MethodName, ProjectionParameters>> = {
    'lambert-conformal-conic': { lat0: 40, lat1: 33, lat2: 45 },
    albers: { lat0: 23, lat1: 29.5, lat2: 45.5 },
    bonne: { lat1: 45 },
    'lambert-azimuthal': { lat0: 30 },
    'azimuthal-equidistant': { lat0: 40 },
    'oblique-stereographic': { lat0: 44 },
    gnomonic: { lat0: 40 },
    orthographic: { lat0: 40 },
    'polar-stereographic': { lat0: 90 },
    'hotine-a': { lat0: 36, azimuth: 40 },
    'hotine-b': { lat0: 36, azimuth: 40 },
    krovak: { lat0: 49.5, axis: 30.2881397527778, pseudo: 78.5, k0: 0.9999 },
  };
  test.each(Object.keys(methods) as MethodName[])(
    '%s: what is inside comes back to a billionth of a degree, what is outside is refused, nothing is NaN',
    (method) => {
      const crs = makeCrs({ id: method, ellipsoid: wgs84, method, parameters: parameters[method] ?? {} });
      const out: [number, number] = [0, 0];
      let inside = 0;
      fc.assert(
        fc.property(
          fc.double({ min: -179.99, max: 179.99, noNaN: true }),
          fc.double({ min: -89.9, max: 89.9, noNaN: true }),
          (lon, lat) => {
            out[0] = out[1] = 12345;
            if (!crs.forward(lon, lat, out)) {
              expect(out).toEqual([12345, 12345]);
              return;
            }
            inside++;
            const [x, y] = out;
            expect(Number.isFinite(x) && Number.isFinite(y)).toBe(true);
            expect([lon, lat, crs.inverse(x, y, out)]).toEqual([lon, lat, true]);
            // On the ground: longitudes close to a pole count for less.
            const away = Math.hypot((out[0] - lon) * Math.cos((lat * Math.PI) / 180), out[1] - lat);
            expect([lon, lat, away < 1e-9]).toEqual([lon, lat, true]);
          },
        ),
        { numRuns: 400, seed: 5 },
      );
      expect(inside).toBeGreaterThan(20);
      for (const [x, y] of [
        [1e9, 0],
        [0, 1e9],
        [-3e7, 3e7],
        [NaN, 0],
      ]) {
        out[0] = out[1] = 0;
        crs.inverse(x, y, out);
        expect(out.every(Number.isFinite)).toBe(true);
      }
      expect(crs.forward(0, 90.1, out)).toBe(false);
      expect(crs.forward(NaN, 0, out)).toBe(false);
    },
  );

  test('conformal stays conformal, equal-area keeps areas', () => {
    // A tiny square of 1e-5 degrees, its sides in meters on the ellipsoid by the geodesic.
    const geodesic = geodesicOn(wgs84);
    const h = 1e-4;
    const jacobian = (method: MethodName, lon: number, lat: number) => {
      const crs = makeCrs({ id: method, ellipsoid: wgs84, method, parameters: parameters[method] ?? {} });
      const at = [0, 1, 2].map((k) => {
        const out: [number, number] = [0, 0];
        expect(crs.forward(lon + (k === 1 ? h : 0), lat + (k === 2 ? h : 0), out)).toBe(true);
        return out;
      });
      const [east, north] = [
        geodesic.inverse(lon, lat, lon + h, lat).length,
        geodesic.inverse(lon, lat, lon, lat + h).length,
      ];
      return [
        [(at[1][0] - at[0][0]) / east, (at[1][1] - at[0][1]) / east],
        [(at[2][0] - at[0][0]) / north, (at[2][1] - at[0][1]) / north],
      ];
    };
    for (const method of [
      'mercator',
      'transverse-mercator',
      'lambert-conformal-conic',
      'oblique-stereographic',
      'hotine-b',
      'krovak',
      'polar-stereographic',
    ] as const) {
      const [[a, b], [c, d]] = jacobian(method, 8, 48);
      expect([method, Math.abs(a - d) < 1e-4, Math.abs(b + c) < 1e-4]).toEqual([method, true, true]);
    }
    for (const method of [
      'albers',
      'lambert-azimuthal',
      'cylindrical-equal-area',
      'equal-earth',
      'bonne',
      'sinusoidal',
    ] as const) {
      const [[a, b], [c, d]] = jacobian(method, 20, 48);
      expect([method, Math.abs(a * d - b * c - 1) < 1e-4]).toEqual([method, true]);
    }
  });
});

/** Nodes and weights of Gauss-Legendre quadrature of 16 points on −1 … 1, by Newton's method on the Legendre polynomial. */
const gauss = Array.from({ length: 16 }, (_, i): [number, number] => {
  let x = Math.cos((Math.PI * (i + 0.75)) / 16.5);
  let slope = 1;
  for (let step = 0; step < 50; step++) {
    let [p, before] = [1, 0];
    for (let k = 1; k <= 16; k++) [p, before] = [((2 * k - 1) * x * p - (k - 1) * before) / k, p];
    slope = (16 * (x * p - before)) / (x * x - 1);
    x -= p / slope;
  }
  return [x, 2 / ((1 - x * x) * slope * slope)];
});
const integral = (f: (σ: number) => number, from: number, to: number, piece = 0.4) => {
  const pieces = Math.max(1, Math.ceil(Math.abs(to - from) / piece));
  const half = (to - from) / pieces / 2;
  let sum = 0;
  for (let k = 0; k < pieces; k++) for (const [x, w] of gauss) sum += w * f(from + half * (2 * k + 1 + x));
  return sum * half;
};

/**
 * A second formula for geodesics: equations (7), (8) of Karney (2013) as integrals, without his series; and the area down to the equator as
 * the integral of the authalic latitude over the longitude.
 */
function byQuadrature(lat1: number, azimuth: number, length: number) {
  const { a, f, b, e2 } = wgs84;
  const e = Math.sqrt(e2);
  const rad = Math.PI / 180;
  const β1 = Math.atan((1 - f) * Math.tan(lat1 * rad));
  const α1 = azimuth * rad;
  const [sinα0, cosα0] = [Math.sin(α1) * Math.cos(β1), Math.hypot(Math.cos(α1), Math.sin(α1) * Math.sin(β1))];
  const σ1 = Math.atan2(Math.sin(β1), Math.cos(α1) * Math.cos(β1));
  const root = (σ: number) => Math.sqrt(1 + (e2 / (1 - e2)) * (cosα0 * Math.sin(σ)) ** 2);
  let σ2 = σ1 + length / a;
  for (let i = 0; i < 12; i++) σ2 -= (b * integral(root, σ1, σ2) - length) / (b * root(σ2));
  // On the sphere the longitude has a closed form, which stays exact where a line passes close to a pole.
  const ω = (σ: number) => Math.atan2(sinα0 * Math.sin(σ), Math.cos(σ));
  const ω12 = ω(σ2) - ω(σ1);
  const turns = Math.round(((σ2 - σ1) * Math.sign(sinα0 || 1) - ω12) / (2 * Math.PI));
  const less = (σ: number) => (f * sinα0 * (2 - f)) / (1 + (1 - f) * root(σ));
  const turn = (σ: number) => sinα0 / (1 - (cosα0 * Math.sin(σ)) ** 2) - less(σ);
  const areaTo = (σ: number) => {
    const sinβ = cosα0 * Math.sin(σ);
    const sinφ = Math.sin(Math.atan(sinβ / Math.sqrt(1 - sinβ ** 2) / (1 - f)));
    return (b ** 2 / 2) * (sinφ / (1 - e2 * sinφ ** 2) + Math.atanh(e * sinφ) / e);
  };
  return {
    lat: Math.atan((cosα0 * Math.sin(σ2)) / Math.hypot(cosα0 * Math.cos(σ2), sinα0) / (1 - f)) / rad,
    turned: (ω12 + 2 * Math.PI * turns - integral(less, σ1, σ2)) / rad,
    azimuth: Math.atan2(sinα0, cosα0 * Math.cos(σ2)) / rad,
    area: integral((σ) => areaTo(σ) * turn(σ), σ1, σ2, 0.03),
  };
}

describe('geodesics', () => {
  const geodesic = geodesicOn(wgs84);
  const apart = (one: number, other: number) => Math.abs(((((one - other) % 360) + 540) % 360) - 180);

  test('the worked examples of the paper (tables 2 to 4)', () => {
    const direct = geodesic.direct(0, 40, 30, 10_000_000);
    expect([direct.lat, direct.lon, direct.onwards]).toEqual([
      expect.closeTo(41.79331020506, 10),
      expect.closeTo(137.84490004377, 10),
      expect.closeTo(149.09016931807, 10),
    ]);
    const short = geodesic.inverse(0, -30.12345, 0.00005, -30.12344);
    expect([short.length, short.azimuth]).toEqual([expect.closeTo(4.944208, 6), expect.closeTo(77.0435335, 6)]);
    const opposite = geodesic.inverse(0, -30, 179.8, 29.9);
    expect([opposite.length, opposite.azimuth, opposite.onwards]).toEqual([
      expect.closeTo(19989832.82761, 5),
      expect.closeTo(161.890524736, 8),
      expect.closeTo(18.090737246, 8),
    ]);
  });

  test('lines of every length agree with quadrature to 20 nm, both ways', () => {
    const random = randomFrom(17);
    for (let n = 0; n < 400; n++) {
      const lat = n % 9 ? 178 * random() - 89 : [0, 45, -60][n % 3];
      const azimuth = n % 7 ? 360 * random() - 180 : [0, 90, 180][n % 3];
      const length = [3, 5, 300, 1e5, 5e6, 1.5e7, 1.99e7][n % 7] * (0.7 + 0.3 * random());
      const end = byQuadrature(lat, azimuth, length);
      const found = geodesic.direct(12, lat, azimuth, length);
      const meters = 111320;
      expect(Math.abs(found.lat - end.lat) * meters).toBeLessThan(2e-8);
      const narrow = Math.cos((end.lat * Math.PI) / 180);
      expect(apart(found.lon, 12 + end.turned) * meters * narrow).toBeLessThan(2e-8);
      const line = geodesic.inverse(0, lat, end.turned, end.lat);
      expect(Math.abs(line.length - length)).toBeLessThan(2e-8);
      // A wrong azimuth would lead as far astray as it is wrong; ends near the opposite place are where any azimuth leads.
      if (length < 1.6e7) expect(apart(line.azimuth, azimuth) * (Math.PI / 180) * length).toBeLessThan(3e-7);
    }
  });

  test('along the equator and the meridians, to opposite places', () => {
    expect(geodesic.inverse(10, 20, 10, 20).length).toBe(0);
    const { a, f } = wgs84;
    for (const lon of [1e-9, 0.3, 90, 179])
      expect(geodesic.inverse(0, 0, lon, 0).length).toBeCloseTo((a * lon * Math.PI) / 180, 7);
    const quarter = byQuadrature(0, 0, 1e7);
    const rest = geodesic.inverse(0, quarter.lat, 0, 90).length;
    expect(geodesic.inverse(0, 0, 0, 90).length).toBeCloseTo(1e7 + rest, 7);
    // Between opposite places the meridian is the shortest; beyond a · π (1 − f) no line along the equator is.
    expect(geodesic.inverse(0, 0, 180, 0).length).toBeCloseTo(2 * (1e7 + rest), 6);
    expect(geodesic.inverse(0, 0, 179.6, 0).length).toBeLessThan((a * 179.6 * Math.PI) / 180);
    expect(geodesic.inverse(0, 0, 180 * (1 - f) - 1e-6, 0).azimuth).toBeCloseTo(90, 9);
    for (const [lon, lat] of [
      [179.5, 0.5],
      [179.9, 0.1],
      [180 - 1e-9, 1e-9],
      [179.7, -0.0001],
    ]) {
      const line = geodesic.inverse(0, -lat * 0.99, lon, lat);
      const end = byQuadrature(-lat * 0.99, line.azimuth, line.length);
      expect(apart(end.turned, lon) * 111320).toBeLessThan(3e-8);
      expect(Math.abs(end.lat - lat) * 111320).toBeLessThan(3e-8);
    }
  });

  test('areas agree with quadrature along their sides, and are whole when cut in two', () => {
    const random = randomFrom(23);
    for (let n = 0; n < 40; n++) {
      const size = [0.001, 0.5, 20, 70][n % 4];
      const [lon, lat] = [360 * random() - 180, (85 - size) * (2 * random() - 1)];
      const count = 3 + (n % 5);
      const ring = Array.from({ length: count }, (_, i): [number, number] => {
        const angle = (2 * Math.PI * (i + 0.3 * random())) / count;
        return [lon + (size * Math.cos(angle)) / Math.cos((lat * Math.PI) / 180) / 1.2, lat + size * Math.sin(angle)];
      });
      const below = ring.reduce((sum, [x, y], i) => {
        const [toX, toY] = ring[(i + 1) % ring.length];
        const { azimuth, length } = geodesic.inverse(x, y, toX, toY);
        return sum + byQuadrature(y, azimuth, length).area;
      }, 0);
      const area = geodesic.area(ring);
      expect(Math.abs(area + below)).toBeLessThan(0.2 + 1e-13 * Math.abs(area));
      const k = Math.floor(ring.length / 2);
      const parts = [ring.slice(0, k + 1), [...ring.slice(k), ring[0]]].map((part) => geodesic.area(part));
      expect(Math.abs(parts[0] + parts[1] - area)).toBeLessThan(1e-3 + 1e-14 * Math.abs(area));
      expect(Math.abs(geodesic.area([...ring].reverse()) + area)).toBeLessThan(1e-3 + 1e-14 * Math.abs(area));
    }
    // The octant, and a ring round the pole.
    const octant = geodesic.area([
      [0, 0],
      [90, 0],
      [0, 90],
    ]);
    expect(octant * 8).toBeCloseTo(510065621724088.44, -1);
    expect(
      geodesic.area([
        [0, 0],
        [120, 0],
        [-120, 0],
      ]) * 2,
    ).toBeCloseTo(510065621724088.44, -1);
  });
});

describe('guards', () => {
  test('parallels of a cone that are nearly one give the cone of one', () => {
    for (const method of ['lambert-conformal-conic', 'albers'] as const)
      for (const apart of [1e-13, 1e-10, 1e-8, 1e-6]) {
        const at = (lat2: number) => {
          const out: [number, number] = [0, 0];
          makeCrs({ id: 'cone', ellipsoid: wgs84, method, parameters: { lat0: 45, lat1: 45, lat2 } }).forward(
            20,
            60,
            out,
          );
          return out;
        };
        const [[x, y], [u, v]] = [at(45), at(45 + apart)];
        // What the second parallel moves by itself, and a millimeter.
        expect([method, apart, Math.hypot(x - u, y - v) < 1e-3 + apart * 1e6]).toEqual([method, apart, true]);
      }
  });
});

describe('coordinates never lie', () => {
  const sphere = 'GEOGCS["s",DATUM["s",SPHEROID["s",6371000,0]],PRIMEM["g",0],UNIT["degree",0.0174532925199433]]';
  const made = (projection: string, unit: number | string = 1, geographic = sphere) =>
    makeCrs(readCrs(`PROJCS["x",${geographic},PROJECTION["${projection.replace('|', '"],PARAMETER["').replaceAll('=', '",').replaceAll(';', '],PARAMETER["')}],UNIT["metre",${unit}]]`)); // prettier-ignore
  const at = (crs: ReturnType<typeof makeCrs>, lon: number, lat: number) => {
    const out: [number, number] = [NaN, NaN];
    return crs.forward(lon, lat, out) ? out : undefined;
  };

  test('northings of an equidistant cylindrical system count from its latitude of origin', () => {
    const y = at(made('Equirectangular|latitude_of_origin=40;central_meridian=0'), 10, 50)![1];
    expect(y).toBeCloseTo((6371000 * 10 * Math.PI) / 180, 3);
  });

  test('Stereographic is the form of the ellipsoid, and not that by way of two projections', () => {
    const ellipsoidal = sphere.replace('6371000,0', '6377397.155,299.1528128');
    const parameters = 'latitude_of_origin=52.156;central_meridian=5.387;scale_factor=0.9999';
    const [one, other] = ['Stereographic', 'Oblique_Stereographic'].map((name) =>
      at(made(`${name}|${parameters}`, 1, ellipsoidal), 7, 53.5)!,
    );
    const apart = Math.hypot(one[0] - other[0], one[1] - other[1]);
    expect(apart).toBeGreaterThan(0.05);
    expect(apart).toBeLessThan(50);
    const about = at(made('Stereographic|latitude_of_origin=90;central_meridian=0', 1, ellipsoidal), 20, 70)!;
    const polar = makeCrs({ id: 'p', ellipsoid: bessel1841, method: 'polar-stereographic', parameters: { lat0: 90 } });
    expect(about[0]).toBeCloseTo(at(polar, 20, 70)![0], 1);
  });

  test('Cassini on the sphere is exact, wherever', () => {
    const crs = made('Cassini_Soldner|latitude_of_origin=0;central_meridian=0');
    const [x, y] = at(crs, 30, 40)!;
    expect(x).toBeCloseTo(2504222.2904, 3);
    expect(y).toBeCloseTo(4903175.064, 3);
    const back: [number, number] = [0, 0];
    for (const [lon, lat] of [
      [30, 40],
      [-120, 60],
      [89, -20],
    ]) {
      expect(crs.inverse(...at(crs, lon, lat)!, back)).toBe(true);
      expect(back[0]).toBeCloseTo(lon, 9);
      expect(back[1]).toBeCloseTo(lat, 9);
    }
  });

  test.each(['0', '-1', '1e400', '1e-300'])('a unit of %s is refused', (unit) =>
    expect(() => made('Equirectangular|central_meridian=0', unit)).toThrow(Fault),
  );

  test('forward never says true with a number that is not finite', () => {
    const geographic = getCrs('EPSG:4326');
    for (const [lon, lat] of [
      [NaN, 0],
      [0, NaN],
      [Infinity, 0],
      [0, 91],
    ])
      expect(at(geographic, lon, lat)).toBeUndefined();
    for (const axis of [0, -1, NaN, Infinity])
      expect(() => makeCrs({ id: 'x', ellipsoid: ellipsoid(axis, 0), method: 'mercator' })).toThrow(Fault);
  });
});
