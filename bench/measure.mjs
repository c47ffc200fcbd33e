// What the measures share: rows of figures, two functions timed by turns, percentiles, and pages of the examples in a browser.
import { existsSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { serveFolder } from '@flintwright/cli';
import { chromium } from 'playwright-core';
import { chromiumOptions } from '../scripts/browser.mjs';
import setUp from '../scripts/test-setup.mjs';

export const root = join(dirname(fileURLToPath(import.meta.url)), '..');
export const data = join(root, 'demo/data');

/**
 * One figure.
 * @typedef {object} Figure
 * @property {string} name
 * @property {number} value
 * @property {'×' | 'ms' | 's' | 'kB' | 'MB' | 'MB/s' | ''} unit
 * @property {string} detail how it came about, in words
 * @property {number} [target] what it should not be above
 * @property {number} [limit] the most of a figure that noise cannot touch: bytes, calls, counts. `npm run bench -- --counts` fails above it
 */

/** Milliseconds that some calls of a function take. */
async function timeOf(work, calls) {
  const began = performance.now();
  for (let i = 0; i < calls; i++) await work();
  return performance.now() - began;
}

/** Warms a function until its time is steady, and returns how many calls take about 4 ms. */
async function warm(work) {
  const end = performance.now() + 400;
  let best = Infinity;
  for (let i = 0; i < 3 || performance.now() < end; i++) best = Math.min(best, await timeOf(work, 1));
  return Math.max(1, Math.round(4 / Math.max(best, 0.001)));
}

/**
 * Medians of two functions, in milliseconds per call. Both are warmed; then they run in alternating rounds, each first in half of them.
 *
 * @param subject the code that is measured
 * @param floor other code that does the same work with less, such as the bare loop
 * @param time milliseconds for all rounds together; default 1500
 * @throws Error if the floor is slower than the subject: it is no floor then, or the run was disturbed
 */
export async function versus(subject, floor, time = 1500) {
  const both = [subject, floor].map((work) => ({ work, calls: 1, times: [] }));
  for (const one of both) one.calls = await warm(one.work);
  const end = performance.now() + time;
  for (let round = 0; round < 9 || performance.now() < end; round++)
    for (const one of round % 2 ? both : both.toReversed())
      one.times.push((await timeOf(one.work, one.calls)) / one.calls);
  const [spent, least] = both.map(({ times }) => quantile(times, 0.5));
  if (least > spent * 1.05)
    throw new Error(
      `the floor takes ${ms(least)} and the code it measures ${ms(spent)}: the floor does other work, or the run was disturbed`,
    );
  return [spent, least];
}

/** Milliseconds as a text. */
export const ms = (value) => `${value.toFixed(value < 10 ? 2 : 1)} ms`;

/** The value below which so large a share of a list lies. */
export const quantile = (list, share) => list.toSorted((a, b) => a - b)[Math.floor(share * (list.length - 1))];

/** Milliseconds that a function takes. */
export function timed(work) {
  const began = performance.now();
  work();
  return performance.now() - began;
}

/**
 * Opens the built examples and the test page (at /test/) in a browser, or a folder that is `ready`; `use` gets the browser and the address.
 */
export async function inBrowser(use, { folder = join(root, 'examples/dist'), args = [], ready = false } = {}) {
  // The examples are built for production, once a run of the bench.
  if (!ready && (!process.env.FLINTWRIGHT_BENCH_BUILT || !existsSync(join(folder, 'test/index.html')))) await setUp();
  const server = await serveFolder(folder, { key: 'made-up-for-the-tests', openFiles: true });
  const address = await server.listen({ port: 0, host: 'localhost' });
  const browser = await chromium.launch({ ...chromiumOptions, args: [...chromiumOptions.args, ...args] });
  try {
    return await use(browser, address.replace('127.0.0.1', 'localhost').replace('[::1]', 'localhost'));
  } finally {
    await browser.close();
    await server.close();
  }
}

/**
 * To be run in a page before its own scripts: draws are cut down to no vertices, so that software WebGL keeps up as a graphics card would.
 * Counts draws, and boxes drawn by number, in `window.gpu`.
 */
export function cutDrawing() {
  const gpu = (window.gpu = { draws: 0, boxes: 0, calls: 0, bytes: 0 });
  const proto = WebGL2RenderingContext.prototype;
  // As lean as can be: what this costs is in every time that is taken.
  const { drawElements, drawArrays, drawArraysInstanced } = proto;
  proto.drawElements = function (mode, count, type, offset) {
    gpu.draws++;
    // Boxes drawn by number have indices of 16 bits, six a box; areas have longer ones.
    if (type === 0x1403) gpu.boxes += count / 6;
    drawElements.call(this, mode, 0, type, offset);
  };
  proto.drawArrays = function (mode, first) {
    gpu.draws++;
    drawArrays.call(this, mode, first, 0);
  };
  proto.drawArraysInstanced = function (mode, first, _count, instances) {
    gpu.draws++;
    gpu.boxes += instances;
    drawArraysInstanced.call(this, mode, first, 0, instances);
  };
}

/**
 * To be run in a page after {@link cutDrawing}, where nothing is timed: counts all calls of WebGL, and the bytes of buffers and textures, in
 * `window.gpu`.
 */
export function countCalls() {
  const { gpu } = window;
  const proto = WebGL2RenderingContext.prototype;
  const sizes = new WeakMap();
  // What is bound last at a target; to ask WebGL would hold everything up.
  const bound = new Map();
  const keep = (target, size) => {
    const object = bound.get(target);
    if (!object) return;
    gpu.bytes += size - (sizes.get(object) ?? 0);
    sizes.set(object, size);
  };
  const drop = (object) => {
    gpu.bytes -= sizes.get(object) ?? 0;
    sizes.delete(object);
  };
  const texelBytes = (format) =>
    ({
      [proto.RGBA32F]: 16,
      [proto.RGBA32UI]: 16,
      [proto.R8]: 1,
      [proto.ALPHA]: 1,
      [proto.LUMINANCE]: 1,
      [proto.RED]: 1,
      [proto.R32F]: 4,
      [proto.RGBA16F]: 8,
    })[format] ?? 4;
  const after = {
    bindBuffer: ([target, buffer]) => bound.set(target, buffer),
    bindTexture: ([target, texture]) => bound.set(target, texture),
    bufferData([target, from, , , length]) {
      const size =
        typeof from === 'number'
          ? from
          : length
            ? length * (from.BYTES_PER_ELEMENT ?? 1)
            : ((from && from.byteLength) ?? 0);
      keep(target, size);
    },
    texStorage2D: ([target, , format, width, height]) => keep(target, width * height * texelBytes(format)),
    texImage2D: ([target, , format, ...rest]) =>
      keep(
        target,
        rest.length > 4 ? rest[0] * rest[1] * texelBytes(format) : rest.at(-1).width * rest.at(-1).height * 4,
      ),
    deleteBuffer: ([object]) => drop(object),
    deleteTexture: ([object]) => drop(object),
  };
  for (const name of Object.getOwnPropertyNames(proto)) {
    const { value } = Object.getOwnPropertyDescriptor(proto, name);
    if (typeof value !== 'function' || name === 'constructor') continue;
    proto[name] = function (...args) {
      gpu.calls++;
      const answer = value.apply(this, args);
      after[name]?.(args);
      return answer;
    };
  }
}

/** Opens the harbour on a large page with drawing cut, and waits until all is there. Calls are counted where nothing is timed. */
export async function openHarbour(browser, base, { counting = false } = {}) {
  const context = await browser.newContext({ viewport: { width: 2560, height: 1700 } });
  await context.addInitScript(cutDrawing);
  if (counting) await context.addInitScript(countCalls);
  const page = await context.newPage();
  await page.goto(`${base}/harbour/?zoom=14.02&bare`);
  await page.waitForFunction(() => window.map?.settled);
  await page.evaluate(() => window.map.settled());
  return { context, page };
}
