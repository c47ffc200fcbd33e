// Turns the public register of coordinate systems, as a well-kept package has it, into a compact table; the build calls it.
import { createRequire } from 'node:module';
import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const require = createRequire(import.meta.url);

/** The two-dimensional systems of the register, by kind: code, description, well-known text and the box and name of the area of use. */
export function registered() {
  const take = (file, list) =>
    require(`@esri/proj-codes/${file}.json`)[list].filter(
      // Systems with heights say so by a unit for them.
      ({ authority, wkt }) => authority === 'EPSG' && !wkt.includes('LINUNIT['),
    );
  return {
    geographic: take('pe_list_geogcs', 'GeographicCoordinateSystems'),
    projected: take('pe_list_projcs', 'ProjectedCoordinateSystems'),
  };
}

/** Texts by number, in the order in which they are first asked for. */
class Book {
  #numbers = new Map();
  of(text) {
    if (!this.#numbers.has(text)) this.#numbers.set(text, this.#numbers.size);
    return this.#numbers.get(text);
  }
  get texts() {
    return [...this.#numbers.keys()];
  }
}

const plainNumber = (text) => String(Number(text));

/** A box in whole tenths of a degree, outwards. */
const outwards = ({ llon, slat, rlon, nlat }) => [
  Math.floor(llon * 10),
  Math.floor(slat * 10),
  Math.ceil(rlon * 10),
  Math.ceil(nlat * 10),
];

/** Columns of a list of rows, each column a line; numbers that run upwards as steps from one to the next. */
const column = (values) => values.join('\t');
const steps = (numbers) => column(numbers.map((n, i) => n - (numbers[i - 1] ?? 0)));

function table() {
  const { geographic, projected } = registered();
  const [areas, bases, methods, units] = [new Book(), new Book(), new Book(), new Book()];
  const areaOf = ({ extent: [area] }) => areas.of([area.areaname, ...outwards(area)].join('\t'));
  const numbersIn = (text) => text.replace(/(?<=[,[])[-+]?\d[\d.eE+-]*(?=[,\]])/g, plainNumber);
  const baseOf = (wkt) =>
    bases.of(
      numbersIn(wkt)
        .replace(/^GEOGCS\[/, '')
        .replace(/\]$/, ''),
    );
  const own = geographic.map((system) => [system.wkid, baseOf(system.wkt), areaOf(system), system.description]);
  const rows = projected.map((system) => {
    const [, name, base, method, parameters, unit] =
      /^PROJCS\["([^"]*)",(GEOGCS\[.*?UNIT\[[^\]]*\]\]),PROJECTION\["([^"]*)"\],(.*),UNIT\[([^\]]*)\]\]$/.exec(
        system.wkt,
      );
    const pairs = [...parameters.matchAll(/PARAMETER\["([^"]*)",([^\]]*)\]/g)].map(([, key, value]) => [
      key,
      plainNumber(value),
    ]);
    return [
      system.wkid,
      baseOf(base),
      areaOf(system),
      name,
      methods.of([method, ...pairs.map(([key]) => key)].join(',')),
      units.of(numbersIn(`[${unit}]`).slice(1, -1)),
      pairs.map(([, value]) => value).join(','),
    ];
  });
  const of = (list, k) => list.map((row) => row[k]);
  const boxes = areas.texts.map((text) => text.split('\t'));
  return [
    column(of(boxes, 0)),
    column(boxes.map((box) => box.slice(1).join(','))),
    column(bases.texts),
    column(methods.texts),
    column(units.texts),
    steps(of(own, 0)),
    column(of(own, 1)),
    steps(of(own, 2)),
    column(of(own, 3)),
    steps(of(rows, 0)),
    column(of(rows, 1)),
    steps(of(rows, 2)),
    column(of(rows, 3)),
    column(of(rows, 4)),
    column(of(rows, 5)),
    column(of(rows, 6)),
  ];
}

/** Writes the table. */
export function writeRegister() {
  const folder = join(root, 'packages/core/src/crs/register');
  mkdirSync(folder, { recursive: true });
  const head =
    '// Made by scripts/register.mjs out of the EPSG data set as the package @esri/proj-codes has it (Apache-2.0).';
  const columns = JSON.stringify(table(), null, 1);
  writeFileSync(
    join(folder, 'table.generated.ts'),
    `${head}\n/** Columns: see register.ts. */\nexport const registerTable: readonly string[] = ${columns};\n`,
  );
}
