// The public register of coordinate systems (EPSG geodetic parameter data set), in a chunk of its own. Nothing but what asks for a
// code that the small registry does not have loads it.
import { Fault } from '../../base/fault.js';
import { fetchedOnce } from '../../base/fetched.js';
import type { CrsDefinition } from '../crs.js';
import { readCrs } from '../wkt.js';
import { withKnownDatum } from './shifts.js';

/** An entry of the register. */
export interface RegisteredCrs {
  /** Authority and code, such as `EPSG:32625`. */
  readonly id: string;
  readonly name: string;
  /** Area of use, in words. */
  readonly areaName: string;
  /** `[west, south, east, north]` in degrees; west is greater than east across the antimeridian. */
  readonly area: readonly [number, number, number, number];
  readonly kind: 'geographic' | 'projected';
}

interface Row extends RegisteredCrs {
  /** Datum, ellipsoid, prime meridian and unit of the base, as well-known text. */
  readonly base: string;
  /** Values of the parameters; none for geographic systems. */
  readonly values: string;
  readonly text: () => string;
}

const split = (column: string) => column.split('\t');
const stepped = (column: string) => {
  let sum = 0;
  return split(column).map((step) => (sum += Number(step)));
};

/**
 * Names as the dialects have them in common: letters and digits alone, years by their last two digits, without what one of them puts
 * before the name.
 */
const plain = (name: string) =>
  name
    .toLowerCase()
    .replace(/^(gcs|d)_/, '')
    .replace(/(?<!\d)(?:18|19|20)(\d\d)(?!\d)/g, '$1')
    .replace(/[^a-z0-9]/g, '');

const listed = ({ id, name, areaName, area, kind }: Row): RegisteredCrs => ({ id, name, areaName, area, kind });

/** The public register of coordinate systems. */
export class Register {
  private readonly rows: readonly Row[];
  private readonly byId: ReadonlyMap<string, Row>;

  /** @param table columns as scripts/register.mjs writes them */
  constructor(table: readonly string[]) {
    const [authorities, areaNames, boxes, baseTexts, methodTexts, unitTexts, axisTexts, ...lists] = table;
    const [areas, areaBoxes, bases, methods, units, axes] = [
      areaNames,
      boxes,
      baseTexts,
      methodTexts,
      unitTexts,
      axisTexts,
    ].map(split);
    const [ownCodes, ownBases, ownAreas, ownNames, codes, rowBases, rowAreas, names, kinds, rowUnits, rowAxes, values] =
      lists;
    const [first, second] = split(authorities);
    const authority = (code: number) => (code < 32768 ? first : second);
    const common = (code: number, name: string, where: number) => ({
      // Codes of the EPSG data set end at 32767; those beyond are of the other common authority.
      id: `${authority(code)}:${code}`,
      name,
      areaName: areas[where],
      area: areaBoxes[where].split(',').map((v) => Number(v) / 2) as unknown as RegisteredCrs['area'],
    });
    const [baseOfOwn, areaOfOwn, nameOfOwn] = [ownBases, ownAreas, ownNames].map(split);
    const geographic = stepped(ownCodes).map((code, i): Row => ({
      ...common(code, nameOfOwn[i], Number(areaOfOwn[i])),
      kind: 'geographic',
      base: bases[Number(baseOfOwn[i])],
      values: '',
      text: () => `GEOGCS["${nameOfOwn[i]}",${bases[Number(baseOfOwn[i])]},AUTHORITY["${authority(code)}","${code}"]]`,
    }));
    const [baseOf, areaOf, nameOf, kindOf, unitOf, axesOf, valuesOf] = [
      rowBases,
      rowAreas,
      names,
      kinds,
      rowUnits,
      rowAxes,
      values,
    ].map(split);
    // Names of projected systems leave out that of their base, which goes before a slash.
    const nameOfBase = new Map(baseOfOwn.map((base, i) => [base, nameOfOwn[i]] as const).reverse());
    const projected = stepped(codes).map((code, i): Row => {
      const name = nameOf[i].startsWith('/') ? `${nameOfBase.get(baseOf[i])!} / ${nameOf[i].slice(1)}` : nameOf[i];
      const text = () => {
        const [title, ...keys] = methods[Number(kindOf[i])].split(',');
        const numbers = valuesOf[i].split(',');
        const parameters = keys.map((key, k) => `PARAMETER["${key}",${numbers[k]}],`).join('');
        const said = axes[Number(axesOf[i])];
        const ways = said ? said.split(',').map((way) => `,AXIS["",${way}]`) : [];
        return `PROJCS["${name}",GEOGCS["${nameOfBase.get(baseOf[i]) ?? name}",${bases[Number(baseOf[i])]}],PROJECTION["${title}"],${parameters}UNIT${units[Number(unitOf[i])].slice(4)}${ways.join('')},AUTHORITY["${authority(code)}","${code}"]]`;
      };
      return {
        ...common(code, name, Number(areaOf[i])),
        kind: 'projected',
        base: bases[Number(baseOf[i])],
        values: valuesOf[i],
        text,
      };
    });
    this.rows = [...geographic, ...projected];
    this.byId = new Map(this.rows.map((row) => [row.id, row]));
  }

  /** Returns well-known text 1 of a system, such as `EPSG:32625`; undefined if it is not in the register. */
  text(id: string): string | undefined {
    return this.byId.get(id)?.text();
  }

  /**
   * Returns the definition of a system; undefined if it is not in the register.
   *
   * @throws Fault `crs.method` or `crs.parameter` for methods that are not supported
   */
  definition(id: string): CrsDefinition | undefined {
    const row = this.byId.get(id);
    if (!row) return undefined;
    const read = readCrs(row.text());
    const northFirst = /\(N,E\)$/.test(row.name) && isPolar(read);
    return withKnownDatum(
      { ...read, id: row.id, area: row.area, ...(northFirst ? { northFirst } : {}) },
      row.text(),
      true,
    );
  }

  /** Returns the greatest shift in meters to WGS 84 among datums on ellipsoids of one size; 1000 if none is known. */
  greatestShift(semiMajor: number): number {
    const shifts = [...new Set(this.rows.map(({ base }) => base))].flatMap((base) => {
      const own = Number(/SPHEROID\["[^"]*",([\d.]+)/.exec(base)?.[1]);
      const [, x, y, z] = /TOWGS84\[(-?[\d.]+),(-?[\d.]+),(-?[\d.]+)/.exec(base) ?? [];
      return Math.abs(own - semiMajor) < 1 && x !== undefined ? [Math.hypot(Number(x), Number(y), Number(z))] : [];
    });
    return shifts.length ? Math.max(...shifts) : 1000;
  }

  /** Returns the area of use of a system, `[west, south, east, north]` in degrees. */
  areaOf(id: string): RegisteredCrs['area'] | undefined {
    return this.byId.get(id)?.area;
  }

  /**
   * Finds systems with the same method, parameters, unit, ellipsoid and prime meridian as a definition, most similar names first.
   *
   * @param definition a system as read from a file
   * @param name its name there, in any dialect
   */
  like(definition: CrsDefinition, name: string): string[] {
    // Only rows that have the numbers at all are read.
    const key = keyOf(definition);
    const numbers = numbersOf(definition);
    const alike = this.rows.filter((row) => mayBe(row, definition, numbers) && keyOfText(row.text()) === key);
    const wanted = plain(name);
    const rank = (row: Row) => {
      const own = plain(row.name);
      return own === wanted ? 3 : own.endsWith(wanted) || wanted.endsWith(own) ? 2 : shared(own, wanted);
    };
    return alike
      .map((row) => [rank(row), row] as const)
      .toSorted((a, b) => b[0] - a[0] || Number(a[1].id.slice(5)) - Number(b[1].id.slice(5)))
      .filter(([likeness]) => likeness > 0.35)
      .map(([, { id }]) => id);
  }

  /**
   * Finds systems whose name, area or code contains all words of a text, shortest names first, deprecated ones last.
   *
   * @param text words in any order, such as `utm 25n`
   * @param most maximum number of results
   */
  search(text: string, most: number): RegisteredCrs[] {
    const words = text
      .toLowerCase()
      .split(/[\s,]+/)
      .filter(Boolean);
    const found = this.rows.filter((row) => {
      const hay = `${row.id} ${row.name} ${row.areaName}`.toLowerCase();
      return words.every((word) => hay.includes(word));
    });
    const old = ({ name }: Row) => Number(/deprecated/i.test(name));
    return found
      .toSorted((a, b) => old(a) - old(b) || a.name.length - b.name.length)
      .slice(0, most)
      .map(listed);
  }

  /** All systems. */
  get all(): RegisteredCrs[] {
    return this.rows.map(listed);
  }
}

/** How much of two plain names is the same from their beginnings, 0 to 1. */
function shared(a: string, b: string): number {
  let n = 0;
  while (n < a.length && a[n] === b[n]) n++;
  return n / Math.max(a.length, b.length);
}

/** Whether a projection is about a pole. */
const isPolar = ({ method, parameters = {} }: CrsDefinition): boolean =>
  method === 'polar-stereographic' || Math.abs(parameters.lat0 ?? 0) === 90;

/** What two definitions that place the same numbers alike have in common, but for their datums. */
function keyOf({ method, parameters = {}, unit = 1, ellipsoid: { a, f }, primeMeridian = 0 }: CrsDefinition): string {
  const numbers = Object.entries(parameters)
    .filter(([key, value]) => value !== (key === 'k0' ? 1 : 0))
    .map(([key, value]) => `${key}${value.toPrecision(9)}`)
    .sort();
  return [
    method ?? 'lonlat',
    unit.toPrecision(8),
    a.toFixed(1),
    f ? (1 / f).toFixed(3) : 0,
    primeMeridian.toFixed(6),
    ...numbers,
  ].join(' ');
}

const short = (value: number) => value.toPrecision(8);

/** Numbers that the row of a definition has among its values, in its own units. */
const numbersOf = ({ parameters = {}, unit = 1 }: CrsDefinition): string[] =>
  Object.entries(parameters)
    .filter(([key, value]) => value !== (key === 'k0' ? 1 : 0))
    .map(([key, value]) => short(key === 'x0' || key === 'y0' ? value / unit : value));

/** Whether a row can be that of a definition, by a look at its texts. */
function mayBe(
  { kind, base, values }: Row,
  { method, ellipsoid: { a } }: CrsDefinition,
  numbers: readonly string[],
): boolean {
  if ((kind === 'geographic') !== (method === undefined)) return false;
  const axis = Number(/SPHEROID\["[^"]*",([\d.]+)/.exec(base)?.[1]);
  if (Math.abs(axis - a) > 0.1) return false;
  const own = new Set(values.split(',').map((value) => short(Number(value))));
  return numbers.every((number) => own.has(number));
}

function keyOfText(text: string): string | undefined {
  try {
    return keyOf(readCrs(text));
  } catch (error) {
    // Methods that are not built yet are found by nobody.
    if (error instanceof Fault) return undefined;
    throw error;
  }
}

let load = async (): Promise<readonly string[]> => (await import('./table.generated.js')).registerTable;

/** Loads the register. @throws Fault `crs.register` if it cannot be loaded */
export const openRegister = fetchedOnce(
  async () => new Register(await load()),
  'crs.register',
  'Check the connection, and that all files of the application were published.',
);

/** Sets a function that loads the table, for workers that cannot load a chunk. */
export function provideRegister(from: () => Promise<readonly string[]>): void {
  load = from;
}
