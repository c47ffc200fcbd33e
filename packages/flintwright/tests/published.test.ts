// Published pages opened in the browser: data where two capabilities meet (a joined table, a national grid, icons of the application).
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { afterAll, expect, test } from '@jest/globals';
import { main } from '@flintwright/cli';
import type { Sheet } from 'flintwright';
import { box, collection, openMap, pixels, point, settled, useStage } from './harness.ts';

const stage = useStage();
const folder = mkdtempSync(join(tmpdir(), 'flintwright-'));
afterAll(() => rmSync(folder, { recursive: true }));
const quiet = { say: () => {}, warn: () => {}, progress: () => {} };
const library = fileURLToPath(new URL('../dist/flintwright.js', import.meta.url));

async function openPublished(path: string): Promise<void> {
  await stage.page.goto(pathToFileURL(path).href);
  await stage.page.waitForFunction(() => window.map?.settled);
  await settled(stage);
}

test('a page with a joined table is colored by it, and tells of no fault', async () => {
  const sheet = {
    sheet: 1,
    background: '#ffffff',
    data: { beds: { features: 'beds.geojson', join: { table: 'yield.csv', match: ['code', 'bed'] } } },
    view: { center: [0, 0], zoom: 5 },
    layers: [
      {
        id: 'beds',
        of: 'beds',
        fill: { color: { by: 'tonnes', classes: { breaks: [5], values: ['#ff0000', '#0000ff'] } } },
        popup: { title: 'name', lines: { Yield: { is: 'tonnes', unit: 't' } } },
      },
    ],
  };
  writeFileSync(join(folder, 'beds.sheet.json'), JSON.stringify(sheet));
  const beds = collection(box(-6, -2, 4, { code: '007', name: 'Outer' }), box(2, -2, 4, { code: '8', name: 'Inner' }));
  writeFileSync(join(folder, 'beds.geojson'), JSON.stringify(beds));
  writeFileSync(join(folder, 'yield.csv'), 'bed,tonnes\n007,3\n8,9\n');
  for (const target of ['beds.html']) {
    expect(await main(['publish', join(folder, 'beds.sheet.json'), '-o', join(folder, target)], quiet)).toBe(0);
    await openPublished(join(folder, target));
    const at = (lon: number) => stage.page.evaluate((x) => window.map.toPixel([x, 0]), lon);
    const [left, right] = [await at(-4), await at(4)].map(([x, y]): [number, number] => [Math.round(x), Math.round(y)]);
    expect(await pixels(stage, left, right)).toEqual([
      [255, 0, 0],
      [0, 0, 255],
    ]);
    expect(await stage.page.locator('.flint-notice').count()).toBe(0);
    await stage.page.mouse.click(...right);
    expect(await stage.page.locator('.flint-popup').innerText()).toMatch(/Inner[\s\S]*9 t/);
  }
});

test('a page made of a map has the icons of createMap, and features of a national grid where they belong', async () => {
  const { page } = stage;
  const square = (x: number, y: number) => [
    [x, y],
    [x + 20000, y],
    [x + 20000, y + 20000],
    [x, y + 20000],
    [x, y],
  ];
  const sheet = {
    sheet: 1,
    background: '#ffffff',
    data: {
      p: { features: collection(point(-31.6, 44.6)) },
      g: {
        features: collection({
          type: 'Feature',
          properties: {},
          geometry: { type: 'Polygon', coordinates: [square(619000, 4930000)] },
        }),
        crs: 'EPSG:32625',
      },
    },
    view: { center: [-31.45, 44.55], zoom: 9 },
    layers: [
      { id: 'g', of: 'g', fill: '#0000ff' },
      { id: 'p', of: 'p', mark: { icon: 'own', size: 40, color: '#ff0000' } },
    ],
  } as unknown as Sheet;
  // A full square, so that its middle is painted; without it the plain mark is hollow.
  await openMap(stage, sheet, {}, { icons: { own: 'M2 2H22V22H2Z' } });
  await settled(stage);
  const spots = [
    await page.evaluate(() => window.map.toPixel([-31.6, 44.6])),
    await page.evaluate(() => window.map.toPixel([-31.37, 44.6])),
  ].map(([x, y]): [number, number] => [Math.round(x), Math.round(y)]);
  const before = await pixels(stage, ...spots);
  expect(before).toEqual([
    [255, 0, 0],
    [0, 0, 255],
  ]);
  await page.route('**/flintwright.js', (route) =>
    route.fulfill({ body: readFileSync(library), contentType: 'text/javascript' }),
  );
  const text = await page.evaluate(async () =>
    (await window.publishing.mapPage(window.map, { library: '/flintwright.js' })).text(),
  );
  await page.unroute('**/flintwright.js');
  writeFileSync(join(folder, 'map.html'), text);
  await openPublished(join(folder, 'map.html'));
  // The page fills the window; the view is the same, in its middle.
  const now = [
    await page.evaluate(() => window.map.toPixel([-31.6, 44.6])),
    await page.evaluate(() => window.map.toPixel([-31.37, 44.6])),
  ].map(([x, y]): [number, number] => [Math.round(x), Math.round(y)]);
  expect(await pixels(stage, ...now)).toEqual(before);
});
