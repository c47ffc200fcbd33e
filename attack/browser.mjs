// A map in a real browser on a network that lies: tiles spoilt, cut, slow, refused, or web pages; sheets and features spoilt.
import { fileURLToPath } from 'node:url';
import { serveFolder } from '@flintwright/cli';
import { gzip, readGeoJson, TileCutter, writeTile } from '@flintwright/core';
import { chromium } from 'playwright-core';
import { chromiumOptions } from '../scripts/browser.mjs';
import { pick, randomFrom, spoilBytes, spoilJson } from './mutate.mjs';

const served = fileURLToPath(new URL('../packages/flintwright/dist', import.meta.url));
const page0 = `<!doctype html><meta charset="utf-8"><title>attack</title><style>#map{width:600px;height:400px}</style><div id="map"></div>
<script type="module">import * as F from '/flintwright.js'; window.F = F; window.ready = true;</script>`;

/** How deep lists and objects are nested, level by level. */
function depthOf(value) {
  const isNest = (one) => typeof one === 'object' && one !== null;
  let depth = 0;
  for (let level = [value].filter(isNest); level.length; depth++) level = level.flatMap(Object.values).filter(isNest);
  return depth;
}

/** Attacks a page for some milliseconds. */
export async function attackBrowser(seed, milliseconds) {
  const sum = { name: 'browser', tried: 0, faults: 0, crashes: [], hangs: [], slowest: 0, memory: 0 };
  const random = randomFrom(seed);
  const land = readGeoJson({
    type: 'Feature',
    properties: { name: '<img src=x onerror=document.title="run">', n: 1 },
    geometry: { type: 'Polygon', coordinates: [[[-60, -60], [60, -60], [60, 60], [-60, 60], [-60, -60]]] }, // prettier-ignore
  });
  const cutter = new TileCutter({ ...land, name: 'land' }, 4);
  const server = await serveFolder(served);
  const address = (await server.listen({ port: 0, host: 'localhost' })).replace('[::1]', 'localhost');
  const browser = await chromium.launch(chromiumOptions);
  try {
    const page = await browser.newPage({ viewport: { width: 640, height: 440 } });
    let last = '';
    page.on('pageerror', (error) =>
      sum.crashes.push(`browser: ${String(error.stack ?? error).slice(0, 600)} with ${last}`),
    );
    page.on('crash', () => sum.crashes.push('browser: the page crashed'));
    await page.route('**/attack.html', (route) => route.fulfill({ contentType: 'text/html', body: page0 }));
    await page.route('**/made-up/**', async (route) => {
      const numbers = /(\d+)\/(\d+)\/(\d+)/.exec(route.request().url());
      // A damaged address may lack a number.
      if (!numbers) return route.fulfill({ status: 404 });
      const [z, x, y] = numbers.slice(1).map(Number);
      const tile = cutter.tile({ z, x, y });
      const bytes = tile ? gzip(writeTile([tile])) : new Uint8Array(0);
      const way = random();
      sum.tried++;
      if (way < 0.3) await route.fulfill({ body: Buffer.from(bytes) });
      else if (way < 0.6) await route.fulfill({ body: Buffer.from(bytes.length ? spoilBytes(random, bytes) : bytes) });
      else if (way < 0.75) await route.fulfill({ status: pick(random, [204, 400, 403, 404, 429, 500, 503]) });
      else if (way < 0.85)
        await route.fulfill({ contentType: 'text/html', body: '<script>document.title="run"</script>' });
      else if (way < 0.95) await route.abort();
      else setTimeout(() => void route.abort().catch(() => {}), 400); // The page may be gone by then.
    });
    await page.goto(`${address}/attack.html`);
    await page.waitForFunction(() => window.ready);
    const sheet = {
      sheet: 1,
      background: '#fff',
      data: { land: { tiles: '/made-up/{z}/{x}/{y}', zooms: [0, 4] } },
      layers: [
        { id: 'land', of: 'land/land', fill: '#5fa8a0', label: { text: { is: 'name' } }, popup: { lines: { n: 'n' } } },
      ],
    };
    for (const end = Date.now() + milliseconds; Date.now() < end && !sum.crashes.length;) {
      const damaged = random() < 0.5 ? sheet : spoilJson(random, sheet);
      // What is nested deeper cannot be sent to the page as text.
      const given = depthOf(damaged) < 2000 ? damaged : sheet;
      last = JSON.stringify(given ?? null).slice(0, 300);
      // A map with its sheet is an input, as is every tile that it asks for.
      sum.tried++;
      const began = Date.now();
      const work = page.evaluate(
        async ([json, zoom]) => {
          let faults = 0;
          document.querySelector('#map').replaceChildren();
          let map;
          try {
            map = window.F.createMap('#map', { sheet: JSON.parse(json), view: { center: [0, 0], zoom } });
          } catch (error) {
            if (!/Fault/.test(error.name)) throw error;
            return 1;
          }
          map.addEventListener('fault', (event) => {
            event.preventDefault();
            faults++;
          });
          await Promise.race([map.settled(), new Promise((done) => setTimeout(done, 700))]);
          map.pick([300, 200]);
          map.remove();
          // Requests that are given up end a moment later.
          await new Promise((done) => setTimeout(done, 60));
          // Uploads are counted up for ever; all else comes to nought.
          const left = Object.entries(window.F.liveCounts()).filter(
            ([name, count]) => count && name !== 'geometryUploads',
          );
          if (left.length) throw new Error(`left behind: ${JSON.stringify(left)}`);
          return faults;
        },
        [JSON.stringify(given ?? null), 1 + random() * 3],
      );
      // One that fails is a crash, told below; it must not fail unheard while the time runs.
      work.catch(() => {});
      const late = new Promise((done) => setTimeout(() => done('late'), 10_000));
      try {
        const faults = await Promise.race([work, late]);
        if (faults === 'late') {
          sum.hangs.push(`browser: ${JSON.stringify(given).slice(0, 200)}`);
          break;
        }
        sum.faults += faults;
      } catch (error) {
        sum.crashes.push(`browser: ${String(error.message).slice(0, 300)} with ${JSON.stringify(given).slice(0, 300)}`);
      }
      sum.tried++;
      sum.slowest = Math.max(sum.slowest, Date.now() - began);
    }
    if ((await page.title()) === 'run') sum.crashes.push('browser: a script ran');
  } finally {
    await browser.close();
    await server.close();
  }
  return sum;
}
