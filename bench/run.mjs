// npm run bench (-- --only AREA[,AREA] --counts --beside CHECKOUT --keep): how fast the library is, each figure beside a floor of the same run.
//
// --counts   only the areas with figures that noise cannot touch (bytes, calls, counts), and fails where one is above its limit
// --beside   measures another checkout, built, by turns with this one, with this checkout's measures
// --keep     adds the run to bench/history.json, which keeps the last twelve
import { execFileSync, spawnSync } from 'node:child_process';
import { cpSync, existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { cpus, loadavg, tmpdir } from 'node:os';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import Table from 'cli-table3';
import { format } from 'oxfmt';
import setUp from '../scripts/test-setup.mjs';

const here = dirname(fileURLToPath(import.meta.url));
const root = join(here, '..');
const areas = [
  'core',
  'tiling',
  'clusters',
  'calls',
  'frame',
  'first-picture',
  'data-in',
  'memory',
  'draw',
  'search',
  'gazetteer',
  'size',
];
/** Areas with limits. */
const counted = ['tiling', 'calls', 'size'];

const { values: asked } = parseArgs({
  options: {
    only: { type: 'string' },
    counts: { type: 'boolean', default: false },
    beside: { type: 'string' },
    keep: { type: 'boolean', default: false },
  },
});
const wanted = asked.only ? asked.only.split(',') : asked.counts ? counted : areas;
const unknown = wanted.filter((area) => !areas.includes(area));
if (unknown.length) throw new Error(`there is no area ${unknown.join(', ')}; there are ${areas.join(', ')}`);
if (!existsSync(join(root, 'demo/data/reach.pmtiles'))) throw new Error('run "npm run build" and "npm run demo" first');

const scratch = mkdtempSync(join(tmpdir(), 'flint-bench-'));
const env = { ...process.env, FLINTWRIGHT_BENCH_BUILT: '1' };
/** Figures of an area, measured in a process of its own by the measures in a folder; undefined where they cannot be taken there. */
function measure(area, folder) {
  const file = join(scratch, 'figures.json');
  rmSync(file, { force: true });
  const { status } = spawnSync(process.execPath, [join(folder, 'area.mjs'), area, file], {
    stdio: ['ignore', 'inherit', 'inherit'],
    env,
  });
  return status === 0 && existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : undefined;
}

/** How busy the machine is: processes ready to run in the last minute, and seconds that its host took away since it started. */
function machineState() {
  const [load] = loadavg();
  let steal;
  try {
    // Its first line: user, nice, system, idle, iowait, irq, softirq, steal, in hundredths of a second (proc(5)).
    steal = Number(readFileSync('/proc/stat', 'utf8').split('\n', 1)[0].split(/\s+/)[8]) / 100;
  } catch (error) {
    if (error.code !== 'ENOENT') throw error;
  }
  return { load, steal, time: Date.now() };
}
const atStart = machineState();

const other = asked.beside && resolve(asked.beside);
/** This checkout's measures, put into the other so that they measure it. */
const guest = other && join(other, 'bench-guest');
const results = [];
let failed = false;
try {
  await setUp();
  if (guest) {
    rmSync(guest, { recursive: true, force: true });
    cpSync(here, guest, { recursive: true });
    execFileSync(process.execPath, ['-e', "import('./scripts/test-setup.mjs').then((it) => it.default())"], {
      cwd: other,
      stdio: 'inherit',
    });
  }
  for (const area of wanted) {
    process.stderr.write(`${area} …\n`);
    const before = guest && measure(area, guest);
    const figures = measure(area, here);
    if (!figures) failed = true;
    for (const figure of figures ?? []) {
      const was = before?.find(({ name }) => name === figure.name)?.value;
      results.push({ area, ...figure, ...(was === undefined ? {} : { before: was }) });
    }
  }
} finally {
  rmSync(scratch, { recursive: true, force: true });
  if (guest) rmSync(guest, { recursive: true, force: true });
}

const asText = (value, unit) =>
  value === undefined ? '' : `${value.toFixed(value >= 100 ? 0 : value >= 10 ? 1 : 2)}${unit ? ` ${unit}` : ''}`;
const table = new Table({
  head: ['', ...(other ? ['before'] : []), other ? 'now' : 'figure', 'wanted', ''],
  colAligns: ['left', ...(other ? ['right'] : []), 'right', 'right', 'left'],
  style: { head: [], border: [] },
});
for (const { name, value, unit, target, limit, detail, before } of results) {
  const most = target ?? limit;
  table.push([
    name,
    ...(other ? [asText(before, unit)] : []),
    asText(value, unit),
    most === undefined ? '–' : `≤ ${most}${unit ? ` ${unit}` : ''}`,
    detail,
  ]);
}
console.log(table.toString());
const over = results.filter(({ value, limit }) => limit !== undefined && value > limit);
for (const { name, value, unit, limit } of over)
  console.log(`✗ ${name}: ${asText(value, unit)}, and at most ${asText(limit, unit)} is allowed`);

const atEnd = machineState();
const cores = cpus().length;
const stolen =
  atStart.steal === undefined ? 0 : (atEnd.steal - atStart.steal) / ((atEnd.time - atStart.time) / 1000) / cores;
console.log(
  `load ${atStart.load.toFixed(2)} at the start and ${atEnd.load.toFixed(2)} at the end, on ${cores} cores; ${(stolen * 100).toFixed(1)} % of the time was taken by the host`,
);
if (atStart.load > cores / 2 || stolen > 0.02)
  console.log('The machine is busy: take the figures as rough, or run the bench again when it is idle.');

if (asked.keep) {
  const path = join(here, 'history.json');
  const history = existsSync(path) ? JSON.parse(readFileSync(path, 'utf8')) : [];
  const git = (...args) => execFileSync('git', args, { cwd: root, encoding: 'utf8' }).trim();
  const run = {
    date: new Date().toISOString().slice(0, 10),
    commit: git('rev-parse', '--short', 'HEAD'),
    figures: Object.fromEntries(
      results.map(({ name, value, unit }) => [
        name,
        [Number(value.toPrecision(3)), unit].filter((part) => part !== ''),
      ]),
    ),
  };
  const { code: text } = await format('history.json', JSON.stringify([...history, run].slice(-12)), {
    printWidth: 120,
  });
  writeFileSync(path, text);
}
if (failed || over.length) process.exit(1);
