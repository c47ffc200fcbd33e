// npm run pictures: makes docs/screenshots anew from the demo data.
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { serveFolder } from '@flintwright/cli';
import { chromium } from 'playwright-core';
import sharp from 'sharp';
import { chromiumOptions } from './browser.mjs';
import setUp from './test-setup.mjs';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const out = join(root, 'docs/screenshots');
mkdirSync(out, { recursive: true });
await setUp();

const server = await serveFolder(join(root, 'examples/dist'), { key: process.env.VITE_REACH_KEY, openFiles: true });
const base = (await server.listen({ port: 0, host: 'localhost' }))
  .replace('127.0.0.1', 'localhost')
  .replace('[::1]', 'localhost');
const browser = await chromium.launch(chromiumOptions);
const full = { width: 1280, height: 800 };
const page = await browser.newPage({ viewport: full, deviceScaleFactor: 2 });

/** Share of the pixels that must differ for a picture to be replaced. */
const leastChange = 0.005;

/** Pixels of a picture, red, green and blue by turns. */
const pixelsOf = (png) => sharp(png).removeAlpha().raw().toBuffer({ resolveWithObject: true });

/** Share of the pixels in which two pictures differ by more than what a palette of 256 colors changes. */
async function differenceOf(one, other) {
  const [a, b] = [await pixelsOf(one), await pixelsOf(other)];
  if (a.info.width !== b.info.width || a.info.height !== b.info.height) return 1;
  let count = 0;
  for (let i = 0; i < a.data.length; i += 3)
    if ([0, 1, 2].some((k) => Math.abs(a.data[i + k] - b.data[i + k]) > 32)) count++;
  return count / (a.data.length / 3);
}

/** Writes a picture with a palette of 256 colors, where it looks unlike the one that is there. */
async function save(name, png) {
  const file = join(out, `${name}.png`);
  if (existsSync(file)) {
    const share = await differenceOf(readFileSync(file), png);
    if (share <= leastChange) return console.log(`${name}: as before`);
    console.log(`${name}: ${(100 * share).toFixed(1)} % of the pixels differ`);
  }
  writeFileSync(file, await sharp(png).png({ palette: true, quality: 90, effort: 9 }).toBuffer());
}

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
  const png = await page.screenshot();
  if (file) await save(file, png);
  return png;
}

await shot('/tide/?minute=250', 'one-tide', full);
for (const symbol of ['fill', 'stroke', 'mark', 'label', 'image', 'heat', 'extrusion'])
  await shot(`/symbols/?symbol=${symbol}`, `symbol-${symbol}`);
await shot('/beds/', 'beds');
await shot('/moorings/', 'moorings');

// The workbench: files dropped and styled, a place searched, a border corrected, and the sheet as text in the dark.
const bench = { width: 957, height: 597 };
const drop = async (...titles) => {
  for (const title of titles) {
    const cards = await page.locator('.flint-file[data-state="done"]').count();
    await page.locator('#samples').getByRole('button', { name: title }).click();
    await page.waitForFunction((n) => document.querySelectorAll('.flint-file[data-state="done"]').length > n, cards);
  }
  await page.waitForTimeout(1200);
};
const settle = async () => {
  await page.evaluate(() => window.map.settled());
  await page.waitForTimeout(300);
  return page.screenshot();
};
await shot('/workbench/', undefined, bench);
await drop('Gauge readings', 'Protected zones', 'Sea-bed leases');
await page.getByRole('tab', { name: 'Style' }).click();
const dropped = await settle();
await shot('/workbench/', undefined, bench);
await page.getByRole('combobox').fill('hawser');
await page.getByRole('option').first().waitFor();
await page.keyboard.press('ArrowDown');
const searched = await settle();
await drop('Sea-bed leases');
await page.getByRole('combobox').fill('');
await page.getByRole('button', { name: 'Correct leases' }).click();
await page.evaluate(() => window.map.frame('drawn', { duration: 0 }));
await page.evaluate(() => window.draw.select('new-5'));
const corrected = await settle();
await page.emulateMedia({ colorScheme: 'dark' });
await page.evaluate(() => window.draw.discardDraft());
await shot('/workbench/', undefined, bench);
await page.evaluate(() => window.map.move({ center: [-31.17, 44.621], zoom: 14 }));
await page.getByRole('tab', { name: 'Sheet' }).click();
await page.locator('.cm-content').waitFor();
await page.getByRole('button', { name: 'Draw an area' }).click();
for (const [x, y] of [
  [600, 260],
  [720, 220],
  [800, 330],
]) {
  await page.mouse.click(x, y);
  await page.waitForTimeout(400);
}
await page.mouse.move(650, 400);
const dark = await settle();
await page.emulateMedia({ colorScheme: 'light' });
const benches = [dropped, searched, corrected, dark];

/** A base sheet alone, without its attribution, which would stand in each of many small pictures. */
async function bare(query, size) {
  await shot(`/harbour/?${query}&bare`, undefined, size);
  await page.addStyleTag({ content: '.flint-credit { display: none }' });
  return page.screenshot();
}

/** A page of pictures in rows, each as wide and high as it was taken. */
async function side(columns, { width, height }, pictures) {
  await page.setViewportSize(full);
  const images = pictures
    .map(
      (png) =>
        `<img style="display:block;width:${width}px;height:${height}px" src="data:image/png;base64,${png.toString('base64')}">`,
    )
    .join('');
  await page.setContent(
    `<!doctype html><body style="margin:0;display:grid;grid-template-columns:repeat(${columns},${width}px);gap:4px;width:max-content;background:#22303a">${images}</body>`,
  );
  await page.waitForTimeout(300);
  return page.locator('body').screenshot();
}

/** Four pictures side by side. */
const four = async (name, pictures) => save(name, await side(2, { width: 638, height: 398 }, pictures));

// Each base sheet at four zooms, a row for each sheet.
const cell = { width: 317, height: 264 };
const views = [
  'zoom=8.4&lon=-31.3',
  'zoom=11.6&lon=-31.15&lat=44.62',
  'zoom=14&lat=44.62',
  'zoom=16.6&lat=44.6262&lon=-31.1838',
];
const cells = [];
for (const theme of ['chalk', 'slate', 'tide'])
  for (const view of views) cells.push(await bare(`theme=${theme}&${view}`, cell));
await save('base-sheets', await side(4, cell, cells));

// Day, night, and tilted.
const third = { width: 424, height: 520 };
await save(
  'day-night-tilt',
  await side(3, third, [
    await bare('theme=tide&zoom=12.9&lon=-31.165&lat=44.618', third),
    await bare('theme=slate&zoom=12.9&lon=-31.165&lat=44.618', third),
    await bare('theme=tide&zoom=14.2&lon=-31.175&lat=44.617&bearing=-38&tilt=56', third),
  ]),
);
await four('workbench', benches);
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

// In any dress: a phone by day and by night, a picture over the Reach, clusters as the sheet has them, a popup with a picture and a link.
/** Opens the harbour, does something to its map, and takes a picture when all is drawn. */
async function dressed(path, size, act, argument) {
  await page.setViewportSize(size);
  await page.goto(`${base}${path}`);
  await page.waitForFunction(() => window.map?.settled);
  await page.evaluate(() => window.map.settled());
  await page.evaluate(act, argument);
  await page.evaluate(() => window.map.settled());
  await page.waitForTimeout(400);
  return page.screenshot();
}
const phone = { width: 317, height: 398 };
const phones = [];
for (const scheme of ['light', 'dark'])
  phones.push(await dressed('/harbour/?zoom=12.6', phone, (to) => (window.map.colorScheme = to), scheme));
const dress = [await side(2, phone, phones)];
dress.push(
  await dressed('/harbour/?bare&zoom=12.4&lon=-31.16&lat=44.62', small, () => {
    // An old survey, made up as the Reach is: depths in rings, on paper.
    const canvas = Object.assign(document.createElement('canvas'), { width: 900, height: 600 });
    const pen = canvas.getContext('2d');
    pen.fillStyle = '#ead9b0';
    pen.fillRect(0, 0, 900, 600);
    pen.strokeStyle = '#6d5b44';
    pen.lineWidth = 3;
    for (let ring = 1; ring < 9; ring++) {
      pen.beginPath();
      for (let k = 0; k <= 120; k++) {
        const turn = (k / 120) * 2 * Math.PI;
        const away = ring * (30 + 5 * Math.sin(3 * turn + ring) + 4 * Math.cos(5 * turn));
        pen.lineTo(470 + 1.5 * away * Math.cos(turn), 300 + 0.8 * away * Math.sin(turn));
      }
      pen.stroke();
    }
    pen.lineWidth = 10;
    pen.strokeRect(14, 14, 872, 572);
    pen.fillStyle = '#4b3b26';
    pen.font = 'italic 54px "Noto Serif"';
    pen.fillText('The Outer Roads, sounded', 150, 90);
    const images = canvas.toDataURL();
    const corners = [
      [-31.142, 44.642],
      [-31.055, 44.648],
      [-31.049, 44.612],
      [-31.138, 44.606],
    ];
    window.map.layers.add({ id: 'survey', of: { images, corners }, image: { opacity: 0.86 } });
  }),
);
dress.push(
  await dressed('/moorings/', small, () => {
    const { id } = window.map.layers.all.find(({ mark, of }) => mark && window.map.sheet.data[of]?.cluster);
    window.map.layers.change(id, {
      clusters: {
        mark: {
          shape: 'circle',
          size: {
            by: 'count',
            ramp: [
              [2, 22],
              [400, 74],
            ],
          },
          color: { by: 'count', classes: { breaks: [20, 100], values: ['#8fc2d0', '#4286a6', '#22536c'] } },
          outline: { color: '#fbf8f0', width: 3 },
        },
        label: { text: 'count', color: '#ffffff', weight: 700, size: 13, halo: { color: '#22536c', width: 1.5 } },
      },
    });
  }),
);
dress.push(
  await dressed('/harbour/?zoom=13.6&lon=-31.1&lat=44.628', small, () => {
    const light = (color) =>
      `<svg xmlns="http://www.w3.org/2000/svg" width="280" height="120"><rect width="280" height="120" fill="#16212b"/><path d="M140 40L280 8V84Z" fill="${color}" opacity=".55"/><path d="M132 36h16l6 84h-28z" fill="#f4f0e6"/><path d="M130 60h20v14h-20zM128 92h24v14h-24z" fill="#c5523a"/></svg>`;
    window.map.popup({
      at: [-31.0851, 44.6315],
      rise: 30,
      title: 'Gannet Ledge light',
      image: { src: `data:image/svg+xml,${encodeURIComponent(light('#f0ad54'))}`, alt: 'The light by night' },
      lines: {
        Shows: 'a flash every 6 s',
        Reaches: '14 nmi',
        Register: { href: 'https://reach.example/', text: 'List of lights' },
      },
    });
  }),
);
await four('dress', dress);

await page.goto(`${base}/`);
// Thirteen maps at once take their time without a graphics card.
await page.waitForTimeout(28000);
await save('gallery', await page.screenshot({ timeout: 240000 }));

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
  ['flintwright inspect demo/data/files/gauges.csv', shell('inspect', 'demo/data/files/gauges.csv')],
  [
    `flintwright inspect demo/data/beds.geojson --where "kind = 'native' AND area() > 15000" | tail -2`,
    shell('inspect', 'demo/data/beds.geojson', '--where', "kind = 'native' AND area() > 15000")
      .trim()
      .split('\n')
      .slice(-2)
      .join('\n'),
  ],
  ['flintwright check demo/data/symbols/fill.sheet.json', shell('check', 'demo/data/symbols/fill.sheet.json')],
];
parts.push([
  'flintwright convert demo/data/files/leases.zip -o leases.gpkg --to EPSG:32625',
  shell('convert', 'demo/data/files/leases.zip', '-o', 'leases.gpkg', '--to', 'EPSG:32625'),
]);
rmSync(join(root, 'leases.gpkg'));
rmSync(archive);
const colors = {
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
      colors[code] ? (open++, `<span style="${colors[code]}">`) : open ? (open--, '</span>') : '',
    );
  return marked + '</span>'.repeat(open);
};
await page.setContent(
  `<!doctype html><body style="margin:0;background:#1b262e;color:#eef0ea;font:13px/1.42 'Noto Sans Mono','DejaVu Sans Mono',monospace;padding:18px 24px;width:max-content"><pre style="margin:0;font:inherit">${parts.map(([call, text]) => `<span style="color:#e5a04a">$</span> <b>${call}</b>\n${html(text.trimEnd())}`).join('\n\n')}</pre></body>`,
);
await save('command-line', await page.locator('body').screenshot());

await browser.close();
await server.close();
