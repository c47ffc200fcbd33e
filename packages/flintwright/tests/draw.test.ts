// Drawing and correcting in a real browser: by pointer, by touch, by keyboard alone; on every surface; put by and taken up again.
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, test } from '@jest/globals';
import { serveFolder } from '@flintwright/cli';
import { problemsOf } from '@flintwright/core/edit';
import type { Page, Route } from 'playwright-core';
import type { Sheet } from 'flintwright';
import type { DrawBar, EditFeature } from 'flintwright/draw';
import { randomFrom } from '../../core/tests/sample-random.ts';
import { countPixels, faultsOf, openMap, settled, useStage } from './harness.ts';

declare global {
  interface Window {
    bar: DrawBar;
    steps: { name: string; cause: string; changes: { before?: unknown; after?: unknown }[] }[];
  }
}

const stage = useStage();
const plain = { sheet: 1, layers: [], background: '#ffffff' } as Sheet;
const view = { center: [-31.18, 44.62], zoom: 14 };

/** A map with a bar of drawing tools. */
async function openDrawing(options: object = {}, sheet: Sheet = plain, from: object = view): Promise<Page> {
  await openMap(stage, sheet, from);
  await addBar(options);
  return stage.page;
}

const addBar = (options: object) =>
  stage.page.evaluate((given) => {
    window.steps = [];
    window.bar = new window.drawing.DrawBar(window.map, {
      onStep: ({ name, changes }, cause) =>
        window.steps.push({
          name,
          cause,
          changes: changes.map(({ before, after }) => ({ ...(before ? { before } : {}), ...(after ? { after } : {}) })),
        }),
      ...(given as object),
    });
  }, options);

const tool = (page: Page, name: string) => page.getByRole('button', { name, exact: true });
let pressed: [number, number] = [-99, -99];
/** Presses on the map; where it was pressed before, too slowly for a double press. */
const press = async (page: Page, ...at: [number, number][]) => {
  for (const [x, y] of at) {
    if (Math.hypot(x - pressed[0], y - pressed[1]) < 40) await page.waitForTimeout(360);
    await page.mouse.click(x, y);
    // The next press may be on what this one has put there.
    await frame(page);
    pressed = [x, y];
  }
};
const features = (page: Page) => page.evaluate(() => window.bar.features.features) as Promise<EditFeature[]>;
const corners = async (page: Page, index = 0) =>
  page.evaluate((i) => {
    const { geometry } = window.bar.features.features[i];
    const ring = (geometry.type === 'Polygon' ? geometry.coordinates[0] : geometry.coordinates) as [number, number][];
    return ring.map((at) => window.map.toPixel(at).map(Math.round));
  }, index);
const square: [number, number][] = [
  [300, 200],
  [500, 200],
  [500, 350],
  [300, 350],
];
const drawSquare = async (page: Page) => {
  await tool(page, 'Draw an area').click();
  await press(page, ...square, square[0]);
};
/** Drags with the mouse from one pixel to another. */
const drag = async (page: Page, [x, y]: [number, number], [toX, toY]: [number, number]) => {
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move((x + toX) / 2, (y + toY) / 2, { steps: 3 });
  await page.mouse.move(toX, toY, { steps: 3 });
  await page.mouse.up();
};
const frame = (page: Page) => page.evaluate(() => new Promise((done) => requestAnimationFrame(() => setTimeout(done))));

describe('by pointer', () => {
  test('an area is drawn, shown by the map, corrected corner by corner, moved, turned, undone to the start and done again', async () => {
    const page = await openDrawing();
    await drawSquare(page);
    expect(await corners(page)).toEqual(
      [...square, square[0]].map(([x, y]) => [expect.closeTo(x, -1), expect.closeTo(y, -1)]),
    );
    expect(await page.locator('.flint-draw-say b').innerText()).toMatch(/^[\d.]+ (ha|km²) · [\d.]+ (m|km)$/);
    await tool(page, 'Select and edit').click();
    await page.mouse.click(700, 500);
    await settled(stage);
    // What the map draws itself: the amber of its layer, blended with the white ground.
    expect((await countPixels(stage, [244, 220, 191]))[0]).toBeGreaterThan(20000);
    await page.mouse.click(400, 280);
    await frame(page);
    expect(await page.locator('.flint-handle').count()).toBe(4 + 4 + 2);
    await drag(page, [500, 350], [560, 400]);
    expect((await corners(page)).some(([x, y]) => Math.abs(x - 560) < 2 && Math.abs(y - 400) < 2)).toBe(true);
    await frame(page);
    // The middle of an edge becomes a corner.
    await drag(page, [400, 200], [400, 150]);
    expect((await corners(page)).length).toBe(6);
    await frame(page);
    await drag(page, [400, 260], [430, 300]);
    await frame(page);
    const turning = (await page.locator('[data-kind="turn"] .flint-dot').boundingBox())!;
    const before = await corners(page);
    await drag(page, [turning.x + 7, turning.y + 7], [turning.x + 120, turning.y + 60]);
    expect(await corners(page)).not.toEqual(before);
    const names = await page.evaluate(() => window.steps.map(({ name }) => name));
    expect(names).toEqual(['draw', 'move a vertex', 'insert a vertex', 'move', 'rotate or scale']);
    const last = await features(page);
    for (let i = 0; i < 5; i++) await page.keyboard.press('Control+z');
    expect(await features(page)).toEqual([]);
    await settled(stage);
    expect((await countPixels(stage, [244, 220, 191]))[0]).toBe(0);
    for (let i = 0; i < 5; i++) await page.keyboard.press('Control+Shift+Z');
    expect(await features(page)).toEqual(last);
    expect(await faultsOf(stage)).toEqual([]);
  });

  test('buttons that have done their last step keep the focus, and do nothing more', async () => {
    const page = await openDrawing();
    await drawSquare(page);
    for (const name of [/undo/i, /redo/i, /undo/i]) {
      const button = page.getByRole('button', { name });
      await button.focus();
      await page.keyboard.press('Enter');
      expect(await button.getAttribute('aria-disabled')).toBe('true');
      await page.keyboard.press('Enter');
      expect(await button.evaluate((element) => element === document.activeElement)).toBe(true);
    }
    expect(await features(page)).toEqual([]);
    expect(await page.evaluate(() => window.steps.map(({ cause }) => cause))).toEqual(['edit', 'undo', 'redo', 'undo']);
  });

  test('an area over the antimeridian is given away in two parts within the world, by steps as by features', async () => {
    const page = await openDrawing({}, plain, { center: [180, 10], zoom: 8 });
    await drawSquare(page);
    const [{ geometry }] = await features(page);
    const given = await page.evaluate(() => window.steps.map(({ changes }) => changes[0]));
    expect(given).toMatchObject([{ after: { geometry } }]);
    expect(geometry.type).toBe('MultiPolygon');
    const longitudes = (geometry.coordinates as number[][][][]).flat(2).map(([lon]) => lon);
    expect([Math.min(...longitudes), Math.max(...longitudes)]).toEqual([-180, 180]);
    await page.keyboard.press('Control+z');
    const [, undone] = await page.evaluate(() => window.steps.map(({ changes }) => changes[0]));
    expect(undone).toMatchObject({ before: { geometry } });
  });

  test('the form opens where it does not cover the selected feature, also when the selection changes', async () => {
    const fields = { required: ['name'], properties: { name: { type: 'string', title: 'Name' } } };
    const page = await openDrawing({ fields });
    for (const [x, y] of [
      [640, 90],
      [120, 90],
      [640, 90],
    ] as const) {
      await page.evaluate(
        ([px, py]) => {
          const corner = (dx: number, dy: number) => window.map.toPlace([px + dx, py + dy])!;
          const ring = [corner(0, 0), corner(60, 0), corner(60, 50), corner(0, 50), corner(0, 0)];
          const feature = { type: 'Feature', properties: {}, geometry: { type: 'Polygon', coordinates: [ring] } };
          window.bar.select(...window.bar.add({ features: [feature] }));
        },
        [x, y] as const,
      );
      await frame(page);
      const box = (await page.locator('.flint-draw-panel:has(.flint-form)').boundingBox())!;
      expect(box.width).toBeGreaterThan(200);
      expect([x, box.x > x + 60 || box.x + box.width < x]).toEqual([x, true]);
    }
  });

  test('a border that would cross itself is shown where it does, and goes back', async () => {
    const page = await openDrawing();
    await tool(page, 'Draw an area').click();
    await press(page, [300, 200], [500, 200], [300, 350], [500, 350], [300, 200]);
    await page.getByRole('status').filter({ hasText: 'crosses itself' }).waitFor();
    await frame(page);
    expect(await page.locator('.flint-trouble').count()).toBe(1);
    expect(await features(page)).toEqual([]);
    await page.keyboard.press('Escape');
    await drawSquare(page);
    await tool(page, 'Select and edit').click();
    await frame(page);
    const before = await features(page);
    await drag(page, [500, 350], [200, 280]);
    expect(await features(page)).toEqual(before);
    await page.getByRole('status').filter({ hasText: 'crosses itself' }).waitFor();
  });

  test('cut, hole, join, delete; shared corners move together; places snap', async () => {
    const page = await openDrawing();
    await drawSquare(page);
    await tool(page, 'Cut along a line').click();
    await press(page, [400, 150], [400, 400], [400, 400]);
    expect((await features(page)).map(({ geometry }) => geometry.type)).toEqual(['Polygon', 'Polygon']);
    await tool(page, 'Select and edit').click();
    await page.mouse.click(700, 500);
    await page.waitForTimeout(400);
    await page.mouse.click(350, 280);
    await frame(page);
    await drag(page, [400, 200], [420, 170]);
    const shared = await Promise.all([corners(page, 0), corners(page, 1)]);
    for (const ring of shared) expect(ring.some(([x, y]) => Math.abs(x - 420) < 3 && Math.abs(y - 170) < 3)).toBe(true);
    await page.waitForTimeout(400);
    await page.keyboard.down('Shift');
    await page.mouse.click(450, 280);
    await page.keyboard.up('Shift');
    await tool(page, 'Join the selection').click();
    await page.waitForFunction(() => window.bar.features.features.length === 1);
    await tool(page, 'Cut a hole').click();
    await press(page, [350, 250], [380, 250], [365, 290], [350, 250]);
    await page.waitForFunction(() => (window.bar.features.features[0].geometry.coordinates as unknown[]).length === 2);
    // A line that begins near a corner begins at it.
    await tool(page, 'Draw a line').click();
    await press(page, [306, 206], [200, 430], [200, 430]);
    expect((await corners(page, 1))[0]).toEqual(
      (await corners(page, 0)).find(([x, y]) => Math.abs(x - 300) < 3 && Math.abs(y - 200) < 3),
    );
    await tool(page, 'Delete the selection').click();
    expect(await features(page)).toHaveLength(1);
    // Nothing there to cut is told.
    await tool(page, 'Cut along a line').click();
    await press(page, [600, 430], [700, 430], [700, 430]);
    await page.getByRole('status').filter({ hasText: 'does not cross' }).waitFor();
  });

  test('a press in the same frame as a change of tools is one of the new tool', async () => {
    const page = await openDrawing();
    await drawSquare(page);
    await tool(page, 'Select and edit').click();
    await frame(page);
    const under = await page.evaluate(() => {
      window.bar.tool = 'hole';
      // Before the next frame: what lies under the pointer is the map, and no handle or outline to drag.
      return document.elementFromPoint(350, 250)!.getAttribute('class');
    });
    expect(under).toBe('flint-canvas');
  });

  test('rectangles, circles, points, a selection within an outline, attributes in a form, several at once', async () => {
    const fields = {
      required: ['name'],
      properties: {
        name: { type: 'string', title: 'Name' },
        kind: { type: 'string', enum: ['mooring', 'lease'] },
        depth: { type: 'number', unit: 'm', minimum: 0, maximum: 60 },
        lit: { type: 'boolean', title: 'Lit' },
      },
    };
    const page = await openDrawing({ fields });
    await tool(page, 'Draw a rectangle').click();
    await press(page, [300, 200], [360, 240]);
    await tool(page, 'Draw a circle').click();
    await press(page, [450, 220], [480, 220]);
    await tool(page, 'Draw a point').click();
    await press(page, [400, 300]);
    const form = page.locator('.flint-form');
    await form.getByLabel('Depth (m)').or(form.getByLabel('depth (m)')).fill('99');
    await form.getByRole('button', { name: 'Save' }).click();
    expect(await form.locator('[aria-invalid="true"]').count()).toBe(2);
    expect(await form.getByText('This field is required.').count()).toBe(1);
    await form.getByLabel('Name *').fill('Swing 12');
    await form.getByLabel('depth (m)').fill('4.5');
    await form.getByLabel('kind').selectOption('mooring');
    await form.getByLabel('Lit').check();
    await form.getByRole('button', { name: 'Save' }).click();
    expect((await features(page))[2].properties).toEqual({ name: 'Swing 12', kind: 'mooring', depth: 4.5, lit: true });
    await tool(page, 'Select within an outline').click();
    await press(page, [250, 150], [550, 150], [550, 270], [250, 270], [250, 150]);
    expect(await page.evaluate(() => window.bar.selection.length)).toBe(2);
    await page.getByText('Attributes of 2 features').waitFor();
    await form.getByLabel('kind').selectOption('lease');
    await form.getByRole('button', { name: 'Save' }).click();
    const all = await features(page);
    expect(all.map(({ properties }) => properties['kind'])).toEqual(['lease', 'lease', 'mooring']);
    // What nobody filled in stays as it is, ticks included.
    expect(all[0].properties).toEqual({ kind: 'lease' });
    const last = await page.evaluate(() => window.steps[window.steps.length - 1]);
    expect([last.name, last.changes.length]).toEqual(['change attributes', 2]);
    expect(last.changes[0]).toMatchObject({ before: { properties: {} }, after: { properties: { kind: 'lease' } } });
  });
});

test('a box selects what it holds, dragged or by two presses; a line is laid beside the nearest', async () => {
  const page = await openDrawing();
  const before = await page.evaluate(() => window.map.view.center);
  await tool(page, 'Draw a point').click();
  await press(page, [300, 200], [340, 240], [600, 400]);
  await tool(page, 'Select within a box').click();
  await drag(page, [260, 160], [400, 300]);
  expect(await page.evaluate(() => window.bar.selection.length)).toBe(2);
  // The map stayed where it was.
  expect(await page.evaluate(() => window.map.view.center)).toEqual(before);
  await tool(page, 'Select within a box').click();
  await press(page, [550, 350], [650, 450]);
  expect(await page.evaluate(() => window.bar.selection.length)).toBe(1);
  await tool(page, 'Draw a line').click();
  await press(page, [200, 400], [400, 400], [400, 400]);
  await tool(page, 'Draw a parallel line').click();
  await page.mouse.move(300, 350);
  await frame(page);
  expect(await page.locator('.flint-hand path').count()).toBeGreaterThan(0);
  await press(page, [300, 350]);
  const beside = await corners(page, 4);
  expect(beside).toEqual([
    [200, 350],
    [400, 350],
  ]);
  await page.keyboard.press('Control+z');
  expect((await features(page)).length).toBe(4);
});

test('an area of 100,000 corners is taken over, shown, and undone; its corners are offered closer in', async () => {
  const page = await openDrawing({}, plain, { center: [-31.18, 44.62], zoom: 11 });
  const count = await page.evaluate(() => {
    const ring = Array.from({ length: 100_000 }, (_, i): [number, number] => {
      const [turn, radius] = [(2 * Math.PI * i) / 100_000, 0.05 + 0.004 * Math.sin(i / 40)];
      return [-31.18 + radius * Math.cos(turn), 44.62 + radius * Math.sin(turn)];
    });
    const geometry = { type: 'Polygon', coordinates: [[...ring, ring[0]]] };
    const feature = { type: 'Feature', properties: {}, geometry };
    window.bar.select(...window.bar.add({ type: 'FeatureCollection', features: [feature] }));
    return (window.bar.features.features[0].geometry.coordinates as unknown[][])[0].length;
  });
  expect(count).toBe(100_001);
  await page.getByRole('status').filter({ hasText: 'Too many vertices in view' }).waitFor();
  expect(await page.locator('.flint-handle').count()).toBe(0);
  await page.evaluate(() => window.bar.undo());
  expect(await features(page)).toEqual([]);
});

describe('a server of features', () => {
  test('corrections are saved; what somebody else changed meanwhile is shown, and nobody is overwritten', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'flintwright-'));
    const path = join(folder, 'buoys.geojson');
    const buoy = (id: string, x: number, properties: object) => ({
      ...{ type: 'Feature', id, properties },
      geometry: { type: 'Point', coordinates: [x, 44.62] },
    });
    const start = [
      buoy('a', -31.19, { name: 'A' }),
      buoy('b', -31.18, { name: 'B' }),
      buoy('c', -31.17, { name: 'C' }),
    ];
    writeFileSync(path, JSON.stringify({ type: 'FeatureCollection', features: start }));
    const server = await serveFolder(folder, { edits: true, key: 'k' });
    try {
      const address = await server.listen({ port: 0, host: 'localhost' });
      const page = await openDrawing();
      await page.evaluate(() => window.bar.remove());
      const refused = await page.evaluate(
        async (base) => {
          const { RemoteFeatures } = window.drawing;
          const collection = `${base}/features/collections/buoys`;
          const without = new RemoteFeatures({ address: collection });
          const fault = await without.load().then(String, ({ code }: { code: string }) => code);
          const server = new RemoteFeatures({
            address: collection,
            request: (plan) => void (plan.headers['Authorization'] = 'Bearer k'),
          });
          const features = await server.load();
          window.bar = new window.drawing.DrawBar(window.map, { features });
          Object.assign(window, { server });
          return fault;
        },
        address.replace('[::1]', 'localhost').replace('127.0.0.1', 'localhost'),
      );
      expect(refused).toBe('save.key');
      const names = () =>
        (JSON.parse(readFileSync(path, 'utf8')) as typeof start & { features: typeof start }).features;
      const save = () =>
        page.evaluate(async () => {
          const { server } = window as unknown as { server: InstanceType<typeof window.drawing.RemoteFeatures> };
          const { created, replaced, deleted, conflicts, faults } = await server.save(window.bar.document);
          return [created, replaced, deleted, conflicts.length, faults.length];
        });
      const rename = (key: string, name: string | undefined) =>
        page.evaluate(
          ([of, to]) => {
            const feature = window.bar.document.require(of!);
            const after =
              to === undefined ? undefined : { ...feature, properties: { ...feature.properties, name: to } };
            window.bar.document.apply('rename', new Map([[of!, after]]));
          },
          [key, name] as const,
        );
      // One added, one changed, one deleted.
      await tool(page, 'Draw a point').click();
      await press(page, [300, 200]);
      await rename('a', 'A2');
      await rename('c', undefined);
      expect(await save()).toEqual([1, 1, 1, 0, 0]);
      expect(names().map(({ properties }) => (properties as { name?: string }).name)).toEqual(['A2', 'B', undefined]);
      expect(await save()).toEqual([0, 0, 0, 0, 0]);
      // Somebody else changes B, and deletes A, while both are changed here.
      const [a, b, made] = names();
      const theirs = {
        ...b,
        properties: { name: 'Theirs', depth: 3 },
        geometry: { type: 'Point', coordinates: [-31.178, 44.621] },
      };
      writeFileSync(path, JSON.stringify({ type: 'FeatureCollection', features: [theirs, made] }));
      await rename(a.id, 'A3');
      await rename(b.id, 'Mine');
      expect(await save()).toEqual([0, 0, 0, 2, 0]);
      expect(names()).toEqual([theirs, made]);
      const panel = page.locator('.flint-conflict');
      await panel.getByText('Also changed by someone else (2 left)').waitFor();
      await panel.getByText('You changed this feature; someone else deleted it.').waitFor();
      await panel.getByRole('button', { name: 'Keep mine' }).click();
      await panel.getByText('Also changed by someone else', { exact: true }).waitFor();
      expect(await panel.getByRole('row').allInnerTexts()).toEqual(['name\tMine\tTheirs', 'depth\t–\t3']);
      expect(await page.locator('.flint-other').count()).toBe(1);
      await page.getByRole('button', { name: 'Take theirs' }).click();
      expect(await panel.innerText()).toBe('');
      expect(await save()).toEqual([1, 0, 0, 0, 0]);
      expect(names().map(({ properties }) => (properties as { name?: string }).name)).toEqual([
        'Theirs',
        undefined,
        'A3',
      ]);
      // Taking theirs is a step of its own.
      await page.keyboard.press('Control+z');
      expect(await page.evaluate(() => window.bar.document.require('b').properties['name'])).toBe('Mine');
      // Changes elsewhere alone are taken in.
      await page.evaluate(() => window.bar.redo());
      const now = names();
      writeFileSync(
        path,
        JSON.stringify({ type: 'FeatureCollection', features: [{ ...now[0], properties: { name: 'Quiet' } }] }),
      );
      const open = await page.evaluate(async () => {
        const { server } = window as unknown as { server: InstanceType<typeof window.drawing.RemoteFeatures> };
        return (await server.refresh(window.bar.document)).length;
      });
      expect([open, (await features(page)).map(({ properties }) => properties['name'])]).toEqual([0, ['Quiet']]);
    } finally {
      await server.close();
      rmSync(folder, { recursive: true });
    }
  });

  test('a weak tag is not compared, members of the server survive, and what it says of a refusal is shown', async () => {
    const page = await openDrawing();
    const buoy = {
      ...{
        type: 'Feature',
        id: 'a',
        properties: { name: 'A' },
        geometry: { type: 'Point', coordinates: [-31.18, 44.62] },
      },
      ...{ time: { date: '2026-05-01' }, links: [{ rel: 'self', href: 'a' }] },
    };
    const puts: { tag: string | undefined; body: Record<string, unknown> }[] = [];
    await page.route('**/collections/buoys/items**', (route) => {
      const request = route.request();
      if (request.method() === 'GET') {
        const json = request.url().includes('/items/') ? buoy : { type: 'FeatureCollection', features: [buoy] };
        return route.fulfill({ json, headers: { ETag: 'W/"1"' } });
      }
      puts.push({ tag: request.headers()['if-match'], body: request.postDataJSON() as Record<string, unknown> });
      return route.fulfill({
        status: 422,
        contentType: 'application/problem+json',
        body: JSON.stringify({ title: 'Unprocessable Content', detail: 'the name is taken' }),
      });
    });
    stage.expected = /Failed to load resource/;
    const faults = await page.evaluate(async () => {
      window.bar.remove();
      const server = new window.drawing.RemoteFeatures({ address: '/collections/buoys' });
      window.bar = new window.drawing.DrawBar(window.map, { features: await server.load() });
      const feature = window.bar.document.require('a');
      window.bar.document.apply('rename', new Map([['a', { ...feature, properties: { name: 'B' } }]]));
      const report = await server.save(window.bar.document);
      return [report.conflicts.length, ...report.faults.map(({ fault }) => fault.message)];
    });
    expect(faults).toEqual([0, 'the server refused the feature: the name is taken']);
    expect(puts).toHaveLength(1);
    expect(puts[0].tag).toBeUndefined();
    expect(puts[0].body).toMatchObject({ id: 'a', time: { date: '2026-05-01' }, properties: { name: 'B' } });
    expect(puts[0].body['links']).toBeUndefined();
  });

  test.each([
    ['save.readonly', (route: Route) => route.fulfill({ status: 405 })],
    ['save.invalid', (route: Route) => route.fulfill({ status: 422, json: { message: 'depth is missing' } })],
    ['save.down', (route: Route) => route.fulfill({ status: 503 })],
    ['save.down', (route: Route) => route.abort()],
    ['save.form', (route: Route) => route.fulfill({ status: 201 })],
  ])('%s is told, and nothing is lost', async (code, answer) => {
    const page = await openDrawing();
    await page.route('**/collections/buoys/items**', (route) =>
      route.request().method() === 'GET'
        ? route.fulfill({ json: { type: 'FeatureCollection', features: [] } })
        : answer(route),
    );
    stage.expected = /Failed to load resource/;
    await tool(page, 'Draw a point').click();
    await press(page, [300, 200]);
    const [faults, before, after] = await page.evaluate(async () => {
      const server = new window.drawing.RemoteFeatures({ address: '/collections/buoys' });
      await server.load();
      const count = window.bar.features.features.length;
      const report = await server.save(window.bar.document);
      return [report.faults.map(({ fault }) => fault.code), count, window.bar.features.features.length];
    });
    expect([faults, before, after]).toEqual([[code], 1, 1]);
  });
});

test('by keyboard alone: an area drawn with arrows and Enter, a corner moved and deleted, all undone', async () => {
  const page = await openDrawing();
  const toolbar = page.getByRole('toolbar', { name: 'Drawing tools' });
  await toolbar.getByRole('button', { name: 'Draw an area' }).focus();
  await page.keyboard.press('Enter');
  await page.locator('.flint-canvas').focus();
  const go = async (...keys: string[]) => {
    for (const key of keys) {
      await page.keyboard.press(key);
      await settled(stage);
    }
  };
  await go('Enter', 'ArrowRight', 'Enter', 'ArrowDown', 'Enter', 'ArrowLeft', 'Enter', 'ArrowUp', 'Enter');
  expect((await features(page))[0].geometry.type).toBe('Polygon');
  expect((await corners(page)).length).toBe(5);
  await toolbar.getByRole('button', { name: 'Select and edit' }).focus();
  await page.keyboard.press('Enter');
  await frame(page);
  const handle = page.getByRole('button', { name: /^Vertex 1 of 4/ });
  const before = await corners(page);
  await handle.focus();
  await page.keyboard.press('Shift+ArrowLeft');
  await frame(page);
  // The same handle keeps the focus, however often it is drawn anew.
  await page.keyboard.press('Shift+ArrowLeft');
  expect((await corners(page))[0][0]).toBe(before[0][0] - 20);
  await frame(page);
  await page.keyboard.press('Delete');
  expect((await corners(page)).length).toBe(4);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  expect(await corners(page)).toEqual(before);
  // Coordinates typed exactly, in another coordinate system too.
  await toolbar.getByRole('button', { name: 'Draw a line' }).focus();
  await page.keyboard.press('Enter');
  await page.getByLabel('Place').fill('44°37\'12"N 31°10\'48"W');
  await page.keyboard.press('Enter');
  await page.waitForFunction(() => !document.querySelector<HTMLInputElement>('.flint-draw-say input')!.value);
  await page.getByLabel('Place').fill('EPSG:32625 641000 4942000');
  await page.keyboard.press('Enter');
  await page.waitForFunction(() => !document.querySelector<HTMLInputElement>('.flint-draw-say input')!.value);
  await page.keyboard.press('Enter');
  const typed = (await features(page))[1].geometry.coordinates as number[][];
  expect(typed[0]).toEqual([expect.closeTo(-31.18, 9), expect.closeTo(44.62, 9)]);
  // UTM zone 25 north, by the series of the register's own test.
  expect(typed[1]).toEqual([expect.closeTo(-31.2245, 2), expect.closeTo(44.6165, 2)]);
  await page.getByLabel('Place').fill('somewhere');
  await page.keyboard.press('Enter');
  await page.getByRole('status').filter({ hasText: '“somewhere” is not a location' }).waitFor();
});

test('by touch: drawn with taps, a corner dragged with a finger', async () => {
  const context = await stage.browser.newContext({ hasTouch: true, viewport: { width: 390, height: 700 } });
  const desk = stage.page;
  (stage as { page: Page }).page = await context.newPage();
  try {
    await openMap(stage, plain, view, {}, [390, 700]);
    await addBar({});
    const { page } = stage;
    const bar = (await page.locator('.flint-draw').boundingBox())!;
    expect(bar.x).toBeGreaterThanOrEqual(0);
    expect(bar.x + bar.width).toBeLessThanOrEqual(390);
    await tool(page, 'Draw a line').tap();
    for (const [x, y] of [
      [80, 200],
      [200, 300],
      [320, 200],
      [320, 200],
    ]) {
      await page.touchscreen.tap(x, y);
      await page.waitForTimeout(360);
    }
    expect((await corners(page)).length).toBe(3);
    await tool(page, 'Select and edit').tap();
    await frame(page);
    const session = await context.newCDPSession(page);
    const touch = (type: string, x: number, y: number) =>
      session.send('Input.dispatchTouchEvent', {
        type: type as 'touchStart',
        touchPoints: type === 'touchEnd' ? [] : [{ x, y }],
      });
    await touch('touchStart', 203, 298);
    for (const y of [320, 340, 360]) await touch('touchMove', 203, y);
    await touch('touchEnd', 0, 0);
    expect((await corners(page))[1][1]).toBeGreaterThan(350);
  } finally {
    await context.close();
    (stage as { page: Page }).page = desk;
  }
});

describe('on every surface, at random', () => {
  test.each<[string, object, object]>([
    ['Mercator', {}, view],
    ['the globe', { surface: 'globe' }, { center: [-31.18, 44.62], zoom: 5, tilt: 20, bearing: 30 }],
    ['another projection', { surface: 'EPSG:3035' }, { center: [10, 52], zoom: 6, bearing: -20 }],
    ['a plan', { surface: 'plan' }, { center: [200, 100], zoom: 3 }],
  ])('%s: what is drawn and dragged stays sound, and is undone to the very start', async (_, surface, from) => {
    const page = await openDrawing({}, { ...plain, view: surface }, from);
    const random = randomFrom(31);
    const at = (): [number, number] => [180 + random() * 460, 120 + random() * 330];
    const tools = ['Draw a point', 'Draw a rectangle', 'Draw a circle', 'Draw an area', 'Draw a line'];
    for (let k = 0; k < 7; k++) {
      const handles = page.locator('.flint-hand [data-name^="corner"]');
      const count = await handles.count();
      if (count && random() < 0.6) {
        await handles.nth(Math.floor(random() * count)).focus();
        for (let m = 0; m < 4; m++)
          await page.keyboard.press(
            ['Shift+ArrowLeft', 'Shift+ArrowUp', 'ArrowRight', 'Shift+ArrowDown', 'Delete'][Math.floor(random() * 5)],
          );
      } else {
        const name = tools[Math.floor(random() * tools.length)];
        await tool(page, name).click();
        const places = name === 'Draw a point' ? 1 : name === 'Draw an area' || name === 'Draw a line' ? 3 : 2;
        const spots = Array.from({ length: places }, at);
        for (const [x, y] of name === 'Draw an area' || name === 'Draw a line' ? [...spots, spots[2]] : spots) {
          await page.mouse.click(x, y);
          await page.waitForTimeout(320);
        }
        await tool(page, 'Select and edit').click();
        await frame(page);
      }
      for (const { geometry } of await features(page)) expect(problemsOf(geometry)).toEqual([]);
    }
    expect((await features(page)).length).toBeGreaterThan(1);
    const count = await page.evaluate(() => {
      let steps = 0;
      while (window.bar.document.undo()) steps++;
      return steps;
    });
    expect(count).toBeGreaterThan(4);
    expect(await features(page)).toEqual([]);
  });
});

describe('on every surface', () => {
  test.each<[string, object, object]>([
    ['the globe', { surface: 'globe' }, { center: [-31.18, 44.62], zoom: 5, tilt: 20, bearing: 30 }],
    ['another projection', { surface: 'EPSG:3035' }, { center: [10, 52], zoom: 6, bearing: -20 }],
    ['a plan', { surface: 'plan' }, { center: [200, 100], zoom: 3 }],
  ])('%s: an area is drawn and a corner dragged to where the pointer is', async (_, surface, from) => {
    const page = await openDrawing({}, { ...plain, view: surface } as Sheet, from);
    await settled(stage);
    await drawSquare(page);
    await tool(page, 'Select and edit').click();
    await frame(page);
    const drawn = await corners(page);
    expect(drawn.length).toBe(5);
    await drag(page, [500, 350], [540, 390]);
    expect((await corners(page)).some(([x, y]) => Math.hypot(x - 540, y - 390) < 3)).toBe(true);
    expect(await page.locator('.flint-draw-say b').innerText()).toMatch(/(m²|ha) ·|km² ·/);
    expect(await faultsOf(stage)).toEqual([]);
  });
});

describe('what may be drawn', () => {
  const fields = {
    properties: { name: { type: 'string' as const, title: 'Name' } },
    required: ['name'],
  };

  test('tools and geometry types restrict the bar, code and keys', async () => {
    const page = await openDrawing({ tools: ['point', 'cut'] });
    expect(await page.locator('.flint-draw [role="toolbar"] button').count()).toBe(7);
    const refused = await page.evaluate(() => {
      const caught = (work: () => unknown) => {
        try {
          work();
          return 'nothing';
        } catch (error) {
          const { code, hint } = error as { code: string; hint: string };
          return `${code}: ${hint}`;
        }
      };
      const { bar, map, drawing } = window;
      const line = {
        type: 'LineString',
        coordinates: [
          [-31.18, 44.62],
          [-31.17, 44.62],
        ],
      };
      const found = [
        caught(() => (bar.tool = 'area')),
        caught(() => bar.add({ features: [{ type: 'Feature', properties: {}, geometry: line }] })),
        caught(() => new drawing.DrawBar(map, { tools: ['pen' as never] })),
        caught(() => new drawing.DrawBar(map, { geometries: ['Curve' as never] })),
      ];
      bar.add({
        features: [{ type: 'Feature', properties: {}, geometry: { type: 'Point', coordinates: [-31.18, 44.62] } }],
      });
      return found;
    });
    expect(refused).toEqual([
      'draw.tool: Tools: point, cut.',
      'draw.geometry: Types: Point; "geometries" of the draw bar allows others.',
      expect.stringMatching(/^draw.tool: Tools: select, box/),
      'draw.geometry: Types: Point, LineString, Polygon.',
    ]);
    // Without a tool that selects, a press selects nothing, and Delete deletes nothing.
    await settled(stage);
    const at = await page.evaluate(() => window.map.toPixel([-31.18, 44.62]));
    await page.mouse.click(...at);
    await page.keyboard.press('Delete');
    expect([await page.evaluate(() => window.bar.selection), (await features(page)).length]).toEqual([[], 1]);
  });

  test('Enter ends a line or an area that was drawn with a pointer, and the hint says so', async () => {
    const page = await openDrawing({ geometries: ['LineString', 'Polygon'] });
    for (const name of ['Draw a line', 'Draw an area']) {
      await tool(page, name).click();
      await press(page, ...square);
      expect(await page.locator('.flint-draw-say p').innerText()).toContain('Enter');
      await page.keyboard.press('Enter');
      await frame(page);
    }
    expect(
      (await features(page)).map(({ geometry }) => [geometry.type, geometry.coordinates.flat(Infinity).length]),
    ).toEqual([
      ['LineString', 8],
      ['Polygon', 10],
    ]);
  });

  test('drawing and measuring exclude each other', async () => {
    const page = await openDrawing();
    await page.evaluate(() => new window.drawing.Measure(window.map));
    await tool(page, 'Draw a line').click();
    await press(page, [300, 300]);
    await tool(page, 'Measure').click();
    expect(await page.evaluate(() => window.bar.tool)).toBe('select');
    await press(page, [300, 200], [500, 200]);
    expect(await page.locator('.flint-measure p').innerText()).toMatch(/m/);
    expect(await features(page)).toEqual([]);
    await tool(page, 'Draw a point').click();
    expect(await tool(page, 'Measure').getAttribute('aria-pressed')).toBe('false');
    await press(page, [420, 260]);
    expect((await features(page)).length).toBe(1);
  });

  test.each(['ltr', 'rtl'])(
    'without its required attributes a shape is a draft: kept, shown, reported; by keyboard the form has the focus; read %s',
    async (direction) => {
      const page = await openDrawing({ fields });
      await page.evaluate((direction) => {
        document.documentElement.dir = direction;
        window.bar.remove();
        Object.assign(window, { valid: [] });
      }, direction);
      await page.evaluate((fields) => {
        window.bar = new window.drawing.DrawBar(window.map, {
          fields,
          onStep: ({ valid, changes }) =>
            (window as unknown as { valid: unknown[] }).valid.push([valid, ...changes.map((change) => change.valid)]),
        });
      }, fields);
      await drawSquare(page);
      expect(await page.locator('.flint-draw-say p').innerText()).toBe('Draft: required attributes are missing.');
      // The form begins where lines of text do, and lies on the map as a whole.
      const form = (await page.getByLabel('Name *').boundingBox())!;
      expect(form.x).toBeGreaterThanOrEqual(0);
      expect(form.x + form.width).toBeLessThanOrEqual(800);
      await page.mouse.move(700, 550);
      await settled(stage);
      expect(
        await page.evaluate(() => window.map.pick([400, 200], { layers: ['drawn-draft-lines'], within: 4 }).length),
      ).toBe(1);
      await page.getByLabel('Name *').fill('Oyster bed');
      await page.keyboard.press('Enter');
      await frame(page);
      await settled(stage);
      expect(
        await page.evaluate(() => window.map.pick([400, 200], { layers: ['drawn-draft-lines'], within: 4 }).length),
      ).toBe(0);
      expect(await page.evaluate(() => (window as unknown as { valid: unknown[] }).valid)).toEqual([
        [false, false],
        [true, true],
      ]);
      await page.locator('.flint-canvas').focus();
      await page.evaluate(() => (window.bar.tool = 'point'));
      await page.keyboard.press('ArrowRight');
      await page.waitForTimeout(300);
      await page.keyboard.press('Enter');
      await page.waitForFunction(() => document.activeElement?.tagName === 'INPUT');
      expect((await features(page)).length).toBe(2);
    },
  );
});

describe('work put by', () => {
  test('a page that dies between two edits finds everything again, undo included', async () => {
    const page = await openDrawing({ draft: 'test' });
    await drawSquare(page);
    await tool(page, 'Select and edit').click();
    await frame(page);
    await drag(page, [500, 350], [540, 390]);
    const before = await features(page);
    await page.waitForTimeout(150);
    await page.goto('about:blank');
    await openDrawing({ draft: 'test' });
    await page.waitForFunction(() => window.bar.features.features.length === 1);
    expect(await features(page)).toEqual(before);
    await page.locator('.flint-canvas').focus();
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    expect(await features(page)).toEqual([]);
    await page.evaluate(() => window.bar.discardDraft());
  });

  test('a second tab works on a copy, or takes the draft over; nothing disappears', async () => {
    const taken = stage.page;
    const context = await stage.browser.newContext({ viewport: { width: 800, height: 600 } });
    const [first, other] = [await context.newPage(), await context.newPage()];
    Object.assign(stage, { page: first });
    await openDrawing({ draft: 'shared' });
    await first.waitForTimeout(200);
    const ids = (of: Page) => of.evaluate(() => window.bar.features.features.map(({ id }) => String(id)).join());
    const addPoint = (of: Page, id: number) =>
      of.evaluate(
        (id) =>
          window.bar.add({
            features: [
              { type: 'Feature', id, properties: {}, geometry: { type: 'Point', coordinates: [-31.19, 44.62] } },
            ],
          } as never),
        id,
      );
    await addPoint(first, 1);
    try {
      Object.assign(stage, { page: other });
      await openDrawing({ draft: 'shared' });
      await other.getByText('You are editing a copy here').waitFor();
      expect(await ids(other)).toBe('1');
      await addPoint(other, 2);
      await addPoint(first, 3);
      await other.getByRole('button', { name: 'Take over' }).click();
      await first.getByText('You are editing a copy here').waitFor();
      await addPoint(first, 4);
      await addPoint(other, 5);
      expect([await ids(first), await ids(other)]).toEqual(['1,3,4', '1,2,5']);
      await other.waitForTimeout(200);
      await other.close();
      // After both tabs are closed, the draft comes back, and the copy is offered.
      Object.assign(stage, { page: first });
      await first.goto('about:blank');
      await openDrawing({ draft: 'shared' });
      await first.getByRole('button', { name: 'Open the copy' }).waitFor();
      expect(await ids(first)).toBe('1,2,5');
      await first.getByRole('button', { name: 'Open the copy' }).click();
      await first.waitForFunction(() => window.bar.features.features.length === 3);
      expect(await ids(first)).toBe('1,3,4');
      expect(await faultsOf(stage)).toEqual([]);
    } finally {
      Object.assign(stage, { page: taken });
      await context.close();
    }
  });

  test.each(['blocked', 'full'])('with storage %s it is told, and drawing goes on', async (state) => {
    await openMap(stage, plain, view);
    await stage.page.evaluate((state) => {
      if (state === 'blocked')
        indexedDB.open = () => {
          throw new DOMException('The operation is insecure.', 'SecurityError');
        };
      else
        IDBObjectStore.prototype.put = () => {
          throw new DOMException('No room.', 'QuotaExceededError');
        };
    }, state);
    await addBar({ draft: 'nowhere' });
    await drawSquare(stage.page);
    expect((await features(stage.page)).length).toBe(1);
    await stage.page.waitForFunction(() => window.faults.length > 0);
    expect((await faultsOf(stage)).map(({ code }) => code)).toContain('draw.draft');
  });

  test('a draft of a newer version, or of other features, is told and kept', async () => {
    const page = await openDrawing({ draft: 'newer' });
    await page.evaluate(async () => {
      const open = indexedDB.open('flintwright-drafts', 1);
      await new Promise((done) => (open.onsuccess = done));
      const transaction = open.result.transaction('drafts', 'readwrite');
      transaction.objectStore('drafts').put({ draft: 2, steps: [{ name: 'x', changes: [] }], done: 1 }, 'newer');
      await new Promise((done) => (transaction.oncomplete = done));
      window.bar.remove();
    });
    await addBar({ draft: 'newer' });
    await page.waitForFunction(() => window.faults.length > 0);
    expect((await faultsOf(stage))[0]).toEqual({ code: 'edit.draft', hint: expect.stringContaining('It was kept') });
    // What is drawn from then on does not overwrite it.
    await drawSquare(page);
    await page.waitForTimeout(200);
    const kept = await page.evaluate(async () => {
      const open = indexedDB.open('flintwright-drafts', 1);
      await new Promise((done) => (open.onsuccess = done));
      const asked = open.result.transaction('drafts').objectStore('drafts').get('newer');
      await new Promise((done) => (asked.onsuccess = done));
      return (asked.result as { draft: number }).draft;
    });
    expect(kept).toBe(2);
  });

  test('features of the application, wrong ones told; all of it goes with the bar', async () => {
    const page = await openDrawing();
    const before = await page.evaluate(() => {
      window.bar.remove();
      return window.flintwright.liveCounts();
    });
    const line = {
      type: 'LineString',
      coordinates: [
        [-31.19, 44.62],
        [-31.17, 44.62],
      ],
    };
    const given = {
      type: 'FeatureCollection',
      features: [{ type: 'Feature', geometry: line, properties: { ref: 'L1' } }],
    };
    await addBar({ features: given, idName: 'ref' });
    await settled(stage);
    await page.evaluate(() => window.bar.select('L1'));
    await frame(page);
    expect(await page.locator('.flint-handle').count()).toBe(5);
    await page.evaluate(() => window.bar.remove());
    const after = await page.evaluate(() => window.flintwright.liveCounts());
    expect(after.elements).toBe(before.elements);
    expect(await page.evaluate(() => window.map.layers.all.length)).toBe(0);
    const codes = await page.evaluate((geometry) => {
      const { DrawBar } = window.drawing;
      const tell = (options: object) => {
        try {
          new DrawBar(window.map, options);
          return '';
        } catch (error) {
          return (error as { code: string }).code;
        }
      };
      const same = { type: 'Feature', id: 1, geometry, properties: {} };
      return [
        tell({ features: { features: [{ type: 'Feature', geometry: null }] } }),
        tell({ features: { features: [same, same] } }),
        tell({ tolls: [] }),
      ];
    }, line);
    expect(codes).toEqual(['draw.features', 'edit.key', 'option.unknown']);
  });
});

test('measuring: distance, bearing, area, in units of choice; it leaves nothing behind', async () => {
  await openMap(stage, plain, view);
  const { page } = stage;
  const before = await page.evaluate(() => {
    const { Measure } = window.drawing;
    new Measure(window.map);
    return window.flintwright.liveCounts().elements;
  });
  await tool(page, 'Measure').click();
  await press(page, [300, 200], [500, 200]);
  const says = page.locator('.flint-measure [role="status"]');
  // 200 pixels at zoom 14 and 44.6° north: 200 · 40 075 017 m / (256 · 2^14) · cos 44.62° on the sphere, a little more on the ellipsoid.
  expect(await says.innerText()).toMatch(/^1\.36\d? km, 90°$/);
  await page.getByLabel('Units').selectOption('nautical');
  expect(await says.innerText()).toMatch(/^(1,36\d|1,36\d\.\d|0\.73\d*) (m|nmi), 90°$/);
  await page.getByLabel('Units').selectOption('imperial');
  expect(await says.innerText()).toMatch(/^4,\d+(\.\d)? ft, 90°$/);
  await press(page, [500, 400], [300, 200]);
  await frame(page);
  expect(await says.innerText()).toMatch(/ac · /);
  await page.locator('.flint-canvas').focus();
  await page.keyboard.press('Escape');
  expect(await page.evaluate(() => window.flintwright.liveCounts().elements)).toBe(before);
  expect(await page.evaluate(() => window.map.layers.all.length)).toBe(0);
});
