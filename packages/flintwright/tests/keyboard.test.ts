import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { box, collection, openMap, point, settled, useStage } from './harness.ts';

const stage = useStage();

const empty: Sheet = { sheet: 1, background: '#ffffff', layers: [] };

describe('the keyboard', () => {
  test('goes through clusters and features in view, opens and frames them', async () => {
    const { page } = stage;
    await openMap(stage, {
      ...empty,
      data: {
        d: {
          features: collection(point(-6, 0, { n: 'a' }, 1), point(-5.8, 0, { n: 'b' }, 2)),
          cluster: { within: 40 },
        },
        e: { features: collection(box(2, 1, 2, { name: 'East bed' }, 1), box(5, 4, 2, { name: 'Far bed' }, 2)) },
      },
      layers: [
        { id: 'beds', of: 'e', fill: '#5fa8a0', popup: { title: 'name' } },
        { id: 'p', title: 'Points', of: 'd', mark: {}, popup: { title: 'n' } },
      ],
    });
    await settled(stage);
    await page.evaluate(() => document.querySelector<HTMLElement>('.flint-canvas')!.focus());
    // The list is fetched when the map first has the focus, and opens as soon as it is there.
    await page.keyboard.press('Tab');
    await settled(stage);
    const chosen = () => page.locator('.flint-list [aria-selected=true]').textContent();
    expect(await page.locator('.flint-list [role=option]').allTextContents()).toEqual([
      'East bed',
      'Points: cluster of 2',
      'Far bed',
    ]);
    expect(await chosen()).toBe('East bed');
    await page.keyboard.press('Enter');
    await settled(stage);
    expect(await page.locator('.flint-popup h2').textContent()).toBe('East bed');
    await page.keyboard.press('Escape');
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('Enter');
    await settled(stage);
    expect(await page.evaluate(() => window.map.view.zoom)).toBeGreaterThan(7);
    await page.keyboard.press('Escape');
    expect(await page.evaluate(() => document.activeElement?.className)).toBe('flint-canvas');
  });
});
