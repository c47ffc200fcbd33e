// Symbols in any dress: icons of every kind, for layers, markers, clusters and the legend; clusters as the sheet or a function has them.
import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { collection, countPixels, openMap, pixels, point, settled, useStage } from './harness.ts';

const stage = useStage();
const svg = (inner: string, more = '') =>
  `<svg xmlns="http://www.w3.org/2000/svg" width="24" height="24" viewBox="0 0 24 24"${more}>${inner}</svg>`;
const twoTone = svg(
  '<rect width="24" height="12" fill="#d02020"/><rect y="12" width="24" height="12" fill="#2040d0"/>',
);
const kinds = ['path', 'svg', 'address', 'bitmap', 'inked'] as const;
const quays = collection(...kinds.map((kind, i) => point(-8 + 4 * i, 0, { kind }, i)));
const sheet: Sheet = {
  sheet: 1,
  background: '#ffffff',
  data: { quays: { features: quays } },
  layers: [
    {
      id: 'quays',
      title: 'Quays',
      of: 'quays',
      mark: {
        icon: { by: 'kind', categories: Object.fromEntries(kinds.map((kind) => [kind, kind])) },
        size: 40,
        color: '#20a040',
      },
    },
  ],
};
const [red, blue, green] = [
  [0xd0, 0x20, 0x20],
  [0x20, 0x40, 0xd0],
  [0x20, 0xa0, 0x40],
] as [number, number, number][];

/** Opens the map with icons of every kind. A bitmap can only be made in the page. */
async function open(icons: Record<string, string> = {}) {
  const { page, base } = stage;
  await page.route('**/two.svg', (route) => route.fulfill({ contentType: 'image/svg+xml', body: twoTone }));
  await page.goto(`${base}/test/`);
  await page.waitForFunction(() => 'flintwright' in window);
  await page.evaluate(
    async ([given, own, drawing]) => {
      const canvas = new OffscreenCanvas(48, 48);
      const context = canvas.getContext('2d')!;
      context.fillStyle = '#d02020';
      context.fillRect(0, 0, 48, 24);
      context.fillStyle = '#2040d0';
      context.fillRect(0, 24, 48, 24);
      window.map = window.flintwright.createMap('#map', {
        sheet: given as Sheet,
        view: { center: [0, 0], zoom: 5 },
        icons: {
          path: 'M2 2H22V22H2Z',
          svg: drawing as string,
          address: '/two.svg',
          bitmap: canvas.transferToImageBitmap(),
          inked: { source: drawing as string, tinted: true },
          ...(own as object),
        },
      });
      window.map.addEventListener('fault', ({ detail }) => window.faults.push(detail));
      await window.map.settled();
    },
    [sheet, icons, twoTone] as unknown[],
  );
}

describe('icons', () => {
  test('as path data, SVG, an address and a bitmap, in their own colors or tinted', async () => {
    await open();
    await settled(stage);
    const [reds, blues, greens] = await countPixels(stage, red, blue, green);
    // 40 pixels high, of which the drawing fills what it fills: three of two colors, two of one.
    expect([reds > 1800, blues > 1800, greens > 1800, reds < 3000, greens < 3600]).toEqual([
      true,
      true,
      true,
      true,
      true,
    ]);
    expect(Math.abs(reds - blues) < 300).toBe(true);
    const before = reds;
    await stage.page.evaluate(() => {
      window.map.markers.add({ at: [0, 5], icon: 'svg' });
      window.map.markers.add({ at: [6, 5], shape: 'address' });
      window.map.legend();
    });
    await settled(stage);
    const [after] = await countPixels(stage, red);
    expect(after).toBeGreaterThan(before + 200);
    // That which is tinted, too, in its color.
    expect(await stage.page.locator('.flint-legend image').count()).toBe(4);
  });

  test('that cannot be had are faults, and a plain mark stands in their place', async () => {
    stage.expected = /./;
    await open({ path: 'not a path at all', svg: '<svg>broken', address: '/none.svg' });
    await settled(stage);
    const faults = await stage.page.evaluate(() => window.faults.map(({ code, hint }) => [code, hint]));
    expect(faults.sort((a, b) => (a.join() < b.join() ? -1 : 1))).toEqual([
      ['icon.form', expect.stringContaining('placeholder')],
      ['icon.picture', expect.stringContaining('xmlns')],
      ['icon.picture', expect.stringContaining('CORS')],
    ]);
    const [greens] = await countPixels(stage, green);
    expect(greens).toBeGreaterThan(1500);
  });

  test('a button and a marker with a missing drawing say so', async () => {
    stage.expected = /./;
    await open();
    await stage.page.evaluate(() => {
      new window.flintwright.Button(window.map, { label: 'Go', path: 'go', press: () => {} });
      window.map.markers.add({ at: [0, 0], image: '/none.png', title: 'Gone' });
    });
    await stage.page.waitForFunction(() => window.faults.length === 2);
    expect(await stage.page.evaluate(() => window.faults.map(({ code }) => code))).toEqual([
      'button.path',
      'marker.image',
    ]);
    expect(await stage.page.locator('.flint-marker.flint-missing').count()).toBe(1);
  });
});

describe('clusters', () => {
  const nets = collection(
    ...Array.from({ length: 9 }, (_, i) => point(i * 0.01, 0, { gear: i < 6 ? 'trap' : 'net', catch: 10 }, i)),
    ...Array.from({ length: 3 }, (_, i) => point(8 + i * 0.01, 2, { gear: 'net', catch: 1 }, 20 + i)),
  );
  const clustered = (clusters?: object): Sheet => ({
    sheet: 1,
    background: '#ffffff',
    data: {
      nets: {
        features: nets,
        cluster: { share: 'gear', sum: { total: 'catch' } },
      },
    },
    layers: [
      {
        id: 'nets',
        title: 'Nets',
        of: 'nets',
        mark: { size: 10, color: { by: 'gear', categories: { trap: '#d9a', net: '#9ad' } } },
        ...(clusters ? { clusters } : {}),
      },
    ] as Sheet['layers'],
  });

  test('look as the sheet has them: by count, sum and leading category', async () => {
    await openMap(
      stage,
      clustered({
        mark: {
          shape: 'circle',
          size: {
            by: 'total',
            ramp: [
              [0, 20],
              [100, 70],
            ],
          },
          color: { by: 'leading', categories: { trap: '#d02020', net: '#2040d0' } },
        },
        label: { text: 'count', color: '#ffffff', size: 12 },
      }),
    );
    await settled(stage);
    const [reds, blues] = await countPixels(stage, red, blue);
    // Circles 65 and 21 pixels wide, their drawing 20 of 24 units.
    expect([reds > 1800, reds < 3000, blues > 130, blues < 320]).toEqual([true, true, true, true]);
    const [hexagon] = await countPixels(stage, [0xf7, 0xf5, 0xef]);
    expect(hexagon).toBeLessThan(60);
  });

  test('are elements that a function makes; pressed, they open', async () => {
    const { page } = stage;
    await openMap(stage, clustered());
    await settled(stage);
    await page.evaluate(() => {
      const dress = window.map.clustersAs('nets', ({ node }) => {
        const element = document.createElement('b');
        element.textContent = `${node.count} of ${String(node.sums['total'])}`;
        return element;
      });
      Object.assign(window, { dress });
    });
    await settled(stage);
    const elements = page.locator('.flint-marker');
    expect((await elements.allInnerTexts()).sort()).toEqual(['3 of 3', '9 of 90']);
    expect(await elements.first().getAttribute('aria-label')).toContain('Nets: cluster of');
    await elements.filter({ hasText: '9 of' }).click();
    await settled(stage);
    expect(await page.evaluate(() => window.map.view.zoom)).toBeGreaterThan(7);
    await page.evaluate(() => (window as unknown as { dress: { remove(): void } }).dress.remove());
    expect(await elements.count()).toBe(0);
  });

  test('of points that are not clustered are a fault of the sheet', async () => {
    await openMap(stage, clustered());
    const found = await stage.page.evaluate(
      (given: unknown) => window.flintwright.checkSheet(given as Sheet).map(({ code }) => code),
      { ...clustered({ mark: { size: 9 } }), data: { nets: { features: nets } } } as unknown,
    );
    expect(found).toEqual(['sheet.clusters']);
  });
});

test('free words stand on the map with size, rotation and halo, keep labels away, and are pressed', async () => {
  const { page } = stage;
  await openMap(stage, { sheet: 1, background: '#2040d0', layers: [] }, { center: [0, 0], zoom: 5 });
  await page.evaluate(() => {
    const words = { words: 'SOUND OF ORE', color: '#20a040', halo: { color: '#d02020', width: 3 }, size: 40 };
    const marker = window.map.markers.add({ at: [0, 0], ...words, title: 'Sound', popup: { title: 'Sound of Ore' } });
    Object.assign(window, { marker });
  });
  await settled(stage);
  const ink = () => countPixels(stage, green, red);
  const [level, rim] = await ink();
  expect([level > 2000, rim > 1000]).toEqual([true, true]);
  const across = async () => {
    const at = await pixels(stage, ...Array.from({ length: 61 }, (_, i) => [400, 150 + 5 * i] as [number, number]));
    return at.filter(([r, g]) => g > 130 || r > 160).length;
  };
  const before = await across();
  await page.evaluate(() =>
    (window as unknown as { marker: { change(o: object): void } }).marker.change({ rotation: 90 }),
  );
  await settled(stage);
  // Upright, they reach much further up and down through the middle.
  expect(await across()).toBeGreaterThan(before * 2);
  await page.mouse.click(400, 240);
  expect(await page.locator('.flint-popup').innerText()).toContain('Sound of Ore');
});
