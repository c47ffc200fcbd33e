import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { openMap, useStage } from './harness.ts';

const stage = useStage();

const empty: Sheet = { sheet: 1, background: '#ffffff', layers: [] };

describe('what is framed', () => {
  test('stands beside controls and panels, not beneath them; what covers nearly all is no reason to shrink', async () => {
    const { page } = stage;
    await openMap(stage, empty);
    const corners: [number, number][] = [
      [10, 10],
      [30, 10],
      [30, 20],
      [10, 20],
    ];
    const framed = (options: object = {}) =>
      page.evaluate(
        async ([places, given]) => {
          const { map } = window;
          await map.frame(places as [number, number][], { duration: 0, zoom: 22, ...(given as object) });
          const box = map.host.getBoundingClientRect();
          const spots = (places as [number, number][]).map((place) => map.toPixel(place));
          const [xs, ys] = [spots.map(([x]) => x), spots.map(([, y]) => y)];
          return [Math.min(...xs), Math.min(...ys), box.width - Math.max(...xs), box.height - Math.max(...ys)].map(
            Math.round,
          );
        },
        [corners, options] as const,
      );
    // Width decides: what is left over above and below is shared.
    const [left, top, right, bottom] = await framed();
    expect([left, right, top - bottom]).toEqual([40, 40, 0]);
    await page.evaluate(() => {
      const panel = document.createElement('div');
      panel.id = 'panel';
      panel.style.cssText = 'position:fixed;left:0;top:0;width:220px;height:420px;background:#123';
      document.body.append(panel);
      Object.assign(window, { letGo: window.map.keepClear(panel) });
      new window.flintwright.Rail(window.map);
      new window.flintwright.ScaleBar(window.map);
    });
    const rail = (await page.locator('.flint-rail').boundingBox())!;
    const beside = await framed();
    expect(beside[0]).toBe(260);
    expect(beside[2]).toBe(Math.round(800 - rail.x + 40));
    // A given pad is counted from what is clear, side by side.
    expect((await framed({ padding: { left: 10, right: 0 } }))[0]).toBe(230);
    // At the top a low panel costs less than at the side.
    await page.evaluate(() => {
      document.getElementById('panel')!.style.cssText =
        'position:fixed;left:0;top:0;width:700px;height:60px;background:#123';
    });
    const below = await framed({ padding: 0 });
    expect([below[0], below[1] >= 60]).toEqual([0, true]);
    await page.evaluate(() => {
      document.getElementById('panel')!.style.cssText = 'position:fixed;inset:20px;background:#123';
    });
    expect((await framed())[0]).toBe(40);
    await page.evaluate(() => (window as unknown as { letGo: { remove(): void } }).letGo.remove());
    expect((await framed())[0]).toBe(40);
  });

  test('does not depend on whether the attribution or a notice has come yet', async () => {
    const views: unknown[] = [];
    for (const credit of [undefined, 'Made-up data of the Reach Conservancy']) {
      const features = { type: 'FeatureCollection', features: [] };
      await openMap(stage, {
        ...empty,
        data: { places: { features, ...(credit ? { credit } : {}) } },
        layers: [{ id: 'places', of: 'places', fill: { color: '#123456' } }],
      });
      const state = await stage.page.evaluate(async () => {
        const { map } = window;
        await map.settled();
        await map.frame(
          [
            [10, 10],
            [12, 30],
          ],
          { duration: 0, zoom: 22 },
        );
        return { view: map.view, credit: document.querySelector<HTMLElement>('.flint-credit')!.offsetHeight > 0 };
      });
      expect(state.credit).toBe(credit !== undefined);
      views.push(state.view);
    }
    expect(views[1]).toEqual(views[0]);
  });
});
