// What the browser tests share: a server for the built examples, a Chromium, a page with a map on it.
import { afterAll, afterEach, beforeAll, beforeEach, expect } from '@jest/globals';
import type { Browser, Page } from 'playwright-core';
import type { FlintMap, Sheet } from 'flintwright';
import type * as Library from 'flintwright';
import type * as Drawing from 'flintwright/draw';
import type * as Filing from 'flintwright/files';
import type * as Publishing from 'flintwright/publish';
import type * as Searching from 'flintwright/search';
import type {} from 'flintwright/element';

declare global {
  /** The Chromium of this worker; see scripts/browser-environment.mjs. */
  var openBrowser: () => Promise<Browser>;
  /** Serves the built examples; their address. */
  var serveExamples: () => Promise<string>;
  /** A page as new: that of the test before, where it can be made so. */
  var takePage: () => Promise<Page>;
  interface Window {
    flintwright: typeof Library;
    searching: typeof Searching;
    drawing: typeof Drawing;
    filing: typeof Filing;
    publishing: typeof Publishing;
    map: FlintMap;
    faults: { code: string; message: string; hint: string; at?: string }[];
  }
}

export interface Stage {
  readonly browser: Browser;
  readonly page: Page;
  /** Address of the built examples. */
  readonly base: string;
  /** Complaints of the page that a test brings about on purpose; none unless it says so. */
  expected: RegExp | undefined;
  /** Faults that the map wrote to the console. */
  written: string[];
}

/**
 * Sets a browser up for the tests of a file. Every test gets a page that is as new and may not complain. A page is taken for the next
 * test where it can be made so again: a new one costs a browser ten times as much as going to another address.
 */
export function useStage(): Stage {
  let complaints: string[] = [];
  let taken: Page;
  const stage = {} as { -readonly [K in keyof Stage]: Stage[K] };
  beforeAll(async () => {
    stage.base = await serveExamples();
    stage.browser = await openBrowser();
  });
  beforeEach(async () => {
    taken = stage.page = await takePage();
    complaints = [];
    stage.expected = undefined;
    stage.written = [];
    stage.page.on('pageerror', (error) => complaints.push(String(error)));
    stage.page.on('console', (message) => {
      const text = message.text();
      // Faults that nobody stopped; tests look at those of the map itself.
      if (text.startsWith('Flintwright, ')) stage.written.push(text);
      else if (message.type() === 'error' && !/Failed to load resource/.test(text)) complaints.push(text);
    });
  });
  afterEach(async () => {
    // A test may have put a page of its own here.
    if (stage.page !== taken) await stage.page.close();
    taken.removeAllListeners();
    expect(complaints.filter((text) => !stage.expected?.test(text))).toEqual([]);
  });
  afterAll(async () => {
    for (const context of stage.browser.contexts()) if (!context.pages().includes(taken)) await context.close();
  });
  return stage;
}

/** Opens the test page and makes a map on it, 800 by 600 pixels unless told otherwise; faults are gathered in `window.faults`. */
export async function openMap(
  { page, base }: Stage,
  sheet: Sheet | string,
  view: object = { center: [0, 0], zoom: 5 },
  options: object = {},
  size?: readonly [width: number, height: number],
): Promise<void> {
  await page.goto(`${base}/test/`);
  await page.waitForFunction(() => 'flintwright' in window);
  await page.evaluate(
    (given: unknown) => {
      const [sheet, view, options, size] = given as [Sheet, object, object, [number, number] | undefined];
      if (size)
        Object.assign(document.querySelector<HTMLElement>('#map')!.style, {
          width: `${size[0]}px`,
          height: `${size[1]}px`,
        });
      window.map = window.flintwright.createMap('#map', { sheet, view, notices: true, ...options });
      window.map.addEventListener('fault', (event) => window.faults.push((event as CustomEvent).detail));
    },
    [sheet, view, options, ...(size ? [size] : [])] as unknown,
  );
}

/** Puts another sheet in force. (Handed over untyped: a sheet's type is too deep for what the driver makes of it.) */
export const setSheet = ({ page }: Stage, sheet: Sheet): Promise<void> =>
  page.evaluate((given: unknown) => window.map.setSheet(given as Sheet), sheet as unknown);

export const settled = ({ page }: Stage) => page.evaluate(() => window.map.settled());
export const faultsOf = ({ page }: Stage) =>
  page.evaluate(() => window.faults.map(({ code, hint }) => ({ code, hint })));

interface Clip {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** A picture of the page once what was drawn last has been put on it: a busy machine may be two frames behind. */
async function shotOf(page: Page, clip?: Clip): Promise<Buffer> {
  await page.evaluate(async () => {
    const late = new Promise((done) => setTimeout(done, 200));
    const frame = () => new Promise((done) => requestAnimationFrame(done));
    await Promise.race([late, frame().then(frame)]);
  });
  return page.screenshot(clip ? { clip } : {});
}

/** The colors of all device pixels of a part of the page, in CSS pixels, or of all of it: four bytes each, row by row. */
export async function picture(
  { page }: Stage,
  clip?: Clip,
): Promise<{ width: number; height: number; rgba: Uint8Array }> {
  const shot = await shotOf(page, clip);
  const { width, height, text } = await page.evaluate(async (data) => {
    const bytes = Uint8Array.from(atob(data), (c) => c.charCodeAt(0));
    const image = await createImageBitmap(new Blob([bytes], { type: 'image/png' }));
    const { width, height } = image;
    const context = new OffscreenCanvas(width, height).getContext('2d')!;
    context.drawImage(image, 0, 0);
    const { data: rgba } = context.getImageData(0, 0, width, height);
    let text = '';
    for (let i = 0; i < rgba.length; i += 8192) text += String.fromCharCode(...rgba.subarray(i, i + 8192));
    return { width, height, text: btoa(text) };
  }, shot.toString('base64'));
  return { width, height, rgba: new Uint8Array(Buffer.from(text, 'base64')) };
}

/** The colors of some pixels as they are seen. */
export async function pixels({ page }: Stage, ...at: [number, number][]): Promise<[number, number, number][]> {
  const shot = await shotOf(page);
  return page.evaluate(
    async ([data, places]) => {
      const image = await createImageBitmap(
        new Blob([Uint8Array.from(atob(data), (c) => c.charCodeAt(0))], { type: 'image/png' }),
      );
      const context = new OffscreenCanvas(image.width, image.height).getContext('2d')!;
      context.drawImage(image, 0, 0);
      return places.map(([x, y]) => [...context.getImageData(x, y, 1, 1).data.slice(0, 3)] as [number, number, number]);
    },
    [shot.toString('base64'), at] as const,
  );
}

/** How many pixels are seen of each of some colors, to within a few steps. */
export async function countPixels({ page }: Stage, ...colors: [number, number, number][]): Promise<number[]> {
  const shot = await shotOf(page);
  return page.evaluate(
    async ([data, wanted]) => {
      const bytes = Uint8Array.from(atob(data), (c) => c.charCodeAt(0));
      const image = await createImageBitmap(new Blob([bytes], { type: 'image/png' }));
      const context = new OffscreenCanvas(image.width, image.height).getContext('2d')!;
      context.drawImage(image, 0, 0);
      const { data: rgba } = context.getImageData(0, 0, image.width, image.height);
      return wanted.map((color) => {
        let count = 0;
        for (let i = 0; i < rgba.length; i += 4) if (color.every((v, k) => Math.abs(rgba[i + k] - v) < 12)) count++;
        return count;
      });
    },
    [shot.toString('base64'), colors] as const,
  );
}

type Properties = Record<string, string | number | null>;
const feature = (type: string, coordinates: unknown, properties: Properties, id?: number) => ({
  type: 'Feature',
  ...(id === undefined ? {} : { id }),
  properties,
  geometry: { type, coordinates },
});

export const point = (lon: number, lat: number, properties: Properties = {}, id?: number) =>
  feature('Point', [lon, lat], properties, id);
export const line = (path: number[][], properties: Properties = {}, id?: number) =>
  feature('LineString', path, properties, id);
export const box = (west: number, south: number, size: number, properties: Properties = {}, id?: number) =>
  feature(
    'Polygon',
    [
      [
        [west, south],
        [west + size, south],
        [west + size, south + size],
        [west, south + size],
        [west, south],
      ],
    ],
    properties,
    id,
  );

export const collection = (...features: object[]) => ({ type: 'FeatureCollection', features });
