// npm run recipes (-- NAME …): follows the recipes of docs/recipes to the letter, each in a fresh clone, and prints what each took. A code block
// that names a file is written there (or added at its end: append), a block of kind diff replaces lines, and a block of kind sh is run.
import { execFileSync, spawnSync } from 'node:child_process';
import {
  appendFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const folder = join(root, 'docs/recipes');
const names = process.argv.slice(2);
const recipes = readdirSync(folder)
  .map((file) => file.replace(/\.md$/, ''))
  .filter((name) => !names.length || names.includes(name));
const unknown = names.filter((name) => !recipes.includes(name));
if (unknown.length) throw new Error(`expected recipes of docs/recipes, got ${unknown.join(', ')}`);

/** Replaces the lines of a diff. Hunks are separated by @@; the lines of each must occur once. */
function applyDiff(file, diff) {
  let text = readFileSync(file, 'utf8');
  for (const hunk of diff.split(/^@@\n/m)) {
    const lines = hunk.replace(/\n$/, '').split('\n');
    const side = (mark) =>
      lines
        .filter((line) => line[0] !== mark)
        .map((line) => `${line.slice(1)}\n`)
        .join('');
    const parts = text.split(side('+'));
    if (parts.length !== 2)
      throw new Error(`${file}: expected these lines once, found them ${parts.length - 1} times:\n${side('+')}`);
    text = parts.join(side('-'));
  }
  writeFileSync(file, text);
}

const rows = [];
for (const name of recipes) {
  const text = readFileSync(join(folder, `${name}.md`), 'utf8');
  const blocks = [...text.matchAll(/^```(\S+)(?: (\S+))?( append)?\n([^]*?)^```$/gm)].filter(
    ([, kind, file]) => file || kind === 'sh',
  );
  if (!blocks.some(([, kind]) => kind === 'sh')) continue;
  const home = mkdtempSync(join(tmpdir(), `recipe-${name}-`));
  const start = performance.now();
  const files = new Set();
  let failed = '';
  try {
    execFileSync('git', ['clone', '-q', root, home]);
    execFileSync('npm', ['ci', '--silent', '--no-audit', '--no-fund'], {
      cwd: home,
      stdio: ['ignore', 'ignore', 'inherit'],
    });
    // The demo data are made from a seed; making them again would only take time.
    if (existsSync(join(root, 'demo/data')))
      execFileSync('cp', ['-r', join(root, 'demo/data'), join(home, 'demo/data')]);
    for (const [, kind, file, append, code] of blocks) {
      if (file) files.add(file);
      if (kind === 'sh')
        for (const command of code.trim().split('\n')) {
          const { status, stdout, stderr } = spawnSync(command, { cwd: home, shell: true, encoding: 'utf8' });
          console.log(`${name}: ${command}: ${status === 0 ? 'passed' : `exit code ${status}`}`);
          if (status !== 0) failed += `${command}\n${stdout.slice(-3000)}\n${stderr.slice(-3000)}`;
        }
      else if (kind === 'diff') applyDiff(join(home, file), code);
      else if (append) appendFileSync(join(home, file), `\n${code}`);
      else if (existsSync(join(home, file))) throw new Error(`${file} exists already`);
      else {
        mkdirSync(dirname(join(home, file)), { recursive: true });
        writeFileSync(join(home, file), code);
      }
    }
  } catch (error) {
    failed ||= String(error.message);
  } finally {
    rmSync(home, { recursive: true, force: true });
  }
  if (failed) console.error(failed);
  rows.push([name, files.size, ((performance.now() - start) / 60_000).toFixed(1), failed ? 'FAILED' : 'passed']);
}
console.log('\nrecipe            files  minutes  verdict');
for (const [name, files, minutes, verdict] of rows)
  console.log(`${name.padEnd(16)} ${String(files).padStart(6)} ${minutes.padStart(8)}  ${verdict}`);
process.exitCode = rows.every(([, , , verdict]) => verdict === 'passed') ? 0 : 1;
