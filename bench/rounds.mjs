// npm run rounds: makes, uses and destroys a map five hundred times; live counts must return to zero, and the heap must not grow.
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { serveFolder } from '@flintwright/cli';
import { chromium } from 'playwright-core';
import { chromiumOptions } from '../scripts/browser.mjs';
import setUp from '../scripts/test-setup.mjs';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
await setUp();
const server = await serveFolder(join(root, 'examples/dist'));
const base = (await server.listen({ port: 0, host: 'localhost' })).replace('127.0.0.1', 'localhost');
const browser = await chromium.launch({
  ...chromiumOptions,
  args: [...chromiumOptions.args, '--js-flags=--expose-gc'],
});
const page = await browser.newPage({ viewport: { width: 400, height: 300 } });
await page.goto(`${base}/test/`);
await page.waitForFunction(() => 'flintwright' in window);
const rounds = Number(process.argv[2] ?? 500);
const heaps = [];
for (let done = 0; done < rounds;) {
  const some = Math.min(50, rounds - done);
  const { heap, counts } = await page.evaluate(async (some) => {
    const { createMap, Drawer, liveCounts, Rail, ScaleBar } = window.flintwright;
    const features = Array.from({ length: 60 }, (_, i) => ({
      type: 'Feature',
      properties: { k: i % 2 ? 'a' : 'b', name: `n${i}` },
      geometry: { type: 'Point', coordinates: [(i % 8) - 4, Math.floor(i / 8) - 4] },
    }));
    for (let i = 0; i < some; i++) {
      const map = createMap('#map', {
        sheet: {
          sheet: 1,
          data: {
            d: { features: { type: 'FeatureCollection', features }, cluster: { share: 'k' } },
            ground: {
              features: {
                type: 'Polygon',
                coordinates: [
                  [
                    [-3, -3],
                    [3, -3],
                    [3, 3],
                    [-3, -3],
                  ],
                ],
              },
            },
          },
          background: '#ffffff',
          layers: [
            { id: 'ground', of: 'ground', fill: { color: '#ddeedd', hatch: {} }, stroke: '#335533' },
            {
              id: 'l',
              title: 'points',
              of: 'd',
              mark: { color: { by: 'k', categories: { a: '#ff0000', b: '#0000ff' } } },
              label: { text: 'name' },
            },
          ],
        },
        view: { center: [0, 0], zoom: 4 },
      });
      new Rail(map);
      new Drawer(map);
      new ScaleBar(map);
      const marker = map.markers.add({ at: [0, 0], icon: 'anchor' });
      const popup = map.popup({ at: [0, 0], title: 'here', html: '<b>x</b>' });
      await map.settled();
      map.layers.change('l', { opacity: 0.5 });
      void map.move({ zoom: 5 });
      marker.remove();
      popup.close();
      map.remove();
    }
    await new Promise((resolve) => setTimeout(resolve, 50));
    window.gc();
    window.gc();
    return { heap: performance.memory.usedJSHeapSize / 1e6, counts: liveCounts() };
  }, some);
  done += some;
  heaps.push(heap);
  const { geometryUploads, ...live } = counts;
  const left = Object.entries(live).filter(([, n]) => n !== 0);
  console.log(
    `${done} rounds  heap ${heap.toFixed(1)} MB  ${geometryUploads} geometry buffers made  live: ${left.length ? JSON.stringify(left) : 'nothing'}`,
  );
  if (left.length) process.exitCode = 1;
}
console.log(`heap after 50 rounds ${heaps[0].toFixed(1)} MB, at the end ${heaps[heaps.length - 1].toFixed(1)} MB`);
await browser.close();
await server.close();
