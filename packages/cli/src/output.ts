import { open, rename, rm } from 'node:fs/promises';
import { Fault } from '@flintwright/core';

/**
 * Writes a file whole: beside its place first, and into it only when all is written, so that what was there before is not lost to a
 * writing that breaks off.
 *
 * @throws Fault `file.write`
 */
export async function writeWhole(
  path: string,
  pieces: Iterable<Uint8Array | string> | AsyncIterable<Uint8Array | string>,
): Promise<void> {
  const beside = `${path}.part`;
  let made = false;
  try {
    const file = await open(beside, 'w');
    made = true;
    try {
      for await (const piece of pieces) await file.writeFile(piece);
    } finally {
      await file.close();
    }
    await rename(beside, path);
  } catch (error) {
    if (made) await rm(beside, { force: true });
    // What broke off while the pieces were made has its own words.
    if (error instanceof Fault) throw error;
    throw new Fault(
      'file.write',
      `${path} cannot be written: ${(error as Error).message}`,
      'Check the folder and the space left.',
      path,
      error,
    );
  }
}

/** Writes a file piece by piece; `-` is standard output. @throws Fault `file.write` */
export async function writePieces(
  path: string,
  pieces: Iterable<Uint8Array> | AsyncIterable<Uint8Array>,
): Promise<void> {
  if (path !== '-') return writeWhole(path, pieces);
  for await (const piece of pieces)
    await new Promise<void>((done, failed) => process.stdout.write(piece, (error) => (error ? failed(error) : done())));
}

/** Writes a file whole; `-` is standard output. @throws Fault `file.write` */
export const writeBytes = (path: string, bytes: Uint8Array): Promise<void> => writePieces(path, [bytes]);
