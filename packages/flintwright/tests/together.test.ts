import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { collection, openMap, point, settled, useStage } from './harness.ts';

const stage = useStage();

const view = { center: [0, 0], zoom: 5 };

describe('more of what applications need', () => {
  test('ten thousand markers move; maps in step; limits of place; a button; a popup on hover; replaced words', async () => {
    const { page } = stage;
    const limited = {
      sheet: 1,
      data: { d: { features: collection(point(0, 0, { n: 'here' }, 1)) } },
      view: { limits: { bounds: [-20, -10, 20, 10] } },
      layers: [{ id: 'l', of: 'd', mark: { size: 20, color: '#ff0000' }, popup: { title: 'n', on: 'hover' } }],
    };
    await openMap(stage, limited as unknown as Sheet, view, { strings: { zoomIn: 'Näher' } });
    await page.evaluate(() => {
      const { Button, createMap, syncViews, Rail } = window.flintwright;
      new Rail(window.map);
      new Button(window.map, {
        label: 'Count',
        path: 'M4 4H20V20H4Z',
        press: () => Object.assign(window, { counted: 1 }),
      });
      const second = document.createElement('div');
      second.style.cssText = 'position:absolute;left:0;top:0;width:200px;height:150px';
      document.body.append(second);
      const other = createMap(second, { view: { center: [50, 50], zoom: 2 } });
      Object.assign(window, { other, letGo: syncViews([window.map, other]) });
      // At once, not with the first movement.
      if (JSON.stringify(other.view) !== JSON.stringify(window.map.view)) throw new Error('the views differ');
    });
    await settled(stage);
    await page.mouse.move(400, 300);
    await settled(stage);
    expect(await page.getByRole('dialog').textContent()).toContain('here');
    expect(await page.evaluate(() => document.activeElement?.className ?? '')).not.toContain('popup');
    await page.mouse.move(500, 450);
    await page.getByRole('dialog').waitFor({ state: 'detached' });
    await page.getByRole('button', { name: 'Count' }).click();
    expect(await page.evaluate(() => 'counted' in window)).toBe(true);
    expect(await page.getByRole('button', { name: 'Näher' }).count()).toBe(1);

    await page.evaluate(() => window.map.move({ center: [90, -60] }));
    const other = () => page.evaluate(() => (window as unknown as { other: Library['map'] }).other.view);
    expect(await page.evaluate(() => window.map.view.center)).toEqual([20, -10]);
    expect((await other()).center).toEqual([20, -10]);
    await page.evaluate(() => (window as unknown as { other: Library['map'] }).other.move({ zoom: 6 }));
    expect(await page.evaluate(() => window.map.view.zoom)).toBe(6);
    await page.evaluate(() => {
      (window as unknown as { letGo: { remove(): void } }).letGo.remove();
      return window.map.move({ zoom: 4 });
    });
    expect((await other()).zoom).toBe(6);

    const seen = await page.evaluate(async () => {
      (window as unknown as { other: Library['map'] }).other.remove();
      const { map } = window;
      await map.move({ center: [0, 0], zoom: 4 });
      const markers = Array.from({ length: 10000 }, (_, i) =>
        map.markers.add({ at: [(i % 100) / 10 - 5, Math.floor(i / 100) / 10 - 5], size: 6 }),
      );
      for (const marker of markers) marker.change({ at: [marker.at[0] + 1, marker.at[1]] });
      await map.settled();
      return { size: map.markers.size, calls: map.lastFrame.calls };
    });
    expect(seen.size).toBe(10000);
    // The mark, and all markers at once.
    expect(seen.calls).toBe(2);
  });
});

type Library = Pick<Window, 'map'>;
