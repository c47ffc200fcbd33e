// Parts of the library that are fetched when a map first wants them: not before, whole when they come, and told of when they do not.
import { expect, test } from '@jest/globals';
import type { Fault, FrameTarget, Sheet } from 'flintwright';
import { box, countPixels, faultsOf, openMap, pixels, point, setSheet, settled, useStage } from './harness.ts';
import { isNear, sheetOf, view } from './sheets.ts';

const stage = useStage();
const late =
  /\/(schemes-door|all-shape-functions|legend-body|popup-texts|heat|images|cluster-layer|features-worker-text\.generated)-/;

/** The late parts that the page asks for from now on. */
function asked(): string[] {
  const names: string[] = [];
  stage.page.on('request', (request) => {
    const name = late.exec(request.url())?.[1];
    if (name) names.push(name.replace('.generated', ''));
  });
  return names;
}

const tiles = { reach: { tiles: '/reach.pmtiles' } };
const around = { center: [-31.18, 44.62], zoom: 12 };
const land = { id: 'land', of: 'reach/land', fill: '#ff0000' };

test('a map of tiles fetches none of them, and each comes with the first sheet that takes it', async () => {
  const names = asked();
  const sheet = (...layers: object[]) => ({ sheet: 1, data: tiles, background: '#ffffff', layers }) as unknown as Sheet;
  await openMap(stage, sheet(land), around);
  await settled(stage);
  expect(names).toEqual([]);
  const [all] = await countPixels(stage, [255, 0, 0]);
  expect(all).toBeGreaterThan(50_000);

  // West of 31.18° W, which is the middle of the page; the workers of tiles know no such function.
  const west = 'POLYGON((-32 44, -31.18 44, -31.18 45, -32 45, -32 44))';
  await setSheet(stage, sheet({ ...land, where: `S_WITHIN(geometry, ${west})` }));
  await settled(stage);
  expect(names.sort()).toEqual(['all-shape-functions', 'features-worker-text']);
  const [some] = await countPixels(stage, [255, 0, 0]);
  expect(some).toBeLessThan(all);
  await setSheet(stage, sheet({ ...land, where: 'area() > 0' }));
  await settled(stage);
  expect(await countPixels(stage, [255, 0, 0])).toEqual([all]);

  const blue = { by: 'area() > 0', categories: ['true', 'false'], scheme: 'Set1' };
  await setSheet(stage, sheet({ ...land, fill: { color: blue } }));
  await settled(stage);
  expect(names).toHaveLength(3);
  // The first colour of the scheme (C. Brewer, ColorBrewer, "Set1").
  expect(await countPixels(stage, [0xe4, 0x1a, 0x1c])).toEqual([all]);
  expect(await faultsOf(stage)).toEqual([]);
});

test('a scheme and a function of shapes in the first sheet of all', async () => {
  const names = asked();
  const features = [box(-4, -2, 3, { k: 'a' }), box(1, -2, 4, { k: 'b' })];
  const color = { by: 'k', categories: ['a', 'b'], scheme: 'Set1' };
  await openMap(stage, sheetOf(features, { fill: { color }, where: 'area() > 150e9' }), view);
  await settled(stage);
  expect(names.sort()).toEqual(['all-shape-functions', 'features-worker-text', 'schemes-door']);
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
  let free = () => {};
  const held = new Promise<void>((resolve) => (free = resolve));
  await page.route(/popup-texts/, async (route) => {
    await held;
    await route.continue();
  });
  const features = [box(-4, -2, 3, { name: 'Ash Bank' }), box(1, -2, 4, { name: 'Ember Bank' })];
  await openMap(stage, sheetOf(features, { fill: '#ff0000', popup: { title: 'name' } }), view);
  await settled(stage);
  expect(names).toEqual(['features-worker-text']);
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
  expect(names).toEqual(['features-worker-text', 'popup-texts']);
  await page.mouse.click(343, 311);
  expect(await opened()).toEqual([expect.stringContaining('Ash Bank')]);
});
