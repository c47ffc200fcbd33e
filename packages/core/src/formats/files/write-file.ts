import { Fault } from '../../base/fault.js';
import type { FileLayer, WriteFileOptions } from './feature-file.js';
import { endingOf, fileFormats, type FileFormat } from './formats.js';
import { WarningList, type FileWarning } from './warnings.js';

/** A written file, and warnings about what the format cannot store. */
export interface WrittenFile {
  readonly format: string;
  /** The file; the first of several that belong together. */
  readonly bytes: Uint8Array;
  /** All files by name: one, or all files of a shapefile (`.shp`). */
  readonly files: readonly { readonly name: string; readonly bytes: Uint8Array }[];
  readonly warnings: readonly FileWarning[];
}

/** The formats that can be written. */
export const writableFormats = (): readonly FileFormat[] => fileFormats.filter(({ writer }) => writer);

/** Returns the format for the extension of a file name. @throws Fault `file.ending` */
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
 * @param name file name; its extension sets the format
 * @param options options of the format
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
