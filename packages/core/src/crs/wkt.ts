import { Fault } from '../base/fault.js';
import { nearestSpelling } from '../base/spelling.js';
import type { AxisDirection, CrsDefinition } from './crs.js';
import type { Helmert } from './datum.js';
import { ellipsoid } from './ellipsoid.js';
import { methods, type MethodEntry, type MethodName } from './methods/index.js';
import { radians, type ProjectionParameters } from './projection.js';

/** A node of well-known text: a keyword with texts, numbers, words and further nodes. */
interface Node {
  readonly word: string;
  readonly values: readonly (string | number)[];
  readonly nodes: readonly Node[];
}

const bad = (what: string, at: string) =>
  new Fault(
    'crs.wkt',
    `the coordinate system cannot be read: ${what}`,
    'Give well-known text 1 (OGC 01-009), well-known text 2 (OGC 18-010r11) or PROJJSON of a geographic or projected system.',
    at,
  );

/** Parses well-known text into its tree. */
function parse(text: string): Node {
  let i = 0;
  const space = () => {
    while (/\s/.test(text[i] ?? '')) i++;
  };
  const node = (): Node => {
    space();
    const word = /^[A-Za-z_][A-Za-z0-9_]*/.exec(text.slice(i, i + 40))?.[0];
    if (!word) throw bad(`a keyword was expected, and "${text.slice(i, i + 12)}" came`, `character ${i}`);
    i += word.length;
    space();
    const values: (string | number)[] = [];
    const nodes: Node[] = [];
    if (text[i] !== '[' && text[i] !== '(') return { word: word.toUpperCase(), values, nodes };
    const close = text[i] === '[' ? ']' : ')';
    i++;
    for (;;) {
      space();
      if (text[i] === '"') {
        let said = '';
        for (i++; text[i] !== '"' || text[i + 1] === '"'; i++) {
          if (i >= text.length) throw bad('a text in quotes has no end', `character ${i}`);
          if (text[i] === '"') i++;
          said += text[i];
        }
        i++;
        values.push(said);
      } else {
        const number = /^[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?/.exec(text.slice(i, i + 40))?.[0];
        if (number) {
          i += number.length;
          values.push(Number(number));
        } else {
          const inner = node();
          if (inner.values.length || inner.nodes.length) nodes.push(inner);
          else values.push(inner.word);
        }
      }
      space();
      if (text[i] === ',') i++;
      else if (text[i] === close) {
        i++;
        return { word: word.toUpperCase(), values, nodes };
      } else
        throw bad(
          text[i] ? `"${text[i]}" stands where a comma or "${close}" belongs` : 'it is cut short',
          `character ${i}`,
        );
    }
  };
  const root = node();
  space();
  if (i < text.length) throw bad(`something follows its end: "${text.slice(i, i + 12)}"`, `character ${i}`);
  return root;
}

const find = (node: Node | undefined, ...words: string[]) => node?.nodes.find(({ word }) => words.includes(word));
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
  gridAngle: ['rectifiedgridangle', 'anglefromrectifiedtoskewgrid', 8814],
  pseudo: ['pseudostandardparallel1', 'latitudeofpseudostandardparallel', 8818],
  axis: ['colatitudeofconeaxis', 1036],
};
const lengthsOf = new Set<keyof ProjectionParameters>(['x0', 'y0']);
const anglesOf = new Set<keyof ProjectionParameters>([
  'lat0',
  'lon0',
  'lat1',
  'lat2',
  'azimuth',
  'gridAngle',
  'pseudo',
  'axis',
]);

function meaning(name: string, code: number | undefined): keyof ProjectionParameters | undefined {
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

/** What well-known text and PROJJSON say alike. */
interface Said {
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
    /** Name, code, and value in degrees, metres or unity. */
    readonly parameters: readonly {
      readonly name: string;
      readonly code: number | undefined;
      readonly value: number;
    }[];
    readonly unit: number;
  };
  readonly axes: readonly AxisDirection[];
}

function define({
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
  for (const { name: parameter, code, value } of projection.parameters) {
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
  if (method === 'hotine-b' && parameters.azimuth === undefined) parameters.azimuth = 90;
  return {
    ...shared,
    method,
    parameters,
    ...(projection.unit === 1 ? {} : { unit: projection.unit }),
  };
}

const directions: Record<string, AxisDirection> = { east: 'east', north: 'north', west: 'west', south: 'south' };
const axesOf = (said: readonly (string | undefined)[]) =>
  said.flatMap((word) => directions[word?.toLowerCase() ?? ''] ?? []);

// --- well-known text ----------------------------------------------------------------------------

function fromWkt(text: string): CrsDefinition {
  const root = parse(text);
  if (root.word === 'BOUNDCRS') {
    const source = find(root, 'SOURCECRS');
    if (source?.nodes[0]) return fromNode(source.nodes[0]);
  }
  return fromNode(root);
}

function fromNode(node: Node): CrsDefinition {
  const isProjected = ['PROJCS', 'PROJCRS', 'PROJECTEDCRS'].includes(node.word);
  const isGeographic = [
    'GEOGCS',
    'GEOGCRS',
    'GEODCRS',
    'GEODETICCRS',
    'GEOGRAPHICCRS',
    'BASEGEOGCRS',
    'BASEGEODCRS',
  ].includes(node.word);
  if (node.word === 'COMPD_CS' || node.word === 'COMPOUNDCRS') return fromNode(node.nodes[0]);
  if (!isProjected && !isGeographic)
    throw bad(`${node.word} is neither a geographic nor a projected system`, node.word);
  const base = isProjected ? find(node, 'GEOGCS', 'BASEGEOGCRS', 'BASEGEODCRS') : node;
  const datum = find(base, 'DATUM', 'TRF', 'GEODETICDATUM', 'ENSEMBLE');
  const spheroid = find(datum, 'SPHEROID', 'ELLIPSOID');
  if (!base || !spheroid) throw bad('it names no ellipsoid', node.word);
  const factor = (of: Node | undefined) => (of && Number(of.values[1])) ?? undefined;
  const angularFactor =
    factor(find(base, 'UNIT', 'ANGLEUNIT')) ?? factor(find(find(base, 'AXIS'), 'ANGLEUNIT')) ?? radians;
  // Well-known text 1 rounds the degree to fifteen digits; the rest of them is put back.
  const angular = Math.abs(angularFactor / radians - 1) < 1e-9 ? 1 : angularFactor / radians;
  const named = find(node, 'ID', 'AUTHORITY');
  const helmert = find(datum, 'TOWGS84')?.values.map(Number);
  const primeNode = find(base, 'PRIMEM');
  const primeUnit = factor(find(primeNode, 'ANGLEUNIT', 'UNIT'));
  const common = {
    id: named ? `${named.values[0]}:${named.values[1]}` : undefined,
    name: String(node.values[0]),
    a: Number(spheroid.values[1]) * (factor(find(spheroid, 'LENGTHUNIT')) ?? 1),
    inverseFlattening: Number(spheroid.values[2]),
    primeMeridian: Number(primeNode?.values[1] ?? 0) * (primeUnit === undefined ? angular : near(primeUnit / radians)),
    toWgs84: helmert && ([0, 1, 2, 3, 4, 5, 6].map((k) => helmert[k] ?? 0) as unknown as Helmert),
    angular: isProjected ? 1 : angular,
    axes: axesOf(node.nodes.filter(({ word }) => word === 'AXIS').map(({ values }) => String(values[1]))),
  };
  if (!isProjected) return define(common);
  const conversion = find(node, 'CONVERSION') ?? node;
  const method = find(conversion, 'METHOD', 'PROJECTION');
  if (!method) throw bad('it names no projection method', node.word);
  const axis = find(node, 'AXIS');
  const unit = factor(find(node, 'UNIT', 'LENGTHUNIT')) ?? factor(find(axis, 'LENGTHUNIT', 'UNIT')) ?? 1;
  const code = Number(find(method, 'ID')?.values[1]);
  return define({
    ...common,
    projection: {
      method: String(method.values[0]),
      code: Number.isNaN(code) ? undefined : code,
      unit,
      parameters: conversion.nodes
        .filter(({ word }) => word === 'PARAMETER')
        .map((parameter) => {
          const name = String(parameter.values[0]);
          const number = Number(find(parameter, 'ID')?.values[1]);
          const key = meaning(name, number);
          const own = factor(find(parameter, 'ANGLEUNIT', 'LENGTHUNIT', 'SCALEUNIT', 'UNIT'));
          const value = Number(parameter.values[1]);
          // Without units of their own, angles are in those of the base system and lengths in those of the axes.
          const times = !key
            ? 1
            : lengthsOf.has(key)
              ? (own ?? unit)
              : anglesOf.has(key)
                ? own === undefined
                  ? angular
                  : near(own / radians)
                : (own ?? 1);
          return { name, code: Number.isNaN(number) ? undefined : number, value: value * times };
        }),
    },
  });
}

/** What is one to within rounding is one. */
const near = (v: number) => (Math.abs(v - 1) < 1e-9 ? 1 : v);

// --- PROJJSON -----------------------------------------------------------------------------------

interface Json {
  readonly [key: string]: unknown;
}
type Unit = string | { readonly conversion_factor?: number } | undefined;

const unitFactor = (unit: Unit, plainName: string) => {
  if (unit === undefined || unit === plainName || unit === 'unity') return 1;
  if (typeof unit === 'string') return unit === 'degree' ? radians : 1;
  return unit.conversion_factor ?? 1;
};
const degreesIn = (unit: Unit) =>
  unit === undefined || typeof unit === 'string' ? 1 : near((unit.conversion_factor ?? radians) / radians);

function fromJson(json: Json): CrsDefinition {
  const { type } = json;
  if (type === 'BoundCRS') {
    const definition = fromJson(json['source_crs'] as Json);
    const transformation = json['transformation'] as
      { parameters?: { value: number; id?: { code: number } }[] } | undefined;
    const values = transformation?.parameters?.map(({ value }) => value) ?? [];
    return values.length === 3 || values.length === 7
      ? { ...definition, toWgs84: [0, 1, 2, 3, 4, 5, 6].map((k) => values[k] ?? 0) as unknown as Helmert }
      : definition;
  }
  if (type === 'CompoundCRS') return fromJson((json['components'] as Json[])[0]);
  if (type !== 'ProjectedCRS' && type !== 'GeographicCRS' && type !== 'GeodeticCRS')
    throw bad(`${String(type)} is neither a geographic nor a projected system`, 'type');
  const base = (type === 'ProjectedCRS' ? json['base_crs'] : json) as Json | undefined;
  const datum = (base?.['datum'] ?? base?.['datum_ensemble']) as Json | undefined;
  const shape = datum?.['ellipsoid'] as Json | undefined;
  if (!base || !shape) throw bad('it names no ellipsoid', 'datum');
  const metres = (value: unknown): number =>
    typeof value === 'object' && value !== null
      ? Number((value as { value: number }).value) * unitFactor((value as { unit: Unit }).unit, 'metre')
      : Number(value);
  const a = metres(shape['semi_major_axis'] ?? shape['radius']);
  const b = shape['semi_minor_axis'] === undefined ? undefined : metres(shape['semi_minor_axis']);
  const inverse =
    shape['inverse_flattening'] === undefined
      ? b === undefined || a === b
        ? 0
        : a / (a - b)
      : Number(shape['inverse_flattening']);
  const identity = json['id'] as { authority: string; code: string | number } | undefined;
  const system = json['coordinate_system'] as { axis?: { direction: string; unit: Unit }[] } | undefined;
  const axes = system?.axis ?? [];
  const prime = (datum?.['prime_meridian'] as { longitude?: unknown } | undefined)?.longitude;
  const primeMeridian =
    typeof prime === 'object' && prime !== null
      ? Number((prime as { value: number }).value) * degreesIn((prime as { unit: Unit }).unit)
      : Number(prime ?? 0);
  const common = {
    id: identity && `${identity.authority}:${identity.code}`,
    name: String(json['name']),
    a,
    inverseFlattening: inverse,
    primeMeridian,
    toWgs84: undefined,
    angular: type === 'ProjectedCRS' ? 1 : degreesIn(axes[0]?.unit),
    axes: axesOf(axes.map(({ direction }) => direction)),
  };
  if (type !== 'ProjectedCRS') return define(common);
  const conversion = json['conversion'] as
    | {
        method?: { name: string; id?: { code: number } };
        parameters?: { name: string; value: number; unit?: Unit; id?: { code: number } }[];
      }
    | undefined;
  if (!conversion?.method) throw bad('it names no projection method', 'conversion');
  return define({
    ...common,
    projection: {
      method: conversion.method.name,
      code: conversion.method.id && Number(conversion.method.id.code),
      unit: unitFactor(axes[0]?.unit, 'metre'),
      parameters: (conversion.parameters ?? []).map(({ name, value, unit, id }) => {
        const key = meaning(name, id && Number(id.code));
        const times =
          key && lengthsOf.has(key) ? unitFactor(unit, 'metre') : key && anglesOf.has(key) ? degreesIn(unit) : 1;
        return { name, code: id && Number(id.code), value: value * times };
      }),
    },
  });
}

/**
 * Reads a coordinate reference system as found in files: well-known text 1 (OGC 01-009) with the dialects that name methods and
 * parameters otherwise, well-known text 2 (OGC 18-010r11), or PROJJSON.
 *
 * @param source text, or PROJJSON as an object
 * @throws Fault `crs.wkt`, `crs.method` or `crs.parameter`
 */
export function readCrs(source: string | object): CrsDefinition {
  if (typeof source !== 'string') return fromJson(source as Json);
  const text = source.trim();
  if (!text.startsWith('{')) return fromWkt(text);
  try {
    return fromJson(JSON.parse(text) as Json);
  } catch (error) {
    if (error instanceof Fault) throw error;
    throw new Fault(
      'crs.wkt',
      `the PROJJSON is not JSON: ${(error as Error).message}`,
      'It may be cut short.',
      undefined,
      error,
    );
  }
}
