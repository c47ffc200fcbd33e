// The workbench from end to end: data dropped, a place found, a mooring added, a border corrected, the chart published and opened.
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { afterAll, describe, expect, test } from '@jest/globals';
import { main, serveFolder } from '@flintwright/cli';
import { Archive, bufferSource } from '@flintwright/core';
import { readFeatureFile } from '@flintwright/core/files';
import type { Page } from 'playwright-core';
import type { DrawBar } from 'flintwright/draw';
import { openMap, useStage } from './harness.ts';

const stage = useStage();
const folder = mkdtempSync(join(tmpdir(), 'flintwright-'));
afterAll(() => rmSync(folder, { recursive: true }));
const demo = fileURLToPath(new URL('../../../demo/data', import.meta.url));
const quiet = { say: () => {}, warn: () => {}, progress: () => {} };

/** Opens a page by itself and gathers what it asks of anybody, and what it complains of. */
async function openAlone(address: string): Promise<{ page: Page; asked: string[]; wrong: string[] }> {
  const page = await stage.browser.newPage({ viewport: { width: 800, height: 600 } });
  const [asked, wrong]: [string[], string[]] = [[], []];
  page.on('request', (request) => {
    if (!/^(blob|data):/.test(request.url())) asked.push(request.url());
  });
  page.on('console', (message) => {
    if (message.type() === 'error') wrong.push(message.text());
  });
  page.on('pageerror', (error) => wrong.push(String(error)));
  await page.goto(address);
  await page.waitForFunction(() => typeof (window as { map?: { settled?: unknown } }).map?.settled === 'function');
  await page.evaluate(() => window.map.settled());
  return { page, asked, wrong };
}

const saved = async (page: Page, name: string): Promise<Buffer> => {
  const download = page.waitForEvent('download');
  await page.locator('#save button', { has: page.getByText(name, { exact: true }) }).click();
  return readFileSync(await (await download).path());
};

test('the conservancy adds a missing mooring, corrects a lease’s border, and publishes the chart', async () => {
  const { page, base } = stage;
  await page.setViewportSize({ width: 1200, height: 760 });
  await page.goto(`${base}/workbench/`);
  await page.waitForFunction(() => typeof window.map?.settled === 'function');
  // Data in.
  await page.getByRole('button', { name: /Sea-bed leases/ }).click();
  await page.getByRole('button', { name: /Correct leases/ }).click();
  await page.waitForFunction(() => (window as unknown as { draw: DrawBar }).draw.features.features.length === 17);
  // The place of the mooring is found, and the mooring added.
  const search = page.getByRole('combobox', { name: /Search for a place/ });
  await search.fill('morring ag12');
  await page
    .getByRole('option', { name: /Mooring AG12/ })
    .first()
    .click();
  await page.locator('.flint-popup').getByText('Mooring AG12').waitFor();
  await page.keyboard.press('Escape');
  await page.evaluate(() => window.map.settled());
  await page.getByRole('button', { name: 'Draw a point' }).click();
  await page.mouse.click(800, 420);
  const form = page.locator('.flint-form');
  await form.getByLabel('Name *').fill('AG12b');
  await form.getByLabel('Kind').selectOption('mooring');
  await form.getByRole('button', { name: 'Save' }).click();
  // A border is corrected: a corner that two leases share.
  await page.getByRole('button', { name: 'Select and correct' }).click();
  await page.evaluate(() => window.map.frame('drawn', { duration: 0 }));
  await page.evaluate(() => window.map.settled());
  const before = await page.evaluate(() => {
    const { draw } = window as unknown as { draw: DrawBar };
    const [{ id, geometry }] = draw.features.features;
    draw.select(String(id));
    const [, , at] = (geometry.coordinates as [number, number][][])[0];
    const box = window.map.host.getBoundingClientRect();
    const [x, y] = window.map.toPixel(at);
    return { at, x: x + box.left, y: y + box.top, count: draw.features.features.length };
  });
  expect(before.count).toBe(18);
  await page.waitForTimeout(100);
  await page.mouse.move(before.x, before.y);
  await page.mouse.down();
  await page.mouse.move(before.x + 30, before.y + 14, { steps: 4 });
  await page.mouse.up();
  const changed = await page.evaluate(() => {
    const { draw } = window as unknown as { draw: DrawBar };
    return JSON.stringify(draw.features);
  });
  expect(changed).not.toContain(JSON.stringify(before.at).slice(1, -1));
  // Saved in several forms: all have the mooring.
  const geojson = JSON.parse((await saved(page, 'GeoJSON')).toString()) as {
    features: { properties: { name?: string } }[];
  };
  expect(geojson.features.filter(({ properties }) => properties.name === 'AG12b')).toHaveLength(1);
  const bytes = new Uint8Array(await saved(page, 'GeoPackage'));
  const [layer] = (await readFeatureFile({ name: 'corrections.gpkg', bytes })).layers;
  expect([layer.features.length, layer.crs?.id]).toEqual([18, 'EPSG:32625']);
  const archive = await Archive.open(bufferSource(new Uint8Array(await saved(page, 'Tiles'))));
  expect(archive.header.maxZoom).toBe(14);
  expect((await saved(page, 'Picture')).subarray(1, 4).toString()).toBe('PNG');
  // Published, it opens from another port, asks nothing of anybody, and shows the corrections.
  const html = await saved(page, 'Page');
  const { writeFileSync } = await import('node:fs');
  writeFileSync(join(folder, 'chart.html'), html);
  expect(html.toString()).toMatch(/<title>Chart of the Reach<\/title>/);
  const server = await serveFolder(folder);
  try {
    const address = await server.listen({ port: 0, host: 'localhost' });
    const alone = await openAlone(`${address.replace('[::1]', 'localhost')}/chart.html`);
    expect(alone.asked).toEqual([expect.stringMatching(/chart\.html$/)]);
    expect(alone.wrong).toEqual([]);
    const shown = await alone.page.evaluate(async () => {
      await window.map.frame('drawn', { duration: 0 });
      await window.map.settled();
      const { clientWidth, clientHeight } = window.map.host;
      const found = window.map.pick([clientWidth / 2, clientHeight / 2], { within: 300 });
      return { layers: found.map(({ layer }) => layer), labels: window.map.labelTexts };
    });
    expect(shown.layers).toContain('drawn');
    await alone.page.close();
  } finally {
    await server.close();
  }
}, 120000);

describe('flintwright publish', () => {
  test('one page opens from a disk, under a policy that lets it fetch nothing', async () => {
    const target = join(folder, 'reach.html');
    expect(await main(['publish', join(demo, 'chalk.sheet.json'), '-o', target], quiet)).toBe(0);
    const policy = /Content-Security-Policy" content="([^"]+)"/.exec(readFileSync(target, 'utf8'))![1];
    expect(policy).toMatch(
      /^default-src 'none'; script-src 'sha256-[^ ]+'; worker-src blob:; connect-src data: blob:; /,
    );
    const { page, asked, wrong } = await openAlone(pathToFileURL(target).href);
    expect([asked.length, wrong]).toEqual([1, []]);
    expect(await page.evaluate(() => window.map.labelTexts)).toContain('Hallow Quay');
    await page.close();
  });

  test('a folder opens from any host; tiles come by range', async () => {
    const target = join(folder, 'folder');
    expect(await main(['publish', join(demo, 'chalk.sheet.json'), '-o', target, '--title', 'A & B'], quiet)).toBe(0);
    const server = await serveFolder(target);
    try {
      const address = await server.listen({ port: 0, host: 'localhost' });
      const { page, asked, wrong } = await openAlone(`${address.replace('[::1]', 'localhost')}/`);
      expect(wrong).toEqual([]);
      expect(asked.every((url) => new URL(url).host === new URL(asked[0]).host)).toBe(true);
      expect(await page.title()).toBe('A & B');
      expect(await page.evaluate(() => window.map.labelTexts)).toContain('Hallow Quay');
      await page.close();
    } finally {
      await server.close();
    }
  });
});

test('a map whose data lies elsewhere tile by tile is not published; the place in the sheet is told', async () => {
  await openMap(stage, {
    sheet: 1,
    data: { far: { tiles: '/tiles/{z}/{x}/{y}.mvt' } },
    layers: [{ id: 'far', of: 'far/land', fill: '#fff' }],
  });
  stage.expected = /./;
  const fault = await stage.page.evaluate(async () => {
    try {
      await window.publishing.mapPage(window.map, { library: '/flintwright.js' });
      return undefined;
    } catch (error) {
      const { code, at, hint } = error as { code: string; at: string; hint: string };
      return { code, at, hint };
    }
  });
  expect(fault).toEqual({
    code: 'publish.outside',
    at: '$.data.far.tiles',
    hint: expect.stringContaining('tile archive'),
  });
});
