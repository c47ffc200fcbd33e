import { existsSync } from 'node:fs';
import { dirname, resolve } from 'node:path';
import { Archive, checkSheet, Fault, nearestSpelling, type Sheet } from '@flintwright/core';
import { Command } from 'commander';
import { fileSource, readBytes } from '../input.js';
import { explain, paint, type Done, type Terminal } from '../terminal.js';

export function checkCommand(out: Terminal, done: Done): Command {
  return new Command('check')
    .description('Check a sheet, and that the data it names is there')
    .argument('<sheet>', 'a .sheet.json file')
    .option('--json', 'print the faults as JSON')
    .action(async (file: string, options: { readonly json?: boolean }) =>
      done(await check(file, options.json ?? false, out)),
    );
}

async function check(file: string, json: boolean, out: Terminal): Promise<number> {
  const text = new TextDecoder().decode(await readBytes(file));
  const faults = checkSheet(text);
  const readable = !faults.some((fault) => fault.code === 'sheet.json' || fault.at === '$.data');
  if (readable) faults.push(...(await dataFaults(JSON.parse(text) as Sheet, dirname(resolve(file)))));
  if (json) out.say(JSON.stringify({ file, faults }, null, 2));
  else if (faults.length) {
    for (const fault of faults) out.say(explain(fault));
    out.say(`\n${paint.bold(file)} has ${faults.length} fault${faults.length === 1 ? '' : 's'}`);
  } else {
    const sheet = JSON.parse(text) as Sheet;
    out.say(
      `${paint.green('✓')} ${paint.bold(file)}  ${sheet.layers.length} layers over ${Object.keys(sheet.data ?? {}).join(', ') || 'no data'}, nothing wrong`,
    );
  }
  return faults.length ? 1 : 0;
}

/** Archives on this machine are opened, and layers compared with what they hold. Other addresses are taken on trust. */
async function dataFaults(sheet: Sheet, folder: string): Promise<Fault[]> {
  const faults: Fault[] = [];
  for (const [name, { tiles, features }] of Object.entries(sheet.data ?? {})) {
    const address = tiles ?? (typeof features === 'string' ? features : undefined);
    if (address === undefined || /^[a-z]+:|\{z\}|^\//i.test(address)) continue;
    const path = resolve(folder, address);
    if (!existsSync(path)) {
      faults.push(
        new Fault(
          'sheet.file',
          `there is no file ${address}`,
          'Check the path; it is relative to the sheet.',
          `$.data.${name}`,
        ),
      );
      continue;
    }
    if (tiles === undefined || !/\.pmtiles$/i.test(path)) continue;
    const source = await fileSource(path);
    try {
      const metadata = await (await Archive.open(source)).metadata();
      const known = ((metadata['vector_layers'] ?? []) as { id: string }[]).map(({ id }) => id);
      sheet.layers.forEach(({ id, of }, i) => {
        const [data, layer] = [of.split('/')[0], of.slice(of.indexOf('/') + 1)];
        if (data !== name || !of.includes('/') || known.includes(layer)) return;
        const near = nearestSpelling(layer, known);
        faults.push(
          new Fault(
            'sheet.from',
            `layer "${id}" draws "${of}", and ${address} has no layer "${layer}"`,
            near ? `Did you mean "${name}/${near}"?` : `It has: ${known.join(', ')}.`,
            `$.layers[${i}].of`,
          ),
        );
      });
    } catch (error) {
      if (!(error instanceof Fault)) throw error;
      faults.push(new Fault(error.code, error.message, error.mend, `$.data.${name}`, error));
    } finally {
      await source.close();
    }
  }
  return faults;
}
