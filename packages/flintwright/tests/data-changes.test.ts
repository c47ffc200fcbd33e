import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { collection, openMap, pixels, point, settled, useStage } from './harness.ts';

const stage = useStage();

const empty: Sheet = { sheet: 1, background: '#ffffff', layers: [] };

const at = (lon: number, lat: number) =>
  stage.page.evaluate(([x, y]) => window.map.toPixel([x, y]), [lon, lat] as const);

const round = ([x, y]: readonly number[]): [number, number] => [Math.round(x), Math.round(y)];

describe('data that changes', () => {
  const points = (cluster: object | undefined) => {
    const features = [
      point(-6, 0, { id: 'a', kind: 'x', n: 1 }),
      point(-5.9, 0, { id: 'b', kind: 'y', n: 2 }),
      point(4, 0, { id: 'c', kind: 'x', n: 3 }),
    ];
    return {
      ...empty,
      data: { d: { features: collection(...features), id: 'id', ...(cluster ? { cluster } : {}) } },
      layers: [
        {
          id: 'l',
          of: 'd',
          mark: { size: 24, color: { by: 'kind', categories: { x: '#ff0000', y: '#0000ff' } } },
          popup: {},
        },
      ],
    } as Sheet;
  };
  const keysAt = async (lon: number, lat: number) => {
    await settled(stage);
    return stage.page.evaluate(([x, y]) => window.map.pick(window.map.toPixel([x, y])).map(({ key }) => key), [
      lon,
      lat,
    ] as const);
  };

  test.each([
    ['plain', undefined],
    ['clustered', { within: 40, until: 8, share: 'kind', sum: { n: 'n' } }],
  ])('%s points are added, moved, taken out and filtered where they stand', async (kind, cluster) => {
    const { page } = stage;
    await openMap(stage, points(cluster));
    await settled(stage);
    expect(await keysAt(4, 0)).toEqual(['c']);
    await page.evaluate(() => window.map.edit('l', { move: { c: [4, 5] }, remove: ['b'] }));
    expect(await keysAt(4, 0)).toEqual([]);
    expect(await keysAt(4, 5)).toEqual(['c']);
    // Alone now, the other stands for itself.
    expect(await keysAt(-6, 0)).toEqual(['a']);
    await page.evaluate(
      (d) => window.map.edit('l', { put: JSON.parse(d) as object }),
      JSON.stringify(
        collection(point(0, -4, { id: 'd', kind: 'y', n: 7 }), point(-6, 3, { id: 'a', kind: 'y', n: 1 })),
      ),
    );
    expect(await keysAt(0, -4)).toEqual(['d']);
    expect(await keysAt(-6, 3)).toEqual(['a']);
    expect(await keysAt(-6, 0)).toEqual([]);
    const [[r, , b]] = await pixels(stage, round(await at(-6, 3)));
    expect([r, b]).toEqual([0, 255]);

    // A function of the attributes, then none; what it hides can neither be seen nor picked.
    await page.evaluate(() => window.map.layers.filter('l', ({ n }) => Number(n) > 2));
    expect(await keysAt(-6, 3)).toEqual([]);
    expect(await keysAt(0, -4)).toEqual(['d']);
    const [gone] = await pixels(stage, round(await at(-6, 3)));
    expect(gone).toEqual([255, 255, 255]);
    await page.evaluate(() => window.map.layers.filter('l'));
    expect(await keysAt(-6, 3)).toEqual(['a']);
    await page.evaluate(() => window.map.layers.filter('l', "kind = 'x'"));
    expect(await keysAt(-6, 3)).toEqual([]);
    expect(await keysAt(4, 5)).toEqual(['c']);

    const refused = await page.evaluate(() =>
      window.map.edit('l', { move: { zz: [0, 0] } }).then(
        () => 'taken',
        (error: { code: string; hint: string }) => [error.code, error.hint],
      ),
    );
    expect(refused).toEqual(['edit.key', 'Name features by their attribute "id".']);
    expect(kind).toBeTruthy();
  });

  test('an address is fetched again, states are told, and the drawer says them', async () => {
    const { page } = stage;
    let answer: { status: number; body: object } = { status: 200, body: collection(point(0, 0, { id: 'a' })) };
    let asked = 0;
    const server = createServer((_request, response) => {
      asked++;
      response.writeHead(answer.status, { 'Access-Control-Allow-Origin': '*', 'Content-Type': 'application/json' });
      response.end(JSON.stringify(answer.body));
    });
    await new Promise<void>((resolve) => server.listen(0, 'localhost', resolve));
    const features = `http://localhost:${(server.address() as AddressInfo).port}/live.json`;
    try {
      await openMap(stage, {
        ...empty,
        data: { d: { features, id: 'id', refresh: 1 } },
        layers: [{ id: 'l', title: 'Live', of: 'd', mark: { size: 24, color: '#ff0000' } }],
      });
      await page.evaluate(() => void new window.flintwright.Drawer(window.map));
      expect(await keysAt(0, 0)).toEqual(['a']);
      expect(await page.evaluate(() => window.map.dataState('d'))).toBe('ready');
      answer = { status: 200, body: collection(point(3, 0, { id: 'b' })) };
      await page.waitForFunction(() => window.map.pick(window.map.toPixel([3, 0])).length === 1);
      expect(await keysAt(0, 0)).toEqual([]);
      answer = { status: 200, body: collection() };
      await page.waitForFunction(() => document.querySelector('.flint-layer small')?.textContent === 'no data');
      answer = { status: 404, body: {} };
      await page.waitForFunction(() => document.querySelector('.flint-layer small')?.textContent === 'failed to load');
      answer = { status: 200, body: collection(point(3, 0, { id: 'b' })) };
      await page.waitForFunction(() => window.map.dataState('d') === 'ready');
      const before = asked;
      await page.evaluate(() => window.map.remove());
      await page.waitForTimeout(1300);
      expect(asked).toBe(before);
    } finally {
      server.close();
    }
  });

  test('bookmarks come from the sheet and from people, and the drawer goes there', async () => {
    const { page } = stage;
    await openMap(stage, { ...empty, bookmarks: { Quay: { center: [10, 5], zoom: 7 } } });
    await page.evaluate(() => {
      window.map.bookmarks.keep('Here');
      void new window.flintwright.Drawer(window.map);
    });
    expect(await page.locator('.flint-view').allTextContents()).toEqual(['Quay', 'Here']);
    await page.getByRole('button', { name: 'Quay' }).click();
    await settled(stage);
    expect(await page.evaluate(() => [window.map.view.center, window.map.view.zoom])).toEqual([[10, 5], 7]);
    await page.evaluate(() => window.map.bookmarks.go('Here', { duration: 0 }));
    expect(await page.evaluate(() => window.map.view.center)).toEqual([0, 0]);
    const hint = await page.evaluate(() => {
      try {
        void window.map.bookmarks.go('Quai');
      } catch (error) {
        return (error as { hint: string }).hint;
      }
    });
    expect(hint).toBe('Did you mean "Quay"?');
  });
});
