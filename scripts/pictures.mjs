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

const server = await serveFolder(join(root, 'examples/dist'));
const base = (await server.listen({ port: 0, host: 'localhost' }))
  .replace('127.0.0.1', 'localhost')
  .replace('[::1]', 'localhost');
const browser = await chromium.launch(chromiumOptions);
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });

const harbour = [
  ['harbour-chalk-9', 'zoom=9&lon=-31.35'],
  ['harbour-chalk-12', 'zoom=12'],
  ['harbour-chalk-14', 'zoom=14'],
  ['harbour-chalk-15', 'zoom=15&lat=44.6235'],
  ['harbour-chalk-18', 'zoom=18&lat=44.6262&lon=-31.1838'],
  ['harbour-slate-9', 'theme=slate&zoom=9&lon=-31.35'],
  ['harbour-slate-12', 'theme=slate&zoom=12'],
  ['harbour-slate-15', 'theme=slate&zoom=15&lat=44.6235'],
  ['harbour-slate-18', 'theme=slate&zoom=18&lat=44.6262&lon=-31.1838'],
  ['harbour-tide-tilted', 'theme=tide&zoom=15.4&bearing=30&tilt=55&lat=44.615'],
];
for (const [name, query] of harbour) {
  await page.goto(`${base}/harbour/?${query}`);
  await page.waitForFunction(() => window.map?.settled);
  await page.evaluate(() => window.map.settled());
  await page.screenshot({ path: join(out, `${name}.png`) });
}

// A marker's popup, opened as a user would.
await page.goto(`${base}/harbour/?zoom=13.2&lon=-31.11&lat=44.625`);
await page.waitForFunction(() => window.map?.settled);
await page.evaluate(() => window.map.settled());
const tip = await page.evaluate(() => window.map.toPixel([-31.0851, 44.6315]));
await page.mouse.click(tip[0], tip[1] - 16);
await page.evaluate(() => window.map.settled());
await page.screenshot({ path: join(out, 'popup.png') });

await page.goto(`${base}/`);
await page.waitForTimeout(14000);
await page.screenshot({ path: join(out, 'gallery.png') });

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
    'flintwright tile demo/data/reach/{buildings,land,places,roads,shore}.geojson -o reach.pmtiles',
    shell('tile', ...layers, '-o', 'reach.pmtiles', '--zooms', '6-14'),
  ],
  ['flintwright inspect reach.pmtiles', shell('inspect', 'reach.pmtiles').split('\n').slice(0, 24).join('\n')],
  ['flintwright check demo/data/chalk.sheet.json', shell('check', 'demo/data/chalk.sheet.json')],
];
rmSync(archive);
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
  `<body style="margin:0;background:#1b262e;color:#eef0ea;font:13px/1.42 'Noto Sans Mono','DejaVu Sans Mono',monospace;padding:18px 24px"><pre style="margin:0;font:inherit">${parts.map(([call, text]) => `<span style="color:#e5a04a">$</span> <b>${call}</b>\n${html(text)}`).join('\n')}</pre></body>`,
);
await page.screenshot({ path: join(out, 'command-line.png') });

await browser.close();
await server.close();
