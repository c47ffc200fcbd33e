// The workbench from end to end: data dropped, a place found, a mooring added, a border corrected, the chart published and opened.
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { afterAll, describe, expect, test } from '@jest/globals';
import { main, serveFolder } from '@flintwright/cli';
import { Archive, bufferSource } from '@flintwright/core';
import { readFeatureFile } from '@flintwright/core/files';
import type { Locator, Page } from 'playwright-core';
import type { DrawBar } from 'flintwright/draw';
import type { DropZone } from 'flintwright/files';
import { openMap, useStage } from './harness.ts';

/** What the page of the workbench hands out. */
interface Bench {
  readonly draw: DrawBar;
  readonly zone: DropZone;
  readonly editor: {
    readonly view: {
      readonly state: { readonly doc: { toString(): string } };
      dispatch(change: object): void;
      focus(): void;
    };
  };
}

const stage = useStage();
const folder = mkdtempSync(join(tmpdir(), 'flintwright-'));
afterAll(() => rmSync(folder, { recursive: true }));
const demo = fileURLToPath(new URL('../../../demo/data', import.meta.url));
const quiet = { say: () => {}, warn: () => {}, progress: () => {} };

/** Opens a page by itself and gathers what it asks of anybody, and what it complains of. */
async function openAlone(address: string): Promise<{ page: Page; asked: string[]; wrong: string[] }> {
  const page = await stage.browser.newPage({ viewport: { width: 800, height: 600 } });
  const [asked, wrong]: [string[], string[]] = [[], []];
  page.on('request', (request) => {
    if (!/^(blob|data):/.test(request.url())) asked.push(request.url());
  });
  page.on('console', (message) => {
    if (message.type() === 'error') wrong.push(message.text());
  });
  page.on('pageerror', (error) => wrong.push(String(error)));
  await page.goto(address);
  await page.waitForFunction(() => typeof (window as { map?: { settled?: unknown } }).map?.settled === 'function');
  await page.evaluate(() => window.map.settled());
  return { page, asked, wrong };
}

/** How somebody works: everything that the path needs, by one means alone. */
interface Hands {
  press(target: Locator): Promise<void>;
  /** Puts the focus into a field, and writes. */
  write(target: Locator, text: string): Promise<void>;
  choose(target: Locator, value: string): Promise<void>;
  /** Presses on the map, in pixels of the page. */
  touch(x: number, y: number): Promise<void>;
  /** Moves a corner some pixels to the right. */
  pull(x: number, y: number, corner: Locator): Promise<void>;
}

const byPointer = (page: Page): Hands => ({
  press: (target) => target.click(),
  write: async (target, text) => {
    await target.click();
    await page.keyboard.type(text);
  },
  choose: async (target, value) => void (await target.selectOption(value)),
  touch: (x, y) => page.mouse.click(x, y),
  pull: async (x, y) => {
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x + 30, y, { steps: 4 });
    await page.mouse.up();
  },
});

const byTouch = (page: Page): Hands => ({
  ...byPointer(page),
  press: (target) => target.tap(),
  write: async (target, text) => {
    await target.tap();
    await page.keyboard.type(text);
  },
  touch: (x, y) => page.touchscreen.tap(x, y),
  pull: async (x, y) => {
    const session = await page.context().newCDPSession(page);
    const send = (type: 'touchStart' | 'touchMove' | 'touchEnd', to: number) =>
      session.send('Input.dispatchTouchEvent', { type, touchPoints: type === 'touchEnd' ? [] : [{ x: to, y }] });
    await send('touchStart', x);
    for (const step of [8, 18, 30]) await send('touchMove', x + step);
    // The finger rests before it is lifted, and the page follows: a tap that meets a throw only stops it, and one that a busy page
    // answers late is a long press.
    await page.waitForTimeout(150);
    await send('touchMove', x + 30);
    await send('touchEnd', 0);
    await page.evaluate(() => window.map.settled());
  },
});

/** By Tab, arrows, Enter and letters; nothing is focused but by keys. */
function byKeyboard(page: Page): Hands {
  const reach = async (target: Locator) => {
    const where = () =>
      target.evaluate((element) => {
        const { activeElement: now } = document;
        // Every stop is something to act on.
        if (now?.localName === 'svg') throw new Error('a drawing has the focus');
        return now === element ? 'there' : element.closest('[role="tablist"]')?.contains(now) ? 'beside' : 'elsewhere';
      });
    // The shorter way round, as somebody goes who sees where it is.
    const isBefore = await target.evaluate(
      (element) => document.activeElement!.compareDocumentPosition(element) & Node.DOCUMENT_POSITION_PRECEDING,
    );
    for (let k = 0; k < 250; k++) {
      const at = await where();
      if (at === 'there') return;
      // Within a list of tabs the arrows go from one to the next.
      await page.keyboard.press(at === 'beside' ? 'ArrowRight' : isBefore ? 'Shift+Tab' : 'Tab');
    }
    throw new Error('no key leads there');
  };
  return {
    press: async (target) => {
      await reach(target);
      await page.keyboard.press('Enter');
    },
    write: async (target, text) => {
      await reach(target);
      await page.keyboard.type(text);
    },
    choose: async (target, value) => {
      await reach(target);
      await page.keyboard.type(value);
    },
    touch: async (x, y) => {
      await reach(page.locator('.flint-canvas'));
      // Closer, and then moved until the place stands in the middle of the map.
      const away = await page.evaluateHandle(
        ([px, py]) => {
          const { left, top, width, height } = window.map.host.getBoundingClientRect();
          const place = window.map.toPlace([px - left, py - top])!;
          return () => {
            const [ax, ay] = window.map.toPixel(place);
            // An arrow leads a quarter of the smaller side on.
            return [ax - width / 2, ay - height / 2, Math.min(width, height) / 4] as const;
          };
        },
        [x, y] as const,
      );
      for (const [axis, plus, minus] of [
        [undefined, '+', '+'],
        [0, 'ArrowRight', 'ArrowLeft'],
        [1, 'ArrowDown', 'ArrowUp'],
      ] as const)
        for (let k = 0; k < 40; k++) {
          const seen = await page.evaluate((tell) => tell(), away);
          const [far, step] = [seen[axis ?? 0], seen[2]];
          if (axis === undefined ? k === 3 : Math.abs(far) <= step / 2 + 1) break;
          const presses = axis === undefined ? 1 : Math.max(1, Math.round(Math.abs(far) / step));
          for (let n = 0; n < presses; n++) await page.keyboard.press(far > 0 ? plus : minus);
          await page.waitForTimeout(450);
        }
      await page.keyboard.press('Enter');
    },
    pull: async (_x, _y, corner) => {
      await reach(corner);
      for (let k = 0; k < 3; k++) await page.keyboard.press('Shift+ArrowRight');
    },
  };
}

const saved = async (page: Page, hands: Hands, name: string): Promise<Buffer> => {
  const download = page.waitForEvent('download');
  await hands.press(page.locator('#save button', { has: page.getByText(name, { exact: true }) }));
  return readFileSync(await (await download).path());
};

const gull =
  '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 24 24"><circle cx="12" cy="12" r="11" fill="#c00040"/></svg>';

describe('the conservancy adds a missing mooring, corrects a lease’s border, and publishes the chart', () => {
  test.each(['pointer', 'touch', 'keyboard'] as const)(
    'by %s alone',
    async (means) => {
      const context = await stage.browser.newContext({
        hasTouch: means === 'touch',
        viewport: { width: 1000, height: 640 },
        // Movement is looked at by the first; the others go there at once.
        reducedMotion: means === 'pointer' ? 'no-preference' : 'reduce',
      });
      const page = await context.newPage();
      const wrong: string[] = [];
      page.on('pageerror', (error) => wrong.push(String(error)));
      const hands = { pointer: byPointer, touch: byTouch, keyboard: byKeyboard }[means](page);
      await page.goto(`${stage.base}/workbench/`);
      await page.waitForFunction(() => typeof window.map?.settled === 'function');
      const count = () => page.evaluate(() => (window as unknown as Bench).draw.features.features.length);
      // Data in.
      await hands.press(page.getByRole('button', { name: /Sea-bed leases/ }));
      await hands.press(page.getByRole('button', { name: /Correct leases/ }));
      await page.waitForFunction(() => (window as unknown as Bench).draw.features.features.length === 17);
      // An icon of one's own.
      await page.evaluate((svg) => (window as unknown as Bench).zone.take([new File([svg], 'gull.svg')]), gull);
      await page.waitForFunction(() => window.map.icons.own.includes('gull'));
      // The place of the mooring is found, and the mooring added.
      const search = page.getByRole('combobox', { name: /Search for a place/ });
      await hands.write(search, 'morring ag12');
      // The list of a shorter text has it too, further down.
      const found = page.getByRole('listbox', { name: 'Search results' }).getByRole('option').first();
      await found.filter({ hasText: 'Mooring AG12' }).waitFor();
      if (means === 'keyboard') for (const key of ['ArrowDown', 'Enter']) await page.keyboard.press(key);
      else await hands.press(found);
      await page.locator('.flint-popup').getByText('Mooring AG12').waitFor();
      await page.keyboard.press('Escape');
      await page.evaluate(() => window.map.settled());
      await hands.press(page.getByRole('button', { name: 'Draw a point' }));
      await hands.touch(740, 380);
      const form = page.locator('.flint-form');
      await hands.write(form.getByLabel('Name *'), 'AG12b');
      await hands.choose(form.getByLabel('Icon'), 'gull');
      await hands.choose(form.getByLabel('Kind'), 'mooring');
      await hands.press(form.getByRole('button', { name: 'Save' }));
      expect(await count()).toBe(18);
      // A border is corrected: a corner that two leases share.
      await hands.press(page.getByRole('button', { name: 'Select and edit' }));
      await page.evaluate(() => window.map.frame('drawn', { duration: 0 }));
      await page.evaluate(() => window.map.settled());
      const lease = await page.evaluate(() => {
        const [{ geometry }] = (window as unknown as Bench).draw.features.features;
        const ring = (geometry.coordinates as [number, number][][])[0].slice(0, -1);
        const middle = [0, 1].map((k) => ring.reduce((sum, at) => sum + at[k], 0) / ring.length) as [number, number];
        const box = window.map.host.getBoundingClientRect();
        const [x, y] = window.map.toPixel(middle);
        return { at: ring[2], x: x + box.left, y: y + box.top };
      });
      await hands.touch(lease.x, lease.y);
      const corner = page.getByRole('button', { name: /^Vertex 3 of/ });
      await corner.waitFor();
      const [x, y] = await page.evaluate((at) => {
        const box = window.map.host.getBoundingClientRect();
        const pixel = window.map.toPixel(at);
        return [pixel[0] + box.left, pixel[1] + box.top];
      }, lease.at);
      await hands.pull(x, y, corner);
      expect(await page.evaluate(() => JSON.stringify((window as unknown as Bench).draw.features))).not.toContain(
        JSON.stringify(lease.at).slice(1, -1),
      );
      // Styled, without text and with.
      await hands.press(page.getByRole('tab', { name: 'Style' }));
      const style = page.locator('#style');
      await style.getByRole('heading', { name: 'Corrections' }).waitFor();
      await hands.choose(style.getByLabel('Label'), 'name');
      await page.waitForFunction(() => JSON.stringify(window.map.layers.find('drawn')).includes('\\"name\\"'));
      await hands.press(page.getByRole('tab', { name: 'Sheet' }));
      await page.locator('.cm-content').waitFor();
      await page.waitForFunction(() => document.querySelector('.cm-content')!.textContent.includes('"sheet": 1'));
      // Saved in several forms: all have the mooring.
      await hands.press(page.getByRole('tab', { name: 'Publish' }));
      const geojson = JSON.parse((await saved(page, hands, 'GeoJSON')).toString()) as {
        features: { properties: { name?: string; icon?: string } }[];
      };
      expect(geojson.features.filter(({ properties }) => properties.name === 'AG12b')).toMatchObject([
        { properties: { icon: 'gull', kind: 'mooring' } },
      ]);
      const bytes = new Uint8Array(await saved(page, hands, 'GeoPackage'));
      const [layer] = (await readFeatureFile({ name: 'corrections.gpkg', bytes })).layers;
      expect([layer.features.length, layer.crs?.id]).toEqual([18, 'EPSG:32625']);
      const archive = await Archive.open(bufferSource(new Uint8Array(await saved(page, hands, 'Tiles'))));
      expect(archive.header.maxZoom).toBe(14);
      expect((await saved(page, hands, 'Picture')).subarray(1, 4).toString()).toBe('PNG');
      // Published, it opens from another port, asks nothing of anybody, and shows the corrections.
      const html = await saved(page, hands, 'Page');
      writeFileSync(join(folder, 'chart.html'), html);
      expect(html.toString()).toMatch(/<title>Chart of the Reach<\/title>/);
      expect(html.toString()).toContain('#c00040');
      const server = await serveFolder(folder);
      try {
        const address = await server.listen({ port: 0, host: 'localhost' });
        const alone = await openAlone(`${address.replace('[::1]', 'localhost')}/chart.html`);
        expect(alone.asked).toEqual([expect.stringMatching(/chart\.html$/)]);
        expect(alone.wrong).toEqual([]);
        const shown = await alone.page.evaluate(async () => {
          await window.map.frame('drawn', { duration: 0 });
          await window.map.settled();
          const { clientWidth, clientHeight } = window.map.host;
          const picked = window.map.pick([clientWidth / 2, clientHeight / 2], { within: 300 });
          return { layers: picked.map((one) => one.layer), icons: window.map.icons.own };
        });
        expect(shown.layers).toContain('drawn');
        expect(shown.icons).toEqual(['gull']);
        await alone.page.close();
      } finally {
        await server.close();
      }
      expect(wrong).toEqual([]);
      await context.close();
    },
    240000,
  );
});

describe('the sheet as text', () => {
  const slower = async (page: Page, rate: number) => {
    const session = await page.context().newCDPSession(page);
    await session.send('Emulation.setCPUThrottlingRate', { rate });
  };
  /** Puts the cursor behind the first place of a text, as a pointer or the search of the editor would. */
  const cursorAfter = (page: Page, text: string) =>
    page.evaluate((wanted) => {
      const view = (window as unknown as Bench).editor.view;
      const at = view.state.doc.toString().lastIndexOf(wanted) + wanted.length;
      view.dispatch({ selection: { anchor: at }, scrollIntoView: true });
      view.focus();
    }, text);
  /** @param slow how many times slower the page is from when the editor comes */
  const open = async (slow = 1) => {
    const { page, base } = stage;
    await page.setViewportSize({ width: 1200, height: 760 });
    await page.goto(`${base}/workbench/`);
    await page.waitForFunction(() => typeof window.map?.settled === 'function');
    await page.evaluate(async () => {
      await window.map.settled();
      window.map.layers.add({
        id: 'one',
        title: 'One',
        of: { features: { type: 'Point', coordinates: [-31.18, 44.62] } },
        mark: { shape: 'circle', size: 30, color: '#ff0000' },
      });
    });
    await slower(page, slow);
    await page.getByRole('tab', { name: 'Sheet' }).click();
    await page.locator('.cm-content').waitFor();
    await page.waitForFunction(() => (window as unknown as Bench).editor !== undefined);
    return page;
  };

  test('a change is on the map at once; keys and values are offered out of the schema and the map', async () => {
    // On a slow machine the editor has not read so far when keys are asked for.
    const page = await open(10);
    await cursorAfter(page, '"shape": "circle"');
    await page.keyboard.type(', ');
    await page.keyboard.press('Control+Space');
    await page.locator('.cm-tooltip-autocomplete').getByText('"outline"').waitFor();
    await slower(page, 1);
    expect(await page.locator('.cm-tooltip-autocomplete').getByText('"size"').count()).toBe(0);
    await page.keyboard.type('"opacity": 0.5');
    await page.waitForFunction(() => JSON.stringify(window.map.layers.find('one')!.mark).includes('"opacity":0.5'));
    await page.locator('#sheet-said', { hasText: 'The map shows this text' }).waitFor();
    // The features that stand on the map are still there.
    expect(await page.evaluate(async () => (await window.map.features('one')).features.length)).toBe(1);
    await cursorAfter(page, '"shape": ');
    await page.keyboard.press('Control+Space');
    await page.locator('.cm-tooltip-autocomplete').getByText('"anchor"', { exact: true }).waitFor();
  });

  test('the text keeps the method of class limits that the map computed', async () => {
    const page = await open();
    await page.evaluate(async () => {
      const features = [1, 2, 3, 5, 8, 13].map((n) => ({
        type: 'Feature',
        properties: { n },
        geometry: { type: 'Point', coordinates: [-31.18 + n / 1000, 44.62] },
      }));
      window.map.layers.add({
        id: 'classed',
        title: 'Classed',
        of: { features: { type: 'FeatureCollection', features } },
        mark: { color: { by: 'n', classes: { method: 'quantile', count: 3, scheme: 'YlGnBu' } } },
      });
      await window.map.settled();
    });
    await page.waitForFunction(() =>
      (window as unknown as Bench).editor.view.state.doc.toString().includes('"classed"'),
    );
    await cursorAfter(page, '"size": 3');
    await page.keyboard.type('1');
    await page.waitForFunction(() => JSON.stringify(window.map.layers.find('one')!.mark).includes('310'));
    for (const text of [
      await page.evaluate(() => (window as unknown as Bench).editor.view.state.doc.toString().replace(/\s+/g, '')),
      await page.evaluate(() => JSON.stringify(window.map.sheet)),
    ])
      expect(/"id":"classed".*/.exec(text)?.[0]).toContain(
        '"classes":{"method":"quantile","count":3,"scheme":"YlGnBu"}',
      );
  });

  test('a fault stands where it is, with its hint; the map keeps the last sound sheet', async () => {
    const page = await open();
    await cursorAfter(page, '"size": 3');
    await page.keyboard.type('x');
    await page.locator('#sheet-said', { hasText: 'Not JSON yet' }).waitFor();
    await page.keyboard.press('Backspace');
    await cursorAfter(page, '"color": "#ff00');
    await page.keyboard.type('zz');
    await page.locator('#sheet-said', { hasText: '1 fault' }).waitFor();
    const mark = page.locator('.cm-lintRange-error');
    await mark.waitFor();
    expect(await mark.textContent()).toContain('#ff00zz00');
    expect(await page.evaluate(() => window.map.layers.find('one')!.mark)).toMatchObject({ color: '#ff0000' });
  });
});

test('choices of style come with a file while the tab is open; a layer without features is not in the legend', async () => {
  const { page, base } = stage;
  await page.goto(`${base}/workbench/`);
  await page.waitForFunction(() => typeof window.map?.settled === 'function');
  await page.evaluate(() => window.map.settled());
  await page.getByRole('tab', { name: 'Style' }).click();
  const legend = page.locator('#legend');
  await page.waitForTimeout(200);
  expect(await legend.innerText()).not.toContain('Corrections');
  await page.evaluate(() => {
    const { zone } = window as unknown as Bench;
    zone.take([new File(['lon,lat,depth\n-31.18,44.62,3\n-31.19,44.63,5\n'], 'depths.csv')]);
  });
  await page.locator('#style h3', { hasText: 'depths' }).waitFor();
  await page.locator('#style option', { hasText: 'depth' }).first().waitFor({ state: 'attached' });
  await page.evaluate(() => {
    const { draw } = window as unknown as Bench;
    draw.add({
      features: [
        { type: 'Feature', properties: { name: 'A' }, geometry: { type: 'Point', coordinates: [-31.18, 44.62] } },
      ],
    });
  });
  await legend.getByText('Corrections').first().waitFor();
});

test('tiles are cut in a worker of their own; the work can be given up, and what is wrong is told', async () => {
  const { page } = stage;
  await openMap(stage, { sheet: 1, layers: [] }, { center: [0, 0], zoom: 2 });
  const [during, tiles, given, told, after] = await page.evaluate(async () => {
    const { tileArchive } = window.publishing;
    const { liveCounts } = window.flintwright;
    const features = Array.from({ length: 30000 }, (_, i) => ({
      ...{ type: 'Feature', properties: { n: i } },
      geometry: { type: 'Point', coordinates: [Math.sin(i) * 3, Math.cos(i * 7) * 3] },
    }));
    const idle = liveCounts().workers;
    let [done, most] = [0, 0];
    const progress = (count: number) => {
      done = count;
      most = Math.max(most, liveCounts().workers - idle);
    };
    const archive = await tileArchive({ features }, { name: 'n', zooms: [0, 9], progress });
    const ending = new AbortController();
    const gone = tileArchive({ features }, { signal: ending.signal }).catch((error: unknown) => String(error));
    setTimeout(() => ending.abort('enough'), 30);
    const wrong = [{ type: 'Feature', properties: {}, geometry: { type: 'Blob', coordinates: [] } }];
    const fault = await tileArchive({ features: wrong }).catch(({ code }: { code: string }) => code);
    return [most, archive.size && done, await gone, fault, liveCounts().workers - idle];
  });
  expect(tiles).toBeGreaterThan(100);
  expect([during, given, told, after]).toEqual([1, 'enough', 'geojson.form', 0]);
});

describe('flintwright publish', () => {
  test('one page opens from a disk, under a policy that lets it fetch nothing', async () => {
    const target = join(folder, 'reach.html');
    expect(await main(['publish', join(demo, 'chalk.sheet.json'), '-o', target], quiet)).toBe(0);
    const policy = /Content-Security-Policy" content="([^"]+)"/.exec(readFileSync(target, 'utf8'))![1];
    expect(policy).toMatch(
      /^default-src 'none'; script-src 'sha256-[^ ]+'; worker-src blob:; connect-src data: blob:; /,
    );
    const { page, asked, wrong } = await openAlone(pathToFileURL(target).href);
    expect([asked.length, wrong]).toEqual([1, []]);
    expect(await page.evaluate(() => window.map.labelTexts)).toContain('Hallow Quay');
    await page.close();
  });

  test('a folder opens from any host; tiles come by range', async () => {
    const target = join(folder, 'folder');
    expect(await main(['publish', join(demo, 'chalk.sheet.json'), '-o', target, '--title', 'A & B'], quiet)).toBe(0);
    const server = await serveFolder(target);
    try {
      const address = await server.listen({ port: 0, host: 'localhost' });
      const { page, asked, wrong } = await openAlone(`${address.replace('[::1]', 'localhost')}/`);
      expect(wrong).toEqual([]);
      expect(asked.every((url) => new URL(url).host === new URL(asked[0]).host)).toBe(true);
      expect(await page.title()).toBe('A & B');
      expect(await page.evaluate(() => window.map.labelTexts)).toContain('Hallow Quay');
      await page.close();
    } finally {
      await server.close();
    }
  });
});

test('a map whose data lies elsewhere tile by tile is not published; the place in the sheet is told', async () => {
  await openMap(stage, {
    sheet: 1,
    data: { far: { tiles: '/tiles/{z}/{x}/{y}.mvt' } },
    layers: [{ id: 'far', of: 'far/land', fill: '#fff' }],
  });
  stage.expected = /./;
  const fault = await stage.page.evaluate(async () => {
    try {
      await window.publishing.mapPage(window.map, { library: '/flintwright.js' });
      return undefined;
    } catch (error) {
      const { code, at, hint } = error as { code: string; at: string; hint: string };
      return { code, at, hint };
    }
  });
  expect(fault).toEqual({
    code: 'publish.outside',
    at: '$.data.far.tiles',
    hint: expect.stringContaining('tile archive'),
  });
});
