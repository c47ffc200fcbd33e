// Parts of the library that are fetched when a map first wants them: not before, whole when they come, and told of when they do not.
import { expect, test } from '@jest/globals';
import type { Fault, FrameTarget, Sheet } from 'flintwright';
import {
  box,
  collection,
  countPixels,
  faultsOf,
  openMap,
  pixels,
  point,
  setSheet,
  settled,
  useStage,
} from './harness.ts';
import { isNear, sheetOf, view } from './sheets.ts';

const stage = useStage();
const late =
  /\/(value-tools|schemes-door|all-shape-functions|labels|text-atlas|figure-brush|silent-texts|legend-body|popup-card|popup-texts|heat|images|framing|open-features|cluster-layer|(?:plain-|overlay-|overlay-values-|features-)?worker-text\.generated)-/;

/** The late parts that the page asks for from now on. */
function asked(): string[] {
  const names: string[] = [];
  stage.page.on('request', (request) => {
    const name = late.exec(request.url())?.[1];
    if (name) names.push(name.replace('.generated', ''));
  });
  return names;
}

/** Holds up what the page asks for by some name, until what is returned is called. */
async function held(name: RegExp): Promise<() => void> {
  let free = () => {};
  const wait = new Promise<void>((resolve) => (free = resolve));
  await stage.page.route(name, async (route) => {
    await wait;
    await route.continue();
  });
  return free;
}

const tiles = { reach: { tiles: '/reach.pmtiles' } };
const around = { center: [-31.18, 44.62], zoom: 12 };
const land = { id: 'land', of: 'reach/land', fill: '#ff0000' };

test('a plain map of tiles fetches its worker and nothing else, and each part comes with the first sheet that takes it', async () => {
  const names = asked();
  const sheet = (...layers: object[]) => ({ sheet: 1, data: tiles, background: '#ffffff', layers }) as unknown as Sheet;
  await openMap(stage, sheet(land), around);
  await settled(stage);
  expect(names).toEqual(['plain-worker-text']);
  const [all] = await countPixels(stage, [255, 0, 0]);
  expect(all).toBeGreaterThan(50_000);

  // West of 31.18° W, which is the middle of the page; the workers of tiles know no such function.
  const west = 'POLYGON((-32 44, -31.18 44, -31.18 45, -32 45, -32 44))';
  await setSheet(stage, sheet({ ...land, where: `S_WITHIN(geometry, ${west})` }));
  await settled(stage);
  expect(names.splice(0).sort()).toEqual([
    'all-shape-functions',
    'features-worker-text',
    'plain-worker-text',
    'value-tools',
  ]);
  const [some] = await countPixels(stage, [255, 0, 0]);
  expect(some).toBeLessThan(all);
  await setSheet(stage, sheet({ ...land, where: 'area() > 0' }));
  await settled(stage);
  expect(await countPixels(stage, [255, 0, 0])).toEqual([all]);

  const blue = { by: 'area() > 0', categories: ['true', 'false'], scheme: 'Set1' };
  await setSheet(stage, sheet({ ...land, fill: { color: blue } }));
  await settled(stage);
  expect(names).toEqual(['schemes-door']);
  // The first color of the scheme (C. Brewer, ColorBrewer, "Set1").
  expect(await countPixels(stage, [0xe4, 0x1a, 0x1c])).toEqual([all]);

  names.length = 0;
  const stars = { color: '#008000', width: 16, marks: { icon: 'square', gap: 30 } };
  await setSheet(stage, sheet({ ...land, fill: '#ffffff', stroke: stars }));
  await settled(stage);
  expect(names.sort()).toEqual(['figure-brush', 'silent-texts']);
  expect((await countPixels(stage, [0, 128, 0]))[0]).toBeGreaterThan(1000);
  expect(await faultsOf(stage)).toEqual([]);
});

test('a scheme and a function of shapes in the first sheet of all', async () => {
  const names = asked();
  const features = [box(-4, -2, 3, { k: 'a' }), box(1, -2, 4, { k: 'b' })];
  const color = { by: 'k', categories: ['a', 'b'], scheme: 'Set1' };
  await openMap(stage, sheetOf(features, { fill: { color }, where: 'area() > 150e9' }), view);
  await settled(stage);
  expect(names.sort()).toEqual([
    'all-shape-functions',
    'features-worker-text',
    'open-features',
    'schemes-door',
    'value-tools',
  ]);
  const [left, right] = await pixels(stage, [343, 311], [468, 300]);
  expect([isNear(left, [255, 255, 255]), isNear(right, [0x37, 0x7e, 0xb8])]).toEqual([true, true]);
  expect(await faultsOf(stage)).toEqual([]);
});

test('a part that cannot be fetched is told, all else is drawn, and it comes when it can', async () => {
  const { page } = stage;
  stage.expected = /Failed to fetch dynamically imported module/;
  const missing = new Set(['heat', 'legend-body']);
  await page.route(late, (route) =>
    missing.has(late.exec(route.request().url())![1]) ? route.abort() : route.continue(),
  );
  await page.clock.install();
  const sheet = sheetOf([box(-4, -2, 3), point(3, 3)], { fill: '#ff0000', legend: true });
  const heat = { id: 'h', of: 'd', heat: { radius: 40 } };
  await openMap(stage, { ...sheet, layers: [...sheet.layers, heat] } as unknown as Sheet, view);
  await page.evaluate(() => void window.map.legend());
  await settled(stage);
  expect(isNear((await pixels(stage, [343, 311]))[0], [255, 0, 0])).toBe(true);
  expect((await faultsOf(stage)).map(({ code }) => code)).toEqual(['part.load', 'part.load']);
  expect(await page.locator('.flint-legend').isVisible()).toBe(false);

  missing.clear();
  await page.clock.fastForward(31_000);
  await page.locator('.flint-legend').waitFor();
  await settled(stage);
  expect(isNear((await pixels(stage, [468, 231]))[0], [255, 255, 255])).toBe(false);
});

test('a call that takes a part that does not come is refused with a fault, and passes when it is there', async () => {
  const { page } = stage;
  stage.expected = /Failed to fetch dynamically imported module/;
  let missing = true;
  await page.route(/(geojson-places|surfaces)-/, (route) => (missing ? route.abort() : route.continue()));
  await openMap(stage, sheetOf([box(-4, -2, 3)], { fill: '#ff0000' }), view);
  const attempts = () =>
    page.evaluate(
      async (feature) => {
        const told: string[] = [];
        const attempt = (call: Promise<unknown>) =>
          call.then(
            () => told.push('passed'),
            ({ code, hint }: Fault) => told.push(`${code}: ${hint}`),
          );
        await attempt(window.map.frame(feature as FrameTarget, { duration: 0 }));
        await attempt(window.map.setSurface('globe'));
        return told;
      },
      box(-4, -2, 3),
    );
  const hint = 'part.load: Check the connection, and that all files of the application were published.';
  expect(await attempts()).toEqual([hint, hint]);
  missing = false;
  expect(await attempts()).toEqual(['passed', 'passed']);
});

test('the first press opens a popup of the sheet, though its texts are fetched only then; the next takes its place', async () => {
  const { page } = stage;
  const names = asked();
  const free = await held(/popup-texts/);
  const features = [box(-4, -2, 3, { name: 'Ash Bank' }), box(1, -2, 4, { name: 'Ember Bank' })];
  await openMap(stage, sheetOf(features, { fill: '#ff0000', popup: { title: 'name' } }), view);
  await settled(stage);
  expect(names.splice(0).sort()).toEqual(['open-features', 'overlay-worker-text']);
  const opened = () => page.getByRole('dialog').allTextContents();
  // By touch nothing points before it presses: what is chosen first is not shown any more once something else is.
  await page.evaluate(() => {
    const press = (x: number, y: number) => {
      const canvas = document.querySelector('.flint-canvas')!;
      const at = { clientX: x, clientY: y, pointerId: 1, isPrimary: true, bubbles: true, pointerType: 'touch' };
      canvas.dispatchEvent(new PointerEvent('pointerdown', { ...at, buttons: 1 }));
      canvas.dispatchEvent(new PointerEvent('pointerup', at));
    };
    press(343, 311);
    setTimeout(() => press(468, 300), 400);
  });
  await page.waitForTimeout(700);
  expect(await opened()).toEqual([]);
  free();
  await page.getByRole('dialog').waitFor();
  await settled(stage);
  expect(await opened()).toEqual([expect.stringContaining('Ember Bank')]);
  expect(names.sort()).toEqual(['popup-card', 'popup-texts']);
  await page.mouse.click(343, 311);
  expect(await opened()).toEqual([expect.stringContaining('Ash Bank')]);
});

test('a map that was plain gets labels, marks and workers that know them, and the tiles that are there stay on the map meanwhile', async () => {
  const { page } = stage;
  const names = asked();
  const free = await held(/\/worker-text/);
  const sheet = { sheet: 1, data: tiles, background: '#ffffff', layers: [land] } as unknown as Sheet;
  await openMap(stage, sheet, { ...around, zoom: 13 });
  await settled(stage);
  const [before] = await countPixels(stage, [255, 0, 0]);
  const workers = () => page.evaluate(() => window.flintwright.liveCounts().workers);
  const count = await workers();
  await page.evaluate(() =>
    window.map.layers.add({ id: 'places', of: 'reach/places', mark: {}, label: { text: 'name' } }),
  );
  await page.waitForTimeout(400);
  // All of it but what the bar that says that something is coming lies over.
  expect((await countPixels(stage, [255, 0, 0]))[0]).toBeGreaterThan(before - 2000);
  free();
  await settled(stage);
  expect(names.sort()).toEqual([
    'figure-brush',
    'labels',
    'plain-worker-text',
    'silent-texts',
    'text-atlas',
    'value-tools',
    'worker-text',
  ]);
  expect(await workers()).toBe(count);
  expect(await page.evaluate(() => window.map.labelTexts.length)).toBeGreaterThan(2);
  expect(await faultsOf(stage)).toEqual([]);
});

test('changes whose values cannot be read yet hold once they can; those that are not sound are told of and left out', async () => {
  const { page } = stage;
  const free = await held(/\/value-tools/);
  const features = [box(-4, -2, 3, { k: 'a' }), box(1, -2, 4, { k: 'b' })];
  await openMap(stage, sheetOf(features, { fill: '#ff0000', where: "k = 'a'" }), view);
  const thrown = await page.evaluate(() => {
    const { layers } = window.map;
    const codes: string[] = [];
    const attempt = (call: () => void) => {
      try {
        call();
      } catch (fault) {
        codes.push((fault as { faults: Fault[] }).faults.map(({ code }) => code).join());
      }
    };
    attempt(() => layers.add({ id: 'odd', of: 'd', where: "k = = 'b'", fill: '#00ff00' }));
    attempt(() => layers.add({ id: 'blue', of: 'd', where: "k = 'b'", fill: 'blue' }));
    attempt(() => layers.change('blue', { fill: 'bleu' }));
    // What is not of the form is refused in the call, as ever.
    attempt(() => layers.add({ id: 'lost', of: 'nowhere', fill: '#00ff00' }));
    attempt(() => layers.move('blue', { below: 'odd' }));
    return codes;
  });
  expect(thrown).toEqual(['sheet.data']);
  expect(await faultsOf(stage)).toEqual([]);
  free();
  await settled(stage);
  expect(await page.evaluate(() => (window.faults as Fault[]).map(({ code, at }) => [code, at]))).toEqual([
    ['cql2.syntax', expect.stringContaining('$.layers[1].where')],
    ['sheet.value', '$.layers[1].fill.color'],
  ]);
  expect(await page.evaluate(() => window.map.layers.all.map(({ id, fill }) => [id, fill]))).toEqual([
    ['l', '#ff0000'],
    ['blue', 'blue'],
  ]);
  const [left, right] = await pixels(stage, [343, 311], [468, 300]);
  expect([isNear(left, [255, 0, 0]), isNear(right, [0, 0, 255])]).toEqual([true, true]);
  // From now on such calls are refused at once.
  const again = await page.evaluate(() => {
    try {
      window.map.layers.change('blue', { fill: 'bleu' });
      return 'taken';
    } catch (fault) {
      return (fault as Fault).code;
    }
  });
  expect(again).toBe('sheet.invalid');
});

test('GeoJSON goes over to a worker that can do more with it when more is asked: its edits stay, and so do those of another sheet', async () => {
  const { page } = stage;
  const names = asked();
  const features = [box(-4, -2, 3, { k: 'a' }, 1), box(1, -2, 4, { k: 'b' }, 2)];
  await openMap(stage, sheetOf(features, { fill: '#ff0000' }), view);
  await settled(stage);
  expect(names.splice(0).sort()).toEqual(['open-features', 'overlay-worker-text']);
  const seen = async () => {
    await settled(stage);
    return (await pixels(stage, [343, 311], [468, 300])).map(([r, g, b]) =>
      [r > 200, g > 200, b > 200].map(Number).join(''),
    );
  };
  expect(await seen()).toEqual(['100', '100']);

  // An expression: the features go to a worker that knows such; what was asked of them meanwhile is done by it.
  const kept = await page.evaluate(async () => {
    window.map.layers.change('l', { fill: { color: { by: 'k', categories: { a: '#ff0000', b: '#0000ff' } } } });
    return (await window.map.features('d')).features.length;
  });
  expect(kept).toBe(2);
  expect(await seen()).toEqual(['100', '001']);
  expect(names.splice(0).sort()).toEqual(['overlay-values-worker-text', 'value-tools']);

  await page.evaluate(() => window.map.edit('l', { remove: ['1'] }));
  expect(await seen()).toEqual(['111', '001']);
  expect(names.splice(0)).toEqual(['features-worker-text']);
  await page.evaluate(() => window.map.layers.change('l', { fill: '#00ff00' }));
  expect(await seen()).toEqual(['111', '010']);
  expect(await page.evaluate(() => window.map.features('d').then((all) => all.features.length))).toBe(1);
  expect(await faultsOf(stage)).toEqual([]);
});

test('what a worker was to do that has not come yet is done by the one that takes its place', async () => {
  const { page } = stage;
  const free = await held(/\/(plain|overlay)-worker-text/);
  const beds = { features: collection(box(-31.2, 44.6, 0.02, { k: 'a' })) };
  const sheet = {
    sheet: 1,
    data: { ...tiles, beds },
    background: '#ffffff',
    layers: [land, { id: 'beds', of: 'beds', fill: '#0000ff' }],
  } as unknown as Sheet;
  await openMap(stage, sheet, { ...around, zoom: 13 });
  await page.waitForTimeout(700);
  await page.evaluate(() => window.map.layers.change('land', { fill: 'red' }));
  await settled(stage);
  const [red, blue] = await countPixels(stage, [255, 0, 0], [0, 0, 255]);
  expect([red > 50_000, blue > 10_000]).toEqual([true, true]);
  expect(await faultsOf(stage)).toEqual([]);
  free();
});

test('a surface does not wait for what colors take: it is in force when setSurface has come to its end', async () => {
  const free = await held(/\/schemes-door/);
  await openMap(stage, { sheet: 1, layers: [] });
  const at = () => stage.page.evaluate(() => window.map.toPixel([25, 20]));
  const before = await at();
  await stage.page.evaluate(
    async (features: unknown) => {
      window.map.layers.add({
        id: 'classed',
        of: { features },
        fill: { color: { by: 'v', classes: { breaks: [1], scheme: 'RdBu' } } },
      } as never);
      await window.map.setSurface({ method: 'mollweide' }, { duration: 0 });
    },
    collection(box(-9, -9, 18, { v: 2 })) as unknown,
  );
  const there = await at();
  expect(there).not.toEqual(before);
  free();
  await settled(stage);
  expect(await at()).toEqual(there);
  expect(await faultsOf(stage)).toEqual([]);
});

test('the graphics context is lost while the values of a new sheet cannot be read yet', async () => {
  const sheet = (fill: unknown) =>
    ({ sheet: 1, data: tiles, background: '#ffffff', layers: [{ ...land, fill }] }) as unknown as Sheet;
  await openMap(stage, sheet('#ff0000'), around);
  await settled(stage);
  const [all] = await countPixels(stage, [255, 0, 0]);
  const free = await held(/\/value-tools-/);
  await setSheet(stage, sheet({ color: { by: 'area() > 0', categories: { true: '#0000ff' }, other: '#ff0000' } }));
  await stage.page.evaluate(async () => {
    const gl = window.map.host.querySelector('canvas')!.getContext('webgl2')!;
    const lose = gl.getExtension('WEBGL_lose_context')!;
    const frames = async () => {
      for (let i = 0; i < 4; i++) await new Promise(requestAnimationFrame);
    };
    lose.loseContext();
    await frames();
    lose.restoreContext();
    await frames();
    void window.map.move({ zoom: window.map.view.zoom + 0.01 });
    await frames();
    void window.map.move({ zoom: window.map.view.zoom - 0.01 });
  });
  free();
  await settled(stage);
  const [blue] = await countPixels(stage, [0, 0, 255]);
  expect(Math.abs(blue / all - 1)).toBeLessThan(0.01);
});

test('features that are there before what measures shapes are drawn once that has come', async () => {
  const free = await held(/\/all-shape-functions-/);
  const big = box(-10, -10, 20, {}, 1);
  await openMap(stage, sheetOf([big], { where: 'area() > 1e12', fill: '#ff0000' }), view);
  await stage.page.waitForFunction(() => window.map.dataState('d') === 'ready');
  // Time for tiles that must not be asked for yet.
  await stage.page.waitForTimeout(500);
  free();
  await settled(stage);
  expect((await countPixels(stage, [255, 0, 0]))[0]).toBeGreaterThan(100_000);
});
