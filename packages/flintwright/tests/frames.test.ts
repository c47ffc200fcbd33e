import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { box, collection, openMap, pixels, settled, useStage } from './harness.ts';

const stage = useStage();

const empty: Sheet = { sheet: 1, background: '#ffffff', layers: [] };

const at = (lon: number, lat: number) =>
  stage.page.evaluate(([x, y]) => window.map.toPixel([x, y]), [lon, lat] as const);

const round = ([x, y]: readonly number[]): [number, number] => [Math.round(x), Math.round(y)];

describe('ground that is kept', () => {
  const red = [255, 0, 0];
  const sheet: Sheet = {
    ...empty,
    palette: { field: '#ff0000' },
    data: {
      d: {
        features: collection(
          ...[-6, -3, 0, 3, 6].map((lon, i) =>
            box(lon, -2, 2, { name: 'abcde'[i], kind: i % 2 ? 'odd' : 'even' }, i + 1),
          ),
        ),
      },
    },
    layers: [
      ...['under', 'over'].map((id) => ({
        id,
        of: 'd',
        fill: { color: '@field' },
        stroke: { color: '#00ff00', width: 6 },
        states: { chosen: { fill: { color: '#0000ff' } } },
      })),
      { id: 'names', of: 'd', label: { text: { is: 'name' }, color: '#ffffff' } },
    ],
  };
  /** Moves the marker until the ground is no longer drawn, and tells how many draws a frame takes. */
  const rest = () =>
    stage.page.evaluate(async () => {
      const { map } = window;
      await map.settled();
      const calls: number[] = [];
      for (let i = 0; i < 4; i++) {
        map.markers.all[0].change({ at: [-9 + i * 0.2, 4] });
        await map.settled();
        calls.push(map.lastFrame.calls);
      }
      return calls;
    });
  const picture = () =>
    stage.page.evaluate(async () => {
      await window.map.settled();
      return new Uint8Array(await (await window.map.picture()).arrayBuffer()).join();
    });

  test('stays as it was while markers move, to the last bit, and takes no draws', async () => {
    const { page } = stage;
    await openMap(stage, sheet);
    await page.evaluate(() => void window.map.markers.add({ at: [-9, 4] }));
    await settled(stage);
    const drawn = await page.evaluate(
      () =>
        new Promise<number>((resolve) => {
          void window.map.move({ zoom: 5.01 });
          requestAnimationFrame(() => resolve(window.map.lastFrame.calls));
        }),
    );
    const [, , third, last] = await rest();
    // What is left is the ground in one, labels and the marker.
    expect([third, last]).toEqual([3, 3]);
    expect(drawn).toBeGreaterThan(4);
    const kept = await picture();
    // A map that has never drawn anything else.
    await page.evaluate(() => {
      const { at, ...options } = { ...window.map.markers.all[0].options, at: window.map.markers.all[0].at };
      const { sheet, view } = window.map;
      window.map.remove();
      window.map = window.flintwright.createMap('#map', { sheet, view });
      window.map.markers.add({ at, ...options });
    });
    expect((await picture()) === kept).toBe(true);
  });

  test('is drawn anew for whatever changes it', async () => {
    const { page } = stage;
    await openMap(stage, sheet);
    await page.evaluate(() => void window.map.markers.add({ at: [-9, 4] }));
    const seen = async (...places: [number, number][]) => {
      await settled(stage);
      const spots = await Promise.all(places.map(([lon, lat]) => at(lon, lat)));
      return pixels(stage, ...spots.map(round));
    };
    const first: [number, number] = [-5.2, -0.2];
    const second: [number, number] = [-2.2, -0.2];
    expect(await seen(first, second)).toEqual([red, red]);

    const changes: [what: () => Promise<unknown>, first: number[], second: number[]][] = [
      // A state, and back.
      [() => page.evaluate(() => window.map.flag({ data: 'd', key: '1' }, 'chosen')), [0, 0, 255], red],
      [() => page.evaluate(() => window.map.flag({ data: 'd', key: '1' }, 'chosen', false)), red, red],
      // Another palette, another look, another filter, another test.
      [
        () => page.evaluate(() => window.map.setPalette({ field: '#ffff00' }, { duration: 0 })),
        [255, 255, 0],
        [255, 255, 0],
      ],
      [() => page.evaluate(() => window.map.layers.change('over', { fill: '#ff00ff' })), [255, 0, 255], [255, 0, 255]],
      [() => page.evaluate(() => window.map.layers.filter('over', "kind = 'odd'")), [255, 255, 0], [255, 0, 255]],
      [
        () => page.evaluate(() => window.map.layers.filter('over', ({ name }) => name === 'a')),
        [255, 0, 255],
        [255, 255, 0],
      ],
      [() => page.evaluate(() => window.map.layers.hide('over')), [255, 255, 0], [255, 255, 0]],
      // Features that go, data that is put in place of them.
      [() => page.evaluate(() => window.map.edit('under', { remove: ['1'] })), [255, 255, 255], [255, 255, 0]],
      [
        () =>
          page.evaluate(
            (features: unknown) =>
              window.map.setSheet(
                { ...window.map.sheet, data: { d: { features: features as object } } },
                { duration: 0 },
              ),
            collection(box(-6, -2, 2, { name: 'f', kind: 'odd' }, 9)) as unknown,
          ),
        [255, 255, 0],
        [255, 255, 255],
      ],
      // Another view and another size: the places are sought anew.
      [() => page.evaluate(() => window.map.move({ zoom: 5.6, bearing: 30 })), [255, 255, 0], [255, 255, 255]],
      [() => page.setViewportSize({ width: 640, height: 500 }), [255, 255, 0], [255, 255, 255]],
    ];
    for (const [change, ...wanted] of changes) {
      await rest();
      await change();
      expect(await seen(first, second)).toEqual(wanted);
    }
  });
});
