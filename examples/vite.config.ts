import { readdirSync, readFileSync } from 'node:fs';
import { resolve } from 'node:path';
import { randomUUID } from 'node:crypto';
import { serveFolder } from '@flintwright/cli';
import { defaultClientConditions, defineConfig, type Plugin } from 'vite';
import { buildWorker } from '../scripts/worker.mjs';

const here = import.meta.dirname;
const library = resolve(here, '../packages/flintwright/dist');
const wholeFiles = ['', '-reader', '-register', '-sqlite', '-places', '-search', '-draw'].map(
  (part) => `flintwright${part}.js`,
);
const apps = readdirSync(here, { withFileTypes: true }).filter(
  // `server` is rendered by a server of its own; see its test.
  (entry) => entry.isDirectory() && !['dist', 'node_modules', 'server', 'shared'].includes(entry.name),
);
const pages = Object.fromEntries(
  apps.filter(({ name }) => name !== 'gallery').map(({ name }) => [name, resolve(here, name, 'index.html')]),
);

// A tile service that wants a key, beside the pages. Whoever sets none gets one that lasts as long as the server.
process.env['VITE_REACH_KEY'] ??= randomUUID();
const keyed: Plugin = {
  name: 'keyed-tiles',
  async configureServer({ middlewares }) {
    const service = await serveFolder(resolve(here, '../demo/data'), {
      key: process.env['VITE_REACH_KEY']!,
      openFiles: true,
    });
    await service.ready();
    middlewares.use((request, response, next) => {
      if (request.url?.startsWith('/tiles/')) service.routing(request, response);
      else next();
    });
  },
};

/** The whole library as one module, and what it fetches when a file comes, for the page that uses no tools. */
const whole: Plugin = {
  name: 'whole-library',
  configureServer({ middlewares }) {
    for (const file of wholeFiles)
      middlewares.use(`/${file}`, (_, response) => {
        response.setHeader('content-type', 'text/javascript');
        response.end(readFileSync(resolve(library, file)));
      });
  },
  generateBundle() {
    for (const fileName of wholeFiles)
      this.emitFile({ type: 'asset', fileName, source: readFileSync(resolve(library, fileName), 'utf8') });
  },
};

/** Fonts for every script of the demo data, on every page; see scripts/fonts.mjs. */
const fonts: Plugin = {
  name: 'demo-fonts',
  transformIndexHtml: {
    order: 'pre',
    handler: () => [
      { tag: 'link', attrs: { rel: 'stylesheet', href: '/shared/fonts.generated.css' }, injectTo: 'head-prepend' },
    ],
  },
};

/** While developing: bundles the workers again when a source of the packages changes, and reloads the page. */
const workers: Plugin = {
  name: 'workers',
  apply: 'serve',
  async configureServer({ watcher, ws, config }) {
    const root = resolve(here, '..');
    await buildWorker(root);
    watcher.add(['core', 'flintwright'].map((name) => resolve(root, `packages/${name}/src`)));
    let turn = Promise.resolve();
    watcher.on('change', (path) => {
      if (!/packages\/(core|flintwright)\/src\/.*\.ts$/.test(path) || path.includes('.generated.')) return;
      turn = turn
        .then(() => buildWorker(root))
        .then(() => ws.send({ type: 'full-reload' }))
        .catch((error: unknown) => config.logger.error(String(error)));
    });
  },
};

export default defineConfig(({ command }) => ({
  plugins: [keyed, fonts, whole, workers],
  // The development server runs on the sources of the packages, a build on what would be published.
  resolve: command === 'serve' ? { conditions: ['@flintwright/source', ...defaultClientConditions] } : {},
  // The made-up data of the demo is served beside the pages.
  publicDir: resolve(here, '../demo/data'),
  build: {
    outDir: 'dist',
    emptyOutDir: true,
    // Strict content security policies allow no fonts written into style sheets.
    assetsInlineLimit: 0,
    target: 'es2022',
    // Browsers that have all that the map needs preload modules themselves.
    modulePreload: { polyfill: false },
    rolldownOptions: {
      input: { gallery: resolve(here, 'index.html'), ...pages },
      // Every page has a map: what any map needs is one file for all of them, and not one for each set of pages that share a module.
      output: {
        codeSplitting: { groups: [{ name: 'flintwright', test: /packages[/]flintwright[/]dist[/]map[/]map[.]js$/ }] },
      },
    },
  },
  server: { host: 'localhost', port: 5180 },
  preview: { host: 'localhost', port: 5180 },
}));
