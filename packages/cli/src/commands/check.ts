import { dirname, resolve } from 'node:path';
import {
  builtInSprites,
  Fault,
  getSurface,
  inspectSheet,
  lintSheet,
  type JoinReport,
  type Sheet,
} from '@flintwright/core';
import { crsByCode } from '@flintwright/core/files';
import { gridOfMatrixSet, symbolNames, unknownSymbol } from '@flintwright/core/internal';
import { Command } from 'commander';
import { checkData } from '../check-data.js';
import { readBytes } from '../input.js';
import { explain, paint, type Done, type Terminal } from '../terminal.js';

export function checkCommand(out: Terminal, done: Done): Command {
  return new Command('check')
    .description('Validate a sheet and the data that it references, and warn of probable mistakes')
    .argument('<sheet>', 'a .sheet.json file')
    .option('--json', 'print faults, warnings and joins as JSON')
    .action(async (file: string, options: { readonly json?: boolean }) =>
      done(await check(file, options.json ?? false, out)),
    );
}

async function check(file: string, json: boolean, out: Terminal): Promise<number> {
  const text = new TextDecoder().decode(await readBytes(file));
  const { faults, compiled } = inspectSheet(text);
  const warnings: Fault[] = [];
  const joins: Record<string, JoinReport> = {};
  if (compiled) {
    // Warnings are worth saying only once the rest is sound.
    if (!faults.length) {
      const known = [...Object.keys(builtInSprites), ...Object.keys(compiled.sheet.icons ?? {})];
      warnings.push(...lintSheet(compiled));
      for (const { name, at } of symbolNames(compiled.sheet))
        if (!known.includes(name)) warnings.push(unknownSymbol(name, known, at));
    }
    faults.push(...(await surfaceFaults(compiled.sheet)));
    const data = await checkData(compiled, dirname(resolve(file)));
    faults.push(...data.faults);
    warnings.push(...data.warnings);
    Object.assign(joins, data.joins);
  }
  const { layers = [], sheet } = compiled ?? {};
  const summary = `${layers.length} layer${layers.length === 1 ? '' : 's'} over ${Object.keys(sheet?.data ?? {}).join(', ') || 'no data'}`;
  if (json) {
    out.say(JSON.stringify({ file, faults, warnings, joins }, null, 2));
    return faults.length ? 1 : 0;
  }
  for (const fault of faults) out.say(explain(fault));
  for (const warning of warnings) out.say(explain(warning, 'warning'));
  for (const [name, report] of Object.entries(joins)) out.say(joinText(name, report));
  const count = (n: number, what: string) => `${n} ${what}${n === 1 ? '' : 's'}`;
  if (faults.length || warnings.length)
    out.say(
      `\n${paint.bold(file)} has ${[faults.length && count(faults.length, 'fault'), warnings.length && count(warnings.length, 'warning')].filter(Boolean).join(' and ')}`,
    );
  else out.say(`${paint.green('✓')} ${paint.bold(file)}  ${summary}, nothing wrong`);
  return faults.length ? 1 : 0;
}

/** Surfaces, coordinate systems and grids that are not known. */
async function surfaceFaults({ view, data = {} }: Sheet): Promise<Fault[]> {
  const out: Fault[] = [];
  const attempt = async (at: string, make: () => unknown) => {
    try {
      await make();
    } catch (error) {
      if (!(error instanceof Fault)) throw error;
      out.push(new Fault(error.code, error.message, error.hint, at, error));
    }
  };
  await attempt('$.view.surface', () => getSurface(view?.surface));
  for (const [name, { crs, grid }] of Object.entries(data)) {
    if (crs !== undefined) await attempt(`$.data.${name}.crs`, () => crsByCode(crs));
    if (grid !== undefined) await attempt(`$.data.${name}.grid`, () => gridOfMatrixSet(grid));
  }
  return out;
}

/** How a join went, with the keys that met nothing. */
function joinText(name: string, { matched, featuresAlone, rowsAlone, rowsTwice, keyless }: JoinReport): string {
  const list = (keys: readonly string[]) => `${keys.slice(0, 8).join(', ')}${keys.length > 8 ? ' …' : ''}`;
  const lines = [`${paint.green('⋈')} ${paint.bold(name)}  ${matched} features joined to the table`];
  if (featuresAlone.length)
    lines.push(`  ${featuresAlone.length} keys of features without a row: ${list(featuresAlone)}`);
  if (rowsAlone.length)
    lines.push(`  ${rowsAlone.length} row${rowsAlone.length === 1 ? '' : 's'} without a feature: ${list(rowsAlone)}`);
  if (rowsTwice.length)
    lines.push(`  ${rowsTwice.length} keys in more than one row, the first counts: ${list(rowsTwice)}`);
  if (keyless.features || keyless.rows)
    lines.push(`  without a key: ${keyless.features} features, ${keyless.rows} rows`);
  return lines.join('\n');
}
