import { Fault } from '../../base/fault.js';
import type { FileLayer, WriteFileOptions } from './feature-file.js';
import { endingOf, fileFormats, type FileFormat } from './formats.js';
import { WarningList, type FileWarning } from './warnings.js';

/** A file as written, and a word on what the format could not hold. */
export interface WrittenFile {
  readonly format: string;
  /** The file itself; of several that belong together, the first. */
  readonly bytes: Uint8Array;
  /** Every file with its name: one, or, for a shapefile (`.shp`), all that belong to it. */
  readonly files: readonly { readonly name: string; readonly bytes: Uint8Array }[];
  readonly warnings: readonly FileWarning[];
}

/** The formats that can be written. */
export const writableFormats = (): readonly FileFormat[] => fileFormats.filter(({ writer }) => writer);

/**
 * The format that the ending of a name asks for.
 *
 * @throws Fault `file.ending`
 */
export function formatToWrite(name: string): FileFormat {
  const ending = endingOf(name);
  const format = writableFormats().find(({ endings }) => endings.includes(ending));
  if (format) return format;
  throw new Fault(
    'file.ending',
    ending ? `files with the ending .${ending} are not written` : `${name} has no ending that says how to write it`,
    `Endings: ${writableFormats()
      .flatMap(({ endings }) => endings)
      .map((one) => `.${one}`)
      .join(', ')}.`,
    name,
  );
}

/**
 * Writes layers as a file.
 *
 * @param layers features and their coordinate systems
 * @param name name of the file; its ending says the format
 * @param options what only some formats ask for
 * @throws Fault `file.ending`, `crs.missing`, and those of the formats
 */
export async function writeFeatureFile(
  layers: readonly FileLayer[],
  name: string,
  options: WriteFileOptions = {},
): Promise<WrittenFile> {
  const format = formatToWrite(name);
  const warnings = new WarningList();
  if (!layers.length) throw new Fault('file.nothing', 'there is no layer to write', 'Read one first.', name);
  const [{ ChangeReport }, { withinWorld }] = await Promise.all([import('./changes.js'), import('./within-world.js')]);
  new ChangeReport(format.name, warnings).add(layers);
  const writer = await format.writer!();
  const written = await writer.write(layers.map(withinWorld), warnings, { ...options, ending: endingOf(name) });
  const stem = name.replace(/\.[^./\\]*$/, '');
  const files =
    written instanceof Uint8Array
      ? [{ name, bytes: written }]
      : Object.entries(written).map(([end, bytes]) => ({ name: stem + end, bytes }));
  return { format: format.name, bytes: files[0].bytes, files, warnings: warnings.list };
}
