import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { collection, countPixels, openMap, point, setSheet, settled, useStage } from './harness.ts';

const stage = useStage();

const empty: Sheet = { sheet: 1, background: '#ffffff', layers: [] };

const at = (lon: number, lat: number) =>
  stage.page.evaluate(([x, y]) => window.map.toPixel([x, y]), [lon, lat] as const);

describe('labels and what lies over the map', () => {
  test('none is put under a control, nor under a panel that the application names, for as long as it is there', async () => {
    const { page } = stage;
    const sheet: Sheet = {
      ...empty,
      data: { d: { features: collection(point(-6, 0, { name: 'Left' }), point(6, 0, { name: 'Right' })) } },
      layers: [{ id: 'l', of: 'd', label: { text: { is: 'name' } } }],
    };
    await openMap(stage, sheet);
    const seen = async () => {
      await settled(stage);
      return [...(await page.evaluate(() => window.map.labelTexts))].sort();
    };
    expect(await seen()).toEqual(['Left', 'Right']);
    const [x, y] = await at(-6, 0);
    await page.evaluate(
      ([left, top]) => {
        const panel = document.createElement('div');
        panel.id = 'panel';
        panel.style.cssText = `position:fixed;left:${left + 10}px;top:${top - 20}px;width:40px;height:40px;background:#123`;
        document.body.append(panel);
        Object.assign(window, { letGo: window.map.keepClear(panel) });
      },
      [x, y],
    );
    expect(await seen()).toEqual(['Right']);
    // It grows over the other one, and then goes.
    await page.evaluate(() => (document.getElementById('panel')!.style.width = '2000px'));
    await page.waitForFunction(() => window.map.labelTexts.length === 0);
    await page.evaluate(() => (window as unknown as { letGo: { remove(): void } }).letGo.remove());
    expect(await seen()).toEqual(['Left', 'Right']);
    // The rail stands at the right edge of the map: what is moved beneath it has no label.
    await page.evaluate(() => void new window.flintwright.Rail(window.map));
    const rail = await page.locator('.flint-rail').boundingBox();
    await page.evaluate(
      ([px, py]) => {
        const place = window.map.toPlace([px, py])!;
        const [cx, cy] = window.map.view.center;
        return window.map.move({ center: [cx + 6 - place[0], cy - place[1]] });
      },
      [rail!.x + rail!.width / 2, rail!.y + rail!.height / 2],
    );
    expect(await seen()).toEqual(['Left']);
  });

  test('stay as they are while more and more texts come to stand beside them', async () => {
    const { page } = stage;
    await openMap(stage, empty);
    const show = async (words: readonly string[], top: number) => {
      await page.evaluate(
        ([words, top]) =>
          words.forEach((text, i) =>
            window.map.markers.add({
              at: window.map.toPlace([80 + (i % 5) * 150, top + Math.floor(i / 5) * 14])!,
              words: text,
              size: 12,
              color: '#000000',
            }),
          ),
        [words, top] as const,
      );
      await settled(stage);
      return (await page.screenshot({ clip: { x: 0, y: 0, width: 800, height: 60 } })).toString('base64');
    };
    const blank = (await page.screenshot({ clip: { x: 0, y: 0, width: 800, height: 60 } })).toString('base64');
    const few = await show(['Upper Beds', 'Gannet Ledge', 'Hallow Quay', 'Sound of Ore', 'Long Strand'], 30);
    expect(few).not.toBe(blank);
    const many = Array.from({ length: 170 }, (_, i) => `Berth ${i} of the lower quay`);
    expect(await show(many, 100)).toBe(few);
  });

  test('the fonts of labels in view come while there is nothing to write yet, those of others do not', async () => {
    const { page } = stage;
    const label = (more: object) => ({ text: { is: 'name' }, font: '"Noto Serif"', ...more });
    const sheet = {
      ...empty,
      data: { d: { features: collection() } },
      layers: [
        { id: 'water', of: 'd', label: label({ style: 'italic' }) },
        { id: 'closer', of: 'd', zoom: [14, 25], label: label({}) },
      ],
    } as unknown as Sheet;
    await openMap(stage, sheet);
    await settled(stage);
    // The faces of the page itself: a machine may have installed this font, which answers document.fonts.check.
    const loaded = (style: string) =>
      page.evaluate(
        (style) =>
          [...document.fonts].filter(
            (face) => /Noto Serif/.test(face.family) && face.style === style && face.status === 'loaded',
          ).length,
        style,
      );
    expect(await loaded('italic')).toBeGreaterThan(0);
    expect(await loaded('normal')).toBe(0);
  });
});

test('a text is drawn alone, whatever was drawn where it stands in the atlas before', async () => {
  const { page } = stage;
  // At this size the last row of pixels lies close to the edge of what is drawn.
  const label = { text: { is: 'name' }, size: 33, color: '#000000', halo: { color: '#ff0000', width: 6.6 } };
  const named = (name: string) =>
    ({
      ...empty,
      data: { d: { features: collection(point(0, 0, { name })) } },
      layers: [{ id: 'l', of: 'd', label }],
    }) as unknown as Sheet;
  const rim = async () => {
    await settled(stage);
    return (await countPixels(stage, [255, 0, 0]))[0];
  };
  await openMap(stage, named('MMMMM'));
  const fresh = await rim();
  expect(fresh).toBeGreaterThan(500);
  // Two lines, and the atlas begins anew, as it does when fonts have come: the second stays below where the other text is drawn.
  await openMap(stage, named('MMMMMM\nMMMMMM'));
  await settled(stage);
  await setSheet(stage, empty);
  await settled(stage);
  await page.evaluate(() => document.fonts.dispatchEvent(new Event('loadingdone')));
  await setSheet(stage, named('MMMMM'));
  expect(Math.abs((await rim()) - fresh)).toBeLessThan(10);
});
