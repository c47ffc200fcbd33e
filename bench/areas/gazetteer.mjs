// A gazetteer of a million entries: time and memory to build it, its size, and the time of a key, against a plain look through all names.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { foldText, Gazetteer } from '@flintwright/core/places';
import { quantile } from '../measure.mjs';

const builder = fileURLToPath(new URL('../build-gazetteer.mjs', import.meta.url));

export async function figures() {
  const folder = mkdtempSync(join(tmpdir(), 'flint-gazetteer-'));
  try {
    // Building runs in another process, so that its memory can be measured.
    const out = execFileSync(process.execPath, ['--max-old-space-size=4096', builder, folder, '1000000'], {
      encoding: 'utf8',
      maxBuffer: 2 ** 28,
    });
    const { seconds, megabytes, before, floor, count } = JSON.parse(out);
    const file = join(folder, 'places.gazetteer');
    const gazetteer = await Gazetteer.open(new Uint8Array(readFileSync(file)));
    const labels = readFileSync(join(folder, 'labels.txt'), 'utf8').split('\n');
    const folded = labels.map(foldText);
    let seed = 5;
    const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
    const queries = Array.from({ length: 40 }, () => labels[Math.floor(random() * labels.length)]).flatMap((text) =>
      Array.from({ length: Math.min(14, text.length) }, (_, i) => text.slice(0, i + 1)),
    );
    const [keys, looks] = [[], []];
    for (const round of [0, 1])
      for (const [i, query] of queries.entries()) {
        let began = performance.now();
        const found = await gazetteer.find(query, { near: [0, 45], most: 8 });
        if (round) keys.push(performance.now() - began);
        if (!round || i % 8) continue;
        began = performance.now();
        const words = foldText(query).split(' ').filter(Boolean);
        const hits = folded.filter((label) => words.every((one) => label.includes(one)));
        looks.push(performance.now() - began);
        // The floor did the same work: where it finds a label, so does the gazetteer.
        if (hits.length && !found.length) throw new Error(`the gazetteer finds nothing for "${query}"`);
      }
    const [half, late, look] = [quantile(keys, 0.5), quantile(keys, 0.99), quantile(looks, 0.5)];
    const name = `gazetteer of ${count.toLocaleString('en')}`;
    return [
      {
        name: `${name}: build`,
        value: seconds,
        unit: 's',
        target: 60,
        detail: `${(seconds / floor).toFixed(1)} × the folding and sorting of all labels (${floor.toFixed(1)} s)`,
      },
      {
        name: `${name}: memory`,
        value: megabytes / 1000,
        unit: 'GB',
        target: 1,
        detail: `greatest resident size of the process, ${(before / 1000).toFixed(1)} GB of it the features`,
      },
      { name: `${name}: file`, value: statSync(file).size / 1e6, unit: 'MB', target: 20, detail: 'as it is served' },
      {
        name: `${name}: a key`,
        value: late,
        unit: 'ms',
        target: 50,
        detail: `99 in 100 within; half within ${half.toFixed(1)} ms, ${(half / look).toFixed(2)} × a look through all names (${look.toFixed(0)} ms)`,
      },
    ];
  } finally {
    rmSync(folder, { recursive: true });
  }
}
