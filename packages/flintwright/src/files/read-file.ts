import { Fault } from '@flintwright/core';
import type { ReadFile } from './messages.js';
import { readInWorker, type ReadWatch } from './read-in-worker.js';

/** Options of reading a file. */
export interface ReadFileOptions extends ReadWatch {
  /** Coordinate system of the positions, such as `EPSG:32625`, regardless of what the file declares; default that of the file. */
  readonly crs?: string;
  /** Sidecar files, such as the `.dbf` and `.prj` of a `.shp`; unrelated files are ignored. Default none. */
  readonly siblings?: readonly File[];
}

const ending = (name: string) => name.replace(/^.*\./, '').toLowerCase();
const stem = (name: string) => name.replace(/\.[^.]*$/, '').toLowerCase();
const bytesOf = async (file: Blob) => new Uint8Array(await file.arrayBuffer());

/**
 * Reads a file of features in any supported format, in a worker. Returns features in longitude and latitude, attributes, bounds and
 * warnings.
 *
 * @param file a dropped or chosen file, or any blob with a name
 * @param options coordinate system, sidecar files, signal and progress
 * @throws Fault with the place in the file; the signal's reason if aborted
 */
export async function readFile(file: File, options: ReadFileOptions = {}): Promise<ReadFile> {
  if (!(file instanceof Blob))
    throw new Fault('file.kind', 'readFile expects a File', 'Pass a File from a file input or a drop.');
  const belonging = (options.siblings ?? []).filter(({ name }) => stem(name) === stem(file.name) && name !== file.name);
  const siblings = Object.fromEntries(
    await Promise.all(belonging.map(async (sibling) => [ending(sibling.name), await bytesOf(sibling)] as const)),
  );
  const request = { name: file.name, bytes: await bytesOf(file), siblings, crs: options.crs };
  return (await readInWorker(request, options)) as ReadFile;
}
