// A map is a good guest of its page: day and night, credits with links, paper, small screens, the page's own wheel.
import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { box, collection, openMap, pixels, settled, useStage } from './harness.ts';

const stage = useStage();
const sheet: Sheet = {
  sheet: 1,
  background: '@ground',
  palette: { ground: '#ffffff', bed: '#5fa8a0' },
  dark: { ground: '#101418' },
  data: {
    beds: {
      features: collection(box(-3, -3, 6)),
      credit: [{ text: 'Beds by the ' }, { text: 'Reach Office', href: 'https://reach.example/' }],
    },
  },
  layers: [{ id: 'beds', of: 'beds', fill: '@bed' }],
};

describe('day and night', () => {
  test('the map follows its color scheme, and what people set in their system', async () => {
    const { page } = stage;
    await openMap(stage, sheet);
    await settled(stage);
    const ground = async () => {
      await settled(stage);
      return (await pixels(stage, [10, 300]))[0][0] > 128 ? 'light' : 'dark';
    };
    const seen = [await ground()];
    for (const scheme of ['dark', 'light', 'auto'] as const) {
      await page.evaluate((to) => (window.map.colorScheme = to), scheme);
      seen.push(await ground());
    }
    await page.emulateMedia({ colorScheme: 'dark' });
    // The page hears of it with one of its next frames, not at once.
    await page.waitForFunction(() => window.map.host.dataset['colorScheme'] === 'dark');
    seen.push(await ground());
    expect(seen).toEqual(['light', 'dark', 'light', 'light', 'dark']);
    // The sheet is as it was written, by night too: who saves it then does not save the colors of the night for those of the day.
    expect(await page.evaluate(() => window.map.sheet.palette)).toEqual({ ground: '#ffffff', bed: '#5fa8a0' });
  });

  test('a map without a background shows the page behind it', async () => {
    const { background: _, ...bare } = sheet;
    await openMap(stage, bare);
    await stage.page.evaluate(
      () => (document.querySelector<HTMLElement>('#map')!.style.background = 'rgb(200, 40, 90)'),
    );
    await settled(stage);
    expect(await pixels(stage, [10, 300], [400, 300])).toEqual([
      [200, 40, 90],
      [0x5f, 0xa8, 0xa0],
    ]);
  });
});

describe('the ring of focus', () => {
  test('is seen on every ground, its two tones far apart, and stays where the system chooses the colors', async () => {
    const { page } = stage;
    await openMap(stage, sheet);
    await settled(stage);
    await page.keyboard.press('Tab');
    const ring = () =>
      page.evaluate(() => {
        const { boxShadow, outlineStyle, outlineWidth } = getComputedStyle(document.querySelector('.flint-focus')!);
        return { boxShadow, outlineStyle, outlineWidth };
      });
    const { boxShadow } = await ring();
    const tones = [...boxShadow.matchAll(/rgb\((\d+), (\d+), (\d+)\)/g)].map((tone) => tone.slice(1).map(Number));
    // Relative luminance and contrast as WCAG 2.2 defines them: on a ground of any luminance one of the two tones has 3:1.
    const light = (rgb: number[]) =>
      rgb
        .map((v) => v / 255)
        .map((v) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4))
        .reduce((sum, v, i) => sum + v * [0.2126, 0.7152, 0.0722][i], 0);
    const [bright, dark] = [Math.max(...tones.map(light)), Math.min(...tones.map(light))];
    const contrast = (a: number, b: number) => (Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05);
    for (let ground = 0; ground <= 1; ground += 0.01)
      expect(Math.max(contrast(ground, bright), contrast(ground, dark))).toBeGreaterThanOrEqual(3);
    await page.emulateMedia({ forcedColors: 'active' });
    expect(await ring()).toMatchObject({ outlineStyle: 'solid', outlineWidth: '3px' });
  });
});

describe('credits', () => {
  test('have links of the sheet; those of a TileJSON document are reduced to text and safe links', async () => {
    const { page } = stage;
    await page.route('**/credit.json', (route) =>
      route.fulfill({
        json: {
          tilejson: '3.0.0',
          tiles: ['http://localhost:1/{z}/{x}/{y}.mvt'],
          bounds: [0, 0, 1, 1],
          attribution:
            '<b>Coast</b> &amp; <a href="https://coast.example" onclick="window.hit=1">survey</a> <a href="javascript:window.hit=1">bad</a><img src=x onerror="window.hit=1"><script>window.hit=1</script>',
        },
      }),
    );
    stage.expected = /./;
    await openMap(stage, {
      ...sheet,
      data: { ...sheet.data, coast: { tiles: `${stage.base}/credit.json` } },
      layers: [...sheet.layers, { id: 'coast', of: 'coast/land', fill: '#000000' }],
    });
    const credit = page.locator('.flint-credit');
    await page.waitForFunction(() => /Beds.*survey/.test(document.querySelector('.flint-credit')!.textContent!));
    expect(await credit.innerText()).toBe('Beds by the Reach Office · Coast & survey bad');
    expect(await credit.locator('a').evaluateAll((all) => all.map((a) => (a as HTMLAnchorElement).href))).toEqual([
      'https://reach.example/',
      'https://coast.example/',
    ]);
    expect(await page.evaluate(() => 'hit' in window)).toBe(false);
  });
});

describe('on paper and on small screens', () => {
  test('a page that is printed has the map on it', async () => {
    const { page } = stage;
    await openMap(stage, sheet);
    await settled(stage);
    await page.evaluate(() => window.dispatchEvent(new Event('beforeprint')));
    await page.emulateMedia({ media: 'print' });
    expect(await pixels(stage, [400, 300])).toEqual([[0x5f, 0xa8, 0xa0]]);
    await page.emulateMedia({ media: 'screen' });
    await page.evaluate(() => window.dispatchEvent(new Event('afterprint')));
    expect(await page.locator('.flint-print').count()).toBe(0);
  });

  test('position, scale bar, credits and notices do not cover each other on a phone', async () => {
    const { page } = stage;
    await page.setViewportSize({ width: 390, height: 700 });
    await openMap(stage, sheet);
    await page.evaluate(() => {
      const { ScaleBar, Position } = window.flintwright;
      document.querySelector<HTMLElement>('#map')!.style.width = '390px';
      new ScaleBar(window.map);
      new Position(window.map, { form: 'dms' });
      window.map.flag({ data: 'beds', key: '#0' }, 'crowned');
    });
    await settled(stage);
    await page.locator('.flint-notice').waitFor();
    const boxes = await page
      .locator('.flint-credit, .flint-scale, .flint-position, .flint-notice')
      .evaluateAll((all) => all.map((one) => one.getBoundingClientRect().toJSON() as DOMRect));
    expect(boxes).toHaveLength(4);
    boxes.forEach((a, i) =>
      boxes.slice(i + 1).forEach((b) => {
        const apart = a.right <= b.left || b.right <= a.left || a.bottom <= b.top + 1 || b.bottom <= a.top + 1;
        expect([a, b, apart]).toEqual([a, b, true]);
      }),
    );
  });

  test('every part of the rail can be reached at 320 by 256 pixels', async () => {
    const { page } = stage;
    await page.setViewportSize({ width: 320, height: 256 });
    await openMap(stage, sheet);
    await page.evaluate(() => {
      Object.assign(document.querySelector<HTMLElement>('#map')!.style, { width: '320px', height: '256px' });
      new window.flintwright.Rail(window.map, { parts: ['zoom', 'compass', 'home', 'locate', 'fullscreen'] });
    });
    await settled(stage);
    for (const button of await page.locator('.flint-rail button').all()) {
      await button.scrollIntoViewIfNeeded();
      const seen = await button.evaluate((element) => {
        const { left, top, width, height } = element.getBoundingClientRect();
        return element.contains(document.elementFromPoint(left + width / 2, top + height / 2));
      });
      expect([await button.getAttribute('aria-label'), seen]).toEqual([expect.any(String), true]);
    }
  });
});

describe('a map within a page', () => {
  test('leaves the page its wheel until Ctrl is held, and says so', async () => {
    const { page } = stage;
    await openMap(stage, sheet, undefined, { scroll: 'shared' });
    await page.evaluate(() =>
      document.body.append(Object.assign(document.createElement('p'), { style: 'height: 2000px' })),
    );
    await settled(stage);
    await page.mouse.move(400, 300);
    await page.mouse.wheel(0, 120);
    await page.waitForFunction(() => window.scrollY > 0);
    expect(await page.evaluate(() => window.map.view.zoom)).toBe(5);
    expect(await page.locator('.flint-hint').innerText()).toBe('Hold Ctrl and scroll to zoom the map');
    await page.keyboard.down('Control');
    await page.mouse.wheel(0, -120);
    await page.keyboard.up('Control');
    await settled(stage);
    expect(await page.evaluate(() => window.map.view.zoom)).toBeGreaterThan(5);
  });

  test('holds its place in the list of what is in view, and never acts on what is gone', async () => {
    const { page } = stage;
    await openMap(stage, sheet);
    await page.evaluate(() => {
      for (const [i, title] of ['One', 'Two', 'Three'].entries())
        window.map.markers.add({ at: [i * 3, 0], icon: 'anchor', title });
      Object.assign(window, { pressed: [] as string[] });
      window.map.addEventListener('press', ({ detail }) =>
        (window as unknown as { pressed: unknown[] }).pressed.push(detail.marker?.options.title),
      );
    });
    await settled(stage);
    const list = page.locator('.flint-list');
    const chosen = () => list.locator('[aria-selected=true]').innerText();
    await list.focus();
    await settled(stage);
    await page.keyboard.press('ArrowDown');
    expect(await chosen()).toBe('Two');
    await page.locator('canvas').focus();
    await list.focus();
    expect(await chosen()).toBe('Two');
    await page.evaluate(() => window.map.markers.all.find(({ options }) => options.title === 'Two')!.remove());
    await page.keyboard.press('Enter');
    expect(await page.evaluate(() => (window as unknown as { pressed: unknown[] }).pressed)).not.toContain('Two');
  });
});

describe('wherever a page is made', () => {
  test('importing the library on a server does nothing and breaks nothing', async () => {
    const whole = (await import('flintwright/whole' as string)) as Record<string, unknown>;
    const parts = {
      ...(await import('flintwright')),
      ...(await import('flintwright/element')),
      ...(await import('flintwright/files')),
    };
    expect(Object.keys(whole).sort()).toEqual(Object.keys(parts).sort());
  });
});
