import { withReadingOptions } from './reading.js';
import { Command } from 'commander';
import { CallFault, type Done, type Terminal } from '../terminal.js';
import { convertFeatures, type FeatureOptions } from './convert-features.js';
import { convertStyle, isStyle } from './convert-style.js';

interface ConvertOptions extends FeatureOptions {
  readonly zoom?: string;
}

const repeated = (value: string, before: readonly string[] = []) => [...before, value];

export function convertCommand(out: Terminal, done: Done): Command {
  return withReadingOptions(new Command('convert'))
    .description('Convert features between formats and coordinate systems, or a sheet to and from SLD')
    .argument(
      '<files...>',
      'files of features in any format, or - for standard input; or a .sheet.json, .sld or .xml file',
    )
    .requiredOption('-o <file>', 'file to write; its extension sets the format; - for standard output')
    .option(
      '--from <crs>',
      'coordinate system of the features: a code such as EPSG:32625, or a file with its definition',
    )
    .option(
      '--to <crs>',
      'coordinate system to write; by default that of the input if the format can store it, otherwise longitude and latitude',
    )
    .option(
      '--from-axes <order>',
      'order of the axes of the input: east-north, or authority for the order that the authority defines',
      'east-north',
    )
    .option('--to-axes <order>', 'east-north or authority', 'east-north')
    .option('--where <cql2>', 'keep only features that match a filter')
    .option('--select <names>', 'keep only these attributes, separated by commas')
    .option('--rename <old=new>', 'rename an attribute; may be given several times', repeated)
    .option('--join <table>', 'table to join to the features')
    .option('--match <attribute=column>', 'attribute and column that match')
    .option('--simplify <meters>', 'simplify lines and borders by this tolerance; shared borders stay shared')
    .option(
      '--address-order <order>',
      'for a gazetteer: number-first as in 12 Rope Row, or number-last; by default derived from its streets',
    )
    .option('--as <ending>', 'format of standard output, by its extension', 'geojson')
    .option('--zoom <level>', 'zoom level at which values that depend on the zoom are evaluated for SLD')
    .option('--json', 'print the result and everything that was lost as JSON')
    .action(async (files: string[], options: ConvertOptions) => done(await convert(files, options, out)));
}

const isSheet = (path: string) => /\.sheet\.json$/i.test(path);

async function convert(files: readonly string[], options: ConvertOptions, out: Terminal): Promise<number> {
  const styles = files.filter((file) => isStyle(file) || isSheet(file));
  if (!styles.length && !isStyle(options.o) && !isSheet(options.o)) return convertFeatures(files, options, out);
  for (const name of ['from', 'to', 'where', 'select', 'rename', 'join', 'simplify'] as const)
    if (options[name] !== undefined)
      throw new CallFault(
        'convert.forms',
        `--${name} stands with ${files[0]}, which holds no features`,
        'This option is only for features. Remove it.',
      );
  const [file] = files;
  const toSheet = /\.json$/i.test(options.o);
  if (files.length > 1 || !styles.length || isStyle(file) === isStyle(options.o) || !(isStyle(options.o) || toSheet))
    throw new CallFault(
      'convert.forms',
      `${files.join(', ')} cannot be turned into ${options.o}`,
      'Give a .sheet.json and -o with .sld, or an .sld (or .xml) and -o with .sheet.json.',
    );
  return convertStyle(file, options.o, options, out);
}
