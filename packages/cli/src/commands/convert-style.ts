import { readSheet, readSld, writeSld } from '@flintwright/core';
import { readText } from '../input.js';
import { writeWhole } from '../output.js';
import { CallFault, paint, type Terminal } from '../terminal.js';

/** Turns a sheet into SLD, or SLD into a sheet. */
export async function convertStyle(
  file: string,
  output: string,
  options: { readonly zoom?: string; readonly json?: boolean },
  out: Terminal,
): Promise<number> {
  const zoom = options.zoom === undefined ? undefined : Number(options.zoom);
  if (zoom !== undefined && !(zoom >= 0 && zoom <= 25))
    throw new CallFault('convert.zoom', `--zoom ${options.zoom} is not a zoom level`, 'Write a number from 0 to 25.');
  const text = await readText(file);
  let lost: readonly string[];
  if (isStyle(file)) {
    const read = readSld(text);
    ({ lost } = read);
    await writeWhole(output, [`${JSON.stringify(read.sheet, null, 2)}\n`]);
  } else {
    const written = writeSld(readSheet(text), zoom);
    ({ lost } = written);
    await writeWhole(output, [written.sld]);
  }
  if (options.json) out.say(JSON.stringify({ file, written: output, lost }, null, 2));
  else {
    out.say(`${paint.green('✓')} ${paint.bold(output)}  written from ${file}${lost.length ? '' : ', nothing lost'}`);
    if (lost.length) out.say(`${paint.yellow('!')} not carried over:`);
    for (const line of grouped(lost)) out.say(`  · ${line}`);
  }
  return 0;
}

/** Whether a path is one of SLD. */
export const isStyle = (path: string) => /\.(sld|xml)$/i.test(path);

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
