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
    .description('Turn features into another format or coordinate system, or a style into another form')
    .argument('<files...>', 'files of features in any format, or - for standard input; or a .sheet.json, .sld or .xml')
    .requiredOption('-o <file>', 'where to write; the ending says the format, - is standard output')
    .option('--from <crs>', 'coordinate system of the features: a code such as EPSG:32625, or a file that describes it')
    .option('--to <crs>', 'coordinate system to write them in; default their own, or longitude and latitude')
    .option(
      '--from-axes <order>',
      'east-north, or authority where coordinates come as the authority orders them',
      'east-north',
    )
    .option('--to-axes <order>', 'east-north or authority', 'east-north')
    .option('--where <cql2>', 'only features that pass a filter')
    .option('--select <names>', 'only these attributes, parted by commas')
    .option('--rename <old=new>', 'another name for an attribute; may stand several times', repeated)
    .option('--join <table>', 'a table to join to the features')
    .option('--match <attribute=column>', 'by which attribute and column they belong together')
    .option('--simplify <metres>', 'drop what lines and borders do not need; shared borders stay shared')
    .option(
      '--address-order <order>',
      'for a gazetteer: number-first as in 12 Rope Row, or number-last; default as its streets suggest',
    )
    .option('--as <ending>', 'format of standard output, by its ending', 'geojson')
    .option('--zoom <level>', 'level at which values that follow zoom are taken for SLD')
    .option('--json', 'print what was done, and what could not be carried over, as JSON')
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
        'It is for features; leave it out.',
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
