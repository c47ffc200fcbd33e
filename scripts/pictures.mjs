// npm run pictures: makes docs/screenshots anew from the demo data.
import { execFileSync } from 'node:child_process';
import { mkdirSync, rmSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { serveFolder } from '@flintwright/cli';
import { chromium } from 'playwright-core';
import { chromiumOptions } from './browser.mjs';
import setUp from './test-setup.mjs';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const out = join(root, 'docs/screenshots');
mkdirSync(out, { recursive: true });
await setUp();

const server = await serveFolder(join(root, 'examples/dist'), { key: process.env.VITE_REACH_KEY });
const base = (await server.listen({ port: 0, host: 'localhost' }))
  .replace('127.0.0.1', 'localhost')
  .replace('[::1]', 'localhost');
const browser = await chromium.launch(chromiumOptions);
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });

/** Waits until the map of the page has drawn all, and takes a picture. */
async function shot(path, file, size) {
  if (size) await page.setViewportSize(size);
  await page.goto(`${base}${path}`);
  // An element with the id `map` is no map.
  await page.waitForFunction(
    () => (window.map?.settled ? window.map : document.querySelector('flint-map')?.map)?.settled,
  );
  await page.evaluate(() => (window.map?.settled ? window.map : document.querySelector('flint-map').map).settled());
  await page.waitForTimeout(300);
  return page.screenshot(file ? { path: join(out, `${file}.png`) } : {});
}
const full = { width: 1280, height: 800 };

await shot('/harbour/?zoom=14', 'harbour-chalk-14', full);
await shot('/harbour/?theme=tide&zoom=15.4&bearing=30&tilt=55&lat=44.615', 'harbour-tide-tilted');
for (const symbol of ['fill', 'stroke', 'mark', 'label', 'image', 'heat', 'extrusion'])
  await shot(`/symbols/?symbol=${symbol}`, `symbol-${symbol}`);
await shot('/beds/', 'beds');
await shot('/moorings/', 'moorings');

// Each base sheet at four zooms, side by side.
const views = ['zoom=8.6&lon=-31.3', 'zoom=11.4&lon=-31.2', 'zoom=14&lat=44.62', 'zoom=17&lat=44.6262&lon=-31.1838'];
for (const theme of ['chalk', 'slate', 'tide']) {
  const quarters = [];
  for (const view of views)
    quarters.push(await shot(`/harbour/?theme=${theme}&${view}&bare`, undefined, { width: 638, height: 398 }));
  await page.setViewportSize(full);
  await page.setContent(
    `<body style="margin:0;display:grid;grid-template:1fr 1fr/1fr 1fr;gap:4px;width:1280px;height:800px;background:#22303a">${quarters.map((png) => `<img style="display:block;width:638px;height:398px" src="data:image/png;base64,${png.toString('base64')}">`).join('')}</body>`,
  );
  await page.waitForTimeout(200);
  await page.screenshot({ path: join(out, `base-${theme}.png`) });
}

/** Four pictures of 638 by 398 side by side. */
async function four(file, pictures) {
  await page.setViewportSize(full);
  await page.setContent(
    `<body style="margin:0;display:grid;grid-template:1fr 1fr/1fr 1fr;gap:4px;width:1280px;height:800px;background:#22303a">${pictures.map((png) => `<img style="display:block;width:638px;height:398px" src="data:image/png;base64,${png.toString('base64')}">`).join('')}</body>`,
  );
  await page.waitForTimeout(200);
  await page.screenshot({ path: join(out, `${file}.png`) });
}
const small = { width: 957, height: 597 };

// The planet on three surfaces, and the plan; then the applications that have no picture of their own.
const surfaces = [];
for (const surface of ['Globe', 'Robinson', 'Lambert azimuthal'])
  surfaces.push(await shot(`/projections/?surface=${encodeURIComponent(surface)}`, undefined, small));
surfaces.push(await shot('/terminal/', undefined, small));
await four('surfaces', surfaces);
const applications = [];
for (const path of ['/birds/', '/ferries/', '/plain/', '/key/']) applications.push(await shot(path, undefined, small));
await four('applications', applications);

// A marker's popup, opened as a user would.
await page.goto(`${base}/harbour/?zoom=13.2&lon=-31.11&lat=44.625`);
await page.waitForFunction(() => window.map?.settled);
await page.evaluate(() => window.map.settled());
const tip = await page.evaluate(() => window.map.toPixel([-31.0851, 44.6315]));
await page.mouse.click(tip[0], tip[1] - 16);
await page.evaluate(() => window.map.settled());
await page.screenshot({ path: join(out, 'popup.png') });

await page.goto(`${base}/`);
// Thirteen maps at once take their time without a graphics card.
await page.waitForTimeout(28000);
await page.screenshot({ path: join(out, 'gallery.png'), timeout: 120000 });

// The command line, as a terminal shows it.
const bin = join(root, 'packages/cli/bin/flintwright.js');
const data = join(root, 'demo/data');
const archive = join(root, 'reach.pmtiles');
const shell = (...args) =>
  execFileSync(process.execPath, [bin, ...args], {
    cwd: root,
    encoding: 'utf8',
    env: { ...process.env, FORCE_COLOR: '1' },
  });
const layers = ['buildings', 'land', 'places', 'roads', 'shore'].map((name) => join(data, 'reach', `${name}.geojson`));
const parts = [
  [
    'flintwright tile demo/data/reach/{buildings,land,places,roads,shore}.geojson --zooms 6-14 -o reach.pmtiles',
    shell('tile', ...layers, '-o', 'reach.pmtiles', '--zooms', '6-14'),
  ],
  ['flintwright inspect reach.pmtiles | head', shell('inspect', 'reach.pmtiles').split('\n').slice(0, 10).join('\n')],
  [
    `flintwright inspect demo/data/beds.geojson --where "kind = 'native' AND area() > 15000" | tail -2`,
    shell('inspect', 'demo/data/beds.geojson', '--where', "kind = 'native' AND area() > 15000")
      .trim()
      .split('\n')
      .slice(-2)
      .join('\n'),
  ],
  ['flintwright check demo/data/symbols/fill.sheet.json', shell('check', 'demo/data/symbols/fill.sheet.json')],
  [
    'flintwright convert demo/data/chalk.sheet.json -o chalk.sld | head -4',
    shell('convert', 'demo/data/chalk.sheet.json', '-o', 'chalk.sld').split('\n').slice(0, 4).join('\n'),
  ],
];
parts.push([
  'flintwright convert demo/data/beds.geojson -o utm.geojson --to EPSG:32625',
  shell('convert', 'demo/data/beds.geojson', '-o', 'utm.geojson', '--to', 'EPSG:32625'),
]);
rmSync(join(root, 'utm.geojson'));
rmSync(archive);
rmSync(join(root, 'chalk.sld'));
const colours = {
  1: 'font-weight:700',
  2: 'opacity:.6',
  31: 'color:#e27a5f',
  32: 'color:#5fb39f',
  33: 'color:#e5a04a',
  36: 'color:#83b4ca',
};
const html = (text) => {
  let open = 0;
  const marked = text
    .replace(/&/g, '&amp;')
    .replace(/</g, '&lt;')
    .replace(new RegExp(`${String.fromCharCode(27)}.(\\d+)m`, 'g'), (_, code) =>
      colours[code] ? (open++, `<span style="${colours[code]}">`) : open ? (open--, '</span>') : '',
    );
  return marked + '</span>'.repeat(open);
};
await page.setContent(
  `<body style="margin:0;background:#1b262e;color:#eef0ea;font:13px/1.42 'Noto Sans Mono','DejaVu Sans Mono',monospace;padding:18px 24px"><pre style="margin:0;font:inherit">${parts.map(([call, text]) => `<span style="color:#e5a04a">$</span> <b>${call}</b>\n${html(text.trimEnd())}`).join('\n\n')}</pre></body>`,
);
await page.screenshot({ path: join(out, 'command-line.png') });

await browser.close();
await server.close();
