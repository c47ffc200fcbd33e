import { Fault } from '../base/fault.js';
import type { CrsDefinition } from './crs.js';
import type { MethodName } from './methods/index.js';
import type { ProjectionParameters } from './projection.js';

type Key = keyof ProjectionParameters;

/** Names that readers of .prj files understand, of the methods and of their parameters in order. */
const written: Partial<Record<MethodName, readonly [string, readonly (readonly [string, Key, number])[]]>> = {
  'pseudo-mercator': [
    'Mercator_Auxiliary_Sphere',
    [
      ['Central_Meridian', 'lon0', 0],
      ['Standard_Parallel_1', 'lat1', 0],
      ['Auxiliary_Sphere_Type', 'azimuth', 0],
    ],
  ],
  mercator: [
    'Mercator',
    [
      ['Central_Meridian', 'lon0', 0],
      ['Standard_Parallel_1', 'lat1', 0],
    ],
  ],
  'transverse-mercator': [
    'Transverse_Mercator',
    [
      ['Central_Meridian', 'lon0', 0],
      ['Scale_Factor', 'k0', 1],
      ['Latitude_Of_Origin', 'lat0', 0],
    ],
  ],
  'lambert-azimuthal': [
    'Lambert_Azimuthal_Equal_Area',
    [
      ['Central_Meridian', 'lon0', 0],
      ['Latitude_Of_Origin', 'lat0', 0],
    ],
  ],
  albers: [
    'Albers',
    [
      ['Central_Meridian', 'lon0', 0],
      ['Standard_Parallel_1', 'lat1', 0],
      ['Standard_Parallel_2', 'lat2', 0],
      ['Latitude_Of_Origin', 'lat0', 0],
    ],
  ],
  'lambert-conformal-conic': [
    'Lambert_Conformal_Conic',
    [
      ['Central_Meridian', 'lon0', 0],
      ['Standard_Parallel_1', 'lat1', 0],
      ['Standard_Parallel_2', 'lat2', 0],
      ['Scale_Factor', 'k0', 1],
      ['Latitude_Of_Origin', 'lat0', 0],
    ],
  ],
  stereographic: [
    'Stereographic',
    [
      ['Central_Meridian', 'lon0', 0],
      ['Scale_Factor', 'k0', 1],
      ['Latitude_Of_Origin', 'lat0', 0],
    ],
  ],
  'oblique-stereographic': [
    'Double_Stereographic',
    [
      ['Central_Meridian', 'lon0', 0],
      ['Scale_Factor', 'k0', 1],
      ['Latitude_Of_Origin', 'lat0', 0],
    ],
  ],
  'hotine-b': [
    'Hotine_Oblique_Mercator_Azimuth_Center',
    [
      ['Scale_Factor', 'k0', 1],
      ['Azimuth', 'azimuth', 90],
      ['Longitude_Of_Center', 'lon0', 0],
      ['Latitude_Of_Center', 'lat0', 0],
    ],
  ],
  'cylindrical-equal-area': [
    'Cylindrical_Equal_Area',
    [
      ['Central_Meridian', 'lon0', 0],
      ['Standard_Parallel_1', 'lat1', 0],
    ],
  ],
  cassini: [
    'Cassini',
    [
      ['Central_Meridian', 'lon0', 0],
      ['Scale_Factor', 'k0', 1],
      ['Latitude_Of_Origin', 'lat0', 0],
    ],
  ],
  polyconic: [
    'Polyconic',
    [
      ['Central_Meridian', 'lon0', 0],
      ['Latitude_Of_Origin', 'lat0', 0],
    ],
  ],
  'equal-earth': ['Equal_Earth', [['Central_Meridian', 'lon0', 0]]],
  mollweide: ['Mollweide', [['Central_Meridian', 'lon0', 0]]],
  sinusoidal: ['Sinusoidal', [['Central_Meridian', 'lon0', 0]]],
  robinson: ['Robinson', [['Central_Meridian', 'lon0', 0]]],
};

/** Methods that have their name by where they lie. */
function nameOf({ method, parameters = {} }: CrsDefinition): (typeof written)[MethodName] {
  if (method !== 'polar-stereographic') return method && written[method];
  const south = (parameters.lat1 ?? parameters.lat0 ?? 90) < 0;
  return parameters.lat1 === undefined
    ? [
        'Polar_Stereographic_Variant_A',
        [
          ['Longitude_Of_Origin', 'lon0', 0],
          ['Scale_Factor', 'k0', 1],
          ['Latitude_Of_Origin', 'lat0', south ? -90 : 90],
        ],
      ]
    : [
        'Polar_Stereographic_Variant_B',
        [
          ['Longitude_Of_Origin', 'lon0', 0],
          ['Standard_Parallel_1', 'lat1', 0],
        ],
      ];
}

/**
 * Writes a coordinate system as well-known text 1 (OGC 01-009), in the dialect of .prj files, with the code of its authority.
 *
 * @param definition the system
 * @throws Fault `crs.write` for a method without a name in the dialect
 */
export function writeWkt(definition: CrsDefinition): string {
  const {
    id,
    ellipsoid: { a, f },
    primeMeridian = 0,
    toWgs84,
    method,
    parameters = {},
    unit = 1,
  } = definition;
  const name = id.replace(/[^A-Za-z0-9]+/g, '_');
  const [authority, code] = id.split(':');
  const named = code === undefined ? '' : `,AUTHORITY["${authority}","${code}"]`;
  const shift = toWgs84 ? `,TOWGS84[${toWgs84.join(',')}]` : '';
  const wgs = a === 6378137 && Math.abs(1 / f - 298.257223563) < 1e-9;
  const datum = wgs && !toWgs84 ? ['D_WGS_1984', 'WGS_1984'] : [`D_${name}`, `E_${name}`];
  const spheroid = `SPHEROID["${datum[1]}",${a},${f ? (wgs ? 298.257223563 : 1 / f) : 0}]`;
  const degree = method === undefined ? unit : 1;
  const base = `GEOGCS["${method === undefined ? name : `GCS_${name}`}",DATUM["${datum[0]}",${spheroid}${shift}],PRIMEM["${primeMeridian ? 'Other' : 'Greenwich'}",${primeMeridian / degree}],UNIT["Degree",${(degree * Math.PI) / 180}]`;
  if (method === undefined) return `${base}${named}]`;
  const form = nameOf(definition);
  if (!form)
    throw new Fault(
      'crs.write',
      `the method ${method} of ${id} cannot be written to .prj files`,
      'Choose another system, such as longitude and latitude.',
    );
  const [title, keys] = form;
  const all: (readonly [string, number])[] = [
    ['False_Easting', (parameters.x0 ?? 0) / unit],
    ['False_Northing', (parameters.y0 ?? 0) / unit],
    ...keys
      // A cone that touches in one parallel has that as its latitude of origin too.
      .map(
        ([word, key, otherwise]) =>
          [
            word,
            parameters[key] ??
              (key === 'lat1' || key === 'lat2' ? (parameters.lat1 ?? parameters.lat0) : undefined) ??
              otherwise,
          ] as const,
      ),
  ];
  const text = all.map(([word, value]) => `PARAMETER["${word}",${value}]`).join(',');
  return `PROJCS["${name}",${base}],PROJECTION["${title}"],${text},UNIT["${unit === 1 ? 'Meter' : 'Unit'}",${unit}]${named}]`;
}
