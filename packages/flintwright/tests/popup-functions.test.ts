import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { box, collection, openMap, settled, useStage } from './harness.ts';

const stage = useStage();

const empty: Sheet = { sheet: 1, background: '#ffffff', layers: [] };

const at = (lon: number, lat: number) =>
  stage.page.evaluate(([x, y]) => window.map.toPixel([x, y]), [lon, lat] as const);

describe('popups', () => {
  test('come from a function, by press or hover, and go back to the sheet’s', async () => {
    const { page } = stage;
    const sheet: Sheet = {
      ...empty,
      data: { d: { features: collection(box(-3, -3, 6, { name: 'Bed', tonnes: 12 }, 1)) } },
      layers: [{ id: 'beds', of: 'd', fill: '#5fa8a0', popup: { title: 'name' } }],
    };
    await openMap(stage, sheet);
    await settled(stage);
    await page.evaluate(() => {
      (window as unknown as { own: { remove(): void } }).own = window.map.popupFor('beds', ({ properties }) => ({
        title: `${String(properties.name)} of ${String(properties.tonnes)} t`,
        html: '<b id="bold">made here</b>',
      }));
    });
    const [x, y] = await at(0, 0);
    await page.mouse.click(x, y);
    expect(await page.locator('.flint-popup h2').textContent()).toBe('Bed of 12 t');
    expect(await page.locator('.flint-popup b').textContent()).toBe('made here');
    await page.evaluate(() => {
      window.map.popupFor('beds', () => ({ title: 'Hovered' }), { on: 'hover' });
    });
    await page.mouse.click(20, 20);
    await page.mouse.move(x, y);
    await page.waitForSelector('.flint-popup');
    expect(await page.locator('.flint-popup h2').textContent()).toBe('Hovered');
    await page.mouse.move(20, 20);
    await page.locator('.flint-popup').waitFor({ state: 'detached' });
  });
});
