import { describe, expect, test } from '@jest/globals';
import type { FlintMap, MapEvents, Sheet } from 'flintwright';
import { collection, openMap, point, settled, useStage } from './harness.ts';

const stage = useStage();
const blank = { sheet: 1 as const, layers: [] };
const view = () => stage.page.evaluate(() => window.map.view);

describe('what a map shows of itself', () => {
  test('is its public interface: no field of its insides can be reached', async () => {
    await openMap(stage, blank);
    const [keys, names] = await stage.page.evaluate(() => [
      Object.keys(window.map),
      Object.getOwnPropertyNames(Object.getPrototypeOf(window.map)),
    ]);
    expect(keys.sort()).toEqual(['bookmarks', 'host', 'icons', 'lastFrame', 'layers', 'markers', 'strings']);
    for (const inside of ['context', 'parts', 'state', 'camera', 'frames', 'sources', 'renderer', 'update'])
      expect([...keys, ...names]).not.toContain(inside);
  });

  test('is known to the compiler, events and their details included', () => {
    // Compiled with all tests; a name or a detail that is not there is an error there.
    const compiled = (map: FlintMap, element: HTMLElementTagNameMap['flint-map']) => {
      map.addEventListener('press', ({ detail }) => detail.features.map(({ key }) => key));
      element.addEventListener('viewchange', ({ detail }: MapEvents['viewchange']) => detail);
      // @ts-expect-error a misspelt event
      map.addEventListener('presss', ({ detail }) => detail);
      // @ts-expect-error a detail that a press does not have
      map.addEventListener('press', ({ detail }) => detail.feature);
      // @ts-expect-error tiles and features in one data entry
      void map.setSheet({ sheet: 1, data: { a: { tiles: 'a.pmtiles', features: 'a.geojson' } }, layers: [] });
      // @ts-expect-error an icon and an element in one marker
      map.markers.add({ at: [0, 0], icon: 'anchor', element: document.body });
    };
    expect(compiled).toHaveLength(2);
  });
});

describe('limits hold for every way to move', () => {
  test('wheel, double press and keys', async () => {
    const { page } = stage;
    await openMap(stage, blank, { center: [0, 0], zoom: 5 }, { limits: { zoom: [4, 6], tilt: [0, 30] } });
    await page.mouse.move(420, 260);
    for (const [by, zoom] of [
      [-200, 6],
      [200, 4],
    ]) {
      for (let i = 0; i < 10; i++) await page.mouse.wheel(0, by);
      await page.waitForTimeout(1500);
      await settled(stage);
      expect((await view()).zoom).toBe(zoom);
    }
    for (let i = 0; i < 4; i++) {
      await page.mouse.dblclick(420, 260);
      await settled(stage);
    }
    expect((await view()).zoom).toBe(6);
    await page.locator('#map canvas').focus();
    const tilts: number[] = [];
    for (let i = 0; i < 4; i++) {
      await page.keyboard.press('Shift+ArrowUp');
      await settled(stage);
      tilts.push((await view()).tilt);
    }
    expect(tilts).toEqual([12, 24, 30, 30]);
  });
});

test('a text is set anew when its font arrives late, as if it had been there from the beginning', async () => {
  const { page } = stage;
  const sheet = {
    sheet: 1 as const,
    background: '#ffffff',
    data: { a: { features: collection(point(0, 0, { name: 'Hallow Quay' })) } },
    layers: [
      { id: 'a', of: 'a', label: { text: 'name', font: 'Late, sans-serif', size: 60, color: '#000000', wrap: 30 } },
    ],
  };
  const picture = async () => {
    await settled(stage);
    return page.screenshot();
  };
  const bring = () =>
    page.evaluate(async () => {
      const rules = [...document.styleSheets].flatMap((styles) => [...styles.cssRules]) as CSSFontFaceRule[];
      const serif = rules.find(({ cssText }) => /serif-latin-wght-normal/.test(cssText))!;
      const source = new URL(/url\("?([^")]+)/.exec(serif.cssText)![1], serif.parentStyleSheet!.href!);
      const face = new FontFace('Late', `url("${source.href}")`);
      document.fonts.add(face);
      await face.load();
    });
  await openMap(stage, sheet);
  const before = await picture();
  await bring();
  // The map hears of the font in a task of its own.
  await page.evaluate(() => new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve))));
  const late = await picture();
  expect(late.equals(before)).toBe(false);
  await page.evaluate(() => window.map.remove());
  await page.evaluate((given: unknown) => {
    window.map = window.flintwright.createMap('#map', { sheet: given as Sheet, view: { center: [0, 0], zoom: 5 } });
  }, sheet as unknown);
  expect((await picture()).equals(late)).toBe(true);
});
