import { Fault } from '../../base/fault.js';
import type { Crs } from '../../crs/crs.js';
import { crsFromText } from '../../crs/match.js';
import {
  settle,
  type FileFeature,
  type FileInput,
  type FileLayer,
  type FilePart,
  type FileReader,
} from '../files/feature-file.js';
import { mendGeometry } from '../files/mend.js';
import { Records } from '../files/records.js';
import type { WarningList } from '../files/warnings.js';
import { isZip, unzip } from '../zip/unpack.js';
import { shapefileRows } from './faults.js';
import { readDbf } from './dbf.js';
import { readShapes } from './shapes.js';

/** The files of one shapefile, by their endings. */
type Parts = Readonly<Record<string, Uint8Array>>;

/** Reads shapefiles (the technical description of 1998): loose, with what stands beside them, or packed; an archive may hold several. */
export const shapefileReader: FileReader = {
  async read({ name, bytes, siblings = {} }: FileInput, warnings, { unpacked, progress, part, strict }) {
    const sets = isZip(bytes)
      ? setsIn(unzip(bytes, name, unpacked), name)
      : new Map([[stem(name), { ...siblings, shp: bytes }]]);
    const layers: FileLayer[] = [];
    for (const [title, parts] of sets) {
      progress?.(layers.length / sets.size);
      layers.push(await readSet(title, parts, warnings, { part, strict: strict ?? false }));
    }
    return layers;
  },
};

const stem = (path: string) => path.replace(/^.*[\\/]/, '').replace(/\.[^.]*$/, '');

/** The shapefiles of an archive, each with its parts. */
function setsIn(files: ReadonlyMap<string, Uint8Array>, at: string): Map<string, Parts> {
  const sets = new Map<string, Record<string, Uint8Array>>();
  for (const [path, bytes] of files) {
    if (/(^|\/)__MACOSX\//.test(path)) continue;
    const [, base, ending] = /^(.*)\.([a-z]{3})$/i.exec(path) ?? [];
    if (base === undefined) continue;
    const key = base.toLowerCase();
    sets.set(key, { ...sets.get(key), [ending.toLowerCase()]: bytes });
  }
  const whole = [...sets].filter(([, parts]) => parts['shp']);
  if (!whole.length)
    throw new Fault(
      'shapefile.archive',
      `the archive ${at} contains no .shp file, but ${[...files.keys()].slice(0, 5).join(', ') || 'nothing'}`,
      'Check the file.',
      at,
    );
  const titles = [...files.keys()].filter((path) => /\.shp$/i.test(path));
  return new Map(
    whole.map(([key, parts]) => [stem(titles.find((path) => path.toLowerCase() === `${key}.shp`) ?? key), parts]),
  );
}

async function readSet(
  name: string,
  parts: Parts,
  warnings: WarningList,
  { part, strict }: { readonly part: FilePart | undefined; readonly strict: boolean },
): Promise<FileLayer> {
  const records = new Records(warnings, strict);
  // What is missing beside the file is missing for all its parts: it is told with the first.
  const first = !part?.features;
  const shapes = readShapes(parts['shp'], `${name}.shp`, warnings, records);
  if (!parts['shx'] && first)
    warnings.add(
      'mended.no-shx',
      'the .shx index is missing',
      'The shapes were read one after the other; nothing is lost.',
      `${name}.shx`,
    );
  const cpg = parts['cpg'] && new TextDecoder().decode(parts['cpg']).trim();
  const rows = parts['dbf'] ? await readDbf(parts['dbf'], `${name}.dbf`, cpg || undefined, warnings, part) : undefined;
  if (!rows && first)
    warnings.add(
      'mended.no-dbf',
      'the .dbf table is missing',
      'The shapes have no attributes. Add it to have them.',
      `${name}.dbf`,
    );
  if (rows && rows.length !== shapes.length) throw shapefileRows(name, rows.length, String(shapes.length));
  const features = shapes.flatMap(({ number, geometry }, i): FileFeature[] => {
    const row = rows ? rows[i] : {};
    if (!row) return [];
    return [
      {
        type: 'Feature',
        geometry:
          geometry &&
          records.geometry(`${name}, record ${number}`, () =>
            mendGeometry(geometry, `${name}, record ${number}`, warnings),
          ),
        properties: row,
      },
    ];
  });
  if (!part) records.finish(features);
  return { name, features, ...(await settle(part, 'system', () => systemOf(name, parts, warnings))) };
}

async function systemOf(
  name: string,
  parts: Parts,
  warnings: WarningList,
): Promise<{ readonly crs: Crs | undefined; readonly crsSource: string }> {
  if (!parts['prj']) {
    warnings.add(
      'mended.no-prj',
      'no .prj file says in which coordinate system the shapes are',
      'Coordinates that can be degrees are read as longitude and latitude; otherwise set the system.',
      `${name}.prj`,
    );
    return { crs: undefined, crsSource: 'nothing says it' };
  }
  const text = new TextDecoder().decode(parts['prj']).replace(/^\uFEFF/, '');
  const { crs, note } = await crsFromText(text, `${name}.prj`);
  return { crs, crsSource: note };
}
