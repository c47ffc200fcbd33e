import { open, readdir, readFile, stat } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { Fault, gunzip, isGzip, type ByteSource, type Crs, type FeatureBlock, type SheetData } from '@flintwright/core';
import {
  blockOfLayers,
  crsByCode,
  readFeatureFile,
  streamFeatureFile,
  type FeatureFile,
  type FileWarning,
  type ReadFileOptions,
} from '@flintwright/core/files';
import { formatOf, isSidecar, readSidecars } from '@flintwright/core/internal';
import { createReadStream, existsSync } from 'node:fs';

/** Reads a file whole; `-` is standard input. @throws Fault `file.missing` or `file.read` */
export async function readBytes(path: string): Promise<Uint8Array> {
  if (path === '-') {
    const pieces: Uint8Array[] = [];
    for await (const piece of process.stdin) pieces.push(piece as Uint8Array);
    return new Uint8Array(Buffer.concat(pieces));
  }
  try {
    return new Uint8Array(await readFile(path));
  } catch (error) {
    throw unreadable(path, error);
  }
}

function unreadable(path: string, error: unknown): Fault {
  const { code, message } = error as NodeJS.ErrnoException;
  if (code === 'ENOENT') return new Fault('file.missing', `there is no file ${path}`, 'Check the path.', path, error);
  if (code === 'EISDIR') return new Fault('file.folder', `${path} is a folder`, 'Name a file in it.', path, error);
  return new Fault('file.read', `${path} cannot be read: ${message}`, 'Check that you may read it.', path, error);
}

/** A file on disk as a source to be read in pieces. Close it when done. */
export async function fileSource(
  path: string,
): Promise<ByteSource & { close(): Promise<void>; readonly size: number }> {
  try {
    const found = await stat(path);
    // A folder can be opened, and fails only when it is read.
    if (found.isDirectory()) throw Object.assign(new Error('a folder'), { code: 'EISDIR' });
    const { size } = found;
    const file = await open(path, 'r');
    return {
      size,
      read: async (offset, length) => {
        const buffer = new Uint8Array(Math.max(0, Math.min(length, size - offset)));
        const { bytesRead } = await file.read(buffer, 0, buffer.length, offset);
        return buffer.subarray(0, bytesRead);
      },
      close: () => file.close(),
    };
  } catch (error) {
    throw unreadable(path, error);
  }
}

/** The name of a file without folder and endings: a layer's name. */
export const layerName = (path: string) =>
  basename(path)
    .replace(/\.(gz)$/i, '')
    .replace(/\.[^.]+$/, '');

/** Reads a text file, packed with gzip or not. */
export async function readText(path: string): Promise<string> {
  const bytes = await readBytes(path);
  return new TextDecoder().decode(isGzip(bytes) ? gunzip(bytes, path) : bytes);
}

/** Paths of the files beside a .shp file that belong to it, by their endings. */
async function siblingPaths(path: string): Promise<readonly (readonly [ending: string, path: string])[]> {
  if (!/\.shp$/i.test(path)) return [];
  let names: readonly string[];
  try {
    names = await readdir(dirname(path));
  } catch (error) {
    throw unreadable(path, error);
  }
  return names
    .filter((name) => isSidecar(name, basename(path)) && readSidecars.some((ending) => endingOf(name) === ending))
    .map((name) => [endingOf(name), join(dirname(path), name)] as const);
}

const endingOf = (name: string) => name.replace(/^.*\./, '').toLowerCase();

async function siblingsOf(path: string): Promise<Record<string, Uint8Array>> {
  const read = (await siblingPaths(path)).map(async ([ending, own]) => [ending, await readBytes(own)] as const);
  return Object.fromEntries(await Promise.all(read));
}

/** The first bytes of an SQLite database, which is read in place; none of other files. */
async function databaseHead(path: string): Promise<Uint8Array | undefined> {
  const source = await fileSource(path);
  try {
    const head = await source.read(0, 1 << 20);
    // Its file format, section 1.3.1.
    return new TextDecoder('iso-8859-1').decode(head.subarray(0, 16)) === 'SQLite format 3\0' ? head : undefined;
  } finally {
    await source.close();
  }
}

/** Reads a file of features in any format, with what stands beside it. @throws Fault with the path */
export async function readFeaturesFile(path: string, options: ReadFileOptions = {}): Promise<FeatureFile> {
  const database = path === '-' ? undefined : await databaseHead(path);
  const bytes = database ?? (await readBytes(path));
  const siblings = path === '-' ? {} : await siblingsOf(path);
  try {
    const name = path === '-' ? 'standard input' : basename(path);
    return await readFeatureFile({ name, bytes, siblings, path: database && path }, options);
  } catch (error) {
    if (!(error instanceof Fault)) throw error;
    const at = error.at?.replace(basename(path), path) ?? path;
    throw new Fault(error.code, error.message.replaceAll(basename(path), path), error.hint, at, error);
  }
}

/** Reads a file of features part by part; `-` is standard input. @throws Fault with the path */
export async function* featureParts(path: string, options: ReadFileOptions = {}): AsyncGenerator<FeatureFile> {
  const name = path === '-' ? 'standard input' : basename(path);
  const stream = (own: string): AsyncIterable<Uint8Array> => createReadStream(own, { highWaterMark: 1 << 20 });
  const pieces: AsyncIterable<Uint8Array> = path === '-' ? process.stdin : stream(path);
  try {
    const siblings = Object.fromEntries(
      (await siblingPaths(path)).map(([ending, own]) => [ending, lazily(own, stream)]),
    );
    yield* streamFeatureFile(name, pieces, { ...options, siblings });
  } catch (error) {
    if (!(error instanceof Fault)) throw unreadable(path, error);
    const at = error.at?.replace(name, path) ?? path;
    throw new Fault(error.code, error.message.replaceAll(name, path), error.hint, at, error);
  }
}

/** A file that is opened when it is first asked for. */
async function* lazily(path: string, stream: (path: string) => AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  yield* stream(path);
}

/** Reads features in any format as one block in longitude and latitude; or, for a plan, as the numbers stand. */
export async function readFeatures(
  path: string,
  name: string = layerName(path),
  space: 'lonlat' | 'plan' = 'lonlat',
  { crs, x, y }: Pick<SheetData, 'crs' | 'x' | 'y'> = {},
): Promise<FeatureBlock> {
  if (space === 'lonlat') {
    const stated = crs === undefined ? undefined : await crsByCode(crs);
    return blockOfLayers((await readFeaturesFile(path, { crs: stated, x, y })).layers, name);
  }
  const text = await readText(path);
  try {
    return formatOf(text, path).read(text, { name, space, placeless: true });
  } catch (error) {
    if (error instanceof Fault)
      throw new Fault(
        error.code,
        error.message,
        error.hint,
        error.at && error.at !== path ? `${path}, ${error.at}` : path,
        error,
      );
    throw error;
  }
}

/** A coordinate system by its code, or out of a file that describes it. */
export async function crsNamed(name: string): Promise<Crs> {
  if (!existsSync(name)) return crsByCode(name);
  try {
    return await crsByCode(await readText(name));
  } catch (error) {
    if (error instanceof Fault)
      throw new Fault(error.code, error.message, error.hint, error.at ? `${name}, ${error.at}` : name, error);
    throw error;
  }
}

/** A warning of a reader or writer as a fault's kin, for the printers of those. */
export function warningText({ code, message, hint, count, places }: FileWarning): Fault {
  const shown = places.join('; ');
  const at = shown ? `${count > places.length ? `${shown}; …` : shown}` : undefined;
  return new Fault(code, count > 1 ? `${message} (${count.toLocaleString('en')}×)` : message, hint, at);
}
