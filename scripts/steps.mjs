// Runs a list of steps and ends with one table: step, time, verdict. Needs nothing installed, since the first step installs.
import { spawn } from 'node:child_process';
import { readFileSync, mkdtempSync, openSync, closeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');

/**
 * What is run, in order. A step that the others need stops the run if it fails (`needed`); the others go on, so that one run reports
 * every failure. A step in the background (`beside`) mostly waits; its output is printed when it ends.
 */
const lists = {
  verify: [
    { name: 'install', command: 'npm ci', needed: true },
    { name: 'browser', command: 'node scripts/chromium.mjs', needed: true },
    { name: 'build', command: 'npm run build', needed: true },
    { name: 'demo data', command: 'npm run demo', needed: true },
    { name: 'tests of the core, with coverage', command: 'npm run coverage' },
    { name: 'tests in a browser', command: 'npm test -- --selectProjects browser' },
  ],
  checks: [
    { name: 'engines', command: 'bash scripts/engines.sh', beside: true },
    { name: 'types', command: 'npm run types' },
    { name: 'lint', command: 'npm run lint' },
    { name: 'packages', command: 'npm run packages' },
    { name: 'sizes', command: 'npm run sizes' },
    { name: 'counts of the bench', command: 'npm run bench -- --counts' },
    { name: 'snippets', command: 'npm run snippets' },
    { name: 'generated files', command: 'npm run generated' },
    { name: 'release, without publishing', command: 'npm run release -- --dry-run --tested' },
    { name: 'attack', command: 'npm run attack -- --minutes 0.4 --most 1500' },
  ],
};

const list = lists[process.argv[2]];
if (!list) throw new Error(`expected one of ${Object.keys(lists).join(', ')}, got ${process.argv[2] ?? 'nothing'}`);

/** Runs one step. Its output goes to the terminal, or to a file if it runs beside others. */
async function run({ name, command, beside }) {
  const start = performance.now();
  const file = beside && join(mkdtempSync(join(tmpdir(), 'step-')), 'output');
  const output = beside ? openSync(file, 'w') : 'inherit';
  if (!beside) console.log(`\n── ${name}: ${command}`);
  const child = spawn(command, { cwd: root, shell: true, stdio: ['ignore', output, output] });
  if (beside) running.add(child);
  const code = await new Promise((done) => child.once('close', (code, signal) => done(code ?? signal)));
  running.delete(child);
  if (beside) {
    closeSync(output);
    console.log(`\n── ${name}: ${command}\n${readFileSync(file, 'utf8')}`);
  }
  return { name, seconds: (performance.now() - start) / 1000, code };
}

const running = new Set();
process.on('exit', () => running.forEach((child) => child.kill()));

const results = [];
const waiting = [];
for (const [index, step] of list.entries()) {
  if (step.beside) {
    waiting.push(run(step));
    continue;
  }
  const result = await run(step);
  results.push(result);
  if (!step.needed || result.code === 0) continue;
  results.push(...list.slice(index + 1).map(({ name }) => ({ name })));
  break;
}
results.push(...(await Promise.all(waiting)));

const time = (seconds) =>
  `${String(Math.floor(seconds / 60)).padStart(3)}:${String(Math.round(seconds % 60)).padStart(2, '0')}`;
const width = Math.max(...results.map(({ name }) => name.length));
const verdict = ({ seconds, code }) =>
  seconds === undefined ? 'not run' : code === 0 ? 'passed' : `FAILED (exit code ${code})`;
console.log(`\n${'step'.padEnd(width)}    time  verdict\n${'─'.repeat(width + 30)}`);
for (const result of results)
  console.log(
    `${result.name.padEnd(width)}  ${result.seconds === undefined ? '     –' : time(Math.floor(result.seconds))}  ${verdict(result)}`,
  );
process.exitCode = results.every(({ code }) => code === 0) ? 0 : 1;
