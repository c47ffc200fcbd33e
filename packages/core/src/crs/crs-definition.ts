import { Fault } from '../base/fault.js';
import { nearestSpelling } from '../base/spelling.js';
import type { AxisDirection, CrsDefinition } from './crs.js';
import type { Helmert } from './datum.js';
import { ellipsoid } from './ellipsoid.js';
import { methods, type MethodEntry, type MethodName } from './methods/index.js';
import type { ProjectionParameters } from './projection.js';

/** A description of a system that cannot be read. */
export const malformedCrs = (what: string, at: string) =>
  new Fault(
    'crs.wkt',
    `the coordinate system cannot be read: ${what}`,
    'Give well-known text 1 (OGC 01-009), well-known text 2 (OGC 18-010r11) or PROJJSON of a geographic or projected system.',
    at,
  );

const plain = (text: string) => text.toLowerCase().replace(/[^a-z0-9]/g, '');

/** Names of parameters in well-known text, and their codes, by what they mean. */
const meanings: Record<keyof ProjectionParameters, readonly (string | number)[]> = {
  lat0: [
    'latitudeoforigin',
    'latitudeofnaturalorigin',
    'latitudeoffalseorigin',
    'latitudeofcenter',
    'latitudeofprojectioncentre',
    'latitudeofprojectioncenter',
    'centralparallel',
    8801,
    8821,
    8811,
  ],
  lon0: [
    'centralmeridian',
    'longitudeofnaturalorigin',
    'longitudeoffalseorigin',
    'longitudeoforigin',
    'longitudeofcenter',
    'longitudeofprojectioncentre',
    'longitudeofprojectioncenter',
    8802,
    8822,
    8812,
    8833,
  ],
  lat1: ['standardparallel1', 'latitudeof1ststandardparallel', 'latitudeofstandardparallel', 8823, 8832],
  lat2: ['standardparallel2', 'latitudeof2ndstandardparallel', 8824],
  k0: [
    'scalefactor',
    'scalefactoratnaturalorigin',
    'scalefactoroninitialline',
    'scalefactoronpseudostandardparallel',
    8805,
    8815,
    8819,
  ],
  x0: ['falseeasting', 'eastingatfalseorigin', 'eastingatprojectioncentre', 8806, 8826, 8816],
  y0: ['falsenorthing', 'northingatfalseorigin', 'northingatprojectioncentre', 8807, 8827, 8817],
  azimuth: ['azimuth', 'azimuthofinitialline', 8813],
  gridAngle: ['rectifiedgridangle', 'xyplanerotation', 'anglefromrectifiedtoskewgrid', 8814],
  pseudo: ['pseudostandardparallel1', 'latitudeofpseudostandardparallel', 8818],
  axis: ['colatitudeofconeaxis', 1036],
};
export const lengthsOf = new Set<keyof ProjectionParameters>(['x0', 'y0']);
export const anglesOf = new Set<keyof ProjectionParameters>([
  'lat0',
  'lon0',
  'lat1',
  'lat2',
  'azimuth',
  'gridAngle',
  'pseudo',
  'axis',
]);

export function meaning(name: string, code: number | undefined): keyof ProjectionParameters | undefined {
  const said = plain(name);
  for (const [key, names] of Object.entries(meanings))
    if (names.includes(said) || (code !== undefined && names.includes(code))) return key as keyof ProjectionParameters;
  return undefined;
}

function methodOf(name: string, code: number | undefined, at: string): MethodName {
  const said = plain(name);
  for (const [key, entry] of Object.entries(methods) as [MethodName, MethodEntry][])
    if ((code !== undefined && entry.codes?.includes(code)) || entry.names.includes(said)) return key;
  const all = Object.values(methods).flatMap(({ names }) => names);
  const near = nearestSpelling(said, all);
  throw new Fault(
    'crs.method',
    `the projection method "${name}" is not known`,
    near ? `Is "${near}" meant?` : `Methods: ${Object.keys(methods).join(', ')}.`,
    at,
  );
}

/** The definition that well-known text and PROJJSON have in common. */
export interface Said {
  readonly id: string | undefined;
  readonly name: string;
  readonly a: number;
  readonly inverseFlattening: number;
  readonly primeMeridian: number;
  readonly toWgs84: Helmert | undefined;
  /** Degrees in one angular unit of the base system. */
  readonly angular: number;
  readonly projection?: {
    readonly method: string;
    readonly code: number | undefined;
    /** Name, code, and value in degrees, meters or unity. */
    readonly parameters: readonly {
      readonly name: string;
      readonly code: number | undefined;
      readonly value: number;
    }[];
    readonly unit: number;
  };
  readonly axes: readonly AxisDirection[];
}

export function define({
  id,
  name,
  a,
  inverseFlattening,
  primeMeridian,
  toWgs84,
  angular,
  projection,
  axes,
}: Said): CrsDefinition {
  const known = id ?? name;
  const shared = {
    id: known,
    ellipsoid: ellipsoid(a, inverseFlattening),
    ...(primeMeridian ? { primeMeridian } : {}),
    ...(toWgs84?.some(Boolean) ? { toWgs84 } : {}),
    ...(axes.length >= 2 ? { axes: [axes[0], axes[1]] as [AxisDirection, AxisDirection] } : {}),
  };
  if (!projection) return { ...shared, ...(angular === 1 ? {} : { unit: angular }) };
  const parameters: Partial<Record<keyof ProjectionParameters, number>> = {};
  for (const { name: parameter, code, value } of withoutTurns(projection.method, projection.parameters)) {
    const key = meaning(parameter, code);
    if (key) parameters[key] = value;
    else if (value !== 0)
      throw new Fault(
        'crs.parameter',
        `the parameter "${parameter}" of "${known}" is not known`,
        'Check its name, or leave it out.',
        known,
      );
  }
  let method = methodOf(projection.method, projection.code, known);
  // Well-known text 1 calls several things by one name.
  if (plain(projection.method) === 'mercator1sp' && id === 'EPSG:3857') method = 'pseudo-mercator';
  const toPole =
    method === 'polar-stereographic' &&
    plain(projection.method) === 'polarstereographic' &&
    projection.code === undefined;
  if (toPole && parameters.lat1 === undefined && parameters.lat0 !== undefined && Math.abs(parameters.lat0) < 90) {
    // Variant B, its standard parallel named as the latitude of origin.
    parameters.lat1 = parameters.lat0;
    delete parameters.lat0;
  }
  if (method === 'krovak' && parameters.azimuth !== undefined) {
    // The dialect of .prj files calls the co-latitude of the cone's axis its azimuth.
    parameters.axis ??= parameters.azimuth;
    delete parameters.azimuth;
  }
  if ((method === 'oblique-stereographic' || method === 'stereographic') && Math.abs(parameters.lat0 ?? 0) === 90)
    method = 'polar-stereographic';
  if (method === 'hotine-b' && parameters.azimuth === undefined) parameters.azimuth = 90;
  return {
    ...shared,
    method,
    parameters,
    ...(projection.unit === 1 ? {} : { unit: projection.unit }),
  };
}

type SaidParameters = NonNullable<Said['projection']>['parameters'];

/** A Krovak system of .prj files says how its axes turn; x to the east and y to the north is what its method gives anyway. */
function withoutTurns(method: string, parameters: SaidParameters): SaidParameters {
  if (plain(method) !== 'krovak') return parameters;
  const turns: Readonly<Record<string, number>> = { xscale: -1, yscale: 1, xyplanerotation: 90 };
  const usual = parameters.filter(({ name }) => plain(name) in turns);
  if (!usual.every(({ name, value }) => turns[plain(name)] === value)) return parameters;
  return parameters.filter((parameter) => !usual.includes(parameter));
}

const directions: Record<string, AxisDirection> = { east: 'east', north: 'north', west: 'west', south: 'south' };
export const axesOf = (said: readonly (string | undefined)[]) =>
  said.flatMap((word) => directions[word?.toLowerCase() ?? ''] ?? []);

/** A number that is one to within rounding is one. */
export const nearOne = (v: number) => (Math.abs(v - 1) < 1e-9 ? 1 : v);
