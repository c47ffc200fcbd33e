import { existsSync } from 'node:fs';
import { extname } from 'node:path';
import {
  crsOfGeoJson,
  Fault,
  getCrs,
  readGeoJson,
  readSheet,
  readSld,
  transformGeoJson,
  writeSld,
  type AxisOrder,
  type Crs,
} from '@flintwright/core';
import { Command } from 'commander';
import { readText } from '../input.js';
import { writeWhole } from '../output.js';
import { CallFault, paint, type Done, type Terminal } from '../terminal.js';

interface ConvertOptions {
  readonly o: string;
  readonly zoom?: string;
  readonly from?: string;
  readonly to?: string;
  readonly fromAxes: string;
  readonly toAxes: string;
  readonly json?: boolean;
}

export function convertCommand(out: Terminal, done: Done): Command {
  return new Command('convert')
    .description('Turn features into another coordinate system, or a style into another form')
    .argument('<file>', 'GeoJSON; or a .sheet.json file, or .sld or .xml')
    .requiredOption('-o <file>', 'where to write: .geojson or .json; or .sld, or .sheet.json')
    .option(
      '--from <crs>',
      'coordinate system of the features: a code such as EPSG:32625, or a file with WKT or PROJJSON',
    )
    .option('--to <crs>', 'coordinate system to write them in; default longitude and latitude on WGS 84')
    .option(
      '--from-axes <order>',
      'east-north, or authority where coordinates come as the authority orders them',
      'east-north',
    )
    .option('--to-axes <order>', 'east-north or authority', 'east-north')
    .option('--zoom <level>', 'level at which values that follow zoom are taken for SLD')
    .option('--json', 'print what could not be carried over as JSON')
    .action(async (file: string, options: ConvertOptions) => done(await convert(file, options, out)));
}

const isFeatures = (path: string) => /\.(geojson|json)(\.gz)?$/i.test(path) && !/\.sheet\.json$/i.test(path);

/** A coordinate system by its code, or out of a file that describes it. */
async function crsOf(name: string): Promise<Crs> {
  if (!existsSync(name)) return getCrs(name);
  try {
    return getCrs(await readText(name));
  } catch (error) {
    if (error instanceof Fault)
      throw new Fault(error.code, error.message, error.hint, error.at ? `${name}, ${error.at}` : name, error);
    throw error;
  }
}

function axesOf(option: string, value: string): AxisOrder {
  if (value === 'east-north' || value === 'authority') return value;
  throw new CallFault('convert.axes', `${option} ${value} is no order of axes`, 'Write east-north or authority.');
}

async function convertFeatures(file: string, options: ConvertOptions, out: Terminal): Promise<number> {
  const text = await readText(file);
  let json: object;
  try {
    json = JSON.parse(text) as object;
  } catch (error) {
    throw new Fault(
      'geojson.json',
      `the text is not JSON: ${(error as Error).message}`,
      'It may be cut short; write it again.',
      file,
      error,
    );
  }
  // Anything but GeoJSON is refused before anything is written.
  const { count } = readGeoJson(json, { space: 'plan' });
  const from = options.from === undefined ? (crsOfGeoJson(json) ?? getCrs('OGC:CRS84')) : await crsOf(options.from);
  const to = await crsOf(options.to ?? 'OGC:CRS84');
  const written = transformGeoJson(json, {
    from,
    to,
    fromAxes: axesOf('--from-axes', options.fromAxes),
    toAxes: axesOf('--to-axes', options.toAxes),
  });
  await writeWhole(options.o, [`${JSON.stringify(written)}\n`]);
  if (options.json) out.say(JSON.stringify({ file, written: options.o, from: from.id, to: to.id, features: count }));
  else
    out.say(
      `${paint.green('✓')} ${paint.bold(options.o)}  ${count} feature${count === 1 ? '' : 's'} from ${from.id} to ${to.id}`,
    );
  return 0;
}

const isStyle = (path: string) => ['.sld', '.xml'].includes(extname(path).toLowerCase());

async function convert(file: string, options: ConvertOptions, out: Terminal): Promise<number> {
  if (isFeatures(file) && isFeatures(options.o)) return convertFeatures(file, options, out);
  for (const name of ['from', 'to'] as const)
    if (options[name] !== undefined)
      throw new CallFault(
        'convert.forms',
        `--${name} stands with ${file}, which holds no features`,
        'Coordinate systems are for GeoJSON: .geojson or .json, in and out.',
      );
  const [from, to] = [isStyle(file), isStyle(options.o)];
  if (from === to || (!to && extname(options.o) !== '.json') || (!from && extname(file) !== '.json'))
    throw new CallFault(
      'convert.forms',
      `${file} cannot be turned into ${options.o}`,
      'Give a .sheet.json and -o with .sld, or an .sld (or .xml) and -o with .sheet.json.',
    );
  const zoom = options.zoom === undefined ? undefined : Number(options.zoom);
  if (zoom !== undefined && !(zoom >= 0 && zoom <= 25))
    throw new CallFault('convert.zoom', `--zoom ${options.zoom} is no zoom level`, 'Write a number from 0 to 25.');
  const text = await readText(file);
  let lost: readonly string[];
  if (from) {
    const read = readSld(text);
    ({ lost } = read);
    await writeWhole(options.o, [`${JSON.stringify(read.sheet, null, 2)}\n`]);
  } else {
    const written = writeSld(readSheet(text), zoom);
    ({ lost } = written);
    await writeWhole(options.o, [written.sld]);
  }
  if (options.json) out.say(JSON.stringify({ file, written: options.o, lost }, null, 2));
  else {
    out.say(`${paint.green('✓')} ${paint.bold(options.o)}  written from ${file}${lost.length ? '' : ', nothing lost'}`);
    if (lost.length) out.say(`${paint.yellow('!')} not carried over:`);
    for (const line of grouped(lost)) out.say(`  · ${line}`);
  }
  return 0;
}

/** Remarks with the layers that share them on one line. */
function grouped(lost: readonly string[]): string[] {
  const layers = new Map<string, string[]>();
  for (const line of lost) {
    const [, layer, rest] = /^layer "(.*?)": (.*)$/.exec(line) ?? [];
    const key = rest ?? line;
    layers.set(key, [...(layers.get(key) ?? []), ...(layer === undefined ? [] : [layer])]);
  }
  const some = (names: readonly string[]) =>
    names.length > 5 ? `${names.slice(0, 4).join(', ')} and ${names.length - 4} more` : names.join(', ');
  return [...layers].map(([text, names]) => (names.length ? `${text} ${paint.dim(`(${some(names)})`)}` : text));
}
