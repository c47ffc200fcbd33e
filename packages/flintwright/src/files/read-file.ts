import { Fault } from '@flintwright/core';
import type { ReadFile } from './messages.js';
import { readInWorker, type ReadWatch } from './read-in-worker.js';

/** Choices of reading a file. */
export interface ReadFileOptions extends ReadWatch {
  /** Coordinate system of its positions, such as `EPSG:32625`, whatever the file says; default its own. */
  readonly crs?: string;
  /** Files that belong to it, such as the `.dbf` and `.prj` of a `.shp`; others are left alone. Default none. */
  readonly siblings?: readonly File[];
}

const ending = (name: string) => name.replace(/^.*\./, '').toLowerCase();
const stem = (name: string) => name.replace(/\.[^.]*$/, '').toLowerCase();
const bytesOf = async (file: Blob) => new Uint8Array(await file.arrayBuffer());

/**
 * Reads a file of features in any format that is known, in a worker: features in longitude and latitude, fields, bounds, and a word
 * on what was mended.
 *
 * @param file a file that was dropped or chosen, or any blob with a name
 * @param options coordinate system, files that belong to it, signal and progress
 * @throws Fault with the place at fault; the signal's reason when it was aborted
 */
export async function readFile(file: File, options: ReadFileOptions = {}): Promise<ReadFile> {
  if (!(file instanceof Blob))
    throw new Fault(
      'file.kind',
      'readFile was handed something that is no file',
      'Hand over a File, as an input or a drop gives it.',
    );
  const belonging = (options.siblings ?? []).filter(({ name }) => stem(name) === stem(file.name) && name !== file.name);
  const siblings = Object.fromEntries(
    await Promise.all(belonging.map(async (sibling) => [ending(sibling.name), await bytesOf(sibling)] as const)),
  );
  const request = { name: file.name, bytes: await bytesOf(file), siblings, crs: options.crs };
  return (await readInWorker(request, options)) as ReadFile;
}
