// What makes a map an application: clusters, popups, controls, the element, and the examples, pressed and typed at as a user would.
import { createRequire } from 'node:module';
import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { collection, faultsOf, openMap, pixels, point, settled, useStage } from './harness.ts';

const stage = useStage();
const view = { center: [0, 0], zoom: 5 };
const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

const clustered = (features: object[], cluster: object = {}, layer: object = {}): Sheet =>
  ({
    sheet: 1,
    data: { d: { features: collection(...features), cluster: { within: 50, until: 8, ...cluster } } },
    background: '#ffffff',
    layers: [
      {
        id: 'l',
        of: 'd',
        mark: { size: 20, color: { by: 'k', categories: { a: '#ff0000', b: '#0000ff' } } },
        ...layer,
      },
    ],
  }) as Sheet;

async function openExample(path: string): Promise<void> {
  await stage.page.setViewportSize({ width: 1280, height: 800 });
  await stage.page.goto(`${stage.base}${path}`);
  await stage.page.waitForFunction(() => window.map?.settled);
  await settled(stage);
}

describe('clusters', () => {
  test('gather by pixels, open on a press, fan out where all share one place, and follow a filter', async () => {
    const { page } = stage;
    const near = [
      point(-5, 3, { k: 'a', n: 1 }, 1),
      point(-4.8, 3, { k: 'a', n: 2 }, 2),
      point(-4.9, 3.1, { k: 'b', n: 3 }, 3),
    ];
    const one = [4, 5, 6].map((id) => point(6, -3, { k: 'b', n: id }, id));
    await openMap(
      stage,
      clustered(
        [...near, ...one, point(0, 6, { k: 'a', n: 9 }, 9)],
        { share: 'k', sum: { n: 'n' } },
        { popup: { title: 'n' } },
      ),
      view,
    );
    await settled(stage);
    const at = (lon: number, lat: number) => page.evaluate(([x, y]) => window.map.toPixel([x, y]), [lon, lat]);
    // The single point is drawn as its layer says; a cluster is a slate cairn.
    const [x, y] = await at(0, 6);
    const [cx, cy] = await at(6, -3);
    const [single, core] = await pixels(stage, [Math.round(x), Math.round(y)], [Math.round(cx), Math.round(cy) - 9]);
    expect(single).toEqual([255, 0, 0]);
    expect(core.every((v) => v < 90)).toBe(true);
    expect(await page.evaluate(([px, py]) => window.map.pick([px, py])[0]?.properties, [x, y])).toEqual({
      k: 'a',
      n: 9,
    });

    // Three on one spot never come apart by zooming: they fan out, and each can be pressed.
    await page.mouse.click(cx, cy);
    await settled(stage);
    const fanned = await page.evaluate(
      ([px, py]) =>
        [0, 1, 2].map(
          (i) =>
            window.map.pick([
              px + 26 * Math.cos((i / 3) * 2 * Math.PI - Math.PI / 2),
              py + 26 * Math.sin((i / 3) * 2 * Math.PI - Math.PI / 2),
            ])[0]?.id,
        ),
      [cx, cy],
    );
    expect([...fanned].sort()).toEqual([4, 5, 6]);

    const presses = await page.evaluate(() => {
      const seen: { count: number; sums: Record<string, number>; shares: readonly number[] }[] = [];
      window.map.addEventListener('press', (event) => {
        const { cluster } = (event as CustomEvent).detail as { cluster?: { node: (typeof seen)[0] } };
        if (cluster) seen.push({ count: cluster.node.count, sums: cluster.node.sums, shares: cluster.node.shares });
      });
      return ((window as unknown as { seen: typeof seen }).seen = seen);
    });
    expect(presses).toEqual([]);
    const [nx, ny] = await at(-4.9, 3.03);
    await page.mouse.click(nx, ny);
    await settled(stage);
    expect(await page.evaluate(() => (window as unknown as { seen: unknown[] }).seen)).toEqual([
      { count: 3, sums: { n: 6 }, shares: [2, 1, 0] },
    ]);
    const { zoom, center } = await page.evaluate(() => window.map.view);
    expect(zoom).toBeGreaterThan(6);
    expect(Math.abs(center[0] + 4.9)).toBeLessThan(0.05);

    await page.evaluate(() => {
      window.map.layers.change('l', { where: "k = 'b'" });
      return window.map.move({ center: [0, 0], zoom: 5 });
    });
    await settled(stage);
    const left = await page.evaluate(async () => {
      const places: [number, number][] = [
        [-4.9, 3.1],
        [0, 6],
      ];
      return places.map((p) => window.map.pick(window.map.toPixel(p)).length);
    });
    expect(left).toEqual([1, 0]);
  });

  test('tiles cannot be clustered, and say so', async () => {
    const sheet = {
      sheet: 1,
      data: { t: { tiles: 'x.pmtiles', cluster: {} } },
      layers: [{ id: 'l', of: 't/a', mark: {} }],
    };
    await stage.page.goto(`${stage.base}/test/`);
    await stage.page.waitForFunction(() => 'flintwright' in window);
    const said = await stage.page.evaluate(
      (s) => window.flintwright.checkSheet(s).map(({ code, at }) => [code, at]),
      sheet,
    );
    expect(said).toContainEqual(['sheet.cluster', '$.data.t.cluster']);
  });
});

describe('popups', () => {
  test('sixty hostile texts run nothing, load nothing, and leave nothing that could', async () => {
    const { page } = stage;
    await openMap(stage, { sheet: 1, layers: [] }, view);
    // The browser tells of what the page's policy would have kept from running, even where it is only parsed.
    stage.expected = /Content Security Policy/;
    const call = 'window.caught=1';
    const tags = [
      'img',
      'svg',
      'video',
      'audio',
      'body',
      'iframe',
      'object',
      'embed',
      'input',
      'details',
      'marquee',
      'math',
    ];
    const handlers = ['onerror', 'onload', 'onclick', 'onmouseover', 'onfocus', 'ontoggle'];
    const hostile = [
      ...tags.map((tag, i) => `<${tag} src=x ${handlers[i % handlers.length]}="${call}">`),
      ...handlers.map((name) => `<img src=x ${name.toUpperCase()}=${call}>`),
      `<script>${call}</script>`,
      `<SCRIPT>${call}</SCRIPT>`,
      `<scr<script>ipt>${call}</scr</script>ipt>`,
      `<svg><script>${call}</script></svg>`,
      `<svg/onload=${call}>`,
      `<svg><animate onbegin=${call} attributeName=x dur=1s>`,
      `<svg><a xlink:href="javascript:${call}"><text>x</text></a></svg>`,
      `<math><mtext><table><mglyph><style><img src=x onerror=${call}>`,
      `<a href="javascript:${call}">x</a>`,
      `<a href=" java&#10;script:${call}">x</a>`,
      `<a href="data:text/html,<script>${call}</script>">x</a>`,
      `<a href="vbscript:${call}">x</a>`,
      `<form action="javascript:${call}"><button>x</button></form>`,
      `<button formaction="javascript:${call}">x</button>`,
      `<iframe srcdoc="<script>parent.caught=1</script>"></iframe>`,
      `<iframe src="javascript:parent.caught=1"></iframe>`,
      `<object data="javascript:${call}"></object>`,
      `<embed src="javascript:${call}">`,
      `<link rel=stylesheet href="javascript:${call}">`,
      `<meta http-equiv=refresh content="0;url=javascript:${call}">`,
      `<base href="https://example.invalid/">`,
      `<style>@import 'https://example.invalid/x.css'</style>`,
      `<div style="background:url(javascript:${call})">x</div>`,
      `<div style="width:expression(${call})">x</div>`,
      `<input autofocus onfocus=${call}>`,
      `<details open ontoggle=${call}>x</details>`,
      `<video><source onerror=${call}></video>`,
      `<img src="x" srcset="x 1x" onerror=${call}>`,
      `<table background="javascript:${call}"><td>x</table>`,
      `<template><script>${call}</script></template>`,
      `<noscript><p title="</noscript><img src=x onerror=${call}>">`,
      `<textarea><img src=x onerror=${call}></textarea>`,
      `<title><img src=x onerror=${call}></title>`,
      `<xmp><img src=x onerror=${call}></xmp>`,
      `<!--><img src=x onerror=${call}>-->`,
      `<![CDATA[<img src=x onerror=${call}>]]>`,
      `<p id=map name=map>x</p>`,
      `<a id=map href=x>x</a><form name=documentElement><input name=attributes></form>`,
      `<slot onslotchange=${call}>x</slot>`,
      `<dialog open onclose=${call}>x</dialog>`,
      `<select onchange=${call}><option>x</select>`,
      `<a href="https://example.com/" onclick=${call} target=_self>x</a>`,
    ];
    expect(hostile.length).toBeGreaterThanOrEqual(60);
    const left = await page.evaluate(async (texts) => {
      const bad: string[] = [];
      for (const html of texts) {
        const popup = window.map.popup({ at: [0, 0], title: html, text: html, lines: { [html]: html }, html });
        await popup.ready;
        const own = document.querySelector('.flint-popup')!;
        for (const element of own.querySelectorAll('*')) {
          for (const { name, value } of element.attributes)
            if (/^on|^style$|^srcset$/i.test(name) || /^\s*(javascript|vbscript|data:text)/i.test(value))
              bad.push(`${element.localName} ${name}=${value}`);
          if (/^(script|style|iframe|object|embed|form|base|meta|link|input)$/.test(element.localName))
            bad.push(element.localName);
          if (element instanceof HTMLElement) element.click();
        }
        popup.remove();
      }
      await new Promise((resolve) => setTimeout(resolve, 200));
      return {
        bad,
        caught: (window as unknown as { caught?: number }).caught ?? 0,
        open: document.querySelectorAll('.flint-popup').length,
      };
    }, hostile);
    expect(left).toEqual({ bad: [], caught: 0, open: 0 });
    const link = await page.evaluate(async () => {
      const html = 'see <a href="https://example.com/">there</a> and <b>here</b>';
      await window.map.popup({ at: [0, 0], html }).ready;
      const anchor = document.querySelector('.flint-html a')!;
      return [
        anchor.getAttribute('target'),
        anchor.getAttribute('rel'),
        document.querySelector('.flint-html')!.textContent,
      ];
    });
    expect(link).toEqual(['_blank', 'noopener noreferrer nofollow', 'see there and here']);
  });

  test('focus goes in and comes back; Escape closes; several may be open; one may stay', async () => {
    const { page } = stage;
    await openMap(stage, { sheet: 1, layers: [] }, view);
    await page.locator('canvas').focus();
    await page.evaluate(() => {
      window.map.popup({ at: [0, 0], title: 'first' });
      window.map.popup({ at: [5, 0], title: 'second', stays: true });
    });
    expect(await page.evaluate(() => document.activeElement?.getAttribute('aria-label'))).toBe('second');
    await page.keyboard.press('Escape');
    expect(await page.locator('.flint-popup').count()).toBe(1);
    await page.evaluate(() => void window.map.popup({ at: [5, 0], title: 'third', stays: true }));
    await page.mouse.click(700, 550);
    expect(await page.getByRole('dialog').allTextContents()).toEqual([expect.stringContaining('third')]);
  });
});

describe('controls', () => {
  test('the rail: buttons, track by pointer and keys, compass, home; the reader’s place or why it is not known', async () => {
    const { page, browser, base } = stage;
    await openMap(stage, { sheet: 1, layers: [], view: { limits: { zoom: [2, 10] } } } as Sheet, {
      ...view,
      bearing: 40,
      tilt: 30,
    });
    await page.evaluate(() => {
      new window.flintwright.Rail(window.map, { parts: ['zoom', 'compass', 'home', 'locate', 'fullscreen'] });
      new window.flintwright.ScaleBar(window.map, { units: 'nautical' });
    });
    const zoom = async () => {
      await settled(stage);
      return page.evaluate(() => window.map.view.zoom);
    };
    const slider = page.getByRole('slider', { name: 'Zoom level' });
    await page.getByRole('button', { name: 'Zoom in' }).click();
    expect(await zoom()).toBe(6);
    await slider.focus();
    await page.keyboard.press('ArrowDown');
    expect(await zoom()).toBeCloseTo(5, 5);
    await page.keyboard.press('End');
    expect(await zoom()).toBe(10);
    expect(await slider.getAttribute('aria-valuenow')).toBe('10.0');
    const track = (await page.locator('.flint-track').boundingBox())!;
    await page.mouse.move(track.x + 14, track.y + 1);
    await page.mouse.down();
    await page.mouse.move(track.x + 14, track.y + track.height / 2, { steps: 4 });
    await page.mouse.up();
    expect(Math.abs((await zoom()) - 6)).toBeLessThan(0.3);
    await page.getByRole('button', { name: 'North up and straight down' }).click();
    await settled(stage);
    expect(await page.evaluate(() => [window.map.view.bearing, window.map.view.tilt])).toEqual([0, 0]);
    await page.getByRole('button', { name: 'Back to the first view' }).click();
    expect(await zoom()).toBe(5);
    // At zoom 5 on the equator a pixel is 4891.97 m (40 075 016.69 m / 8192); 200 nmi are 75.7 pixels.
    expect(await page.locator('.flint-scale').textContent()).toBe('200 nmi');
    const bar = (await page.locator('.flint-bar-line').boundingBox())!;
    expect(Math.abs(bar.width - 76)).toBeLessThanOrEqual(3);
    await page.evaluate(() => window.map.move({ center: [0, 60], zoom: 5 }));
    await settled(stage);
    expect(await page.locator('.flint-scale').textContent()).toBe('100 nmi');

    await page.getByRole('button', { name: 'Show where I am' }).click();
    await page.waitForFunction(() => window.faults.length > 0);
    expect((await faultsOf(stage))[0].code).toMatch(/^locate\./);
    const allowed = await browser.newContext({
      geolocation: { longitude: 4, latitude: 3, accuracy: 3000 },
      permissions: ['geolocation'],
    });
    const other = await allowed.newPage();
    await other.goto(`${base}/test/`);
    await other.waitForFunction(() => 'flintwright' in window);
    await other.evaluate(() => {
      window.map = window.flintwright.createMap('#map', { view: { center: [0, 0], zoom: 3 } });
      new window.flintwright.Rail(window.map);
    });
    await other.getByRole('button', { name: 'Show where I am' }).click();
    await other.waitForFunction(() => Math.abs(window.map.view.center[0] - 4) < 0.1, null, { timeout: 15000 });
    expect(await other.evaluate(() => window.map.layers.find('flint-here') !== undefined)).toBe(true);
    await allowed.close();
    await page.evaluate(() => window.map.remove());
    expect(await page.locator('#map').innerHTML()).toBe('');
  });

  test('the drawer shows and hides layers and sets their opacity, and follows what the application does', async () => {
    const { page } = stage;
    await openMap(stage, clustered([point(0, 0, { k: 'a' }, 1)], {}, { title: 'Points' }), view);
    await page.evaluate(() => {
      const own = document.createElement('p');
      own.textContent = 'of the application';
      new window.flintwright.Drawer(window.map, { title: 'A drawer', elements: [own] });
    });
    await settled(stage);
    await page.getByLabel('Points', { exact: true }).uncheck();
    await settled(stage);
    expect(await page.evaluate(() => window.map.layers.find('l')!.visible)).toBe(false);
    await page.evaluate(() => window.map.layers.show('l'));
    expect(await page.getByLabel('Points', { exact: true }).isChecked()).toBe(true);
    await page.getByLabel('Opacity of Points').fill('0.5');
    expect(await page.evaluate(() => window.map.layers.find('l')!.opacity)).toBe(0.5);
    expect(await page.locator('.flint-drawer').textContent()).toContain('of the application');
    await page.getByRole('button', { name: 'Close the drawer' }).click();
    expect(await page.locator('.flint-drawer .flint-card').isVisible()).toBe(false);
  });

  test('the view in the address: read at the beginning, kept when the map rests', async () => {
    const { page, base } = stage;
    await page.goto(`${base}/test/#at=12.5,41.25/6/10/20`);
    await page.waitForFunction(() => 'flintwright' in window);
    await page.evaluate(
      () =>
        void (window.map = window.flintwright.createMap('#map', {
          view: { center: [0, 0], zoom: 3 },
          permalink: true,
        })),
    );
    expect(await page.evaluate(() => window.map.view)).toEqual({
      center: [12.5, 41.25],
      zoom: 6,
      bearing: 10,
      tilt: 20,
    });
    await page.evaluate(() => window.map.move({ center: [1, 2], zoom: 4, bearing: 0, tilt: 0 }));
    await page.waitForFunction(() => location.hash === '#at=1,2/4');
    await page.evaluate(() => window.map.home());
    await settled(stage);
    expect(await page.evaluate(() => window.map.view.zoom)).toBe(3);
  });
});

describe('more of what applications need', () => {
  test('ten thousand markers move; maps in step; limits of place; a button; a popup on hover; replaced words', async () => {
    const { page } = stage;
    const limited = {
      sheet: 1,
      data: { d: { features: collection(point(0, 0, { n: 'here' }, 1)) } },
      view: { limits: { bounds: [-20, -10, 20, 10] } },
      layers: [{ id: 'l', of: 'd', mark: { size: 20, color: '#ff0000' }, popup: { title: 'n', on: 'hover' } }],
    };
    await openMap(stage, limited as unknown as Sheet, view, { strings: { zoomIn: 'Näher' } });
    await page.evaluate(() => {
      const { Button, createMap, syncViews, Rail } = window.flintwright;
      new Rail(window.map);
      new Button(window.map, {
        label: 'Count',
        path: 'M4 4H20V20H4Z',
        press: () => Object.assign(window, { counted: 1 }),
      });
      const second = document.createElement('div');
      second.style.cssText = 'position:absolute;left:0;top:0;width:200px;height:150px';
      document.body.append(second);
      const other = createMap(second, { view: { center: [50, 50], zoom: 2 } });
      Object.assign(window, { other, letGo: syncViews([window.map, other]) });
    });
    await settled(stage);
    await page.mouse.move(400, 300);
    await settled(stage);
    expect(await page.getByRole('dialog').textContent()).toContain('here');
    expect(await page.evaluate(() => document.activeElement?.className ?? '')).not.toContain('popup');
    await page.mouse.move(500, 450);
    expect(await page.getByRole('dialog').count()).toBe(0);
    await page.getByRole('button', { name: 'Count' }).click();
    expect(await page.evaluate(() => 'counted' in window)).toBe(true);
    expect(await page.getByRole('button', { name: 'Näher' }).count()).toBe(1);

    await page.evaluate(() => window.map.move({ center: [90, -60] }));
    const other = () => page.evaluate(() => (window as unknown as { other: Library['map'] }).other.view);
    expect(await page.evaluate(() => window.map.view.center)).toEqual([20, -10]);
    expect((await other()).center).toEqual([20, -10]);
    await page.evaluate(() => (window as unknown as { other: Library['map'] }).other.move({ zoom: 6 }));
    expect(await page.evaluate(() => window.map.view.zoom)).toBe(6);
    await page.evaluate(() => {
      (window as unknown as { letGo: { remove(): void } }).letGo.remove();
      return window.map.move({ zoom: 4 });
    });
    expect((await other()).zoom).toBe(6);

    const seen = await page.evaluate(async () => {
      (window as unknown as { other: Library['map'] }).other.remove();
      const { map } = window;
      await map.move({ center: [0, 0], zoom: 4 });
      const markers = Array.from({ length: 10000 }, (_, i) =>
        map.markers.add({ at: [(i % 100) / 10 - 5, Math.floor(i / 100) / 10 - 5], size: 6 }),
      );
      for (const marker of markers) marker.change({ at: [marker.at[0] + 1, marker.at[1]] });
      await map.settled();
      return { size: map.markers.size, calls: map.lastFrame.calls };
    });
    expect(seen.size).toBe(10000);
    // The mark, and all markers at once.
    expect(seen.calls).toBe(2);
  });
});

type Library = Pick<Window, 'map'>;

describe('examples', () => {
  test('the ferry board: ferries move ten times a second, stop, and are framed by their buttons', async () => {
    const { page } = stage;
    // What moves ten times a second never settles.
    await page.setViewportSize({ width: 1280, height: 800 });
    await page.goto(`${stage.base}/ferries/`);
    await page.waitForFunction(() => document.querySelectorAll('.lines span').length === 5);
    const texts = () => page.locator('.lines span').allTextContents();
    const before = await texts();
    await page.waitForFunction((was) => document.querySelector('.lines span')!.textContent !== was, before[0], {
      timeout: 20000,
    });
    await page.getByRole('button', { name: 'Under way' }).click();
    const still = await texts();
    await page.waitForTimeout(700);
    expect(await texts()).toEqual(still);
    await page.getByRole('button', { name: 'Wether Packet' }).click();
    await page.waitForFunction(() => window.map.view.center[0] > -31.09, null, { timeout: 15000 });
    await page.getByRole('button', { name: 'Back to the first view' }).click();
    await page.waitForFunction(() => Math.abs(window.map.view.center[0] + 31.14) < 1e-6, null, { timeout: 15000 });
  });

  test('the mooring finder: clusters, filter, units, popup', async () => {
    const { page } = stage;
    await openExample('/moorings/');
    const press = async (lon: number, lat: number) => {
      const at = await page.evaluate(([x, y]) => window.map.toPixel([x, y]), [lon, lat]);
      await page.mouse.click(at[0], at[1]);
      await settled(stage);
    };
    await page.evaluate(() => window.map.move({ center: [-31.1427, 44.6186], zoom: 17 }));
    await settled(stage);
    const found = await page.evaluate(() => {
      for (let y = 100; y < 780; y += 8)
        for (let x = 300; x < 1200; x += 8) {
          const [feature] = window.map.pick([x, y], { layers: ['moorings'] });
          if (feature)
            return {
              at: (feature.geometry as { coordinates: [number, number] }).coordinates,
              name: feature.properties['name'],
              kind: feature.properties['kind'],
            };
        }
      return undefined;
    });
    expect(found).toBeDefined();
    await press(...found!.at);
    expect(await page.getByRole('dialog').textContent()).toMatch(
      new RegExp(`${String(found!.name)}.*${String(found!.kind)}.* m`),
    );
    await page.getByLabel('feet').check();
    await settled(stage);
    await press(...found!.at);
    expect(await page.getByRole('dialog').last().textContent()).toMatch(/ ft/);
    await page.getByLabel(String(found!.kind), { exact: true }).uncheck();
    await settled(stage);
    const gone = await page.evaluate(
      (at) => window.map.pick(window.map.toPixel(at), { layers: ['moorings'] }).length,
      found!.at,
    );
    expect(gone).toBe(0);
  });

  test('the bird watch: heat and flocks of the same data', async () => {
    const { page } = stage;
    await openExample('/birds/');
    expect(await page.locator('.key').textContent()).toContain('Birds seen');
    await page.getByRole('button', { name: 'Flocks' }).click();
    await settled(stage);
    expect(await page.locator('.key').textContent()).toContain('amber wader');
    await page.getByLabel('copper teal').check();
    await settled(stage);
    const presses = await page.evaluate(async () => {
      const { size } = await new Promise<{ size: number }>((resolve) => {
        window.map.addEventListener('press', (event) => {
          event.preventDefault();
          resolve({
            size: ((event as CustomEvent).detail as { cluster?: { node: { count: number } } }).cluster?.node.count ?? 0,
          });
        });
        const canvas = document.querySelector('canvas')!;
        const at = window.map.toPixel([-31.13, 44.613]);
        const options = {
          clientX: at[0],
          clientY: at[1],
          pointerId: 1,
          button: 0,
          bubbles: true,
          pointerType: 'mouse',
        };
        canvas.dispatchEvent(new PointerEvent('pointerdown', options));
        canvas.dispatchEvent(new PointerEvent('pointerup', options));
        setTimeout(() => resolve({ size: -1 }), 3000);
      });
      return size;
    });
    expect(presses).not.toBe(-1);
  });

  test('plain HTML with nothing but the element: markers, a layer, attributes, events', async () => {
    const { page, base } = stage;
    await page.setViewportSize({ width: 1280, height: 800 });
    await page.goto(`${base}/plain/`);
    await page.waitForFunction(() => document.querySelector('flint-map')?.map !== undefined);
    await page.evaluate(() => {
      window.map = document.querySelector('flint-map')!.map!;
      document
        .querySelector('flint-map')!
        .addEventListener('press', (event) => Object.assign(window, { pressed: (event as CustomEvent).detail }));
    });
    await settled(stage);
    expect(
      await page.evaluate(() => window.map.layers.find('beds') !== undefined && window.map.markers.size === 2),
    ).toBe(true);
    const at = await page.evaluate(() => window.map.toPixel([-31.1845, 44.6218]));
    await page.mouse.click(at[0], at[1] - 14);
    expect(await page.getByRole('dialog').textContent()).toContain('harbour office');
    await page.mouse.click(640, 700);
    expect(await page.evaluate(() => 'pressed' in window)).toBe(true);
    await page.evaluate(() => document.querySelector('flint-map')!.setAttribute('center', '-31.1, 44.6'));
    await page.waitForFunction(() => Math.abs(window.map.view.center[0] + 31.1) < 1e-6);
    await page.evaluate(() => document.querySelector('flint-marker')!.remove());
    expect(await page.evaluate(() => window.map.markers.size)).toBe(1);
    await page.evaluate(() => document.querySelector('flint-map')!.remove());
    expect(await page.evaluate(() => document.querySelector('flint-map')?.map)).toBeUndefined();
  });

  test.each(['/harbour/', '/beds/', '/moorings/', '/birds/', '/ferries/'])('axe finds nothing on %s', async (path) => {
    const { page } = stage;
    await openExample(path);
    await page.evaluate(axe);
    const found = await page.evaluate(async () => {
      const { axe } = window as unknown as {
        axe: { run(): Promise<{ violations: { id: string; nodes: { html: string }[] }[] }> };
      };
      return (await axe.run()).violations.map(
        ({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html.slice(0, 90)).join(' | ')}`,
      );
    });
    expect(found).toEqual([]);
  });
});
