import { describe, expect, test } from '@jest/globals';
import type { Marker, Sheet } from 'flintwright';
import { collection, countPixels, openMap, pixels, point, settled, useStage } from './harness.ts';

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

test('elements of markers without a title bear that of their popup', async () => {
  const { page } = stage;
  await openMap(stage, { sheet: 1, layers: [] });
  await page.evaluate(() => {
    const make = (popup: { title: string }) =>
      window.map.markers.add({ at: [0, 0], element: document.createElement('i'), popup });
    make({ title: 'Hallow Quay' }).change({ popup: { title: 'Gannet Ledge' } });
    make({ title: 'Long Strand' }).change({ title: 'Beach' });
  });
  await settled(stage);
  for (const name of ['Gannet Ledge', 'Beach'])
    expect(await page.getByRole('button', { name, exact: true }).count()).toBe(1);
  expect(await page.getByRole('button', { name: /Hallow|Long/ }).count()).toBe(0);
});

test('elements of markers are measured together: the page is laid out once for all, not once for each', async () => {
  await openMap(stage, { sheet: 1, layers: [], background: '#ffffff' }, { center: [0, 0], zoom: 2 });
  await settled(stage);
  const session = await stage.page.context().newCDPSession(stage.page);
  await session.send('Performance.enable');
  const layouts = async () => {
    const { metrics } = await session.send('Performance.getMetrics');
    return metrics.find(({ name }) => name === 'LayoutCount')!.value;
  };
  const before = await layouts();
  await stage.page.evaluate(async () => {
    for (let i = 0; i < 500; i++) {
      const element = document.createElement('div');
      element.textContent = `Mark ${i}`;
      window.map.markers.add({ at: [(i % 25) * 2 - 25, Math.floor(i / 25) * 2 - 20], element });
    }
    await window.map.settled();
  });
  expect((await layouts()) - before).toBeLessThan(30);
  // An element that grows keeps its foot at its place.
  const foot = () =>
    stage.page.evaluate(() => {
      const { left, width, bottom } = document.querySelector('.flint-marker')!.getBoundingClientRect();
      return [Math.round(left + width / 2), Math.round(bottom)];
    });
  const [x, y] = await foot();
  await stage.page.evaluate(async () => {
    const [element] = document.querySelectorAll<HTMLElement>('.flint-marker > div');
    element.style.cssText = 'width: 90px; height: 70px';
    await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(done, 50))));
  });
  const [grownX, grownY] = await foot();
  expect(Math.abs(grownX - x) + Math.abs(grownY - y)).toBeLessThanOrEqual(2);
});
