// A million points come to a map: as GeoJSON, as CSV. How long until all is there, and the longest that the page is held up: while the map is
// made, and once it stands, by the data.
import { mkdtempSync, rmSync, writeFileSync, cpSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { cutDrawing, inBrowser, root } from '../measure.mjs';
import setUp from '../../scripts/test-setup.mjs';

const count = 1_000_000;

export async function figures() {
  if (!process.env.FLINTWRIGHT_BENCH_BUILT) await setUp();
  const folder = mkdtempSync(join(tmpdir(), 'flint-bench-'));
  try {
    cpSync(join(root, 'examples/dist/test'), join(folder, 'test'), { recursive: true });
    let seed = 7;
    const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
    const points = Array.from({ length: count }, (_, i) => [
      (-31.5 + random()).toFixed(6),
      (44.2 + random() * 0.7).toFixed(6),
      i % 97,
      ['tern', 'gull', 'rail'][i % 3],
    ]);
    const features = points.map(
      ([x, y, n, kind]) =>
        `{"type":"Feature","properties":{"n":${n},"kind":"${kind}"},"geometry":{"type":"Point","coordinates":[${x},${y}]}}`,
    );
    writeFileSync(
      join(folder, 'test/points.geojson'),
      `{"type":"FeatureCollection","features":[${features.join(',\n')}]}`,
    );
    writeFileSync(
      join(folder, 'test/points.csv'),
      `longitude,latitude,n,kind\n${points.map((point) => point.join(',')).join('\n')}\n`,
    );
    return await inBrowser(
      async (browser, base) => {
        const load = async (name, standing) => {
          const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
          await context.addInitScript(cutDrawing);
          const page = await context.newPage();
          await page.goto(`${base}/test/`);
          await page.waitForFunction(() => 'flintwright' in window);
          const found = await page.evaluate(
            async ([name, count, standing]) => {
              document.querySelector('#map').style.cssText = 'width:1200px;height:780px';
              let tasks = [];
              const observer = new PerformanceObserver((list) =>
                tasks.push(...list.getEntries().map(({ duration }) => duration)),
              );
              observer.observe({ type: 'longtask' });
              const pause = () => new Promise((resolve) => setTimeout(resolve, 300));
              const features = new URL(name, location.href).href;
              const wanted = { id: 'points', mark: { size: 4 } };
              const first = { id: 'first', of: 'first', mark: { size: 4 } };
              const box = { type: 'Point', coordinates: [-31, 44.55] };
              let began = performance.now();
              const map = window.flintwright.createMap('#map', {
                sheet: standing
                  ? { sheet: 1, data: { first: { features: box } }, layers: [first] }
                  : { sheet: 1, data: { points: { features } }, layers: [{ ...wanted, of: 'points' }] },
                view: { center: [-31, 44.55], zoom: 9 },
              });
              if (standing) {
                await map.settled();
                await pause();
                tasks = [];
                began = performance.now();
                map.layers.add({ ...wanted, of: { features } });
              }
              await map.settled();
              const settled = performance.now() - began;
              await pause();
              const seen = tasks;
              // All points are in view, each drawn once.
              window.gpu.boxes = 0;
              await map.move({ center: [-31.0001, 44.55] });
              await new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve)));
              if (window.gpu.boxes < count) throw new Error(`${window.gpu.boxes} of ${count} points were drawn`);
              map.remove();
              return { settled, tasks: seen.length, longest: Math.max(0, ...seen) };
            },
            [name, count, standing],
          );
          // The floor: the same text fetched and parsed by the browser itself.
          const floor = name.endsWith('json')
            ? await page.evaluate(
                async ([name, count]) => {
                  const began = performance.now();
                  const { features } = await (await fetch(name)).json();
                  if (features.length !== count) throw new Error('the floor read something else');
                  return performance.now() - began;
                },
                [name, count],
              )
            : undefined;
          await context.close();
          return { ...found, floor };
        };
        const rows = [];
        for (const [title, name] of [
          ['GeoJSON', 'points.geojson'],
          ['CSV', 'points.csv'],
        ]) {
          const { settled, floor, ...whole } = await load(name, false);
          const late = await load(name, true);
          rows.push(
            {
              name: `a million points as ${title}`,
              value: settled / 1000,
              unit: 's',
              target: 6,
              detail: `from the call to all drawn, drawing cut${floor ? `; fetch and JSON.parse alone ${(floor / 1000).toFixed(1)} s` : ''}`,
            },
            {
              name: `longest task of the page, ${title}`,
              value: late.longest,
              unit: 'ms',
              target: 50,
              detail: `the points are added to a map that stands; ${late.tasks} tasks over 50 ms`,
            },
            {
              name: `the same, map and points at once, ${title}`,
              value: whole.longest,
              unit: 'ms',
              detail: `with the making of the map; ${whole.tasks} tasks over 50 ms`,
            },
          );
        }
        return rows;
      },
      { folder },
    );
  } finally {
    rmSync(folder, { recursive: true });
  }
}
