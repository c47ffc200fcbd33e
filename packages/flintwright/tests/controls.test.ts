import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { faultsOf, openMap, point, settled, useStage } from './harness.ts';
import { clustered, view } from './sheets.ts';

const stage = useStage();

describe('controls', () => {
  test('the rail: buttons, track by pointer and keys, compass, home; the reader’s place or why it is not known', async () => {
    const { page, browser, base } = stage;
    await openMap(stage, { sheet: 1, layers: [], view: { limits: { zoom: [2, 10] } } } as Sheet, {
      ...view,
      bearing: 40,
      tilt: 30,
    });
    await page.evaluate(() => {
      new window.flintwright.Rail(window.map, { parts: ['zoom', 'compass', 'home', 'locate', 'fullscreen'] });
      new window.flintwright.ScaleBar(window.map, { units: 'nautical' });
    });
    const zoom = async () => {
      await settled(stage);
      return page.evaluate(() => window.map.view.zoom);
    };
    const slider = page.getByRole('slider', { name: 'Zoom level' });
    await page.getByRole('button', { name: 'Zoom in' }).click();
    expect(await zoom()).toBe(6);
    await slider.focus();
    await page.keyboard.press('ArrowDown');
    expect(await zoom()).toBeCloseTo(5, 5);
    await page.keyboard.press('End');
    expect(await zoom()).toBe(10);
    expect(await slider.getAttribute('aria-valuenow')).toBe('10.0');
    const track = (await page.locator('.flint-track').boundingBox())!;
    await page.mouse.move(track.x + 14, track.y + 1);
    await page.mouse.down();
    await page.mouse.move(track.x + 14, track.y + track.height / 2, { steps: 4 });
    await page.mouse.up();
    expect(Math.abs((await zoom()) - 6)).toBeLessThan(0.3);
    await page.getByRole('button', { name: 'Reset north and tilt' }).click();
    await settled(stage);
    expect(await page.evaluate(() => [window.map.view.bearing, window.map.view.tilt])).toEqual([0, 0]);
    await page.getByRole('button', { name: 'Go to the first view' }).click();
    expect(await zoom()).toBe(5);
    // At zoom 5 on the equator a pixel is 4891.97 m (40 075 016.69 m / 8192); 200 nmi are 75.7 pixels.
    expect(await page.locator('.flint-scale').textContent()).toBe('200 nmi');
    const bar = (await page.locator('.flint-bar-line').boundingBox())!;
    expect(Math.abs(bar.width - 76)).toBeLessThanOrEqual(3);
    await page.evaluate(() => window.map.move({ center: [0, 60], zoom: 5 }));
    await settled(stage);
    expect(await page.locator('.flint-scale').textContent()).toBe('100 nmi');

    await page.getByRole('button', { name: 'Show my location' }).click();
    await page.waitForFunction(() => window.faults.length > 0);
    expect((await faultsOf(stage))[0].code).toMatch(/^locate\./);
    const allowed = await browser.newContext({
      geolocation: { longitude: 4, latitude: 3, accuracy: 3000 },
      permissions: ['geolocation'],
    });
    const other = await allowed.newPage();
    await other.goto(`${base}/test/`);
    await other.waitForFunction(() => 'flintwright' in window);
    await other.evaluate(() => {
      window.map = window.flintwright.createMap('#map', { view: { center: [0, 0], zoom: 3 } });
      new window.flintwright.Rail(window.map);
    });
    await other.getByRole('button', { name: 'Show my location' }).click();
    await other.waitForFunction(() => Math.abs(window.map.view.center[0] - 4) < 0.1);
    expect(await other.evaluate(() => window.map.layers.find('flint-here') !== undefined)).toBe(true);
    await allowed.close();
    await page.evaluate(() => window.map.remove());
    expect(await page.locator('#map').innerHTML()).toBe('');
  });

  test('the drawer shows and hides layers and sets their opacity, and follows what the application does', async () => {
    const { page } = stage;
    await openMap(stage, clustered([point(0, 0, { k: 'a' }, 1)], {}, { title: 'Points' }), view);
    await page.evaluate(() => {
      const own = document.createElement('p');
      own.textContent = 'of the application';
      new window.flintwright.Drawer(window.map, { title: 'A drawer', elements: [own] });
    });
    await settled(stage);
    await page.getByLabel('Points', { exact: true }).uncheck();
    await settled(stage);
    expect(await page.evaluate(() => window.map.layers.find('l')!.visible)).toBe(false);
    await page.evaluate(() => window.map.layers.show('l'));
    expect(await page.getByLabel('Points', { exact: true }).isChecked()).toBe(true);
    await page.getByLabel('Opacity of Points').fill('0.5');
    expect(await page.evaluate(() => window.map.layers.find('l')!.opacity)).toBe(0.5);
    expect(await page.locator('.flint-drawer').textContent()).toContain('of the application');
    await page.getByRole('button', { name: 'Close the drawer' }).click();
    expect(await page.locator('.flint-drawer .flint-card').isVisible()).toBe(false);
  });

  test('the view in the address: read at the beginning, kept when the map rests', async () => {
    const { page, base } = stage;
    await page.goto(`${base}/test/#at=12.5,41.25/6/10/20`);
    await page.waitForFunction(() => 'flintwright' in window);
    await page.evaluate(
      () =>
        void (window.map = window.flintwright.createMap('#map', {
          view: { center: [0, 0], zoom: 3 },
          permalink: true,
        })),
    );
    expect(await page.evaluate(() => window.map.view)).toEqual({
      center: [12.5, 41.25],
      zoom: 6,
      bearing: 10,
      tilt: 20,
    });
    await page.evaluate(() => window.map.move({ center: [1, 2], zoom: 4, bearing: 0, tilt: 0 }));
    await page.waitForFunction(() => location.hash === '#at=1,2/4');
    await page.evaluate(() => window.map.home());
    await settled(stage);
    expect(await page.evaluate(() => window.map.view.zoom)).toBe(3);
  });
});
