import { open, readFile, stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { Fault, gunzip, isGzip, type ByteSource, type FeatureBlock } from '@flintwright/core';
import { formatOf } from '@flintwright/core/internal';

/** Reads a file whole. @throws Fault `file.missing` or `file.read` */
export async function readBytes(path: string): Promise<Uint8Array> {
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
    const { size } = await stat(path);
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

/** Reads features in any format that is known, packed with gzip or not, as one block. */
export const readFeatures = async (path: string, name?: string, space?: 'lonlat' | 'plan'): Promise<FeatureBlock> =>
  (await readFormat(path, name, space)).block;

/** Reads features, and says which format they came in. */
export async function readFormat(
  path: string,
  name = layerName(path),
  space: 'lonlat' | 'plan' = 'lonlat',
): Promise<{ readonly block: FeatureBlock; readonly format: string }> {
  const text = await readText(path);
  const format = formatOf(text, path);
  try {
    return { block: format.read(text, { name, space, placeless: true }), format: format.name };
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
