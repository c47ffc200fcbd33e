// What is on the map answers the pointer: events of features, clusters and markers; popups that link, show pictures and never open empty.
import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { box, collection, openMap, point, settled, useStage } from './harness.ts';

const stage = useStage();
const beds = collection(
  box(
    -3,
    -3,
    6,
    { name: 'Broad Bed', tonnes: 1234.5, opened: '2024-03-09', page: 'https://beds.example/1', shot: '' },
    1,
  ),
  box(6, -3, 3, { name: null, tonnes: null, opened: null, page: 'javascript:alert(1)', shot: null }, 2),
);
const sheet: Sheet = {
  sheet: 1,
  background: '#ffffff',
  data: { beds: { features: beds }, nets: { features: collection(point(-8, 4), point(-8.01, 4)), cluster: {} } },
  layers: [
    {
      id: 'beds',
      of: 'beds',
      fill: '#5fa8a0',
      popup: {
        title: 'name',
        lines: {
          Yield: { is: 'tonnes', unit: 't', digits: 1 },
          Opened: { is: 'opened', date: 'long' },
          Page: { is: 'name', href: 'page' },
        },
      },
    },
    { id: 'nets', of: 'nets', mark: { size: 10 } },
  ],
};

const at = (place: [number, number]) =>
  stage.page.evaluate((where) => window.map.toPixel(where as [number, number]), place);
const pressAt = async (place: [number, number]) => {
  const [x, y] = await at(place);
  await stage.page.mouse.click(x, y);
};
const heard = () => stage.page.evaluate(() => (window as unknown as { heard: string[] }).heard.splice(0));

describe('events', () => {
  test('of the map, with what is there; prevented, nothing more is done', async () => {
    const { page } = stage;
    await openMap(stage, sheet);
    await settled(stage);
    await page.evaluate(() => {
      const heard: string[] = ((window as unknown as { heard: string[] }).heard = []);
      for (const type of ['press', 'dblpress', 'contextmenu', 'pointerenter', 'pointerleave'] as const)
        window.map.addEventListener(type, (event) => {
          const { features, cluster, marker } = event.detail;
          const what = marker
            ? 'marker'
            : cluster
              ? `cluster of ${cluster.node.count}`
              : (features[0]?.id ?? 'nothing');
          heard.push(`${type} ${what}`);
          if (type === 'dblpress') event.preventDefault();
        });
    });
    await page.mouse.move(...(await at([1, 1])));
    await page.mouse.move(...(await at([2, 1])));
    await page.mouse.move(...(await at([7, -2])));
    await page.mouse.move(...(await at([-8, 4])));
    await page.mouse.move(...(await at([-8, 8])));
    expect(await heard()).toEqual([
      'pointerenter 1',
      'pointerleave 1',
      'pointerenter 2',
      'pointerleave 2',
      'pointerenter cluster of 2',
      'pointerleave cluster of 2',
    ]);
    await page.mouse.click(...(await at([1, 1])), { button: 'right' });
    await page.locator('canvas').focus();
    await page.keyboard.press('ContextMenu');
    expect(await heard()).toEqual(['pointerenter 1', 'contextmenu 1', 'contextmenu 1']);
    await page.mouse.dblclick(...(await at([1, 1])));
    await settled(stage);
    expect(await heard()).toEqual(['press 1', 'dblpress 1']);
    expect(await page.evaluate(() => window.map.view.zoom)).toBe(5);
  });

  test('of single markers and of <flint-marker>; the map hears after them', async () => {
    const { page } = stage;
    await openMap(stage, sheet);
    await settled(stage);
    await page.evaluate(async () => {
      const heard: string[] = ((window as unknown as { heard: string[] }).heard = []);
      const { map } = window;
      const drawn = map.markers.add({ at: [0, 8], icon: 'anchor', title: 'Quay' });
      const element = document.createElement('b');
      element.textContent = 'buoy';
      const shown = map.markers.add({ at: [8, 8], element, title: 'Buoy', anchor: 'center' });
      for (const type of ['press', 'contextmenu', 'pointerenter', 'pointerleave'] as const) {
        drawn.addEventListener(type, ({ detail }) => heard.push(`${type} ${detail.marker!.options.title}`));
        shown.addEventListener(type, (event) => {
          heard.push(`${type} ${event.detail.marker!.options.title}`);
          event.preventDefault();
        });
        map.addEventListener(type, ({ detail }) => heard.push(`map ${type} ${detail.marker?.options.title ?? '–'}`));
      }
      await map.settled();
    });
    const [x, y] = await at([0, 8]);
    await page.mouse.move(x, y - 20);
    await page.mouse.click(x, y - 20);
    await page.mouse.move(x, y - 200);
    expect(await heard()).toEqual([
      'pointerenter Quay',
      'map pointerenter Quay',
      'press Quay',
      'map press Quay',
      'pointerleave Quay',
      'map pointerleave Quay',
    ]);
    await page.locator('.flint-marker').hover();
    await page.locator('.flint-marker').click();
    await page.locator('.flint-marker').click({ button: 'right' });
    expect(await heard()).toEqual(['pointerenter Buoy', 'press Buoy', 'contextmenu Buoy']);
    expect(await page.locator('.flint-popup').count()).toBe(0);
  });
});

describe('<flint-marker>', () => {
  test('tells of the pointer, and what is written within is its popup, also when it changes', async () => {
    const { page } = stage;
    await page.goto(`${stage.base}/plain/`);
    await page.waitForFunction(() => customElements.get('flint-map') !== undefined);
    const at = await page.evaluate(async () => {
      const host = document.querySelector('flint-map')!;
      await host.map!.settled();
      const marker = host.querySelector('flint-marker')!;
      Object.assign(window, { told: [] as string[] });
      for (const type of ['press', 'pointerenter', 'contextmenu'] as const)
        marker.addEventListener(type, (event) => (window as unknown as { told: string[] }).told.push(event.type));
      marker.innerHTML = '<p>Closed for <i>painting</i>.</p>';
      await Promise.resolve();
      const [x, y] = host.map!.toPixel(marker.onMap!.at);
      const box = host.getBoundingClientRect();
      return [box.left + x, box.top + y - 18] as [number, number];
    });
    await page.mouse.move(...at);
    await page.mouse.click(...at);
    const popup = page.locator('.flint-popup');
    await popup.locator('i').waitFor();
    expect(await popup.innerText()).toContain('Closed for painting.');
    await page.mouse.click(...at, { button: 'right' });
    expect(await page.evaluate(() => (window as unknown as { told: string[] }).told)).toEqual([
      'pointerenter',
      'press',
      'contextmenu',
    ]);
  });
});

describe('popups', () => {
  test('of the sheet write numbers and dates, link safely, and do not open empty', async () => {
    const { page } = stage;
    await openMap(stage, sheet);
    await settled(stage);
    await pressAt([0, 0]);
    const popup = page.locator('.flint-popup');
    expect((await popup.locator('dl').innerText()).split('\n').filter(Boolean)).toEqual([
      'Yield',
      '1,234.5 t',
      'Opened',
      'March 9, 2024',
      'Page',
      'Broad Bed',
    ]);
    const link = popup.locator('a');
    expect([await link.getAttribute('href'), await link.getAttribute('rel')]).toEqual([
      'https://beds.example/1',
      'noopener noreferrer',
    ]);
    await page.keyboard.press('Escape');
    await pressAt([7, -2]);
    expect(await popup.count()).toBe(0);
  });

  test('take a picture; a missing one leaves its text, a script address nothing', async () => {
    const { page } = stage;
    stage.expected = /./;
    await openMap(stage, sheet);
    await settled(stage);
    const dot =
      'data:image/svg+xml,%3Csvg xmlns="http://www.w3.org/2000/svg" width="80" height="40"%3E%3Crect width="80" height="40" fill="teal"/%3E%3C/svg%3E';
    const found = await page.evaluate(async (src) => {
      const out: string[] = [];
      for (const image of [{ src, alt: 'A bed' }, { src: '/none.png', alt: 'Gone' }, { src: 'javascript:alert(1)' }]) {
        const popup = window.map.popup({ at: [0, 0], title: 'Bed', image });
        await new Promise((resolve) => setTimeout(resolve, 300));
        const body = document.querySelector('.flint-popup .flint-card > div')!;
        out.push(
          [...body.children]
            .map((child) => `${child.tagName} ${(child as HTMLImageElement).alt ?? child.textContent}`)
            .join(),
        );
        popup.remove();
      }
      return out;
    }, dot);
    expect(found.map((one) => one.replace(/^H2 [^,]*,?/, ''))).toEqual(['IMG A bed', 'P Gone', '']);
  });

  test('go with their marker, and the focus goes to the map, never to the page', async () => {
    const { page } = stage;
    await openMap(stage, sheet);
    await settled(stage);
    const focus = () => page.evaluate(() => document.activeElement?.className);
    await page.evaluate(() => {
      const marker = window.map.markers.add({ at: [0, 8], icon: 'anchor', popup: { title: 'Quay' } });
      Object.assign(window, { marker });
    });
    await settled(stage);
    const [x, y] = await at([0, 8]);
    await page.mouse.click(x, y - 20);
    await page.locator('.flint-popup').waitFor();
    expect(await focus()).toBe('flint-popup');
    await page.evaluate(() => (window as unknown as { marker: { remove(): void } }).marker.remove());
    expect([await page.locator('.flint-popup').count(), await focus()]).toEqual([0, 'flint-canvas']);
  });

  test('under the pointer wait for it to come onto them, and go by Escape', async () => {
    const { page } = stage;
    const hover: Sheet = {
      ...sheet,
      layers: [{ id: 'beds', of: 'beds', fill: '#5fa8a0', popup: { title: 'name', on: 'hover' } }],
    };
    await openMap(stage, hover);
    await settled(stage);
    const popup = page.locator('.flint-popup');
    const [x, y] = await at([0, 0]);
    await page.mouse.move(x, y);
    await popup.waitFor();
    const card = (await popup.boundingBox())!;
    await page.mouse.move(card.x + card.width / 2, card.y + card.height / 2, { steps: 4 });
    await page.waitForTimeout(600);
    expect(await popup.count()).toBe(1);
    await page.keyboard.press('Escape');
    expect(await popup.count()).toBe(0);
    await page.mouse.move(x, y);
    await popup.waitFor();
    await page.mouse.move(20, 580);
    await popup.waitFor({ state: 'detached' });
  });
});
