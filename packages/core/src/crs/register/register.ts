// The public register of coordinate systems (EPSG geodetic parameter data set), in a chunk of its own. Nothing but what asks for a
// code that the small registry does not have loads it.
import type { CrsDefinition } from '../crs.js';
import { readCrs } from '../wkt.js';
import { withKnownDatum } from './shifts.js';

/** A system as the register has it. */
export interface RegisteredCrs {
  /** Authority and code, such as `EPSG:32625`. */
  readonly id: string;
  readonly name: string;
  /** Area of use, in words. */
  readonly areaName: string;
  /** `[west, south, east, north]` in degrees; west is greater than east where it runs over the antimeridian. */
  readonly area: readonly [number, number, number, number];
  readonly kind: 'geographic' | 'projected';
}

interface Row extends RegisteredCrs {
  readonly code: number;
  readonly text: () => string;
}

const split = (column: string) => column.split('\t');
const stepped = (column: string) => {
  let sum = 0;
  return split(column).map((step) => (sum += Number(step)));
};

/** Names without anything but letters and digits, and without what the dialects put before them. */
const plain = (name: string) =>
  name
    .toLowerCase()
    .replace(/^gcs_|^etrf_/, '')
    .replace(/[^a-z0-9]/g, '');

const listed = ({ id, name, areaName, area, kind }: Row): RegisteredCrs => ({ id, name, areaName, area, kind });

/** The public register, read out of its table. */
export class Register {
  private readonly rows: readonly Row[];
  private readonly byCode: ReadonlyMap<number, Row>;
  private readonly byName: ReadonlyMap<string, Row>;

  /** @param table columns as scripts/register.mjs writes them */
  constructor(table: readonly string[]) {
    const [areaNames, boxes, baseTexts, methodTexts, unitTexts, ...lists] = table;
    const [areas, areaBoxes, bases, methods, units] = [areaNames, boxes, baseTexts, methodTexts, unitTexts].map(split);
    const [ownCodes, ownBases, ownAreas, ownNames, codes, rowBases, rowAreas, names, kinds, rowUnits, values] = lists;
    const common = (code: number, name: string, where: number) => ({
      code,
      id: `EPSG:${code}`,
      name,
      areaName: areas[where],
      area: areaBoxes[where].split(',').map((v) => Number(v) / 10) as unknown as RegisteredCrs['area'],
    });
    const [baseOfOwn, areaOfOwn, nameOfOwn] = [split(ownBases), stepped(ownAreas), split(ownNames)];
    const geographic = stepped(ownCodes).map((code, i): Row => ({
      ...common(code, nameOfOwn[i], areaOfOwn[i]),
      kind: 'geographic',
      text: () => `GEOGCS[${bases[Number(baseOfOwn[i])]}]`,
    }));
    const areaOf = stepped(rowAreas);
    const [baseOf, nameOf, kindOf, unitOf, valuesOf] = [rowBases, names, kinds, rowUnits, values].map(split);
    const projected = stepped(codes).map((code, i): Row => {
      const text = () => {
        const [title, ...keys] = methods[Number(kindOf[i])].split(',');
        const numbers = valuesOf[i].split(',');
        const parameters = keys.map((key, k) => `PARAMETER["${key}",${numbers[k]}]`).join(',');
        const base = `GEOGCS[${bases[Number(baseOf[i])]}]`;
        return `PROJCS["${nameOf[i]}",${base},PROJECTION["${title}"],${parameters},UNIT[${units[Number(unitOf[i])]}]]`;
      };
      return { ...common(code, nameOf[i].replaceAll('_', ' '), areaOf[i]), kind: 'projected', text };
    });
    this.rows = [...geographic, ...projected];
    this.byCode = new Map(this.rows.map((row) => [row.code, row]));
    // Where a name stands twice, the older code is the one that files mean.
    this.byName = new Map(
      [...this.rows]
        .reverse()
        .flatMap((row) => [row.name, /"([^"]*)"/.exec(row.text())![1]].map((name) => [plain(name), row] as const)),
    );
  }

  /** Well-known text 1 of a code, in the dialect of .prj files; undefined for a code that the register does not have. */
  text(code: number): string | undefined {
    return this.byCode.get(code)?.text();
  }

  /** The definition of a code; undefined where the register has none. @throws Fault `crs.method` or `crs.parameter` for what is not built yet */
  definition(code: number): CrsDefinition | undefined {
    const row = this.byCode.get(code);
    if (!row) return undefined;
    return withKnownDatum({ ...readCrs(row.text()), id: row.id, area: row.area }, row.text());
  }

  /** Area of use of a code, `[west, south, east, north]` in degrees. */
  areaOf(code: number): RegisteredCrs['area'] | undefined {
    return this.byCode.get(code)?.area;
  }

  /** The code of a system of that name, as .prj files write names; undefined where there is none. */
  codeOf(name: string): number | undefined {
    return this.byName.get(plain(name))?.code;
  }

  /**
   * Systems whose name, area or code has all words of a text, the shortest names first, deprecated ones last.
   *
   * @param text words in any order, such as `utm 25n`
   * @param most how many at most
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

let load = async (): Promise<readonly string[]> => (await import('./table.generated.js')).registerTable;
let opened: Promise<Register> | undefined;

/** The register; its table is fetched when first asked for. */
export const openRegister = (): Promise<Register> => (opened ??= load().then((table) => new Register(table)));

/** Has the table come from elsewhere: into a worker, which cannot fetch a chunk of its own. */
export function provideRegister(from: () => Promise<readonly string[]>): void {
  load = from;
}
