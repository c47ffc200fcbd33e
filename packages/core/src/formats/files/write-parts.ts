import { Fault } from '../../base/fault.js';
import type { Bounds } from '../geojson/bounds.js';
import type { FileLayer } from './feature-file.js';
import type { ChangeReport } from './changes.js';
import { endingOf } from './formats.js';
import { formatToWrite } from './write-file.js';
import { WarningList } from './warnings.js';

/** Names of the formats that are written in parts. */
export const partWritten: readonly string[] = [
  'GeoJSON',
  'GeoJSON lines',
  'GeoJSON text sequence',
  'well-known text',
  'CSV',
];

/** Where the first record of a table ends; a line break within quotes does not end it (RFC 4180, section 2). */
function endOfRecord(bytes: Uint8Array): number {
  let quoted = false;
  for (let i = 0; i < bytes.length; i++) {
    if (bytes[i] === 0x22) quoted = !quoted;
    else if (bytes[i] === 0x0a && !quoted) return i + 1;
  }
  return bytes.length;
}

/** Writes a file layer by layer, so that it need not fit into memory. */
export class PartWriter {
  readonly warnings = new WarningList();
  private changes: ChangeReport | undefined;
  private readonly format: string;
  private count = 0;
  private header: string | undefined;

  /**
   * Begins a file.
   *
   * @param name file name; its extension sets the format
   * @throws Fault `file.ending`, `file.parts` for a format that is written as a whole
   */
  constructor(private readonly name: string) {
    this.format = formatToWrite(name).name;
    if (!partWritten.includes(this.format))
      throw new Fault(
        'file.parts',
        `${this.format} is not written in parts`,
        `These are: ${partWritten.join(', ')}. Use writeFeatureFile.`,
        name,
      );
  }

  /**
   * Returns the bytes of one more part.
   *
   * @param given its features
   * @throws Fault `file.unsteady` for a table whose later rows have other columns
   */
  async add(given: FileLayer): Promise<Uint8Array> {
    const [changes, { withinWorld }] = await Promise.all([import('./changes.js'), import('./within-world.js')]);
    const layer = withinWorld(given);
    this.changes ??= new changes.ChangeReport(this.format, this.warnings);
    this.changes.add([layer]);
    const first = this.count++ === 0;
    if (this.format === 'GeoJSON') {
      const { collectionText, boxMember } = await import('../geojson/file.js');
      const { Bounds } = await import('../geojson/bounds.js');
      const { head, items } = collectionText(layer);
      const bounds = (this.bounds ??= new Bounds());
      for (const { geometry } of layer.features) bounds.add(geometry);
      this.box = layer.bbox ?? this.box;
      this.tail = JSON.stringify(boxMember(bounds, this.box, layer)).slice(1, -1);
      const begun = this.begun;
      this.begun ||= items !== '';
      return encoder.encode(`${first ? head : ''}${begun && items ? ',\n' : ''}${items}`);
    }
    if (!layer.features.length && this.format !== 'CSV') return new Uint8Array();
    this.begun = true;
    const writer = await formatToWrite(this.name).writer!();
    // None of these formats is several files.
    const bytes = (await writer.write([layer], this.warnings, { ending: endingOf(this.name) })) as Uint8Array;
    if (this.format !== 'CSV') return bytes;
    const end = endOfRecord(bytes);
    const header = new TextDecoder().decode(bytes.subarray(0, end));
    this.header ??= header;
    if (layer.features.length && header !== this.header)
      throw new Fault(
        'file.unsteady',
        `the table has other columns further on: ${header.trim()}`,
        'Write it whole, or choose columns that all features have.',
        this.name,
      );
    return first ? bytes : bytes.subarray(end);
  }

  /** Whether a feature was written, so that the next is parted from it. */
  private begun = false;

  private bounds: Bounds | undefined;
  private box: readonly number[] | undefined;
  /** Members that stand behind the features. */
  private tail = '';

  /** Returns the end of the file. */
  end(): Uint8Array {
    if (this.format === 'GeoJSON') return encoder.encode(`]${this.tail && `,${this.tail}`}}\n`);
    // A file without a byte would look as if it had been cut off.
    return encoder.encode(this.begun ? '' : '\n');
  }
}

const encoder = new TextEncoder();
