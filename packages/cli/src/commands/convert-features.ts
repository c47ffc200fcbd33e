import { Fault, getCrs, readGeoJson, type AxisOrder, type Crs } from '@flintwright/core';
import {
  assertField,
  formatToWrite,
  inSystem,
  simplified,
  WarningList,
  withFields,
  withJoin,
  withRenamed,
  writeFeatureFile,
  type FileLayer,
  type FileWarning,
} from '@flintwright/core/files';
import { crsNamed, readFeaturesFile, warningText } from '../input.js';
import { writeBytes } from '../output.js';
import { CallFault, explain, paint, type Terminal } from '../terminal.js';
import { withAxes } from './axes.js';
import { compileFilter } from './filter.js';

export interface FeatureOptions {
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
  const steps = await stepsOf(options);
  const warnings: FileWarning[] = [];
  const layers: FileLayer[] = [];
  for (const file of files) {
    out.progress(`reading ${file}`);
    const read = await readFeaturesFile(file, { crs: steps.from });
    warnings.push(...read.warnings);
    layers.push(...read.layers.map((layer) => (steps.fromAxes === 'authority' ? withAxes(layer, layer.crs) : layer)));
  }
  out.progress('');
  const found = new WarningList();
  const changed = await change(named(layers), options, found);
  const systems = [...new Set(layers.map(({ crs }) => crs?.id ?? 'an unknown system'))];
  const to = steps.to ?? (saysSystem.includes(format.name) ? undefined : getCrs('OGC:CRS84'));
  const moved = changed.map((layer) => {
    const stays = !to || (!steps.to && !layer.crs && bare.includes(format.name));
    const placed = stays ? layer : inSystem(layer, to);
    return steps.toAxes === 'authority' ? withAxes(placed, placed.crs) : placed;
  });
  const { bytes, warnings: lost } = await writeFeatureFile(moved, target);
  await writeBytes(options.o, bytes);
  const all = [...warnings, ...found.list, ...lost];
  const features = moved.reduce((sum, layer) => sum + layer.features.length, 0);
  const written = [...new Set(moved.map(({ crs }) => crs?.id ?? 'an unknown system'))];
  if (options.json && !toStream)
    out.say(
      JSON.stringify(
        {
          files,
          written: options.o,
          format: format.name,
          from: systems.length === 1 ? systems[0] : systems,
          to: written.length === 1 ? written[0] : written,
          features,
          layers: moved.map(({ name, features: own }) => ({ layer: name, features: own.length })),
          warnings: all,
        },
        null,
        2,
      ),
    );
  else {
    const line = `${paint.green('✓')} ${paint.bold(options.o)}  ${format.name}, ${features.toLocaleString('en')} feature${features === 1 ? '' : 's'} from ${systems.join(', ')} to ${written.join(', ')}`;
    if (toStream) out.warn(line);
    else out.say(line);
    for (const warning of all) out.warn(explain(warningText(warning), 'warning'));
  }
  return 0;
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
      join === undefined ? '--match stands without --join' : '--join stands without --match',
      'Write --join TABLE --match attribute=column.',
    );
  if (simplify !== undefined && !(Number(simplify) > 0))
    throw new CallFault(
      'convert.simplify',
      `--simplify ${simplify} is no distance`,
      'Write metres, such as --simplify 20.',
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
  throw new CallFault('convert.axes', `${option} ${value} is no order of axes`, 'Write east-north or authority.');
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
        `--match ${match} names no two attributes`,
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
        `no feature passes --where "${where}"`,
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
    const names = new Map(
      rename.map((pair) => {
        const [, from, to] = /^([^=]+)=(.+)$/.exec(pair) ?? [];
        if (from === undefined)
          throw new CallFault('convert.rename', `--rename ${pair} names no two attributes`, 'Write --rename old=new.');
        assertField(from, out);
        return [from, to] as const;
      }),
    );
    out = out.map((layer) => withRenamed(layer, names));
  }
  if (simplify !== undefined) out = out.map((layer) => simplified(layer, Number(simplify)));
  return out;
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
