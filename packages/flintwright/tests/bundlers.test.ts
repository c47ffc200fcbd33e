// Applications that do more than one tool's defaults: bundled expressions, and a page that is rendered on a server first.
// scripts/release.mjs bundles a plain application with each common tool, from the packed packages.
import { execFile } from 'node:child_process';
import { mkdtemp, readFile, rm, symlink } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { pixels, settled, useStage } from './harness.ts';

const stage = useStage();
let out = '';
beforeAll(async () => {
  out = await mkdtemp(join(tmpdir(), 'bundled-'));
});
afterAll(() => rm(out, { recursive: true, force: true }));

/** Opens a bare page with one module script, and answers from a folder what it asks for. */
async function open(folder: string, script: string, body = '<div id="map"></div>') {
  const { page, base } = stage;
  const html = `<!doctype html><html lang="en"><meta charset="utf-8"><title>App</title><style>body{margin:0}#map,flint-map{display:block;width:800px;height:600px}</style><link rel="icon" href="data:,"><body>${body}${script}</body></html>`;
  await page.route('**/bundled/**', async (route) => {
    const name = new URL(route.request().url()).pathname.replace(/^.*\/bundled\//, '');
    if (!name) return route.fulfill({ contentType: 'text/html', body: html });
    return route.fulfill({ contentType: 'text/javascript', body: await readFile(join(folder, name)) });
  });
  await page.goto(`${base}/bundled/`);
}

/** Whether the map is drawn: land in the middle, water beside it. */
async function isDrawn() {
  await stage.page.waitForFunction(() => window.map?.settled);
  await settled(stage);
  expect(await pixels(stage, [400, 300], [20, 300])).toEqual([
    [0xf4, 0xf0, 0xe6],
    [0xb9, 0xd4, 0xd9],
  ]);
}

test('a page that imports flintwright/expressions fetches nothing for them, and its calls throw for them from the start', async () => {
  const { build } = await import('esbuild');
  const folder = join(out, 'expressions');
  const contents = `import { createMap } from 'flintwright';
    import 'flintwright/expressions';
    const land = { type: 'Polygon', coordinates: [[[-3, -3], [3, -3], [3, 3], [-3, 3], [-3, -3]]] };
    const make = (is) => createMap('#map', {
      sheet: { sheet: 1, background: '#b9d4d9', data: { land: { features: land } }, layers: [{ id: 'land', of: 'land', fill: { color: { is } } }] },
      view: { center: [0, 0], zoom: 5 },
    });
    try {
      make("concat('#f4f0',");
    } catch ({ faults }) {
      window.refused = faults.map(({ code, at }) => code + ' ' + at);
    }
    window.map = make("concat('#f4f0', 'e6')");`;
  const { metafile } = await build({
    stdin: { contents, resolveDir: fileURLToPath(new URL('./page', import.meta.url)) },
    bundle: true,
    splitting: true,
    format: 'esm',
    metafile: true,
    outdir: folder,
    logLevel: 'error',
  });
  // What comes with the page: all that its script imports, and what that imports.
  const { outputs } = metafile;
  const along = new Set<string>();
  const take = (name: string): void => {
    if (along.has(name)) return;
    along.add(name);
    for (const { path, kind } of outputs[name].imports) if (kind === 'import-statement') take(path);
  };
  take(Object.keys(outputs).find((name) => name.endsWith('/stdin.js'))!);
  const has = (name: string) => Object.keys(outputs[name].inputs).some((file) => file.endsWith('/cql2/parse.js'));
  expect([...along].filter(has)).toHaveLength(1);
  await open(folder, '<script type="module" src="stdin.js"></script>');
  await isDrawn();
  expect(await stage.page.evaluate(() => (window as unknown as { refused: string[] }).refused)).toEqual([
    expect.stringContaining('cql2.syntax $.layers[0].fill.color.is'),
  ]);
});

test('a page of a common framework, rendered on a server first, is taken over in the browser and draws its map', async () => {
  const { build } = await import('esbuild');
  const folder = join(out, 'server');
  const from = (file: string) => fileURLToPath(new URL(`../../../examples/server/${file}`, import.meta.url));
  const shared = {
    bundle: true,
    format: 'esm',
    logLevel: 'error',
    define: { 'process.env.NODE_ENV': '"development"' },
  } as const;
  await build({ ...shared, entryPoints: [from('client.ts')], splitting: true, outdir: folder });
  await build({
    ...shared,
    entryPoints: [from('render.ts')],
    platform: 'node',
    packages: 'external',
    outfile: join(folder, 'render.mjs'),
  });
  const square = [-3, 3].flatMap((x, i) => [-3, 3].map((y) => [x, i ? -y : y]));
  const sheet = {
    sheet: 1,
    title: 'The <harbour>',
    background: '#b9d4d9',
    view: { center: [0, 0], zoom: 5 },
    data: { land: { features: { type: 'Polygon', coordinates: [[...square, square[0]]] } } },
    layers: [{ id: 'land', of: 'land', fill: '#f4f0e6' }],
  };
  const run = promisify(execFile);
  // In a process of its own, as a server is: there is no page, and importing the library must not ask for one.
  const script = `import { render } from ${JSON.stringify(join(folder, 'render.mjs'))}; console.log(render(${JSON.stringify(sheet)}))`;
  await symlink(fileURLToPath(new URL('../../../node_modules', import.meta.url)), join(out, 'node_modules'));
  const { stdout } = await run(process.execPath, ['--input-type=module', '-e', script], { cwd: out });
  expect(stdout).toMatch(/<h1>The &lt;harbour&gt;<\/h1><div id="map"><\/div>/);
  await open(
    folder,
    '<script type="module" src="client.js"></script>',
    `<style>h1{position:absolute}main{margin:0}</style>${stdout}`,
  );
  await isDrawn();
});
