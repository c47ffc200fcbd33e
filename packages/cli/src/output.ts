import { randomUUID } from 'node:crypto';
import { rmSync } from 'node:fs';
import { lstat, open, readdir, readlink, rename, rm, stat } from 'node:fs/promises';
import { basename, dirname, join, resolve } from 'node:path';
import { Fault } from '@flintwright/core';
import { WarningList, type FileWarning } from '@flintwright/core/files';
import { isSidecar } from '@flintwright/core/internal';

/** Files that are being written, to be cleaned away when the command is ended from outside. */
const underWay = new Set<string>();

function cleanUp(signal: NodeJS.Signals): void {
  for (const path of underWay) rmSync(path, { force: true });
  process.off(signal, cleanUp);
  // The signal does then what it does.
  process.kill(process.pid, signal);
}

const signals = ['SIGINT', 'SIGTERM', 'SIGHUP'] as const;

function begin(path: string): void {
  if (!underWay.size) for (const signal of signals) process.on(signal, cleanUp);
  underWay.add(path);
}

function end(path: string): void {
  underWay.delete(path);
  if (!underWay.size) for (const signal of signals) process.off(signal, cleanUp);
}

/** Where a path leads: to a file that is there, with its mode; to what is no file, such as a device; or to nothing yet. */
async function targetOf(
  path: string,
): Promise<{ readonly path: string; readonly mode?: number; readonly device?: true }> {
  let real = path;
  try {
    // A link stays one, and what it leads to is written.
    if ((await lstat(path)).isSymbolicLink()) real = resolve(dirname(path), await readlink(path));
    const found = await stat(real);
    if (found.isDirectory()) throw new Fault('file.folder', `${path} is a folder`, 'Name a file in it.', path);
    return found.isFile() ? { path: real, mode: found.mode } : { path: real, device: true };
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return { path: real };
    throw error;
  }
}

/**
 * Writes a file whole: beside its place first, and into it only when all is written, so that what was there before is not lost to a
 * writing that breaks off. A link stays a link, a file keeps its mode, and a device is written to.
 *
 * @throws Fault `file.write`, `file.folder`
 */
export async function writeWhole(
  path: string,
  pieces: Iterable<Uint8Array | string> | AsyncIterable<Uint8Array | string>,
): Promise<void> {
  let beside: string | undefined;
  try {
    const target = await targetOf(path);
    // A name of this writer alone, so that two do not write into each other.
    const into = target.device ? target.path : `${target.path}.${process.pid}-${randomUUID().slice(0, 8)}.part`;
    // A signal that comes as soon as the file is there has to find it.
    if (!target.device) begin((beside = into));
    const file = await open(into, 'w', target.mode);
    try {
      for await (const piece of pieces) await file.writeFile(piece);
      if (target.mode !== undefined) await file.chmod(target.mode & 0o7777);
    } finally {
      await file.close();
    }
    if (beside) await rename(beside, target.path);
  } catch (error) {
    if (beside) await rm(beside, { force: true });
    // What broke off while the pieces were made has its own words.
    if (error instanceof Fault) throw error;
    throw new Fault(
      'file.write',
      `${path} cannot be written: ${(error as Error).message}`,
      'Check the folder and the space left.',
      path,
      error,
    );
  } finally {
    if (beside) end(beside);
  }
}

/** Writes a file piece by piece; `-` is standard output. @throws Fault `file.write` */
export async function writePieces(
  path: string,
  pieces: Iterable<Uint8Array> | AsyncIterable<Uint8Array>,
): Promise<void> {
  if (path !== '-') return writeWhole(path, pieces);
  try {
    for await (const piece of pieces)
      await new Promise<void>((done, failed) =>
        process.stdout.write(piece, (error) => (error ? failed(error) : done())),
      );
  } catch (error) {
    // Whoever reads has had enough.
    if ((error as NodeJS.ErrnoException).code === 'EPIPE') return;
    if (error instanceof Fault) throw error;
    throw new Fault(
      'file.write',
      `standard output cannot be written: ${(error as Error).message}`,
      'Check where it leads, and the space left there.',
      undefined,
      error,
    );
  }
}

/**
 * Writes files that belong together, the first of them last, so that whoever waits for it finds the others. Of a shapefile that was there
 * before, files that the new one does not have (an index, a coordinate system) would be taken for its own: they are deleted, and reported.
 *
 * @param path where to write a single file; `-` is standard output
 * @param files with their paths, the main one first
 * @throws Fault `file.write`
 */
export async function writeFiles(
  path: string,
  files: readonly { readonly name: string; readonly bytes: Uint8Array }[],
): Promise<readonly FileWarning[]> {
  const [main, ...others] = files;
  if (!others.length) {
    await writeBytes(path, main.bytes);
    return [];
  }
  const warnings = new WarningList();
  for (const { name } of files.filter((file) => /\.shp$/i.test(file.name))) {
    const folder = dirname(name);
    const present = (await readdir(folder).catch(() => [])).filter((one) => isSidecar(one, basename(name)));
    for (const stale of present.filter((one) => !files.some((file) => basename(file.name) === one))) {
      await rm(join(folder, stale));
      warnings.add(
        'mended.stale',
        'files of an earlier shapefile of this name stood beside it',
        'They did not fit the new one and were deleted.',
        stale,
      );
    }
  }
  for (const { name, bytes } of [...others, main]) await writeWhole(name, [bytes]);
  return warnings.list;
}

/** Writes a file whole; `-` is standard output. @throws Fault `file.write` */
export const writeBytes = (path: string, bytes: Uint8Array): Promise<void> => writePieces(path, [bytes]);
