import { edgeSlack, looseSlack } from './guards.js';
import { plainText } from '../base/describe-value.js';
import { Fault } from '../base/fault.js';
import { fromGeocentric, shift, toGeocentric, type Helmert, type Triple } from './datum.js';
import type { Ellipsoid } from './ellipsoid.js';
import { ellipsoids } from './ellipsoid.js';
import { methods, type MethodName } from './methods/index.js';
import { around, radians, type Pair, type Projection, type ProjectionParameters } from './projection.js';

export type { Pair, ProjectionParameters } from './projection.js';

/** A coordinate reference system, by its parameters. Angles in degrees, lengths in meters unless stated otherwise. */
export interface CrsDefinition {
  /** Authority and code, such as `EPSG:3857`, or another name. */
  readonly id: string;
  readonly ellipsoid: Ellipsoid;
  /** Longitude of the prime meridian, degrees east of Greenwich; default 0. */
  readonly primeMeridian?: number;
  /** Transformation to WGS 84; without it, the datum is assumed to agree with WGS 84 to about a meter. */
  readonly toWgs84?: Helmert;
  /** Projection; none for geographic systems. */
  readonly method?: MethodName;
  readonly parameters?: ProjectionParameters;
  /** Meters (degrees for geographic systems) in one unit of the coordinates; default 1. */
  readonly unit?: number;
  /** Directions of the axes in the order of the authority; default east, north (geographic: north, east). */
  readonly axes?: readonly [AxisDirection, AxisDirection];
  /** For polar systems, both of whose axes lead to or from the pole: whether the northing comes first; default false. */
  readonly northFirst?: boolean;
  /** Identifies the datum: no shift is applied between systems on the same datum. Default by `toWgs84` alone. */
  readonly datum?: string;
  /** Area of use, `[west, south, east, north]` in degrees. */
  readonly area?: readonly [number, number, number, number];
}

export type AxisDirection = 'east' | 'north' | 'west' | 'south';

/**
 * A coordinate reference system that converts coordinates. They are x (east) and y (north), whatever the axis order of the authority; for
 * geographic systems longitude and latitude in degrees.
 */
export interface Crs {
  readonly id: string;
  readonly definition: CrsDefinition;
  readonly isGeographic: boolean;
  /**
   * Converts longitude and latitude in degrees on the system's own datum; returns false and leaves `out` unchanged outside the domain.
   *
   * @param lon longitude in degrees
   * @param lat latitude in degrees
   * @param out receives x (east) and y (north) in the units of the system
   */
  forward(lon: number, lat: number, out: Pair): boolean;
  /**
   * Converts to longitude and latitude in degrees on the system's own datum; returns false outside the domain.
   *
   * @param x east, in the units of the system
   * @param y north, in the units of the system
   * @param out receives longitude and latitude in degrees
   */
  inverse(x: number, y: number, out: Pair): boolean;
}

const known = new WeakMap<CrsDefinition, Crs>();

/** Creates a system. @throws Fault `crs.parameter` for parameters that the method cannot use */
export function makeCrs(definition: CrsDefinition): Crs {
  let crs = known.get(definition);
  if (!crs) known.set(definition, (crs = build(definition)));
  return crs;
}

function build(definition: CrsDefinition): Crs {
  const { id, ellipsoid, method, parameters = {}, primeMeridian = 0, unit = 1 } = definition;
  checkMeasures(definition);
  if (method === undefined) {
    return {
      id,
      definition,
      isGeographic: true,
      forward(lon, lat, out) {
        if (!(Math.abs(lat) <= 90) || !Number.isFinite(lon)) return false;
        out[0] = (lon - primeMeridian) / unit;
        out[1] = lat / unit;
        return true;
      },
      inverse(x, y, out) {
        if (!(Math.abs(y * unit) <= 90) || !Number.isFinite(x)) return false;
        out[0] = x * unit + primeMeridian;
        out[1] = y * unit;
        return true;
      },
    };
  }
  check(definition);
  const projection: Projection = methods[method].make(ellipsoid, parameters);
  const { lon0 = 0, x0 = 0, y0 = 0 } = parameters;
  const central = (lon0 + primeMeridian) * radians;
  const at: Pair = [0, 0];
  // Systems with axes to the west and the south count their false origins that way too.
  const sign = 'southWest' in methods[method] ? -1 : 1;
  return {
    id,
    definition,
    isGeographic: false,
    forward(lon, lat, out) {
      if (!(Math.abs(lat) <= 90) || !Number.isFinite(lon)) return false;
      if (!projection.forward(around(lon * radians - central), lat * radians, at)) return false;
      if (!Number.isFinite(at[0]) || !Number.isFinite(at[1])) return false;
      out[0] = (at[0] + sign * x0) / unit;
      out[1] = (at[1] + sign * y0) / unit;
      return true;
    },
    inverse(x, y, out) {
      if (!Number.isFinite(x) || !Number.isFinite(y)) return false;
      if (!projection.inverse(x * unit - sign * x0, y * unit - sign * y0, at)) return false;
      if (!Number.isFinite(at[0]) || !Number.isFinite(at[1])) return false;
      out[0] = around(at[0] + central) / radians;
      out[1] = at[1] / radians;
      return true;
    },
  };
}

/** Units, ellipsoid and prime meridian are numbers that can be reckoned with. @throws Fault `crs.parameter` */
function checkMeasures({ id, ellipsoid: { a, f }, primeMeridian = 0, unit = 1 }: CrsDefinition): void {
  const wrong = (what: string, value: number, wanted: string) =>
    new Fault('crs.parameter', `${what} of ${id} is ${value}`, wanted, id);
  if (!(unit > 1e-9 && unit < 1e9))
    throw wrong('the unit', unit, 'Give meters, or degrees, in one unit: a number above 0.');
  if (!(a > 1e-3 && a < 1e12)) throw wrong('the semi-major axis', a, 'Give meters, such as 6378137.');
  if (!(f >= 0 && f < 0.5))
    throw wrong('the flattening', f, 'Give a number from 0 to below 0.5, such as 1/298.257223563.');
  if (!(Math.abs(primeMeridian) <= 360))
    throw wrong('the prime meridian', primeMeridian, 'Give degrees east of Greenwich.');
}

function check({ id, parameters = {}, method }: CrsDefinition): void {
  const { lat1, lat2, lat0 } = parameters;
  for (const [name, value] of Object.entries(parameters))
    if (typeof value !== 'number' || !Number.isFinite(value))
      throw new Fault('crs.parameter', `${name} of ${id} is ${plainText(value)}`, 'Give a finite number.', id);
  for (const [name, value] of [
    ['lat0', lat0],
    ['lat1', lat1],
    ['lat2', lat2],
  ] as const)
    if (value !== undefined && Math.abs(value) > 90)
      throw new Fault('crs.parameter', `${name} of ${id} is ${value}`, 'Latitudes lie between −90 and 90 degrees.', id);
  const conic = method === 'albers' || method === 'lambert-conformal-conic';
  const [first, second] = [lat1 ?? lat0 ?? 0, lat2 ?? lat1 ?? lat0 ?? 0];
  if (conic && Math.abs(first + second) < looseSlack)
    throw new Fault(
      'crs.parameter',
      `the standard parallels of ${id} are ${first}° and ${second}°, so that its cone would be a cylinder`,
      'Choose parallels that are not mirror images of each other.',
      id,
    );
}

/**
 * Creates a function that transforms coordinates from one system to another, through WGS 84 if their datums differ (Guidance Note 7-2,
 * section 4.3). To and from a sphere, degrees stay unchanged. The function returns false and leaves `out` unchanged for a place outside the
 * domain of either system.
 *
 * @param from system of the given coordinates
 * @param to system of the result
 */
export function transformer(from: Crs, to: Crs): (x: number, y: number, out: Pair) => boolean {
  const [a, b] = [from.definition, to.definition];
  const sameEllipsoid = a.ellipsoid.a === b.ellipsoid.a && Math.abs(a.ellipsoid.f - b.ellipsoid.f) < edgeSlack;
  const sameDatum =
    (a.datum !== undefined && a.datum === b.datum && sameEllipsoid) ||
    (JSON.stringify(a.toWgs84 ?? null) === JSON.stringify(b.toWgs84 ?? null) &&
      // The ellipsoids of modern datums differ by a tenth of a millimeter; no shift is applied between them.
      (a.ellipsoid === b.ellipsoid || (a.toWgs84 === undefined && b.toWgs84 === undefined && isModern(a, b))));
  const sameLatitudes = sameDatum || [a, b].some(isPlainSphere);
  const place: Pair = [0, 0];
  if (sameLatitudes) return (x, y, out) => from.inverse(x, y, place) && to.forward(place[0], place[1], out);
  const at: Triple = [0, 0, 0];
  return (x, y, out) => {
    if (!from.inverse(x, y, place)) return false;
    toGeocentric(a.ellipsoid, place[0], place[1], at);
    if (a.toWgs84) shift(a.toWgs84, at);
    if (b.toWgs84) shift(b.toWgs84, at, true);
    const [lon, lat] = fromGeocentric(b.ellipsoid, at);
    return to.forward(lon, lat, out);
  };
}

/** A sphere that stands for the ellipsoid: degrees are taken over as they are, as all who make and read such data do. */
const isPlainSphere = ({ ellipsoid: { f }, toWgs84 }: CrsDefinition) => f === 0 && !toWgs84?.some(Boolean);

const isModern = (...all: CrsDefinition[]) =>
  all.every(({ ellipsoid: { a, f } }) => a === ellipsoids.wgs84.a && Math.abs(f - ellipsoids.wgs84.f) < looseSlack);
