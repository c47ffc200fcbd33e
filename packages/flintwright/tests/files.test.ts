// Files on the map: dropped on the workbench, named in a sheet, read by an application.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { describe, expect, test } from '@jest/globals';
import type { Page } from 'playwright-core';
import { countPixels, faultsOf, openMap, settled, useStage } from './harness.ts';

const stage = useStage();
const sent = fileURLToPath(new URL('../../../demo/data/files', import.meta.url));
type Dropped = readonly [name: string, bytes: Buffer];
const fromDemo = (name: string): Dropped => [name, readFileSync(join(sent, name))];

/** Drops files on the map as a person does: they come over it, are shown where they may go, and are let go of. */
async function drop(page: Page, files: readonly Dropped[]): Promise<void> {
  const given = files.map(([name, bytes]) => [name, bytes.toString('base64')] as const);
  const transfer = await page.evaluateHandle((list) => {
    const out = new DataTransfer();
    for (const [name, data] of list)
      out.items.add(new File([Uint8Array.from(atob(data), (c) => c.charCodeAt(0))], name));
    return out;
  }, given);
  await page.dispatchEvent('#map', 'dragenter', { dataTransfer: transfer });
  expect(await page.locator('.flint-veil').isVisible()).toBe(true);
  await page.dispatchEvent('#map', 'dragover', { dataTransfer: transfer });
  await page.dispatchEvent('#map', 'drop', { dataTransfer: transfer });
  expect(await page.locator('.flint-veil').isVisible()).toBe(false);
}

const card = (page: Page, name: string) => page.locator('.flint-file', { has: page.locator('h3', { hasText: name }) });

/** Opens the workbench and waits until its map is there. */
async function openWorkbench(size = { width: 760, height: 440 }): Promise<Page> {
  const { page, base } = stage;
  await page.setViewportSize(size);
  await page.goto(`${base}/workbench/`);
  await page.waitForFunction(() => window.map?.settled);
  return page;
}

describe('the workbench', () => {
  test('what the conservancy was sent lies where it belongs; what was mended is told, and undone in one press', async () => {
    const page = await openWorkbench();
    const middles: Record<string, [number, number]> = {
      leases: [-31.062, 44.614],
      zones: [-31.169, 44.615],
      waypoints: [-31.206, 44.62],
      tracks: [-31.203, 44.624],
      'gauges-2': [-31.19, 44.621],
      marks: [-31.168, 44.635],
      mooring_lines: [-31.174, 44.619],
    };
    // The chart has a layer "gauges" of its own.
    const sums: [string, RegExp, string[]][] = [
      ['leases.zip', /Shapefile · 17 areas · Tessary_Reach_Grid/, ['leases']],
      ['zones.kmz', /KMZ · 7 areas/, ['zones']],
      ['survey.gpx', /GPX · 1 line, 6 points/, ['waypoints', 'tracks']],
      ['gauges.csv', /CSV · 5 points, 1 row · OGC:CRS84 · 2 remarks/, ['gauges-2']],
      ['chart.gpkg', /GeoPackage · 60 lines, 57 points · EPSG:4326/, ['marks', 'mooring_lines']],
    ];
    for (const [name, says, layers] of sums) {
      await drop(page, [fromDemo(name)]);
      const file = card(page, name);
      await file.locator('summary p').filter({ hasText: says }).waitFor({ state: 'attached' });
      for (const id of layers) {
        // Framed, the middle of what it holds is on the screen, and close by.
        const seen = await page.evaluate(
          async ([layer, place]) => {
            await window.map.frame(layer, { duration: 0 });
            const [x, y] = window.map.toPixel(place);
            const { clientWidth, clientHeight } = window.map.host;
            return { zoom: window.map.view.zoom, within: x > 0 && y > 0 && x < clientWidth && y < clientHeight };
          },
          [id, middles[id]] as const,
        );
        expect([id, seen.within, seen.zoom > 9.5]).toEqual([id, true, true]);
      }
    }
    const gauges = card(page, 'gauges.csv');
    await gauges.locator('summary').click();
    expect(await gauges.innerText()).toMatch(/not UTF-8[\s\S]*Windows-1252[\s\S]*rows have no location[\s\S]*line 7/);
    const leases = card(page, 'leases.zip');
    await leases.locator('summary').click();
    await leases.getByRole('button', { name: 'Remove' }).click();
    expect(await page.evaluate(() => window.map.layers.find('leases'))).toBeUndefined();
    expect(await leases.count()).toBe(0);
    expect(await page.evaluate(() => window.map.layers.find('zones')?.fill)).toEqual({ color: { is: 'fill' } });
  });

  test('a shapefile in loose parts; one without a system asks for it; what is wrong is said with its hint', async () => {
    const page = await openWorkbench();
    const { unzipSync } = await import('fflate');
    const parts = unzipSync(readFileSync(join(sent, 'leases.zip')));
    const loose = (...endings: string[]) =>
      endings.map((ending): Dropped => [`leases.${ending}`, Buffer.from(parts[`leases.${ending}`])]);
    await drop(page, loose('shp', 'dbf', 'shx', 'prj', 'cpg'));
    await card(page, 'leases.shp')
      .locator('summary p')
      .filter({ hasText: /17 areas · Tessary_Reach_Grid$/ })
      .waitFor({ state: 'attached' });
    await drop(page, [['meters.csv', Buffer.from('x,y,name\n641000,4942000,A\n642000,4943000,B\n')]]);
    const meters = card(page, 'meters.csv');
    await meters.getByLabel('Coordinate system').fill('EPSG:999999');
    await meters.getByRole('button', { name: 'Apply' }).click();
    await meters.getByRole('alert').waitFor();
    // The field stays with what was written, and finds systems by words of their names.
    expect(await meters.getByLabel('Coordinate system').inputValue()).toBe('EPSG:999999');
    expect(await meters.innerText()).not.toMatch(/[.!?]\./);
    await meters.getByLabel('Coordinate system').fill('utm wgs 84 25n');
    await meters.getByRole('button', { name: 'WGS 84 / UTM zone 25N · EPSG:32625' }).click();
    await meters.locator('summary p').filter({ hasText: '2 points · EPSG:32625' }).waitFor({ state: 'attached' });
    await page.evaluate(() => window.map.settled());
    expect(await page.evaluate(() => window.map.view.center[0])).toBeCloseTo(-31.21, 1);
    // By keyboard: the button opens the browser's own choice of files.
    const chooser = page.waitForEvent('filechooser');
    await page.getByRole('button', { name: 'Add a file' }).focus();
    await page.keyboard.press('Enter');
    await (await chooser).setFiles(join(sent, 'survey.gpx'));
    await card(page, 'survey.gpx')
      .locator('summary p')
      .filter({ hasText: '1 line, 6 points' })
      .waitFor({ state: 'attached' });
    // A long read can be given up.
    const long = Array.from({ length: 400000 }, (_, i) => `${i / 1e4},${i / 1e4},${i}`).join('\n');
    await drop(page, [['long.csv', Buffer.from(`lon,lat,n\n${long}\n`)]]);
    await card(page, 'long.csv').getByRole('button', { name: 'Cancel' }).click();
    await card(page, 'long.csv').waitFor({ state: 'detached' });
    expect(await page.evaluate(() => window.map.layers.find('long'))).toBeUndefined();
    await drop(page, [
      ['plan.pdf', Buffer.from('%PDF-1.7')],
      ['cut.geojson', Buffer.from('{"type":"FeatureCollection",')],
    ]);
    expect(await card(page, 'plan.pdf').getByRole('alert').innerText()).toContain('PDF document');
    expect(await card(page, 'cut.geojson').getByRole('alert').innerText()).toContain('It may be truncated');
  });
});

describe('a picture that is dropped', () => {
  const gannet = `<?xml version="1.0"?><!DOCTYPE svg><svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 48 48" onload="document.title='run'">
    <script>document.title = 'run'</script><image href="https://elsewhere.test/a.png" width="9" height="9"/>
    <style>@import url(https://elsewhere.test/a.css);</style><foreignObject><p>no</p></foreignObject>
    <circle cx="24" cy="24" r="22" fill="#d00000"/><path d="M8 24 24 10 40 24 24 30Z" fill="#ffffff"/></svg>`;

  test('becomes an icon of the sheet, without what could run or load, and is shown on a layer; all of it can be undone', async () => {
    const page = await openWorkbench({ width: 1100, height: 700 });
    await drop(page, [fromDemo('chart.gpkg'), ['gannet.svg', Buffer.from(gannet)]]);
    const own = card(page, 'gannet.svg');
    await own.getByText('Icon "gannet" · 48 × 48').waitFor();
    expect(await own.locator('small').innerText()).toMatch(/script/);
    const source = await page.evaluate(() => JSON.stringify(window.map.sheet.icons));
    expect(source).toContain('circle');
    expect(source).not.toMatch(/script|elsewhere|onload|foreignObject|import/i);
    expect(await page.title()).not.toBe('run');
    await card(page, 'chart.gpkg').locator('summary p').filter({ hasText: '57 points' }).waitFor({ state: 'attached' });
    await own.locator('summary').click();
    if (!(await own.getByLabel('Show as').isVisible())) await own.locator('summary').click();
    await own.getByLabel('Show as').focus();
    await own.getByLabel('Show as').selectOption({ label: 'marks' });
    await page.evaluate(() => window.map.frame('marks', { duration: 0 }));
    await page.evaluate(() => window.map.settled());
    const [red] = await countPixels(stage, [208, 0, 0]);
    expect(red).toBeGreaterThan(2000);
    await own.getByRole('button', { name: 'Remove' }).click();
    await page.evaluate(() => window.map.settled());
    expect((await countPixels(stage, [208, 0, 0]))[0]).toBeLessThan(red / 20);
    expect(await page.evaluate(() => window.map.sheet.icons)).toBeUndefined();
    expect(await page.evaluate(() => window.map.layers.find('marks')!.mark)).not.toHaveProperty('icon');
  });

  test.each<[string, Buffer, RegExp]>([
    ['broken.svg', Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"><path'), /not valid SVG/],
    ['page.svg', Buffer.from('<html xmlns="http://www.w3.org/1999/xhtml"/>'), /expected <svg>/],
    ['boundless.svg', Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0H9"/></svg>'), /has no size/],
    ['odd.png', Buffer.from('no picture'), /not a picture that this browser can read/],
    ['large.png', Buffer.alloc(2 ** 20 + 1), /too much for an icon/],
  ])('%s is refused in words', async (name, bytes, words) => {
    const page = await openWorkbench();
    await drop(page, [[name, bytes]]);
    expect(await card(page, name).getByRole('alert').innerText()).toMatch(words);
    expect(await page.evaluate(() => window.map.icons.own)).toEqual([]);
  });

  test('an application adds icons itself; one that cannot be drawn leaves the sheet as it was', async () => {
    const { page } = stage;
    const sheet = {
      sheet: 1 as const,
      background: '#ffffff',
      icons: { wedge: 'M2 2H22V22Z' },
      data: { one: { features: { type: 'Point', coordinates: [0, 0] } } },
      layers: [{ id: 'one', of: 'one', mark: { icon: 'wedge', size: 90, color: '#0000ff' } }],
    };
    await openMap(stage, sheet, { center: [0, 0], zoom: 4 });
    await settled(stage);
    expect((await countPixels(stage, [0, 0, 255]))[0]).toBeGreaterThan(2500);
    const codes = await page.evaluate(async () => {
      const { icons } = window.map;
      const code = (name: string, icon: string) =>
        icons.add(name, icon).then(
          () => 'added',
          (fault: { code: string }) => fault.code,
        );
      const out = [await code('../x', 'M0 0H9'), await code('bad', '<svg'), await code('odd', 'what is this')];
      out.push(await code('wedge', 'M0 0H24V24H0Z'));
      await window.map.settled();
      return out;
    });
    expect(codes).toEqual(['icon.name', 'icon.picture', 'icon.form', 'added']);
    // More than a map holds are refused one by one, and leave the sheet as it was.
    const [last, count] = await page.evaluate(async () => {
      const { icons } = window.map;
      let fault: { code?: string } = {};
      for (let k = 0; k < 300 && !fault.code; k++)
        await icons.add(`own ${k}`, 'M0 0H9V9Z').catch((error: { code: string }) => (fault = error));
      const total = icons.names.length;
      for (const name of icons.own) if (name !== 'wedge') icons.remove(name);
      return [fault.code, total];
    });
    expect([last, count]).toEqual(['icon.many', 256]);
    expect((await countPixels(stage, [0, 0, 255]))[0]).toBeGreaterThan(7000);
    expect(await page.evaluate(() => window.map.sheet.icons)).toEqual({ wedge: 'M0 0H24V24H0Z' });
    expect(await faultsOf(stage)).toEqual([]);
  });
});

describe('a sheet', () => {
  test('draws features of any format from an address, told what was mended; swapped pairs are put right', async () => {
    const { page, base } = stage;
    await page.route('**/swapped.geojson', (route) =>
      route.fulfill({
        json: { type: 'Feature', properties: {}, geometry: { type: 'Point', coordinates: [44.62, -131.18] } },
      }),
    );
    await openMap(
      stage,
      {
        sheet: 1,
        background: '#ffffff',
        data: {
          zones: { features: `${base}/files/zones.kmz` },
          gauges: { features: `${base}/files/gauges.csv` },
          swapped: { features: `${base}/swapped.geojson` },
        },
        layers: [
          { id: 'zones', of: 'zones', fill: '#ff0000' },
          { id: 'gauges', of: 'gauges', mark: { shape: 'circle', color: '#0000ff', size: 16 } },
          { id: 'swapped', of: 'swapped', mark: { shape: 'circle', color: '#00ff00', size: 16 } },
        ],
      },
      { center: [-31.18, 44.62], zoom: 10.5 },
    );
    await settled(stage);
    const [red, blue] = await countPixels(stage, [255, 0, 0], [0, 0, 255]);
    expect(red).toBeGreaterThan(1500);
    expect(blue).toBeGreaterThan(300);
    const told = (await faultsOf(stage)).map(({ code }) => code);
    expect(told).toEqual(['features.mended', 'features.mended']);
    const messages = await page.evaluate(() => window.faults.map(({ message }) => message).sort());
    expect(messages).toEqual([
      expect.stringMatching(/"gauges" \(CSV\).*Windows-1252/),
      expect.stringMatching(/"swapped" \(GeoJSON\).*swapped/),
    ]);
  });

  test('takes a File as features, and a code of the large register as their system', async () => {
    const { page } = stage;
    await openMap(stage, { sheet: 1, layers: [] }, { center: [-8.6, 41.15], zoom: 9 });
    await page.evaluate(async () => {
      const file = new File(['x;y;n\n-39000;165000;1\n'], 'local.csv');
      window.map.layers.add({
        id: 'local',
        of: { features: file, crs: 'EPSG:3763' },
        mark: { shape: 'circle', color: '#ff0000', size: 30 },
      });
      await window.map.settled();
    });
    const [red] = await countPixels(stage, [255, 0, 0]);
    expect(red).toBeGreaterThan(400);
    expect(await faultsOf(stage)).toEqual([]);
  });
});
