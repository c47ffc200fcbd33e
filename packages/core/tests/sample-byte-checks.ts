// Independent readers of well-known text, well-known binary and shapefiles, which say what is not as the standards have it.
import { inflateRawSync } from 'node:zlib';

/** What the well-known text of a geometry has that OGC 06-103r4, section 7, does not allow. */
export function wktFaults(text: string): string[] {
  const number = '-?\\d+(?:\\.\\d+)?(?:[eE][+-]?\\d+)?';
  const word = 'POINT|LINESTRING|POLYGON|MULTIPOINT|MULTILINESTRING|MULTIPOLYGON';
  const once = (pattern: string, name: string, from: string) => from.replace(new RegExp(pattern, 'g'), name);
  const faults: string[] = [];
  let rest = text;
  for (const z of [false, true]) {
    const mark = z ? ' Z ' : ' ';
    const position = `${number}(?: ${number}){${z ? 2 : 1}}`;
    const line = `\\(${position}(?:, ${position})+\\)`;
    const rings = `\\(${line}(?:, ${line})*\\)`;
    for (const [kind, body] of [
      ['POLYGON', rings],
      ['MULTIPOLYGON', `\\(${rings}(?:, ${rings})*\\)`],
      ['MULTILINESTRING', rings],
      ['MULTIPOINT', `\\(\\(${position}\\)(?:, \\(${position}\\))*\\)`],
      ['LINESTRING', line],
      ['POINT', `\\(${position}\\)`],
    ])
      rest = once(`(?<![A-Z])${kind}${mark}${body}`, '§', rest);
  }
  for (let before = ''; before !== rest;) {
    before = rest;
    rest = once('GEOMETRYCOLLECTION (?:EMPTY|\\(§(?:, §)*\\))', '§', rest);
  }
  if (rest !== '§') faults.push(`not as section 7 has it: ${rest.slice(0, 80)}`);
  if (new RegExp(`(?:${word})\\(`).test(text)) faults.push('no blank behind the name');
  return faults;
}

/** What well-known binary has that ISO 13249-3 does not allow: types, counts, members, and bytes left over. */
export function wkbFaults(bytes: Uint8Array): string[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let at = 0;
  const uint = () => view.getUint32((at += 4) - 4, true);
  const geometry = (only?: number): void => {
    if (view.getUint8(at++) !== 1) throw new Error('no byte order');
    const code = uint();
    const [dimensions, kind] = [Math.floor(code / 1000), code % 1000];
    if (dimensions > 1 || kind < 1 || kind > 7) throw new Error(`type ${code}`);
    if (only !== undefined && code !== only) throw new Error(`a member of type ${code} where ${only} is wanted`);
    const positions = (count: number) => {
      for (let k = 0; k < count * (2 + dimensions); k++, at += 8)
        if (k % (2 + dimensions) < 2 && !Number.isFinite(view.getFloat64(at, true))) throw new Error('no position');
    };
    if (kind === 1) return positions(1);
    const count = uint();
    if (kind === 2) return positions(count);
    for (let k = 0; k < count; k++)
      if (kind === 3) positions(uint());
      else geometry(kind === 7 ? undefined : kind - 3 + 1000 * dimensions);
  };
  try {
    geometry();
    return at === bytes.length ? [] : [`${bytes.length - at} bytes are left`];
  } catch (error) {
    return [(error as Error).message];
  }
}

interface File {
  readonly name: string;
  readonly bytes: Uint8Array;
}

/** What a shapefile has that its technical description (1998) and dBASE III do not allow. */
export function shapefileFaults(files: readonly File[]): string[] {
  const faults: string[] = [];
  const stems = files.filter(({ name }) => name.endsWith('.shp')).map(({ name }) => name.slice(0, -4));
  if (!stems.length) faults.push('no .shp file');
  for (const stem of stems) {
    const part = (ending: string) => files.find(({ name }) => name === stem + ending)?.bytes;
    const [shp, shx, dbf] = [part('.shp'), part('.shx'), part('.dbf')];
    if (!shp || !shx || !dbf || !part('.cpg')) {
      faults.push(`${stem}: a file is missing`);
      continue;
    }
    const rows = tableFaults(dbf, faults);
    const records = shapeFaults(shp, shx, faults);
    if (rows !== records) faults.push(`${records} shapes and ${rows} rows`);
  }
  return faults;
}

function shapeFaults(shp: Uint8Array, shx: Uint8Array, faults: string[]): number {
  const [main, index] = [shp, shx].map((own) => new DataView(own.buffer, own.byteOffset, own.byteLength));
  const type = main.getInt32(32, true);
  for (const [view, own] of [
    [main, shp],
    [index, shx],
  ] as const)
    if (view.getInt32(0) !== 9994 || view.getInt32(24) * 2 !== own.length || view.getInt32(28, true) !== 1000)
      faults.push('a header');
  let count = 0;
  for (let at = 100; at < shp.length; count++) {
    const length = main.getInt32(at + 4) * 2;
    if (main.getInt32(at) !== count + 1) faults.push('records are not numbered from 1');
    if (index.getInt32(100 + 8 * count) * 2 !== at || index.getInt32(104 + 8 * count) * 2 !== length)
      faults.push('the index says another place');
    const own = main.getInt32(at + 8, true);
    if (own !== 0 && own !== type) faults.push(`a shape of type ${own} among those of type ${type}`);
    const [points, parts] = /^[35]|1[35]$/.test(String(own))
      ? [main.getInt32(at + 48, true), main.getInt32(at + 44, true)]
      : [];
    if (points !== undefined && parts !== undefined) {
      const size = 44 + 4 * parts + 16 * points + (own > 10 ? 2 * (16 + 8 * points) : 0);
      if (size !== length) faults.push(`a record has ${length} bytes, and ${size} are wanted`);
      const starts = Array.from({ length: parts }, (_, k) => main.getInt32(at + 52 + 4 * k, true));
      const base = at + 52 + 4 * parts;
      if (own % 10 === 5)
        starts.forEach((start, k) => {
          const stop = starts[k + 1] ?? points;
          const x = (i: number) => main.getFloat64(base + 16 * i, true);
          const y = (i: number) => main.getFloat64(base + 16 * i + 8, true);
          let area = 0;
          for (let i = start; i + 1 < stop; i++) area += x(i) * y(i + 1) - x(i + 1) * y(i);
          if (x(start) !== x(stop - 1) || y(start) !== y(stop - 1)) faults.push('an open ring');
          // The first ring of a shape is an outer one, which runs clockwise.
          if (k === 0 && area > 0) faults.push('an outer ring runs counter-clockwise');
        });
    }
    at += 8 + length;
  }
  if (shx.length !== 100 + 8 * count) faults.push('the index has another number of records');
  return count;
}

function tableFaults(dbf: Uint8Array, faults: string[]): number {
  const view = new DataView(dbf.buffer, dbf.byteOffset, dbf.byteLength);
  const [rows, head, length] = [view.getUint32(4, true), view.getUint16(8, true), view.getUint16(10, true)];
  const today = new Date();
  // A run over midnight may be a day late.
  const written = Date.UTC(1900 + dbf[1], dbf[2] - 1, dbf[3]);
  if (dbf[0] !== 3 || Math.abs(written - today.getTime()) > 2 * 864e5) faults.push(`version ${dbf[0]}, date ${dbf[1]}`);
  let width = 1;
  const names = new Set<string>();
  for (let at = 32; at < head - 1; at += 32) {
    const name = new TextDecoder().decode(dbf.subarray(at, at + 11)).replace(/\0.*$/s, '');
    const [type, size, decimals] = [String.fromCharCode(dbf[at + 11]), dbf[at + 16], dbf[at + 17]];
    if (!name || names.has(name.toUpperCase())) faults.push(`a field is named "${name}"`);
    names.add(name.toUpperCase());
    if (!'CNLD'.includes(type)) faults.push(`a field of type ${type}`);
    if (size < 1 || size > 254 || (type === 'N' && (size > 20 || (decimals > 0 && decimals > size - 2))))
      faults.push(`a field ${type} of ${size} bytes with ${decimals} decimals`);
    for (let row = 0; row < rows; row++) {
      const cell = new TextDecoder().decode(
        dbf.subarray(head + row * length + width, head + row * length + width + size),
      );
      const ok = { N: /^ *(-?\d+(\.\d+)?)?$/, L: /^[TF ]$/, D: /^(\d{8}| {8})$/, C: /^[^\0]*$/s }[type];
      if (ok && !ok.test(cell)) faults.push(`a cell of type ${type} is "${cell}"`);
    }
    width += size;
  }
  if (dbf[head - 1] !== 0x0d) faults.push('the fields do not end');
  if (width !== length) faults.push(`rows have ${length} bytes, and fields ${width}`);
  if (dbf.length !== head + rows * length + 1 || dbf[dbf.length - 1] !== 0x1a) faults.push('the table does not end');
  return rows;
}

/** The files of a ZIP archive, by its central directory (ISO/IEC 21320-1). */
export function unpacked(archive: Uint8Array): Map<string, Uint8Array> {
  const view = new DataView(archive.buffer, archive.byteOffset, archive.byteLength);
  let end = archive.length - 22;
  while (view.getUint32(end, true) !== 0x06054b50) end--;
  const files = new Map<string, Uint8Array>();
  for (let k = 0, at = view.getUint32(end + 16, true); k < view.getUint16(end + 10, true); k++) {
    const [method, size, nameLength] = [10, 20, 28].map((offset) =>
      offset === 20 ? view.getUint32(at + offset, true) : view.getUint16(at + offset, true),
    );
    const name = new TextDecoder().decode(archive.subarray(at + 46, at + 46 + nameLength));
    const local = view.getUint32(at + 42, true);
    const start = local + 30 + view.getUint16(local + 26, true) + view.getUint16(local + 28, true);
    const packed = archive.subarray(start, start + size);
    files.set(name, method === 8 ? new Uint8Array(inflateRawSync(packed)) : packed);
    at += 46 + nameLength + view.getUint16(at + 30, true) + view.getUint16(at + 32, true);
  }
  return files;
}
