import { writeFile } from 'node:fs/promises';
import { extname } from 'node:path';
import { readSheet, readSld, writeSld } from '@flintwright/core';
import { Command } from 'commander';
import { readText } from '../input.js';
import { CallFault, paint, type Done, type Terminal } from '../terminal.js';

interface ConvertOptions {
  readonly o: string;
  readonly zoom?: string;
  readonly json?: boolean;
}

export function convertCommand(out: Terminal, done: Done): Command {
  return new Command('convert')
    .description('Turn a style into another form: a sheet into OGC SLD 1.1, or SLD into a sheet')
    .argument('<file>', 'a .sheet.json file, or .sld or .xml')
    .requiredOption('-o <file>', 'where to write: .sld, or .sheet.json')
    .option('--zoom <level>', 'level at which values that follow zoom are taken for SLD')
    .option('--json', 'print what could not be carried over as JSON')
    .action(async (file: string, options: ConvertOptions) => done(await convert(file, options, out)));
}

const isStyle = (path: string) => ['.sld', '.xml'].includes(extname(path).toLowerCase());

async function convert(file: string, options: ConvertOptions, out: Terminal): Promise<number> {
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
    await writeFile(options.o, `${JSON.stringify(read.sheet, null, 2)}\n`);
  } else {
    const written = writeSld(readSheet(text), zoom);
    ({ lost } = written);
    await writeFile(options.o, written.sld);
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
