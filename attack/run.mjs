// Attacks everything that takes input, for a while, by chance and yet the same for the same seed:
// npm run attack -- [--minutes 5] [--seed 1] [--most inputs of an area] [--only tiles]
import { parseArgs } from 'node:util';
import { Worker } from 'node:worker_threads';
import { attackBrowser } from './browser.mjs';

const { values } = parseArgs({
  options: {
    minutes: { type: 'string', default: '5' },
    seed: { type: 'string', default: '1' },
    most: { type: 'string', default: 'Infinity' },
    only: { type: 'string' },
  },
});
const [minutes, seed, most] = [Number(values.minutes), Number(values.seed), Number(values.most)];
if (!(minutes > 0 && most > 0) || !Number.isInteger(seed))
  throw new Error('--minutes and --most want a number above 0, --seed a whole number');
const names = ['tiles', 'gzip', 'archives', 'files', 'geojson', 'sheets', 'filters', 'systems', 'styles', 'gazetteers', 'commands', 'server']; // prettier-ignore
const chosen = values.only ? [values.only] : [...names, 'browser'];
const share = (minutes * 60_000) / chosen.length;
/** An attempt that takes longer hangs. */
const patience = 2000;

/** Attacks one area; one that hangs is stopped, and taken up again behind the input that did it. */
async function attack(name) {
  const sum = { name, tried: 0, faults: 0, crashes: [], hangs: [], slowest: 0, memory: 0 };
  // What a worker takes to load what it attacks is not counted.
  let left = share;
  for (let from = 0; left > 0 && from < most && sum.hangs.length < 5;) {
    const began = Date.now();
    const beat = new SharedArrayBuffer(16);
    const clock = new Float64Array(beat);
    const worker = new Worker(new URL('./worker.mjs', import.meta.url), {
      workerData: { name, seed, from, most, lasts: left, beat },
      resourceLimits: { maxOldGenerationSizeMb: 2048 },
    });
    const result = await new Promise((resolve, reject) => {
      const watch = setInterval(() => {
        const [since] = clock;
        if (!since || Date.now() - since < patience) return;
        clearInterval(watch);
        sum.hangs.push(`${name} ${seed + clock[1]} took more than ${patience} ms`);
        void worker.terminate().then(() => resolve(undefined));
      }, 100);
      worker.on('message', (message) => (clearInterval(watch), resolve(message)));
      worker.on('error', (error) => {
        clearInterval(watch);
        sum.crashes.push(`${name} ${seed + clock[1]}: ${String(error.stack ?? error)}`);
        resolve(undefined);
      });
      worker.on('exit', () => (clearInterval(watch), setTimeout(() => resolve(undefined), 50)));
      if (!worker) reject(new Error('no worker'));
    });
    sum.tried += result?.tried ?? clock[1] - from + 1;
    sum.faults += result?.faults ?? 0;
    sum.crashes.push(...(result?.crashes ?? []));
    sum.slowest = Math.max(sum.slowest, result?.slowest ?? patience);
    sum.memory = Math.max(sum.memory, result?.memory ?? 0);
    if (sum.crashes.length > 20) break;
    left -= result?.spent ?? Date.now() - began;
    from = result?.next ?? clock[1] + 1;
  }
  return sum;
}

const rows = [];
for (const name of chosen) {
  const row = name === 'browser' ? await attackBrowser(seed, share) : await attack(name);
  // Where all of it is refused, what lies behind the first check is never reached.
  if (row.tried > 500 && row.faults >= row.tried) row.crashes.push(`${name}: every input was refused`);
  if (!row.tried) row.crashes.push(`${name}: nothing was tried`);
  rows.push(row);
  const cells = [row.name, row.tried, row.faults, row.crashes.length, row.hangs.length, `${Math.round(row.slowest)} ms`, `${Math.round(row.memory)} MB`]; // prettier-ignore
  if (rows.length === 1)
    console.log(
      '| area | tried | faults | crashes | hangs | slowest | memory |\n| --- | --- | --- | --- | --- | --- | --- |',
    );
  console.log(`| ${cells.join(' | ')} |`);
  for (const text of [...row.crashes, ...row.hangs].slice(0, 6)) console.log(`  ✗ ${text}`);
}
const total = (key) => rows.reduce((sum, row) => sum + (row[key].length ?? row[key]), 0);
console.log(`\n${total('tried').toLocaleString('en')} tried, ${total('crashes')} crashes, ${total('hangs')} hangs`);
process.exit(total('crashes') + total('hangs') ? 1 : 0);
