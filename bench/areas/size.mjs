// What a page fetches for the ten-line map of the README, minified and gzipped: bundled as it stands there, and opened in a browser until
// all is there.
import { copyFileSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { rolldown } from 'rolldown';
import { data, inBrowser, root } from '../measure.mjs';

const page = `<!doctype html><html lang="en"><meta charset="utf-8"><title>Ten lines</title>
<style>html, body, #map { height: 100%; margin: 0; }</style><div id="map"></div><script type="module" src="/app.js"></script></html>`;

/** The ten lines, as the README has them. */
function tenLines() {
  const [, section] = /## A map in ten lines\n([^]*?)\n## /.exec(readFileSync(join(root, 'README.md'), 'utf8'));
  return /```ts\n([^]*?)```/.exec(section)[1];
}

/** GeoJSON laid over it. */
const overlay = `map.layers.add({ id: 'beds', of: { features: '/beds.geojson' }, fill: '#5fa8a0', stroke: { color: '#22303a' } });`;

async function bundled(folder, more) {
  const bundle = await rolldown({
    input: 'app',
    plugins: [
      {
        name: 'app',
        resolveId: (id) =>
          id === 'flintwright' ? join(root, 'packages/flintwright/dist/index.js') : id === 'app' ? id : null,
        load: (id) => (id === 'app' ? `${tenLines()}\n${more}\nglobalThis.map = map;\n` : null),
      },
    ],
    platform: 'browser',
    logLevel: 'silent',
  });
  await bundle.write({ dir: folder, format: 'es', minify: true, entryFileNames: 'app.js' });
  await bundle.close();
  writeFileSync(join(folder, 'index.html'), page);
  for (const file of ['reach.pmtiles', 'beds.geojson']) copyFileSync(join(data, file), join(folder, file));
}

/** What a browser fetches for the map with something more, in kilobytes; `check` is run in the page, and what it gives must hold. */
async function fetchedWith(more, check) {
  const folder = mkdtempSync(join(tmpdir(), 'ten-lines-'));
  try {
    await bundled(folder, more);
    const fetched = await inBrowser(
      async (browser, base) => {
        const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
        const scripts = new Set();
        page.on('request', (request) => {
          const { origin, pathname } = new URL(request.url());
          if (origin === new URL(base).origin && pathname.endsWith('.js')) scripts.add(pathname);
        });
        await page.goto(`${base}/`);
        await page.waitForFunction(() => 'map' in window);
        const shown = await page.evaluate(async () => {
          const { map } = window;
          let faults = 0;
          map.addEventListener('fault', () => faults++);
          await map.settled();
          const picture = await createImageBitmap(await map.picture());
          const pen = new OffscreenCanvas(picture.width, picture.height).getContext('2d');
          pen.drawImage(picture, 0, 0);
          const pixels = pen.getImageData(0, 0, picture.width, picture.height).data;
          // The fills of the land and of the beds.
          const seen = { land: [0xf4, 0xf0, 0xe6], beds: [0x5f, 0xa8, 0xa0] };
          const counts = Object.entries(seen).map(([name, [r, g, b]]) => {
            let count = 0;
            for (let i = 0; i < pixels.length; i += 4)
              if (pixels[i] === r && pixels[i + 1] === g && pixels[i + 2] === b) count++;
            return [name, count];
          });
          return { ...Object.fromEntries(counts), markers: map.markers.size, faults };
        });
        if (!check(shown)) throw new Error(`the ten-line map is not what it should be: ${JSON.stringify(shown)}`);
        return [...scripts];
      },
      { folder, ready: true },
    );
    const weigh = (names) =>
      names.reduce((sum, name) => sum + gzipSync(readFileSync(join(folder, name)), { level: 9 }).length / 1000, 0);
    return {
      all: weigh(fetched),
      worker: weigh(fetched.filter((name) => /worker-text/.test(basename(name)))),
      files: fetched.length,
    };
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

export async function figures() {
  const isWhole = ({ land, markers, faults }) => land > 1e5 && markers === 1 && faults === 0;
  const plain = await fetchedWith('', (shown) => isWhole(shown) && shown.beds === 0);
  const laid = await fetchedWith(overlay, (shown) => isWhole(shown) && shown.beds > 1e3);
  return [
    {
      name: 'first load of the ten-line map',
      value: plain.all,
      unit: 'kB',
      target: 110,
      limit: 110,
      detail: `gzip; ${plain.worker.toFixed(1)} kB of it the worker of tiles; ${plain.files} files, fetched by a browser until all was there`,
    },
    {
      name: 'the same with GeoJSON laid over it: more',
      value: laid.all - plain.all,
      unit: 'kB',
      target: 13.7,
      limit: 13.7,
      detail: `${laid.all.toFixed(1)} kB in all; ${laid.worker.toFixed(1)} kB of it the worker`,
    },
  ];
}
