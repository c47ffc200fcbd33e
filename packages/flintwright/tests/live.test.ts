// What changes while the map is up: markers of all kinds, popups made by functions, edited features, filters, keys, and the keyboard.
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import type { Marker, Sheet } from 'flintwright';
import { box, collection, countPixels, faultsOf, openMap, pixels, point, settled, useStage } from './harness.ts';

const stage = useStage();
const empty: Sheet = { sheet: 1, background: '#ffffff', layers: [] };
const at = (lon: number, lat: number) =>
  stage.page.evaluate(([x, y]) => window.map.toPixel([x, y]), [lon, lat] as const);
const round = ([x, y]: readonly number[]): [number, number] => [Math.round(x), Math.round(y)];

describe('markers', () => {
  test('bear icons, texts, pictures, outlines and elements of the application’s own; the wrong is refused', async () => {
    const { page } = stage;
    await openMap(stage, empty);
    await page.evaluate(() => {
      const { markers } = window.map;
      const own = Object.assign(document.createElement('div'), { textContent: 'Own', id: 'own' });
      own.style.cssText = 'width:40px;height:20px;background:#00f;color:#fff';
      markers.add({ at: [-8, 0], text: '7', color: '#ff0000', ink: '#ffffff', size: 60 });
      markers.add({ at: [-4, 0], shape: 'anchor', color: '#00aa00', size: 40 });
      markers.add({ at: [0, 0], element: own, title: 'Own thing' });
      markers.add({
        at: [4, 0],
        image:
          'data:image/svg+xml,<svg xmlns="http://www.w3.org/2000/svg" width="30" height="30"><rect width="30" height="30" fill="rgb(200,0,200)"/></svg>',
        size: 30,
        title: 'Picture',
      });
    });
    await settled(stage);
    await page.waitForTimeout(150);
    const [[tx, ty], [ex, ey], [px, py]] = [await at(-8, 0), await at(0, 0), await at(4, 0)];
    const [shard, element, picture] = await pixels(
      stage,
      [Math.round(tx) - 12, Math.round(ty) - 34],
      [Math.round(ex) - 17, Math.round(ey) - 3],
      round([px, py - 15]),
    );
    expect(shard).toEqual([255, 0, 0]);
    expect(element).toEqual([0, 0, 255]);
    expect(picture).toEqual([200, 0, 200]);
    expect(await page.locator('.flint-marker img').getAttribute('alt')).toBe('Picture');
    const codes = await page.evaluate(() =>
      [{ icon: 'nope' }, { text: 'four' }, { color: 'redd' }, { size: -3 }, { at: [44, 131] }].map((wrong) => {
        try {
          window.map.markers.add({ at: [0, 0], ...wrong } as never);
          return 'taken';
        } catch (error) {
          return (error as { code: string }).code;
        }
      }),
    );
    expect(codes).toEqual(['marker.icon', 'marker.text', 'marker.color', 'marker.size', 'place.swapped']);
    expect(await page.evaluate(() => window.map.markers.size)).toBe(4);
    await page.evaluate(() => window.map.markers.clear());
    expect(await page.locator('.flint-marker').count()).toBe(0);
  });

  test('are dragged by the pointer and pushed by keys, say where they went, and carry their popup along', async () => {
    const { page } = stage;
    await openMap(stage, empty);
    await page.evaluate(() => {
      const moves: [number, number, boolean][] = ((window as unknown as { moves: unknown }).moves = [] as never);
      window.map.markers.add({
        at: [0, 0],
        title: 'Buoy 4',
        description: 'unlit',
        draggable: true,
        onMove: ([lon, lat], done) => moves.push([lon, lat, done]),
      });
    });
    await settled(stage);
    const [x, y] = await at(0, 0);
    await page.mouse.move(x, y - 18);
    await page.mouse.down();
    await page.mouse.move(x + 60, y + 12, { steps: 4 });
    await page.mouse.up();
    await settled(stage);
    const moves = await page.evaluate(() => (window as unknown as { moves: [number, number, boolean][] }).moves);
    const [lon, lat, done] = moves[moves.length - 1];
    expect(done).toBe(true);
    const [nx, ny] = await at(lon, lat);
    expect([nx, ny]).toEqual([expect.closeTo(x + 60, 0), expect.closeTo(y + 30, 0)]);
    // The map itself has not moved.
    expect(await page.evaluate(() => window.map.view.center)).toEqual([0, 0]);

    // By keyboard: Tab from the map, Enter opens, Shift with an arrow pushes, Escape returns.
    await page.evaluate(() => document.querySelector<HTMLElement>('.flint-canvas')!.focus());
    await page.keyboard.press('Tab');
    const list = page.locator('.flint-list');
    expect(await list.locator('[aria-selected=true]').textContent()).toBe('Buoy 4, unlit');
    await page.keyboard.press('Shift+ArrowRight');
    await settled(stage);
    const pushed = await page.evaluate(() => window.map.markers.all[0].at);
    expect((await at(...(pushed as [number, number])))[0]).toBeCloseTo(x + 68, 0);
    await page.keyboard.press('Enter');
    await settled(stage);
    expect(await page.locator('.flint-popup h2').textContent()).toBe('Buoy 4');
    const before = await page.locator('.flint-leader line').getAttribute('x1');
    await page.evaluate(() => window.map.markers.all[0].change({ at: [5, 0] }));
    await settled(stage);
    expect(await page.locator('.flint-leader line').getAttribute('x1')).not.toBe(before);
    await page.keyboard.press('Escape');
    expect(await page.locator('.flint-popup').count()).toBe(0);
  });

  test('give way by priority: some hide, some shrink, the map’s labels too', async () => {
    const { page } = stage;
    const sheet: Sheet = {
      ...empty,
      data: { d: { features: collection(point(0, 0, { name: 'Beneath' }), point(6, 4, { name: 'Free' })) } },
      layers: [{ id: 'l', of: 'd', label: { text: { is: 'name' } } }],
    };
    await openMap(stage, sheet);
    await settled(stage);
    expect([...(await page.evaluate(() => window.map.labelTexts))].sort()).toEqual(['Beneath', 'Free']);
    await page.evaluate(() => {
      const { markers } = window.map;
      markers.add({ at: [0, -0.4], color: '#ff0000', priority: 2 });
      markers.add({ at: [0.3, -0.4], color: '#0000ff', priority: 1, crowded: 'hide' });
      markers.add({ at: [-0.3, -0.4], color: '#00ff00', priority: 1, crowded: 'shrink' });
    });
    await settled(stage);
    expect(await page.evaluate(() => window.map.labelTexts)).toEqual(['Free']);
    const [red, green, blue] = await countPixels(stage, [255, 0, 0], [0, 255, 0], [0, 0, 255]);
    expect(blue).toBe(0);
    expect(green).toBeGreaterThan(20);
    expect(red).toBeGreaterThan(3 * green);
  });

  test('those lower on the screen, and of one row the later ones, lie on top; so it stays through moves and a lost context', async () => {
    const { page } = stage;
    await openMap(stage, empty);
    await page.evaluate(() => {
      const { markers } = window.map;
      const add = (at: [number, number], color: string) => markers.add({ at, color, size: 80, anchor: 'center' });
      // Of one row: red, then green over it. Of two: blue, added first, lies lower and so over yellow.
      const red = add([-6, 0], '#ff0000');
      const green = add([-5, 0], '#00ff00');
      const blue = add([5, -0.6], '#0000ff');
      const yellow = add([5, 0.6], '#ffff00');
      Object.assign(window, { red, green, blue, yellow });
    });
    const seen = async () => {
      await settled(stage);
      const places = await page.evaluate(() =>
        (
          [
            [-5.6, 0],
            [5, 0],
          ] as [number, number][]
        ).map((at) => window.map.toPixel(at).map(Math.round)),
      );
      return pixels(stage, ...(places as [number, number][]));
    };
    expect(await seen()).toEqual([
      [0, 255, 0],
      [0, 0, 255],
    ]);

    type Four = Record<'red' | 'green' | 'blue' | 'yellow', Marker>;
    await page.evaluate(() => {
      const { red, blue, yellow } = window as unknown as Four;
      // Red goes away and comes back to where it stood; blue and yellow change places.
      red.change({ at: [-6, 8] });
      red.change({ at: [-6, 0] });
      blue.change({ at: [5, 0.6] });
      yellow.change({ at: [5, -0.6] });
    });
    expect(await seen()).toEqual([
      [0, 255, 0],
      [255, 255, 0],
    ]);

    // What goes leaves its place to the next that comes; what it looked like goes with it.
    await page.evaluate(() => {
      const { green, yellow } = window as unknown as Four;
      green.remove();
      yellow.change({ color: '#ff00ff' });
      window.map.markers.add({ at: [9, 5], color: '#00ffff', icon: 'anchor', size: 30 });
    });
    const after = [
      [255, 0, 0],
      [255, 0, 255],
    ];
    expect(await seen()).toEqual(after);
    expect(await page.evaluate(() => window.map.markers.all.length)).toBe(4);
    // What was removed moves nothing any more, not even what has come into its place.
    await page.evaluate(() => (window as unknown as Four).green.change({ at: [0, 9], color: '#000000' }));
    expect(await seen()).toEqual(after);
    expect(await countPixels(stage, [0, 255, 255])).not.toEqual([0]);
    await page.evaluate(async () => {
      const lose = document.querySelector('canvas')!.getContext('webgl2')!.getExtension('WEBGL_lose_context')!;
      lose.loseContext();
      await new Promise((resolve) => setTimeout(resolve, 100));
      lose.restoreContext();
      await new Promise((resolve) => setTimeout(resolve, 100));
    });
    expect(await seen()).toEqual(after);
  });

  test('four hundred that come, go and move look as if they had been put there afresh', async () => {
    const { page } = stage;
    await openMap(stage, empty);
    const same = await page.evaluate(async () => {
      const { map } = window;
      let seed = 5;
      const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
      const options = () => ({
        at: [random() * 16 - 8, random() * 10 - 5] as [number, number],
        color: `hsl(${Math.round(random() * 360)} 60% 50%)`,
        size: 12 + Math.round(random() * 20),
        ...(random() < 0.3 ? { icon: 'anchor' } : {}),
        ...(random() < 0.2 ? { crowded: 'shrink' as const, priority: Math.round(random() * 3) } : {}),
      });
      const markers = Array.from({ length: 400 }, () => map.markers.add(options()));
      for (let round = 0; round < 5; round++) {
        for (const marker of markers) if (random() < 0.6) marker.change({ at: options().at });
        for (const marker of markers) if (random() < 0.1) marker.change({ color: '#123456', size: 18 });
        for (const marker of markers.splice(0, 30)) marker.remove();
        for (let i = 0; i < 30; i++) markers.push(map.markers.add(options()));
        await map.move({ center: [random(), random()], zoom: 5 + random() });
        await map.settled();
      }
      const picture = async () => {
        await map.settled();
        return new Uint8Array(await (await map.picture()).arrayBuffer()).join();
      };
      const before = await picture();
      const asTheyStand = map.markers.all.map(({ options, at }) => ({ ...options, at }));
      map.markers.clear();
      const none = await picture();
      for (const one of asTheyStand) map.markers.add(one);
      const afresh = await picture();
      return { equal: before === afresh, drawn: before !== none, count: map.markers.size };
    });
    expect(same).toEqual({ equal: true, drawn: true, count: 400 });
  });
});

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
});

describe('what is framed', () => {
  test('stands beside controls and panels, not beneath them; what covers nearly all is no reason to shrink', async () => {
    const { page } = stage;
    await openMap(stage, empty);
    const corners: [number, number][] = [
      [10, 10],
      [30, 10],
      [30, 20],
      [10, 20],
    ];
    const framed = (options: object = {}) =>
      page.evaluate(
        async ([places, given]) => {
          const { map } = window;
          await map.frame(places as [number, number][], { duration: 0, zoom: 22, ...(given as object) });
          const box = map.host.getBoundingClientRect();
          const spots = (places as [number, number][]).map((place) => map.toPixel(place));
          const [xs, ys] = [spots.map(([x]) => x), spots.map(([, y]) => y)];
          return [Math.min(...xs), Math.min(...ys), box.width - Math.max(...xs), box.height - Math.max(...ys)].map(
            Math.round,
          );
        },
        [corners, options] as const,
      );
    // Width decides: what is left over above and below is shared.
    const [left, top, right, bottom] = await framed();
    expect([left, right, top - bottom]).toEqual([40, 40, 0]);
    await page.evaluate(() => {
      const panel = document.createElement('div');
      panel.id = 'panel';
      panel.style.cssText = 'position:fixed;left:0;top:0;width:220px;height:420px;background:#123';
      document.body.append(panel);
      Object.assign(window, { letGo: window.map.keepClear(panel) });
      new window.flintwright.Rail(window.map);
      new window.flintwright.ScaleBar(window.map);
    });
    const rail = (await page.locator('.flint-rail').boundingBox())!;
    const beside = await framed();
    expect(beside[0]).toBe(260);
    expect(beside[2]).toBe(Math.round(800 - rail.x + 40));
    // A given pad is counted from what is clear, side by side.
    expect((await framed({ padding: { left: 10, right: 0 } }))[0]).toBe(230);
    // At the top a low panel costs less than at the side.
    await page.evaluate(() => {
      document.getElementById('panel')!.style.cssText =
        'position:fixed;left:0;top:0;width:700px;height:60px;background:#123';
    });
    const below = await framed({ padding: 0 });
    expect([below[0], below[1] >= 60]).toEqual([0, true]);
    await page.evaluate(() => {
      document.getElementById('panel')!.style.cssText = 'position:fixed;inset:20px;background:#123';
    });
    expect((await framed())[0]).toBe(40);
    await page.evaluate(() => (window as unknown as { letGo: { remove(): void } }).letGo.remove());
    expect((await framed())[0]).toBe(40);
  });
});

describe('popups', () => {
  test('come from a function, by press or hover, and go back to the sheet’s', async () => {
    const { page } = stage;
    const sheet: Sheet = {
      ...empty,
      data: { d: { features: collection(box(-3, -3, 6, { name: 'Bed', tonnes: 12 }, 1)) } },
      layers: [{ id: 'beds', of: 'd', fill: '#5fa8a0', popup: { title: 'name' } }],
    };
    await openMap(stage, sheet);
    await settled(stage);
    await page.evaluate(() => {
      (window as unknown as { own: { remove(): void } }).own = window.map.popupFor('beds', ({ properties }) => ({
        title: `${String(properties.name)} of ${String(properties.tonnes)} t`,
        html: '<b id="bold">made here</b>',
      }));
    });
    const [x, y] = await at(0, 0);
    await page.mouse.click(x, y);
    expect(await page.locator('.flint-popup h2').textContent()).toBe('Bed of 12 t');
    expect(await page.locator('.flint-popup b').textContent()).toBe('made here');
    await page.evaluate(() => {
      window.map.popupFor('beds', () => ({ title: 'Hovered' }), { on: 'hover' });
    });
    await page.mouse.click(20, 20);
    await page.mouse.move(x, y);
    await page.waitForSelector('.flint-popup');
    expect(await page.locator('.flint-popup h2').textContent()).toBe('Hovered');
    await page.mouse.move(20, 20);
    await settled(stage);
    expect(await page.locator('.flint-popup').count()).toBe(0);
  });
});

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
      await page.waitForFunction(() => document.querySelector('.flint-layer small')?.textContent === 'nothing in it');
      answer = { status: 404, body: {} };
      await page.waitForFunction(
        () => document.querySelector('.flint-layer small')?.textContent === 'could not be loaded',
      );
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

describe('keys', () => {
  test('a hook of one host opens the tiles; without it the map says so plainly', async () => {
    const { page } = stage;
    await page.goto(`${stage.base}/key/`);
    await page.waitForFunction(() => window.map?.settled);
    await settled(stage);
    expect(await page.evaluate(() => window.map.labelTexts.length)).toBeGreaterThan(3);
    expect(await page.locator('.flint-notice').count()).toBe(0);

    const sheet: Sheet = {
      ...empty,
      data: { reach: { tiles: `${stage.base}/tiles/reach.json` } },
      layers: [{ id: 'land', of: 'reach/land', fill: '#888888' }],
    };
    await openMap(stage, sheet, { center: [-31.15, 44.618], zoom: 13 });
    await settled(stage);
    expect(await faultsOf(stage)).toEqual([
      { code: 'request.refused', hint: 'Add a valid key or header in the map\'s "request" hook.' },
    ]);
    expect(await page.locator('.flint-notice').textContent()).toContain('was refused (401)');
    const wrong = await fetch(`${stage.base}/tiles/reach.json?key=guess`);
    expect([wrong.status, await wrong.json()]).toEqual([403, { message: 'this key opens nothing here' }]);
  });
});

describe('the keyboard', () => {
  test('goes through clusters and features in view, opens and frames them', async () => {
    const { page } = stage;
    await openMap(stage, {
      ...empty,
      data: {
        d: {
          features: collection(point(-6, 0, { n: 'a' }, 1), point(-5.8, 0, { n: 'b' }, 2)),
          cluster: { within: 40 },
        },
        e: { features: collection(box(2, 1, 2, { name: 'East bed' }, 1), box(5, 4, 2, { name: 'Far bed' }, 2)) },
      },
      layers: [
        { id: 'beds', of: 'e', fill: '#5fa8a0', popup: { title: 'name' } },
        { id: 'p', title: 'Points', of: 'd', mark: {}, popup: { title: 'n' } },
      ],
    });
    await settled(stage);
    await page.evaluate(() => document.querySelector<HTMLElement>('.flint-canvas')!.focus());
    await page.keyboard.press('Tab');
    const chosen = () => page.locator('.flint-list [aria-selected=true]').textContent();
    expect(await page.locator('.flint-list [role=option]').allTextContents()).toEqual([
      'East bed',
      '2 together: Points',
      'Far bed',
    ]);
    expect(await chosen()).toBe('East bed');
    await page.keyboard.press('Enter');
    await settled(stage);
    expect(await page.locator('.flint-popup h2').textContent()).toBe('East bed');
    await page.keyboard.press('Escape');
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('Enter');
    await settled(stage);
    expect(await page.evaluate(() => window.map.view.zoom)).toBeGreaterThan(7);
    await page.keyboard.press('Escape');
    expect(await page.evaluate(() => document.activeElement?.className)).toBe('flint-canvas');
  });
});

describe('the element', () => {
  test('its manifest names what the element has, and properties and attributes are one', async () => {
    const { page } = stage;
    const manifest = JSON.parse(readFileSync(new URL('../custom-elements.json', import.meta.url), 'utf8')) as {
      modules: { declarations: { tagName: string; attributes?: { name: string }[]; members?: { name: string }[] }[] }[];
    };
    await page.goto(`${stage.base}/plain/`);
    await page.waitForFunction(() => document.querySelector('flint-map')?.map);
    const { declarations } = manifest.modules[0];
    const found = await page.evaluate(
      (list) =>
        list.map(([tag, names]) => {
          const kind = customElements.get(tag) as unknown as { prototype: object; observedAttributes?: string[] };
          const observed = kind?.observedAttributes ?? [];
          return [tag, names.filter((name) => !(name in kind.prototype)), observed];
        }),
      declarations.map(({ tagName, members = [] }) => [tagName, members.map(({ name }) => name)] as [string, string[]]),
    );
    for (const [tag, missing, observed] of found as [string, string[], string[]][]) {
      expect([tag, missing]).toEqual([tag, []]);
      const named = declarations.find(({ tagName }) => tagName === tag)!.attributes?.map(({ name }) => name) ?? [];
      expect(observed.filter((name) => !named.includes(name))).toEqual([]);
    }
    await page.evaluate(async () => {
      const map = document.querySelector('flint-map')!;
      map.zoom = 12;
      map.surface = 'EPSG:32625';
      const popup = document.createElement('flint-popup');
      Object.assign(popup, { at: '-31.16, 44.62', title: 'Here', innerHTML: '<i>text</i>' });
      map.append(popup);
      await new Promise((resolve) => setTimeout(resolve, 600));
      await map.map!.settled();
    });
    expect(await page.locator('flint-map').getAttribute('zoom')).toBe('12');
    await page.waitForFunction(() => document.querySelector('flint-map')!.map!.surface === 'EPSG:32625');
    await page.evaluate(() => document.querySelector('flint-map')!.map!.settled());
    // The same scale on the ground as at zoom 12 of web Mercator.
    expect(await page.evaluate(() => document.querySelector('flint-map')!.map!.view.zoom)).toBeCloseTo(12.49, 1);
    const popup = page.locator('flint-map .flint-popup');
    expect(await popup.locator('h2').textContent()).toBe('Here');
    await popup.getByRole('button').click();
    expect(await page.locator('flint-popup').count()).toBe(0);
  });
});
