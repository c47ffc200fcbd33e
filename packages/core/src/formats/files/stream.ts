import { Fault } from '../../base/fault.js';
import { Unpacker } from '../../base/gzip.js';
import { isGzip } from '../../base/native-gzip.js';
import type { FeatureFile, FilePart, FileLayer, ReadFileOptions } from './feature-file.js';
import { recognize } from './formats.js';
import { readFeatureFile } from './read-file.js';
import type { RowSplitter } from '../shapefile/split.js';
import { CollectionSplitter, joined, LineSplitter, type SplitPart, type Splitter } from './split.js';

/** Options of reading in parts. */
export interface StreamOptions extends ReadFileOptions {
  /** Minimum size of a part in bytes; default 1 MiB. */
  readonly partBytes?: number;
  /**
   * Files that belong to it, by their endings in lower case, in pieces: a shapefile comes in parts where its shapes stand loose, with its
   * table as `dbf`, and with `prj`, `cpg` and `shx`; default none.
   */
  readonly siblings?: Readonly<Record<string, AsyncIterable<Uint8Array>>>;
}

type MakeSplitter = (wanted: number, name: string) => Splitter | Promise<Splitter>;

const shapefileSplit = () => import('../shapefile/split.js');

const splitters: Readonly<Record<string, MakeSplitter>> = {
  Shapefile: async (wanted, name) => new (await shapefileSplit()).ShapeSplitter(name, wanted),
  GeoJSON: (wanted) => new CollectionSplitter(wanted),
  'GeoJSON lines': (wanted) => new LineSplitter('lines', wanted),
  'GeoJSON text sequence': (wanted) => new LineSplitter('separators', wanted),
  'well-known text': (wanted) => new LineSplitter('brackets', wanted),
  CSV: (wanted) => new LineSplitter('rows', wanted),
};

/** Names of the formats that are read in parts; all others are read as a whole, as one part. */
export const streamedFormats: readonly string[] = Object.keys(splitters);

/** Bytes from which a format is told. */
const headBytes = 1 << 16;

/**
 * Reads a file of features in parts, each handed on before the next is read, so that a file need not fit into memory: GeoJSON, its lines
 * and sequences, CSV, well-known text and loose shapefiles. Other formats come as one part.
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
  const { partBytes = 1 << 20, siblings = {}, ...reading } = options;
  const plain = name.replace(/\.gz$/i, '');
  let splitter: Splitter | undefined;
  let whole: Uint8Array[] | undefined;
  let [lines, features, read] = [0, 0, 0];
  const settled = new Map<string, unknown>();
  let first: FileLayer | undefined;
  const beside = new Siblings(plain, siblings);
  const readPart = async (part: SplitPart): Promise<FeatureFile> => {
    const own: FilePart = { lines, features, settled };
    const input = { name: plain, bytes: part.bytes, siblings: await beside.of(part) };
    const file = await readFeatureFile(input, { ...reading, part: own });
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
      [splitter, whole] = await begin(plain, next, partBytes, settled);
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
  if (whole)
    yield await readFeatureFile({ name: plain, bytes: joined(...whole), siblings: await beside.whole() }, reading);
  else {
    const part = splitter!.end();
    if (part && /\S/.test(new TextDecoder().decode(part.bytes.subarray(0, 4096)))) yield await readPart(part);
    beside.end();
  }
}

/** What stands beside a file: small files are read once, and a table is handed out row by row. */
class Siblings {
  private rows: RowSplitter | undefined;
  private small: Readonly<Record<string, Uint8Array>> | undefined;

  constructor(
    private readonly name: string,
    private readonly pieces: Readonly<Record<string, AsyncIterable<Uint8Array>>>,
  ) {}

  private async read(endings: readonly string[]): Promise<Readonly<Record<string, Uint8Array>>> {
    const out: Record<string, Uint8Array> = {};
    for (const ending of endings) {
      const all: Uint8Array[] = [];
      for await (const piece of this.pieces[ending]) all.push(piece);
      out[ending] = joined(...all);
    }
    return out;
  }

  whole(): Promise<Readonly<Record<string, Uint8Array>>> {
    return this.read(Object.keys(this.pieces));
  }

  /** What belongs to a part. The index is of no use to it, but that it is there is. */
  async of({ features }: SplitPart): Promise<Readonly<Record<string, Uint8Array>>> {
    const { dbf, shx } = this.pieces;
    this.small ??= {
      ...(await this.read(['prj', 'cpg'].filter((ending) => this.pieces[ending]))),
      ...(shx && { shx: new Uint8Array(0) }),
    };
    if (!dbf) return this.small;
    this.rows ??= new (await shapefileSplit()).RowSplitter(this.name.replace(/^.*[\\/]|\.[^.]*$/g, ''), dbf);
    return { ...this.small, dbf: await this.rows.next(features) };
  }

  end(): void {
    this.rows?.end();
  }
}

/** A packed shapefile begins as an archive does. */
const isLoose = (format: string, head: Uint8Array) => format !== 'Shapefile' || head[0] === 0;

async function begin(
  name: string,
  head: Uint8Array,
  wanted: number,
  settled: Map<string, unknown>,
): Promise<[Splitter | undefined, Uint8Array[] | undefined]> {
  const format = recognize(name, head)?.name ?? '';
  // UTF-16 has noughts in it: its line ends are not single bytes.
  const wide = (format !== 'Shapefile' && head.subarray(0, 256).includes(0)) || (head[0] === 0xff && head[1] === 0xfe);
  const make = wide || !Object.hasOwn(splitters, format) || !isLoose(format, head) ? undefined : splitters[format];
  if (format === 'GeoJSON lines') settled.set('lines', true);
  return make ? [await make(wanted, name), undefined] : [undefined, []];
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

/** The pieces of a file, unpacked where it is packed with gzip; a stream may be as long as it likes, as it is never held whole. */
async function* unpacked(pieces: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  let unpacker: Unpacker | undefined;
  let begun = false;
  for await (const piece of pieces) {
    if (!begun && isGzip(piece)) unpacker = new Unpacker(undefined, Infinity);
    begun ||= piece.length > 0;
    if (unpacker) yield* unpacker.take(piece);
    else yield piece;
  }
  unpacker?.end();
}
