import { createRequire } from 'node:module';
import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import { settled, useStage } from './harness.ts';

const stage = useStage();

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

/** Opens an example; those whose tests need no room are drawn small, since every pixel costs time without a graphics card. */
async function openExample(path: string, size = { width: 900, height: 560 }): Promise<void> {
  await stage.page.setViewportSize(size);
  await stage.page.goto(`${stage.base}${path}`);
  await stage.page.waitForFunction(() => window.map?.settled);
  await settled(stage);
}

describe('examples', () => {
  test('the ferry board: ferries move ten times a second, stop, and are framed by their buttons', async () => {
    const { page } = stage;
    // What moves ten times a second never settles.
    await page.setViewportSize({ width: 1000, height: 640 });
    await page.goto(`${stage.base}/ferries/`);
    await page.waitForFunction(() => document.querySelectorAll('.lines span').length === 5);
    const texts = () => page.locator('.lines span').allTextContents();
    const before = await texts();
    await page.waitForFunction((was) => document.querySelector('.lines span')!.textContent !== was, before[0]);
    await page.getByRole('button', { name: 'Under way' }).click();
    const still = await texts();
    await page.waitForTimeout(700);
    expect(await texts()).toEqual(still);
    await page.getByRole('button', { name: 'Wether Packet' }).click();
    await page.waitForFunction(() => window.map.view.center[0] > -31.09);
    await page.getByRole('button', { name: 'Go to the first view' }).click();
    await page.waitForFunction(() => Math.abs(window.map.view.center[0] + 31.14) < 1e-6);
  });

  test('the mooring finder: clusters, filter, units, popup', async () => {
    const { page } = stage;
    await openExample('/moorings/', { width: 1280, height: 800 });
    const press = async (lon: number, lat: number) => {
      const at = await page.evaluate(([x, y]) => window.map.toPixel([x, y]), [lon, lat]);
      await page.mouse.click(at[0], at[1]);
      await settled(stage);
    };
    await page.evaluate(() => window.map.move({ center: [-31.1427, 44.6186], zoom: 17 }));
    await settled(stage);
    const found = await page.evaluate(() => {
      for (let y = 100; y < 780; y += 8)
        for (let x = 300; x < 1200; x += 8) {
          const [feature] = window.map.pick([x, y], { layers: ['moorings'] });
          if (feature)
            return {
              at: (feature.geometry as { coordinates: [number, number] }).coordinates,
              name: feature.properties['name'],
              kind: feature.properties['kind'],
            };
        }
      return undefined;
    });
    expect(found).toBeDefined();
    await press(...found!.at);
    expect(await page.getByRole('dialog').textContent()).toMatch(
      new RegExp(`${String(found!.name)}.*${String(found!.kind)}.* m`),
    );
    await page.getByLabel('feet').check();
    await settled(stage);
    await press(...found!.at);
    expect(await page.getByRole('dialog').last().textContent()).toMatch(/ ft/);
    await page.getByLabel(String(found!.kind), { exact: true }).uncheck();
    await settled(stage);
    const gone = await page.evaluate(
      (at) => window.map.pick(window.map.toPixel(at), { layers: ['moorings'] }).length,
      found!.at,
    );
    expect(gone).toBe(0);
  });

  test('the bird watch: heat and flocks of the same data', async () => {
    const { page } = stage;
    await openExample('/birds/');
    expect(await page.locator('.flint-legend').textContent()).toContain('Birds seen');
    await page.getByRole('button', { name: 'Flocks' }).click();
    await settled(stage);
    expect(await page.locator('.flint-legend').textContent()).toContain('amber wader');
    await page.getByLabel('copper teal').check();
    await settled(stage);
    const presses = await page.evaluate(async () => {
      const { size } = await new Promise<{ size: number }>((resolve) => {
        window.map.addEventListener('press', (event) => {
          event.preventDefault();
          resolve({
            size: ((event as CustomEvent).detail as { cluster?: { node: { count: number } } }).cluster?.node.count ?? 0,
          });
        });
        const canvas = document.querySelector('canvas')!;
        const at = window.map.toPixel([-31.13, 44.613]);
        const options = {
          clientX: at[0],
          clientY: at[1],
          pointerId: 1,
          button: 0,
          bubbles: true,
          pointerType: 'mouse',
        };
        canvas.dispatchEvent(new PointerEvent('pointerdown', options));
        canvas.dispatchEvent(new PointerEvent('pointerup', options));
        setTimeout(() => resolve({ size: -1 }), 3000);
      });
      return size;
    });
    expect(presses).not.toBe(-1);
  });

  test('plain HTML with nothing but the element: markers, a layer, attributes, events', async () => {
    const { page, base } = stage;
    await page.setViewportSize({ width: 1280, height: 800 });
    await page.goto(`${base}/plain/`);
    await page.waitForFunction(() => document.querySelector('flint-map')?.map !== undefined);
    await page.evaluate(() => {
      window.map = document.querySelector('flint-map')!.map!;
      document
        .querySelector('flint-map')!
        .addEventListener('press', (event) => Object.assign(window, { pressed: (event as CustomEvent).detail }));
    });
    await settled(stage);
    expect(
      await page.evaluate(() => window.map.layers.find('beds') !== undefined && window.map.markers.size === 2),
    ).toBe(true);
    const at = await page.evaluate(() => window.map.toPixel([-31.1845, 44.6218]));
    await page.mouse.click(at[0], at[1] - 14);
    expect(await page.getByRole('dialog').textContent()).toContain('harbour office');
    await page.mouse.click(640, 700);
    expect(await page.evaluate(() => 'pressed' in window)).toBe(true);
    await page.evaluate(() => document.querySelector('flint-map')!.setAttribute('center', '-31.1, 44.6'));
    await page.waitForFunction(() => Math.abs(window.map.view.center[0] + 31.1) < 1e-6);
    await page.evaluate(() => document.querySelector('flint-marker')!.remove());
    expect(await page.evaluate(() => window.map.markers.size)).toBe(1);
    await page.evaluate(() => document.querySelector('flint-map')!.remove());
    expect(await page.evaluate(() => document.querySelector('flint-map')?.map)).toBeUndefined();
  });

  test.each(['/harbour/', '/beds/', '/moorings/', '/birds/', '/ferries/', '/workbench/'])(
    'axe finds nothing on %s',
    async (path) => {
      const { page } = stage;
      await openExample(path);
      if (path === '/workbench/') {
        await page.getByRole('button', { name: 'Gauge readings' }).click();
        await page.locator('.flint-file[data-state="done"]').waitFor();
      }
      await page.evaluate(axe);
      const look = () =>
        page.evaluate(async () => {
          const { axe } = window as unknown as {
            axe: { run(): Promise<{ violations: { id: string; nodes: { html: string }[] }[] }> };
          };
          return (await axe.run()).violations.map(
            ({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html.slice(0, 90)).join(' | ')}`,
          );
        });
      expect(await look()).toEqual([]);
      if (path !== '/workbench/') return;
      for (const tab of ['Style', 'Sheet', 'Publish']) {
        await page.getByRole('tab', { name: tab }).click();
        if (tab === 'Sheet') await page.locator('.cm-content').waitFor();
        if (tab === 'Style') await page.locator('#style select').first().waitFor();
        expect([tab, ...(await look())]).toEqual([tab]);
      }
    },
  );
});
