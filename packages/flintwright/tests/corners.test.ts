// Controls in the corners of maps: every control in every corner, on wide and narrow maps, in both directions, with a popup open.
import { describe, expect, test } from '@jest/globals';
import type { Page } from 'playwright-core';
import type { Corner, Sheet } from 'flintwright';
import { box, collection, faultsOf, openMap, settled, useStage } from './harness.ts';

const stage = useStage();
const corners = ['top-left', 'top-right', 'bottom-left', 'bottom-right'] as const;
const sheet = {
  sheet: 1,
  background: '#dfe6e4',
  data: {
    areas: { features: collection(...[1, 3, 5].map((n, i) => box(-9 + 4 * i, 1, 3, { n }, n))), credit: 'Demo office' },
  },
  layers: ['Depth', 'Age', 'Use'].map((title, i) => ({
    id: `layer-${i}`,
    of: 'areas',
    title,
    fill: { color: { by: 'n', classes: { breaks: [2, 4], values: ['#d7e4dd', '#8fb3a6', '#3f7767'] } } },
  })),
} as unknown as Sheet;

/** Puts every control on the map, with the corners given by the names of the controls, and opens a popup. */
async function addControls(chosen: Record<string, Corner>, direction = 'ltr') {
  await stage.page.evaluate(
    async ([chosen, direction]) => {
      document.documentElement.dir = direction;
      const { map, flintwright, searching, drawing, filing } = window;
      const at = (name: string) => (chosen[name] ? { position: chosen[name] } : {});
      class Zoom extends flintwright.Control {
        constructor() {
          super(map, 'own-zoom', at('Own'));
          this.element.textContent = 'Zoom of the map';
        }
      }
      new flintwright.Drawer(map, { title: 'Survey', legend: false, ...at('Drawer') });
      new flintwright.Rail(map, at('Rail'));
      new flintwright.ScaleBar(map, at('ScaleBar'));
      new flintwright.Position(map, at('Position'));
      new flintwright.Button(map, { label: 'Print', path: 'M5 11H19V13H5Z', press: () => {}, ...at('Button') });
      new Zoom();
      new filing.DropZone(map, at('DropZone'));
      new searching.SearchBox(map, { finders: [], ...at('SearchBox') });
      new drawing.DrawBar(map, { tools: ['select', 'point', 'area'], ...at('DrawBar') });
      new drawing.Measure(map, at('Measure'));
      await map.legend(at('Legend')).ready;
      map.popup({ at: [-3, 2], title: 'Area 3', lines: { Depth: '3 m', Age: '12 years' }, stays: true });
      await map.settled();
    },
    [chosen, direction] as const,
  );
  await settled(stage);
  // Sizes are followed in the frame after they have changed.
  await stage.page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))));
}

/** Keeps a picture of the map for a look, where an address is given. */
const look = async (name: string) => {
  if (process.env['CORNER_SHOTS']) await stage.page.screenshot({ path: `${process.env['CORNER_SHOTS']}/${name}.png` });
};

/** Pairs of panels that cover each other, and panels that leave the map. */
const collisions = () =>
  stage.page.evaluate(() => {
    const host = document.querySelector('#map')!;
    const frame = host.getBoundingClientRect();
    const elements = [...host.querySelectorAll('[data-seat], .flint-popup')];
    const boxes = elements.flatMap((element) => {
      const { left, top, right, bottom } = element.getBoundingClientRect();
      return right - left > 2 && bottom - top > 2 ? [{ name: element.className, left, top, right, bottom }] : [];
    });
    const found = boxes.flatMap((one, i) =>
      boxes
        .slice(i + 1)
        .filter(
          (two) =>
            Math.min(one.right, two.right) - Math.max(one.left, two.left) > 1 &&
            Math.min(one.bottom, two.bottom) - Math.max(one.top, two.top) > 1,
        )
        .map((two) => `${one.name} | ${two.name}`),
    );
    const outside = boxes
      .filter(
        ({ left, top, right, bottom }) =>
          left < frame.left - 1 || top < frame.top - 1 || right > frame.right + 1 || bottom > frame.bottom + 1,
      )
      .map(({ name }) => `${name} leaves the map`);
    return [...found, ...outside];
  });

const names = [
  'Drawer',
  'Rail',
  'ScaleBar',
  'Position',
  'Button',
  'Own',
  'DropZone',
  'SearchBox',
  'DrawBar',
  'Measure',
  'Legend',
];
const sizes = { wide: [1280, 800], middle: [900, 700], phone: [390, 844] } as const;

describe.each(Object.entries(sizes))('on a %s map', (_, [width, height]) => {
  const open = async () => {
    await stage.page.setViewportSize({ width: Math.max(800, width), height });
    await openMap(stage, sheet, { center: [-3, 1], zoom: 4 }, {}, [width, height]);
  };

  test.each(['ltr', 'rtl'])(
    'panels in their own places do not cover each other, in a page read %s',
    async (direction) => {
      await open();
      await addControls({}, direction);
      await look(`${_}-${direction}`);
      expect(await collisions()).toEqual([]);
      expect(await faultsOf(stage)).toEqual([]);
    },
  );

  test.each([0, 1, 2, 3])('panels spread over the corners do not cover each other, shifted by %i', async (shift) => {
    await open();
    // On a phone a drawer that is open, a legend and eight controls do not fit.
    const chosen = Object.fromEntries(names.map((name, i) => [name, corners[(i + shift) % 4]]));
    await addControls(chosen, shift % 2 ? 'rtl' : 'ltr');
    await look(`${_}-${shift}`);
    expect(await collisions()).toEqual([]);
    const sides = await stage.page.evaluate(() => {
      const frame = document.querySelector('#map')!.getBoundingClientRect();
      return ['.own-zoom', '.flint-scale'].map((name) => {
        const { left, right, top, bottom } = document.querySelector(name)!.getBoundingClientRect();
        return [
          (top + bottom) / 2 < frame.top + frame.height / 2 ? 'top' : 'bottom',
          (left + right) / 2 < frame.left + frame.width / 2 ? 'left' : 'right',
        ].join('-');
      });
    });
    expect(sides).toEqual([chosen['Own'], chosen['ScaleBar']]);
  });
});

test.each(corners)('by touch: what stands in the corner %s answers a finger', async (corner) => {
  const context = await stage.browser.newContext({ hasTouch: true, viewport: { width: 390, height: 844 } });
  (stage as { page: Page }).page = await context.newPage();
  const { page } = stage;
  await openMap(stage, sheet, { center: [-3, 1], zoom: 4 }, {}, [390, 844]);
  const others = Object.fromEntries(names.map((name, i) => [name, corners[i % 4]]));
  await addControls({ ...others, Rail: corner });
  const out = (await page.locator('.flint-rail button').last().boundingBox())!;
  // A drawer and other panels stand above it, or below.
  expect(out.x + out.width / 2 < 195 ? 'left' : 'right').toBe(corner.split('-')[1]);
  const before = await page.evaluate(() => window.map.view.zoom);
  const zoomIn = (await page.getByRole('button', { name: 'Zoom in' }).boundingBox())!;
  await page.touchscreen.tap(zoomIn.x + zoomIn.width / 2, zoomIn.y + zoomIn.height / 2);
  await page.waitForFunction((zoom) => window.map.view.zoom > zoom + 0.4, before);
  await context.close();
});

test.each(['ltr', 'rtl'])(
  'by finger: 44 pixels to press; the drawer is a sheet along the lower edge, in a page read %s',
  async (direction) => {
    const context = await stage.browser.newContext({
      hasTouch: true,
      isMobile: true,
      viewport: { width: 390, height: 844 },
    });
    const desk = stage.page;
    (stage as { page: Page }).page = await context.newPage();
    try {
      const { page } = stage;
      await openMap(stage, sheet, { center: [-3, 1], zoom: 4 }, {}, [390, 844]);
      await addControls({}, direction);
      await page.getByRole('button', { name: 'Close', exact: true }).tap();
      const small = await page.evaluate(() =>
        [...document.querySelectorAll<HTMLElement>('.flint-control button')].flatMap((button) => {
          const { offsetWidth: width, offsetHeight: height } = button;
          return width && (width < 44 || height < 44) ? [`${button.ariaLabel}: ${width} × ${height}`] : [];
        }),
      );
      expect(small).toEqual([]);
      expect(await page.locator('.flint-track').isVisible()).toBe(false);
      expect(await page.locator('.flint-draw .flint-draw-say').innerText()).not.toContain('Shift');
      const drawer = page.locator('.flint-drawer');
      const sheetBox = async () => {
        const [panel, map] = [(await drawer.boundingBox())!, (await page.locator('#map').boundingBox())!];
        return [panel.x - map.x, panel.y + panel.height - map.y, panel.width, panel.height].map(Math.round);
      };
      expect(await sheetBox()).toEqual([0, 844, 390, 56]);
      // Pulled up, it covers no more than half of the map; pulled down, the bar alone is left.
      const session = await context.newCDPSession(page);
      const x = (await page.locator('#map').boundingBox())!.x + 120;
      const pull = async (from: number, to: number) => {
        const touch = (type: 'touchStart' | 'touchMove' | 'touchEnd', y = 0) =>
          session.send('Input.dispatchTouchEvent', { type, touchPoints: type === 'touchEnd' ? [] : [{ x, y }] });
        await touch('touchStart', from);
        for (const share of [0.3, 0.6, 1]) await touch('touchMove', from + (to - from) * share);
        await touch('touchEnd');
        await settled(stage);
      };
      await pull(820, 600);
      expect(await page.getByLabel('Depth', { exact: true }).isVisible()).toBe(true);
      const [, bottom, width, height] = await sheetBox();
      expect([bottom, width]).toEqual([844, 390]);
      expect(height).toBeGreaterThan(120);
      expect(height).toBeLessThanOrEqual(422);
      expect(await collisions()).toEqual([]);
      await pull(844 - height + 20, 840);
      expect(await sheetBox()).toEqual([0, 844, 390, 56]);
      await page.getByRole('button', { name: 'Open the drawer' }).press('Enter');
      await page.getByRole('button', { name: 'Close the drawer' }).waitFor();
      await page.getByRole('button', { name: 'Close the drawer' }).waitFor();
      await settled(stage);
      expect((await sheetBox())[3]).toBe(height);
    } finally {
      await context.close();
      (stage as { page: Page }).page = desk;
    }
  },
);
