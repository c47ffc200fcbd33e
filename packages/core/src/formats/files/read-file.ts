import { Fault } from '../../base/fault.js';
import { gunzip } from '../../base/gzip.js';
import { isGzip } from '../../base/native-gzip.js';
import { areaOfUse, datumDoubt } from '../../crs/match.js';
import { getCrs } from '../../crs/registry.js';
import { withDoubts } from './doubts.js';
import type { FeatureFile, FileInput, FileLayer, ReadFileOptions } from './feature-file.js';
import { fileFormats, recognize, stranger } from './formats.js';
import { eachPosition } from './mend.js';
import { WarningList } from './warnings.js';

/**
 * Reads a file of features in any supported format, recognized by its content. What was repaired, left out or looks wrong is returned as
 * warnings.
 *
 * @param input name, bytes, and sidecar files
 * @param options coordinate system, limits, progress
 * @throws Fault `file.format` for an unsupported format, `file.empty`; and those of the formats, with the place in the file
 */
export async function readFeatureFile(input: FileInput, options: ReadFileOptions = {}): Promise<FeatureFile> {
  const warnings = new WarningList();
  const packed = isGzip(input.bytes);
  const bytes = packed ? gunzip(input.bytes, input.name, options.unpacked ?? 2 ** 30) : input.bytes;
  const name = packed ? input.name.replace(/\.gz$/i, '') : input.name;
  // A vector tile without a byte is one without layers: a message may have no fields.
  if (!bytes.length && !/\.(mvt|pbf)$/i.test(name))
    throw new Fault(
      'file.empty',
      `${input.name} is empty`,
      'Writing it may have been interrupted; create it again.',
      input.name,
    );
  const format = recognize(name, bytes);
  if (!format?.reader) throw unknownFormat(input.name, bytes);
  const reader = await format.reader();
  let layers: readonly FileLayer[];
  try {
    layers = await reader.read({ ...input, name, bytes }, warnings, options);
  } catch (error) {
    if (!(error instanceof Fault)) throw error;
    throw new Fault(error.code, error.message, error.hint, placed(input.name, error.at), error);
  }
  const checked: FileLayer[] = [];
  for (const layer of layers) checked.push(await checkedLayer(layer, warnings, options));
  return { format: format.name, layers: checked, warnings: warnings.list };
}

const placed = (name: string, at: string | undefined) =>
  at === undefined ? name : at.startsWith(name) ? at : `${name}, ${at}`;

function unknownFormat(name: string, bytes: Uint8Array): Fault {
  const known = stranger(name, bytes);
  const readable = fileFormats.filter(({ reader }) => reader).map((format) => format.name);
  return new Fault(
    'file.format',
    known ? `${name} is ${known.name}, which is not read here` : `${name} is in none of the formats that are read`,
    known ? known.how : `These are: ${readable.join(', ')}.`,
    name,
  );
}

/** A layer looked over, in the system that the caller or the file names; without either, degrees where the numbers can be degrees. */
async function checkedLayer(
  layer: FileLayer,
  warnings: WarningList,
  { crs: stated, part }: ReadFileOptions,
): Promise<FileLayer> {
  const named = stated ? { ...layer, crs: stated, crsSource: 'as stated' } : layer;
  const area = named.crs && (await areaOfUse(named.crs));
  const out = withDoubts(named, area, warnings, part?.features);
  const doubt = out.crs && (await datumDoubt(out.crs));
  if (out.crs && doubt !== undefined)
    warnings.add(
      'doubtful.datum',
      `the transformation from the datum of ${out.crs.id} to WGS 84 is unknown`,
      `Places may be off by up to ${doubt} m, as those of other datums on its ellipsoid are. Give the system as well-known text with TOWGS84 if that matters.`,
    );
  if (out.crs || out.planar) return out;
  let degrees = true;
  for (const { geometry } of out.features)
    eachPosition(geometry, ([x, y]) => {
      if (Math.abs(x) > 360 || Math.abs(y) > 90) degrees = false;
    });
  return degrees ? { ...out, crs: getCrs('OGC:CRS84'), crsSource: 'taken for longitude and latitude' } : out;
}
