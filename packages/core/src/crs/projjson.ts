import { describeValue } from '../base/describe-value.js';
import { radians } from './projection.js';
import type { CrsDefinition } from './crs.js';
import type { Helmert } from './datum.js';
import { anglesOf, axesOf, define, lengthsOf, malformedCrs, meaning, nearOne } from './crs-definition.js';

/** A PROJJSON object (PROJJSON 0.7). */
export interface Json {
  readonly [key: string]: unknown;
}
type Unit = string | { readonly conversion_factor?: number } | undefined;

const unitFactor = (unit: Unit, plainName: string) => {
  if (unit === undefined || unit === plainName || unit === 'unity') return 1;
  if (typeof unit === 'string') return unit === 'degree' ? radians : 1;
  return unit.conversion_factor ?? 1;
};
const degreesIn = (unit: Unit) =>
  unit === undefined || typeof unit === 'string' ? 1 : nearOne((unit.conversion_factor ?? radians) / radians);

/** Reads PROJJSON. @throws Fault `crs.wkt`, `crs.method` or `crs.parameter` */
export function fromJson(json: Json): CrsDefinition {
  if (typeof json !== 'object' || json === null) throw malformedCrs('it contains no system', 'type');
  const { type } = json;
  if (type === 'BoundCRS') {
    const definition = fromJson(json['source_crs'] as Json);
    const transformation = json['transformation'] as
      | { parameters?: { value: number; id?: { code: number } }[] }
      | undefined;
    const values = transformation?.parameters?.map(({ value }) => value) ?? [];
    return values.length === 3 || values.length === 7
      ? { ...definition, toWgs84: [0, 1, 2, 3, 4, 5, 6].map((k) => values[k] ?? 0) as unknown as Helmert }
      : definition;
  }
  if (type === 'CompoundCRS') return fromJson((json['components'] as Json[] | undefined)?.[0] as Json);
  if (type !== 'ProjectedCRS' && type !== 'GeographicCRS' && type !== 'GeodeticCRS')
    throw malformedCrs(`${describeValue(type)} is neither a geographic nor a projected system`, 'type');
  const base = (type === 'ProjectedCRS' ? json['base_crs'] : json) as Json | undefined;
  const datum = (base?.['datum'] ?? base?.['datum_ensemble']) as Json | undefined;
  const shape = datum?.['ellipsoid'] as Json | undefined;
  if (!base || !shape) throw malformedCrs('it has no ellipsoid', 'datum');
  const meters = (value: unknown): number =>
    typeof value === 'object' && value !== null
      ? Number((value as { value: number }).value) * unitFactor((value as { unit: Unit }).unit, 'metre')
      : Number(value);
  const a = meters(shape['semi_major_axis'] ?? shape['radius']);
  const b = shape['semi_minor_axis'] === undefined ? undefined : meters(shape['semi_minor_axis']);
  const inverse =
    shape['inverse_flattening'] === undefined
      ? b === undefined || a === b
        ? 0
        : a / (a - b)
      : Number(shape['inverse_flattening']);
  const identity = json['id'] as { authority: string; code: string | number } | undefined;
  const system = json['coordinate_system'] as { axis?: { direction: string; unit: Unit }[] } | undefined;
  const axes = Array.isArray(system?.axis) ? system.axis : [];
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
  if (!conversion?.method) throw malformedCrs('it names no projection method', 'conversion');
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
