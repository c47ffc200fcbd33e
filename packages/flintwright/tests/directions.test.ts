// Pages that are read from left to right, and from right to left: numbers and coordinates stay in order, bars run the way their texts do.
import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { box, collection, faultsOf, openMap, pixels, point, settled, useStage } from './harness.ts';

const stage = useStage();
const areas = [1, 3, 5].map((n, i) => box(-9 + 4 * i, 1, 3, { n }));
const sheet = {
  sheet: 1,
  background: '#ffffff',
  data: {
    areas: { features: collection(...areas) },
    spots: { features: collection(...Array.from({ length: 20 }, (_, i) => point(i / 4, -4 + (i % 3) / 2))) },
  },
  layers: [
    {
      id: 'classes',
      of: 'areas',
      title: 'Classes',
      fill: {
        color: {
          by: 'n',
          title: 'Depth',
          unit: 'm',
          classes: { breaks: [2, 4], values: ['#ff0000', '#00ff00', '#0000ff'] },
        },
      },
    },
    {
      id: 'ramp',
      of: 'areas',
      title: 'Ramp',
      fill: {
        color: {
          by: 'n',
          title: 'Ramp',
          unit: 'm',
          ramp: [
            [0, '#ff00ff'],
            [10, '#00ffff'],
          ],
        },
      },
    },
    { id: 'heat', of: 'spots', title: 'Heat', heat: { radius: 20 } },
  ],
} as unknown as Sheet;

describe.each(['ltr', 'rtl'] as const)('a page that is read %s', (direction) => {
  const open = async () => {
    await openMap(stage, sheet, { center: [-3, 1], zoom: 5 });
    await stage.page.evaluate(async (dir) => {
      document.documentElement.dir = dir;
      const { Position, Rail, ScaleBar } = window.flintwright;
      new Rail(window.map);
      new Position(window.map);
      new ScaleBar(window.map);
      window.map.legend({});
      window.map.popup({ at: [0, 1], title: 'Quay 7', lines: { depth: '-3.5 m', place: '44.63° N', ratio: '1:250' } });
      await window.map.settled();
    }, direction);
    await settled(stage);
  };
  /** Where two parts of the text of an element stand, from the left. */
  const leftOf = (selector: string, ...parts: string[]) =>
    stage.page.evaluate(
      ([selector, parts]) => {
        const elements = [...document.querySelectorAll(selector)];
        for (const element of elements) {
          const walk = document.createTreeWalker(element, NodeFilter.SHOW_TEXT);
          for (let node = walk.nextNode(); node; node = walk.nextNode()) {
            const places = parts.map((part) => node!.nodeValue!.indexOf(part));
            if (places.some((at) => at < 0)) continue;
            return places.map((at, i) => {
              const range = document.createRange();
              range.setStart(node!, at);
              range.setEnd(node!, at + parts[i].length);
              return range.getBoundingClientRect().left;
            });
          }
        }
        return [NaN, NaN];
      },
      [selector, parts] as const,
    );
  const rises = (values: readonly number[]) => values.every((value, i) => !i || value > values[i - 1]);

  test('numbers, units and coordinates stay in order', async () => {
    await open();
    const found = {
      scale: await leftOf('.flint-scale', '00', ' km'),
      position: await leftOf('.flint-position', '1.000', ', ', '-3.000'),
      depth: await leftOf('.flint-popup dd', '-', '3.5', 'm'),
      place: await leftOf('.flint-popup dd', '44.63°', 'N'),
      title: await leftOf('.flint-popup h2', 'Quay', '7'),
      end: await leftOf('.flint-ends', '10', ' m'),
    };
    expect(Object.entries(found).filter(([, values]) => !rises(values))).toEqual([]);
    expect(await faultsOf(stage)).toEqual([]);
  });

  test('the comma of a heading is between its title and its unit', async () => {
    await open();
    const places = await stage.page.evaluate(() =>
      [...document.querySelectorAll('.flint-heading')].flatMap((heading) => {
        const unit = heading.querySelector('span');
        if (!unit) return [];
        const middle = (node: Node, from: number, to: number) => {
          const range = document.createRange();
          range.setStart(node, from);
          range.setEnd(node, to);
          const { left, right } = range.getBoundingClientRect();
          return (left + right) / 2;
        };
        const [title] = heading.childNodes;
        const comma = unit.previousSibling!;
        const at = comma.nodeValue!.indexOf(',');
        const own = comma === title ? at : title.nodeValue!.length;
        return [[middle(title, 0, own), middle(comma, at, at + 1), middle(unit.firstChild!, 0, 1)]];
      }),
    );
    expect(places.length).toBeGreaterThan(0);
    for (const each of places) expect(rises(direction === 'ltr' ? each : each.toReversed())).toBe(true);
  });

  test('bars run the way their texts do, and limits stand below the borders of their classes', async () => {
    await open();
    const seen = await stage.page.evaluate(() => {
      const middle = (element: Element) => {
        const { left, right } = element.getBoundingClientRect();
        return (left + right) / 2;
      };
      const items = [...document.querySelectorAll('.flint-classes li')];
      return {
        limits: items.flatMap((item, i) => {
          const limit = item.querySelector('span');
          if (!limit) return [];
          const [a, b] = [items[i - 1], item].map((one) => one.getBoundingClientRect());
          const border = a.left < b.left ? b.left : a.left;
          return [[limit.textContent, Math.round(middle(limit) - border)]];
        }),
        order: items.map(middle),
        ends: [...document.querySelectorAll('.flint-ends')].map((ends) => [...ends.children].map(middle)),
        ramps: [...document.querySelectorAll('.flint-ramp .flint-bar')].map((bar) => {
          const { left, top, width, height } = bar.getBoundingClientRect();
          return [left, top, width, height];
        }),
        rail: middle(document.querySelector('.flint-rail')!),
      };
    });
    const forward = direction === 'ltr';
    expect(seen.limits).toEqual([
      ['2', 0],
      ['4', 0],
    ]);
    expect(rises(forward ? seen.order : seen.order.toReversed())).toBe(true);
    for (const [low, high] of seen.ends) expect(low < high).toBe(forward);
    expect(seen.rail > 400).toBe(forward);
    // The low end of the ramp, magenta, stands over its text, within its edge.
    const [left, top, width, height] = seen.ramps[0].map(Math.round);
    const shot = await stage.page.screenshot({
      clip: { x: (forward ? left : left + width - 12) + 2, y: top + 2, width: 8, height: height - 4 },
    });
    const share = await stage.page.evaluate(async (data) => {
      const bytes = Uint8Array.from(atob(data), (c) => c.charCodeAt(0));
      const image = await createImageBitmap(new Blob([bytes], { type: 'image/png' }));
      const context = new OffscreenCanvas(image.width, image.height).getContext('2d')!;
      context.drawImage(image, 0, 0);
      const { data: rgba } = context.getImageData(0, 0, image.width, image.height);
      return rgba.reduce((sum, v, i) => sum + (i % 4 === 0 && v > 200 ? 1 : 0), 0) / (rgba.length / 4);
    }, shot.toString('base64'));
    expect(share).toBeGreaterThan(0.9);
  });

  test('nothing stands over the legend, and what the map draws is not mirrored', async () => {
    await open();
    const boxes = await stage.page.evaluate(() =>
      ['.flint-legend', '.flint-scale', '.flint-position', '.flint-credit', '.flint-rail > *'].flatMap((selector) => {
        const element = document.querySelector(selector);
        if (!element) return [];
        const { left, top, right, bottom } = element.getBoundingClientRect();
        return right > left ? [{ selector, left, top, right, bottom }] : [];
      }),
    );
    const over = boxes.flatMap((a, i) =>
      boxes
        .slice(i + 1)
        .filter((b) => a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom)
        .map((b) => `${a.selector} and ${b.selector}`),
    );
    expect(over).toEqual([]);
    // The lowest value, magenta, lies to the west.
    const places = await stage.page.evaluate(() =>
      [
        [-7.5, 2.5],
        [0.5, 2.5],
      ].map((at) => window.map.toPixel(at as [number, number]).map(Math.round)),
    );
    await stage.page.evaluate(() => document.querySelector('.flint-popup')?.remove());
    const [west, east] = await pixels(stage, ...(places as [number, number][]));
    expect(west[0]).toBeGreaterThan(east[0] + 10);
  });
});
