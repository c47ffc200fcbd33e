import { readFileSync } from 'node:fs';
import { Fault, SheetFault } from '@flintwright/core';
import { Command, CommanderError } from 'commander';
import { checkCommand } from './commands/check.js';
import { convertCommand } from './commands/convert.js';
import { findCommand } from './commands/find.js';
import { inspectCommand } from './commands/inspect.js';
import { publishCommand } from './commands/publish.js';
import { serveCommand } from './commands/serve.js';
import { tileCommand } from './commands/tile.js';
import { CallFault, explain, terminal, type Terminal } from './terminal.js';

const { version } = JSON.parse(readFileSync(new URL('../package.json', import.meta.url), 'utf8')) as {
  version: string;
};

/**
 * Runs the command line.
 *
 * @param args the arguments after the name of the command
 * @param out where to write; default the terminal
 * @returns the exit status: 0; 1 if the input is invalid; 2 if the call is
 */
export async function main(args: readonly string[], out: Terminal = terminal): Promise<number> {
  const program = new Command('flintwright')
    .description('Cut tiles, look into files, check and convert sheets, find places, publish and serve maps.')
    .version(version, '--version', 'print the version')
    .helpOption('--help', 'show this help')
    .exitOverride()
    .configureOutput({ writeOut: (text) => out.say(text.trimEnd()), writeErr: (text) => out.warn(text.trimEnd()) });
  let status = 0;
  const done = (code: number) => (status = code);
  for (const command of [
    tileCommand,
    inspectCommand,
    checkCommand,
    convertCommand,
    findCommand,
    publishCommand,
    serveCommand,
  ])
    program.addCommand(command(out, done).copyInheritedSettings(program));
  try {
    await program.parseAsync([...args], { from: 'user' });
    return status;
  } catch (error) {
    if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2;
    if (error instanceof SheetFault) {
      for (const fault of error.faults) out.warn(explain(fault));
      return 1;
    }
    if (error instanceof Fault) {
      out.warn(explain(error));
      return error instanceof CallFault ? 2 : 1;
    }
    throw error;
  }
}
