import { describeValue } from '../base/describe-value.js';
import { Fault } from '../base/fault.js';
import type { CrsDefinition } from './crs.js';
import { anglesOf, axesOf, define, lengthsOf, malformedCrs, meaning, nearOne } from './crs-definition.js';
import type { Helmert } from './datum.js';
import { radians } from './projection.js';
import { fromJson, type Json } from './projjson.js';
import { find, parse, type Node } from './wkt-parse.js';

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
  if (node.word === 'COMPD_CS' || node.word === 'COMPOUNDCRS') {
    if (!node.nodes[0]) throw malformedCrs('it contains no system', node.word);
    return fromNode(node.nodes[0]);
  }
  if (!isProjected && !isGeographic)
    throw malformedCrs(`${node.word} is neither a geographic nor a projected system`, node.word);
  const base = isProjected ? find(node, 'GEOGCS', 'BASEGEOGCRS', 'BASEGEODCRS') : node;
  const datum = find(base, 'DATUM', 'TRF', 'GEODETICDATUM', 'ENSEMBLE');
  const spheroid = find(datum, 'SPHEROID', 'ELLIPSOID');
  if (!base || !spheroid) throw malformedCrs('it has no ellipsoid', node.word);
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
    primeMeridian: inDegrees(
      Number(primeNode?.values[1] ?? 0),
      primeUnit === undefined ? angular : nearOne(primeUnit / radians),
    ),
    toWgs84: helmert && ([0, 1, 2, 3, 4, 5, 6].map((k) => helmert[k] ?? 0) as unknown as Helmert),
    angular: isProjected ? 1 : angular,
    axes: axesOf(node.nodes.filter(({ word }) => word === 'AXIS').map(({ values }) => String(values[1]))),
  };
  if (!isProjected) return define(common);
  const conversion = find(node, 'CONVERSION') ?? node;
  const method = find(conversion, 'METHOD', 'PROJECTION');
  if (!method) throw malformedCrs('it names no projection method', node.word);
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
                  : nearOne(own / radians)
                : (own ?? 1);
          return { name, code: Number.isNaN(number) ? undefined : number, value: value * times };
        }),
    },
  });
}

/** Paris east of Greenwich, in degrees: 2.5969213 grads (IOGP, EPSG Geodetic Parameter Dataset, prime meridian 8903). */
const paris = 2.33722917;

/**
 * Longitude of a prime meridian in degrees. Well-known text 1 has it in the unit of its system (01-009, section 7.3.14); some write degrees
 * there in any case, which shows where grads are counted from Paris, as no other meridian is.
 */
const inDegrees = (longitude: number, unit: number): number =>
  Math.abs(longitude - paris) < 1e-5 ? longitude : longitude * unit;

/**
 * Reads a coordinate reference system as found in files: well-known text 1 (OGC 01-009) and its dialects with other names of methods and
 * parameters, well-known text 2 (OGC 18-010r11), or PROJJSON.
 *
 * @param source text, or PROJJSON as an object
 * @throws Fault `crs.wkt`, `crs.method` or `crs.parameter`
 */
export function readCrs(source: string | object): CrsDefinition {
  if (typeof source !== 'string') {
    if (typeof source === 'object' && source !== null) return fromJson(source as Json);
    throw malformedCrs(`got ${describeValue(source)}`, 'the beginning');
  }
  const text = source.trim();
  if (!text.startsWith('{')) return fromWkt(text);
  try {
    return fromJson(JSON.parse(text) as Json);
  } catch (error) {
    if (error instanceof Fault) throw error;
    throw new Fault(
      'crs.wkt',
      `the PROJJSON is not JSON: ${(error as Error).message}`,
      'It may be truncated.',
      undefined,
      error,
    );
  }
}
