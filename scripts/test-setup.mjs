// Before the tests: builds the examples and the test page, and makes sure that a browser and the demo data are there. What is built already out
// of the same files stays untouched, so that two who ask at once do not take the pages from under each other.
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'vite';

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

/** Names, sizes and times of all that the pages are built from, as one digest. */
function digestOfSources() {
  const digest = createHash('sha256');
  const add = (path) => {
    if (path === made || path.endsWith('node_modules')) return;
    const stat = statSync(path);
    if (stat.isDirectory()) for (const name of readdirSync(path).sort()) add(join(path, name));
    else digest.update(`${relative(root, path)} ${stat.size} ${stat.mtimeMs}\n`);
  };
  for (const path of sources) add(join(root, path));
  return digest.digest('hex');
}

export default async function setUp() {
  const needed = ['packages/cli/dist/main.js', 'packages/flintwright/dist/index.js', 'demo/data/reach.pmtiles'];
  const missing = needed.find((path) => !existsSync(join(root, path)));
  if (missing) throw new Error(`${missing} is missing: run "npm run build" and "npm run demo" first`);
  // The key that the example is built with, and the tests' server asks for.
  process.env.VITE_REACH_KEY = 'made-up-for-the-tests';
  const from = digestOfSources();
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
