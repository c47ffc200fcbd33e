// Bundles the worker into one file, and into a module that holds its text: the map starts it from a Blob unless
// the application serves the file itself (option `worker`, for pages with a strict content security policy).
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { rolldown } from 'rolldown';

export async function buildWorker(root) {
  const home = join(root, 'packages/flintwright');
  const bundle = await rolldown({ input: join(home, 'src/worker.ts'), platform: 'browser', logLevel: 'warn' });
  const { output } = await bundle.generate({ format: 'iife', minify: true });
  await bundle.close();
  // The table reader carries the source of a worker of its own, which is never started here; its `global` makes checkers of
  // packages take this file for CommonJS.
  const code = output[0].code.trim().replaceAll('global.IS_PAPA_WORKER', 'self.IS_PAPA_WORKER');
  mkdirSync(join(home, 'dist'), { recursive: true });
  writeFileSync(join(home, 'dist/worker.bundle.js'), code);
  writeFileSync(
    join(home, 'src/load/worker-text.generated.ts'),
    `/** The worker, bundled. */\nexport const workerText = ${JSON.stringify(code)};\n`,
  );
}
