// Before the tests in a browser: builds the packages, the examples and the test page if their sources have changed. Nothing is rebuilt without
// need, so that two test runs at the same time do not disturb each other.
import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'vite';
import { digestOf, isBuilt } from './freshness.mjs';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');

const made = join(root, 'examples/dist');
const stamp = join(made, '.built-from');
/** What the pages are built from. */
const sources = [
  'examples',
  'demo/data',
  'packages/flintwright/tests/page',
  ...['core', 'flintwright', 'cli'].map((name) => `packages/${name}/dist`),
  'package-lock.json',
  'scripts/test-setup.mjs',
];

export default async function setUp() {
  if (!isBuilt()) execFileSync(process.execPath, [join(root, 'scripts/build.mjs')], { stdio: 'inherit' });
  if (!existsSync(join(root, 'demo/data/reach.pmtiles')))
    throw new Error('demo/data/reach.pmtiles is missing: run "npm run demo" first');
  // The key that the example is built with, and the tests' server asks for.
  process.env.VITE_REACH_KEY = 'made-up-for-the-tests';
  const from = digestOf(sources, made);
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === from) return;
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
    build: {
      outDir: join(root, 'examples/dist/test'),
      emptyOutDir: true,
      target: 'es2022',
      assetsInlineLimit: 0,
      // All that the page loads at once is in one file: each of many costs every test a request.
      rolldownOptions: {
        output: { codeSplitting: { groups: [{ name: 'library', test: /tests[/]page[/]page[.]ts$/ }] } },
      },
    },
  });
  // Where what a test has stored is cleared away.
  writeFileSync(join(root, 'examples/dist/test/blank.html'), '<!doctype html><link rel="icon" href="data:," />');
  // Last: the build empties the folder first, so half a build bears no stamp.
  writeFileSync(stamp, from);
}
