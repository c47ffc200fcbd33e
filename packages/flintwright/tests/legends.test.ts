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
