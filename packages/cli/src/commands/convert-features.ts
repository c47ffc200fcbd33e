import { readingOf, type ReadingOptions } from './reading.js';
import { Fault, getCrs, readGeoJson, type AxisOrder, type Crs } from '@flintwright/core';
import {
  assertField,
  formatToWrite,
  inSystem,
  partWritten,
  simplified,
  WarningList,
  withFields,
  withJoin,
  withRenamed,
  writeFeatureFile,
  type FeatureFile,
  type FileLayer,
  type WriteFileOptions,
  type WrittenFile,
} from '@flintwright/core/files';
import { crsNamed, featureParts, readFeaturesFile, warningText } from '../input.js';
import { writeFiles } from '../output.js';
import { CallFault, explain, paint, type Terminal } from '../terminal.js';
import { withAxes } from './axes.js';
import { convertParts, type Converted, type PartSteps } from './convert-parts.js';
import { compileFilter } from './filter.js';

export interface FeatureOptions extends ReadingOptions {
  readonly o: string;
  readonly from?: string;
  readonly to?: string;
  readonly fromAxes: string;
  readonly toAxes: string;
  readonly where?: string;
  readonly select?: string;
  readonly rename?: readonly string[];
  readonly join?: string;
  readonly match?: string;
  readonly simplify?: string;
  readonly as?: string;
  readonly addressOrder?: string;
  readonly json?: boolean;
}

/** Formats that say in which coordinate system their positions are; all others are written in longitude and latitude unless told. */
const saysSystem = ['Shapefile', 'GeoPackage'];
/** Formats of bare numbers, which may stay in a system that nothing names. */
const bare = ['CSV', 'well-known text', 'well-known binary'];

/** Turns features of any format into another, on the way into another system, filtered, joined and simplified. */
export async function convertFeatures(
  files: readonly string[],
  options: FeatureOptions,
  out: Terminal,
): Promise<number> {
  const toStream = options.o === '-';
  const target = toStream ? `out.${options.as ?? 'geojson'}` : options.o;
  const format = formatToWrite(target);
  if (toStream && /\.shp$/i.test(target))
    throw new CallFault(
      'convert.several',
      'a shapefile has several files, but standard output is one stream',
      'Write --as zip for an archive of them, or give -o a name.',
    );
  const steps = await stepsOf(options);
  orderOf(options.addressOrder, format.name);
  const { from, to, layers, files: several, warnings } = await converted(files, options, { target, steps, out });
  const features = layers.reduce((sum, layer) => sum + layer.features, 0);
  if (options.json && !toStream)
    out.say(
      JSON.stringify(
        {
          files,
          written: several ?? options.o,
          format: format.name,
          from: from.length === 1 ? from[0] : from,
          to: to.length === 1 ? to[0] : to,
          features,
          layers,
          warnings,
        },
        null,
        2,
      ),
    );
  else {
    const line = `${paint.green('✓')} ${paint.bold(options.o)}  ${format.name}, ${features.toLocaleString('en')} feature${features === 1 ? '' : 's'} from ${from.join(', ')} to ${to.join(', ')}`;
    if (toStream) out.warn(line);
    else out.say(line);
    if (several) out.say(`  ${several.join(', ')}`);
    for (const warning of warnings) out.warn(explain(warningText(warning), 'warning'));
  }
  return 0;
}

interface Call {
  readonly target: string;
  readonly steps: Steps;
  readonly out: Terminal;
}

/** Converts, a large file part by part where both formats and all that is asked for allow it. */
async function converted(files: readonly string[], options: FeatureOptions, call: Call): Promise<Converted> {
  const { target, steps, out } = call;
  const whole = options.join !== undefined || options.simplify !== undefined;
  const [file] = files;
  if (files.length > 1 || whole || !partWritten.includes(formatToWrite(target).name))
    return convertWhole(await readAll(files, options, call), options, call);
  out.progress(`reading ${file}`);
  const parts = featureParts(file, readingOf(options, steps.from));
  const begun: FeatureFile[] = [];
  for (let part = await parts.next(); !part.done && begun.push(part.value) < 2;) part = await parts.next();
  // What came in one part is in memory already.
  if (begun.length < 2) return convertWhole(begun, options, call);
  const rest = async function* () {
    // Parts are let go of when they have been handed on.
    while (begun.length) yield begun.shift()!;
    yield* parts;
  };
  try {
    return await convertParts(rest(), { target, path: options.o, steps: partSteps(options, call), out });
  } catch (error) {
    // A file can be read again from its beginning, standard input cannot.
    if (!(error instanceof Fault) || error.code !== 'file.unsteady' || file === '-' || options.o === '-') throw error;
    return convertWhole(await readAll(files, options, call), options, call);
  }
}

async function readAll(
  files: readonly string[],
  options: FeatureOptions,
  { steps, out }: Call,
): Promise<FeatureFile[]> {
  const read: FeatureFile[] = [];
  for (const file of files) {
    out.progress(`reading ${file}`);
    read.push(await readFeaturesFile(file, readingOf(options, steps.from)));
  }
  out.progress('');
  return read;
}

function partSteps(options: FeatureOptions, call: Call): PartSteps {
  const { where, select, rename } = options;
  const { fromAxes } = call.steps;
  return {
    where: where === undefined ? undefined : (layer) => filtered(layer, where),
    select: select?.split(',').map((name) => name.trim()),
    rename: renames(rename),
    move: (layer) => moved(fromAxes === 'authority' ? withAxes(layer, layer.crs, 'toXY') : layer, call),
  };
}

/** A layer in the coordinate system that it is written in. */
function moved(layer: FileLayer, { target, steps }: Call): FileLayer {
  const format = formatToWrite(target).name;
  const to = steps.to ?? (saysSystem.includes(format) ? undefined : getCrs('OGC:CRS84'));
  const stays = !to || (!steps.to && !layer.crs && bare.includes(format));
  const placed = stays ? layer : inSystem(layer, to);
  return steps.toAxes === 'authority' ? withAxes(placed, placed.crs, 'fromXY') : placed;
}

async function convertWhole(read: readonly FeatureFile[], options: FeatureOptions, call: Call): Promise<Converted> {
  const { target, steps, out } = call;
  const layers = read.flatMap((file) =>
    file.layers.map((layer) => (steps.fromAxes === 'authority' ? withAxes(layer, layer.crs, 'toXY') : layer)),
  );
  out.progress('');
  if (!layers.length) layers.push(emptyLayer(read));
  const found = new WarningList();
  const changed = await change(named(layers), options, found);
  const written = changed.map((layer) => moved(layer, call));
  const { files, warnings: lost } = await withColumns(() =>
    writeFeatureFile(written, target, orderOf(options.addressOrder, formatToWrite(target).name)),
  );
  const stale = await writeFiles(options.o, files);
  const ids = (of: readonly FileLayer[]) => [...new Set(of.map(({ crs }) => crs?.id ?? 'an unknown system'))];
  return {
    from: ids(layers),
    to: ids(written),
    layers: written.map(({ name, features }) => ({ layer: name, features: features.length })),
    files: files.length > 1 ? files.map(({ name }) => name) : undefined,
    warnings: [...read.flatMap((file) => file.warnings), ...found.list, ...lost, ...stale],
  };
}

/** The layer of files that have none, such as an empty tile. @throws Fault `file.nothing` where what they have could not be read */
function emptyLayer(read: readonly FeatureFile[]): FileLayer {
  const [lost] = read.flatMap(({ warnings }) => warnings);
  if (lost)
    throw new Fault(
      'file.nothing',
      `there is no layer that can be read: ${lost.message}${lost.places.length ? ` (${lost.places[0]})` : ''}`,
      'Nothing was written.',
    );
  return { name: 'features', features: [], crs: getCrs('OGC:CRS84'), crsSource: 'the file has no features' };
}

/** The order of addresses that was asked for. @throws CallFault `convert.addresses` */
function orderOf(order: string | undefined, format: string): WriteFileOptions {
  if (order === undefined) return {};
  if (format === 'gazetteer' && (order === 'number-first' || order === 'number-last')) return { addressOrder: order };
  throw new CallFault(
    'convert.addresses',
    format === 'gazetteer'
      ? `--address-order ${order} is not an order of addresses`
      : `--address-order stands with ${format}`,
    format === 'gazetteer' ? 'Write number-first or number-last.' : 'This option is only for gazetteers. Remove it.',
  );
}

const byAnotherName =
  'Take a column as the name with --rename COLUMN=name, as part of an address with --rename COLUMN=street or COLUMN=number.';

/** Says how columns are renamed where a gazetteer leaves features out, or finds none, because it knows no names. */
async function withColumns(write: () => Promise<WrittenFile>): Promise<WrittenFile> {
  try {
    const { warnings, ...written } = await write();
    return {
      ...written,
      warnings: warnings.map((one) =>
        one.code === 'skipped.nameless' ? { ...one, hint: `${one.hint} ${byAnotherName}` } : one,
      ),
    };
  } catch (error) {
    if (!(error instanceof Fault) || error.code !== 'places.none') throw error;
    throw new Fault(error.code, error.message, `${error.hint} ${byAnotherName}`, error.at, error);
  }
}

interface Steps {
  readonly from: Crs | undefined;
  readonly to: Crs | undefined;
  readonly fromAxes: AxisOrder;
  readonly toAxes: AxisOrder;
}

async function stepsOf({ from, to, fromAxes, toAxes, join, match, simplify }: FeatureOptions): Promise<Steps> {
  if ((join === undefined) !== (match === undefined))
    throw new CallFault(
      'convert.join',
      join === undefined ? '--match needs --join' : '--join needs --match',
      'Write --join TABLE --match attribute=column.',
    );
  if (simplify !== undefined && !(Number(simplify) > 0))
    throw new CallFault(
      'convert.simplify',
      `--simplify ${simplify} is not a distance`,
      'Write meters, such as --simplify 20.',
    );
  return {
    from: from === undefined ? undefined : await crsNamed(from),
    to: to === undefined ? undefined : await crsNamed(to),
    fromAxes: axesOf('--from-axes', fromAxes),
    toAxes: axesOf('--to-axes', toAxes),
  };
}

function axesOf(option: string, value: string): AxisOrder {
  if (value === 'east-north' || value === 'authority') return value;
  throw new CallFault('convert.axes', `${option} ${value} is not an axis order`, 'Write east-north or authority.');
}

/** Layers whose names are all different. */
function named(layers: readonly FileLayer[]): FileLayer[] {
  const taken = new Set<string>();
  return layers.map((layer) => {
    let { name } = layer;
    for (let k = 2; taken.has(name); k++) name = `${layer.name}-${k}`;
    taken.add(name);
    return { ...layer, name };
  });
}

async function change(
  layers: readonly FileLayer[],
  options: FeatureOptions,
  warnings: WarningList,
): Promise<FileLayer[]> {
  const { where, select, rename, join, match, simplify } = options;
  let out = [...layers];
  if (join !== undefined && match !== undefined) {
    const [, attribute, column] = /^([^=]+)=(.+)$/.exec(match) ?? [];
    if (attribute === undefined)
      throw new CallFault(
        'convert.match',
        `--match ${match} does not name two attributes`,
        'Write --match attribute=column.',
      );
    const table = await readFeaturesFile(join);
    assertField(attribute, out);
    assertField(column, table.layers);
    const rows = table.layers.flatMap(({ features }) => features);
    out = out.map((layer) => withJoin(layer, rows, [attribute, column], warnings));
  }
  if (where !== undefined) {
    const kept = out.map((layer) => filtered(layer, where));
    if (!kept.some(({ features }) => features.length))
      throw new Fault(
        'convert.nothing',
        `no feature matches --where "${where}"`,
        'Try the filter with flintwright inspect --where.',
      );
    out = kept.filter(({ features }) => features.length);
  }
  if (select !== undefined) {
    const names = select.split(',').map((name) => name.trim());
    names.forEach((name) => assertField(name, out));
    out = out.map((layer) => withFields(layer, names));
  }
  if (rename?.length) {
    const names = renames(rename);
    for (const from of names.keys()) assertField(from, out);
    out = out.map((layer) => withRenamed(layer, names));
  }
  if (simplify !== undefined) out = out.map((layer) => simplified(layer, Number(simplify)));
  return out;
}

/** New names of attributes by their old ones. @throws CallFault `convert.rename` */
function renames(pairs: readonly string[] = []): Map<string, string> {
  return new Map(
    pairs.map((pair) => {
      const [, from, to] = /^([^=]+)=(.+)$/.exec(pair) ?? [];
      if (from === undefined)
        throw new CallFault(
          'convert.rename',
          `--rename ${pair} does not name two attributes`,
          'Write --rename old=new.',
        );
      return [from, to] as const;
    }),
  );
}

/** The features that pass a filter; one with several kinds of geometry passes where one of them does. */
function filtered(layer: FileLayer, where: string): FileLayer {
  const filter = compileFilter(where);
  const kept = layer.features.filter((feature) => {
    const block = readGeoJson(feature, {
      name: layer.name,
      space: layer.crs?.isGeographic === false ? 'plan' : 'lonlat',
    });
    const evaluate = filter.bind({ block, zoom: 0 });
    return Array.from({ length: block.count }, (_, f) => evaluate(f)).includes(true);
  });
  return { ...layer, features: kept };
}
