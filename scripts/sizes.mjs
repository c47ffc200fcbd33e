// Weighs each published entry as a page would fetch it, and fails when one weighs more than it may: npm run sizes
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { gzipSync } from 'node:zlib';
import { rolldown } from 'rolldown';
import { entries } from './entries.mjs';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
let heavy = 0;
for (const { title, folder, code, most, with: along = [] } of entries) {
  if (!code) continue;
  const bundle = await rolldown({
    input: join(root, 'packages', folder, code),
    platform: 'browser',
    logLevel: 'silent',
  });
  const { output } = await bundle.generate({ format: 'es', minify: true });
  await bundle.close();
  const chunks = new Map(output.filter((file) => file.type === 'chunk').map((chunk) => [chunk.fileName, chunk]));
  const fetched = new Set();
  const fetch = (name) => {
    if (fetched.has(name)) return;
    fetched.add(name);
    chunks.get(name).imports.forEach(fetch);
  };
  fetch(output.find((file) => file.isEntry).fileName);
  // What is fetched in any case, though not by a plain import.
  for (const ending of along) {
    const found = [...chunks.values()].filter(({ moduleIds }) => moduleIds.some((id) => id.endsWith(ending)));
    if (!found.length) throw new Error(`${title} has no chunk with ${ending}`);
    found.forEach(({ fileName }) => fetch(fileName));
  }
  const weigh = (names) => names.reduce((sum, name) => sum + gzipSync(chunks.get(name).code).length / 1000, 0);
  const weight = weigh([...fetched]);
  const later = weigh([...chunks.keys()].filter((name) => !fetched.has(name)));
  const over = weight > most;
  heavy += over;
  console.log(
    `${over ? '✗' : ' '} ${title}: ${weight.toFixed(1)} kB of at most ${most} kB${later ? `; ${later.toFixed(1)} kB more when asked for` : ''}`,
  );
}
process.exit(heavy ? 1 : 0);
