// Turns the public register of coordinate systems, as a well-kept package has it, into a compact table; the build calls it.
import { createRequire } from 'node:module';
import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const require = createRequire(import.meta.url);

/**
 * Spherical world systems, and grids of the whole world, that data still comes in and that the package leaves out as out of date: code,
 * name, radius of the sphere (WGS 84 where none is given), method and its parameters (IOGP, EPSG Geodetic Parameter Dataset).
 */
const older = [
  [4047, 'Unspecified datum based upon the GRS 1980 Authalic Sphere', 6371007],
  [4052, 'Unspecified datum based upon the Clarke 1866 Authalic Sphere', 6370997],
  [4053, 'Unspecified datum based upon the International 1924 Authalic Sphere', 6371228],
  [4055, 'Popular Visualisation CRS', 6378137],
  [2163, 'US National Atlas Equal Area', 6370997, 'Lambert_Azimuthal_Equal_Area', [45, -100]],
  [3408, 'NSIDC EASE-Grid North', 6371228, 'Lambert_Azimuthal_Equal_Area', [90, 0]],
  [3409, 'NSIDC EASE-Grid South', 6371228, 'Lambert_Azimuthal_Equal_Area', [-90, 0]],
  [3410, 'NSIDC EASE-Grid Global', 6371228, 'Cylindrical_Equal_Area', [30, 0]],
  [3785, 'Popular Visualisation CRS / Mercator', 6378137, 'Mercator_1SP', [0, 0]],
  [3786, 'World Equidistant Cylindrical (Sphere)', 6371007, 'Equirectangular', [0, 0]],
  [4088, 'World Equidistant Cylindrical (Sphere), 4047', 6371007, 'Equirectangular', [0, 0]],
  [3973, 'WGS 84 / NSIDC EASE-Grid North', undefined, 'Lambert_Azimuthal_Equal_Area', [90, 0]],
  [3974, 'WGS 84 / NSIDC EASE-Grid South', undefined, 'Lambert_Azimuthal_Equal_Area', [-90, 0]],
  [3975, 'WGS 84 / NSIDC EASE-Grid Global', undefined, 'Cylindrical_Equal_Area', [30, 0]],
].map(([code, name, radius, method, [lat, lon] = []]) => {
  const shape = radius ? `SPHEROID["Sphere",${radius},0]` : 'SPHEROID["WGS 84",6378137,298.257223563]';
  const base = `GEOGCS["${radius ? 'Sphere' : 'WGS 84'}",DATUM["${radius ? 'Sphere' : 'WGS_1984'}",${shape}],PRIMEM["Greenwich",0],UNIT["degree",0.0174532925199433],AUTHORITY["EPSG","${code}"]]`;
  const [first, second] = /Lambert/.test(method ?? '')
    ? ['latitude_of_center', 'longitude_of_center']
    : [/Mercator/.test(method ?? '') ? 'latitude_of_origin' : 'standard_parallel_1', 'central_meridian'];
  return {
    code,
    name,
    kind: method ? 'CRS-PROJCRS' : 'CRS-GEOGCRS',
    area: 'World.',
    wkt: method
      ? `PROJCS["${name}",${base},PROJECTION["${method}"],PARAMETER["${first}",${lat}],PARAMETER["${second}",${lon}],PARAMETER["false_easting",0],PARAMETER["false_northing",0],UNIT["metre",1],AXIS["X",EAST],AXIS["Y",NORTH],AUTHORITY["EPSG","${code}"]]`
      : base,
  };
});

/** Systems that count from Paris and Ferro, which the package has without a text (IOGP, EPSG Geodetic Parameter Dataset). */
const elsewhere = (() => {
  const ntf =
    'GEOGCS["NTF (Paris)",DATUM["Nouvelle_Triangulation_Francaise",SPHEROID["Clarke 1880 (IGN)",6378249.2,293.466021293627],TOWGS84[-168,-60,320,0,0,0,0]],PRIMEM["Paris",2.5969213],UNIT["grad",0.015707963267949]';
  const sjtsk =
    'GEOGCS["S-JTSK (Ferro)",DATUM["System_of_the_Unified_Trigonometrical_Cadastral_Network",SPHEROID["Bessel 1841",6377397.155,299.1528128],TOWGS84[589,76,480,0,0,0,0]],PRIMEM["Ferro",-17.6666666666667],UNIT["degree",0.0174532925199433]';
  const france = [-4.87, 41.31, 9.63, 51.14];
  const zone = (code, name, box, [lat, scale, east, north]) => ({
    code,
    name: `NTF (Paris) / Lambert zone ${name}`,
    kind: 'CRS-PROJCRS',
    area: 'France.',
    box,
    wkt: `PROJCS["NTF (Paris) / Lambert zone ${name}",${ntf}],PROJECTION["Lambert_Conformal_Conic_1SP"],PARAMETER["latitude_of_origin",${lat}],PARAMETER["central_meridian",0],PARAMETER["scale_factor",${scale}],PARAMETER["false_easting",${east}],PARAMETER["false_northing",${north}],UNIT["metre",1],AXIS["X",EAST],AXIS["Y",NORTH],AUTHORITY["EPSG","${code}"]]`,
  });
  return [
    {
      code: 4807,
      name: 'NTF (Paris)',
      kind: 'CRS-GEOGCRS',
      area: 'France.',
      box: france,
      wkt: `${ntf},AUTHORITY["EPSG","4807"]]`,
    },
    {
      code: 4818,
      name: 'S-JTSK (Ferro)',
      kind: 'CRS-GEOGCRS',
      area: 'Czechia; Slovakia.',
      box: [12.09, 47.73, 22.56, 51.06],
      wkt: `${sjtsk},AUTHORITY["EPSG","4818"]]`,
    },
    zone(27571, 'I', [-4.87, 48.14, 8.23, 51.14], [55, 0.999877341, 600000, 1200000]),
    zone(27572, 'II', [-4.87, 42.33, 8.23, 51.14], [52, 0.99987742, 600000, 2200000]),
    zone(27573, 'III', [-1.79, 42.33, 7.71, 45.45], [49, 0.999877499, 600000, 3200000]),
    zone(27574, 'IV', [8.5, 41.31, 9.63, 43.07], [46.85, 0.99994471, 234.358, 4185861.369]),
  ].map(({ box: [west, south, east, north], ...system }) => ({ ...system, bbox: [north, west, south, east] }));
})();

const directions = { e: 'EAST', n: 'NORTH', w: 'WEST', s: 'SOUTH' };

/**
 * Directions of the axes that a text does not say. The package leaves them out where the authority does not have east first: its other
 * notation names them for systems to the south and west; polar systems have their own; in all others the northing comes first.
 */
function withAxes({ wkt, ...others }) {
  if (!wkt.startsWith('PROJCS') || wkt.includes('AXIS[')) return wkt;
  const said = /\+axis=(\w)(\w)/.exec(Object.values(others).join(' '));
  const isPolar = /PROJECTION\["[^"]*Polar/.test(wkt) || /PARAMETER\["latitude_of_(center|origin)",-?90\]/.test(wkt);
  if (isPolar && !said) return wkt;
  const ways = said ? [directions[said[1]], directions[said[2]]] : ['NORTH', 'EAST'];
  const axes = ways.map((way) => `AXIS["",${way}]`).join(',');
  return /,AUTHORITY\["\w+","\d+"\]\]$/.test(wkt)
    ? wkt.replace(/,AUTHORITY\["\w+","\d+"\]\]$/, (end) => `,${axes}${end}`)
    : wkt.replace(/\]$/, `,${axes}]`);
}

/** The two-dimensional systems of the register: code, name, kind, well-known text, the box and the words of the area of use. */
export function registered() {
  const kept = Object.values(require('epsg-index/all.json'))
    .map((system) => elsewhere.find(({ code }) => code === Number(system.code)) ?? system)
    .map((system) => (system.wkt ? { ...system, wkt: withAxes(system) } : system));
  const known = new Set(kept.map(({ code }) => Number(code)));
  return [...kept, ...older.filter(({ code }) => !known.has(code))]
    .filter(({ kind, name, wkt }) => (kind === 'CRS-PROJCRS' || kind === 'CRS-GEOGCRS') && wkt && !/3D/.test(name))
    .map(({ code, name, kind, wkt, bbox, area }) => {
      // Some systems of the other authority do not say where they are meant for.
      const [north, west, south, east] = bbox?.every(Number.isFinite) ? bbox : [90, -180, -90, 180];
      const isGeographic = kind === 'CRS-GEOGCRS';
      return {
        code: Number(code),
        name,
        kind: isGeographic ? 'geographic' : 'projected',
        wkt,
        box: [west, south, east, north],
        area,
      };
    })
    .sort((a, b) => a.code - b.code);
}

/** Well-known text as nested lists: a word, then its values and further lists. */
function parse(text) {
  // Words stand outside of quotes.
  const pieces = text
    .split('"')
    .map((piece, i) =>
      i % 2 ? piece : piece.replace(/([A-Z][A-Z0-9_]*)\[/g, '["$1",').replace(/,\s*([A-Z]+)(?=\])/g, ',"$1"'),
    );
  return JSON.parse(pieces.join('"'));
}
const find = (node, word) => node.find((item) => Array.isArray(item) && item[0] === word);

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

/** A box in halves of a degree, outwards. */
const outwards = ([west, south, east, north]) => [
  Math.floor(west * 2),
  Math.floor(south * 2),
  Math.ceil(east * 2),
  Math.ceil(north * 2),
];

/** The beginning of an area's words: the countries, without the corners of their borders. */
const shortened = (area) => {
  const first = (area ?? '')
    .replace(/\s+/g, ' ')
    .split(/ - | — |\. /)[0]
    .replace(/\.$/, '');
  return first.length > 48 ? `${first.slice(0, 47).trimEnd()}…` : first;
};

/** Columns of a list of rows, each column a line; numbers that run upwards as steps from one to the next. */
const column = (values) => values.join('\t');
const steps = (numbers) => column(numbers.map((n, i) => n - (numbers[i - 1] ?? 0)));

const quoted = ([word, ...values]) =>
  `${word}[${values.map((value) => (typeof value === 'string' ? `"${value}"` : value)).join(',')}]`;

/** Datum, prime meridian and unit of a base system, without the codes of its parts and without what is one product's. */
function baseText(geographic) {
  const datum = find(geographic, 'DATUM');
  const spheroid = find(datum, 'SPHEROID');
  const shift = find(datum, 'TOWGS84');
  const numbers = shift?.slice(1).some(Boolean) ? `,TOWGS84[${shift.slice(1).join(',')}]` : '';
  return `DATUM["${datum[1]}",${quoted(spheroid.slice(0, 4))}${numbers}],${quoted(find(geographic, 'PRIMEM').slice(0, 3))},${quoted(find(geographic, 'UNIT').slice(0, 3))}`;
}

function table() {
  const all = registered();
  const [areas, bases, methods, units, axes] = Array.from({ length: 5 }, () => new Book());
  const areaOf = ({ area, box }) => areas.of([shortened(area), ...outwards(box)].join('\t'));
  const own = all
    .filter(({ kind }) => kind === 'geographic')
    .map((system) => [system.code, bases.of(baseText(parse(system.wkt))), areaOf(system), system.name]);
  // A projected system mostly begins with the name of its base, which is written once.
  const nameOfBase = new Map(own.map(([, base, , name]) => [base, name]).reverse());
  const withoutBase = (name, base) => {
    const begins = `${nameOfBase.get(base)} / `;
    return name.startsWith(begins) ? `/${name.slice(begins.length)}` : name;
  };
  const rows = all
    .filter(({ kind }) => kind === 'projected')
    .map((system) => {
      const node = parse(system.wkt);
      const parameters = node.filter((item) => item[0] === 'PARAMETER');
      const said = node.filter((item) => item[0] === 'AXIS').map(([, , way]) => way);
      const base = bases.of(baseText(find(node, 'GEOGCS')));
      return [
        system.code,
        base,
        areaOf(system),
        withoutBase(system.name, base),
        methods.of([find(node, 'PROJECTION')[1], ...parameters.map(([, key]) => key)].join(',')),
        units.of(quoted(find(node, 'UNIT').slice(0, 3))),
        axes.of(said.join(',')),
        parameters.map(([, , value]) => value).join(','),
      ];
    });
  const of = (list, k) => list.map((row) => row[k]);
  const boxes = areas.texts.map((text) => text.split('\t'));
  // Codes of the EPSG data set end at 32767; those beyond are of the other common authority, which their text names.
  const authority = (beyond) =>
    all
      .filter(({ code }) => code > 32767 === beyond)
      .map(({ wkt }) => /AUTHORITY\["(\w+)","\d+"\]\]$/.exec(wkt)?.[1])[0];
  return [
    column([authority(false), authority(true)]),
    column(of(boxes, 0)),
    column(boxes.map((box) => box.slice(1).join(','))),
    column(bases.texts),
    column(methods.texts),
    column(units.texts),
    column(axes.texts),
    steps(of(own, 0)),
    column(of(own, 1)),
    column(of(own, 2)),
    column(of(own, 3)),
    steps(of(rows, 0)),
    column(of(rows, 1)),
    column(of(rows, 2)),
    ...[3, 4, 5, 6, 7].map((k) => column(of(rows, k))),
  ];
}

/** Writes the table. */
export function writeRegister() {
  const folder = join(root, 'packages/core/src/crs/register');
  mkdirSync(folder, { recursive: true });
  const head = '// Made by scripts/register.mjs out of the EPSG data set as the package epsg-index has it (ISC).';
  const columns = JSON.stringify(table(), null, 1);
  writeFileSync(
    join(folder, 'table.generated.ts'),
    `${head}\n/** Columns: see register.ts. */\nexport const registerTable: readonly string[] = ${columns};\n`,
  );
}
