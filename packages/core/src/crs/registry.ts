import { Fault } from '../base/fault.js';
import { nearestSpelling } from '../base/spelling.js';
import { makeCrs, type AxisDirection, type Crs, type CrsDefinition, type ProjectionParameters } from './crs.js';
import type { Helmert } from './datum.js';
import { ellipsoids, type Ellipsoid } from './ellipsoid.js';
import type { MethodName } from './methods/index.js';
import { readCrs } from './wkt.js';

/** A datum: its ellipsoid, and how to get to WGS 84 where it is further off than a meter or so. */
interface Datum {
  readonly ellipsoid: Ellipsoid;
  readonly toWgs84?: Helmert;
}

const { wgs84, grs80, airy1830, airyModified, bessel1841, international1924 } = ellipsoids;
const modern: Datum = { ellipsoid: grs80 };
const world: Datum = { ellipsoid: wgs84 };

/**
 * Geographic systems by their EPSG codes. The transformations are those of the EPSG dataset for the whole of the area, as position
 * vectors; they are good to between one and five meters.
 */
const datums: Readonly<Record<number, Datum>> = {
  4326: world,
  4258: modern,
  4269: modern,
  4171: modern,
  4167: modern,
  4283: modern,
  4619: modern,
  4674: modern,
  4737: modern,
  6668: modern,
  7844: modern,
  9702: modern,
  4757: world,
  4148: world,
  4277: { ellipsoid: airy1830, toWgs84: [446.448, -125.157, 542.06, 0.15, 0.247, 0.842, -20.489] },
  4299: { ellipsoid: airyModified, toWgs84: [482.53, -130.596, 564.557, -1.042, -0.214, -0.631, 8.15] },
  4289: { ellipsoid: bessel1841, toWgs84: [565.2369, 50.0087, 465.658, -0.406857, 0.350733, -1.870347, 4.0812] },
  4313: {
    ellipsoid: international1924,
    toWgs84: [-106.8686, 52.2978, -103.7239, 0.3366, -0.457, 1.8422, -1.2747],
  },
  4149: { ellipsoid: bessel1841, toWgs84: [674.4, 15.1, 405.3, 0, 0, 0, 0] },
  4150: { ellipsoid: bessel1841, toWgs84: [674.374, 15.056, 405.346, 0, 0, 0, 0] },
  4312: { ellipsoid: bessel1841, toWgs84: [577.326, 90.129, 463.919, 5.137, 1.474, 5.297, 2.4232] },
  4314: { ellipsoid: bessel1841, toWgs84: [598.1, 73.7, 418.2, 0.202, 0.045, -2.455, 6.7] },
  4156: { ellipsoid: bessel1841, toWgs84: [570.8, 85.7, 462.8, 4.998, 1.587, 5.261, 3.56] },
  4141: { ellipsoid: grs80, toWgs84: [-48, 55, 52, 0, 0, 0, 0] },
  4611: {
    ellipsoid: international1924,
    toWgs84: [-162.619, -276.959, -161.764, -0.067753, 2.243648, 1.158828, -1.094246],
  },
};

type Row = readonly [
  datum: number,
  method: MethodName,
  parameters: ProjectionParameters,
  more?: {
    readonly unit?: number;
    readonly axes?: readonly [AxisDirection, AxisDirection];
    readonly northFirst?: boolean;
  },
];

const swapped = { axes: ['north', 'east'] as const };
const polarSouth = { axes: ['north', 'north'] as const };
const polarNorth = { axes: ['south', 'south'] as const };
const usFoot = { unit: 1200 / 3937 };

/** Projected systems with EPSG codes that belong to no family. */
const rows: Readonly<Record<number, Row>> = {
  3857: [4326, 'pseudo-mercator', {}],
  3395: [4326, 'mercator', {}],
  5641: [4674, 'mercator', { lat1: -2, lon0: -43, x0: 5e6, y0: 1e7 }],
  27700: [4277, 'transverse-mercator', { lat0: 49, lon0: -2, k0: 0.9996012717, x0: 400000, y0: -100000 }],
  29902: [4299, 'transverse-mercator', { lat0: 53.5, lon0: -8, k0: 1.000035, x0: 200000, y0: 250000 }],
  2154: [4171, 'lambert-conformal-conic', { lat0: 46.5, lon0: 3, lat1: 49, lat2: 44, x0: 700000, y0: 6600000 }],
  3034: [4258, 'lambert-conformal-conic', { lat0: 52, lon0: 10, lat1: 35, lat2: 65, x0: 4e6, y0: 2800000 }, swapped],
  3035: [4258, 'lambert-azimuthal', { lat0: 52, lon0: 10, x0: 4321000, y0: 3210000 }, swapped],
  5070: [4269, 'albers', { lat0: 23, lon0: -96, lat1: 29.5, lat2: 45.5 }],
  3338: [4269, 'albers', { lat0: 50, lon0: -154, lat1: 55, lat2: 65 }],
  3347: [
    4269,
    'lambert-conformal-conic',
    { lat0: 63.390675, lon0: -91.8666666666667, lat1: 49, lat2: 77, x0: 6200000, y0: 3e6 },
  ],
  3978: [4269, 'lambert-conformal-conic', { lat0: 49, lon0: -95, lat1: 49, lat2: 77 }],
  2263: [
    4269,
    'lambert-conformal-conic',
    {
      lat0: 40 + 10 / 60,
      lon0: -74,
      lat1: 41 + 2 / 60,
      lat2: 40 + 40 / 60,
      x0: 984250 * usFoot.unit,
    },
    usFoot,
  ],
  3031: [4326, 'polar-stereographic', { lat1: -71 }, polarSouth],
  3032: [4326, 'polar-stereographic', { lat1: -71, lon0: 70, x0: 6e6, y0: 6e6 }, polarSouth],
  3976: [4326, 'polar-stereographic', { lat1: -70 }, polarSouth],
  3413: [4326, 'polar-stereographic', { lat1: 70, lon0: -45 }, polarNorth],
  3995: [4326, 'polar-stereographic', { lat1: 71 }, polarNorth],
  3996: [4326, 'polar-stereographic', { lat1: 75 }, polarNorth],
  5041: [4326, 'polar-stereographic', { lat0: 90, k0: 0.994, x0: 2e6, y0: 2e6 }, polarNorth],
  5042: [4326, 'polar-stereographic', { lat0: -90, k0: 0.994, x0: 2e6, y0: 2e6 }, polarSouth],
  32661: [4326, 'polar-stereographic', { lat0: 90, k0: 0.994, x0: 2e6, y0: 2e6 }, { ...polarNorth, northFirst: true }],
  32761: [4326, 'polar-stereographic', { lat0: -90, k0: 0.994, x0: 2e6, y0: 2e6 }, { ...polarSouth, northFirst: true }],
  6931: [4326, 'lambert-azimuthal', { lat0: 90 }, polarNorth],
  6932: [4326, 'lambert-azimuthal', { lat0: -90 }, polarSouth],
  6933: [4326, 'cylindrical-equal-area', { lat1: 30 }],
  8857: [4326, 'equal-earth', {}],
  8858: [4326, 'equal-earth', { lon0: -90 }],
  8859: [4326, 'equal-earth', { lon0: 150 }],
  2193: [4167, 'transverse-mercator', { lon0: 173, k0: 0.9996, x0: 1600000, y0: 1e7 }, swapped],
  28992: [
    4289,
    'oblique-stereographic',
    { lat0: 52.1561605555556, lon0: 5.38763888888889, k0: 0.9999079, x0: 155000, y0: 463000 },
  ],
  31370: [
    4313,
    'lambert-conformal-conic',
    { lat0: 90, lon0: 4.36748666666667, lat1: 51.1666672333333, lat2: 49.8333339, x0: 150000.013, y0: 5400088.438 },
  ],
  21781: [4149, 'hotine-b', { lat0: 46.9524055555556, lon0: 7.43958333333333, azimuth: 90, x0: 600000, y0: 200000 }],
  2056: [4150, 'hotine-b', { lat0: 46.9524055555556, lon0: 7.43958333333333, azimuth: 90, x0: 2600000, y0: 1200000 }],
  31287: [
    4312,
    'lambert-conformal-conic',
    { lat0: 47.5, lon0: 13 + 1 / 3, lat1: 49, lat2: 46, x0: 400000, y0: 400000 },
    swapped,
  ],
  3006: [4619, 'transverse-mercator', { lon0: 15, k0: 0.9996, x0: 500000 }, swapped],
  3067: [4258, 'transverse-mercator', { lon0: 27, k0: 0.9996, x0: 500000 }],
  2180: [9702, 'transverse-mercator', { lon0: 19, k0: 0.9993, x0: 500000, y0: -5300000 }, swapped],
  5514: [4156, 'krovak', { lat0: 49.5, lon0: 24.8333333333333, axis: 30.2881397527778, pseudo: 78.5, k0: 0.9999 }],
  3112: [4283, 'lambert-conformal-conic', { lat0: 0, lon0: 134, lat1: -18, lat2: -36 }],
  3577: [4283, 'albers', { lat0: 0, lon0: 132, lat1: -18, lat2: -36 }],
  2039: [
    4141,
    'transverse-mercator',
    { lat0: 31.7343936111111, lon0: 35.2045169444444, k0: 1.0000067, x0: 219529.584, y0: 626907.39 },
  ],
  5880: [4674, 'polyconic', { lon0: -54, x0: 5e6, y0: 1e7 }],
  2326: [
    4611,
    'transverse-mercator',
    { lat0: 22.3121333333333, lon0: 114.178555555556, x0: 836694.05, y0: 819069.8 },
    swapped,
  ],
  6677: [6668, 'transverse-mercator', { lat0: 36, lon0: 139 + 5 / 6, k0: 0.9999 }, swapped],
  5179: [4737, 'transverse-mercator', { lat0: 38, lon0: 127.5, k0: 0.9996, x0: 1e6, y0: 2e6 }, swapped],
  3414: [
    4757,
    'transverse-mercator',
    { lat0: 1 + 22 / 60, lon0: 103 + 50 / 60, x0: 28001.642, y0: 38744.572 },
    swapped,
  ],
};

/** Systems of the other common authority. */
const others: Readonly<Record<string, Row>> = {
  'ESRI:54009': [4326, 'mollweide', {}],
  'ESRI:54030': [4326, 'robinson', {}],
  'ESRI:54008': [4326, 'sinusoidal', {}],
  'ESRI:54012': [4326, 'eckert-4', {}],
  'ESRI:54042': [4326, 'winkel-tripel', { lat1: 50.467 }],
  'ESRI:54032': [4326, 'azimuthal-equidistant', {}],
  'ESRI:102008': [4269, 'albers', { lat0: 40, lon0: -96, lat1: 20, lat2: 60 }],
  'ESRI:102003': [4269, 'albers', { lat0: 37.5, lon0: -96, lat1: 29.5, lat2: 45.5 }],
  'ESRI:102025': [4326, 'albers', { lat0: 30, lon0: 95, lat1: 15, lat2: 65 }],
};

const utm = (datum: number, zone: number, south = false): Row => [
  datum,
  'transverse-mercator',
  { lon0: 6 * zone - 183, k0: 0.9996, x0: 500000, ...(south ? { y0: 1e7 } : {}) },
];

/** Families of systems, each a run of codes. */
function familyOf(code: number): Row | undefined {
  const within = (first: number, last: number) => code >= first && code <= last;
  if (within(32601, 32660)) return utm(4326, code - 32600);
  if (within(32701, 32760)) return utm(4326, code - 32700, true);
  if (within(25828, 25838)) return utm(4258, code - 25800);
  if (within(26901, 26923)) return utm(4269, code - 26900);
  if (within(28346, 28359)) return utm(4283, code - 28300, true);
  if (within(7846, 7859)) return utm(7844, code - 7800, true);
  if (within(31965, 31976)) return utm(4674, code - 31954);
  if (within(31977, 31985)) return utm(4674, code - 31960, true);
  if (within(31466, 31469)) {
    const zone = code - 31464;
    return [4314, 'transverse-mercator', { lon0: 3 * zone, x0: zone * 1e6 + 500000 }, swapped];
  }
  if (within(3571, 3576)) {
    const lon0 = [180, -150, -100, -40, 10, 90][code - 3571];
    return [4326, 'lambert-azimuthal', { lat0: 90, lon0 }, polarNorth];
  }
  if (within(2046, 2055))
    return [4148, 'transverse-mercator-south', { lon0: 15 + 2 * (code - 2046) }, { axes: ['west', 'south'] }];
  return undefined;
}

const made = new Map<string, Crs>();
const own = new Map<string, CrsDefinition>();

function define(id: string): CrsDefinition | undefined {
  const [authority, code] = id.split(':');
  if (id === 'OGC:CRS84') return { id, ...world, datum: 'EPSG:4326', axes: ['east', 'north'] };
  const row = authority === 'EPSG' ? (rows[Number(code)] ?? familyOf(Number(code))) : others[id];
  if (row) {
    const [datum, method, parameters, more] = row;
    return { id, ...datums[datum], datum: `EPSG:${datum}`, method, parameters, ...more };
  }
  const datum = authority === 'EPSG' ? datums[Number(code)] : undefined;
  return datum && { id, ...datum, datum: id };
}

/**
 * `EPSG:3857` in any of the ways in which codes are written: with small letters, as a URN (also that of the years before the name space was
 * registered, `urn:x-ogc`), as an address, or as a bare number; `CRS:84` is what map services call it (OGC 06-042, annex B).
 */
function normal(code: string): string {
  const text = code.trim();
  const uri =
    /^(?:urn:(?:x-)?ogc:def:crs:|https?:\/\/www\.opengis\.net\/def\/crs\/)([^:/]+)[:/](?:[^:/]*[:/])?(\w+)$/i.exec(
      text,
    );
  if (uri) return `${uri[1].toUpperCase()}:${uri[2].toUpperCase()}`;
  if (/^\d+$/.test(text)) return `EPSG:${text}`;
  return /^(OGC:)?(CRS:?84)$/i.test(text) ? 'OGC:CRS84' : text.toUpperCase();
}

/** Returns a system by its authority code; undefined if it is unknown. */
export function findCrs(code: string): Crs | undefined {
  if (typeof code !== 'string') return undefined;
  const id = normal(code);
  let crs = made.get(id);
  if (!crs) {
    const definition = own.get(id) ?? define(id);
    if (definition) made.set(id, (crs = makeCrs(definition)));
  }
  return crs;
}

/** Returns a system by its authority code, or from well-known text or PROJJSON. @throws Fault `crs.unknown`, or as {@link readCrs} does */
export function getCrs(source: string | object): Crs {
  if (typeof source !== 'string' || /[[{]/.test(source)) return makeCrs(readCrs(source));
  const crs = findCrs(source);
  if (crs) return crs;
  const near = nearestSpelling(normal(source), crsCodes());
  throw new Fault(
    'crs.unknown',
    `the coordinate system "${source}" is unknown`,
    `${near ? `Is "${near}" meant? Otherwise give` : 'Give'} its well-known text or PROJJSON, or add it with addCrs.`,
  );
}

/** Adds a coordinate system, or replaces the one with the same id. */
export function addCrs(definition: CrsDefinition): Crs {
  const id = normal(definition.id);
  const crs = makeCrs(definition);
  own.set(id, definition);
  made.set(id, crs);
  return crs;
}

/** How a geographic system of the registry gets to WGS 84, by its code; undefined where it agrees with it, or is unknown. */
export const datumShift = (code: number): Helmert | undefined => datums[code]?.toWgs84;

/** All known codes, families included. */
export function crsCodes(): string[] {
  const families = [];
  for (let code = 2000; code < 32800; code++) if (familyOf(code)) families.push(`EPSG:${code}`);
  return [
    ...new Set([
      ...Object.keys(datums).map((code) => `EPSG:${code}`),
      ...Object.keys(rows).map((code) => `EPSG:${code}`),
      ...families,
      ...Object.keys(others),
      'OGC:CRS84',
      ...own.keys(),
    ]),
  ];
}
