import { Gunzip } from 'fflate';
import { Fault } from '../../base/fault.js';
import { isGzip, notUnpacked } from '../../base/gzip.js';
import type { FeatureFile, FilePart, FileLayer, ReadFileOptions } from './feature-file.js';
import { recognize } from './formats.js';
import { readFeatureFile } from './read-file.js';
import { CollectionSplitter, joined, LineSplitter, type Splitter } from './split.js';

/** How a file is read in parts. */
export interface StreamOptions extends ReadFileOptions {
  /** Bytes of a part, at least; default 1 MiB. */
  readonly partBytes?: number;
}

const splitters: Readonly<Record<string, (wanted: number) => Splitter>> = {
  GeoJSON: (wanted) => new CollectionSplitter(wanted),
  'GeoJSON lines': (wanted) => new LineSplitter('lines', wanted),
  'GeoJSON text sequence': (wanted) => new LineSplitter('separators', wanted),
  'well-known text': (wanted) => new LineSplitter('brackets', wanted),
  CSV: (wanted) => new LineSplitter('rows', wanted),
};

/** Formats that are read in parts, by their names; all others are read whole, and come as one part. */
export const streamedFormats: readonly string[] = Object.keys(splitters);

/** Bytes from which a format is told. */
const headBytes = 1 << 16;

/**
 * Reads a file of features in parts, each handed on before the next is read, so that a file need not fit into memory: GeoJSON, its lines
 * and sequences, CSV and well-known text. Other formats come as one part.
 *
 * What holds for the whole file is settled by its first part: the columns of a table, its decimal sign, the coordinate system.
 *
 * @param name name of the file, with its ending
 * @param pieces its bytes, in pieces of any size
 * @param options coordinate system, limits, size of the parts
 * @returns parts in their order; the warnings of each are those of it alone, with places that count from the beginning of the file
 * @throws Fault those of {@link readFeatureFile}, and `file.unsteady` where a later part contradicts what the first one settled
 */
export async function* streamFeatureFile(
  name: string,
  pieces: AsyncIterable<Uint8Array>,
  options: StreamOptions = {},
): AsyncGenerator<FeatureFile, void, undefined> {
  const { partBytes = 1 << 20, ...reading } = options;
  const plain = name.replace(/\.gz$/i, '');
  let splitter: Splitter | undefined;
  let whole: Uint8Array[] | undefined;
  let [lines, features, read] = [0, 0, 0];
  const settled = new Map<string, unknown>();
  let first: FileLayer | undefined;
  const readPart = async (part: { bytes: Uint8Array; lines: number; features: number }): Promise<FeatureFile> => {
    const own: FilePart = { lines, features, settled };
    const file = await readFeatureFile({ name: plain, bytes: part.bytes }, { ...reading, part: own });
    first = steady(first, file, plain, lines ? `line ${lines + 1}` : `feature ${features + 1}`, settled);
    lines += part.lines;
    features += file.layers.reduce((sum, layer) => sum + layer.features.length, 0);
    return file;
  };
  let head: Uint8Array[] | undefined = [];
  for await (const piece of unpacked(pieces)) {
    read += piece.length;
    let next = piece;
    if (head) {
      head.push(piece);
      if (read < headBytes) continue;
      next = joined(...head);
      [splitter, whole] = begin(plain, next, partBytes, settled);
      head = undefined;
    }
    if (whole) whole.push(next);
    else {
      const part = splitter!.take(next);
      if (part) yield await readPart(part);
    }
  }
  // A small file never left its head.
  if (head) whole = head;
  if (whole) yield await readFeatureFile({ name: plain, bytes: joined(...whole) }, reading);
  else {
    const part = splitter!.end();
    if (part && /\S/.test(new TextDecoder().decode(part.bytes.subarray(0, 4096)))) yield await readPart(part);
  }
}

function begin(
  name: string,
  head: Uint8Array,
  wanted: number,
  settled: Map<string, unknown>,
): [Splitter | undefined, Uint8Array[] | undefined] {
  const format = recognize(name, head)?.name ?? '';
  // UTF-16 has noughts in it: its line ends are not single bytes.
  const wide = head.subarray(0, 256).includes(0) || (head[0] === 0xff && head[1] === 0xfe);
  const make = wide || !Object.hasOwn(splitters, format) ? undefined : splitters[format];
  if (format === 'GeoJSON lines') settled.set('lines', true);
  return make ? [make(wanted), undefined] : [undefined, []];
}

/** What the first part settled, which the others have to agree with. @throws Fault `file.unsteady` */
function steady(
  first: FileLayer | undefined,
  { layers: [layer], warnings }: FeatureFile,
  name: string,
  at: string,
  settled: Map<string, unknown>,
): FileLayer {
  const swapped = warnings.some(({ code }) => code === 'mended.swapped');
  const sure = first === undefined || (layer.crs?.id === first.crs?.id && settled.get('swapped') === swapped);
  settled.set('swapped', settled.get('swapped') ?? swapped);
  // A system that is named behind the features holds for all that came before.
  const named = layer.crsSource === 'its crs member';
  if (sure || (!named && !layer.features.some(({ geometry }) => geometry))) return first ?? layer;
  throw new Fault(
    'file.unsteady',
    `what ${name} began with does not fit what comes later: ${layer.crs?.id ?? 'no known system'}${swapped ? ', swapped' : ''} in place of ${first.crs?.id ?? 'no known system'}`,
    'Name its coordinate system, or read it whole.',
    at,
  );
}

/** The pieces of a file, unpacked where it is packed with gzip. */
async function* unpacked(pieces: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  let gunzip: Gunzip | undefined;
  let begun = false;
  const ready: Uint8Array[] = [];
  let complete = false;
  const push = (piece: Uint8Array, last: boolean) => {
    try {
      gunzip!.push(piece, last);
    } catch (error) {
      throw notUnpacked(error);
    }
  };
  for await (const piece of pieces) {
    if (!begun && isGzip(piece)) {
      gunzip = new Gunzip((out, last) => {
        ready.push(out);
        complete ||= last;
      });
    }
    begun ||= piece.length > 0;
    if (!gunzip) {
      yield piece;
      continue;
    }
    push(piece, false);
    yield* ready.splice(0);
  }
  if (!gunzip) return;
  push(new Uint8Array(0), true);
  yield* ready.splice(0);
  if (!complete)
    throw new Fault('gzip.corrupt', 'the gzip data ends too early', 'The file was cut short; fetch or write it again.');
}
