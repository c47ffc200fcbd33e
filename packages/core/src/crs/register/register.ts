// The public register of coordinate systems (EPSG geodetic parameter data set), in a chunk of its own. Nothing but what asks for a
// code that the small registry does not have loads it.
import { nearestSpelling } from '../../base/spelling.js';
import type { CrsDefinition } from '../crs.js';
import { readCrs } from '../wkt.js';
import { withKnownDatum } from './shifts.js';
import { registerTable } from './table.generated.js';

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

let rows: readonly Row[] | undefined;
let byCode: ReadonlyMap<number, Row>;
let byName: ReadonlyMap<string, Row>;

/** Names without anything but letters and digits, and without what the dialects put before them. */
const plain = (name: string) =>
  name
    .toLowerCase()
    .replace(/^gcs_|^etrf_/, '')
    .replace(/[^a-z0-9]/g, '');

function all(): readonly Row[] {
  if (rows) return rows;
  const [
    areaNames,
    boxes,
    bases,
    methods,
    units,
    ownCodes,
    ownBases,
    ownAreas,
    ownNames,
    codes,
    rowBases,
    rowAreas,
    names,
    kinds,
    rowUnits,
    values,
  ] = registerTable;
  const [areas, areaBoxes, base, method, unit] = [areaNames, boxes, bases, methods, units].map(split);
  const area = (i: number) => areaBoxes[i].split(',').map((v) => Number(v) / 10) as unknown as RegisteredCrs['area'];
  const common = (code: number, name: string, where: number) => ({
    code,
    id: `EPSG:${code}`,
    name,
    areaName: areas[where],
    area: area(where),
  });
  const [baseOfOwn, areaOfOwn, nameOfOwn] = [split(ownBases), stepped(ownAreas), split(ownNames)];
  const geographic = stepped(ownCodes).map((code, i): Row => ({
    ...common(code, nameOfOwn[i], areaOfOwn[i]),
    kind: 'geographic',
    text: () => `GEOGCS[${base[Number(baseOfOwn[i])]}]`,
  }));
  const [baseOf, areaOf, nameOf, kindOf, unitOf, valuesOf] = [
    split(rowBases),
    stepped(rowAreas),
    split(names),
    split(kinds),
    split(rowUnits),
    split(values),
  ];
  const projected = stepped(codes).map((code, i): Row => {
    const text = () => {
      const [title, ...keys] = method[Number(kindOf[i])].split(',');
      const numbers = valuesOf[i].split(',');
      const parameters = keys.map((key, k) => `PARAMETER["${key}",${numbers[k]}]`);
      return `PROJCS["${nameOf[i]}",GEOGCS[${base[Number(baseOf[i])]}],PROJECTION["${title}"],${parameters.join(',')},UNIT[${unit[Number(unitOf[i])]}]]`;
    };
    return { ...common(code, nameOf[i].replaceAll('_', ' '), areaOf[i]), kind: 'projected', text };
  });
  rows = [...geographic, ...projected];
  byCode = new Map(rows.map((row) => [row.code, row]));
  // Where a name stands twice, the older code is the one that files mean.
  byName = new Map(
    [...rows]
      .reverse()
      .flatMap((row) => [
        [plain(row.name), row] as const,
        [plain(/"([^"]*)"/.exec(row.text())?.[1] ?? ''), row] as const,
      ]),
  );
  return rows;
}

/** Well-known text 1 of a code, in the dialect of .prj files; undefined for a code that the register does not have. */
export function registeredText(code: number): string | undefined {
  all();
  return byCode.get(code)?.text();
}

/** The definition of a code; undefined where the register has none. @throws Fault `crs.method` or `crs.parameter` for what is not built yet */
export function registeredDefinition(code: number): CrsDefinition | undefined {
  all();
  const row = byCode.get(code);
  if (!row) return undefined;
  return withKnownDatum({ ...readCrs(row.text()), id: row.id, area: row.area }, row.text());
}

/** The code of a system of that name, as .prj files write names; undefined where there is none. */
export function registeredCode(name: string): number | undefined {
  all();
  return byName.get(plain(name))?.code;
}

const listed = ({ id, name, areaName, area, kind }: Row): RegisteredCrs => ({ id, name, areaName, area, kind });

/**
 * Systems whose name, area or code has all words of a text, the shortest names first.
 *
 * @param text words in any order, such as `utm 25n` or `portugal`
 * @param most how many at most; default 20
 */
export function searchRegister(text: string, most = 20): RegisteredCrs[] {
  const words = text
    .toLowerCase()
    .split(/[\s,]+/)
    .filter(Boolean);
  const found = all().filter((row) => {
    const hay = `${row.id} ${row.name} ${row.areaName}`.toLowerCase();
    return words.every((word) => hay.includes(word));
  });
  return found
    .toSorted(
      (a, b) =>
        Number(/deprecated/i.test(a.name)) - Number(/deprecated/i.test(b.name)) || a.name.length - b.name.length,
    )
    .slice(0, most)
    .map(listed);
}

/** The word of the register's names and areas nearest to a word, for a search that found nothing. */
export function nearestWord(text: string): string | undefined {
  const words = new Set(all().flatMap(({ name, areaName }) => `${name} ${areaName}`.split(/[^\p{L}\d]+/u)));
  return nearestSpelling(
    text,
    [...words].filter((word) => word.length > 3),
  );
}

/** All systems of the register. */
export const registeredSystems = (): RegisteredCrs[] => all().map(listed);
