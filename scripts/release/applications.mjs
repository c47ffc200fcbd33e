// Fresh applications with the packed packages: bundled by four tools, and a page without any.
import { execFileSync } from 'node:child_process';
import { createReadStream, mkdirSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { createRequire } from 'node:module';
import { extname, join, normalize } from 'node:path';
import { chromium } from 'playwright-core';
import { PNG } from 'pngjs';
import { chromiumOptions } from '../browser.mjs';

const land = '#f4f0e6';
const water = '#b9d4d9';
const sheet = `{
  sheet: 1,
  background: '${water}',
  data: { land: { features: { type: 'Polygon', coordinates: [[[-3, -3], [3, -3], [3, 3], [-3, 3], [-3, -3]]] } } },
  view: { center: [0, 0], zoom: 5 },
  layers: [{ id: 'land', of: 'land', fill: '${land}' }],
}`;
const application = (entry, other = '') => `import { createMap } from '${entry}';
${other}const map = createMap('#map', { sheet: ${sheet} });
map.markers.add({ at: [8, 5], icon: 'anchor', popup: { title: 'Hallow Quay', html: '<b>Quay</b>' } });
Object.assign(globalThis, { map, createMap });
`;
const page = (
  script,
) => `<!doctype html><html lang="en"><meta charset="utf-8"><title>Fresh</title><link rel="icon" href="data:,">
<style>body{margin:0}#map{width:800px;height:600px}</style><body><div id="map"></div>${script}</body></html>`;

/** Compiles the application strictly, with both ways in which packages are resolved. @returns the versions of the compiler */
export function compileApplication(home) {
  writeFileSync(join(home, 'application.ts'), application('flintwright', "import 'flintwright/element';\n"));
  const compiled = [];
  for (const compiler of ['typescript', 'typescript-native']) {
    const { resolve } = createRequire(import.meta.url);
    const tsc = resolve(`${compiler}/package.json`).replace(/package\.json$/, 'bin/tsc');
    for (const [module, resolution] of [
      ['nodenext', 'nodenext'],
      ['esnext', 'bundler'],
    ])
      execFileSync(
        process.execPath,
        [tsc, '--noEmit', '--strict', '--target', 'es2022', '--lib', 'es2023,dom,dom.iterable'].concat([
          '--module',
          module,
          '--moduleResolution',
          resolution,
          'application.ts',
        ]),
        { cwd: home, stdio: 'inherit' },
      );
    compiled.push(execFileSync(process.execPath, [tsc, '--version'], { encoding: 'utf8' }).trim());
  }
  return `${compiled.join(' and ')}, strict, as for Node.js and for bundlers`;
}

/**
 * Bundles the application with each tool.
 *
 * @param home a folder in which the packages are installed
 * @returns the folder of the page for each tool
 */
export async function bundleApplications(home) {
  const made = {};
  const start = (name, script) => {
    const folder = join(home, name.replaceAll(/\W+/g, '-').toLowerCase());
    mkdirSync(folder, { recursive: true });
    const entry = join(folder, 'application.js');
    writeFileSync(entry, application('flintwright', "import 'flintwright/element';\n"));
    writeFileSync(join(folder, 'index.html'), page(script));
    made[name] = folder;
    return { folder, entry };
  };
  const module = '<script type="module" src="./out/application.js"></script>';

  const vite = start('Vite', '<script type="module" src="./application.js"></script>');
  const { build } = await import('vite');
  await build({
    root: vite.folder,
    configFile: false,
    logLevel: 'warn',
    base: './',
    build: { outDir: 'out', chunkSizeWarningLimit: 1000 },
  });
  made.Vite = join(vite.folder, 'out');

  const webpackApp = start('webpack', '<script src="./out/application.js"></script>');
  const { webpack } = createRequire(import.meta.url)('webpack');
  const stats = await new Promise((done, failed) =>
    webpack(
      {
        mode: 'production',
        context: webpackApp.folder,
        entry: webpackApp.entry,
        output: { path: join(webpackApp.folder, 'out'), filename: 'application.js' },
        performance: { hints: false },
      },
      (error, result) => (error ? failed(error) : done(result)),
    ),
  );
  const { errors, warnings } = stats.toJson({ all: false, errors: true, warnings: true });
  if (errors.length + warnings.length)
    throw new Error([...errors, ...warnings].map(({ message }) => message).join('\n'));

  const rollupApp = start('Rollup', module);
  const { rollup } = await import('rollup');
  const { nodeResolve } = await import('@rollup/plugin-node-resolve');
  const { default: commonjs } = await import('@rollup/plugin-commonjs');
  const told = [];
  const bundle = await rollup({
    input: rollupApp.entry,
    plugins: [nodeResolve({ browser: true }), commonjs()],
    onwarn: ({ code, message }) => code !== 'CIRCULAR_DEPENDENCY' && told.push(message),
  });
  await bundle.write({ dir: join(rollupApp.folder, 'out'), format: 'es' });
  await bundle.close();
  if (told.length) throw new Error(told.join('\n'));

  const esbuildApp = start('esbuild', module);
  const esbuild = await import('esbuild');
  const outdir = join(esbuildApp.folder, 'out');
  await esbuild.build({
    entryPoints: [esbuildApp.entry],
    bundle: true,
    splitting: true,
    format: 'esm',
    minify: true,
    outdir,
    logLevel: 'warning',
  });

  // A page without tools loads one module of the package; it is served from the folder that has both.
  const bare = join(home, 'index.html');
  writeFileSync(
    bare,
    page(`<script type="module">${application('./node_modules/flintwright/dist/flintwright.js')}</script>`),
  );
  made['no tool'] = home;
  return made;
}

const types = { '.html': 'text/html', '.js': 'text/javascript', '.map': 'application/json', '.ts': 'text/plain' };

/** Serves a folder on a free port. @returns the address, and a function that stops the server */
export async function serve(folder) {
  const server = createServer(({ url }, response) => {
    const path = normalize(new URL(url, 'http://localhost').pathname).replace(/\/$/, '/index.html');
    const file = createReadStream(join(folder, path));
    file.once('error', () => response.writeHead(404).end());
    file.once('open', () => response.setHeader('content-type', types[extname(path)] ?? 'application/octet-stream'));
    file.pipe(response);
  });
  await new Promise((done) => server.listen(0, 'localhost', done));
  return { address: `http://localhost:${server.address().port}/`, stop: () => server.close() };
}

/** Opens a page in Chromium, hands it to a function, and fails for everything that the page wrote to its console. */
export async function withPage(folder, use) {
  const { address, stop } = await serve(folder);
  const browser = await chromium.launch(chromiumOptions);
  try {
    const opened = await browser.newPage({ viewport: { width: 800, height: 600 } });
    const complaints = [];
    opened.on('pageerror', (error) => complaints.push(String(error)));
    opened.on('console', (message) => ['error', 'warning'].includes(message.type()) && complaints.push(message.text()));
    opened.on('requestfailed', (request) => complaints.push(`${request.url()}: ${request.failure()?.errorText}`));
    await opened.goto(address);
    await opened.waitForFunction(() => globalThis.map?.settled, undefined, { timeout: 30_000 });
    const result = await use(opened);
    // Chromium warns about pixels that are read from a canvas; no page can help it.
    const left = complaints.filter((text) => !/GL Driver Message|GPU stall/.test(text));
    if (left.length) throw new Error(`the page complains:\n${left.join('\n')}`);
    return result;
  } finally {
    await browser.close();
    stop();
  }
}

/** Draws the map of each application, and checks the colors of land, water and the marker's popup. */
export async function drawApplications(applications) {
  const results = [];
  for (const [name, folder] of Object.entries(applications))
    results.push([
      name,
      await withPage(folder, async (opened) => {
        await opened.evaluate(() => globalThis.map.settled());
        const picture = PNG.sync.read(await opened.screenshot());
        const colorAt = (x, y) => `#${picture.data.subarray((y * 800 + x) * 4, (y * 800 + x) * 4 + 3).toString('hex')}`;
        const colors = [colorAt(400, 300), colorAt(20, 300)];
        if (colors[0] !== land || colors[1] !== water)
          throw new Error(`expected ${land} and ${water}, got ${colors.join(' and ')}`);
        // At zoom 5 a degree is 256 · 2⁵ / 360 pixels; the marker stands on its place.
        const degree = (256 * 2 ** 5) / 360;
        await opened.mouse.click(400 + 8 * degree, 300 - 5 * degree - 15);
        await opened.getByText('Quay', { exact: true }).waitFor();
        return 'drawn; its marker opens a popup';
      }),
    ]);
  return results;
}
