// However a map came to show what it shows, it shows the same as a map that begins with it: journeys of chance through everything that
// changes a map, each compared pixel by pixel with a map made anew.
import { describe, expect, test } from '@jest/globals';
import type { FlintMap, Sheet, SheetData, SheetLayer } from 'flintwright';
import { box, collection, faultsOf, line, openMap, point, useStage } from './harness.ts';

const stage = useStage();

/** The square that journeys take place in, degrees either way of the middle. */
const reach = 8;

function features(kind: 'areas' | 'lines' | 'points', seed: number): object {
  let state = seed;
  const random = () => (state = (state * 48271) % 2147483647) / 2147483647;
  const place = () => Math.round((random() * 2 - 1) * reach * 100) / 100;
  const made = Array.from({ length: 14 }, (_, i) => {
    const properties = { kind: 'abc'[i % 3], size: Math.round(random() * 20) };
    const [x, y] = [place(), place()];
    if (kind === 'areas') return box(x, y, 0.6 + random() * 3, properties, i + 1);
    if (kind === 'points') return point(x, y, properties, i + 1);
    return line(
      Array.from({ length: 4 }, () => [place(), place()]),
      properties,
      i + 1,
    );
  });
  return collection(...made);
}

const symbols: Record<string, Partial<SheetLayer>[]> = {
  areas: [
    { fill: '#5fa8a0' },
    { fill: { color: { by: 'kind', categories: ['a', 'b', 'c'], scheme: 'Set2' }, opacity: 0.6 }, stroke: '#22303a' },
    { fill: { color: '@own', hatch: { color: '#22303a', gap: 6, width: 2 } } },
    {
      fill: {
        color: {
          by: 'size',
          ramp: [
            [0, '#ffffff'],
            [20, '@own'],
          ],
        },
      },
    },
    {
      stroke: [
        { color: '#ffffff', width: 7 },
        { color: '@own', width: 3, dash: [6, 3] },
      ],
    },
    { extrusion: { top: 90000, color: '#d98a2b' } },
  ],
  lines: [
    { stroke: { color: '@own', width: 4 } },
    {
      stroke: {
        color: '#22303a',
        width: {
          by: 'zoom',
          ramp: [
            [3, 1],
            [8, 12],
          ],
        },
        opacity: 0.5,
      },
    },
    {
      stroke: {
        gradient: {
          ramp: [
            [0, '#ff0000'],
            [1, '#0000ff'],
          ],
        },
        width: 6,
      },
    },
  ],
  points: [
    { mark: { size: 14, color: '@own' } },
    {
      mark: {
        icon: 'anchor',
        size: {
          by: 'size',
          ramp: [
            [0, 8],
            [20, 30],
          ],
        },
        color: '#7b3f8c',
      },
    },
  ],
} as unknown as Record<string, Partial<SheetLayer>[]>;

const start: Sheet = {
  sheet: 1,
  background: '#e9f0f1',
  palette: { own: '#2b6cb0' },
  data: {
    areas: { features: features('areas', 7) },
    lines: { features: features('lines', 11) },
    points: { features: features('points', 13) },
    flock: { features: features('points', 19), cluster: { within: 50, until: 9, sum: { weight: 'size' } } },
  },
  layers: [
    { id: 'first', of: 'areas', fill: '#c9dfc0' },
    { id: 'second', of: 'lines', stroke: { color: '@own', width: 2 } },
    { id: 'third', of: 'points', mark: { size: 10, color: '#b8473c' } },
    { id: 'fourth', of: 'flock', mark: { size: 12, color: '@own' } },
  ],
};

/** Walks `steps` steps of chance in the page, then tells what a map made anew must be given to show the same. */
async function walk(seed: number, steps: number): Promise<{ journey: string[]; apart: number; drawn: boolean }> {
  return stage.page.evaluate(
    async (given: unknown) => {
      const { seed, steps, symbols, reach, ground } = given as {
        seed: number;
        steps: number;
        symbols: Record<string, object[]>;
        reach: number;
        ground: object;
      };
      let { map } = window;
      let state = seed;
      const random = () => (state = (state * 48271) % 2147483647) / 2147483647;
      const chosen = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)];
      const states = { hot: { fill: { color: '#ff3300' }, stroke: { color: '#ff3300' }, mark: { color: '#ff3300' } } };
      const withStates = (look: object) => {
        const parts = Object.keys(look).filter((part) => part in states.hot) as (keyof typeof states.hot)[];
        // A state redefines what a layer has; a list of strokes is left alone.
        const can = parts.filter((part) => !Array.isArray((look as Record<string, unknown>)[part]));
        return {
          ...look,
          ...(can.length && !('extrusion' in look)
            ? { states: { hot: Object.fromEntries(can.map((part) => [part, states.hot[part]])) } }
            : {}),
        };
      };
      const flags = new Map<string, [string, string]>();
      const tests = new Map<string, string>();
      const passing: Record<string, (attributes: Record<string, unknown>) => boolean> = {
        notA: ({ kind }) => kind !== 'a',
        large: ({ size }) => Number(size) > 9,
      };
      const journey: string[] = [];
      // What edits have made of the points.
      type Point = { id: number; geometry: { coordinates: [number, number] } };
      const held = (data: string) =>
        structuredClone((map.sheet.data![data].features as unknown as { features: Point[] }).features);
      const edited: Record<string, Point[]> = { points: held('points'), flock: held('flock') };
      let made = 0;
      const layers = () => map.layers.all.map(({ id }) => id);
      const kindOf = (id: string) => map.layers.require(id).of.replace('flock', 'points');
      const moves: Record<string, () => unknown> = {
        add: () => {
          const kind = chosen(['areas', 'lines', 'points']);
          const id = `layer ${++made}`;
          const before = random() < 0.5 && layers().length ? chosen(layers()) : undefined;
          map.layers.add(
            { id, of: kind, ...withStates(chosen(symbols[kind])) } as never,
            before === undefined ? {} : { below: before },
          );
        },
        remove: () => {
          if (layers().length < 3) return;
          const id = chosen(layers());
          tests.delete(id);
          map.layers.remove(id);
        },
        restyle: () => {
          const id = chosen(layers());
          map.layers.change(id, {
            fill: undefined,
            stroke: undefined,
            mark: undefined,
            extrusion: undefined,
            states: undefined,
            ...withStates(chosen(symbols[kindOf(id)])),
          } as never);
        },
        hide: () => map.layers.show(chosen(layers()), random() < 0.6),
        fade: () => map.layers.change(chosen(layers()), { opacity: chosen([0.3, 0.7, 1]) }),
        order: () => {
          const [id, before] = [chosen(layers()), chosen(layers())];
          if (id !== before) map.layers.move(id, { below: before });
        },
        where: () => {
          const id = chosen(layers());
          tests.delete(id);
          map.layers.filter(id, chosen([undefined, "kind = 'a'", 'size > 10', "kind IN ('b', 'c') AND size < 15"]));
        },
        test: () => {
          const [id, name] = [chosen(layers()), chosen(Object.keys(passing))];
          tests.set(id, name);
          map.layers.filter(id, passing[name]);
        },
        flag: () => {
          const [data, key] = [chosen(['areas', 'lines', 'points', 'flock']), String(1 + Math.floor(random() * 14))];
          const on = random() < 0.7;
          map.flag({ data, key }, 'hot', on);
          if (on) flags.set(`${data} ${key}`, [data, key]);
          else flags.delete(`${data} ${key}`);
        },
        edit: async () => {
          const id = layers().find((other) => ['points', 'flock'].includes(map.layers.require(other).of));
          const data = id && map.layers.require(id).of;
          if (!id || !data || map.dataState(data) !== 'ready') return;
          const list = edited[data];
          const keys = list.map((feature) => String(feature.id));
          const place = (): [number, number] => [(random() * 2 - 1) * reach, (random() * 2 - 1) * reach];
          const what = chosen(['put', 'again', 'move', 'remove']);
          if (what === 'move') {
            const [key, to] = [chosen(keys), place()];
            list.find((feature) => String(feature.id) === key)!.geometry.coordinates = to;
            await map.edit(id, { move: { [key]: to } });
          } else if (what === 'remove') {
            const key = chosen(keys);
            edited[data] = list.filter((feature) => String(feature.id) !== key);
            await map.edit(id, { remove: [key] });
          } else {
            const like = structuredClone(chosen(list));
            if (what === 'put') like.id = 100 + ++made;
            like.geometry.coordinates = place();
            // What is put in the place of another comes last.
            edited[data] = [...list.filter((feature) => feature.id !== like.id), like];
            await map.edit(id, { put: { type: 'FeatureCollection', features: [like] } });
          }
        },
        palette: () => map.setPalette({ own: chosen(['#2b6cb0', '#9b2c2c', '#276749']) }, { duration: 0 }),
        // Another sheet with features of its own: what edits made of the old ones goes with them.
        ground: () => {
          const background = chosen(['#e9f0f1', '#dfe7c9', '#101820']);
          map.setSheet({ ...(structuredClone(ground) as typeof map.sheet), background }, { duration: 0 });
          Object.assign(edited, { points: held('points'), flock: held('flock') });
        },
        view: () =>
          map.move({
            center: [(random() - 0.5) * reach, (random() - 0.5) * reach],
            zoom: 3.5 + random() * 4,
            bearing: random() < 0.5 ? 0 : random() * 360 - 180,
            tilt: random() < 0.6 ? 0 : random() * 50,
          }),
        pause: () => map.settled(),
        surface: () => map.setSurface(chosen(['EPSG:3857', 'EPSG:3857', 'globe', 'EPSG:4326']), { duration: 0 }),
        lose: async () => {
          // The context is the map's to make.
          while (!map.lastFrame.cpu) await new Promise((resolve) => requestAnimationFrame(resolve));
          const lose = map.host.querySelector('canvas')!.getContext('webgl2')!.getExtension('WEBGL_lose_context')!;
          lose.loseContext();
          await new Promise((resolve) => setTimeout(resolve, 60));
          lose.restoreContext();
          await new Promise((resolve) => setTimeout(resolve, 60));
        },
      };
      const names = Object.keys(moves);
      for (let step = 0; step < steps; step++) {
        const name = chosen(names);
        journey.push(name);
        await moves[name]();
        if (random() < 0.3) await map.settled();
      }
      const picture = async (of: FlintMap): Promise<Uint8ClampedArray> => {
        await of.settled();
        const image = await createImageBitmap(await of.picture());
        const context = new OffscreenCanvas(image.width, image.height).getContext('2d')!;
        context.drawImage(image, 0, 0);
        return context.getImageData(0, 0, image.width, image.height).data;
      };
      // How many pixels are told apart by the eye; where letters lie in their atlas may make for a shade.
      const apart = (one: Uint8ClampedArray, other: Uint8ClampedArray) => {
        let count = one.length === other.length ? 0 : Infinity;
        for (let i = 0; i < one.length; i++) if (Math.abs(one[i] - other[i]) > 12) count++;
        return count;
      };
      if (map.layers.all.every(({ visible }) => visible === false)) map.layers.show(layers()[0]);
      const reached = await picture(map);
      const { sheet, view } = map;
      map.remove();
      // Its own surface takes a view over; here it is to be just what it was.
      const data = Object.fromEntries(
        Object.entries(sheet.data!).map(([name, entry]) => [
          name,
          edited[name]
            ? ({ ...entry, features: { type: 'FeatureCollection', features: edited[name] } } as SheetData)
            : entry,
        ]),
      );
      map = window.map = window.flintwright.createMap('#map', {
        sheet: { ...sheet, data, view: { ...sheet.view, ...view } },
        view,
      });
      map.addEventListener('fault', (event) => window.faults.push((event as CustomEvent).detail));
      for (const [id, name] of tests) map.layers.filter(id, passing[name]);
      for (const [data, key] of flags.values()) map.flag({ data, key }, 'hot');
      const anew = await picture(map);
      for (const id of layers()) map.layers.hide(id);
      const bare = await picture(map);
      return { journey, apart: apart(reached, anew), drawn: apart(anew, bare) > 0 };
    },
    { seed, steps, symbols, reach, ground: start } as unknown,
  );
}

describe('a map that was changed in every way shows what a map made anew shows', () => {
  test.each([3, 507, 1021, 1035, 1091, 1105, 1196, 1224, 1336, 1364])('journey %i', async (seed) => {
    await stage.page.emulateMedia({ reducedMotion: 'reduce' });
    await openMap(stage, start, { center: [0, 0], zoom: 5 }, {}, [420, 320]);
    const walked = await walk(seed, 24);
    expect(walked).toEqual({ journey: walked.journey, apart: 0, drawn: true });
    // States that no layer shows are told of; nothing else is wrong with any of this.
    expect((await faultsOf(stage)).map(({ code }) => code).filter((code) => !code.startsWith('flag.'))).toEqual([]);
  });
});

test('what was edited outlives another surface, and an edit made while data come anew is made to the new', async () => {
  const { page } = stage;
  const dots = (...lons: number[]) => collection(...lons.map((lon, i) => point(lon, 0, {}, i + 1)));
  await openMap(
    stage,
    {
      sheet: 1,
      data: { d: { features: dots(-4, 0) } },
      layers: [{ id: 'dots', of: 'd', mark: { size: 12 } }],
    },
    { center: [0, 0], zoom: 5 },
  );
  const seen = () =>
    page.evaluate(async () => {
      const { map } = window;
      await map.settled();
      const found = [-4, -2, 0, 2, 4].filter((lon) => map.pick(map.toPixel([lon, 0]), { within: 2 }).length);
      return [map.surface, ...found];
    });
  expect(await seen()).toEqual(['EPSG:3857', -4, 0]);
  await page.evaluate(() => window.map.edit('dots', { move: { 1: [-2, 0] }, remove: ['2'] }));
  expect(await seen()).toEqual(['EPSG:3857', -2]);
  // The second edit is asked for while the surface is on its way.
  await page.evaluate(async () => {
    const { map } = window;
    const there = map.setSurface('globe', { duration: 0 });
    const put = { type: 'Feature', id: 9, properties: {}, geometry: { type: 'Point', coordinates: [2, 0] } };
    await map.edit('dots', { put });
    await there;
  });
  expect(await seen()).toEqual(['globe', -2, 2]);
  await page.evaluate(() => window.map.setSurface('EPSG:3857', { duration: 0 }));
  expect(await seen()).toEqual(['EPSG:3857', -2, 2]);
  // Other features: the old edits are theirs no more, and one that is made at once is made to them.
  await page.evaluate(
    async (features: unknown) => {
      const { map } = window;
      map.setSheet({ ...map.sheet, data: { d: { features: features as object } } }, { duration: 0 });
      await map.edit('dots', { move: { 2: [4, 0] } });
    },
    dots(-4, -2) as unknown,
  );
  expect(await seen()).toEqual(['EPSG:3857', -4, 4]);
});
