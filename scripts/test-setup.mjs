// Before the tests: builds the examples and the test page, and makes sure that a browser and the demo data are there.
import { existsSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'vite';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');

export default async function setUp() {
  const needed = ['packages/cli/dist/main.js', 'packages/flintwright/dist/index.js', 'demo/data/reach.pmtiles'];
  const missing = needed.find((path) => !existsSync(join(root, path)));
  if (missing) throw new Error(`${missing} is missing: run "npm run build" and "npm run demo" first`);
  // The key that the example is built with, and the tests' server asks for.
  process.env.VITE_REACH_KEY = 'made-up-for-the-tests';
  const quiet = { logLevel: 'error' };
  await build({
    ...quiet,
    root: join(root, 'examples'),
    configFile: join(root, 'examples/vite.config.ts'),
    build: { copyPublicDir: true },
  });
  await build({
    ...quiet,
    root: join(root, 'packages/flintwright/tests/page'),
    configFile: false,
    base: '/test/',
    build: { outDir: join(root, 'examples/dist/test'), emptyOutDir: true, target: 'es2022', assetsInlineLimit: 0 },
  });
  // Where what a test has stored is cleared away.
  writeFileSync(join(root, 'examples/dist/test/blank.html'), '<!doctype html><link rel="icon" href="data:," />');
}
