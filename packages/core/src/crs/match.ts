import { Fault } from '../base/fault.js';
import { makeCrs, type Crs, type CrsDefinition } from './crs.js';
import type { RegisteredCrs, Register } from './register/register.js';
import { findCrs, getCrs } from './registry.js';
import { readCrs } from './wkt.js';
import { writeWkt } from './write-wkt.js';

/** A code in any spelling as the register writes it, such as `EPSG:32625`. */
function registeredId(text: string): string {
  const trimmed = text.trim();
  const uri =
    /^(?:urn:(?:x-)?ogc:def:crs:|https?:\/\/www\.opengis\.net\/def\/crs\/)(\w+)[:/](?:[^:/]*[:/])?(\d+)$/i.exec(
      trimmed,
    );
  const [, authority, code] = uri ?? /^(?:(\w+):{1,2})?(\d{4,6})$/.exec(trimmed) ?? [];
  return `${(authority ?? 'EPSG').toUpperCase()}:${code ?? ''}`;
}

/**
 * Returns a coordinate system by its code in the public register, or as `getCrs` does. The register is loaded only if the built-in list
 * does not contain the code.
 *
 * @param source code, well-known text or PROJJSON
 * @throws Fault `crs.unknown`, or as `getCrs` does
 */
export async function crsByCode(source: string): Promise<Crs> {
  if (/[[{]/.test(source)) return (await crsFromText(source, 'the text')).crs;
  const near = findCrs(source);
  if (near) return near;
  const id = registeredId(source);
  if (!id.endsWith(':')) {
    const { openRegister } = await import('./register/register.js');
    const definition = (await openRegister()).definition(id);
    if (definition) return makeCrs(definition);
  }
  return getCrs(source);
}

/**
 * Searches the public register for coordinate systems.
 *
 * @param text words of the name, the area of use or the code, in any order, such as `utm 25n`
 * @param limit maximum number of results; default 8
 * @returns systems that contain all words, shortest names first
 */
export async function searchSystems(text: string, limit = 8): Promise<readonly RegisteredCrs[]> {
  const { openRegister } = await import('./register/register.js');
  return text.trim() ? (await openRegister()).search(text, limit) : [];
}

/**
 * Well-known text of a system for a .prj file: as the register has it, where it is in the register.
 *
 * @param crs the system
 * @throws Fault `crs.write`
 */
export async function prjText(crs: Crs): Promise<string> {
  const { openRegister } = await import('./register/register.js');
  const id = crs.id === 'OGC:CRS84' ? 'EPSG:4326' : crs.id;
  return (await openRegister()).text(id) ?? writeWkt(crs.definition);
}

/** A coordinate system of a file, and how it was determined. */
export interface MatchedCrs {
  readonly crs: Crs;
  /** How the system was determined, in words. */
  readonly note: string;
}

/** Whether two definitions place the same numbers alike, to a micrometer or so. */
function alike(a: Crs, b: Crs, area: CrsDefinition['area']): boolean {
  if (a.isGeographic !== b.isGeographic) return false;
  const [west, south, east, north] = area ?? [-170, -75, 170, 75];
  const width = (east < west ? east + 360 : east) - west;
  const [p, q]: [[number, number], [number, number]] = [
    [0, 0],
    [0, 0],
  ];
  return [
    [0.5, 0.5],
    [0.2, 0.3],
    [0.8, 0.7],
  ].every(([u, v]) => {
    const [lon, lat] = [west + u * width, south + v * (north - south)];
    if (!a.forward(lon, lat, p) || !b.forward(lon, lat, q)) return false;
    return Math.hypot(p[0] - q[0], p[1] - q[1]) < (a.isGeographic ? 1e-9 : 1e-3);
  });
}

/**
 * Reads the coordinate system of a .prj file in any dialect of well-known text, and matches it to the register by code or name, so that its
 * datum shift is known even if the text does not contain it.
 *
 * @param text well-known text or PROJJSON
 * @param at the file, for messages
 * @throws Fault as `readCrs` does, with the file
 */
export async function crsFromText(text: string, at: string): Promise<MatchedCrs> {
  let read;
  try {
    read = readCrs(text);
  } catch (error) {
    if (!(error instanceof Fault)) throw error;
    throw new Fault(error.code, error.message, error.hint, error.at ? `${at}, ${error.at}` : at, error);
  }
  const [{ withKnownDatum }, { openRegister }] = await Promise.all([
    import('./register/shifts.js'),
    import('./register/register.js'),
  ]);
  const register = await openRegister();
  const own = makeCrs(withKnownDatum(read, text));
  const named = /^\w+:\d+$/.test(read.id) ? [read.id.toUpperCase()] : [];
  for (const id of [...named, ...register.like(read, read.id)]) {
    const known = findCrs(id) ?? registered(register, id);
    // What the text says of the datum counts more than what the register leaves open.
    const datum = !own.definition.toWgs84 || known?.definition.toWgs84;
    if (known && datum && alike(own, known, register.areaOf(id))) return { crs: known, note: `${at}, as ${known.id}` };
  }
  return { crs: own, note: at };
}

function registered(register: Register, id: string): Crs | undefined {
  try {
    const found = register.definition(id);
    return found && makeCrs(found);
  } catch (error) {
    // A method that is not built yet: the text of the file itself stands.
    if (error instanceof Fault) return undefined;
    throw error;
  }
}

/** Area of use of a system, `[west, south, east, north]` in degrees, where it or the register says it. */
export async function areaOfUse(crs: Crs): Promise<CrsDefinition['area']> {
  if (crs.definition.area || crs.isGeographic) return crs.definition.area;
  const { openRegister } = await import('./register/register.js');
  return (await openRegister()).areaOf(crs.id);
}

/**
 * How far places of a system may lie off where the way of its datum to WGS 84 is not known: the greatest shift that the register has for a
 * datum on the same ellipsoid, in meters, upwards to a hundred.
 *
 * @returns undefined where the way is known
 */
export async function datumDoubt(crs: Crs): Promise<number | undefined> {
  if (!datumUnknown(crs)) return undefined;
  const { openRegister } = await import('./register/register.js');
  return Math.ceil((await openRegister()).greatestShift(crs.definition.ellipsoid.a) / 100) * 100;
}

const modernFlattening = 1 / 298.2572;

/** Whether a system's datum is an older one whose way to WGS 84 is not known, so that places may lie some hundred meters off. */
export function datumUnknown({ definition: { ellipsoid, toWgs84 } }: Crs): boolean {
  return !toWgs84 && (ellipsoid.a !== 6378137 || Math.abs(ellipsoid.f - modernFlattening) > 1e-6) && ellipsoid.f !== 0;
}
