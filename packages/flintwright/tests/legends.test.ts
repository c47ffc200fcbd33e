// Legends show what the map draws: the same colors at the same opacity, each layer under its own title, no limit over another.
import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { box, collection, faultsOf, line, openMap, pixels, point, settled, useStage } from './harness.ts';
import { isNear } from './sheets.ts';

const stage = useStage();
// That of the cards, so that what is half clear looks the same on both.
const ground = '#f7f5ef';
const wedge = {
  source:
    '<svg xmlns="http://www.w3.org/2000/svg" width="24" height="24" viewBox="0 0 24 24"><path d="M1 1H23V23H1Z"/></svg>',
  tinted: true,
};

const symbols: Record<string, (opacity: number) => object> = {
  fill: (opacity) => ({ of: 'area', fill: { color: '#1040c0', opacity } }),
  'fill by value': (opacity) => ({
    of: 'area',
    fill: { color: { by: 'n', categories: { 1: '#c02080' }, names: { 1: 'one' } }, opacity },
  }),
  mark: (opacity) => ({ of: 'spot', mark: { size: 16, color: '#c01010', opacity } }),
  'tinted icon': (opacity) => ({ of: 'spot', mark: { icon: 'wedge', size: 16, color: '#108040', opacity } }),
  stroke: (opacity) => ({ of: 'path', stroke: { color: '#402080', width: 8, opacity } }),
};

describe('a legend', () => {
  test.each(
    Object.keys(symbols).flatMap((name) =>
      [
        [1, 1],
        [0.4, 1],
        [1, 0.5],
        [0.6, 0.5],
      ].map(([opacity, whole]) => [name, opacity, whole] as const),
    ),
  )('%s, %d clear in a layer of %d', async (name, opacity, whole) => {
    const sheet = {
      sheet: 1,
      background: ground,
      icons: { wedge },
      data: {
        area: { features: collection(box(-2, -2, 4, { n: 1 })) },
        spot: { features: collection(point(0, 0, { n: 1 })) },
        path: {
          features: collection(
            line(
              [
                [-3, 0],
                [3, 0],
              ],
              { n: 1 },
            ),
          ),
        },
      },
      layers: [{ id: 'l', title: 'Layer', opacity: whole, ...symbols[name](opacity) }],
    } as unknown as Sheet;
    await openMap(stage, sheet, { center: [0, 0], zoom: 5 });
    await stage.page.evaluate(async () => {
      await window.map.legend({}).ready;
      await window.map.settled();
    });
    await settled(stage);
    const [x, y] = await stage.page.evaluate(() => {
      const { left, top, width, height } = document.querySelector('.flint-swatch')!.getBoundingClientRect();
      return [Math.round(left + width / 2), Math.round(top + height / 2)];
    });
    const [drawn, shown] = await pixels(stage, [400, 300], [x, y]);
    expect([drawn, shown, isNear(drawn, shown, 6)]).toEqual([drawn, shown, true]);
    expect(isNear(drawn, [247, 245, 239])).toBe(false);
    expect(await faultsOf(stage)).toEqual([]);
  });

  // A swatch is 26 by 18 px: what is no wider has its own size there.
  test.each<[string, object[], 'across' | 'ahead']>([
    [
      'a casing and its core',
      [
        { color: '#7a5a20', width: 14 },
        { color: '#f2c14e', width: 8 },
      ],
      'across',
    ],
    [
      'lines to both sides',
      [
        { color: '#103070', width: 3, offset: -4 },
        { color: '#c02020', width: 4, offset: 5 },
      ],
      'across',
    ],
    [
      'a gradient',
      [
        {
          width: 12,
          gradient: {
            ramp: [
              [0, '#1040c0'],
              [0.5, '#f0e040'],
              [1, '#c01010'],
            ],
          },
        },
      ],
      'ahead',
    ],
  ])('a swatch has the strokes of the map: %s', async (_, stroke, way) => {
    const path = line(
      [
        [-3, 0],
        [3, 0],
      ],
      { n: 1 },
    );
    const sheet = {
      sheet: 1,
      background: ground,
      data: { path: { features: collection(path) } },
      layers: [{ id: 'l', of: 'path', title: 'Layer', stroke }],
    } as unknown as Sheet;
    await openMap(stage, sheet, { center: [0, 0], zoom: 5 });
    await stage.page.evaluate(() => window.map.legend({}).ready);
    await settled(stage);
    const [x, y, from, to] = await stage.page.evaluate(() => {
      const { left, top, width, height } = document.querySelector('.flint-swatch')!.getBoundingClientRect();
      const ends = [-3, 3].map((lon) => Math.round(window.map.toPixel([lon, 0])[0]));
      return [Math.round(left + width / 2), Math.round(top + height / 2), ...ends];
    });
    const steps = Array.from({ length: 13 }, (_, i) => i - 6);
    const [mapped, swatch] =
      way === 'across'
        ? [steps.map((d) => [400, 300 + d]), steps.map((d) => [x, y + d])]
        : [steps.map((d) => [(from + to) / 2 + (d / 14) * (to - from), 300]), steps.map((d) => [x + (d / 14) * 24, y])];
    const all = await pixels(stage, ...([...mapped, ...swatch].map((at) => at.map(Math.round)) as [number, number][]));
    const far = steps.filter((_, i) => !isNear(all[i], all[i + steps.length], way === 'across' ? 40 : 30));
    // The rim of a line may lie on either side of a pixel.
    expect([far.length <= (way === 'across' ? 2 : 0), far, all]).toEqual([true, far, all]);
    expect(new Set(all.slice(0, steps.length).map(String)).size).toBeGreaterThan(1);
  });

  test.each([4, 6, 9])('a swatch has the gap of a hatch: %d px', async (gap) => {
    const sheet = {
      sheet: 1,
      background: ground,
      data: { area: { features: collection(box(-2, -2, 4, { n: 1 })) } },
      layers: [
        { id: 'l', of: 'area', title: 'Layer', fill: { hatch: { color: '#103070', gap, width: 1, angle: 90 } } },
      ],
    } as unknown as Sheet;
    await openMap(stage, sheet, { center: [0, 0], zoom: 5 });
    await stage.page.evaluate(() => window.map.legend({}).ready);
    await settled(stage);
    const lines = await stage.page.evaluate(() =>
      [...document.querySelectorAll('.flint-swatch g line')].map((one) => Number(one.getAttribute('y1'))),
    );
    expect([...new Set(lines.slice(1).map((at, i) => at - lines[i]))]).toEqual([gap]);
  });

  test('an icon with its own colors says that a scale cannot color it; a tinted one does not', async () => {
    const svg =
      '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 24 24"><circle cx="12" cy="12" r="9" fill="#c00"/></svg>';
    const layer = (id: string, icon: string) => ({
      id,
      of: 'spot',
      title: id,
      mark: { icon, size: 30, color: { by: 'n', classes: { breaks: [3], values: ['#0000ff', '#00ff00'] } } },
    });
    await openMap(stage, {
      sheet: 1,
      icons: { own: svg, toned: { source: svg, tinted: true } },
      data: { spot: { features: collection(point(0, 0, { n: 5 })) } },
      layers: [
        layer('first', 'own'),
        layer('second', 'toned'),
        // Rules that give each feature an icon that takes colors, or one color; and one that does not.
        {
          ...layer('third', 'own'),
          rules: [
            { where: 'n = 5', mark: { icon: 'toned' } },
            { otherwise: true, mark: { color: '#ff0000' } },
          ],
        },
        { ...layer('fourth', 'toned'), rules: [{ where: 'n = 5', mark: { icon: 'own' } }, { otherwise: true }] },
      ],
    } as unknown as Sheet);
    await settled(stage);
    const faults = await stage.page.evaluate(() => window.faults.map(({ code, message, at }) => [code, message, at]));
    expect(faults).toEqual([
      [
        'sheet.tint',
        'layer "first" colors the icon "own" by a scale, and the icon has its own colors',
        '$.layers[0].mark.color',
      ],
      [
        'sheet.tint',
        'layer "fourth" colors the icon "own" by a scale, and the icon has its own colors',
        '$.layers[3].mark.color',
      ],
    ]);
  });

  test('the lowest and highest values stand at the ends: of the data for a method, as given for breaks', async () => {
    const features = collection(...[2, 4, 7, 11].map((n, i) => box(i * 2, 0, 1, { n })));
    const fill = (classes: object) => ({ fill: { color: { by: 'n', classes: { scheme: 'Blues', ...classes } } } });
    await openMap(stage, {
      sheet: 1,
      data: { areas: { features } },
      layers: [
        { id: 'a', of: 'areas', title: 'Found', ...fill({ method: 'equal', count: 3 }) },
        { id: 'b', of: 'areas', title: 'Given', ...fill({ breaks: [5], extent: [0, 20] }) },
        { id: 'c', of: 'areas', title: 'Open', ...fill({ breaks: [5] }) },
      ],
    } as unknown as Sheet);
    await settled(stage);
    const bars = await stage.page.evaluate(async () => {
      const legend = window.map.legend();
      await legend.ready;
      return [...legend.element.querySelectorAll('.flint-classes')].map((bar) => {
        const { left, right } = bar.getBoundingClientRect();
        const inside = [...bar.querySelectorAll('span')].every((one) => {
          const box = one.getBoundingClientRect();
          return box.left >= left - 1 && box.right <= right + 1;
        });
        return [[...bar.querySelectorAll('span')].map(({ textContent }) => textContent).join(' '), inside];
      });
    });
    expect(bars).toEqual([
      ['2 5 8 11', true],
      ['0 5 20', true],
      ['5', true],
    ]);
  });

  test('limits of classes never overlap, however long; two layers by one attribute have their own titles', async () => {
    const classes = (breaks: number[]) => ({
      fill: { color: { by: 'n', title: 'Yield', unit: 't', classes: { breaks, scheme: 'Blues' } } },
    });
    const sheet = {
      sheet: 1,
      background: ground,
      data: { area: { features: collection(box(-2, -2, 4, { n: 1 })) } },
      layers: [
        { id: 'a', of: 'area', title: 'Small beds', ...classes([1, 2, 3]) },
        { id: 'b', of: 'area', title: 'Large beds', ...classes([1000, 20_000, 300_000, 4_000_000]) },
        { id: 'c', of: 'area', title: 'All beds', ...classes([0.001, 0.002, 0.003, 0.004, 0.005, 0.006]) },
      ],
    } as unknown as Sheet;
    await openMap(stage, sheet, { center: [0, 0], zoom: 5 });
    await stage.page.evaluate(async () => void (await window.map.legend({}).ready));
    await settled(stage);
    const seen = await stage.page.evaluate(() => ({
      text: document.querySelector<HTMLElement>('.flint-legend')!.innerText.toLowerCase(),
      bars: document.querySelectorAll('.flint-classes').length,
      spans: [...document.querySelectorAll('.flint-legend span')].map((one) => {
        const { left, right, top, bottom } = one.getBoundingClientRect();
        return { left, right, top, bottom };
      }),
    }));
    expect(seen.bars).toBe(1);
    for (const title of ['small beds', 'large beds', 'all beds']) expect(seen.text).toContain(`${title}\n\nyield, t`);
    expect(seen.text).toContain('1,000 – 20,000 t');
    const over = seen.spans.filter((a, i) =>
      seen.spans.some((b, k) => k > i && a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom),
    );
    expect(over).toEqual([]);
  });
});
