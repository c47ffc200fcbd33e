// Whoever waits for a map is told: `settled()` comes to an end after whatever was asked of it, and all that was asked for is on it then.
import { describe, expect, test } from '@jest/globals';
import type { FlintMap, Sheet } from 'flintwright';
import { box, collection, faultsOf, openMap, pixels, point, useStage } from './harness.ts';
import { isNear, view } from './sheets.ts';

const stage = useStage();

const crowd = Array.from({ length: 60 }, (_, i) =>
  point((i % 10) * 0.2 - 8, Math.floor(i / 10) * 0.2 + 3, { id: `p${i}`, kind: i % 2 ? 'a' : 'b', n: i }),
);
const sheet = {
  sheet: 1,
  background: '#ffffff',
  data: {
    crowd: { features: collection(...crowd), id: 'id', cluster: { within: 60, until: 9, share: 'kind' } },
    land: { features: collection(box(2, -6, 8)) },
  },
  layers: [
    { id: 'land', of: 'land', fill: '#5fa8a0', stroke: { color: '#22303a', width: 2 } },
    { id: 'crowd', of: 'crowd', mark: { size: 12, color: { by: 'kind', categories: { a: '#ff0000', b: '#0000ff' } } } },
  ],
} as unknown as Sheet;

/** Waits for the map; false where it does not come to rest in time. */
const rests = () =>
  stage.page.evaluate(async () => {
    const late = new Promise<boolean>((resolve) => setTimeout(() => resolve(false), 15_000));
    return Promise.race([window.map.settled().then(() => true), late]);
  });

/** What may be asked of a map, by a name. */
const asked: Record<string, (map: FlintMap) => unknown> = {
  'a clustered layer hidden': (map) => map.layers.hide('crowd'),
  'a clustered layer shown again': (map) => map.layers.show('crowd'),
  'a clustered layer changed': (map) => map.layers.change('crowd', { mark: { size: 18 } }),
  'a clustered layer of fewer': (map) => map.layers.change('crowd', { where: 'n < 30' } as never),
  'all of them again': (map) => map.layers.change('crowd', { where: 'n < 999' } as never),
  'another layer of the same clusters': (map) =>
    map.layers.add({ id: 'again', of: 'crowd', where: "kind = 'a'", mark: { size: 6 } } as never),
  'that layer gone': (map) => map.layers.remove('again'),
  'a member moved': (map) => map.edit('crowd', { move: { p3: [-6.5, 3.5] } }),
  'members removed, and others put': (map) =>
    map.edit('crowd', {
      remove: ['p4', 'p5'],
      put: {
        type: 'Feature',
        properties: { id: 'new', kind: 'b', n: 1 },
        geometry: { type: 'Point', coordinates: [-5, 5] },
      },
    }),
  'a layer drawn with an icon of its own': async (map) => {
    await map.icons.add('wedge', 'M2 2L22 2L12 22Z');
    map.layers.add({
      id: 'wedges',
      of: { features: { type: 'Point', coordinates: [-4, -4] } },
      mark: { icon: 'wedge', size: 40, color: '#ff00ff' },
    });
  },
  'the icon gone, and the layer': (map) => {
    map.layers.remove('wedges');
    map.icons.remove('wedge');
  },
  'features in arrays': (map) =>
    map.layers.add({
      id: 'arrays',
      of: { features: { coordinates: Float64Array.of(-4, -4, -3, -4) } },
      mark: { size: 20, color: '#ff00ff' },
    } as never),
  'those gone': (map) => map.layers.remove('arrays'),
  'nothing but the same sheet': (map) => map.setSheet(map.sheet, { whole: true }),
  'a marker that moves, and goes': async (map) => {
    const marker = map.markers.add({ at: [0, 0], icon: 'anchor' });
    marker.change({ at: [1, 1] });
    await new Promise((resolve) => requestAnimationFrame(resolve));
    marker.remove();
  },
  'the globe': (map) => map.setSurface('globe', { duration: 0 }),
  'a move on the globe': (map) => map.move({ center: [-3, 2], zoom: 5.2 }, { duration: 200 }),
  'the plane': (map) => map.setSurface('EPSG:3857', { duration: 0 }),
  'a move that another ends': (map) => {
    void map.move({ center: [3, 2] }, { duration: 900 });
    void map.move({ center: [0, 0], zoom: 5 }, { duration: 0 });
  },
  'data that is not there': (map) =>
    map.layers.add({ id: 'lost', of: { features: '/made-up/nowhere.geojson' }, mark: { size: 5 } } as never),
  'that layer gone, too': (map) => map.layers.remove('lost'),
};

describe('a map comes to rest', () => {
  test('after each of many changes, one after the other', async () => {
    await openMap(stage, sheet, view);
    const stuck: string[] = [];
    expect(await rests()).toBe(true);
    for (const [name, ask] of Object.entries(asked)) {
      await stage.page.evaluate(`(async () => { await (${String(ask)})(window.map); })()`);
      if (!(await rests())) stuck.push(name);
      // It was at rest when it said so: nothing is on its way.
      const again = await stage.page.evaluate(async () => {
        const began = performance.now();
        await window.map.settled();
        return performance.now() - began;
      });
      if (again > 2000) stuck.push(`${name}, asked again`);
    }
    expect(stuck).toEqual([]);
    // All that was taken away is gone, and what stays is there.
    const places = await stage.page.evaluate(() =>
      [
        [4, -3],
        [-4, -4],
      ].map(([x, y]) => window.map.toPixel([x, y])),
    );
    const [land, clear] = await pixels(
      stage,
      ...places.map(([x, y]): [number, number] => [Math.round(x), Math.round(y)]),
    );
    expect([isNear(land, [95, 168, 160]), isNear(clear, [255, 255, 255])]).toEqual([true, true]);
    expect((await faultsOf(stage)).map(({ code }) => code)).toEqual(['request.status']);
  });

  test('after several at once, in whatever order they end', async () => {
    await openMap(stage, sheet, view);
    await stage.page.evaluate(async () => {
      const { map } = window;
      map.layers.hide('crowd');
      map.layers.show('crowd');
      void map.setSurface('globe', { duration: 0 });
      map.layers.change('crowd', { mark: { size: 20 } } as never);
      void map.setSurface('EPSG:3857', { duration: 0 });
      map.layers.add({ id: 'more', of: 'crowd', mark: { size: 4 } } as never);
      void map.move({ zoom: 6 }, { duration: 100 });
      map.layers.remove('more');
    });
    expect(await rests()).toBe(true);
    expect(await faultsOf(stage)).toEqual([]);
  });

  test('where what draws clusters cannot be fetched: it is told, and the rest is drawn', async () => {
    stage.expected = /clusters|import|fetch/i;
    await stage.page.route('**/test/assets/cluster-*.js', (route) => route.abort());
    await openMap(stage, sheet, view);
    expect(await rests()).toBe(true);
    const codes = (await faultsOf(stage)).map(({ code }) => code);
    expect(codes.length).toBeGreaterThan(0);
    expect(codes.every((code) => /^(part\.load|data\.open)$/.test(code))).toBe(true);
    const [x, y] = await stage.page.evaluate(() => window.map.toPixel([4, -3]));
    expect(isNear((await pixels(stage, [Math.round(x), Math.round(y)]))[0], [95, 168, 160])).toBe(true);
  });
});

test('when fonts are there by their state alone, and nobody tells of it', async () => {
  const { page } = stage;
  await openMap(stage, sheet, view);
  expect(await rests()).toBe(true);
  await page.evaluate(() => {
    const until = performance.now() + 700;
    const status = () => (performance.now() < until ? 'loading' : 'loaded');
    Object.defineProperty(document.fonts, 'status', { get: status, configurable: true });
    window.map.addEventListener('settled', () => Object.assign(window, { rested: performance.now() > until }));
    void window.map.move({ zoom: 6 });
  });
  await page.waitForFunction(() => 'rested' in window, undefined, { timeout: 5000 });
  expect(await page.evaluate(() => (window as unknown as { rested: boolean }).rested)).toBe(true);
});

describe('the first picture after settled() is the last', () => {
  const points = { features: collection(...crowd), id: 'id' };
  const path = (...coordinates: number[][]) => ({
    type: 'Feature',
    properties: { name: 'Ilver Line', n: 3 },
    geometry: { type: 'LineString', coordinates },
  });
  const lines = { features: collection(path([-6, -4], [0, 2], [6, -1]), path([-6, 0], [6, 5])) };
  const areas = {
    features: collection(box(2, -6, 8, { name: 'Osier Fen', n: 4 }), box(-9, -6, 6, { name: 'Kiln', n: 9 })),
  };
  const icon = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 24 24"><path d="M2 2L22 2L12 22Z"/></svg>';
  const one = (data: object, layer: object, more: object = {}) =>
    ({
      sheet: 1,
      background: '#ffffff',
      data: { d: data },
      layers: [{ id: 'l', of: 'd', ...layer }],
      ...more,
    }) as unknown as Sheet;
  const clusters = (cluster: object, layer: object = {}) =>
    one({ ...points, cluster: { within: 60, until: 9, ...cluster } }, { mark: { size: 12 }, ...layer });
  const symbols: Record<string, Sheet> = {
    fill: one(areas, { fill: '#5fa8a0' }),
    'fill by value': one(areas, {
      fill: { color: { by: 'n', classes: { method: 'quantile', count: 2, scheme: 'Blues' } } },
    }),
    pattern: one(areas, { fill: { color: '#eeeeee', pattern: { icon: 'square', gap: 12, color: '#334455' } } }),
    stroke: one(lines, { stroke: { color: '#aa3300', width: 5, dash: [8, 4] } }),
    'marks along lines': one(lines, { stroke: { color: '#008000', width: 12, marks: { icon: 'square', gap: 30 } } }),
    mark: one(points, { mark: { size: 14, icon: 'anchor', color: '#aa0000' } }),
    'mark of its own': one(points, { mark: { size: 20, icon: 'wedge', color: '#aa0000' } }, { icons: { wedge: icon } }),
    label: one(points, { mark: { size: 5 }, label: { text: { is: 'id' }, size: 14 } }),
    'label along lines': one(lines, { stroke: '#888888', label: { text: { is: 'name' }, along: true, size: 14 } }),
    'label of areas': one(areas, { fill: '#dddddd', label: { text: { is: 'name' }, size: 14 } }),
    heat: one(points, { heat: { radius: 30 } }),
    extrusion: one(areas, { extrusion: { top: 200_000, color: '#886644' } }, { view: { tilt: 50 } }),
    clusters: clusters({}),
    'clusters by share': clusters(
      { share: 'kind' },
      { mark: { size: 12, color: { by: 'kind', categories: { a: '#ff0000', b: '#0000ff' } } } },
    ),
    'clusters of their own look': clusters(
      {},
      { clusters: { mark: { size: 40, color: '#334455' }, label: { text: { is: 'count' }, color: '#ffffff' } } },
    ),
  };
  const after: Record<string, (map: FlintMap) => unknown> = {
    'cluster elements': (map) =>
      map.clustersAs('l', ({ node }) =>
        Object.assign(document.createElement('b'), { textContent: String(node.count) }),
      ),
    markers: (map) => map.markers.add({ at: [1, 1], icon: 'anchor', text: '7' } as never),
    'element markers': (map) =>
      map.markers.add({
        at: [1, 1],
        element: Object.assign(document.createElement('i'), { textContent: 'here' }),
      } as never),
    popups: (map) => map.popup({ at: [1, 1], title: 'Kiln', text: 'a place' }),
  };
  const cases = [
    ...Object.entries(symbols).map(([name, given]) => [name, given, undefined] as const),
    ...Object.entries(after).map(([name, act]) => [name, symbols['clusters'], act] as const),
  ];

  test.each(cases)('%s', async (_, given, act) => {
    await openMap(stage, given, view);
    if (act) await stage.page.evaluate(`(${String(act)})(window.map) && undefined`);
    const pictures = await stage.page.evaluate(async () => {
      const shot = async () => {
        const bytes = new Uint8Array(await (await window.map.picture()).arrayBuffer());
        return btoa(bytes.reduce((text, byte) => text + String.fromCharCode(byte), ''));
      };
      await window.map.settled();
      return [await shot()];
    });
    const screen = await stage.page.screenshot();
    await stage.page.waitForTimeout(1500);
    const later = await stage.page.screenshot();
    const last = await stage.page.evaluate(async () => {
      const bytes = new Uint8Array(await (await window.map.picture()).arrayBuffer());
      return btoa(bytes.reduce((text, byte) => text + String.fromCharCode(byte), ''));
    });
    expect([pictures[0] === last, screen.equals(later)]).toEqual([true, true]);
    // Something is on it besides the ground.
    expect(screen.length).toBeGreaterThan(2500);
    expect(await faultsOf(stage)).toEqual([]);
  });
});
